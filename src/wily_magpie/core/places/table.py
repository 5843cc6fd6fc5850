"""A table of typed columns: what a collection and the index of a notes folder have in common.

The columns id, title, title_key (for sorting) and address_key (for knowing a page again) are always there; the
others belong to fields. A row of many values is a JSON array; `multi_value` has them value by value, kept by triggers.
"""

import json
import re
import sys
import time
import unicodedata
from array import array
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace
from datetime import date
from itertools import groupby

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import TITLE, Field
from wily_magpie.core.entries.layout import Sum
from wily_magpie.core.entries.roles import SURE_ADDRESSES, words_of
from wily_magpie.core.fields import Value
from wily_magpie.core.fields.base import Sql
from wily_magpie.core.pages.address import canonical, path_of
from wily_magpie.core.patterns import pattern
from wily_magpie.core.places import grouping, to_sql
from wily_magpie.core.places.api import NEWEST_FIRST, Glimpse, Group, Listing
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.dealing import dealt
from wily_magpie.core.query.nodes import Grouping, Question

PICTURE = pattern(r"\.(png|jpe?g|gif|webp|avif|svg|bmp|ico)$", re.IGNORECASE)
"""The end of an address that leads to a picture."""
MOST_VALUES = 2_000
GLIMPSED = 600
"""Characters of a text that are seen of it on a card."""
SIGNS, ARTICLE, NUMBER = pattern(r"^\W+"), pattern(r"^(the|an?) (?=\w)"), pattern(r"\d+")
UNIT = 31
"""The sign of ASCII that parts units; one in a value is shown as a blank."""
LEAST_DEALT = 10_000
"""Rows from which it pays to deal them out to their groups, rather than to sort by these too."""
SHARED_SQL = """
CREATE TABLE IF NOT EXISTS multi_value (
  column TEXT NOT NULL, value TEXT NOT NULL, entry_id INTEGER NOT NULL,
  PRIMARY KEY (column, value, entry_id)) STRICT, WITHOUT ROWID;
CREATE INDEX IF NOT EXISTS multi_value_by_entry ON multi_value (entry_id, column);
CREATE VIRTUAL TABLE IF NOT EXISTS entry_text USING fts5 (
  title, fields, tokenize = "unicode61 remove_diacritics 2", prefix = '2 3');
CREATE VIRTUAL TABLE IF NOT EXISTS body_text USING fts5 (
  body, tokenize = "unicode61 remove_diacritics 2", prefix = '3');
"""


def sort_key(title: str) -> str:
    """What titles are sorted by: no case, accents, leading article or punctuation, numbers by their size."""
    bare = title.casefold()
    if not bare.isascii():
        bare = "".join(char for char in unicodedata.normalize("NFKD", bare) if not unicodedata.combining(char))
    key = ARTICLE.sub("", SIGNS.sub("", bare))
    return NUMBER.sub(lambda found: found[0].zfill(8), key)


