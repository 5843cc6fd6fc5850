"""Numbers."""

import math
import re

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import BLANKNESS, SIZE_SIGNS, SIZES, FieldKind, Plain, Relation, Value

NUMBER_TEXT = re.compile(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d{1,3})?")
GROUPED = re.compile(r"[+-]?\d{1,3}([ ,'\u00a0\u2009\u202f]\d{3})+(\.\d+)?")


def read_number(text: str) -> float | None:
    """The number that a text means; None where it means none."""
    text = text.strip().replace("\u2212", "-")
    if GROUPED.fullmatch(text):
        text = re.sub(r"[ ,'\u00a0\u2009\u202f]", "", text)
    return float(text) if NUMBER_TEXT.fullmatch(text) and not math.isinf(float(text)) else None


def plain_digits(number: float) -> str:
    """A number as digits, whole ones without a point."""
    return str(int(number)) if number.is_integer() and abs(number) < 1e15 else repr(number)


class Number(FieldKind):
    """A number; groups of three digits may be parted by commas, apostrophes or spaces, decimals follow a point."""

    name = "number"
    has_precision = is_number = is_told = True
    order_words = ("smallest", "largest")
    column_type = "REAL"
    signs = SIZE_SIGNS
    right_aligned = True
    is_sized = True
    relations = (Relation.IS, Relation.IS_NOT, *SIZES, *BLANKNESS)
    is_worded = False

    def read(self, text: str) -> Value:
        if not text.strip():
            return None
        number = read_number(text)
        if number is None:
            raise UnreadableValue("no-number", f"“{text.strip()}” is not a number.", "Write it like 1250 or 12.5.")
        return number

    def show(self, value: Value) -> str:
        return plain_digits(float(value)) if isinstance(value, float | int) else ""

    def to_plain(self, value: Value) -> Plain:
        whole = isinstance(value, float) and value.is_integer() and abs(value) < 1e15
        return int(value) if whole and isinstance(value, float) else super().to_plain(value)

    def from_column(self, stored: object) -> Value:
        return None if stored is None else float(str(stored))

    def sort_sql(self, column: str) -> str:
        return column


NUMBER = Number()
