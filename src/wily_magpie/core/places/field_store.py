"""The fields of a library's places, as rows of the table `field`."""

import json
from collections.abc import Sequence
from dataclasses import asdict, replace

from wily_magpie.core.entries.field import TITLE, USUAL, Field, FieldPlan, Settings, SummaryPlan
from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.fields import AMOUNT, KINDS, Option
from wily_magpie.core.fields.summary import Measure, Summary, result_of
from wily_magpie.core.places import to_sql
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.stored_json import read_list, read_object
from wily_magpie.core.places.to_sql import table_of
from wily_magpie.core.query import cql

DEAD = "~"
"""Stands before the number in the key of a deleted field, so that its key is free again."""


class FieldStore:
    """Reads and writes that table; whoever changes something does it inside a step."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def of(self, place: str, *, with_computed: bool = True) -> tuple[Field, ...]:
        """The fields of a place in order, without the title."""
        rows = self.database.rows(
            "SELECT id, key, label, kind, options, settings FROM field WHERE place = ? AND is_live ORDER BY position, id",
            (place,),
        )
        fields = tuple(read_row(row) for row in rows)
        if not with_computed:
            return tuple(field for field in fields if field.is_stored)
        fields = tuple(linking(field, place) if field.kind.is_linked else field for field in fields)
        return tuple(self.summing(field, fields, place) if field.kind.is_summary else field for field in fields)

    def plain_of(self, place: str) -> tuple[Field, ...]:
        """Those with a column of their own."""
        return self.of(place, with_computed=False)

    def ever(self, place: str) -> tuple[Field, ...]:
        """All fields that a place ever had with a column, deleted ones too: what its triggers watch."""
        sql = "SELECT id, key, label, kind, options, settings FROM field WHERE place = ? ORDER BY id"
        return tuple(field for field in map(read_row, self.database.rows(sql, (place,))) if field.is_stored)

    def summing(self, field: Field, siblings: Sequence[Field], place: str) -> Field:
        """A summary with the SQL that works it out; one that cannot be worked out any more is blank."""
        plan = field.settings.summary or SummaryPlan("")
        over = next((one for one in siblings if one.key == plan.over and one.kind.is_linked), None)
        if over is None:
            return replace(field, computed_sql="NULL")
        there = over.settings.target
        targets = (TITLE, *self.of(there, with_computed=False))
        targets += tuple(linking(one, there) for one in self.of_kind(there, "reference"))
        of = next((one for one in targets if one.key == plan.of), None)
        result = result_of(plan.measure, of.kind if of else None)
        try:
            node = cql.parse(plan.where, targets).filter if plan.where.strip() else None
        except MagpieError:
            return replace(field, kind=Summary(result), computed_sql="NULL")
        schema = to_sql.TableSchema(table_of(there))
        met = to_sql.literal(to_sql.where(node, schema, to_sql.today())) if node else ""
        return replace(field, kind=Summary(result), computed_sql=f"({measured(plan.measure, of, over, place, met)})")

    def of_kind(self, place: str, kind: str) -> tuple[Field, ...]:
        """The fields of one kind of a place, as they stand in their rows."""
        sql = "SELECT id, key, label, kind, options, settings FROM field WHERE place = ? AND is_live AND kind = ?"
        return tuple(map(read_row, self.database.rows(sql, (place, kind))))

    def add(self, number: int, place: str, plan: FieldPlan, position: float) -> None:
        """Writes a field down; its column is there already."""
        with self.database.writing() as connection:
            connection.execute(
                "INSERT INTO field (id, place, key, label, kind, options, position, settings)"
                " VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
                (
                    number, place, plan.key, plan.label, plan.kind, write_options(plan.options), position,
                    write_settings(plan.settings),
                ),
            )  # fmt: skip

    def change(self, place: str, field: Field) -> None:
        """Writes label, options and settings of a field anew."""
        with self.database.writing() as connection:
            connection.execute(
                "UPDATE field SET label = ?, options = ?, settings = ? WHERE place = ? AND key = ?",
                (field.label, write_options(field.options), write_settings(field.settings), place, field.key),
            )

    def soft_delete(self, place: str, field: Field) -> None:
        """Takes a field out, of a reference both ends; its column stays, and its key is free again."""
        ends = [(place, field.key)]
        if field.kind.is_linked:
            there = field.settings.target
            ends += [(there, b.key) for b in self.of_kind(there, "reference") if b.settings.link == field.settings.link]
        with self.database.writing() as connection:
            sql = "UPDATE field SET is_live = 0, key = key || ? || id WHERE place = ? AND key = ?"
            connection.executemany(sql, [(DEAD, *end) for end in dict.fromkeys(ends)])

    def next_number(self) -> int:
        """A number that no field and no column ever had, so that undo never meets another one's values."""
        columns = (
            "SELECT max(CAST(substr(of_table.name, 2) AS INTEGER)) AS number FROM sqlite_schema AS made"
            " JOIN pragma_table_info(made.name) AS of_table WHERE made.type = 'table' AND made.name GLOB 'c[0-9]*'"
            " AND of_table.name GLOB 'f[0-9]*'"
        )
        latest = f"SELECT coalesce(max(number), 0) FROM (SELECT max(id) AS number FROM field UNION ALL {columns})"
        return int(str(self.database.one(latest))) + 1

    def declare(self, place: str, field: Field, **changes: object) -> Field:
        """Changes a field; one that was only found in the files of notes gets a row of its own.

        Args:
            changes: label, options or settings, each by its name in Field.

        Raises:
            UserError: nobody can change it.
        """
        known = {one.key: one for one in self.of(place)}
        if field.key not in known:
            if field.settings.is_given or field.key == TITLE.key or field.kind.is_of_rules:
                raise UserError(
                    "worked-out", f"{field.label} is worked out from elsewhere.", "It cannot be changed here."
                )
            plan = FieldPlan(field.key, field.label, field.kind.name)
            self.add(self.next_number(), place, plan, self.next_position(place))
            known = {one.key: one for one in self.of(place)}
        if changes:
            self.change(place, replace(known[field.key], **changes))  # type: ignore[arg-type]
        return known[field.key]

    def set_kind(self, place: str, key: str, kind: str) -> None:
        """Makes a field of a notes folder one of another kind; its options are learnt anew."""
        with self.database.writing() as connection:
            sql = "UPDATE field SET kind = ?, options = ? WHERE place = ? AND key = ?"
            connection.execute(sql, (kind, "[]", place, key))

    def add_options(self, place: str, key: str, names: Sequence[str]) -> None:
        """New options at the end of a choice's list."""
        field = next(field for field in self.of(place) if field.key == key)
        fresh = tuple(Option(name) for name in dict.fromkeys(names) if field.option(name) is None)
        if fresh:
            self.change(place, replace(field, options=(*field.options, *fresh)))

    def order(self, place: str, keys: Sequence[str]) -> None:
        """Puts the fields of a place into an order."""
        with self.database.writing() as connection:
            for position, key in enumerate(keys):
                connection.execute(
                    "UPDATE field SET position = ? WHERE place = ? AND key = ? AND position <> ?",
                    (float(position), place, key, float(position)),
                )

    def position(self, place: str, key: str) -> float:
        """Where a field stands."""
        return float(str(self.database.one("SELECT position FROM field WHERE place = ? AND key = ?", (place, key))))

    def next_position(self, place: str) -> float:
        """Behind all fields of a place."""
        return float(
            str(self.database.one("SELECT coalesce(max(position), 0) + 1 FROM field WHERE place = ?", (place,)))
        )


