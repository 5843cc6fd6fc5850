"""The marks of entries; a part of the session."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.notes.folder import NotesFolder

if TYPE_CHECKING:
    from wily_magpie.core.session.session import Session


class Marking:
    """See the module; each command is one undoable step."""

    def __init__(self, session: "Session") -> None:
        self.session = session

    def of(self, place: str, entry_id: int) -> tuple[Mark, ...]:
        """The marks of an entry, in their order."""
        return self.session.library.marks.of(place, owner_of(self.session.place(place), entry_id))

    def put(self, place: str, entry_id: int, mark: Mark) -> None:
        """Adds a mark to an entry, or changes its comment and kind."""
        target = self.session.place(place)
        with self.session.library.step(f"Mark in “{short(self.session.title_of(target, entry_id))}”"):
            self.session.library.marks.put(place, owner_of(target, entry_id), (mark,))
        self.session.changed(target, entry_id)

    def remove(self, place: str, entry_id: int, mark: Mark) -> None:
        """Takes a mark away from an entry."""
        target = self.session.place(place)
        with self.session.library.step(f"Remove a mark of “{short(self.session.title_of(target, entry_id))}”"):
            self.session.library.marks.remove(place, owner_of(target, entry_id), mark)
        self.session.changed(target, entry_id)

    def put_all(self, place: Place, entry_id: int, marks: Sequence[Mark]) -> None:
        """Adds marks to an entry, as part of the step under way."""
        if marks:
            self.session.library.marks.put(place.key, owner_of(place, entry_id), marks)


def owner_of(place: Place, entry_id: int) -> str:
    """By what an entry's marks know it: its number or, since those of notes change, its path."""
    if isinstance(place, NotesFolder):
        entry = place.entry(entry_id)
        return entry.path if entry is not None else ""
    return str(entry_id)
