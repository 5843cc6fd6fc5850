"""Questions over notes folders."""

from datetime import date
from posixpath import normpath
from urllib.parse import unquote

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.entries.note_move import Move
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.notes import moving, writing
from wily_magpie.core.places.notes.outline import outline


def headings(body: str) -> list[tuple[int, str, int]]:
    """(level, text, index of its line) of the headings of a text."""
    return [(one.level, one.text, one.start) for one in outline(body).headings]


class NoteQueries:
    """See the module."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def dry_run(self, place: str, path: str, way: InsertPosition, *, may_make: bool = True) -> list[str]:
        """What writing into a note would make that is not there yet; UserError where it cannot be."""
        notes = self._library.notes(place)
        return writing.dry_run(notes, writing.note_target(notes, path, way), may_make=may_make)

    def dry_run_journal(self, place: str, way: InsertPosition, day: date | None = None) -> list[str]:
        """The same of the journal page of a day."""
        notes = self._library.notes(place)
        return writing.dry_run(notes, writing.journal_target(notes, way, day))

    def look_at_move(self, place: str, entry_id: int, new: str) -> Move:
        """What a move would rewrite."""
        return moving.look_at_move(self._library.notes(place), entry_id, new)

    def note_at(self, entry: Entry, link: str) -> int | None:
        """The note that a link in a note leads to; None where it leads elsewhere."""
        if not entry.path or "://" in link:
            return None
        notes = self._library.notes(entry.place)
        target = unquote(link.partition("#")[0])
        folder = entry.path.rpartition("/")[0]
        exact = notes.index.id_of(normpath(f"{folder}/{target}" if folder else target))
        return exact if exact is not None else notes.index.id_by_name(target)

    def id_of(self, place: str, path: str) -> int | None:
        """The note of a path from the folder on; None where there is none."""
        return self._library.notes(place).index.id_of(path)
