"""Completeness rules: when an entry of a place is complete, in plain words.

    rule      = [ "if" condition { "and" condition } ":" ] needs [ "must be there" ]
    condition = field [ "is" [ "not" ] value ]                "is empty" and "is there" as well
    needs     = need { ("and" | "or") need }                  "and" binds closer
    need      = "at least" number field | field

For example: "address or files must be there"; "if kind is interview: published and authors"; "at least 3 sources".
Fields stand by their label or key, in any case. An entry that breaks a rule has a gap.
"""

import re
from collections.abc import Sequence
from contextlib import suppress
from datetime import date

import apsw

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import GAPS, Relation
from wily_magpie.core.patterns import pattern
from wily_magpie.core.places import to_sql
from wily_magpie.core.query.nodes import And, AtLeast, Condition, Node, Not, Or, all_of

SPLIT_OR, SPLIT_AND = pattern(r"\s+or\s+", re.IGNORECASE), pattern(r"\s+and\s+|\s*,\s*", re.IGNORECASE)
WHEN = pattern(r"\s*if\s+(.+?)\s*:\s*(.+)", re.IGNORECASE | re.DOTALL)
MUST = pattern(r"\s+(must be (there|filled|given)|(is|are) (needed|required))\s*\.?\s*$", re.IGNORECASE)
LEAST = pattern(r"at least\s+(\d{1,6})\s+(.+)", re.IGNORECASE)
BLANK = pattern(r"(.+?)\s+is\s+(empty|blank|missing|there|filled)", re.IGNORECASE)


@dataclass(frozen=True)
class Rule:
    """A rule that was understood: what must hold, of which entries (None: of all)."""

    text: str
    when: Node | None
    need: Node

    @property
    def gap(self) -> Node:
        """What holds of the entries that break it."""
        lacking = Not(self.need)
        return And((self.when, lacking)) if self.when else lacking


def read_rule(text: str, fields: Sequence[Field]) -> Rule:
    """Understands a rule for a place with these fields.

    Raises:
        UserError: it cannot be understood; what is wrong is named.
    """
    line = " ".join(text.split())
    found = WHEN.fullmatch(line)
    when = all_of(tuple(condition(part, fields) for part in SPLIT_AND.split(found[1]))) if found else None
    rest = MUST.sub("", found[2] if found else line)
    ways = [
        all_of(tuple(need(part, fields) for part in SPLIT_AND.split(way) if part.strip()))
        for way in SPLIT_OR.split(rest)
    ]
    parts = tuple(way for way in ways if way is not None)
    if not parts:
        raise UserError("bad-rule", f"“{line}” says nothing of what must be there.", "Name the fields that must.")
    return Rule(line, when, parts[0] if len(parts) == 1 else Or(parts))


def with_gaps(fields: tuple[Field, ...], rules: Sequence[str], table: str) -> tuple[Field, ...]:
    """The fields of a place and, where it has rules, one more that says which of them an entry breaks.

    Rules that cannot be understood (any more) are left out.
    """
    cases = []
    for text in rules:
        with suppress(UserError):
            rule = read_rule(text, fields)
            broken = to_sql.literal(to_sql.where(rule.gap, to_sql.TableSchema(table), date.max))
            cases.append(f"CASE WHEN {broken} THEN {apsw.format_sql_value('; ' + rule.text)} ELSE '' END")
    if not cases:
        return fields
    return (*fields, Field("gaps", "Gaps", GAPS, "gaps", computed_sql=f"nullif(substr({' || '.join(cases)}, 3), '')"))


def need(text: str, fields: Sequence[Field]) -> Node:
    """One thing that must be there."""
    found = LEAST.fullmatch(text.strip())
    field = named(found[2] if found else text, fields)
    if not found:
        return Condition(field, Relation.NOT_EMPTY)
    if field.kind.is_many:
        return AtLeast(field, int(found[1]))
    if Relation.AT_LEAST not in field.kind.relations:
        raise UserError("bad-rule", f"“{field.label}” cannot be counted.", "Name a number, a summary or a list.")
    return Condition(field, Relation.AT_LEAST, found[1])


def condition(text: str, fields: Sequence[Field]) -> Node:
    """When a rule counts."""
    blank = BLANK.fullmatch(text.strip())
    if blank:
        is_empty = blank[2].casefold() in ("empty", "blank", "missing")
        return Condition(named(blank[1], fields), Relation.EMPTY if is_empty else Relation.NOT_EMPTY)
    found = re.fullmatch(r"(.+?)\s+is\s+(not\s+)?(.+)", text.strip(), re.IGNORECASE)
    if not found:
        return Condition(named(text, fields), Relation.NOT_EMPTY)
    field, value = named(found[1], fields), found[3].strip("“”\"' ")
    wanted = Relation.HAS if field.kind.is_many else Relation.IS
    if wanted not in field.kind.relations:
        raise UserError("bad-rule", f"“{field.label}” cannot be held against a value.", "Name a choice or a number.")
    node = Condition(field, wanted, value)
    return Not(node) if found[2] else node


def named(name: str, fields: Sequence[Field]) -> Field:
    """The field of that label or key; “date” and “people” stand for the first field of that kind."""
    wanted = name.strip(" “”\"'.").casefold()
    for field in fields:
        if wanted in (field.label.casefold(), field.key.casefold()):
            return field
    for field in fields:
        if field.kind.is_called(wanted) or wanted == field.label.casefold() + "s":
            return field
    there = ", ".join(field.label for field in fields)
    raise UserError("bad-rule", f"There is no field “{name.strip()}” here.", f"There are: {there}.")
