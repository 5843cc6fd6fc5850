"""Groups and sums as SQL: which groups a question has, whose entries they are, and what stands at the foot of columns in each.

Of a field that holds many, an entry stands in the group of each of its values.
"""

from collections.abc import Mapping, Sequence
from datetime import date

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.layout import Sum
from wily_magpie.core.fields.base import Sql
from wily_magpie.core.places.to_sql import TableSchema, order, sort_term, table_of, where
from wily_magpie.core.query.nodes import Grouping, Question

DATE_STEPS = {
    "year": "substr({0}, 1, 4)",
    "month": "iif(substr({0}, 5, 1) = '-', substr({0}, 1, 7), substr({0}, 1, 4))",
    "decade": "substr({0}, 1, 3) || '0'",
    "century": "substr({0}, 1, 2) || '00'",
}
MEASURES: Mapping[Sum, str] = {
    Sum.COUNT: "count(*)", Sum.FILLED: "count({0})", Sum.DISTINCT: "count(DISTINCT {0})", Sum.SUM: "total({0})",
    Sum.MEAN: "avg({0})", Sum.LEAST: "min({0})", Sum.GREATEST: "max({0})", Sum.EARLIEST: "min({0})", Sum.LATEST: "max({0})",
}  # fmt: skip


@dataclass(frozen=True)
class Level:
    """One level of groups in SQL.

    Attributes:
        join: what is joined for it, "" for nothing.
        value: what is the same for all of a group; order: what groups are sorted by.
        values: of the question marks in `order`.
    """

    join: str
    value: str
    order: str
    values: Sequence[object] = ()


def level_of(group: Grouping, number: int, schema: TableSchema) -> Level:
    """The SQL of one level."""
    field, name = group.field, f"g{number}"
    if field.kind.is_linked:
        own, other = field.settings.ends
        there = table_of(field.settings.target)
        inner = (
            f"SELECT link.{own} AS entry_id, x.title AS value, x.title_key AS ordering FROM link"
            f" JOIN {there} AS x ON x.id = link.{other} WHERE link.number = {field.settings.link}"
        )
        join = f" LEFT JOIN ({inner}) AS {name} ON {name}.entry_id = {schema.table}.id"
        return Level(join, f"{name}.value", f"{name}.ordering")
    if field.kind.is_many:
        inner = f"SELECT entry_id, value FROM {schema.multi_value} WHERE column = '{field.column}'"
        join = f" LEFT JOIN ({inner}) AS {name} ON {name}.entry_id = {schema.table}.id"
        value = f"{name}.value"
        ranked = ranks(field, value)
        return Level(join, value, *(ranked or (f"{value} COLLATE NOCASE", ())))
    if not group.step:
        term, values = sort_term(field)
        return Level("", field.sql, term, values)
    value = stepped(field, group.step)
    return Level("", value, value)


def is_of_options(question: Question) -> bool:
    """Whether the groups of a question are a field's options, each entry in one."""
    if len(question.groups) != 1:
        return False
    group, field = question.groups[0], question.groups[0].field
    is_plain = field.is_stored and not field.kind.is_many and field.through is None
    return bool(field.options) and is_plain and not group.step


def ranks(field: Field, value: str) -> Sql | None:
    """The place of an option in its list, as SQL; None of a field without options."""
    if not field.options:
        return None
    cases = " ".join(f"WHEN ? THEN {place}" for place in range(len(field.options)))
    return f"CASE {value} {cases} ELSE iif({value} IS NULL, NULL, {len(field.options)}) END", [
        one.name for one in field.options
    ]


def stepped(field: Field, step: str) -> str:
    """The value of a group that gathers several values: a year, a decade, a range of numbers, a first letter."""
    column = field.sql
    if step in DATE_STEPS:
        return f"CASE WHEN {column} < ':' THEN {DATE_STEPS[step].format(column)} END"
    if step == "letter":
        source = "title_key" if field.column == "title" else f"casefold({column})"
        return f"upper(substr({source}, 1, 1))"
    number = field.kind.sort_sql(column)
    return f"floor({number} / {float(step)!r}) * {float(step)!r}"


def levels_of(question: Question, schema: TableSchema) -> list[Level]:
    """The SQL of all levels."""
    return [level_of(group, number, schema) for number, group in enumerate(question.groups)]


def source(question: Question, levels: Sequence[Level], schema: TableSchema, today: date) -> Sql:
    """FROM and WHERE: the entries that answer, once for each group that they stand in."""
    clause, values = where(question.filter, schema, today) if question.filter else ("1", [])
    joins = "".join(level.join for level in levels)
    return f"FROM {schema.table}{joins} WHERE {clause}", values


def grouped_ids(question: Question, schema: TableSchema, today: date) -> Sql:
    """All ids in the order of their groups, see to_sql.ids."""
    levels = levels_of(question, schema)
    rest, values = source(question, levels, schema, today)
    by, more = order(question)
    heads = [f"{level.order} ASC NULLS LAST, {level.value}" for level in levels]
    asked = [one for level in levels for one in level.values]
    inner = f"SELECT {schema.table}.id AS id {rest} ORDER BY {', '.join([*heads, by])}"
    return f"SELECT group_concat(printf('%08x', id), '') FROM ({inner})", [*values, *asked, *more]


def group_sizes(question: Question, schema: TableSchema, today: date) -> Sql:
    """Rows of (the values of the levels, how many entries), in the order of the groups."""
    levels = levels_of(question, schema)
    rest, values = source(question, levels, schema, today)
    marks = ", ".join(level.value for level in levels)
    heads = ", ".join(f"min({level.order}) ASC NULLS LAST, {level.value}" for level in levels)
    # of a level within another one the order counts within that one alone
    asked = [one for level in levels for one in level.values]
    return f"SELECT {marks}, count(*) {rest} GROUP BY {marks} ORDER BY {heads}", [*values, *asked]


def summed(question: Question, field: Field, sum_kind: Sum, schema: TableSchema, today: date) -> Sql:
    """Rows of (the values of the levels, a unit or "", the sum) for one column; a group without values has none."""
    levels = levels_of(question, schema)
    own = level_of(Grouping(field), 9, schema) if field.kind.is_many else Level("", field.sql, "")
    rest, values = source(question, [*levels, own], schema, today)
    value, unit = own.value, "''"
    if field.kind.has_unit:
        unit = f"iif(instr({value}, ' '), substr({value}, instr({value}, ' ') + 1), '')"
    if sum_kind in (Sum.SUM, Sum.MEAN, Sum.LEAST, Sum.GREATEST):
        value = field.kind.sort_sql(value)
    elif sum_kind in (Sum.EARLIEST, Sum.LATEST):
        value = f"iif({value} < ':', {value}, NULL)"
    if sum_kind in (Sum.COUNT, Sum.FILLED, Sum.DISTINCT):
        unit = "''"
    else:
        rest += f" AND {own.value} IS NOT NULL"
    marks = ", ".join([*(level.value for level in levels), unit])
    return f"SELECT {marks}, {MEASURES[sum_kind].format(value)} {rest} GROUP BY {marks}", values
