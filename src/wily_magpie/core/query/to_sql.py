"""A question as SQL over one table of typed columns."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, timedelta

from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields import Relation
from wily_magpie.core.query.cql import check_value
from wily_magpie.core.query.nodes import And, Condition, Node, Not, Or, Question, Words

Sql = tuple[str, list[object]]
"""A fragment of SQL and the values of its question marks."""


@dataclass(frozen=True)
class Shape:
    """Where a table keeps what questions ask for.

    Attributes:
        table: its name; it has the columns id, title and title_key.
        texts: a full-text table over (title, fields) whose rowid is the entry's id.
        bodies: the same over the bodies.
        chosen: a table (entry_id, column, value) with a row for each value of fields that hold many.
    """

    table: str
    texts: str = "entry_text"
    bodies: str = "body_text"
    chosen: str = "chosen"


def like(text: str) -> str:
    """A LIKE pattern for "contains", with ! as the escape character."""
    return "%" + re.sub(r"([%_!])", r"!\1", text) + "%"


def full_text(text: str) -> list[str]:
    """One FTS5 expression a word; each is quoted, so that no character of a person's text is syntax."""
    return ['"' + word.replace('"', '""') + '"*' for word in re.findall(r"\w+", text)]


def where(node: Node, shape: Shape, today: date) -> Sql:
    """The WHERE clause of a filter."""
    match node:
        case Words(text):
            return words(text, shape)
        case Condition(field, relation, value):
            return condition(field, relation, value, shape, today)
        case Not(part):
            sql, values = where(part, shape, today)
            return f"NOT coalesce(({sql}), 0)", values
        case And(parts) | Or(parts):
            fragments = [where(part, shape, today) for part in parts]
            joint = " AND " if isinstance(node, And) else " OR "
            return "(" + joint.join(sql for sql, _ in fragments) + ")", [v for _, values in fragments for v in values]


def words(text: str, shape: Shape) -> Sql:
    """Every word must stand somewhere: in title and fields, or in the body."""
    expressions = full_text(text)
    if not expressions:
        return "1", []
    one = (
        f"(id IN (SELECT rowid FROM {shape.texts} WHERE {shape.texts} MATCH ?)"
        f" OR id IN (SELECT rowid FROM {shape.bodies} WHERE {shape.bodies} MATCH ?))"
    )
    return " AND ".join([one] * len(expressions)), [word for word in expressions for _ in (0, 1)]


def condition(field: Field, relation: Relation, text: str, shape: Shape, today: date) -> Sql:
    """One condition; blank fields meet only "is empty" and the negative relations."""
    column = f'"{field.column}"'
    if relation is Relation.EMPTY:
        return f"{column} IS NULL", []
    if relation is Relation.NOT_EMPTY:
        return f"{column} IS NOT NULL", []
    value = check_value(field, relation, text)
    if relation in (Relation.HAS, Relation.HAS_NOT):
        no = "NOT " if relation is Relation.HAS_NOT else ""
        return f"id {no}IN (SELECT entry_id FROM {shape.chosen} WHERE column = ? AND value = ?)", [field.column, value]
    if relation is Relation.LAST_DAYS:
        days = min(int(str(value)), (today - date.min).days)
        return f"{column} >= ?", [(today - timedelta(days=days)).isoformat()]
    if relation is Relation.CONTAINS:
        # SQLite's LIKE folds the case of ASCII letters only
        function = f"{column} LIKE ? ESCAPE '!'" if text.isascii() else f"instr(casefold({column}), ?)"
        return function, [like(text) if text.isascii() else text.casefold()]
    return COMPARISONS[field.kind.name == "date", relation](column), [int(value) if isinstance(value, bool) else value]


# "~" sorts behind every character of a date, so that 1926~ is the end of 1926
COMPARISONS: dict[tuple[bool, Relation], Callable[[str], str]] = {
    (False, Relation.IS): lambda c: f"{c} = ?",
    (False, Relation.IS_NOT): lambda c: f"{c} IS NOT ?",
    (False, Relation.LESS): lambda c: f"{c} < ?",
    (False, Relation.MORE): lambda c: f"{c} > ?",
    (False, Relation.AT_LEAST): lambda c: f"{c} >= ?",
    (False, Relation.AT_MOST): lambda c: f"{c} <= ?",
    (True, Relation.IS): lambda c: f"{c} LIKE ? || '%'",
    (True, Relation.BEFORE): lambda c: f"{c} < ?",
    (True, Relation.AFTER): lambda c: f"{c} > ? || '~'",
    (True, Relation.FROM): lambda c: f"{c} >= ?",
    (True, Relation.UNTIL): lambda c: f"{c} <= ? || '~'",
}


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


def sort_term(field: Field) -> Sql:
    """What a field is sorted by: options by their place in the list, text without regard to case."""
    column = f'"{field.column}"'
    if field.column == "title":
        return "title_key", []
    if field.kind.name == "choice" and field.options:
        cases = " ".join(f"WHEN ? THEN {place}" for place in range(len(field.options)))
        values: list[object] = [option.name for option in field.options]
        return f"CASE {column} {cases} ELSE iif({column} IS NULL, NULL, {len(values)}) END", values
    if field.kind.column_type == "TEXT" and field.kind.name != "date":
        return f"{column} COLLATE NOCASE", []
    return column, []


def ids(question: Question, shape: Shape, today: date) -> Sql:
    """All ids in order, in one text with commas between them; with a group, each with its group's value.

    One text is read several times faster than a row an id; the aggregate keeps the order of its subquery.
    """
    clause, values = where(question.filter, shape, today) if question.filter else ("1", [])
    by, more = order(question)
    inner = f"SELECT id FROM {shape.table} WHERE {clause} ORDER BY {by}"
    return f"SELECT group_concat(id) FROM ({inner})", [*values, *more]


def group_sizes(question: Question, group: Field, shape: Shape, today: date) -> Sql:
    """Rows of (the group's value, how many entries), in the order of the groups."""
    clause, values = where(question.filter, shape, today) if question.filter else ("1", [])
    term, more = sort_term(group)
    column = f'"{group.column}"'
    sql = (
        f"SELECT {column}, count(*) FROM {shape.table} WHERE {clause} GROUP BY {column} ORDER BY {term} ASC NULLS LAST"
    )
    return sql, [*values, *more]
