"""What happened to one entry: what, when, from, to; read from the steps that undo is made of.

SQLite's changesets tell of each row that was changed the columns before and after. An entry's states are worked out
backwards from what it is now, so that any of them can be brought back.
"""

import zlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import apsw

from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields import Link, Value
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.history import History
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.query.to_sql import table_of


@dataclass(frozen=True)
class FieldChange:
    """One change of one field; body: its field is None."""

    field: Field | None
    before: str
    after: str


@dataclass(frozen=True)
class Event:
    """One step that touched the entry.

    Attributes:
        values, body: what the entry was before it; of a step that made the entry, empty.
    """

    step: int
    label: str
    at: str
    changes: tuple[FieldChange, ...]
    values: Mapping[str, Value] = field(default_factory=dict)
    body: str = ""
    is_beginning: bool = False


def history_of(history: History, place: Place, entry_id: int) -> list[Event]:
    """What happened to an entry, the latest first. Reads all steps: call it off the interface's thread."""
    if isinstance(place, Collection):
        return list(of_row(history, place, entry_id))
    if isinstance(place, NotesFolder):
        return list(of_note(history, place, entry_id))
    return []


def of_row(history: History, place: Collection, entry_id: int) -> Iterator[Event]:
    """Of an entry of a collection."""
    entry = place.entry(entry_id)
    if entry is None:
        return
    stored = [one for one in place.fields if one.is_stored]
    table = history.database.rows(f"SELECT name FROM pragma_table_info('{place.table.name}')")
    by_column = {one.column: one for one in stored}
    fields = [by_column.get(str(name)) for (name,) in table]
    links = {one.settings.link: one for one in place.fields if one.kind.name == "reference"}
    values: dict[str, Value] = {"title": entry.title, **entry.values}
    body = entry.body or ""
    sql = "SELECT id, label, at, changeset FROM history WHERE NOT undone AND changeset IS NOT NULL ORDER BY id DESC"
    for step, label, at, packed in history.database.rows(sql):
        changes: list[FieldChange] = []
        moved: list[Moved] = []
        is_beginning = False
        for change in apsw.Changeset.iter(zlib.decompress(packed)):  # type: ignore[arg-type]
            if change.name == place.table.name and key_of(change) == entry_id:
                is_beginning |= change.op == "INSERT"
                for one, before, after in differing(change, fields):
                    old, new = one.kind.from_column(before), one.kind.from_column(after)
                    changes.append(FieldChange(one, one.shown(old), one.shown(new)))
                    values[one.key] = old
            elif change.name == "content" and key_of(change) == entry_id:
                before, after = cell(change.old, 2), cell(change.new, 2)
                if isinstance(before, str) or isinstance(after, str):
                    changes.append(FieldChange(None, str(before or ""), str(after or "")))
                    body = str(before or "")
            elif change.name == "link":
                moved += link_of(change, links, entry_id)
        changes += [link_turn(one, history, values) for one in sorted(moved, key=lambda one: one.at)]
        if changes:
            yield Event(int(str(step)), str(label), str(at), tuple(changes), dict(values), body, is_beginning)
        if is_beginning:
            return


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
class Moved:
    """A link of the entry that was made or taken out: its reference, the entry at its other end, its place in the list."""

    field: Field
    other: int
    at: float
    is_made: bool


def link_of(change: apsw.TableChange, links: Mapping[int, Field], entry_id: int) -> Iterator[Moved]:
    """What happened to a link, where the entry is one of its ends."""
    is_made = change.op == "INSERT"
    row = change.new if is_made else change.old
    one = links.get(int(str(cell(row, 0))))
    if one is None or change.op == "UPDATE":
        return
    ends = [(int(str(cell(row, 1))), cell(row, 3)), (int(str(cell(row, 2))), cell(row, 4))]
    (own, at), (other, _) = reversed(ends) if one.settings.is_back else ends
    if own == entry_id:
        yield Moved(one, other, float(str(at)), is_made)


def link_turn(moved: Moved, history: History, values: dict[str, Value]) -> FieldChange:
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


def of_note(history: History, place: NotesFolder, entry_id: int) -> Iterator[Event]:
    """Of a note: what our own steps made of its file."""
    from wily_magpie.core.places.notes import note_file  # YAML is needed only where a file is read

    found = place.rows([entry_id])
    if not found:
        return
    sql = (
        "SELECT history.id, label, at, before, after FROM history JOIN history_file ON history_id = history.id"
        " WHERE NOT undone AND path = ? ORDER BY history.id DESC"
    )
    fields = {one.key: one for one in place.fields}
    for step, label, at, before, after in history.database.rows(sql, (str(place.path / found[0].path),)):
        old, new = (note_file.parse(text_of(content)) for content in (before, after))
        changes = []
        values: dict[str, Value] = {}
        for key in dict.fromkeys([*old.matter, *new.matter]):
            one = fields.get(key)
            if one is not None and old.matter.get(key) != new.matter.get(key):
                changes.append(FieldChange(one, plainly(old.matter.get(key)), plainly(new.matter.get(key))))
            if one is not None:
                try:
                    values[key] = one.kind.from_plain(old.matter.get(key))
                except UnreadableValue:
                    continue
        if old.body.strip("\r\n") != new.body.strip("\r\n"):
            changes.append(FieldChange(None, old.body.strip("\r\n"), new.body.strip("\r\n")))
        if changes:
            body = old.body.strip("\r\n")
            yield Event(int(str(step)), str(label), str(at), tuple(changes), values, body, before is None)


def text_of(content: object) -> str:
    """The text of a file's bytes."""
    return content.decode("utf-8", "replace") if isinstance(content, bytes) else ""


def plainly(value: object) -> str:
    """A value of front matter in a line."""
    return "; ".join(map(str, value)) if isinstance(value, list) else str(value or "")