def read_row(row: tuple[object, ...]) -> Field:
    """A field from (id, key, label, kind, options, settings)."""
    number, key, label, kind, options, settings = row
    read = read_settings(str(settings))
    if str(kind) not in KINDS:  # damaged, or of a later version: it is looked at only
        return Field(str(key), str(label), KINDS["text"], f"f{number}", settings=replace(read, is_given=True))
    return Field(str(key), str(label), KINDS[str(kind)], f"f{number}", read_options(str(options)), read)


def links_from(field: Field, place: str, more: str = "") -> str:
    """FROM and WHERE over the entries (x) that a reference of an entry of a place leads to.

    Args:
        more: what is joined besides, such as ", json_each(…)".
    """
    own, other = field.settings.ends
    return (
        f"FROM link JOIN {table_of(field.settings.target)} AS x ON x.id = link.{other}{more}"
        f" WHERE link.number = {field.settings.link} AND link.{own} = {table_of(place)}.id"
    )


def linking(field: Field, place: str) -> Field:
    """A reference with the SQL that gives its links as JSON [[title, id], …], and what it is sorted by."""
    linked = links_from(field, place)
    inner = f"SELECT x.title AS title, x.id AS id {linked} ORDER BY link.{field.settings.ends[0]}_place"
    return replace(
        field,
        computed_sql=f"(SELECT json_group_array(json_array(title, id)) FROM ({inner}))",
        order=f"(SELECT min(x.title_key) {linked})",
    )


