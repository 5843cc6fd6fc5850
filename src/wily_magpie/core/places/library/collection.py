"""A collection: a typed table of the library, with the bodies of its entries and their links apart."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cached_property

from wily_magpie.core.entries.entry import Draft, Entry, with_files
from wily_magpie.core.entries.field import TITLE, Field, FieldPlan
from wily_magpie.core.entries.happening import Happening
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.entries.title_pattern import fill_pattern
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import KINDS, Link, Value
from wily_magpie.core.fields.base import Sql
from wily_magpie.core.places.api import COLLECTION, FieldConversion, Listing, Place, PlaceSettings, first_of
from wily_magpie.core.places.context import PlaceContext
from wily_magpie.core.places.field_store import FieldStore
from wily_magpie.core.places.rules import with_gaps
from wily_magpie.core.places.table import Table, address_key
from wily_magpie.core.places.to_sql import table_of
from wily_magpie.core.query.askable import beyond_of
from wily_magpie.core.query.nodes import Question


class Collection(Place):
    """See api.Place. Whoever changes something does it inside a step of the library's history."""

    nature = COLLECTION
    knows_whole_states = True

    def __init__(self, context: PlaceContext, number: int, name: str, settings: PlaceSettings, layout: Layout) -> None:
        self.context = context
        self.number = number
        self.name = name
        self.key = f"collection:{number}"
        self.settings = settings
        self.own_layout = layout
        self.database = context.database
        self.field_store = FieldStore(self.database)
        plain = Table(self.database, f"c{number}", self.key, self.field_store.of(self.key))
        self.table = Table(
            self.database, plain.name, self.key, with_gaps(plain.fields, settings.rules, plain.name)[1:], self.marked
        )

    @property
    def fields(self) -> tuple[Field, ...]:
        return self.table.fields

    @property
    def layout(self) -> Layout:
        return self.own_layout

    @cached_property
    def beyond(self) -> tuple[Field, ...]:
        return tuple(
            field
            for reference in self.fields if reference.kind.is_linked
            for field in beyond_of(reference, (TITLE, *self.field_store.plain_of(reference.settings.target)))
        )  # fmt: skip

    def marked(self, what: str) -> Sql:
        """Whether an entry has a mark, or one with a comment."""
        comment = " AND comment <> ''" if what == "comment" else ""
        return f"id IN (SELECT CAST(owner AS INTEGER) FROM mark WHERE place = ?{comment})", [self.key]

    def listing(self, question: Question) -> Listing:
        return self.table.listing(question)

    @property
    def rows_table(self) -> Table:
        return self.table

    def rows(self, ids: Sequence[int]) -> list[Entry]:
        return self.table.rows(ids)

    def values_in_use(self, field: Field) -> list[str]:
        if field.kind.is_linked:
            return Table(self.database, table_of(field.settings.target), "", ()).values_in_use(TITLE)
        return self.table.values_in_use(field)

    def entry(self, entry_id: int) -> Entry | None:
        found = self.table.rows([entry_id])
        if not found:
            return None
        body = self.database.one("SELECT markdown FROM content WHERE entry_id = ?", (entry_id,))
        return replace(found[0], body=str(body or ""))

    def signatures(self, ids: Sequence[int] | None = None) -> dict[int, str]:
        which = "" if ids is None else " WHERE id IN (SELECT value FROM json_each(?))"
        sql = (
            f"SELECT id, modified || ' ' || coalesce(octet_length(markdown), 0) FROM {self.table.name}"
            f" LEFT JOIN content ON entry_id = id{which}"
        )
        rows = self.database.rows(sql, () if ids is None else (json.dumps(list(ids)),))
        return {int(str(number)): str(told) for number, told in rows}

    def known(self, canonical: str) -> Entry | None:
        entry_id = self.table.known(canonical) if canonical else None
        return self.entry(entry_id) if entry_id is not None else None

    def owner_of(self, entry_id: int) -> str:
        return str(entry_id)

    def id_of(self, owner: str) -> int | None:
        return int(owner) if owner.isdigit() else None

    def page_owner(self, entry_id: int) -> int | None:
        return entry_id

    def is_declared(self, field: Field) -> bool:
        return True

    def history_of(self, entry_id: int) -> list[Happening]:
        from wily_magpie.core.places.library.row_history import RowHistory  # not needed at start

        entry = self.entry(entry_id)
        if entry is None:
            return []
        return list(RowHistory(self.context.history, self.table.name, self.fields, entry).happenings())

    def referring_here(self, entry_id: int) -> list[tuple[str, int, str, str]]:
        out: list[tuple[str, int, str, str]] = []
        entry = next(iter(self.rows([entry_id])), None)
        for field in self.fields if entry else ():
            value = entry.value(field.key) if entry else None
            if field.kind.is_linked and field.settings.is_back and isinstance(value, tuple):
                out += [(field.settings.target, getattr(one, "id", 0), one, field.label) for one in value]
        return out

    # changing

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
        linked = any(field.kind.is_linked and field.key in values for field in self.fields)
        if linked or self.settings.title_pattern or "title" in values:
            super().change_all(ids, values)
        else:
            self.table.update_all(ids, values, address_key(self.fields, values))

    def remove(self, ids: Sequence[int]) -> None:
        with self.database.writing() as connection:
            self.context.trash.take(self.key, self.table.name, ids)
            self.table.delete(ids)
            connection.executemany("DELETE FROM content WHERE entry_id = ?", [(entry_id,) for entry_id in ids])
            for end in ("source", "target"):
                connection.executemany(f"DELETE FROM link WHERE {end} = ?", [(entry_id,) for entry_id in ids])

    def restore(self, trash_id: int) -> None:
        self.context.trash.restore_row(trash_id, self.table.name, self.number)

    def attach(self, entry_id: int, field: Field | None, files: Sequence[tuple[str, bytes, str]]) -> None:
        target = field or first_of(self.fields, lambda one: one.kind.holds_files)
        if target is None:
            raise UserError("unknown-field", f"{self.name} has no field for files.", "Add one in its set-up.")
        stored = tuple(self.context.keep_file(*file) for file in files)
        self.change(entry_id, with_files(next(iter(self.rows([entry_id])), None), {target.key: stored}))

    def entitle_all(self) -> None:
        self.entitle(self.listing(Question()).ids)

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
            if not field.kind.is_linked or field.key not in values:
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

    # its fields

    def prepare_column(self, number: int, kind: str) -> None:
        if KINDS[kind].column_type:
            self.table.add_column(Field("", "", KINDS[kind], f"f{number}"))

    def follow_columns(self) -> None:
        table = Table(self.database, self.table.name, self.key, self.field_store.of(self.key))
        table.make_triggers(self.field_store.ever(self.key))
        table.make_order()

    def drop_field(self, field: Field) -> None:
        with self.database.writing() as connection:
            if field.kind.is_linked:
                connection.execute("DELETE FROM link WHERE number = ?", (field.settings.link,))
            elif field.is_stored:
                column = f'"{field.column}"'
                connection.execute(f"UPDATE {self.table.name} SET {column} = NULL WHERE {column} IS NOT NULL")
        self.field_store.soft_delete(self.key, field)

    def convert(self, conversion: FieldConversion) -> None:
        field, kind, store = conversion.field, conversion.kind, self.field_store
        position = store.position(self.key, field.key)
        if field.kind.is_linked:
            with self.database.writing() as connection:
                connection.execute("DELETE FROM link WHERE number = ?", (field.settings.link,))
        store.soft_delete(self.key, field)
        plan = FieldPlan(field.key, field.label, kind, (), replace(field.settings, default=""))
        store.add(conversion.number, self.key, plan, position)
        if conversion.rest is not None:
            rest = FieldPlan(conversion.rest_key, conversion.rest_label, "long text")
            store.add(conversion.rest, self.key, rest, position + 0.5)
        self.follow_columns()
        self.move_values(conversion)

    def move_values(self, conversion: FieldConversion) -> None:
        """Puts converted values into their new column and the others, as text, into that of the rest."""
        new, old = KINDS[conversion.kind], conversion.field.kind
        rows = [
            (new.to_column(after), None if after is not None else old.show(before), number)
            for number, before, after in conversion.outcomes
        ]
        more = f', "f{conversion.rest}" = ?2' if conversion.rest is not None else ""
        left = f', "{conversion.field.column}" = NULL' if conversion.field.is_stored else ""
        sql = f'UPDATE {self.table.name} SET "f{conversion.number}" = ?1{more}{left} WHERE id = ?3'
        with self.database.writing() as connection:
            connection.executemany(sql, rows)
