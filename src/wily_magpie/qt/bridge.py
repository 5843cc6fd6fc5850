"""From the core's threads to Qt's: events become signals, results of questions come back on the main thread."""

from collections.abc import Callable
from concurrent.futures import Future
from typing import Any, TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

from wily_magpie.core.errors import BugError, MagpieError
from wily_magpie.core.session.events import (
    EntriesChanged,
    Event,
    HistoryChanged,
    JobChanged,
    PicturesKept,
    PlacesChanged,
    TemplatesChanged,
)
from wily_magpie.core.session.jobs import Cancelled, Job
from wily_magpie.core.session.session import Session

T = TypeVar("T")


class Bridge(QObject):
    """The only subscriber to a session's events on this side."""

    entries_changed = pyqtSignal(str, tuple)
    places_changed = pyqtSignal()
    history_changed = pyqtSignal()
    job_changed = pyqtSignal(int)
    pictures_kept = pyqtSignal(str)
    templates_changed = pyqtSignal()
    returned = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.is_open = True
        self.returned.connect(self._on_returned)
        session.subscribe(self.tell)

    def close(self) -> None:
        """Lets nothing more through."""
        self.is_open = False

    def tell(self, event: Event) -> None:
        """An event as a signal; called on any thread."""
        if not self.is_open:
            return
        match event:
            case EntriesChanged(place, ids):
                self.entries_changed.emit(place, ids)
            case PlacesChanged():
                self.places_changed.emit()
            case HistoryChanged():
                self.history_changed.emit()
            case JobChanged(number):
                self.job_changed.emit(number)
            case PicturesKept(place):
                self.pictures_kept.emit(place)
            case TemplatesChanged():
                self.templates_changed.emit()

    def ask(
        self, work: Callable[[], T], done: Callable[[T], None], failed: Callable[[MagpieError], None] | None = None
    ) -> None:
        """Does short work off the main thread; `done` or `failed` is called on the main thread."""
        future = self.session.jobs.pool.submit(work)
        future.add_done_callback(lambda ended: self.hand_over(ended, done, failed))

    def start(
        self,
        label: str,
        work: Callable[[Job], Any],
        done: Callable[[Any], None] | None = None,
        failed: Callable[[MagpieError], None] | None = None,
    ) -> Job:
        """Starts long work, which shows in the tray."""
        job = self.session.jobs.start(label, work)
        job.future.add_done_callback(lambda ended: self.hand_over(ended, done, failed))
        return job

    def hand_over(
        self, ended: "Future[Any]", done: Callable[[Any], None] | None, failed: Callable[[MagpieError], None] | None
    ) -> None:
        if not self.is_open or ended.cancelled():
            return
        error = ended.exception()
        if error is None:
            self.returned.emit((done, ended.result()))
        elif not isinstance(error, Cancelled):
            told = (
                error
                if isinstance(error, MagpieError)
                else BugError("bug", f"Something failed: {error!r}", "Please report it.")
            )
            self.returned.emit((failed, told))

    def _on_returned(self, pair: tuple[Callable[[Any], None] | None, Any]) -> None:
        callback, value = pair
        if callback is not None and self.is_open:
            callback(value)
