"""A question as SQL over one table of typed columns."""

import json
import re
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import UTC, date, datetime

import apsw

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field, find_field
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Relation
from wily_magpie.core.fields.base import Sql
from wily_magpie.core.query.cql import both_ends, check_value
from wily_magpie.core.query.nodes import And, AtLeast, Condition, Node, Not, Or, Question, Words
from wily_magpie.core.query.periods import read_period, span_of

MOST_WORDS, LONGEST_WORDS = 40, 4_000
"""Of a part of a question, and letters of all of them: more would keep SQLite busy for longer than anybody waits."""


@dataclass(frozen=True)
class TableSchema:
    """Where a table keeps what questions ask for.

    Attributes:
        table: its name; it has the columns id, title and title_key.
        texts: a full-text table over (title, fields) whose rowid is the entry's id.
        bodies: the same over the bodies.
        multi_value: a table (entry_id, column, value) with a row for each value of fields that hold many.
        fields: of the place, where one may be held against another.
        holding: the SQL of whether an entry has a file, a picture, a mark, a comment, a gap.
    """

    table: str
    texts: str = "entry_text"
    bodies: str = "body_text"
    multi_value: str = "multi_value"
    fields: Sequence[Field] = ()
    holding: Callable[[str], Sql] = lambda _what: ("0", [])


def today() -> date:
    """The day that "in the last 14 days" counts from."""
    return datetime.now(UTC).date()


def like(text: str) -> str:
    """A LIKE pattern for "contains", with ! as the escape character."""
    return "%" + re.sub(r"([%_!])", r"!\1", text) + "%"


def full_text(text: str) -> list[str]:
    """One FTS5 expression a word; each is quoted, so that no character of a person's text is syntax."""
    return ['"' + word.replace('"', '""') + '"*' for word in re.findall(r"\w+", text)]


def where(node: Node, schema: TableSchema, today: date) -> Sql:
    """The WHERE clause of a filter."""
    match node:
        case Words(text, is_phrase):
            return words(text, schema, is_phrase=is_phrase)
        case Condition(field) if field.through is not None:
            return one_step_along(node, field, field.through, today)
        case Condition(field, relation, _, entry) if entry and field.kind.is_linked:
            return linked_to(field, relation, entry, schema)
        case Condition(field, relation, value):
            return condition(field, relation, value, schema, today)
        case AtLeast(field, count):
            return f"json_array_length(coalesce({field.sql}, '[]')) >= ?", [count]
        case Not(part):
            sql, values = where(part, schema, today)
            return f"NOT coalesce(({sql}), 0)", values
        case And(parts) | Or(parts):
            fragments = [where(part, schema, today) for part in parts]
            joint = " AND " if isinstance(node, And) else " OR "
            return "(" + joint.join(sql for sql, _ in fragments) + ")", [v for _, values in fragments for v in values]


def one_step_along(node: Condition, field: Field, reference: Field, today: date) -> Sql:
    """A condition on what a reference leads to: something there meets it."""
    own, other = reference.settings.ends
    there = table_of(reference.settings.target)
    sql, values = where(replace(node, field=replace(field, through=None)), TableSchema(there), today)
    ids = f"SELECT link.{own} FROM link JOIN {there} ON {there}.id = link.{other} WHERE link.number = ? AND ({sql})"
    return f"id IN ({ids})", [reference.settings.link, *values]


def words(text: str, schema: TableSchema, *, is_phrase: bool = False) -> Sql:
    """Every word must stand somewhere, in title and fields or in the body; of a phrase all, one after another."""
    expressions = list(dict.fromkeys(full_text(text)))
    if len(expressions) > MOST_WORDS or len(text) > LONGEST_WORDS:
        raise UserError(
            "too-many-words",
            f"{len(expressions):,} different words are asked for, and {MOST_WORDS} at most can be.",
            "Leave out those that are not needed.",
        )
    if is_phrase:
        expressions = ['"' + " ".join(re.findall(r"\w+", text)) + '"'] if expressions else []
    if not expressions:
        return "1", []
    one = (
        f"(id IN (SELECT rowid FROM {schema.texts} WHERE {schema.texts} MATCH ?)"
        f" OR id IN (SELECT rowid FROM {schema.bodies} WHERE {schema.bodies} MATCH ?))"
    )
    return " AND ".join([one] * len(expressions)), [word for word in expressions for _ in (0, 1)]


