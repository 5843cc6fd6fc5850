"""Numbers."""

import math
import re
from functools import cache

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import BLANKNESS, SIZE_SIGNS, SIZES, FieldKind, Plain, Relation, Value, as_line
from wily_magpie.core.fields.units import BLANKS, figures_and_unit
from wily_magpie.core.patterns import pattern

NUMBER_TEXT = pattern(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d{1,3})?")
SPACED = pattern(rf"[+-]?\d{{1,3}}(?:[{BLANKS}]\d{{3}})+(?:[.,]\d+)?")
EXACT = 2.0**53
"""Up to here every whole number is one of IEEE 754's doubles."""
LEAST_WRITTEN, MOST_WRITTEN = 1e-12, 1e21
"""Numbers from here to there are shown without a power of ten."""


def read_number(text: str) -> float | None:
    """The number that a text of figures with a decimal point means, as JSON has it; None where it means none.

    Raises:
        UnreadableValue: it is a whole number of so many digits that the last ones would be others.
    """
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


def read_number_in(text: str, language: str) -> float | None:
    """The number that a text means in a language; None where it means none.

    Raises:
        UnreadableValue: it can mean two, and the language is not known.
    """
    return read_figures(text, decimal_sign(language) if language else "")


def read_declared(text: str) -> float | None:
    """The number that is declared for programs: JSON, schema.org and Open Graph have a point before the decimals.

    What is written otherwise is read where it can mean but one thing.

    Raises:
        UnreadableValue: it can mean two.
    """
    number = read_number(text.strip())
    return read_figures(text, "") if number is None else number


def read_typed(text: str) -> float | None:
    """The number that a person typed or a table holds: a point stands before decimals, a comma where it cannot part thousands.

    >>> read_typed("1,250"), read_typed("1.250,50"), read_typed("12,99"), read_typed("12,3,4")
    (1250.0, 1250.5, 12.99, None)
    """
    return read_figures(text, ".")


def read_figures(text: str, sign: str) -> float | None:
    """The number of a text by the sign that stands before its decimals; None where it means none.

    A sign that cannot part thousands where it stands (12,99) can only stand before decimals.

    Args:
        sign: "." or ","; "" where nobody knows.

    Raises:
        UnreadableValue: it can mean two.
    """
    bare = text.strip().replace("\u2212", "-").rstrip(".,")
    if SPACED.fullmatch(bare):
        return read_number(re.sub(f"[{BLANKS}]", "", bare).replace(",", "."))
    last = max(".,", key=bare.rfind)
    whole, _, decimals = bare.rpartition(last)
    other = "." if last == "," else ","
    if last not in bare:
        return read_number(bare)
    if other in whole:  # both stand there: the last one before the decimals
        return read_number(f"{whole.replace(other, '')}.{decimals}") if is_grouped(whole, other) else None
    grouped = bare.replace(last, "") if is_grouped(bare, last) else ""
    if last in whole:
        return read_number(grouped)
    parted = f"{whole}.{decimals}"
    if grouped and not sign:
        raise UnreadableValue(
            "no-number", f"“{text.strip()}” can be {grouped} or {parted}.", "Write it without that sign."
        )
    return read_number(grouped if grouped and sign != last else parted)


def is_grouped(text: str, sign: str) -> bool:
    """Whether a sign parts groups of figures as thousands are parted, or lakhs: 1,250,000 and 12,50,000."""
    return (
        re.fullmatch(rf"[+-]?[1-9](?:\d{{0,2}}(?:[{sign}]\d{{3}})+|\d?(?:[{sign}]\d{{2}})+[{sign}]\d{{3}})", text)
        is not None
    )


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


def with_decimals(written: str, number: float) -> str:
    """A number with a point before its decimals, of which it has as many as where it is written: 24.50.

    >>> with_decimals("24,50 €", 24.5), with_decimals("1.250", 1250.0)
    ('24.50', '1250')
    """
    decimals = re.search(r"[.,](\d{1,2})\D*$", written)
    return f"{number:.{len(decimals[1])}f}" if decimals else plain_digits(number)


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
        return self.sure(text, read_typed(text))

    def take(self, text: str) -> tuple[Value, str]:
        figures, unit = figures_and_unit(as_line(text))
        number = read_typed(figures) if unit else None
        if number is None:
            return self.read(text), ""
        return number, f"It is kept without its unit, {unit}: a field of amounts would keep that."

    def read_in(self, text: str, language: str) -> Value:
        return self.sure(text, read_number_in(text, language)) if text.strip() else None

    def read_declared(self, text: str, language: str) -> Value:
        return self.sure(text, read_declared(text)) if text.strip() else None

    @staticmethod
    def sure(text: str, number: float | None) -> float:
        """What was read, where it is a number.

        Raises:
            UnreadableValue: it is none.
        """
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
