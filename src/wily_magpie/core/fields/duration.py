"""Durations: how long something plays or takes, in seconds; written as people do (48 min, 1 h 12 min) or by ISO 8601 (PT48M)."""

import re
from math import isfinite

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import BLANKNESS, SIZE_SIGNS, SIZES, FieldKind, Plain, Relation, Value, as_line
from wily_magpie.core.patterns import pattern

ISO = pattern(r"P(?:(\d+)D)?(?:T(?=\d)(?:(\d+(?:\.\d+)?)H)?(?:(\d+(?:\.\d+)?)M)?(?:(\d+(?:\.\d+)?)S)?)?", re.IGNORECASE)
CLOCK = pattern(r"(?:(\d{1,3}):)?(\d{1,3}):(\d{2})")
PART = pattern(
    r"(\d+(?:[.,]\d+)?)\s*(days?|d|hours?|hrs?|hr|h|minutes?|mins?|min|m|seconds?|secs?|sec|s)\b\.?[,\s]*",
    re.IGNORECASE,
)
LONGEST_S = 100 * 366 * 86_400
"""A hundred years: whoever says more has written something else."""
UNIT_S = {"d": 86_400, "h": 3_600, "m": 60, "s": 1}


def read_seconds(text: str) -> float | None:
    """The seconds that a text means; None where it means none. A bare number is minutes."""
    line = as_line(text)
    found = ISO.fullmatch(line)
    if found and any(found.groups()):
        return sum(float(part or 0) * unit for part, unit in zip(found.groups(), UNIT_S.values(), strict=True))
    clock = CLOCK.fullmatch(line)
    if clock:
        return int(clock[1] or 0) * 3_600 + int(clock[2]) * 60 + float(clock[3])
    if re.fullmatch(r"\d+(\.\d+)?", line):
        return float(line) * 60
    rest, seconds = line.replace(" and ", " "), 0.0
    while rest:
        part = PART.match(rest)
        if not part:
            return None
        seconds += float(part[1].replace(",", ".")) * UNIT_S[part[2][0].lower()]
        rest = rest[part.end() :]
    return seconds


def in_words(seconds: float) -> str:
    """A length as people write it: 48 min, 1 h 12 min, 48 min 12 s."""
    left, parts = round(seconds), []
    for name, unit in (("h", 3_600), ("min", 60), ("s", 1)):
        count, left = divmod(left, unit)
        if count:
            parts.append(f"{count} {name}")
    return " ".join(parts) or "0 s"


def iso_of(seconds: float) -> str:
    """The same by ISO 8601."""
    left, out = round(seconds), ""
    for name, unit in (("H", 3_600), ("M", 60), ("S", 1)):
        count, left = divmod(left, unit)
        out += f"{count}{name}" if count else ""
    return f"PT{out or '0S'}"


class Duration(FieldKind):
    """Seconds."""

    name = "duration"
    is_told = is_sized = is_duration = right_aligned = True
    order_words = ("shortest", "longest")
    column_type = "REAL"
    signs = SIZE_SIGNS
    relations = (*SIZES, Relation.IS, Relation.SAME, *BLANKNESS)
    is_worded = False

    def read(self, text: str) -> Value:
        if not text.strip():
            return None
        seconds = read_seconds(text)
        if seconds is None or seconds > LONGEST_S:
            raise UnreadableValue(
                "no-duration",
                f"“{as_line(text)[:80]}” is not a length of time.",
                "Write it like 48 min, 1 h 12 min or 1:12:30.",
            )
        return float(round(seconds))  # as it is shown

    def show(self, value: Value) -> str:
        return in_words(float(value)) if isinstance(value, float | int) and isfinite(value) else ""

    def to_plain(self, value: Value) -> Plain:
        return iso_of(float(value)) if isinstance(value, float | int) and isfinite(value) else None

    def from_column(self, stored: object) -> Value:
        return None if stored is None else float(str(stored))

    def sort_sql(self, column: str) -> str:
        return column


DURATION = Duration()