def condition(field: Field, relation: Relation, text: str, schema: TableSchema, today: date) -> Sql:
    """One condition; blank fields meet only "is empty" and the negative relations."""
    column = field.sql
    if relation in (Relation.HOLDS, Relation.HOLDS_NO):
        sql, values = schema.holding(text)
        return f"{'NOT ' if relation is Relation.HOLDS_NO else ''}({sql})", values
    if field.kind.is_linked:
        return linked(field, relation, text, schema)
    if relation is Relation.EMPTY:
        return f"{column} IS NULL", []
    if relation is Relation.NOT_EMPTY:
        return f"{column} IS NOT NULL", []
    if relation is Relation.SAME:
        return f"({column} IS NOT NULL AND {column} = {find_field(schema.fields, text).sql})", []
    if relation.wants_period or relation in (Relation.THIS, Relation.BETWEEN):
        return between(field, relation, text, today)
    value = check_value(field, relation, text)
    if relation in MANY:
        return many(field, relation, value if isinstance(value, tuple) else (str(value),), schema)
    if relation in TEXTUAL:
        return textual(column, relation, text)
    if relation is Relation.ONE_OF:
        return f"{column} IN (SELECT value FROM json_each(?))", [json.dumps(value, ensure_ascii=False)]
    return field.kind.compare(relation, column, value)


TEXTUAL = (Relation.CONTAINS, Relation.CONTAINS_NOT, Relation.BEGINS)


def textual(column: str, relation: Relation, text: str) -> Sql:
    """A condition on a part of a text, whatever its case."""
    if relation is Relation.BEGINS:
        return f"instr(casefold({column}), ?) = 1", [text.casefold()]
    # SQLite's LIKE folds the case of ASCII letters only
    function = f"{column} LIKE ? ESCAPE '!'" if text.isascii() else f"instr(casefold({column}), ?)"
    negated = f"NOT coalesce({function}, 0)" if relation is Relation.CONTAINS_NOT else function
    return negated, [like(text) if text.isascii() else text.casefold()]


MANY = (Relation.HAS, Relation.HAS_NOT, Relation.HAS_ANY, Relation.HAS_ALL, Relation.HAS_NONE)


def many(field: Field, relation: Relation, names: Sequence[str], schema: TableSchema) -> Sql:
    """A condition on the values of a field that holds many."""
    no = "NOT " if relation in (Relation.HAS_NOT, Relation.HAS_NONE) else ""
    ids = f"SELECT entry_id FROM {schema.multi_value} WHERE column = ? AND value"
    if field.kind.is_nested:
        return nested(field, names, schema, no=no, is_all=relation is Relation.HAS_ALL)
    if relation is not Relation.HAS_ALL:
        wanted = json.dumps(list(names), ensure_ascii=False)
        return f"{schema.table}.id {no}IN ({ids} IN (SELECT value FROM json_each(?)))", [field.column, wanted]
    each = " AND ".join([f"{schema.table}.id IN ({ids} = ?)"] * len(names))
    return f"({each})", [one for name in names for one in (field.column, name)]


def nested(field: Field, names: Sequence[str], schema: TableSchema, *, no: str, is_all: bool) -> Sql:
    """A condition on values of which one stands for those below it; "0" is the sign behind "/"."""
    ids = f"SELECT entry_id FROM {schema.multi_value} WHERE column = ? AND (value = ? OR value > ? || '/' AND value < ? || '0')"
    each = [f"{schema.table}.id IN ({ids})"] * len(names)
    values: list[object] = [one for name in names for one in (field.column, name, name, name)]
    return f"{no}({(' AND ' if is_all else ' OR ').join(each or ['0'])})", values


def between(field: Field, relation: Relation, text: str, today: date) -> Sql:
    """A condition on a span: of dates, both of whose days count; of numbers likewise."""
    compare, column = field.kind.compare, field.sql
    period = read_period(text) if relation.wants_period else None
    if period is not None and relation is Relation.OLDER:
        return compare(Relation.BEFORE, column, period.before(today).isoformat())
    if relation is Relation.THIS:
        first, last = (one.isoformat() for one in span_of(text, today))
    elif period is not None:
        days = (period.before(today), today) if relation is Relation.LAST else (today, period.after(today))
        first, last = (one.isoformat() for one in days)
    else:
        begin, end = both_ends(text)
        lower, upper = (Relation.FROM, Relation.UNTIL) if field.kind.is_dated else (Relation.AT_LEAST, Relation.AT_MOST)
        one, values = compare(lower, column, field.kind.read(begin))
        two, more = compare(upper, column, field.kind.read(end))
        return f"({one} AND {two})", [*values, *more]
    one, values = compare(Relation.FROM, column, first)
    two, more = compare(Relation.UNTIL, column, last)
    return f"({one} AND {two})", [*values, *more]


