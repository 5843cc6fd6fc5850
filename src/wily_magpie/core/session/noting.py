"""Writing into notes and moving them: the part of a session for notes folders."""

from collections.abc import Mapping
from datetime import date
from pathlib import Path
from posixpath import normpath
from typing import TYPE_CHECKING
from urllib.parse import unquote

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.notes import moving, writing
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.places.notes.outline import outline

if TYPE_CHECKING:
    from wily_magpie.core.session.session import Session


class Noting:
    """See the module; each command is one undoable step."""

    def __init__(self, session: "Session") -> None:
        self.session = session

    def folder(self, place: str) -> NotesFolder:
        """The notes folder of that key, name or path.

        Raises:
            UserError: it is none.
        """
        found = self.session.place(place)
        if not isinstance(found, NotesFolder):
            raise UserError("no-notes", f"{found.name} is no notes folder.", "Name a notes folder.")
        return found

    def opened(self, path: Path) -> NotesFolder:
        """The notes folder at a path; taken into the library if it is not in it yet."""
        wanted = path.expanduser().absolute()
        for notes in self.session.library.notes_folders():
            if notes.path == wanted:
                return notes
        return self.folder(self.session.add_notes_folder(wanted).key)

    def dry_run(self, place: str, path: str, way: InsertPosition, *, may_make: bool = True) -> list[str]:
        """What writing into a note would make that is not there yet; UserError where it cannot be."""
        notes = self.folder(place)
        return writing.dry_run(notes, writing.note_target(notes, path, way), may_make=may_make)

    def dry_run_journal(self, place: str, way: InsertPosition, day: date | None = None) -> list[str]:
        """The same of the journal page of a day."""
        notes = self.folder(place)
        return writing.dry_run(notes, writing.journal_target(notes, way, day))

    def write(
        self,
        place: str,
        path: str,
        text: str,
        way: InsertPosition,
        values: Mapping[str, Value] | None = None,
        *,
        may_make: bool = True,
    ) -> Entry:
        """Writes a text into a note."""
        notes = self.folder(place)
        target = writing.note_target(notes, path, way)
        writing.dry_run(notes, target, may_make=may_make)
        return self.written(notes, target, text, values)

    def write_journal(self, place: str, text: str, way: InsertPosition, day: date | None = None) -> Entry:
        """Writes a text into the journal page of a day."""
        notes = self.folder(place)
        target = writing.journal_target(notes, way, day)
        writing.dry_run(notes, target)
        return self.written(notes, target, text, None)

    def written(
        self, notes: NotesFolder, target: writing.Target, text: str, values: Mapping[str, Value] | None
    ) -> Entry:
        with self.session.library.step(f"Write into {target.path.stem}"):
            entry_id = writing.write(notes, target, text, values)
        self.session.changed(notes, entry_id)
        return notes.rows([entry_id])[0]

    def look_at_move(self, place: str, entry_id: int, new: str) -> moving.Move:
        """What a move would rewrite."""
        return moving.look_at_move(self.folder(place), entry_id, new)

    def move(self, place: str, entry_id: int, new: str) -> moving.Move:
        """Renames or moves a note; the links to it follow."""
        notes = self.folder(place)
        with self.session.library.step(f"Move {notes.index.path(entry_id)} to {new}"):
            plan = moving.move(notes, entry_id, new)
            self.session.library.marks.move(notes.key, plan.old, plan.new)
        self.session.changed(notes, entry_id)
        return plan

    @staticmethod
    def headings(body: str) -> list[tuple[int, str, int]]:
        """(level, text, index of its line) of the headings of a text."""
        return [(one.level, one.text, one.start) for one in outline(body).headings]

    def note_at(self, entry: Entry, link: str) -> int | None:
        """The note that a link in a note leads to; None where it leads elsewhere."""
        if not entry.path or "://" in link:
            return None
        notes = self.folder(entry.place)
        target = unquote(link.partition("#")[0])
        folder = entry.path.rpartition("/")[0]
        exact = notes.index.id_of(normpath(f"{folder}/{target}" if folder else target))
        return exact if exact is not None else notes.index.id_by_name(target)

    def linking_here(self, place: str, entry_id: int) -> list[tuple[str, int, str, str]]:
        """What refers to an entry, as (key of its place, id, title, by what): notes by their links, entries by references."""
        found = self.session.place(place)
        if isinstance(found, NotesFolder):
            path = found.index.path(entry_id) or ""
            rows = found.rows([number for number, _ in found.index.linking_here(path) if number != entry_id])
            return [(found.key, one.id, one.title, "a link") for one in rows]
        out: list[tuple[str, int, str, str]] = []
        if isinstance(found, Collection):
            entry = next(iter(found.rows([entry_id])), None)
            for field in found.fields if entry else ():
                value = entry.value(field.key) if entry else None
                if field.kind.name == "reference" and field.settings.is_back and isinstance(value, tuple):
                    out += [(field.settings.target, getattr(one, "id", 0), one, field.label) for one in value]
        return out
