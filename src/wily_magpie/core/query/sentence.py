"""A question in words, piece by piece, for the line above a view."""

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields import Relation
from wily_magpie.core.query.cql import both_ends
from wily_magpie.core.query.nodes import And, AtLeast, Condition, Grouping, Node, Not, Or, SortKey, Words
from wily_magpie.core.query.periods import SPANS, read_period

QUOTED = (Relation.CONTAINS, Relation.CONTAINS_NOT, Relation.BEGINS)
STEP_WORDS = {"letter": "first letter"}


@dataclass(frozen=True)
class Wording:
    """field and value are what can be chosen anew (shown strong), verb stands between them."""

    field: str
    verb: str
    value: str


def wording(node: Node) -> Wording:
    """A condition in words."""
    match node:
        case Words(text, is_phrase):
            return Wording("anything", "has the phrase" if is_phrase else "has the words", f"“{text}”")
        case Condition(field, relation, value):
            if relation in (Relation.EMPTY, Relation.NOT_EMPTY):
                return Wording(lowered(field), "is", relation.removeprefix("is "))
            if relation is Relation.THIS:
                return Wording(lowered(field), "is" if value == "today" else relation, SPANS.get(value, value))
            return Wording(lowered(field), relation, value_words(relation, value))
        case AtLeast(field, count):
            return Wording(field.label, "are at least", str(count))
        case _:
            return Wording("", "", in_words(node))


def lowered(field: Field) -> str:
    """A field's label within a sentence: names that a person wrote with capitals of their own keep them."""
    return field.label.lower() if field.label.istitle() or field.through is not None else field.label


def value_words(relation: Relation, value: str) -> str:
    """What a field is held against, in words."""
    period = read_period(value) if relation.wants_period else None
    if period is not None:
        return period.in_words if relation is not Relation.OLDER else period.counted
    if relation is Relation.BETWEEN:
        return " and ".join(both_ends(value))
    if relation.wants_many:
        return ", ".join(filter(None, map(str.strip, value.split(";"))))
    return f"“{value}”" if relation in QUOTED else value


def group_words(group: Grouping) -> tuple[str, str]:
    """What is grouped by, and how: ("published", "by decade"); the second is "" for value by value."""
    step = STEP_WORDS.get(group.step, group.step)
    if group.step[:1].isdigit():
        return lowered(group.field), f"in ranges of {step}"
    return lowered(group.field), f"by {step}" if step else ""


def in_words(node: Node) -> str:
    """Any part of a filter as plain words."""
    match node:
        case And(parts) | Or(parts):
            return (" and " if isinstance(node, And) else " or ").join(
                f"({in_words(part)})" if isinstance(part, And | Or) else in_words(part) for part in parts
            )
        case Not(part):
            return f"not ({in_words(part)})"
        case _:
            said = wording(node)
            return " ".join(filter(None, (said.field, said.verb, said.value)))


def sort_words(key: SortKey) -> tuple[str, str]:
    """How the order is said: ("newest", "captured")."""
    label = lowered(key.field)
    upwards, downwards = key.field.kind.order_words
    return (downwards if key.descending else upwards), label
