"""How much time of the processor reading a page may take, and how what takes longer is stopped in its midst."""

import ctypes
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

LIMIT_S = 7.5
"""With what is done after it, reading takes ten at most; then the process that reads is ended (`apart`)."""
FOR_LIBRARIES, FOR_BLOCKS = 0.7, 0.8
"""The shares of the time after which libraries are stopped, and no more blocks are written down; the rest is for the end."""
AGAIN_S = 0.25
"""How often a library that catches everything is told to stop."""


class OutOfTime(BaseException):
    """Raised in the midst of work that takes too long; not an Exception, since libraries catch those."""


class Budget:
    """What is still to do when the time is spent is left undone, and said. For one thread.

    Args:
        limit_s: seconds of the processor, of the thread that made it.
    """

    def __init__(self, limit_s: float = LIMIT_S) -> None:
        self.limit_s = limit_s
        self.begun_s = time.thread_time()
        self.has_cut = False
        """Whether something was left undone for want of time."""

    def is_spent(self, share: float = 1.0) -> bool:
        """Whether no more should be begun; whoever asks leaves it undone then."""
        is_over = time.thread_time() - self.begun_s > share * self.limit_s
        self.has_cut |= is_over
        return is_over

    @contextmanager
    def stopping(self, share: float = FOR_LIBRARIES) -> Iterator[None]:
        """Stops what is done within it once that share of the time is spent; what was made until then stays.

        Only work in Python can be stopped; a call into C is let end first.
        """
        ident = threading.get_ident()
        clock = time.pthread_getcpuclockid(ident)
        end_s = self.begun_s + share * self.limit_s
        is_done = threading.Event()

        def watch() -> None:
            while not is_done.wait(max(AGAIN_S, end_s - time.clock_gettime(clock))):
                if time.clock_gettime(clock) > end_s:
                    ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(ident), ctypes.py_object(OutOfTime))

        watcher = threading.Thread(target=watch, name="reading in time", daemon=True)
        watcher.start()
        try:
            try:
                yield
            finally:
                is_done.set()
                watcher.join()
                for _ in range(8):  # one that was sent at the last moment arrives here
                    pass
        except OutOfTime:
            self.has_cut = True
