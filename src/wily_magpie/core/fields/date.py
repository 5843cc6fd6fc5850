"""Dates of ISO 8601 with reduced precision: a year, a month, a day, a minute, a range of two of them, about a year, a season."""

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import ALIKE, BLANKNESS, FieldKind, Relation, Sql, Value, as_line
from wily_magpie.core.fields.written_date import (
    in_words,
    instant_in_words,
    read_about,
    read_date,
    read_instant,
    read_iso,
    read_range,
    read_season,
)

DATE_SIGNS = {
    "=": Relation.IS,
    "==": Relation.IS,
    "<": Relation.BEFORE,
    ">": Relation.AFTER,
    "<=": Relation.UNTIL,
    ">=": Relation.FROM,
    "within": Relation.LAST,
    "within/next": Relation.NEXT,
    **ALIKE,
}
"""What stands after "within" and "<" says more: P14D is a length of time, this-week a span of the calendar, 1890/1914 of years."""


class Date(FieldKind):
    """A date, time or range as ISO 8601 text, so that the order of texts is the order of time (zones matter within a day).

    A season stands behind the months of its year. What a person writes otherwise ("before the flood") is kept as it stands,
    with a warning; it is in no order and met by no comparison.
    """

    name = "date"
    is_dated = is_told = True
    group_steps = ("year", "month", "decade", "century", "")
    order_words = ("oldest", "newest")
    signs = DATE_SIGNS
    relations = (
        Relation.LAST,
        Relation.THIS,
        Relation.NEXT,
        Relation.OLDER,
        Relation.BETWEEN,
        Relation.BEFORE,
        Relation.AFTER,
        Relation.IS,
        Relation.FROM,
        Relation.UNTIL,
        Relation.SAME,
        *BLANKNESS,
    )
    is_worded = False

    def read(self, text: str) -> Value:
        text = as_line(text)
        if not text:
            return None
        return self.read_in(text, "")

    def read_in(self, text: str, language: str) -> Value:
        moment = read_instant(text, language)
        if moment is not None:
            return moment
        found = read_date(text, language)
        if found.value is None:
            raise UnreadableValue(
                "no-date",
                found.doubt or f"“{text}” is not a date.",
                "Write it like 1926, 1926-03, 1926-03-12, 12 March 1926, spring 1926, c. 1926 or 1890/1914.",
            )
        return found.value

    def take(self, text: str) -> tuple[Value, str]:
        try:
            return self.read(text), ""
        except UnreadableValue:
            value = as_line(text)
            return value, self.doubt(value)

    def doubt(self, value: Value) -> str:
        if not isinstance(value, str) or any(read(value) for read in (read_iso, read_range, read_about, read_season)):
            return ""
        said = read_date(value).doubt
        return f"{said or f'“{value}” is not a date that can be sorted'}; it is kept as text."

    def show(self, value: Value) -> str:
        return in_words(value) if isinstance(value, str) else ""

    def looked_at(self, value: Value) -> str:
        return instant_in_words(value) if isinstance(value, str) else ""

    def sort_sql(self, column: str) -> str:
        return column

    def compare(self, relation: Relation, column: str, value: Value) -> Sql:
        """A range meets what its beginning meets, and what is kept as text meets nothing.

        ":" sorts behind every figure; "~" behind all that a date holds, so that 1926~ is the end of 1926.
        """
        return f"({DATE_COMPARISONS[relation].format(column)} AND {column} < ':')", [value]


DATE_COMPARISONS = {
    Relation.IS: "{} LIKE ? || '%'",
    Relation.BEFORE: "{} < ?",
    Relation.AFTER: "{} > ? || '~'",
    Relation.FROM: "{} >= ?",
    Relation.UNTIL: "{} <= ? || '~'",
}
DATE = Date()
