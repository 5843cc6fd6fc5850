"""Summaries over references: what is counted, added up or listed of the entries at their other end."""

from enum import StrEnum

from wily_magpie.core.fields.amount import AMOUNT
from wily_magpie.core.fields.base import FieldKind, Relation, Sql, Value, WorkedOut
from wily_magpie.core.fields.date import DATE
from wily_magpie.core.fields.number import NUMBER
from wily_magpie.core.fields.text import TEXT


class Measure(StrEnum):
    """What a summary makes of the entries that it looks at."""

    COUNT = "count"
    SUM = "sum"
    EARLIEST = "earliest"
    LATEST = "latest"
    LIST = "list"
    SHARE = "share"

    @property
    def wants_field(self) -> bool:
        """Whether it looks at a field of those entries."""
        return self not in (Measure.COUNT, Measure.SHARE)


class Summary(WorkedOut):
    """Shows and compares as the kind of its result does."""

    name = "summary"
    has_precision = is_fixed = is_summary = is_told = True

    def __init__(self, result: FieldKind) -> None:
        self.result = result
        self.signs, self.relations = result.signs, result.relations
        self.order_words, self.group_steps = result.order_words, result.group_steps
        self.right_aligned, self.is_short, self.is_sized = result.right_aligned, result.is_short, result.is_sized

    def read(self, text: str) -> Value:
        return self.result.read(text)

    def show(self, value: Value) -> str:
        return self.result.show(value)

    def looked_at(self, value: Value) -> str:
        return self.result.looked_at(value)

    def from_column(self, stored: object) -> Value:
        return self.result.from_column(stored)

    def sort_sql(self, column: str) -> str:
        return self.result.sort_sql(column)

    def compare(self, relation: Relation, column: str, value: Value) -> Sql:
        return self.result.compare(relation, column, value)


def result_of(measure: Measure, of: FieldKind | None) -> FieldKind:
    """The kind of what a measure gives over fields of a kind."""
    match measure:
        case Measure.COUNT | Measure.SHARE:
            return NUMBER
        case Measure.SUM:
            return AMOUNT if of is AMOUNT else NUMBER
        case Measure.EARLIEST | Measure.LATEST:
            return DATE
        case _:
            return TEXT


SUMMARY = Summary(NUMBER)
