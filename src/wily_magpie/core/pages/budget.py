"""How much time of the processor reading a page may take, and how what takes longer is stopped in its midst."""

import ctypes
import threading
import time
from collections.abc import Callable
from typing import TypeVar

LIMIT_S = 7.5
"""With what is done after it, reading takes ten at most; then the process that reads is ended (`apart`)."""
FOR_LIBRARIES, FOR_BLOCKS = 0.7, 0.8
"""The shares of the time after which libraries are stopped, and no more blocks are written down; the rest is for the end."""
AGAIN_S = 0.25
"""How much work is let do that is begun late; and after how much more a library that catches everything is told to stop again."""
SOONEST_S = 0.01
"""How often a watch looks at most."""
STEPS = 3
"""More than Python takes to look whether something has arrived."""
T = TypeVar("T")


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

    def within(self, work: Callable[[], T], share: float = FOR_LIBRARIES) -> T | None:
        """Does some work, and stops it once that share of the time is spent; what it changed until then stays.

        Only work in Python can be stopped; a call into C is let end first. The exception arrives at any step of this thread, also at
        the first of a function that is called: so all that happens here while a watch may send stands in one `try`, in this frame.

        Returns:
            What the work gives; None where it was stopped.
        """
        watch, done = Watch(max(self.begun_s + share * self.limit_s, time.thread_time() + AGAIN_S)), None
        try:
            try:
                watch.thread.start()
                done = work()
            except OutOfTime:
                self.has_cut = True
        finally:
            while not watch.has_ended:
                try:
                    watch.end()
                except OutOfTime:  # one that was sent at the last moment: it is ended anew
                    self.has_cut = True
        return done


class Watch:
    """Raises OutOfTime in the thread that made it, once that has used so much of the processor, and again after each `AGAIN_S`."""

    def __init__(self, end_s: float) -> None:
        self.ident = threading.get_ident()
        self.clock = time.pthread_getcpuclockid(self.ident)
        self.next_s = end_s
        self.is_over = threading.Event()
        self.thread = threading.Thread(target=self.run, name="reading in time", daemon=True)
        self.has_ended = False

    def run(self) -> None:
        """Sends a second one only after more work, not after a while: so none comes between a first and the ending."""
        while not self.is_over.wait(max(SOONEST_S, self.next_s - time.clock_gettime(self.clock))):
            if time.clock_gettime(self.clock) > self.next_s:
                self.send()
                self.next_s = time.clock_gettime(self.clock) + AGAIN_S

    def send(self) -> None:
        """Raises it in the thread at its next step."""
        ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(self.ident), ctypes.py_object(OutOfTime))

    def end(self) -> None:
        """Once this has returned, nothing is raised any more.

        What was sent and has not arrived is let arrive here. To take it back would leave Python looking for it at every step ever
        after, and a debugger's trace in an endless loop (CPython 3.11).
        """
        self.is_over.set()
        if self.thread.ident is not None:
            self.thread.join()
        for _ in range(STEPS):
            pass
        self.has_ended = True
