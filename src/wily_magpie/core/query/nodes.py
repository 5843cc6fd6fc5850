"""The parts of a question."""

from collections.abc import Callable
from dataclasses import replace

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields import Relation


@dataclass(frozen=True)
class Condition:
    """A field held against a value.

    Attributes:
        value: the text a person would write, "" where none is wanted.
        entry: of a reference, the number of the entry that is meant, whatever it is called; 0: whichever has that title.
    """

    field: Field
    relation: Relation
    value: str = ""
    entry: int = 0


@dataclass(frozen=True)
class Words:
    """Words that must all stand in the title, the fields or the text.

    Attributes:
        is_phrase: whether they must follow one another, in one of these.
    """

    text: str
    is_phrase: bool = False


@dataclass(frozen=True)
class AtLeast:
    """A field that holds many has at least so many of them. Rules of places are made with it; CQL has no word for it."""

    field: Field
    count: int


@dataclass(frozen=True)
class And:
    """All of the parts."""

    parts: "tuple[Node, ...]"


@dataclass(frozen=True)
class Or:
    """At least one of the parts."""

    parts: "tuple[Node, ...]"


@dataclass(frozen=True)
class Not:
    """What the part does not hold for."""

    part: "Node"


Node = Condition | Words | AtLeast | And | Or | Not


@dataclass(frozen=True)
class SortKey:
    """One key of a sorting."""

    field: Field
    descending: bool = False


@dataclass(frozen=True)
class Grouping:
    """One level of groups.

    Attributes:
        step: one of the field's kind (see FieldKind.group_steps), such as "year"; of numbers the width of a range.
    """

    field: Field
    step: str = ""


@dataclass(frozen=True)
class Question:
    """Filter, sorting and grouping over one place."""

    filter: Node | None = None
    sort: tuple[SortKey, ...] = ()
    groups: tuple[Grouping, ...] = ()

    @property
    def conditions(self) -> tuple[Node, ...]:
        """The parts that must all hold."""
        if self.filter is None:
            return ()
        return self.filter.parts if isinstance(self.filter, And) else (self.filter,)

    def with_conditions(self, conditions: tuple[Node, ...]) -> "Question":
        """The same question with other conditions."""
        return replace(self, filter=all_of(conditions))


def mapped(node: Node, change: Callable[[Condition], Condition]) -> Node:
    """A filter with each of its conditions changed."""
    match node:
        case Condition():
            return change(node)
        case And(parts):
            return And(tuple(mapped(part, change) for part in parts))
        case Or(parts):
            return Or(tuple(mapped(part, change) for part in parts))
        case Not(part):
            return Not(mapped(part, change))
        case _:
            return node


def all_of(conditions: tuple[Node, ...]) -> Node | None:
    """Conditions joined by "and"; None for none."""
    return And(conditions) if len(conditions) > 1 else next(iter(conditions), None)
