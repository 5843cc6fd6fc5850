"""A collection: a typed table of the library, with the bodies of its entries apart."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from wily_magpie.core.entries.entry import Draft, Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields import Value
from wily_magpie.core.places.api import Listing
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.table import Table, address_key
from wily_magpie.core.query.nodes import Question


class Collection:
    """See api.Place. Whoever changes something does it inside a step of the library's history."""

    def __init__(self, database: Database, number: int, name: str, fields: Sequence[Field]) -> None:
        self.number = number
        self.name = name
        self.key = f"collection:{number}"
        self.database = database
        self.table = Table(database, f"c{number}", self.key, fields)

    @property
    def fields(self) -> tuple[Field, ...]:
        return self.table.fields

    def listing(self, question: Question) -> Listing:
        return self.table.listing(question)

    def rows(self, ids: Sequence[int]) -> list[Entry]:
        return self.table.rows(ids)

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
        with self.database.writing() as connection:
            connection.execute("INSERT INTO content (collection_id, markdown) VALUES (?, ?)", (self.number, draft.body))
            entry_id = connection.last_insert_rowid()
            key = draft.canonical or address_key(self.fields, draft.values) or ""
            self.table.insert(entry_id, draft.title, draft.values, key)
            return entry_id

    def change(self, entry_id: int, values: Mapping[str, Value], body: str | None = None) -> None:
        with self.database.writing() as connection:
            if values:
                self.table.update(entry_id, values, address_key(self.fields, values))
            if body is not None:
                connection.execute("UPDATE content SET markdown = ? WHERE entry_id = ?", (body, entry_id))

    def remove(self, ids: Sequence[int]) -> None:
        with self.database.writing() as connection:
            self.table.delete(ids)
            connection.executemany("DELETE FROM content WHERE entry_id = ?", [(entry_id,) for entry_id in ids])
            connection.executemany("DELETE FROM page WHERE entry_id = ?", [(entry_id,) for entry_id in ids])
