"""Numbers."""

import math
import re
from functools import cache

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import BLANKNESS, SIZE_SIGNS, SIZES, FieldKind, Plain, Relation, Value
from wily_magpie.core.patterns import pattern

NUMBER_TEXT = pattern(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d{1,3})?")
GROUPED = pattern(r"[+-]?\d{1,3}([ ,'\u00a0\u2009\u202f]\d{3})+(\.\d+)?")
EXACT = 2.0**53
"""Up to here every whole number is one of IEEE 754's doubles."""
LEAST_WRITTEN, MOST_WRITTEN = 1e-12, 1e21
"""Numbers from here to there are shown without a power of ten."""


def read_number(text: str) -> float | None:
    """The number that a text means; None where it means none.

    Raises:
        UnreadableValue: it is a whole number of so many digits that the last ones would be others.
    """
    text = text.strip().replace("\u2212", "-")
    if GROUPED.fullmatch(text):
        text = re.sub(r"[ ,'\u00a0\u2009\u202f]", "", text)
    number = float(text) if NUMBER_TEXT.fullmatch(text) else math.inf
    if math.isinf(number):
        return None
    if abs(number) >= EXACT and not is_kept_whole(text, number):
        raise UnreadableValue(
            "no-number", f"“{text}” has more digits than a number keeps.", "A field of text keeps it whole."
        )
    return number


def is_kept_whole(text: str, number: float) -> bool:
    """Whether a number that was made of a text says the same."""
    from decimal import Decimal  # takes long to load, and is seldom needed

    return Decimal(text) == Decimal(repr(number))


@cache
def decimal_sign(language: str) -> str:
    """The sign before the decimals in a language (CLDR): "." or ","; "" where the language is not known."""
    from babel import Locale, UnknownLocaleError  # takes long to load

    for code in (language, language[:2]):
        try:
            sign = Locale.parse(code, sep="-").number_symbols["latn"]["decimal"]
        except (UnknownLocaleError, ValueError, KeyError, TypeError):
            continue
        return "," if sign == "," else "."
    return ""


UNSURE = pattern(r"[+\-\u2212]?\d{1,3}[.,]\d{3}")
"""One sign before three figures: thousands in one language, decimals in another."""


def read_number_in(text: str, language: str) -> float | None:
    """The number that a text means in a language; None where it means none.

    Raises:
        UnreadableValue: it can mean two, and the language is not known.
    """
    bare = re.sub(r"['’\s\u00a0\u2009\u202f]", "", text).replace("\u2212", "-").rstrip(".,")
    sign = decimal_sign(language) if language else ""
    comma, point = bare.rfind(","), bare.rfind(".")
    if UNSURE.fullmatch(bare) and not sign and not bare.lstrip("+-").startswith("0"):
        two = (bare.replace(",", "").replace(".", ""), bare.replace(",", "."))
        raise UnreadableValue(
            "no-number", f"“{text.strip()}” can be {two[0]} or {two[1]}.", "Write it without that sign."
        )
    if not sign:
        sign = "," if comma > point else "."
        if bare.count(sign) > 1:
            sign = "." if sign == "," else ","
    other = "." if sign == "," else ","
    if bare.count(sign) > 1 or (sign in bare and other in bare[bare.rfind(sign) :]):
        sign, other = other, sign  # whoever wrote it kept to another language
    return read_number(bare.replace(other, "").replace(sign, "."))


def plain_digits(number: float) -> str:
    """A number as digits, whole ones without a point; very large and small ones with a power of ten."""
    return written_out(number) if number == 0 or LEAST_WRITTEN <= abs(number) < MOST_WRITTEN else repr(number)


def written_out(number: float) -> str:
    """A number as digits, however many it takes."""
    if number.is_integer() and abs(number) <= EXACT:
        return str(int(number))
    digits = repr(number)
    if "e" not in digits and not digits.endswith(".0"):
        return digits
    from decimal import Decimal  # as above

    return f"{Decimal(digits):f}".removesuffix(".0")


class Number(FieldKind):
    """A number; groups of three digits may be parted by commas, apostrophes or spaces, decimals follow a point."""

    name = "number"
    has_precision = is_number = is_told = True
    order_words = ("smallest", "largest")
    group_steps = ("10", "100", "1000", "1", "")
    column_type = "REAL"
    signs = SIZE_SIGNS
    right_aligned = True
    is_sized = True
    relations = (Relation.IS, Relation.IS_NOT, *SIZES, Relation.SAME, *BLANKNESS)
    is_worded = False

    def read(self, text: str) -> Value:
        if not text.strip():
            return None
        number = read_number(text)
        if number is None:
            raise UnreadableValue("no-number", f"“{text.strip()}” is not a number.", "Write it like 1250 or 12.5.")
        return number

    def read_in(self, text: str, language: str) -> Value:
        number = read_number_in(text, language) if text.strip() else None
        return number if number is not None else self.read(text)

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
