"""A watch over the process that draws the live page: it is ended before it takes the memory that the machine needs."""

import os
import signal
import threading
from contextlib import suppress
from pathlib import Path

MOST_BYTES = 2_000_000_000
LOOK_S = 0.25


class RendererWatch:
    """Looks at one process now and then, from a thread of its own.

    Attributes:
        reason: why it was ended, in words; "" where it was not.
    """

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self.most_bytes = most_bytes
        self.pid = self.ended = 0
        self.reason = ""
        self.is_over = threading.Event()
        self.thread = threading.Thread(target=self.run, name="renderer watch", daemon=True)
        self.thread.start()

    def look_at(self, pid: int) -> None:
        """This process draws the page now; 0: none does."""
        if pid not in (self.pid, self.ended):
            self.pid, self.reason = pid, ""

    def end(self, reason: str) -> None:
        """Ends the process."""
        pid, self.pid = self.pid, 0
        if pid > 0:
            self.reason, self.ended = reason, pid
            with suppress(OSError):
                os.kill(pid, signal.SIGKILL)

    def close(self) -> None:
        """Looks at nothing any more."""
        self.is_over.set()
        self.thread.join()

    def run(self) -> None:
        """Until it is closed."""
        while not self.is_over.wait(LOOK_S):
            if self.pid > 0 and memory_of(self.pid) > self.most_bytes:
                self.end(f"It took more than {self.most_bytes // 1_000_000_000} GB of memory, and was ended.")


def memory_of(pid: int) -> int:
    """The bytes of memory that a process holds; 0 where it is gone."""
    try:
        pages = Path(f"/proc/{pid}/statm").read_text("ascii").split()[1]
    except (OSError, IndexError):
        return 0
    return int(pages) * os.sysconf("SC_PAGE_SIZE")
