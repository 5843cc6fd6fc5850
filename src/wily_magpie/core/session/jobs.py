"""Long work: plain functions on threads, with progress, cancel and retry."""

import itertools
import logging
import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from enum import StrEnum
from typing import Any

from wily_magpie.core.errors import BugError, MagpieError

LANES = 3
log = logging.getLogger(__name__)


class Cancelled(Exception):
    """A job that was asked to stop, stopped."""


class State(StrEnum):
    """How far a job is."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


class Job:
    """One piece of long work.

    Attributes:
        done, total: its progress; total 0 where it is not known.
        error: why it failed.
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
        self.stop = threading.Event()

    @property
    def is_over(self) -> bool:
        return self.state in (State.DONE, State.FAILED, State.CANCELLED)

    def cancel(self) -> None:
        """Asks it to stop at its next step."""
        self.stop.set()

    def is_cancelled(self) -> bool:
        """For work that asks in its own rhythm."""
        return self.stop.is_set()

    def step(self, done: int, total: int) -> None:
        """Reports progress, and is where a job stops when it was asked to.

        Raises:
            Cancelled: it was.
        """
        if self.stop.is_set():
            raise Cancelled
        self.done, self.total = done, total
        self.changed(self)

    def run(self) -> None:
        """Does the work; never raises."""
        try:
            self.step(0, 0)
            self.state = State.RUNNING
            self.changed(self)
            result = self.work(self)
            if self.stop.is_set():
                raise Cancelled
            self.state = State.DONE
            self.future.set_result(result)
        except Cancelled as error:
            self.state = State.CANCELLED
            self.future.set_exception(error)
        except MagpieError as error:
            self.state = State.CANCELLED if error.slug == "cancelled" else State.FAILED
            self.error = error
            self.future.set_exception(error)
        except Exception as error:
            log.exception("job %s failed", self.label)
            self.state = State.FAILED
            self.error = BugError("bug", f"{self.label} failed: {error!r}", "Please report it; nothing was lost.")
            self.future.set_exception(self.error)
        self.changed(self)


class Jobs:
    """The jobs of a session, in the order of their start."""

    def __init__(self, changed: Callable[[int], None]) -> None:
        self.pool = ThreadPoolExecutor(LANES, thread_name_prefix="job")
        self.numbers = itertools.count(1)
        self.all: dict[int, Job] = {}
        self.changed = changed

    def start(self, label: str, work: Callable[[Job], Any]) -> Job:
        """Starts a piece of work."""
        job = Job(next(self.numbers), label, work, lambda job: self.changed(job.number))
        self.all[job.number] = job
        self.pool.submit(job.run)
        return job

    def retry(self, number: int) -> Job:
        """Starts a job that ended once more, as a new one."""
        job = self.all.pop(number)
        return self.start(job.label, job.work)

    def dismiss(self, number: int) -> None:
        """Forgets a job that ended."""
        if number in self.all and self.all[number].is_over:
            del self.all[number]

    def close(self) -> None:
        """Asks all to stop and waits for them."""
        for job in self.all.values():
            job.cancel()
        self.pool.shutdown(wait=True, cancel_futures=True)
