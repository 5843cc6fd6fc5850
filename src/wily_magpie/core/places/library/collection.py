"""A collection: a typed table of the library, with the bodies of its entries and their links apart."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from wily_magpie.core.entries.entry import Draft, Entry
from wily_magpie.core.entries.field import TITLE, Field
from wily_magpie.core.entries.title_pattern import fill_pattern
from wily_magpie.core.fields import Link, Value
from wily_magpie.core.places.api import Listing, PlaceSettings
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.rules import with_gaps
from wily_magpie.core.places.table import Table, address_key
from wily_magpie.core.places.trash import Trash
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.query.to_sql import table_of


class Collection:
    """See api.Place. Whoever changes something does it inside a step of the library's history."""

    def __init__(
        self, database: Database, number: int, name: str, fields: Sequence[Field], settings: PlaceSettings
    ) -> None:
        self.number = number
        self.name = name
        self.key = f"collection:{number}"
        self.settings = settings
        self.database = database
        plain = Table(database, f"c{number}", self.key, fields)
        self.table = Table(database, f"c{number}", self.key, with_gaps(plain.fields, settings.rules, plain.name)[1:])

    @property
    def fields(self) -> tuple[Field, ...]:
        return self.table.fields

    def listing(self, question: Question) -> Listing:
        return self.table.listing(question)

    def rows(self, ids: Sequence[int]) -> list[Entry]:
        return self.table.rows(ids)

    def values_in_use(self, field: Field) -> list[str]:
        if field.kind.name == "reference":
            return Table(self.database, table_of(field.settings.target), "", ()).values_in_use(TITLE)
        return self.table.values_in_use(field)

    def entry(self, entry_id: int) -> Entry | None:
        found = self.table.rows([entry_id])
        if not found:
            return None
        body = self.database.one("SELECT markdown FROM content WHERE entry_id = ?", (entry_id,))
        return replace(found[0], body=str(body or ""))

    def known(self, canonical: str) -> Entry | None:
        entry_id = self.table.known(canonical) if canonical else None
        return self.entry(entry_id) if entry_id is not None else None

    def add(self, draft: Draft) -> int:
        return self.add_all([draft])[0]

    def add_all(self, drafts: Sequence[Draft]) -> list[int]:
        """New entries, at once; their ids."""
        with self.database.writing() as connection:
            last = int(str(self.database.one("SELECT seq FROM sqlite_sequence WHERE name = 'content'") or 0))
            ids = list(range(last + 1, last + 1 + len(drafts)))
            bodies = ((entry_id, self.number, draft.body) for entry_id, draft in zip(ids, drafts, strict=True))
            connection.executemany("INSERT INTO content (entry_id, collection_id, markdown) VALUES (?, ?, ?)", bodies)
            keys = (draft.canonical or address_key(self.fields, draft.values) or "" for draft in drafts)
            self.table.insert(
                [(number, one.title, one.values, key) for number, one, key in zip(ids, drafts, keys, strict=True)]
            )
            for entry_id, draft in zip(ids, drafts, strict=True):
                self.write_links(entry_id, draft.values)
            self.entitle(ids)
            return ids

    def change(self, entry_id: int, values: Mapping[str, Value], body: str | None = None) -> None:
        with self.database.writing() as connection:
            if values:
                self.table.update(entry_id, values, address_key(self.fields, values))
                self.write_links(entry_id, values)
                self.entitle([entry_id])
            if body is not None:
                connection.execute(
                    "UPDATE content SET markdown = ?1 WHERE entry_id = ?2 AND markdown <> ?1", (body, entry_id)
                )

    def change_all(self, ids: Sequence[int], values: Mapping[str, Value]) -> None:
        """Sets fields of many entries at once."""
        linked = any(field.kind.name == "reference" and field.key in values for field in self.fields)
        if linked or self.settings.title_pattern or "title" in values:
            for entry_id in ids:
                self.change(entry_id, values)
        else:
            self.table.update_all(ids, values, address_key(self.fields, values))

    def remove(self, ids: Sequence[int]) -> None:
        with self.database.writing() as connection:
            Trash(self.database).take(self.key, self.table.name, ids)
            self.table.delete(ids)
            connection.executemany("DELETE FROM content WHERE entry_id = ?", [(entry_id,) for entry_id in ids])
            for end in ("source", "target"):
                connection.executemany(f"DELETE FROM link WHERE {end} = ?", [(entry_id,) for entry_id in ids])

    def entitle(self, ids: Sequence[int]) -> None:
        """Gives entries the titles that the collection's pattern makes, where it has one."""
        if not self.settings.title_pattern:
            return
        for entry in self.rows(ids):
            title = fill_pattern(self.settings.title_pattern, self.fields, entry)
            if title and title != entry.title:
                self.table.update(entry.id, {"title": title})

    def write_links(self, entry_id: int, values: Mapping[str, Value]) -> None:
        """Makes the links of references what they are to be; only those with ids are written (see Library.resolve)."""
        for field in self.fields:
            if field.kind.name != "reference" or field.key not in values:
                continue
            own, other = field.settings.ends
            value = values[field.key]
            wanted = [one.id for one in value if isinstance(one, Link)] if isinstance(value, tuple) else []
            number = field.settings.link
            sql = f"SELECT {other} FROM link WHERE number = ? AND {own} = ? ORDER BY {own}_place"
            there = [int(str(row[0])) for row in self.database.rows(sql, (number, entry_id))]
            if there == wanted:
                continue
            with self.database.writing() as connection:
                gone = [(number, entry_id, one) for one in there if one not in wanted]
                connection.executemany(f"DELETE FROM link WHERE number = ? AND {own} = ? AND {other} = ?", gone)
                connection.executemany(
                    f"INSERT INTO link (number, {own}, {other}, {own}_place, {other}_place)"
                    f" VALUES (?1, ?2, ?3, ?4, (SELECT coalesce(max({other}_place), 0) + 1 FROM link"
                    f" WHERE number = ?1 AND {other} = ?3))"
                    f" ON CONFLICT (number, source, target) DO UPDATE SET {own}_place = excluded.{own}_place",
                    [(number, entry_id, one, float(place)) for place, one in enumerate(wanted)],
                )
