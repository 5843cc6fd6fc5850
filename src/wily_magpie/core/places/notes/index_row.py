"""One file of a notes folder as rows of the index."""

import re
from collections.abc import Mapping, Sequence
from pathlib import Path
from posixpath import normpath
from typing import TYPE_CHECKING

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.living_list import lists_in, outside_of
from wily_magpie.core.fields import Value
from wily_magpie.core.places.atomic import sha256_of
from wily_magpie.core.places.notes.facts import CREATED, LINKS_OUT, bare_name, double_name, facts
from wily_magpie.core.places.notes.outline import NoteLink, outline
from wily_magpie.core.places.table import any_address_key

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.note_file import NoteFile


@dataclass(frozen=True)
class ReadFile:
    """A file of the folder, as it was read.

    Attributes:
        stamp: its time in ns and size in bytes. born: when it was made, as dates are stored.
    """

    path: str
    stamp: tuple[int, int]
    note: "NoteFile"
    born: str


def number(stored: object) -> float | None:
    """A number as it was stored."""
    return None if stored is None else float(str(stored))


@dataclass(frozen=True)
class Before:
    """What a note was.

    Attributes:
        own: the sum over what is not in lists. born: when it was made. counts: links in, and broken ones.
    """

    own: str
    modified: str
    born: str
    counts: tuple[float | None, float | None]


@dataclass(frozen=True)
class IndexRow:
    """What a file is in the tables.

    Attributes:
        text: what is looked for in: all but what its lists hold.
        lists: first comments of its lists. own: the sum over what is not in them.
        is_refilled: whether nothing changed but what its lists hold.
    """

    id: int
    file: ReadFile
    title: str
    values: Mapping[str, Value]
    address: str
    text: str
    links: Sequence[tuple[int, str, int, int]]
    lists: Sequence[str]
    own: str
    is_refilled: bool

    @property
    def fresh(self) -> tuple[int, str, Mapping[str, Value], str]:
        """As a new row of fields."""
        return self.id, self.title, self.values, self.address

    @property
    def note(self) -> tuple[object, ...]:
        """As a row of notes."""
        path = self.file.path
        return (self.id, path, *self.file.stamp, self.file.note.fault, bare_name(path), double_name(path), self.own)


def named_by(folder: str, link: NoteLink) -> tuple[str, int]:
    """What a link is found by: of a path, where it leads, from the notes folder on; of double brackets, the name folded."""
    path = f"{folder}/{link.target}" if folder else link.target
    return (double_name(link.target), 1) if link.is_double else (normpath(path), 0)


def row_of(
    entry_id: int, file: ReadFile, before: "Before | None", values: Mapping[str, Value], fields: Sequence[Field]
) -> "IndexRow":
    """What a file is in the tables.

    Args:
        values: that its front matter has. fields: of the folder.
    """
    body = file.note.body
    lists = lists_in(body)
    outside = outside_of(body) if lists else body
    own, found = outline(outside), outline(body) if lists else None
    size = file.stamp[1] - (
        len(body.encode("utf-8", "replace")) - len(outside.encode("utf-8", "replace")) if lists else 0
    )
    folder, _, name = file.path.rpartition("/")
    given = file.note.matter.get("title")
    title = given if isinstance(given, str) and given.strip() else Path(name).stem
    links = {(entry_id, *named_by(folder, link), 1) for link in own.links}
    all_values: dict[str, Value] = {
        **values,
        **facts(file.path, size, file.note, outside, own),
    }
    all_values[LINKS_OUT.key] = float(len(links))
    all_values[CREATED.key] = (before.born if before is not None else "") or file.born
    if found is not None:
        links |= {(*link, 0) for one in found.links if (*(link := (entry_id, *named_by(folder, one))), 1) not in links}
    rest = file.note.text[: file.note.body_start] + outside
    total = sha256_of(rest.encode("utf-8", "replace")) if lists else ""
    return IndexRow(
        entry_id, file, title, all_values, any_address_key(fields, all_values), outside, sorted(links),
        [one.said for one in lists], total, bool(total) and before is not None and before.own == total,
    )  # fmt: skip


def guess_kind(value: str | list[str] | None) -> str:
    """The kind of field that a value of front matter suggests."""
    if isinstance(value, list):
        return "choices"
    text = (value or "").strip()
    if re.fullmatch(r"\d{4}-\d\d(-\d\d.*)?", text):
        return "date"
    for kind, pattern in (("number", r"-?\d+(\.\d+)?"), ("yes/no", r"true|false|yes|no"), ("address", r"https?://\S+")):
        if re.fullmatch(pattern, text):
            return kind
    return "text" if len(text) < 200 else "long text"
