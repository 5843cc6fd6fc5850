"""Commands over notes: writing into them, moving them."""

from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from datetime import date

from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry, short
from wily_magpie.core.entries.insert_position import AT_THE_END, InsertPosition, NoteTarget
from wily_magpie.core.entries.note_move import Move
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.notes import moving, writing
from wily_magpie.core.places.notes.beside import lay_file
from wily_magpie.core.places.notes.disk import today
from wily_magpie.core.places.notes.facts import stem_of
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.templates import note_starter

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
        begin_page(notes, self.day)
        target = writing.journal_target(notes, self.way, self.day)
        writing.dry_run(notes, target)
        return written(notes, target, self.text)


def begin_page(notes: NotesFolder, day: date | None = None, *, may_be_blank: bool = False) -> int | None:
    """Makes the page of a day where there is none, as the folder's starter note has it; its id, None where it was there.

    The expressions of the starter note are worked out; its living lists are filled where the folder wants that.

    Args:
        may_be_blank: whether a page is made that nothing is to be written into, also without a starter note.
    """
    target = writing.journal_target(notes, AT_THE_END, day)
    if target.path.exists() or not (target.starter or may_be_blank):
        return None
    starter = note_starter.worked_out(target.starter, target.path.stem, day or today())
    return notes.bring_back(target.path.relative_to(notes.path).as_posix(), starter.encode())


@dataclass(frozen=True)
class MakeDay(StepCommand[int]):
    """The page of a day, which is made where there is none; its id."""

    place: str
    day: date

    def label(self, library: Library) -> str:
        return f"Make {writing.journal_target(library.notes(self.place), AT_THE_END, self.day).path.stem}"

    def do(self, library: Library, _progress: Progress) -> int:
        notes = library.notes(self.place)
        made = begin_page(notes, self.day, may_be_blank=True)
        path = writing.journal_target(notes, AT_THE_END, self.day).path
        return (
            made
            if made is not None
            else notes.index.id_of(path.relative_to(notes.path).as_posix()) or notes.take_in(path)
        )


@dataclass(frozen=True)
class MakeNote(StepCommand[int]):
    """A note at a path, such as one that a link leads to and that is not there; its id."""

    place: str
    path: str
    text: str = ""

    def label(self, _library: Library) -> str:
        return f"Make {self.path}"

    def do(self, library: Library, _progress: Progress) -> int:
        notes = library.notes(self.place)
        if notes.inside(self.path).exists():
            raise UserError("note-there", f"There is a note {self.path} already.", "Choose another name.")
        return notes.bring_back(self.path, (self.text or f"# {stem_of(self.path)}\n").encode())


@dataclass(frozen=True)
class PointLinks(StepCommand[int]):
    """Has the links of a note that lead to one target lead to another note; how many they are."""

    place: str
    entry_id: int
    target: str
    new: str

    def label(self, _library: Library) -> str:
        return f"Have links to {self.target} lead to {self.new}"

    def do(self, library: Library, _progress: Progress) -> int:
        return moving.point_links(library.notes(self.place), self.entry_id, self.target, self.new)


@dataclass(frozen=True)
class LayFile(StepCommand[str]):
    """Lays a file where such lie in a notes folder; the Markdown by which a note shows it or leads to it."""

    place: str
    entry_id: int
    name: str
    content: bytes

    def label(self, library: Library) -> str:
        return f"Lay {self.name} beside “{short(library.place(self.place).title_of(self.entry_id))}”"

    def do(self, library: Library, _progress: Progress) -> str:
        notes = library.notes(self.place)
        return lay_file(notes, notes.rows([self.entry_id])[0], self.name, self.content)


@dataclass(frozen=True)
class WriteInUtf8(StepCommand[int]):
    """Writes notes as UTF-8 that are written otherwise; how many they were."""

    place: str
    ids: Sequence[int]

    def label(self, _library: Library) -> str:
        return "Write a note as UTF-8" if len(self.ids) == 1 else f"Write {len(self.ids)} notes as UTF-8"

    def do(self, library: Library, _progress: Progress) -> int:
        notes, count = library.notes(self.place), 0
        for entry_id in self.ids:
            path, before, text = notes.whole_text(entry_id)
            after = text.removeprefix("\ufeff").encode() if not before.startswith(b"\xef\xbb\xbf") else before
            if after != before:
                library.history.put_file(path, before, after)
                notes.take_in(path)
                count += 1
        return count


@dataclass(frozen=True)
class MoveNote(StepCommand[Move]):
    """Renames or moves a note; the links to it follow."""

    place: str
    entry_id: int
    new: str

    def label(self, library: Library) -> str:
        return f"Move {library.notes(self.place).index.path(self.entry_id)} to {self.new}"

    def do(self, library: Library, _progress: Progress) -> Move:
        return moved(library, library.notes(self.place), self.entry_id, self.new)


def moved(library: Library, notes: NotesFolder, entry_id: int, new: str) -> Move:
    """Moves a note, with all that knows it by its path."""
    plan = moving.move(notes, entry_id, new)
    for knows in (library.marks, library.mark_uses, library.stops, library.list_stops, library.mirrors):
        knows.move(notes.key, plan.old, plan.new)
    return plan


@dataclass(frozen=True)
class MoveNotes(StepCommand[tuple[Move, ...]]):
    """Moves several notes, or all of a folder, into a folder; the links to them follow.

    Attributes:
        inside: the folder that they keep their places in below the new one; "" where only their names are kept.
    """

    place: str
    ids: Sequence[int]
    folder: str
    inside: str = ""

    def label(self, _library: Library) -> str:
        return f"Move {'a note' if len(self.ids) == 1 else f'{len(self.ids)} notes'} to {self.folder or 'the top'}"

    def do(self, library: Library, progress: Progress) -> tuple[Move, ...]:
        notes = library.notes(self.place)
        done: list[Move] = []
        for entry_id, new in moving.into_folder(notes, self.ids, self.folder, self.inside):
            progress.tick(len(done), len(self.ids))
            done.append(moved(library, notes, entry_id, new))
        return tuple(done)
