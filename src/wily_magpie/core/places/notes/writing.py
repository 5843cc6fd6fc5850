"""Writing into notes and journal pages: what would be made is said first, then it is done."""

from collections.abc import Mapping
from datetime import date
from pathlib import Path
from typing import Protocol

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.insert_position import InsertPosition, NoteTarget
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.fields.base import Plain
from wily_magpie.core.places.api import PlaceSettings
from wily_magpie.core.places.atomic import read_bytes
from wily_magpie.core.places.notes.disk import fill_path, today
from wily_magpie.core.places.notes.inserting import find_heading, insert

USUAL_JOURNAL = "Journal/{date}"


class Notes(Protocol):
    """What is needed of a notes folder."""

    path: Path

    @property
    def settings(self) -> PlaceSettings:
        """How journal pages are named and begun."""

    def inside(self, path: str) -> Path:
        """A path of the folder on disk."""

    def text_of(self, path: Path, content: bytes) -> str:
        """The text of a note's file, to be changed."""

    def rewrite(self, path: Path, before: bytes, text: str) -> None:
        """Writes a file as part of the step under way."""

    def take_in(self, path: Path) -> int:
        """Reads a file into the index; its id."""

    def bring_back(self, path: str, content: bytes) -> int:
        """Makes a file as part of the step under way; its id."""

    def to_plain(self, values: Mapping[str, Value]) -> dict[str, Plain]:
        """Values as front matter has them."""


@dataclass(frozen=True)
class Target:
    """Where something is to be written.

    Attributes:
        path: of the note, from its folder on; of a journal page, what the folder's pattern makes.
        way: where in it.
        starter: of a note that is not there yet, the text that it begins with.
    """

    path: Path
    way: InsertPosition
    starter: str = ""


def note_target(notes: Notes, path: str, way: InsertPosition) -> Target:
    """The note of a path, which need not be there yet."""
    return Target(notes.inside(path), way)


def journal_path(notes: Notes, day: date) -> str:
    """The path of the page of a day, from the folder on, whether it is there or not."""
    pattern = notes.settings.journal_pattern or USUAL_JOURNAL
    path = fill_path(pattern, "", day)
    return path if path.casefold().endswith((".md", ".markdown")) else f"{path}.md"


def journal_target(notes: Notes, way: InsertPosition, day: date | None = None) -> Target:
    """The journal page of a day.

    Raises:
        UserError: the starter note that the folder names is not there.
    """
    day = day or today()
    pattern = notes.settings.journal_pattern or USUAL_JOURNAL
    path = notes.inside(fill_path(pattern, "", day))
    starter = ""
    if notes.settings.journal_starter:
        place = notes.inside(notes.settings.journal_starter)
        content = read_bytes(place)
        if content is None:
            raise UserError(
                "no-starter", f"The starter note {notes.settings.journal_starter} is not there.", "Choose another one."
            )
        starter = fill_path(content.decode("utf-8", "replace"), path.stem, day)
    return Target(path, way, starter)


def target_of(notes: Notes, wanted: NoteTarget) -> Target:
    """Where a capture is written."""
    return note_target(notes, wanted.note, wanted.way) if wanted.note else journal_target(notes, wanted.way)


def dry_run(notes: Notes, target: Target, *, may_make: bool = True) -> list[str]:
    """What would be made that is not there yet, a sentence each.

    Args:
        may_make: whether a note that is not there is made.

    Raises:
        UserError: it cannot be written there.
    """
    from wily_magpie.core.places.notes import note_file  # YAML is needed only where a file is read

    name = target.path.relative_to(notes.path).as_posix()
    content = read_bytes(target.path)
    if content is None and not may_make:
        raise UserError("no-note", f"There is no note {name}.", "Check the path, or let it be made.")
    told = [f"The note {name} will be made."] if content is None else []
    text = target.starter if content is None else notes.text_of(target.path, content)
    body = note_file.parse(text).body
    if target.way.heading.strip() and find_heading(body, target.way.heading) is None:
        insert(body, "", target.way)  # says so where it may not be made
        told.append(f"The heading “{target.way.heading.strip('# ')}” will be made in {name}.")
    return told


def holding(notes: Notes, target: Target, address: str) -> str:
    """The path of the note where it has an address already; else ""."""
    content = read_bytes(target.path) if address else None
    has_it = content is not None and address in content.decode("utf-8", "replace")
    return target.path.relative_to(notes.path).as_posix() if has_it else ""


def write(notes: Notes, target: Target, text: str, values: Mapping[str, Value] | None = None) -> int:
    """Writes a text into a note; its id. Part of the step under way.

    Args:
        values: fields that a note gets which is made for it.
    """
    from wily_magpie.core.places.notes import note_file  # as above

    content = read_bytes(target.path)
    before = target.starter if content is None else notes.text_of(target.path, content)
    note = note_file.parse(before)
    newline = note.newline
    after = note.text[: note.body_start]
    if after.strip("\ufeff") and not note.body:
        after += newline
    after += insert(note.body, text, target.way, newline)
    if content is not None:
        notes.rewrite(target.path, content, after)
        return notes.take_in(target.path)
    if values:
        title = {"title": str(values["title"])} if values.get("title") else {}
        after = note_file.set_values(note_file.parse(after), {**title, **notes.to_plain(values)})
    return notes.bring_back(target.path.relative_to(notes.path).as_posix(), after.encode())