def linked_to(field: Field, relation: Relation, entry: int, schema: TableSchema) -> Sql:
    """A condition on one entry that a reference leads to."""
    own, other = field.settings.ends
    no = "NOT " if relation is Relation.HAS_NOT else ""
    ids = f"SELECT link.{own} FROM link WHERE link.number = ? AND link.{other} = ?"
    return f"{schema.table}.id {no}IN ({ids})", [field.settings.link, entry]


def linked(field: Field, relation: Relation, text: str, schema: TableSchema) -> Sql:
    """A condition on what a reference leads to."""
    own, other = field.settings.ends
    there = table_of(field.settings.target)
    ids = f"SELECT link.{own} FROM link JOIN {there} AS x ON x.id = link.{other} WHERE link.number = ?"
    number: list[object] = [field.settings.link]
    negative = (Relation.EMPTY, Relation.HAS_NOT, Relation.HAS_NONE, Relation.CONTAINS_NOT)
    no = "NOT " if relation in negative else ""
    if relation in (Relation.EMPTY, Relation.NOT_EMPTY):
        return f"{schema.table}.id {no}IN ({ids})", number
    if relation in (Relation.CONTAINS, Relation.CONTAINS_NOT):
        return f"{schema.table}.id {no}IN ({ids} AND instr(casefold(x.title), ?))", [*number, text.casefold()]
    found = check_value(field, relation, text) if relation.wants_many else (text,)
    names = [name.casefold() for name in found] if isinstance(found, tuple) else [text.casefold()]
    if relation is Relation.HAS_ALL:
        each = " AND ".join([f"{schema.table}.id IN ({ids} AND casefold(x.title) = ?)"] * len(names))
        return f"({each})", [one for name in names for one in (*number, name)]
    wanted = json.dumps(names, ensure_ascii=False)
    met = f"{ids} AND casefold(x.title) IN (SELECT value FROM json_each(?))"
    return f"{schema.table}.id {no}IN ({met})", [*number, wanted]


def table_of(place: str) -> str:
    """The table of a collection, by its key."""
    return f"c{int(place.removeprefix('collection:'))}"


def order(question: Question) -> Sql:
    """The ORDER BY clause without groups: blank values last, ties in the order of keeping."""
    terms: list[str] = []
    values: list[object] = []
    for key in question.sort:
        sql, more = sort_term(key.field)
        terms.append(f"{sql} {'DESC' if key.descending else 'ASC'} NULLS LAST")
        values += more
    return ", ".join([*terms, "id"]), values


def literal(fragment: Sql) -> str:
    """A fragment with its values written into it, for what stands inside other SQL; quoted texts are left as they are."""
    sql, values = fragment
    rest = iter(values)
    return re.sub(
        r"'(?:[^']|'')*'|\?", lambda found: apsw.format_sql_value(next(rest)) if found[0] == "?" else found[0], sql
    )


def sort_term(field: Field) -> Sql:
    """What a field is sorted by: options by their place in the list, text without regard to case."""
    column = field.order or field.sql
    if field.column == "title" and field.through is None:
        return "title_key", []
    if field.kind.has_spine and field.options:
        cases = " ".join(f"WHEN ? THEN {place}" for place in range(len(field.options)))
        values: list[object] = [option.name for option in field.options]
        return f"CASE {column} {cases} ELSE iif({column} IS NULL, NULL, {len(values)}) END", values
    return field.kind.sort_sql(column), []


def ids(question: Question, schema: TableSchema, today: date, most: int = -1) -> Sql:
    """All ids in order (or so many at most), in one text of eight hexadecimal digits each.

    They are counted from 1, and stay below 2**32. One text is read several times faster than a row an id, and most of all if all
    ids are equally long; the aggregate keeps the order of its subquery.
    """
    clause, values = where(question.filter, schema, today) if question.filter else ("1", [])
    by, more = order(question)
    inner = f"SELECT id FROM {schema.table} WHERE {clause} ORDER BY {by} LIMIT ?"
    return f"SELECT group_concat(printf('%08x', id), '') FROM ({inner})", [*values, *more, most]


def count(question: Question, schema: TableSchema, today: date) -> Sql:
    """How many answer."""
    clause, values = where(question.filter, schema, today) if question.filter else ("1", [])
    return f"SELECT count(*) FROM {schema.table} WHERE ({clause})", values
