"""Long work and the lanes that it runs on: one for changes, several for questions, several for what waits for the network."""

import itertools
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from enum import StrEnum
from typing import Any, TypeVar

from wily_magpie.core.commands.command import Progress
from wily_magpie.core.errors import BugError, MagpieError
from wily_magpie.core.faults import logger

READERS, WORKERS = 4, 8
TURN_S = 0.001
"""How long one thread may hold Python for itself while others wait; as usual it is five times as long."""
SHARE_S, GIVE_WAY_S = 0.005, 0.001
"""After so much work a job gives way for so long."""
T = TypeVar("T")
log = logger(__name__)


class Cancelled(Exception):
    """A job that was asked to stop, stopped."""


class State(StrEnum):
    """How far a job is."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


class Job(Progress):
    """One piece of long work.

    Attributes:
        done, total: its progress; total 0 where it is not known.
        error: why it failed.
        is_settled: whether it is past cancelling: what it does is being committed, or is.
        came_too_late: whether it was asked to stop when it was settled already.
    """

    def __init__(self, number: int, label: str, work: Callable[["Job"], Any], changed: Callable[["Job"], None]) -> None:
        self.number = number
        self.label = label
        self.work = work
        self.changed = changed
        self.state = State.WAITING
        self.done = 0
        self.total = 0
        self.error: MagpieError | None = None
        self.future: Future[Any] = Future()
        self.is_asked_to_stop = self.is_settled = self.came_too_late = False
        self.lock = threading.Lock()
        self.gave_way = 0.0

    @property
    def is_over(self) -> bool:
        return self.state in (State.DONE, State.FAILED, State.CANCELLED)

    def cancel(self) -> bool:
        """Asks it to stop at its next step; False where it is past that."""
        with self.lock:
            if self.is_settled or self.is_over:
                self.came_too_late = True
            else:
                self.is_asked_to_stop = True
        self.changed(self)
        return not self.came_too_late

    def is_cancelled(self) -> bool:
        """For work that asks in its own rhythm."""
        return self.is_asked_to_stop

    def tick(self, done: int, total: int) -> None:
        """Reports progress, and is where a job stops when it was asked to.

        Raises:
            Cancelled: it was.
        """
        if self.is_asked_to_stop:
            raise Cancelled
        self.done, self.total = done, total
        self.changed(self)
        self.give_way()

    def give_way(self) -> None:
        """Lets other threads go on, now and then.

        A thread that is asked for Python's lock gives it up in the midst of its share of the processor, and may be slow to
        be set aside: a window that is painted asks dozens of times, and halted for a tenth of a second and more.
        """
        if time.perf_counter() - self.gave_way > SHARE_S:
            time.sleep(GIVE_WAY_S)
            self.gave_way = time.perf_counter()

    def close(self) -> None:
        """From here on it cannot be cancelled any more.

        Raises:
            Cancelled: it was, in time.
        """
        with self.lock:
            if self.is_asked_to_stop:
                raise Cancelled
            self.is_settled = True

    def run(self) -> None:
        """Does the work; never raises."""
        try:
            self.tick(0, 0)
            self.state = State.RUNNING
            self.changed(self)
            result = self.work(self)
            self.state = State.DONE
            self.future.set_result(result)
        except Cancelled as error:
            self.end(State.CANCELLED, None, error)
        except MagpieError as error:
            self.end(State.CANCELLED if error.slug == "cancelled" else State.FAILED, error, error)
        except Exception as error:
            log.exception("job %s failed", self.label)
            fault = BugError("bug", f"{self.label} failed: {error!r}", "Please report it; nothing was lost.")
            self.end(State.FAILED, fault, fault)
        self.changed(self)

    def end(self, state: State, error: MagpieError | None, told: BaseException) -> None:
        """Ends without a result."""
        self.state, self.error = state, error
        self.future.set_exception(told)


class Lanes:
    """The threads of a session. Whatever is slow in one lane delays nothing in another.

    Attributes:
        indexer: reads notes folders. words: brings in step what search and filing look in, which takes longer than that.
        files: writes what is the person's own, such as settings, one after another as it was asked for.
    """

    def __init__(self) -> None:
        sys.setswitchinterval(TURN_S)  # the interface's thread takes its turn soon, whatever goes on beside it
        self.writer = ThreadPoolExecutor(1, "writer")
        self.readers = ThreadPoolExecutor(READERS, "reader")
        self.workers = ThreadPoolExecutor(WORKERS, "worker")
        self.indexer = ThreadPoolExecutor(1, "indexer")
        self.words = ThreadPoolExecutor(1, "words")
        self.files = ThreadPoolExecutor(1, "files")

    def close(self) -> None:
        """Waits for what is going on; what waits is given up, but for changes, which are done."""
        self.readers.shutdown(wait=True, cancel_futures=True)
        self.workers.shutdown(wait=True, cancel_futures=True)
        self.indexer.shutdown(wait=True, cancel_futures=True)
        self.words.shutdown(wait=True, cancel_futures=True)
        self.writer.shutdown(wait=True)
        self.files.shutdown(wait=True)


class Jobs:
    """The jobs of a session, in the order of their start."""

    def __init__(self, changed: Callable[[int], None]) -> None:
        self.numbers = itertools.count(1)
        self.all: dict[int, Job] = {}
        self.lanes: dict[int, ThreadPoolExecutor] = {}
        self.changed = changed

    def start(self, label: str, work: Callable[[Job], Any], lane: ThreadPoolExecutor) -> Job:
        """Starts a piece of work on a lane."""
        job = self.made(label, work, lane)
        lane.submit(job.run)
        return job

    def run(self, label: str, work: Callable[[Job], Any], lane: ThreadPoolExecutor) -> None:
        """Does a piece of work at once, by a lane's own thread."""
        self.made(label, work, lane).run()

    def made(self, label: str, work: Callable[[Job], Any], lane: ThreadPoolExecutor) -> Job:
        """One more, not begun yet."""
        job = Job(next(self.numbers), label, work, lambda job: self.changed(job.number))
        self.all[job.number], self.lanes[job.number] = job, lane
        return job

    def retry(self, number: int) -> Job:
        """Starts a job that ended once more, as a new one."""
        job, lane = self.all.pop(number), self.lanes.pop(number)
        return self.start(job.label, job.work, lane)

    def dismiss(self, number: int) -> None:
        """Forgets a job that ended."""
        if number in self.all and self.all[number].is_over:
            del self.all[number], self.lanes[number]

    def close(self) -> None:
        """Asks all to stop."""
        for job in list(self.all.values()):
            job.cancel()
