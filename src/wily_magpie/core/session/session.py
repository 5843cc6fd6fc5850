"""The session: one open library, and the one counter at which it is asked and changed.

Whatever changes something is a command: done on one lane, one after another, each one step, each told by one event. What
asks is given a reader, which cannot write.
"""

import threading
from collections.abc import Callable, Sequence
from concurrent.futures import Future
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from wily_magpie.core.commands.command import UNWATCHED, Command, Progress
from wily_magpie.core.errors import EnvironmentFailure, FileChanging, MagpieError
from wily_magpie.core.events import Event, JobChanged, Overview, OverviewChanged, PicturesKept
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.places.history import Seen
from wily_magpie.core.places.library import arriving
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.session.jobs import Job, Jobs, Lanes
from wily_magpie.core.session.neighbours import Neighbours
from wily_magpie.core.session.news import changed_by
from wily_magpie.core.session.notes_reading import NotesReading
from wily_magpie.core.settings.known import MOST_STEPS, number_of

if TYPE_CHECKING:
    from wily_magpie.core.session.filling import Filling

T = TypeVar("T")
MOST_TRIES = 5
"""Of a command that changes a note which another program writes at the same moment."""


def usual_seed(library: Library) -> None:
    """What a new library begins with."""
    from wily_magpie.core.session.seed import seed  # most libraries are there already

    seed(library)