class Table:
    """One such table in a database.

    Args:
        fields: without the title.
        holding: the SQL of whether an entry has a mark or a comment; None where that is not known.

    Attributes:
        own_fields: all but the title; stored_fields: those of them with a column of their own.
    """

    def __init__(
        self,
        database: Database,
        name: str,
        place: str,
        fields: Sequence[Field],
        holding: Callable[[str], Sql] | None = None,
    ) -> None:
        self.database = database
        self.name = name
        self.place = place
        self.fields = (TITLE, *fields)
        self.own_fields = self.fields[1:]
        self.stored_fields = tuple(field for field in self.own_fields if field.is_stored)
        self.marked = holding
        self.schema = to_sql.TableSchema(name, fields=self.fields, holding=self.holding)

    def holding(self, what: str) -> Sql:
        """Whether an entry has a file, a picture, a mark, a comment or a gap."""
        columns = {
            "file": [one.sql for one in self.fields if one.kind.holds_files],
            "gap": [one.sql for one in self.fields if one.kind.is_of_rules],
            "picture": [one.sql for one in self.fields if one.key == "picture"],
        }.get(what)
        if columns is None:
            return self.marked(what) if self.marked is not None else ("0", [])
        tests = [f"{column} IS NOT NULL" for column in columns]
        if what == "picture":
            tests.append(f"id IN (SELECT rowid FROM {self.schema.bodies} WHERE body LIKE '%![%')")
        return f"({' OR '.join(tests or ['0'])})", []

    def create(self) -> None:
        """Makes the table and its triggers."""
        columns = "".join(f', "{field.column}" {field.kind.column_type}' for field in self.stored_fields)
        with self.database.writing() as connection:
            connection.execute(
                f"CREATE TABLE {self.name} (id INTEGER PRIMARY KEY, title TEXT NOT NULL, title_key TEXT NOT NULL,"
                f" address_key TEXT, modified TEXT NOT NULL{columns}) STRICT"
            )
            connection.execute(f"CREATE INDEX {self.name}_title ON {self.name} (title_key)")
            connection.execute(f"CREATE INDEX {self.name}_address ON {self.name} (address_key)")
        self.make_triggers()
        self.make_order()

    def make_order(self) -> None:
        """Keeps rows in the order in which a place is usually looked at, where it has one: sorting all takes ten times as long."""
        for field in self.stored_fields:
            if field.key == NEWEST_FIRST:
                with self.database.writing() as connection:
                    connection.execute(order_sql(self.name, field.column))

    def make_triggers(self, watched_fields: Sequence[Field] | None = None) -> None:
        """Full text and `multi_value` follow the table by themselves, so undo and other programs keep them right too.

        Args:
            watched_fields: with fields that were deleted, since undo may bring those back; None: those of the table.
        """
        stored = self.stored_fields if watched_fields is None else watched_fields
        worded = [field for field in stored if field.kind.is_worded]
        texts = " || ' ' || ".join(f"coalesce(new.\"{field.column}\", '')" for field in worded) or "''"
        watched = ", ".join(["title", *(f'"{field.column}"' for field in worded)])
        put = f"INSERT INTO entry_text (rowid, title, fields) VALUES (new.id, new.title, {texts});"
        drop = "DELETE FROM entry_text WHERE rowid = old.id;"
        with self.database.writing() as connection:
            for trigger in ("added", "changed", "removed"):
                connection.execute(f"DROP TRIGGER IF EXISTS {self.name}_{trigger}")
            many = [field for field in stored if field.kind.is_many]
            choose = "".join(
                f"INSERT OR IGNORE INTO multi_value SELECT '{field.column}', value, new.id"
                f" FROM json_each(coalesce(new.\"{field.column}\", '[]'));"
                for field in many
            )
            connection.execute(
                f"CREATE TRIGGER {self.name}_added AFTER INSERT ON {self.name} BEGIN {put} {choose} END;"
                f"CREATE TRIGGER {self.name}_changed AFTER UPDATE OF {watched} ON {self.name} BEGIN {drop} {put} END;"
                f"CREATE TRIGGER {self.name}_removed AFTER DELETE ON {self.name} BEGIN {drop}"
                " DELETE FROM multi_value WHERE entry_id = old.id; END;"
            )
            for field in many:
                name = f"{self.name}_chose_{field.column}"
                connection.execute(
                    f'DROP TRIGGER IF EXISTS "{name}";'
                    f'CREATE TRIGGER "{name}" AFTER UPDATE OF "{field.column}" ON {self.name} BEGIN'
                    f" DELETE FROM multi_value WHERE entry_id = old.id AND column = '{field.column}';"
                    f"INSERT OR IGNORE INTO multi_value SELECT '{field.column}', value, new.id"
                    f" FROM json_each(coalesce(new.\"{field.column}\", '[]')); END;"
                )

    def insert(self, rows: Sequence[tuple[int, str, Mapping[str, Value], str]]) -> None:
        """New rows, each with id, title, values and address key; keys that are no field are ignored."""
        names = "".join(f', "{field.column}"' for field in self.stored_fields)
        stored = [(field.key, field.kind.to_column) for field in self.stored_fields]
        moment = now()
        bound = (
            (
                entry_id,
                title,
                sort_key(title),
                key or None,
                moment,
                *[write(values.get(name)) for name, write in stored],
            )
            for entry_id, title, values, key in rows
        )
        with self.database.writing():
            into = f"INSERT INTO {self.name} (id, title, title_key, address_key, modified{names})"
            self.database.insert_rows(into, bound)

    def update(self, entry_id: int, values: Mapping[str, Value], address_key: str | None = None) -> None:
        """Sets fields of a row; "title" may be among them. address_key None: as it was.

        Values that it has already change nothing, not even the time of its last change.
        """
        row: dict[str, object] = {}
        for field in (TITLE, *self.stored_fields):
            if field.key in values:
                row[field.column] = field.kind.to_column(values[field.key])
        if TITLE.column in row:
            row["title_key"] = sort_key(str(row[TITLE.column]))
        if address_key is not None:
            row["address_key"] = address_key or None
        self.set_columns([entry_id], row)

    def update_all(self, ids: Sequence[int], values: Mapping[str, Value], address_key: str | None = None) -> None:
        """Sets the same values, not the title, in many rows by one statement."""
        row = {f.column: f.kind.to_column(values[f.key]) for f in self.stored_fields if f.key in values}
        if address_key is not None:
            row["address_key"] = address_key or None
        self.set_columns(ids, row)

    def set_columns(self, ids: Sequence[int], row: Mapping[str, object]) -> None:
        """Sets columns of rows; those that have these values already stay untouched."""
        if not row:
            return
        assignments = ", ".join(f'"{column}" = ?' for column in row)
        differs = " OR ".join(f'"{column}" IS NOT ?' for column in row)
        which = "id = ?" if len(ids) == 1 else "id IN (SELECT value FROM json_each(?))"
        wanted = ids[0] if len(ids) == 1 else json.dumps(list(ids))
        sql = f"UPDATE {self.name} SET {assignments}, modified = ? WHERE {which} AND ({differs})"
        with self.database.writing() as connection:
            connection.execute(sql, (*row.values(), now(), wanted, *row.values()))

    def add_column(self, field: Field) -> None:
        """Gives the table a column for a field."""
        with self.database.writing() as connection:
            connection.execute(f'ALTER TABLE {self.name} ADD COLUMN "{field.column}" {field.kind.column_type}')

    def delete(self, ids: Sequence[int]) -> None:
        """Takes rows out."""
        with self.database.writing() as connection:
            marks = json.dumps(list(ids))
            connection.execute(f"DELETE FROM {self.name} WHERE id IN (SELECT value FROM json_each(?))", (marks,))

    def count(self) -> int:
        """How many rows there are."""
        return int(str(self.database.one(f"SELECT count(*) FROM {self.name}")))

    def listing(self, question: Question) -> Listing:
        """The ids that answer a question, with groups where it has them; all of one moment."""
        with self.database.looking():
            if not question.groups:
                return Listing(self.ids(to_sql.ids(question, self.schema, to_sql.today())), (), self.count())
            if grouping.is_of_options(question) and self.count() > LEAST_DEALT:
                return self.by_options(question, to_sql.today())
            return self.by_groups(question, to_sql.today())

    def by_groups(self, question: Question, today: date) -> Listing:
        """The ids that answer a question with groups, sorted by these first."""
        ids = self.ids(grouping.grouped_ids(question, self.schema, today))
        rows = self.database.rows(*grouping.group_sizes(question, self.schema, today))
        is_repeated = any(one.field.kind.is_many for one in question.groups)
        count = len(set(ids)) if is_repeated else -1
        return Listing(ids, tuple(groups_of(question, rows)), self.count(), count)

    def by_options(self, question: Question, today: date) -> Listing:
        """The ids that answer a question grouped by a field's options: sorted as they would be without groups, and dealt out."""
        field = question.groups[0].field
        ordered = self.ids(to_sql.ids(replace(question, groups=()), self.schema, today))
        ids, (stored,) = self.columns(question, (field,), is_filled=False)
        in_groups, sizes = dealt(ordered, ids, stored, field.options)
        return Listing(in_groups, tuple(groups_of(question, sizes)), self.count())

    def first(self, question: Question, most: int) -> tuple[Sequence[int], int]:
        """The first ids that answer a question without groups, and how many answer; see api.RowsTable."""
        today = to_sql.today()
        ids = self.ids(to_sql.ids(question, self.schema, today, most))
        many = len(ids) if len(ids) < most else int(str(self.database.one(*to_sql.count(question, self.schema, today))))
        return ids, many

    def meets(self, question: Question, ids: Collection[int]) -> bool:
        """Whether any of some entries answers a question; see api.RowsTable."""
        clause, values = to_sql.count(question, self.schema, to_sql.today())
        return bool(
            self.database.one(f"{clause} AND id IN (SELECT value FROM json_each(?))", (*values, json.dumps(list(ids))))
        )

    def ids(self, sql: Sql) -> "array[int]":
        """Ids out of one text, see to_sql.ids."""
        return unpacked(self.database.one(*sql))

    def sums(self, question: Question, wanted: Mapping[str, Sum]) -> dict[tuple[str, ...], dict[str, str]]:
        """What stands at the foot of columns; see api.Place."""
        today = to_sql.today()
        out: dict[tuple[str, ...], dict[str, str]] = {}
        fields = {one.key: one for one in self.fields}
        for depth in range(len(question.groups) + 1):
            within = replace(question, groups=question.groups[:depth], sort=())
            for key, one in wanted.items():
                if key not in fields or not one.fits(fields[key].kind):
                    continue
                units: dict[tuple[str, ...], list[str]] = {}
                for *values, unit, value in self.database.rows(
                    *grouping.summed(within, fields[key], one, self.schema, today)
                ):
                    names = tuple(name_of(group, stored) for group, stored in zip(within.groups, values, strict=True))
                    units.setdefault(names, []).append(shown_sum(fields[key], one, value, str(unit or "")))
                for names, told in units.items():
                    out.setdefault(names, {})[key] = f"{SAID[one]} {'; '.join(told)}".strip()
        return out

    def glimpses(self, ids: Sequence[int]) -> dict[int, Glimpse]:
        """What is seen of the texts of entries; see api.RowsTable."""
        first = f"iif(instr(body, '!['), substr(body, instr(body, '!['), {GLIMPSED}), '')"
        sql = (
            f"SELECT rowid, substr(body, 1, {GLIMPSED}), length(body), {first} FROM {self.schema.bodies}"
            " WHERE rowid IN (SELECT value FROM json_each(?))"
        )
        rows = self.database.rows(sql, (json.dumps(list(ids)),))
        return {
            int(str(number)): Glimpse(str(text), int(str(size)), str(picture)) for number, text, size, picture in rows
        }

    def columns(
        self, question: Question, fields: Sequence[Field], *, is_filled: bool = True
    ) -> "tuple[array[int], list[list[str]]]":
        """What fields have in the entries that answer; see api.RowsTable. One text a column: a row a value takes far longer.

        Args:
            is_filled: whether those without a value of the first field are left out.
        """
        today = to_sql.today()
        clause, values = to_sql.where(question.filter, self.schema, today) if question.filter else ("1", [])
        parts = "".join(
            f", group_concat(replace(coalesce({one.sql}, ''), char({UNIT}), ' '), char({UNIT}))" for one in fields
        )
        sql = (
            f"SELECT group_concat(printf('%08x', id), ''){parts} FROM {self.name}"
            f" WHERE ({clause}){f' AND {fields[0].sql} IS NOT NULL' if is_filled else ''}"
        )
        packed, *texts = self.database.rows(sql, values)[0]
        ids = unpacked(packed)
        return ids, [str(text).split(chr(UNIT)) if len(ids) else [] for text in texts]

    def rows(self, ids: Sequence[int]) -> list[Entry]:
        """Entries without bodies, in the order of the ids."""
        columns = "".join(f", {field.sql}" for field in self.own_fields)
        sql = (
            f"SELECT {self.name}.id, {self.name}.title{columns} FROM json_each(?) AS wanted"
            f" CROSS JOIN {self.name} ON {self.name}.id = wanted.value ORDER BY wanted.key"
        )
        return [self.to_entry(row) for row in self.database.rows(sql, (json.dumps(list(ids)),))]

    def values_in_use(self, field: Field) -> list[str]:
        """Texts that a field has, of lists each of their values; of text, only what the latest rows have."""
        if field.kind.is_many:
            sql = "SELECT DISTINCT value FROM multi_value WHERE column = ? LIMIT ?"
            rows = self.database.rows(sql, (field.column, MOST_VALUES))
        else:
            latest = (
                f"SELECT {field.sql} AS one FROM {self.name} WHERE {field.sql} IS NOT NULL ORDER BY id DESC LIMIT ?"
            )
            rows = self.database.rows(f"SELECT DISTINCT one FROM ({latest})", (MOST_VALUES,))
        return [str(value) for (value,) in rows]

    def to_entry(self, row: tuple[object, ...]) -> Entry:
        """An entry from (id, title, the fields' columns in order)."""
        pairs = zip(self.own_fields, row[2:], strict=True)
        values = {field.key: field.kind.from_column(stored) for field, stored in pairs if stored is not None}
        filled = {key: value for key, value in values.items() if value is not None}
        return Entry(self.place, int(str(row[0])), str(row[1]), filled)

    def known(self, canonical: str) -> int | None:
        """The id of the row with that address key, the newest first."""
        found = self.database.one(f"SELECT id FROM {self.name} WHERE address_key = ? ORDER BY id DESC", (canonical,))
        return None if found is None else int(str(found))


