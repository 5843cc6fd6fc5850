"""A question as SQL over one table of typed columns."""

import re
from datetime import UTC, date, datetime, timedelta

import apsw

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields import Relation
from wily_magpie.core.fields.base import Sql
from wily_magpie.core.query.cql import check_value
from wily_magpie.core.query.nodes import And, AtLeast, Condition, Node, Not, Or, Question, Words


@dataclass(frozen=True)
class TableSchema:
    """Where a table keeps what questions ask for.

    Attributes:
        table: its name; it has the columns id, title and title_key.
        texts: a full-text table over (title, fields) whose rowid is the entry's id.
        bodies: the same over the bodies.
        multi_value: a table (entry_id, column, value) with a row for each value of fields that hold many.
    """

    table: str
    texts: str = "entry_text"
    bodies: str = "body_text"
    multi_value: str = "multi_value"


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
        case Words(text):
            return words(text, schema)
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


def words(text: str, schema: TableSchema) -> Sql:
    """Every word must stand somewhere: in title and fields, or in the body."""
    expressions = full_text(text)
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
    if field.kind.is_linked:
        return linked(field, relation, text, schema)
    if relation is Relation.EMPTY:
        return f"{column} IS NULL", []
    if relation is Relation.NOT_EMPTY:
        return f"{column} IS NOT NULL", []
    value = check_value(field, relation, text)
    if relation in (Relation.HAS, Relation.HAS_NOT):
        no = "NOT " if relation is Relation.HAS_NOT else ""
        ids = f"SELECT entry_id FROM {schema.multi_value} WHERE column = ? AND value = ?"
        return f"{schema.table}.id {no}IN ({ids})", [field.column, value]
    if relation is Relation.LAST_DAYS:
        days = min(int(str(value)), (today - date.min).days)
        return field.kind.compare(Relation.FROM, column, (today - timedelta(days=days)).isoformat())
    if relation is Relation.CONTAINS:
        # SQLite's LIKE folds the case of ASCII letters only
        function = f"{column} LIKE ? ESCAPE '!'" if text.isascii() else f"instr(casefold({column}), ?)"
        return function, [like(text) if text.isascii() else text.casefold()]
    return field.kind.compare(relation, column, value)


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
    values: list[object] = [field.settings.link]
    if relation is Relation.CONTAINS:
        ids += " AND instr(casefold(x.title), ?)"
        values.append(text.casefold())
    elif relation in (Relation.HAS, Relation.HAS_NOT):
        ids += " AND casefold(x.title) = ?"
        values.append(text.casefold())
    no = "NOT " if relation in (Relation.EMPTY, Relation.HAS_NOT) else ""
    return f"{schema.table}.id {no}IN ({ids})", values


def table_of(place: str) -> str:
    """The table of a collection, by its key."""
    return f"c{int(place.removeprefix('collection:'))}"


def order(question: Question) -> Sql:
    """The ORDER BY clause: the group first, blank values last, ties in the order of keeping."""
    terms: list[str] = []
    values: list[object] = []
    keys = [(question.group, False)] if question.group else []
    for field, descending in [*keys, *((key.field, key.descending) for key in question.sort)]:
        sql, more = sort_term(field)
        direction = "DESC" if descending else "ASC"
        terms.append(f"{sql} {direction} NULLS LAST")
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
    if field.column == "title":
        return "title_key", []
    if field.kind.has_spine and field.options:
        cases = " ".join(f"WHEN ? THEN {place}" for place in range(len(field.options)))
        values: list[object] = [option.name for option in field.options]
        return f"CASE {column} {cases} ELSE iif({column} IS NULL, NULL, {len(values)}) END", values
    return field.kind.sort_sql(column), []


def ids(question: Question, schema: TableSchema, today: date) -> Sql:
    """All ids in order, in one text of eight hexadecimal digits each (they are counted from 1, and stay below 2**32).

    One text is read several times faster than a row an id, and most of all if all ids are equally long; the aggregate
    keeps the order of its subquery.
    """
    clause, values = where(question.filter, schema, today) if question.filter else ("1", [])
    by, more = order(question)
    inner = f"SELECT id FROM {schema.table} WHERE {clause} ORDER BY {by}"
    return f"SELECT group_concat(printf('%08x', id), '') FROM ({inner})", [*values, *more]


def group_sizes(question: Question, group: Field, schema: TableSchema, today: date) -> Sql:
    """Rows of (the group's value, how many entries), in the order of the groups."""
    clause, values = where(question.filter, schema, today) if question.filter else ("1", [])
    term, more = sort_term(group)
    column = group.sql
    sql = (
        f"SELECT {column}, count(*) FROM {schema.table} WHERE {clause} GROUP BY {column} ORDER BY {term} ASC NULLS LAST"
    )
    return sql, [*values, *more]
