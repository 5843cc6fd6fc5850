"""Keeps living lists filled: hears what changed, works out which notes that touches, and has those written."""

import threading
from collections.abc import Callable, Iterable, Sequence
from datetime import UTC, datetime, time, timedelta
from typing import Protocol, TypeVar

from wily_magpie.core.commands.command import Command
from wily_magpie.core.commands.living import WriteLists
from wily_magpie.core.commands.mirror import KeepInStep
from wily_magpie.core.entries.step import Step
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.events import Changed, Event, ListsLeft, NotesRead, OutOfStep
from wily_magpie.core.faults import logger
from wily_magpie.core.queries.living import EDITED, FAULTY, FilledNote
from wily_magpie.core.queries.living_answers import Known
from wily_magpie.core.queries.mirror import ASKED
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.session.notes_reading import NotesReading

T = TypeVar("T")
QUIET_S = 0.3
"""So long after a change its burst is waited for."""
AT_ONCE = 10
"""Notes that are written together, so that somebody who changes something waits for these alone."""
LEAST_S = 60
log = logger(__name__)


def seconds_left() -> float:
    """Until a little after the day ends by which periods are counted (UTC)."""
    now = datetime.now(UTC)
    return (datetime.combine(now.date() + timedelta(1), time(), UTC) - now).total_seconds() + LEAST_S


class Counter(Protocol):
    """What is needed of a session."""

    reader: Reader
    notes: NotesReading

    def subscribe(self, listener: Callable[[Event], None]) -> None:
        """Has every later event told."""

    def publish(self, *events: Event) -> None:
        """Tells events."""

    def do(self, command: Command[T]) -> T:
        """Does a command and waits for it."""


