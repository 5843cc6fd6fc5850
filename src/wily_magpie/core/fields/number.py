"""Numbers."""

import math
import re

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import BLANKNESS, FieldKind, Plain, Relation, Value

NUMBER_TEXT = re.compile(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d{1,3})?")
GROUPED = re.compile(r"[+-]?\d{1,3}([ ,'\u00a0\u2009\u202f]\d{3})+(\.\d+)?")


class Number(FieldKind):
    """A number; groups of three digits may be parted by commas, apostrophes or spaces, decimals follow a point."""

    name = "number"
    column_type = "REAL"
    right_aligned = True
    relations = (
        Relation.IS,
        Relation.IS_NOT,
        Relation.LESS,
        Relation.MORE,
        Relation.AT_LEAST,
        Relation.AT_MOST,
        *BLANKNESS,
    )

    def read(self, text: str) -> Value:
        text = text.strip().replace("\u2212", "-")
        if not text:
            return None
        if GROUPED.fullmatch(text):
            text = re.sub(r"[ ,'\u00a0\u2009\u202f]", "", text)
        if not NUMBER_TEXT.fullmatch(text) or math.isinf(float(text)):
            raise UnreadableValue("no-number", f"“{text}” is not a number.", "Write it like 1250 or 12.5.")
        return float(text)

    def show(self, value: Value) -> str:
        if not isinstance(value, float | int):
            return ""
        return str(int(value)) if float(value).is_integer() and abs(value) < 1e15 else repr(float(value))

    def to_plain(self, value: Value) -> Plain:
        whole = isinstance(value, float) and value.is_integer() and abs(value) < 1e15
        return int(value) if whole and isinstance(value, float) else super().to_plain(value)


NUMBER = Number()
