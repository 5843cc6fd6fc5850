"""Children that work on a library beside this process: forked, so that hundreds of them can be killed within seconds.

SQLite forbids that a connection goes along into a child: fork before a library is opened here, and let the child go later.
"""

import os
import signal
import struct
import sys
import time
import traceback
from collections.abc import Callable

LONGEST_S = 120
DONE = struct.Struct("<q")
Work = Callable[[Callable[[int], object]], object]
"""Done in a child; it is handed what tells the parent a number that is done."""


class Child:
    """A child that waits until it is let go, and then works."""

    def __init__(self, work: Work) -> None:
        self.reading, writing = os.pipe()
        waiting, self.gate = os.pipe()
        self.number = os.fork()
        if self.number == 0:
            try:
                signal.alarm(LONGEST_S)  # where the parent fails before it lets the child go
                os.close(self.gate)
                if os.read(waiting, 1):
                    work(lambda number: os.write(writing, DONE.pack(number)))
            except BaseException:  # noqa: BLE001 - whatever it is, it is the child's end
                traceback.print_exc()  # pytest shows it beside the test that waits in vain for what this child is to tell
                sys.stderr.flush()
            finally:
                os._exit(0)
        os.close(writing)
        os.close(waiting)

    def go(self) -> "Child":
        """Lets it work."""
        os.write(self.gate, b"!")
        os.close(self.gate)
        return self

    def kill(self, after_s: float) -> list[int]:
        """Kills it after a while; the numbers that it had said were done."""
        time.sleep(after_s)
        os.kill(self.number, signal.SIGKILL)
        return self.ended()

    def ended(self) -> list[int]:
        """Waits for it; the numbers that it said were done."""
        told = b""
        while piece := os.read(self.reading, 65536):
            told += piece
        os.close(self.reading)
        os.waitpid(self.number, 0)
        return [number for (number,) in DONE.iter_unpack(told[: len(told) // DONE.size * DONE.size])]
