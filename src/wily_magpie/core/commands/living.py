"""Commands over living lists: notes are written whose lists hold other rows now."""

from collections.abc import Sequence
from dataclasses import field, replace

from wily_magpie.core.commands.command import Command, Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.insert_position import AT_THE_END, InsertPosition
from wily_magpie.core.entries.living_list import (
    ListForm,
    comment_of,
    end_comment,
    filled,
    lists_in,
    read_form,
    with_form,
)
from wily_magpie.core.entries.step import BY_ITSELF, FILLING
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.atomic import read_bytes
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.notes import writing
from wily_magpie.core.places.notes.facts import stem_of
from wily_magpie.core.queries.home_pages import home_page
from wily_magpie.core.queries.living import Asked, FilledNote, LivingQueries
from wily_magpie.core.queries.living_answers import Answering

ASKED = Asked(is_wanted=True, is_each=True)


def named(paths: Sequence[str]) -> str:
    """The name of a step that fills lists of these notes."""
    stem = stem_of(paths[0]) if paths else "notes"
    return f"{FILLING} of {stem}" if len(paths) < 2 else f"{FILLING} of {stem} and {len(paths) - 1} more"


@dataclass(frozen=True)
class WriteLists(Command[tuple[str, ...]]):
    """Writes notes that were worked out before; the paths of those that were written.

    A note that somebody changed meanwhile is left as it is: it is worked out anew when that is heard of.

    Attributes:
        is_wanted: whether a person asked for it, so that it is his to undo.
    """

    place: str
    notes: Sequence[FilledNote] = field(default_factory=tuple)
    is_wanted: bool = False

    def label(self, _library: Library) -> str:
        return named([one.path for one in self.notes])

    def perform(self, library: Library, progress: Progress) -> tuple[str, ...]:
        notes = library.notes(self.place)
        notes.need_there()
        written = []
        with library.step(self.label(library), progress.close, origin="" if self.is_wanted else BY_ITSELF):
            for one in self.notes:
                path = notes.path / one.path
                if self.is_wanted:
                    library.list_stops.drop(notes.key, one.path)
                if one.after != one.before and read_bytes(path) == one.before:
                    library.history.put_file(path, one.before, one.after)
                    notes.take_in(path)
                    written.append(one.path)
        return tuple(written)


@dataclass(frozen=True)
class FillLists(Command[tuple[str, ...]]):
    """Fills the lists of some notes since a person asks for it; the paths of those that were written."""

    place: str
    paths: Sequence[str]
    asked: Asked = ASKED

    def label(self, _library: Library) -> str:
        return named(self.paths)

    def perform(self, library: Library, progress: Progress) -> tuple[str, ...]:
        notes = tuple(LivingQueries(library).filled(self.place, path, self.asked) for path in self.paths)
        return WriteLists(self.place, notes, is_wanted=True).perform(library, progress)


@dataclass(frozen=True)
class PutList(StepCommand[int]):
    """Writes a living list into a note, filled; the note's id. A note that is not there is made.

    Attributes:
        path: of the note; "" for today's page.
    """

    place: str
    path: str
    form: ListForm
    way: InsertPosition = AT_THE_END

    def label(self, library: Library) -> str:
        notes = library.notes(self.place)
        return f"Put a list into {self.target(notes).path.stem}"

    def target(self, notes: "writing.Notes") -> "writing.Target":
        """Where it is written."""
        return writing.note_target(notes, self.path, self.way) if self.path else writing.journal_target(notes, self.way)

    def do(self, library: Library, _progress: Progress) -> int:
        notes = library.notes(self.place)
        target = self.target(notes)
        path = target.path.relative_to(notes.path).as_posix()
        rows = Answering(library, notes, path, {}).rows(self.form)
        text = f"{comment_of(self.form)}\n\n{rows}\n\n{end_comment(rows)}"
        return writing.write(notes, target, text)


@dataclass(frozen=True)
class MakeHomePage(StepCommand[int]):
    """A note with living lists over what there is, filled; its id."""

    place: str
    kind: str
    path: str

    def label(self, _library: Library) -> str:
        return f"Make the home page {stem_of(self.path)}"

    def do(self, library: Library, _progress: Progress) -> int:
        notes = library.notes(self.place)
        text = home_page(self.kind, stem_of(self.path), [one.info for one in library.places()])
        made = notes.bring_back(self.path, text.encode())
        path = notes.index.path(made) or self.path
        home = LivingQueries(library).filled(self.place, path, ASKED)
        library.history.put_file(notes.path / path, home.before, home.after)
        return notes.take_in(notes.path / path)


def follow_name(library: Library, old: str, new: str) -> None:
    """Has living lists over a place name it as it is called from now on; part of the step under way."""
    for notes in library.notes_folders():
        paths = {path for path, said in notes.index.lists() if not notes.is_away and asks(said, old)}
        for path in sorted(paths):
            before = read_bytes(notes.path / path) or b""
            text = notes.text_of(notes.path / path, before)
            for one in reversed(lists_in(text)):
                if asks(one.said, old):
                    text = with_form(text, one, replace(one.form, place=new))
            notes.rewrite(notes.path / path, before, text)


def asks(said: str, place: str) -> bool:
    """Whether the first comment of a list names a place."""
    try:
        return read_form(said).place.casefold() == place.casefold()
    except ValueError:
        return False


@dataclass(frozen=True)
class ChangeList(StepCommand[int]):
    """Gives a living list of a note another form, and fills it; the note's id.

    Attributes:
        key: of the list (LivingList.key).
    """

    place: str
    path: str
    key: str
    form: ListForm

    def label(self, _library: Library) -> str:
        return f"Change a list of {stem_of(self.path)}"

    def do(self, library: Library, _progress: Progress) -> int:
        notes = library.notes(self.place)
        path = notes.path / self.path
        before = read_bytes(path) or b""
        text = notes.text_of(path, before)
        one = next((one for one in lists_in(text) if one.key == self.key), None)
        if one is None:
            raise UserError("list-gone", "This list is no longer in the note.", "Look at the note again.")
        rows = Answering(library, notes, self.path, {}).rows(self.form)
        newline = "\r\n" if "\r\n" in text else "\n"
        if one.is_edited(text):
            raise UserError(
                "list-edited",
                "Somebody wrote into this list by hand.",
                "Choose first what becomes of that.",
            )
        notes.rewrite(path, before, with_form(filled(text, one, rows, newline), one, self.form))
        library.list_stops.drop(notes.key, self.path)
        return notes.take_in(path)
