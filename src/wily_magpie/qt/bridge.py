"""The only way from a widget to the core: questions, commands and long work go off the thread, events come back as signals."""

from collections.abc import Callable, Sequence
from concurrent.futures import Future
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

from wily_magpie.core.commands.command import Command, Noted
from wily_magpie.core.errors import BugError, MagpieError
from wily_magpie.core.events import (
    Changed,
    DraftsChanged,
    Event,
    JobChanged,
    KeptOutside,
    ListsChanged,
    ListsLeft,
    NotesComing,
    NotesRead,
    OutOfStep,
    Overview,
    OverviewChanged,
    PicturesKept,
    PicturesMissing,
)
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.session.jobs import Cancelled, Job
from wily_magpie.core.session.session import Session

if TYPE_CHECKING:
    from wily_magpie.core.capture.run import CaptureRun, Counter
    from wily_magpie.core.entries.capture_list import CaptureList

T = TypeVar("T")
NOT_COUNTED = (0, 0)
"""Said of a folder whose files are being looked at: how many are to be read is not known yet."""


class Bridge(QObject):
    """The only subscriber to a session's events on this side.

    Attributes:
        overview: what there is; always at hand, and true as of the last event.
        complain: told of what failed where nobody else wants to know.
        coming: of notes folders that are being read, how many files of how many are.
        last_step: of the command whose `done` is being called: the number of the step that it was; 0 where nothing was changed.
    """

    entries_changed = pyqtSignal(str, tuple)
    notes_coming = pyqtSignal(str)
    places_changed = pyqtSignal()
    history_changed = pyqtSignal()
    job_changed = pyqtSignal(int)
    pictures_kept = pyqtSignal(str)
    templates_changed = pyqtSignal()
    settings_changed = pyqtSignal()
    drafts_changed = pyqtSignal()
    kept_outside = pyqtSignal(object, str)
    lists_changed = pyqtSignal(int, tuple)
    words_indexed = pyqtSignal()
    lists_left = pyqtSignal(object)
    out_of_step = pyqtSignal(object)
    told = pyqtSignal(object)
    returned = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.is_open = True
        self.overview: Overview = session.overview
        self.complain: Callable[[MagpieError], None] = lambda _error: None
        self.last_step = 0
        self.list_jobs: dict[int, Job] = {}
        self.coming: dict[str, tuple[int, int]] = {}
        self.returned.connect(self._on_returned)
        self.told.connect(self._on_told)
        session.subscribe(self.tell)

    def close(self) -> None:
        """Lets nothing more through."""
        self.is_open = False

    # to the core

    def ask(
        self,
        query: Callable[[Reader], T],
        done: Callable[[T], object],
        failed: Callable[[MagpieError], object] | None = None,
    ) -> None:
        """Asks; `done` or `failed` is called on the main thread."""
        if self.is_open:
            self._session.ask(query).add_done_callback(lambda ended: self.hand_over(ended, done, failed))

    def do(
        self,
        command: Command[T],
        done: Callable[[T], object] | None = None,
        failed: Callable[[MagpieError], object] | None = None,
    ) -> None:
        """Changes something, when its turn comes; as above."""
        self._session.submit(Noted(command)).add_done_callback(lambda ended: self.hand_over_change(ended, done, failed))

    def write(
        self,
        work: Callable[[], T],
        done: Callable[[T], object] | None = None,
        failed: Callable[[MagpieError], object] | None = None,
    ) -> None:
        """Reads and writes files of the person's own, one after another as asked for, also where the window closes meanwhile."""
        self._session.lanes.files.submit(work).add_done_callback(lambda ended: self.hand_over(ended, done, failed))

    def start_command(
        self,
        command: Command[T],
        done: Callable[[T], object] | None = None,
        failed: Callable[[MagpieError], object] | None = None,
    ) -> None:
        """Changes something that takes its time: it shows in the tray, and can be cancelled until it is committed."""
        self.ask(
            lambda _reader: self._session.start_command(Noted(command)),
            lambda job: job.future.add_done_callback(lambda ended: self.hand_over_change(ended, done, failed)),
        )

    def start(
        self,
        label: str,
        work: "Callable[[Counter, Job], T]",
        done: Callable[[T], object] | None = None,
        failed: Callable[[MagpieError], object] | None = None,
    ) -> Job:
        """Starts long work, which shows in the tray."""
        session = self._session
        job = session.start(label, lambda job: work(session, job))
        job.future.add_done_callback(lambda ended: self.hand_over(ended, done, failed))
        return job

    def work(
        self,
        work: "Callable[[CaptureRun], T]",
        done: Callable[[T], object],
        failed: Callable[[MagpieError], object] | None = None,
    ) -> None:
        """Does work that may wait for the network, or takes the processor for a while, without showing it in the tray."""
        if not self.is_open:
            return
        from wily_magpie.core.capture.run import CaptureRun  # not at a start

        run = CaptureRun(self._session)
        self._session.lanes.workers.submit(work, run).add_done_callback(
            lambda ended: self.hand_over(ended, done, failed)
        )

    def start_list(self, number: int, done: Callable[[int], object] | None = None) -> None:
        """Captures what waits in a list, in the tray; `done` is told its number at the end."""

        def begin(found: "CaptureList | None") -> None:
            if found is None or self.is_list_going(number):
                return
            from wily_magpie.core.capture.many import ListRun  # not at a start

            def work(counter: "Counter", job: Job) -> None:
                told = lambda item: self.tell(ListsChanged(number, (item,)))  # noqa: E731
                ListRun(counter, number, found.wanted, job, job.is_cancelled, told).run()

            ended = done or (lambda _number: None)
            self.list_jobs[number] = self.start(found.label, work, lambda _none: ended(number))

        self.ask(lambda reader: reader.lists.find(number), begin)

    def start_engine(self, number: int) -> None:
        """Keeps the pages of a list that need the web engine, in the tray."""

        def begin(found: "CaptureList | None") -> None:
            if found is None or self.is_list_going(number):
                return
            from wily_magpie.core.capture.engine import keep_by_engine  # as above

            label = f"{found.label}, as a browser sees it"
            self.list_jobs[number] = self.start(
                label, lambda counter, job: keep_by_engine(counter, number, found.wanted, job)
            )

        self.ask(lambda reader: reader.lists.find(number), begin)

    def is_list_going(self, number: int) -> bool:
        """Whether a list is being worked at."""
        return number in self.list_jobs and not self.list_jobs[number].is_over

    def stop_list(self, number: int) -> None:
        """Stops a list; what is kept of it stays, and it can go on later."""
        if number in self.list_jobs:
            self.list_jobs[number].cancel()

    def index_notes(self, key: str | None = None) -> None:
        """Brings the indexes of notes folders in step with their files, in the background."""
        place = self.overview.find_place(key) if key is not None else None
        if not self.is_open or (place is not None and place.is_strange):
            return
        if key is not None:
            self.coming.setdefault(key, NOT_COUNTED)

        def failed(error: MagpieError) -> None:
            self._on_looked(key)
            self.complain(error)

        looked = self._session.index_notes(key)
        looked.add_done_callback(lambda ended: self.hand_over(ended, lambda _count: self._on_looked(key), failed))

    def still_read(self, key: str = "") -> str:
        """What is still missing of an answer since notes are being read, in words; "" where nothing is. key "": of any place."""
        counted = {one for one, far in self.coming.items() if far != NOT_COUNTED and key in ("", one)}
        places = [place for place in self.overview.places if place.key in counted]
        said = "In {}, {:,} of {:,} notes are read so far."
        return " ".join(said.format(place.name, *self.coming[place.key]) for place in places)

    def _on_looked(self, key: str | None) -> None:
        """A folder was looked at, in which few files had changed, or none."""
        if key is not None and self.coming.get(key) == NOT_COUNTED:
            del self.coming[key]
            self.notes_coming.emit(key)

    def index_entries(self, key: str | None = None, ids: Sequence[int] | None = None) -> None:
        """Brings what search looks in and what filing is reckoned from in step with the entries, in the background."""
        if self.is_open:
            told = lambda _none: self.words_indexed.emit()  # noqa: E731
            self._session.index_entries(key, ids).add_done_callback(lambda ended: self.hand_over(ended, told, None))

    @property
    def folder(self) -> Path:
        """The library's."""
        return self._session.folder

    def jobs(self) -> list[Job]:
        """The jobs, in the order of their start."""
        return list(self._session.jobs.all.values())

    def retry(self, number: int) -> None:
        """Starts a job that ended once more."""
        self._session.jobs.retry(number)

    def dismiss(self, number: int) -> None:
        """Forgets a job that ended."""
        self._session.jobs.dismiss(number)

    # from the core

    def tell(self, event: Event) -> None:
        """An event, from whichever thread."""
        if self.is_open:
            self.told.emit(event)

    def _on_told(self, event: Event) -> None:
        match event:
            case OverviewChanged(overview):
                self.take_over(overview)
            case Changed():
                self.tell_change(event)
            case NotesRead(place):
                self.entries_changed.emit(place, ())
            case NotesComing():
                self.tell_coming(event)
            case JobChanged(number):
                self.job_changed.emit(number)
            case PicturesKept(place):
                self.pictures_kept.emit(place)
                if not place:
                    self.drafts_changed.emit()  # what other processes do that is no step
            case DraftsChanged():
                self.drafts_changed.emit()
            case _:
                self.tell_outside(event)

    def tell_coming(self, event: NotesComing) -> None:
        """Notes of a folder are being read: what is there of them is shown."""
        if event.done == event.total:
            self.coming.pop(event.place, None)
        else:
            self.coming[event.place] = (event.done, event.total)
        self.notes_coming.emit(event.place)

    def tell_outside(self, event: Event) -> None:
        """Lists go on, and things are kept, without anybody at the window."""
        match event:
            case ListsChanged(number, items):
                self.lists_changed.emit(number, items)
            case KeptOutside(kept, by):
                self.kept_outside.emit(kept, by)
            case PicturesMissing(error):
                self.complain(error)
            case ListsLeft():
                self.lists_left.emit(event)
            case OutOfStep():
                self.out_of_step.emit(event)

    def tell_change(self, event: Changed) -> None:
        """A step was done: whoever shows what it changed is told."""
        if event.is_of_templates:
            self.templates_changed.emit()
        for place, ids in event.entries.items():
            self.entries_changed.emit(place, tuple(ids))

    def take_over(self, overview: Overview) -> None:
        """Another overview: whoever shows a part of it that is another one now is told."""
        before, self.overview = self.overview, overview
        if (before.places, before.views) != (overview.places, overview.views):
            self.places_changed.emit()
        if before.settings != overview.settings:
            self.settings_changed.emit()
        self.history_changed.emit()

    def hand_over_change(
        self,
        ended: "Future[tuple[T, int]]",
        done: Callable[[T], object] | None,
        failed: Callable[[MagpieError], object] | None,
    ) -> None:
        """A command has ended: whoever is told can ask, meanwhile, which step it was."""

        def tell(told: tuple[T, int]) -> None:
            result, self.last_step = told
            try:
                if done is not None:
                    done(result)
            finally:
                self.last_step = 0

        self.hand_over(ended, tell, failed)

    def hand_over(
        self, ended: "Future[Any]", done: Callable[[Any], object] | None, failed: Callable[[MagpieError], object] | None
    ) -> None:
        """What was asked or done has ended; called on the thread that it ended on."""
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
            self.returned.emit((failed or self.complain, told))

    def _on_returned(self, ended: tuple[Callable[[Any], object] | None, Any]) -> None:
        act, value = ended
        if act is not None and self.is_open:
            act(value)