SAID = {**{one: one.value for one in Sum}, Sum.FILLED: "filled", Sum.DISTINCT: "different"}
"""How sums are called at the foot of a column."""


def shown_sum(field: Field, sum_kind: Sum, value: object, unit: str) -> str:
    """A sum as it is shown."""
    if value is None:
        return "–"
    if sum_kind in (Sum.EARLIEST, Sum.LATEST):
        return field.kind.show(str(value))
    return f"{float(str(value)):,.6g} {unit}".strip() if isinstance(value, float) else f"{value:,}"


def name_of(group: Grouping, stored: object) -> str:
    """The name of a group, from its value in SQL; "" for blank ones."""
    if stored is None:
        return ""
    kind, step = group.field.kind, group.step
    if kind.is_many:
        return str(stored)
    if step[:1].isdigit():
        low = float(str(stored))
        return f"{low:,.6g} to under {low + float(step):,.6g}"
    if step in ("decade", "century"):
        return f"{stored}s"
    return str(stored) if step == "letter" else kind.show(kind.from_column(stored))


def groups_of(question: Question, rows: Sequence[tuple[object, ...]]) -> list[Group]:
    """Headings of groups from rows of (the values of the levels, how many entries)."""
    if len(question.groups) == 1:
        return [
            Group(name_of(question.groups[0], value), size, 0, size)
            for value, size in ((one[0], int(str(one[-1]))) for one in rows)
        ]
    out: list[Group] = []
    for outer, inside in groupby(rows, key=lambda row: row[0]):
        inner = [(name_of(question.groups[1], row[1]), int(str(row[-1]))) for row in inside]
        out.append(Group(name_of(question.groups[0], outer), sum(size for _, size in inner), 0, 0))
        out += [Group(name, size, 1, size) for name, size in inner]
    return out


