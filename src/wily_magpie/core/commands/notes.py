"""Commands over notes: writing into them, moving them."""

from collections.abc import Mapping
from dataclasses import field, replace
from datetime import date

from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.insert_position import AT_THE_END, InsertPosition, NoteTarget
from wily_magpie.core.entries.note_move import Move
from wily_magpie.core.fields import Value
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.notes import moving, writing
from wily_magpie.core.places.notes.folder import NotesFolder

HEADING_LEVEL = 2
"""Of a heading that is made where its template does not say."""


def written(notes: NotesFolder, target: writing.Target, text: str, values: Mapping[str, Value] | None = None) -> Entry:
    """Writes a text; the note."""
    return notes.rows([writing.write(notes, target, text, values)])[0]


@dataclass(frozen=True)
class MakeHeading(StepCommand[None]):
    """Makes the heading in a note below which a template writes, and the note where there is none."""

    place: str
    target: NoteTarget

    def label(self, library: Library) -> str:
        return f"Make the heading “{self.target.way.heading.strip('# ')}” in {library.place(self.place).name}"

    def do(self, library: Library, _progress: Progress) -> None:
        way = replace(self.target.way, level=self.target.way.level or HEADING_LEVEL)
        library.place(self.place).write_into(replace(self.target, way=way), "")


@dataclass(frozen=True)
class WriteNote(StepCommand[Entry]):
    """Writes a text into a note.

    Attributes:
        values: fields that a note gets which is made for it.
        may_make: whether a note that is not there is made.
    """

    place: str
    path: str
    text: str
    way: InsertPosition = AT_THE_END
    values: Mapping[str, Value] = field(default_factory=dict)
    may_make: bool = True

    def label(self, library: Library) -> str:
        return f"Write into {library.notes(self.place).inside(self.path).stem}"

    def do(self, library: Library, _progress: Progress) -> Entry:
        notes = library.notes(self.place)
        target = writing.note_target(notes, self.path, self.way)
        writing.dry_run(notes, target, may_make=self.may_make)
        return written(notes, target, self.text, self.values)


@dataclass(frozen=True)
class WriteJournal(StepCommand[Entry]):
    """Writes a text into the journal page of a day; None: today's."""

    place: str
    text: str
    way: InsertPosition = AT_THE_END
    day: date | None = None

    def label(self, library: Library) -> str:
        return f"Write into {writing.journal_target(library.notes(self.place), self.way, self.day).path.stem}"

    def do(self, library: Library, _progress: Progress) -> Entry:
        notes = library.notes(self.place)
        target = writing.journal_target(notes, self.way, self.day)
        writing.dry_run(notes, target)
        return written(notes, target, self.text)


@dataclass(frozen=True)
class MoveNote(StepCommand[Move]):
    """Renames or moves a note; the links to it follow."""

    place: str
    entry_id: int
    new: str

    def label(self, library: Library) -> str:
        return f"Move {library.notes(self.place).index.path(self.entry_id)} to {self.new}"

    def do(self, library: Library, _progress: Progress) -> Move:
        notes = library.notes(self.place)
        plan = moving.move(notes, self.entry_id, self.new)
        library.marks.move(notes.key, plan.old, plan.new)
        library.mark_uses.move(notes.key, plan.old, plan.new)
        library.stops.move(notes.key, plan.old, plan.new)
        library.list_stops.move(notes.key, plan.old, plan.new)
        return plan