def measured(measure: Measure, of: Field | None, over: Field, place: str, met: str) -> str:
    """The SELECT of a summary of a place.

    Args:
        met: a condition that the entries at the other end must meet, or "".
    """
    linked = links_from(over, place)
    those = f" AND x.id IN (SELECT id FROM {table_of(over.settings.target)} WHERE {met})" if met else ""
    chosen = linked + those
    column = f'x."{of.column}"' if of is not None and (of.is_stored or of is TITLE) else "NULL"
    match measure:
        case Measure.COUNT:
            return f"SELECT CAST(count(*) AS REAL) {chosen}"
        case Measure.SHARE:
            share = f"SELECT 100.0 * count(*) {chosen}"
            return f"SELECT ({share}) / nullif(count(*), 0) {linked}"
        case Measure.SUM if of is not None and of.kind is AMOUNT:  # in each unit apart
            inner = (
                f"SELECT sum(CAST({column} AS REAL)) AS total, substr({column}, instr({column}, ' ')) AS unit {chosen}"
                f" AND {column} IS NOT NULL GROUP BY 2 ORDER BY 2"
            )
            return f"SELECT CASE count(*) WHEN 1 THEN max(round(total, 6) || unit) END FROM ({inner})"
        case Measure.SUM:
            return f"SELECT sum(CAST({column} AS REAL)) {chosen}"
        case Measure.EARLIEST | Measure.LATEST:
            return f"SELECT {'min' if measure is Measure.EARLIEST else 'max'}({column}) {chosen} AND {column} < ':'"
        case Measure.LIST:
            if of is not None and of.kind.is_many:
                inner = f"SELECT value AS one {links_from(over, place, f', json_each({column})')}{those}"
            else:
                inner = f"SELECT {column} AS one {chosen} AND {column} IS NOT NULL"
            return f"SELECT group_concat(one, '; ') FROM (SELECT DISTINCT one FROM ({inner}) ORDER BY 1)"


def read_options(text: str) -> tuple[Option, ...]:
    """Options from their JSON."""
    options = (one for one in read_list(text) if isinstance(one, dict) and "name" in one)
    return tuple(Option(str(one["name"]), str(one.get("colour", ""))) for one in options)


def write_options(options: Sequence[Option]) -> str:
    """The JSON of options."""
    return json.dumps([{"name": one.name, "colour": one.colour} for one in options], ensure_ascii=False)


def read_settings(text: str) -> Settings:
    """Settings from their JSON; what a later version may have added is passed over."""
    known = {key: value for key, value in read_object(text).items() if key in Settings.__dataclass_fields__}
    if isinstance(known.get("summary"), dict):
        try:
            known["summary"] = SummaryPlan(**{**known["summary"], "measure": Measure(known["summary"]["measure"])})
        except (KeyError, TypeError, ValueError):  # damaged: it sums up nothing
            known.pop("summary")
    return Settings(**known)


def write_settings(settings: Settings) -> str:
    """The JSON of settings, without what is as it usually is."""
    given = {key: value for key, value in asdict(settings).items() if value != getattr(USUAL, key)}
    return json.dumps(given, ensure_ascii=False)