def now() -> str:
    """This moment, as dates are stored."""
    return time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime())


def address_key(fields: Sequence[Field], values: Mapping[str, Value]) -> str | None:
    """The canonical form of the main (first) address; None where that address is not among the values."""
    main = next((field for field in fields if field.kind.is_address), None)
    if main is None or main.key not in values:
        return None
    value = values[main.key]
    return canonical(value) if isinstance(value, str) else ""


def any_address_key(fields: Sequence[Field], values: Mapping[str, Value]) -> str:
    """The canonical form of the first address that is there and leads to no picture, whatever its field is called; else ""."""
    given = [value for field in fields if field.kind.is_address and isinstance(value := values.get(field.key), str)]
    given += [str(values.get(field.key) or "") for field in fields if is_named_address(field)]
    return canonical(next((one for one in given if not PICTURE.search(path_of(one))), "")) if given else ""


def is_named_address(field: Field) -> bool:
    """Whether a field of texts is called as one of addresses."""
    return field.kind.name == "text" and bool(words_of(field) & SURE_ADDRESSES)


def order_sql(table: str, column: str) -> str:
    """What keeps a table in the order of a column, the last first."""
    return f'CREATE INDEX IF NOT EXISTS "{table}_by_{column}" ON {table} ("{column}" DESC, id)'


def table_numbers(database: Database) -> list[int]:
    """The numbers of all collections that there ever were."""
    names = database.rows("SELECT name FROM sqlite_schema WHERE type = 'table' AND name GLOB 'c[0-9]*'")
    return [int(str(name)[1:]) for (name,) in names]


def unpacked(packed: object) -> "array[int]":
    """Ids out of one text, see to_sql.ids."""
    ids = array("I", bytes.fromhex(str(packed or "")))
    if sys.byteorder == "little":
        ids.byteswap()
    return ids
