"""Notes folders brought in step with their files, and told of while it goes on: what is read so far is shown meanwhile."""

import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from typing import TYPE_CHECKING

from wily_magpie.core.commands.command import UNWATCHED, Progress
from wily_magpie.core.events import Event, NotesComing, NotesRead
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.session.jobs import Cancelled, Jobs

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.folder import NotesFolder

MANY = 1_000
"""Files of a folder from which reading them is long work, which shows."""
AGAIN_S = 0.5
"""How often it is told how many of them are read."""


class Long(Exception):
    """There is more to be read than is done without showing it."""


class Short(Progress):
    """Ends what turns out to be long, before anything is read."""

    def tick(self, _done: int, total: int) -> None:
        """So much is to be read."""
        if total >= MANY:
            raise Long


class NotesReading:
    """See the module.

    Args:
        publish: tells events. told_fields: told that files may have brought fields along.
        lane: where it is done in the background.

    Attributes:
        long: keys of folders of which very many files are being read, or were until that was stopped.
    """

    def __init__(
        self,
        library: Library,
        publish: Callable[[Event], None],
        told_fields: Callable[[], None],
        jobs: Jobs,
        lane: ThreadPoolExecutor,
    ) -> None:
        self.library, self.publish, self.told_fields = library, publish, told_fields
        self.jobs, self.lane = jobs, lane
        self.long: set[str] = set()

    def folders(self, key: str | None) -> "list[NotesFolder]":
        """The one with that key, away or not; None: all that are there and are not being read already."""
        folders = self.library.notes_folders()
        if key is not None:
            return [place for place in folders if place.key == key]
        return [place for place in folders if not place.is_away and not place.is_being_read]

    def is_half_read(self) -> bool:
        """Whether a folder that is there is read by half."""
        return bool(self.long) and any(one.key in self.long and not one.is_away for one in self.library.notes_folders())

    def refresh(self, key: str | None, progress: Progress = UNWATCHED) -> int:
        """Reads what changed in folders; how many files had.

        Raises:
            EnvironmentFailure: the folder with that key is away.
        """
        return sum(self.read(place, progress) for place in self.folders(key))

    def look(self, key: str | None) -> int:
        """The same on the lane; a folder of which very many files changed is read as a job."""
        changed = 0
        for place in self.folders(key):
            try:
                changed += self.read(place, Short())
            except Long:
                self.jobs.run(f"Reading the notes of {place.name}", partial(self.read, place), self.lane)
        return changed

    def read(self, place: "NotesFolder", progress: Progress) -> int:
        """One folder."""
        before, telling = place.index.changed, Telling(self, place.key, progress)
        count = 0
        is_stopped = False
        try:
            count = place.refresh(telling.tick)
        except Cancelled:
            is_stopped = True  # half read it is for lists until somebody has it gone on with
            raise
        finally:
            if not is_stopped:
                self.long.discard(place.key)
            telling.end()
            if count or telling.total:
                self.told_fields()
                self.publish(NotesRead(place.key, is_of_lists=place.index.changed == before))
        return count


class Telling(Progress):
    """Tells of many files now and then how far it is, besides whom it is told anyway."""

    def __init__(self, reading: NotesReading, key: str, progress: Progress) -> None:
        self.reading, self.key, self.progress = reading, key, progress
        self.done = self.total = 0
        self.told_s, self.is_begun = 0.0, False

    def tick(self, done: int, total: int) -> None:
        """So many are read."""
        self.progress.tick(done, total)
        if total >= MANY:
            self.reading.long.add(self.key)
            self.done, self.total = done, total
            if time.monotonic() - self.told_s > AGAIN_S:
                if done and not self.is_begun:
                    self.reading.told_fields()  # those of the first files; all others at the end
                    self.is_begun = True
                self.reading.publish(NotesComing(self.key, done, total))
                self.told_s = time.monotonic()

    def end(self) -> None:
        """It has ended, all of them read or not."""
        if self.total:
            self.reading.publish(NotesComing(self.key, self.done, self.total))