class Filling:
    """Listens to a session. What it writes itself, here or in another process, is no reason to write again.

    Attributes:
        changes: heard and not looked at yet. is_for_all: whether all lists are to be looked at.
        told: what was said already, so that it is said once.
    """

    def __init__(self, session: Counter) -> None:
        self.session = session
        self.lock = threading.Lock()
        self.rung, self.ended, self.idle = threading.Event(), threading.Event(), threading.Event()
        self.changes: list[Changed] = []
        self.is_for_all = False
        self.told: set[tuple[str, str, str, str]] = set()
        self.thread = threading.Thread(target=self.work, name="filling", daemon=True)

    def start(self) -> None:
        """Begins, with a look at all lists."""
        self.session.subscribe(self.hear)
        self.thread.start()
        self.look_at_all()

    def look_at_all(self) -> None:
        """Has all lists looked at."""
        self.is_for_all = True
        self.ring()

    def ring(self) -> None:
        """There is something to do."""
        self.idle.clear()
        self.rung.set()

    def hear(self, event: Event) -> None:
        """Something happened."""
        if isinstance(event, NotesRead) and not event.is_of_lists:
            event = Changed(Step(0, "", "", ""), False, {event.place: frozenset()})
        if isinstance(event, Changed) and not (event.step.is_filling and event.step.state == 0):
            with self.lock:
                self.changes.append(event)
            self.ring()

    def work(self) -> None:
        """Until it is closed."""
        while not self.ended.is_set():
            if not self.rung.wait(seconds_left()):
                self.look_at_all()  # "in the last 14 days" are others on another day
            self.ended.wait(QUIET_S)
            while self.session.notes.is_half_read() and not self.ended.is_set():
                self.ended.wait(QUIET_S)  # over a folder that is half read a list would hold half
            self.rung.clear()
            if self.ended.is_set():
                return
            try:
                self.fill()
            except MagpieError as error:
                log.info("lists could not be filled: %s", error)
            except Exception as error:  # noqa: BLE001 - told as a thread's end would be; the next changes are heard all the same
                told = threading.ExceptHookArgs((type(error), error, error.__traceback__, self.thread))
                threading.excepthook(told)
            if not self.rung.is_set():
                self.idle.set()

    def fill(self) -> None:
        """Fills what the changes have touched."""
        with self.lock:
            changes, self.changes = self.changes, []
            is_for_all, self.is_for_all = self.is_for_all, False
        self.keep_in_step(changes, is_for_all=is_for_all)
        living = self.session.reader.living
        wanted: dict[str, dict[str, None]] = {}
        looked_at = [living.notes_with_lists()] if is_for_all else [living.touched(one) for one in changes]
        for found in looked_at:
            for place, paths in found.items():
                wanted.setdefault(place, {}).update(dict.fromkeys(paths))
        for place, notes in wanted.items():
            self.fill_notes(place, notes)

    def keep_in_step(self, changes: list[Changed], *, is_for_all: bool) -> None:
        """Brings collections in step with the notes that they are kept in step with."""
        wanted: dict[str, tuple[int, ...] | None] = {}
        for change in changes:
            for place, ids in self.session.reader.notes.mirrored(change).items():
                before = wanted.get(place, ())
                wanted[place] = None if ids is None or before is None else (*before, *ids)
        if is_for_all:
            wanted.update(dict.fromkeys(self.session.reader.notes.mirrors()))
        for place, ids in wanted.items():
            try:
                some = self.session.reader.notes.out_of_step(place, ids)
            except MagpieError as error:
                self.tell_failure(place, "", error)
                continue
            for at in range(0, len(some), AT_ONCE):
                self.bring_in_step(place, some[at : at + AT_ONCE])

    def bring_in_step(self, place: str, ids: Sequence[int]) -> None:
        """Has some entries and their notes brought in step: together, else one by one, so that one costs itself alone."""
        try:
            pairs = self.session.do(KeepInStep(place, ids))
        except MagpieError as error:
            if len(ids) == 1:
                self.tell_pair(OutOfStep(place, "", ids[0], str(error)))
                return
            for one in ids:
                self.bring_in_step(place, (one,))
        else:
            for pair in pairs:
                for said in pair.told:
                    self.tell_pair(OutOfStep(place, pair.path, pair.entry, said, ASKED in pair.what))

    def tell_pair(self, left: OutOfStep) -> None:
        """Says once what could not be put together."""
        told = (left.place, left.path, str(left.entry), left.told)
        if told not in self.told:
            self.told.add(told)
            self.session.publish(left)

    def fill_notes(self, place: str, paths: Iterable[str]) -> None:
        """Fills the lists of some notes of a folder."""
        waiting: list[FilledNote] = []
        known: Known = {}
        for path in paths:
            if self.ended.is_set():
                return
            try:
                found = self.session.reader.living.filled(place, path, known=known)
            except MagpieError as error:
                self.tell_failure(place, path, error)
                continue
            self.tell(place, found)
            if found.after != found.before:
                waiting.append(found)
            if len(waiting) >= AT_ONCE:
                self.write(place, waiting)
                waiting = []
        self.write(place, waiting)

    def write(self, place: str, notes: list[FilledNote]) -> None:
        """Has notes written."""
        if notes and not self.ended.is_set():
            try:
                self.session.do(WriteLists(place, tuple(notes)))
            except MagpieError as error:
                self.tell_failure(place, notes[0].path, error)

    def tell_failure(self, place: str, path: str, error: MagpieError) -> None:
        """Says once that lists of a note could not be filled, or written."""
        told = (place, path, error.slug, error.message)
        if told not in self.told:
            self.told.add(told)
            self.session.publish(ListsLeft(place, path, FAULTY, str(error)))

    def tell(self, place: str, note: FilledNote) -> None:
        """Says once of each list that is left as it is why."""
        fresh = []
        for one in note.states:
            told = (place, one.path, one.key, one.told)
            if one.state in (EDITED, FAULTY) and told not in self.told:
                self.told.add(told)
                fresh.append(one)
        if fresh:
            self.session.publish(ListsLeft(place, note.path, fresh[0].state, fresh[0].told))

    def close(self) -> None:
        """Ends it."""
        self.ended.set()
        self.rung.set()
        if self.thread.is_alive():
            self.thread.join(timeout=5)
