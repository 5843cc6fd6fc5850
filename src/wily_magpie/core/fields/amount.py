"""Amounts: a number with its currency or unit, such as 1,250.00 EUR or 3.2 km."""

import re
from collections.abc import Callable

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import BLANKNESS, SIZE_SIGNS, SIZES, FieldKind, Relation, Sql, Value, as_line
from wily_magpie.core.fields.number import read_declared, read_number_in, read_typed, written_out
from wily_magpie.core.fields.units import figures_and_unit


class Amount(FieldKind):
    """A value is a text of number, space, unit: "1250 EUR". Without a unit it is a number alone.

    SQLite's CAST reads the number off the beginning of such a text.
    """

    name = "amount"
    has_precision = has_unit = is_told = True
    order_words = ("smallest", "largest")
    group_steps = ("10", "100", "1000", "1", "")
    signs = SIZE_SIGNS
    relations = (*SIZES, Relation.IS, Relation.IS_NOT, Relation.SAME, *BLANKNESS)
    right_aligned = True
    is_sized = True

    def read(self, text: str) -> Value:
        return self.parted(text, read_typed)

    def read_in(self, text: str, language: str) -> Value:
        return self.parted(text, lambda digits: read_number_in(digits, language))

    def read_declared(self, text: str, language: str) -> Value:
        return self.parted(text, read_declared)

    @staticmethod
    def parted(text: str, digits: Callable[[str], float | None]) -> Value:
        """Number and unit; `digits` reads the number."""
        line = as_line(text)
        if not line:
            return None
        figures, unit = figures_and_unit(line)
        number = digits(figures) if figures else None
        if number is None:
            raise UnreadableValue("no-amount", f"“{line}” is not an amount.", "Write it like 1250.00 EUR or 3.2 km.")
        return f"{written_out(number)} {unit}".strip()

    def show(self, value: Value) -> str:
        if not isinstance(value, str):
            return ""
        number, unit = split(value)
        return f"{written_out(number)} {unit}".strip()

    def sort_sql(self, column: str) -> str:
        return f"CAST({column} AS REAL)"

    def compare(self, relation: Relation, column: str, value: Value) -> Sql:
        """Only amounts of the same unit are held against each other; a bare number against all."""
        number, unit = split(str(value))
        sql, values = super().compare(relation, f"CAST({column} AS REAL)", number)
        if not unit:
            return f"({column} IS NOT NULL AND {sql})", values
        same = f"{column} LIKE ? ESCAPE '!'"
        escaped = re.sub(r"([%_!])", r"!\1", unit)
        return f"({same} AND {sql})", [f"% {escaped}", *values]


def split(value: str) -> tuple[float, str]:
    """An amount's number and unit."""
    number, _, unit = value.partition(" ")
    return float(number), unit


AMOUNT = Amount()
