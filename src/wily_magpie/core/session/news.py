"""What a step changed, told from the step itself: so it is the same whoever did it, in whichever process."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

import apsw

from wily_magpie.core.entries.step import Step
from wily_magpie.core.events import Changed
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.places.history import StepRecord
from wily_magpie.core.places.library.library import Library

MOST_CHANGES = 20_000
"""Changed rows that are looked at one by one; of a larger step, any entry may be another."""
MOST_IDS = 5_000
OF_PLACES, OF_TEMPLATES = frozenset(("collection", "notes_folder", "field", "view")), frozenset(("template", "sample"))
BODY = "body"


@dataclass
class News:
    """What is known of a step so far."""

    places: Mapping[str, PlaceInfo]
    entries: dict[str, set[int]] = field(default_factory=dict)
    fields: dict[str, set[str]] = field(default_factory=dict)
    tables: set[str] = field(default_factory=set)
    any_of: set[str] = field(default_factory=set)
    """Places of which any entry may be another."""

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

    def changed(self, step: Step, *, is_own: bool) -> Changed:
        """As it is told. Of places that refer to what changed, any entry may show something else now."""
        for key in list(self.entries):
            for one in self.places[key].fields:
                if one.kind.is_linked and one.settings.target not in self.entries:
                    self.touch(one.settings.target, None, set())
        entries = {key: frozenset() if key in self.any_of else frozenset(ids) for key, ids in self.entries.items()}
        return Changed(
            step,
            is_own,
            entries,
            {key: frozenset(keys) for key, keys in self.fields.items()},
            bool(self.tables & OF_PLACES),
            bool(self.tables & OF_TEMPLATES),
            "setting" in self.tables,
        )


def changed_by(library: Library, places: Mapping[str, PlaceInfo], record: StepRecord, *, is_own: bool) -> Changed:
    """What a step changed.

    Args:
        places: as they were known before it.
    """
    news = News(places)
    columns = {
        place.key: {field.column: field.key for field in place.fields if field.is_stored} for place in places.values()
    }
    names = {key: column_names(library, key) for key in places}
    for number, change in enumerate(apsw.Changeset.iter(record.changeset)):
        if number > MOST_CHANGES:
            for key in places:
                news.touch(key, None, set())
            news.tables |= OF_PLACES | OF_TEMPLATES
            break
        news.tables.add(change.name)
        note_change(library, news, change, columns, names)
    for path in record.paths:
        note_file(library, news, path)
    return news.changed(record.step, is_own=is_own)


def column_names(library: Library, place: str) -> list[str]:
    """The columns of a collection's table, in their order; of others, none."""
    table = re.fullmatch(r"collection:(\d+)", place)
    if table is None:
        return []
    return [str(name) for (name,) in library.database.rows(f"SELECT name FROM pragma_table_info('c{table[1]}')")]


def note_change(
    library: Library,
    news: News,
    change: apsw.TableChange,
    columns: Mapping[str, Mapping[str, str]],
    names: Mapping[str, list[str]],
) -> None:
    """One changed row."""
    key = first(change)
    table = re.fullmatch(r"c(\d+)", change.name)
    if table is not None:
        place = f"collection:{table[1]}"
        new = change.new if change.op == "UPDATE" and change.new is not None else ()
        pairs = zip(names.get(place, ()), new, strict=False)
        changed = {name for name, value in pairs if value is not apsw.no_change}
        known = {**columns.get(place, {}), "title": "title"}
        news.touch(place, int(str(key)), {known[name] for name in changed if name in known})
    elif change.name == "content":
        number = library.database.one("SELECT collection_id FROM content WHERE entry_id = ?", (key,))
        if number is not None:
            news.touch(f"collection:{number}", int(str(key)), {BODY})
    elif change.name == "link":
        note_link(news, change)
    elif change.name == "mark":
        note_mark(library, news, change)


def note_link(news: News, change: apsw.TableChange) -> None:
    """A reference was made or taken out: both ends changed."""
    row = change.old if change.op != "INSERT" else change.new
    number, source, target = (row or (None, None, None))[:3]
    for place in news.places.values():
        for one in place.fields:
            if one.kind.is_linked and one.settings.link == number:
                end = target if one.settings.is_back else source
                news.touch(place.key, int(str(end)), {one.key})


def note_mark(library: Library, news: News, change: apsw.TableChange) -> None:
    """A mark was made, changed or taken away."""
    sql = "SELECT place, owner FROM mark WHERE id = ?"
    rows = library.database.rows(sql, (first(change),))
    row = change.old if change.op == "DELETE" else None
    place, owner = rows[0] if rows else (row[1], row[2]) if row is not None else ("", "")
    found = library.find_place(str(place)) if place in news.places else None
    if found is not None:
        news.touch(found.key, found.id_of(str(owner)), {"marks"})


def note_file(library: Library, news: News, path: Path) -> None:
    """A file of a notes folder was written."""
    for place in news.places.values():
        if place.path and path.is_relative_to(place.path):
            owner = path.relative_to(place.path).as_posix()
            found = library.find_place(place.key)
            news.touch(place.key, found.id_of(owner) if found is not None else None, {BODY})


def first(change: apsw.TableChange) -> object:
    """The first column of the row that changed, which is its number."""
    row = change.old if change.old is not None else change.new
    return row[0] if row is not None else None
