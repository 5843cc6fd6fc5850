"""What a step touched, read from its record: so it is the same whoever did it, in whichever process, done or undone."""

from collections.abc import Mapping, Sequence

import apsw

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.places.history import StepRecord
from wily_magpie.core.places.library.library import Library

MOST_CHANGES = 20_000
"""Changed rows that are looked at one by one; of a larger step, any entry may be another."""
MOST_IDS = 5_000
FEW_FILES = 20
"""Files of notes that are looked at for what changed in them."""
BODY = "body"
MARK_TABLES = {"gathered": 3, "mark_use": 1}
"""Tables about marks, with the column of the mark."""


class Touched:
    """What is known of a step so far.

    Attributes:
        entries: numbers by the key of the place; fields: keys by the same, "body" for the text.
        tables: of the schema; any_of: places of which any entry may be another.
        is_large: whether not every row was looked at, so that anything may be another.
    """

    def __init__(self, places: Mapping[str, PlaceInfo]) -> None:
        self.places = places
        self.entries: dict[str, set[int]] = {}
        self.fields: dict[str, set[str]] = {}
        self.tables: set[str] = set()
        self.any_of: set[str] = set()
        self.is_large = False

    def touch(self, place: str, entry_id: int | None, keys: set[str]) -> None:
        """An entry changed; None: any."""
        if place not in self.places:
            return
        ids = self.entries.setdefault(place, set())
        self.fields.setdefault(place, set()).update(keys)
        if entry_id is None or len(ids) > MOST_IDS:
            self.any_of.add(place)
        else:
            ids.add(entry_id)


@dataclass(frozen=True)
class TableShape:
    """A collection's table: its place, and its columns in order, each with the key of its field or ""."""

    place: str
    columns: tuple[str, ...]


def touched_by(library: Library, places: Mapping[str, PlaceInfo], record: StepRecord) -> Touched:
    """What a step touched.

    Args:
        places: as they were known before it.
    """
    out = Touched(places)
    shapes = shapes_of(library, places)
    for number, change in enumerate(apsw.Changeset.iter(record.changeset)):
        if number > MOST_CHANGES:
            out.is_large = True
            for key in places:
                out.touch(key, None, set())
            break
        out.tables.add(change.name)
        look_at(library, out, change, shapes)
    look_at_files(library, out, record)
    touch_other_ends(out)
    return out


def shapes_of(library: Library, places: Mapping[str, PlaceInfo]) -> dict[str, TableShape]:
    """The tables of collections, by their names."""
    out = {}
    for collection in library.collections():
        if collection.key in places:
            known = {one.column: one.key for one in places[collection.key].fields if one.is_stored} | {"title": "title"}
            names = library.database.rows("SELECT name FROM pragma_table_info(?)", (collection.table.name,))
            out[collection.table.name] = TableShape(
                collection.key, tuple(known.get(str(name), "") for (name,) in names)
            )
    return out


def look_at(library: Library, out: Touched, change: apsw.TableChange, shapes: Mapping[str, TableShape]) -> None:
    """One changed row."""
    if change.name in shapes:
        shape = shapes[change.name]
        new = change.new if change.op == "UPDATE" and change.new is not None else ()
        pairs = zip(shape.columns, new, strict=False)
        changed = {key for key, value in pairs if key and value is not apsw.no_change}
        out.touch(shape.place, int(str(first(change))), changed)
    elif change.name == "content":
        sql = "SELECT collection_id FROM content WHERE entry_id = ?"
        found = shapes.get(f"c{library.database.one(sql, (first(change),))}")
        if found is not None:
            out.touch(found.place, int(str(first(change))), {BODY})
    elif change.name == "link":
        look_at_link(out, change)
    elif change.name == "mark":
        look_at_mark(library, out, first(change), change.old if change.op == "DELETE" else change.new)
    elif change.name in MARK_TABLES:
        row = library.database.rows(f"SELECT mark FROM {change.name} WHERE id = ?", (first(change),))
        gone = change.old if change.op == "DELETE" else change.new
        at = MARK_TABLES[change.name]
        number = row[0][0] if row else gone[at] if gone is not None else None
        look_at_mark(library, out, number, None)


def look_at_link(out: Touched, change: apsw.TableChange) -> None:
    """A reference was made or taken out: both ends changed."""
    row = change.old if change.op != "INSERT" else change.new
    number, source, target = (row or (None, None, None))[:3]
    for place in out.places.values():
        for one in place.fields:
            if one.kind.is_linked and one.settings.link == number:
                end = target if one.settings.is_back else source
                out.touch(place.key, int(str(end)), {one.key})


def look_at_mark(library: Library, out: Touched, number: object, gone: Sequence[object] | None) -> None:
    """A mark was made, changed, gathered, used or taken away.

    Args:
        gone: its row, where it may be gone.
    """
    rows = library.database.rows("SELECT place, owner FROM mark WHERE id = ?", (number,))
    place, owner = rows[0] if rows else (gone[1], gone[2]) if gone is not None else ("", "")
    found = library.find_place(str(place)) if place in out.places else None
    if found is not None:
        out.touch(found.key, found.id_of(str(owner)), {"marks"})


def look_at_files(library: Library, out: Touched, record: StepRecord) -> None:
    """Files of notes folders were written."""
    is_few = len(record.paths) <= FEW_FILES
    before_after = {path: rest for path, *rest in library.history.files_of(record.step, back=False)} if is_few else {}
    for path in record.paths:
        for place in out.places.values():
            if place.path and path.is_relative_to(place.path):
                owner = path.relative_to(place.path).as_posix()
                found = library.find_place(place.key)
                keys = keys_changed(*before_after[path]) if path in before_after else {BODY}
                out.touch(place.key, found.id_of(owner) if found is not None else None, keys)


def keys_changed(before: bytes | None, after: bytes | None) -> set[str]:
    """The keys of front matter in which two states of a file differ; BODY where its text does, or it came or went."""
    if before is None or after is None:
        return {BODY}
    from wily_magpie.core.places.notes import note_file  # only where a note was written

    old, new = (note_file.parse(content.decode("utf-8", "replace")) for content in (before, after))
    if old.body != new.body or old.fault or new.fault:
        return {BODY}
    keys = {key for key in {*old.matter, *new.matter} if old.matter.get(key) != new.matter.get(key)}
    return {*keys, "note.size", "note.tags"}


def touch_other_ends(out: Touched) -> None:
    """Of places that refer to what changed, any entry may show something else now."""
    for key in list(out.entries):
        for one in out.places[key].fields:
            if one.kind.is_linked and one.settings.target not in out.entries:
                out.touch(one.settings.target, None, set())


def first(change: apsw.TableChange) -> "apsw.SQLiteValue":
    """The first column of the row that changed, which is its number."""
    row = change.old if change.old is not None else change.new
    found = row[0] if row is not None else None
    return None if found is apsw.no_change else found