class Session:
    """Events are published on the thread that makes the change they tell of.

    Args:
        folder: the library's; made where there is none.
        seed: puts what a new library begins with into it.
        is_read_only: only looks.
        origin: who does its steps: "window", "shell".
    """

    def __init__(
        self,
        folder: Path,
        fetcher: Fetcher,
        seed: Callable[[Library], None] = usual_seed,
        *,
        is_read_only: bool = False,
        origin: str = "window",
    ) -> None:
        self.folder = folder
        self.fetcher = fetcher
        self._library = Library(folder, seed, is_read_only=is_read_only, origin=origin)
        if not is_read_only:
            arriving.drop_abandoned(self._library)
        self.told = self._library.told
        """What is to be said of how the library was found, such as changes that are lost."""
        self.reader = Reader(self._library)
        self.listeners: list[Callable[[Event], None]] = []
        self.lanes = Lanes()
        self.is_closing = False
        self.jobs = Jobs(lambda number: self.publish(JobChanged(number)))
        self.notes = NotesReading(self._library, self.publish, self.fields_may_be_others, self.jobs, self.lanes.indexer)
        self.looking = threading.RLock()
        self.seen, self.overview = Seen(), Overview(is_read_only=is_read_only)
        with suppress(EnvironmentFailure):  # of a damaged library, what can still be asked for is
            self.seen = self._library.history.news(self.seen)[1]
            self.overview = self.reader.overview()
        self.take_over_settings()
        self.neighbours: Neighbours | None = None
        self.filling: Filling | None = None

    def close(self) -> None:
        """Stops the jobs, does the changes that still wait, and closes the library."""
        if self.neighbours is not None:
            self.neighbours.close()
        self.is_closing = True
        if self.filling is not None:
            self.filling.close()
        self.jobs.close()
        self.lanes.close()
        self._library.close()

    # telling

    def subscribe(self, listener: Callable[[Event], None]) -> None:
        """Has every later event told to a function, on whichever thread it happens."""
        self.listeners.append(listener)

    def publish(self, *events: Event) -> None:
        """Tells events."""
        for event in events:
            for listener in self.listeners:
                listener(event)

    def hear_neighbours(self) -> None:
        """Has what other processes do to the library told as well, from now on."""
        self.neighbours = Neighbours(self._library.database.version, self.look_around)
        self.neighbours.start()

    def keep_lists_filled(self) -> None:
        """Has the living lists of all notes folders kept filled from now on; what was done before is looked at once."""
        from wily_magpie.core.session.filling import Filling  # behind the first picture

        self.filling = Filling(self)
        self.lanes.indexer.submit(self.filling.start)  # behind what reads the folders

    def look_around(self, *, is_own: bool = False) -> None:
        """Tells what was done since it was last looked, by this session or another process."""
        with self.looking:
            records, self.seen = self._library.history.news(self.seen)
            places = {place.key: place for place in self.overview.places}
            changed = [changed_by(self._library, places, record) for record in records]
            is_small = all(one.is_small for one in changed) and not any(record.paths for record in records)
            before, self.overview = self.overview, self.reader.overview(self.overview if is_small else None)
        if self.overview != before:
            self.take_over_settings()
            self.publish(OverviewChanged(self.overview))
        self.publish(*changed)
        if not is_own and not changed:
            self.publish(PicturesKept(""))  # what is no step: pictures, icons

    def take_over_settings(self) -> None:
        """Has the library's own settings hold."""
        self._library.history.most_steps = round(number_of(MOST_STEPS, self.overview.settings))

    # changing

    def do(self, command: Command[T], progress: Progress | None = None) -> T:
        """Does a command and waits for it; not for the interface's thread, which submits it.

        Raises:
            MagpieError: it cannot be done; nothing is changed.
        """
        return self.submit(command, progress).result()

    def submit(self, command: Command[T], progress: Progress | None = None) -> "Future[T]":
        """Does a command when its turn comes."""
        return self.lanes.writer.submit(self.perform, command, progress or UNWATCHED)

    def perform(self, command: Command[T], progress: Progress) -> T:
        """Does a command, on the writer's lane."""
        try:
            result = self.performed(command, progress)
        except MagpieError as error:
            if error.slug in ("note-changed", "note-gone"):  # what was seen is no longer so
                self.look_around(is_own=True)
            raise
        self.look_around(is_own=True)
        self.publish(*command.tells())
        return result

    def performed(self, command: Command[T], progress: Progress) -> T:
        """Does a command; once more where another program wrote a file in the very moment in which it was to be replaced."""
        for _ in range(MOST_TRIES - 1):
            with suppress(FileChanging):
                return command.perform(self._library, progress)
        return command.perform(self._library, progress)

    def start_command(self, command: Command[T]) -> Job:
        """Does a command that takes its time: it shows among the jobs, and can be cancelled until it is committed."""
        return self.jobs.start(command.label(self._library), lambda job: self.perform(command, job), self.lanes.writer)

    # asking

    def ask(self, query: Callable[[Reader], T]) -> "Future[T]":
        """Asks on a reader's lane."""
        return self.lanes.readers.submit(query, self.reader)

    def start(self, label: str, work: Callable[[Job], T]) -> Job:
        """Starts long work on a worker's lane; what it changes, it has done by `do`."""
        return self.jobs.start(label, work, self.lanes.workers)

    def place(self, name: str) -> PlaceInfo:
        """The place of that key, name or path; UserError where there is none."""
        return self.reader.entries.place(name)

    # notes

    def refresh_notes(self, key: str | None = None, progress: Progress = UNWATCHED) -> int:
        """Brings the indexes of notes folders in step with their files; how many files had changed.

        Of all folders, those that are away or are being read already are passed over; a single one that is away is said.
        """
        return self.notes.refresh(key, progress)

    def fields_may_be_others(self) -> None:
        """Files of notes may have brought fields along."""
        with self.looking:
            before, self.overview = self.overview, self.reader.overview()
        if self.overview != before:
            self.publish(OverviewChanged(self.overview))

    def index_notes(self, key: str | None = None) -> "Future[int]":
        """The same in the background, on the indexer's lane."""
        return self.lanes.indexer.submit(self.notes.look, key)

    def index_entries(self, key: str | None = None, ids: Sequence[int] | None = None) -> "Future[None]":
        """Brings what search looks in and what filing is reckoned from in step with the entries, in the background.

        Args:
            key: of a place; None for all. ids: of those of its entries that changed; None: it is looked which are missing.
        """
        return self.lanes.words.submit(self.refresh_entries, key, ids)

    def refresh_entries(self, key: str | None = None, ids: Sequence[int] | None = None) -> None:
        """The same, waiting for it."""
        self.refresh_words(key, ids)
        if not self.overview.is_read_only:
            self.refresh_filing(key, ids)

    def refresh_words(self, key: str | None = None, ids: Sequence[int] | None = None) -> None:
        """Brings what search looks in in step."""
        search = self.reader.search
        for place in self._library.places():
            if key in (None, place.key) and place.key not in self.notes.long:  # that is told when all are there
                search.refresh(place, ids, lambda: self.is_closing)
        if key is None:
            search.forget_gone()

    def refresh_filing(self, key: str | None = None, ids: Sequence[int] | None = None) -> None:
        """Brings what filing is reckoned from in step."""
        filing = self.reader.slips.filing
        for place in self._library.places():
            if key in (None, place.key) and not place.is_away and place.key not in self.notes.long:
                filing.refresh(place, ids, lambda: self.is_closing)
                filing.replay(place, lambda: self.is_closing)

    def back_up(self, to: Path, progress: Progress = UNWATCHED) -> int:
        """Copies the library into a folder and checks the copy; how many files it has."""
        from wily_magpie.core.places.library.backup import back_up  # what is not needed at start is loaded later

        return back_up(self._library, to, progress.tick)
