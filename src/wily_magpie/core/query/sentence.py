"""A question in words, piece by piece, for the line above a view."""

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.fields import Relation
from wily_magpie.core.query.nodes import And, AtLeast, Condition, Node, Not, Or, SortKey, Words


@dataclass(frozen=True)
class Wording:
    """field and value are what can be chosen anew (shown strong), verb stands between them."""

    field: str
    verb: str
    value: str


def wording(node: Node) -> Wording:
    """A condition in words."""
    match node:
        case Words(text):
            return Wording("anything", "contains", f"“{text}”")
        case Condition(field, relation, value):
            label = field.label.lower() if field.label.istitle() else field.label
            if relation is Relation.LAST_DAYS:
                return Wording(label, relation, "day" if value == "1" else f"{value} days")
            if relation in (Relation.EMPTY, Relation.NOT_EMPTY):
                return Wording(label, "is", relation.removeprefix("is "))
            return Wording(label, relation, f"“{value}”" if relation is Relation.CONTAINS else value)
        case AtLeast(field, count):
            return Wording(field.label, "are at least", str(count))
        case _:
            return Wording("", "", in_words(node))


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
    label = key.field.label.lower() if key.field.label.istitle() else key.field.label
    upwards, downwards = key.field.kind.order_words
    return (downwards if key.descending else upwards), label
