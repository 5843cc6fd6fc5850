"""The figures of Review: what a place lacks, and how far it is; each with the question behind it."""

from collections import Counter

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.fields import Relation
from wily_magpie.core.places.api import Place, first_of
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.queries.marks import MarkQueries, MarkScope
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Condition, Grouping, Node, Question


@dataclass(frozen=True)
class Figure:
    """A count, and the question behind it as text, or the marks behind it."""

    name: str
    count: int
    total: int
    question: str
    colour: str = ""
    marks: MarkScope | None = None


@dataclass(frozen=True)
class Figures:
    """Of one place.

    Attributes:
        gaps: how many entries break each rule of the place; without rules, how many lack each field.
        marks: how many of each kind there are, the first how many of all were never used.
        progress: for each choice, by its label, how many entries each of its options has.
    """

    gaps: tuple[Figure, ...]
    progress: tuple[tuple[str, tuple[Figure, ...]], ...]
    marks: tuple[Figure, ...] = ()


class ReviewQueries:
    """See the module."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def figures(self, key: str) -> Figures:
        """Counts a place through."""
        place = self._library.place(key)
        lacking = of_rules(place) if any(field.kind.is_of_rules for field in place.fields) else of_blanks(place)
        gaps = sorted(lacking, key=lambda figure: -figure.count)
        return Figures(tuple(gaps), tuple(progress(place)), tuple(self.marks(place.key)))

    def marks(self, key: str) -> list[Figure]:
        """How many marks a place has of each kind, and how many were never used."""
        found = MarkQueries(self._library).found(MarkScope(key))  # as the list behind the figures has them
        total, unused = len(found), sum(not one.uses for one in found)
        counts = Counter(one.mark.kind for one in found).most_common()
        out = [Figure(kind, count, total, "", "", MarkScope(key, kind=kind)) for kind, count in counts]
        return [Figure("never used", unused, total, "", "brass", MarkScope(key, is_used=False)), *out] if out else []


def of_rules(place: Place) -> list[Figure]:
    """How many entries break each rule, of those that are broken."""
    told = first_of(place.fields, lambda field: field.kind.is_of_rules)
    out = []
    for rule in place.settings.rules if told is not None else ():
        question = Question(Condition(told, Relation.CONTAINS, rule)) if told is not None else Question()
        listing = place.listing(question)
        out.append(Figure(rule, len(listing.ids), listing.total, cql.write(question), "brass"))
    return [figure for figure in out if figure.count]


def of_blanks(place: Place) -> list[Figure]:
    """How many entries lack each field, unless none or all do."""
    out = []
    for field in place.fields[1:]:
        if not field.is_writable:
            continue
        question = Question(Condition(field, Relation.EMPTY))
        listing = place.listing(question)
        if 0 < len(listing.ids) < listing.total:
            out.append(Figure(field.label, len(listing.ids), listing.total, cql.write(question)))
    return out


def progress(place: Place) -> list[tuple[str, tuple[Figure, ...]]]:
    """For each choice: how many entries each of its options has."""
    out = []
    for field in place.fields:
        if field.kind.has_spine and field.options:
            listing = place.listing(Question(groups=(Grouping(field),)))
            figures = []
            for group in listing.groups:
                option = field.option(group.name)
                node: Node = (
                    Condition(field, Relation.IS, group.name) if group.name else Condition(field, Relation.EMPTY)
                )
                name, colour = group.name or "blank", option.colour if option else ""
                figures.append(Figure(name, group.size, listing.total, cql.write(Question(node)), colour))
            out.append((field.label, tuple(figures)))
    return out
