"""One file of a notes folder as rows of the index."""

import re
from collections.abc import Mapping, Sequence
from posixpath import normpath
from typing import TYPE_CHECKING, NamedTuple

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.living_list import lists_in, outside_of
from wily_magpie.core.fields import Value
from wily_magpie.core.places.atomic import sha256_of
from wily_magpie.core.places.notes.facts import CREATED, LINKS_OUT, bare_name, double_name, facts, title_of
from wily_magpie.core.places.notes.outline import NoteLink, Outline, outline
from wily_magpie.core.places.table import any_address_key

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.note_file import NoteFile


class ReadFile(NamedTuple):
    """A file of the folder, as it was read; worked out before the index is written to, which others wait for.

    Attributes:
        stamp: its time in ns and size in bytes. born: when it was made, as dates are stored.
        outside: its text without what its lists hold; found: what there is in it; facts: what it tells by itself.
        lists: first comments of its lists. listed: links that stand in these.
    """

    path: str
    stamp: tuple[int, int]
    note: "NoteFile"
    born: str
    outside: str
    found: Outline
    facts: Mapping[str, Value]
    lists: Sequence[str] = ()
    listed: Sequence[NoteLink] = ()


def read_file(path: str, stamp: tuple[int, int], note: "NoteFile", born: str) -> ReadFile:
    """A file with all that it tells by itself."""
    body = note.body
    lists = lists_in(body)
    if not lists:
        found = outline(body)
        return ReadFile(path, stamp, note, born, body, found, facts(path, stamp[1], note, body, found))
    outside = outside_of(body)
    found = outline(outside)
    size = stamp[1] - len(body.encode("utf-8", "replace")) + len(outside.encode("utf-8", "replace"))
    told = facts(path, size, note, outside, found)
    return ReadFile(path, stamp, note, born, outside, found, told, [one.said for one in lists], outline(body).links)


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


class IndexRow(NamedTuple):
    """What a file is in the tables.

    Attributes:
        own: the sum over what is not in its lists.
        is_refilled: whether nothing changed but what its lists hold.
    """

    id: int
    file: ReadFile
    title: str
    values: Mapping[str, Value]
    address: str
    links: Sequence[tuple[int, str, int, int]]
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
    folder = file.path.rpartition("/")[0]
    title = title_of(file.note.matter, file.path)
    links = {(entry_id, *named_by(folder, link), 1) for link in file.found.links}
    all_values: dict[str, Value] = {**values, **file.facts, LINKS_OUT.key: float(len(links))}
    all_values[CREATED.key] = (before.born if before is not None else "") or file.born
    links |= {(*link, 0) for one in file.listed if (*(link := (entry_id, *named_by(folder, one))), 1) not in links}
    total = sum_of(file.note, file.outside) if file.lists else ""
    is_refilled = bool(total) and before is not None and before.own == total
    address = any_address_key(fields, all_values)
    return IndexRow(entry_id, file, title, all_values, address, sorted(links), total, is_refilled)


def sum_of(note: "NoteFile", outside: str) -> str:
    """The sum over what of a note is not in lists."""
    return sha256_of((note.text[: note.body_start] + outside).encode("utf-8", "replace"))


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
