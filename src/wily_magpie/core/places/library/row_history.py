"""What happened to one entry of a collection: what, when, from, to; read from the steps that undo is made of.

SQLite's changesets tell of each row that was changed the columns before and after. An entry's states are worked out
backwards from what it is now, so that any of them can be brought back.
"""

import zlib
from collections.abc import Iterable, Iterator, Mapping, Sequence

import apsw

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.happening import FieldChange, Happening
from wily_magpie.core.fields import Link, Value
from wily_magpie.core.places.history import History
from wily_magpie.core.places.to_sql import table_of


class RowHistory:
    """What happened to one entry of a collection, worked out backwards from what it is now.

    Args:
        fields: of the collection.
    """

    def __init__(self, history: History, table: str, fields: Sequence[Field], entry: Entry) -> None:
        self.history = history
        self.table = table
        self.entry_id = entry.id
        by_column = {one.column: one for one in fields if one.is_stored}
        names = history.database.rows(f"SELECT name FROM pragma_table_info('{table}')")
        self.fields = [by_column.get(str(name)) for (name,) in names]
        self.links = {one.settings.link: one for one in fields if one.kind.is_linked}
        self.values: dict[str, Value] = {"title": entry.title, **entry.values}
        self.body = entry.body or ""

    def happenings(self) -> Iterator[Happening]:
        """The latest first, back to the step that made it."""
        sql = "SELECT id, label, at, changeset FROM history WHERE state <> 1 AND changeset IS NOT NULL ORDER BY id DESC"
        for step, label, at, packed in self.history.database.rows(sql):
            changeset = zlib.decompress(packed) if isinstance(packed, bytes) else b""
            changes, is_beginning = self.undone(apsw.Changeset.iter(changeset))
            if changes:
                values = dict(self.values)
                yield Happening(int(str(step)), str(label), str(at), tuple(changes), values, self.body, is_beginning)
            if is_beginning:
                return

    def undone(self, changeset: Iterable[apsw.TableChange]) -> tuple[list[FieldChange], bool]:
        """What a step did to the entry, whose state here is then the one before it; and whether it made the entry."""
        changes: list[FieldChange] = []
        links: list[LinkChange] = []
        is_beginning = False
        for change in changeset:
            if change.name == self.table and key_of(change) == self.entry_id:
                is_beginning |= change.op == "INSERT"
                changes += self.of_row(change)
            elif change.name == "content" and key_of(change) == self.entry_id:
                changes += self.of_body(change)
            elif change.name == "link":
                links += link_of(change, self.links, self.entry_id)
        changes += [link_change(one, self.history, self.values) for one in sorted(links, key=lambda one: one.at)]
        return changes, is_beginning

    def of_row(self, change: apsw.TableChange) -> Iterator[FieldChange]:
        """What changed in the row."""
        for one, before, after in differing(change, self.fields):
            old, new = one.kind.from_column(before), one.kind.from_column(after)
            self.values[one.key] = old
            yield FieldChange(one, one.shown(old), one.shown(new))

    def of_body(self, change: apsw.TableChange) -> Iterator[FieldChange]:
        """What changed in the text."""
        before, after = cell(change.old, 2), cell(change.new, 2)
        if isinstance(before, str) or isinstance(after, str):
            self.body = str(before or "")
            yield FieldChange(None, self.body, str(after or ""))


def key_of(change: apsw.TableChange) -> object:
    """The first column of the row that changed, which is its number."""
    return cell(change.old, 0) if change.old is not None else cell(change.new, 0)


def cell(row: Sequence[object] | None, number: int) -> object:
    """A cell of a changed row; None where it did not change."""
    value = row[number] if row is not None and number < len(row) else None
    return None if value is apsw.no_change else value


def differing(change: apsw.TableChange, fields: Sequence[Field | None]) -> Iterator[tuple[Field, object, object]]:
    """(field, before, after) of a changed row."""
    width = len(change.new or change.old or ())
    for number in range(min(width, len(fields))):
        one = fields[number]
        before, after = cell(change.old, number), cell(change.new, number)
        if one is not None and before != after:
            yield one, before, after


@dataclass(frozen=True)
class LinkChange:
    """A link of the entry that was made or taken out: its reference, the entry at its other end, its place in the list."""

    field: Field
    other: int
    at: float
    is_made: bool


def link_of(change: apsw.TableChange, links: Mapping[int, Field], entry_id: int) -> Iterator[LinkChange]:
    """What happened to a link, where the entry is one of its ends."""
    is_made = change.op == "INSERT"
    row = change.new if is_made else change.old
    one = links.get(int(str(cell(row, 0))))
    if one is None or change.op == "UPDATE":
        return
    ends = [(int(str(cell(row, 1))), cell(row, 3)), (int(str(cell(row, 2))), cell(row, 4))]
    (own, at), (other, _) = reversed(ends) if one.settings.is_back else ends
    if own == entry_id:
        yield LinkChange(one, other, float(str(at)), is_made)


def link_change(moved: LinkChange, history: History, values: dict[str, Value]) -> FieldChange:
    """How it is told; `values` gets what the reference was before."""
    one = moved.field
    now = values.get(one.key)
    there = [link for link in now if getattr(link, "id", 0) != moved.other] if isinstance(now, tuple) else []
    title = history.database.one(f"SELECT title FROM {table_of(one.settings.target)} WHERE id = ?", (moved.other,))
    if not moved.is_made and title is not None:
        there.append(Link(str(title), moved.other))
    values[one.key] = tuple(there) or None
    said = str(title or "a deleted entry")
    return FieldChange(one, "", said) if moved.is_made else FieldChange(one, said, "")
