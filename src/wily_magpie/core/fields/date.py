"""Dates of ISO 8601 with reduced precision: a year, a month, a day, a minute, or a range of two of them."""

import re
from datetime import date, datetime

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import BLANKNESS, FieldKind, Relation, Sql, Value, as_line

ISO = re.compile(
    r"(\d{4})(?:-(\d{2})(?:-(\d{2})(?:[T ](\d{2}):(\d{2})(?::\d{2}(?:[.,]\d+)?)?\s*(Z|[+-]\d{2}:?\d{2})?)?)?)?"
)
MONTHS = ("january february march april may june july august september october november december").split()
WORDED = (
    re.compile(r"(?P<day>\d{1,2})(?:st|nd|rd|th)?\.? (?P<month>[A-Za-z]{3,9})\.?,? (?P<year>\d{4})"),
    re.compile(r"(?P<month>[A-Za-z]{3,9})\.? (?P<day>\d{1,2})(?:st|nd|rd|th)?,? (?P<year>\d{4})"),
    re.compile(r"(?P<month>[A-Za-z]{3,9})\.?,? (?P<year>\d{4})"),
)


def month_number(word: str) -> int | None:
    """1 to 12 for an English month's name or its first three or four letters."""
    word = word.casefold()
    hits = [
        i for i, name in enumerate(MONTHS, 1) if name == word or (word == name[: len(word)] and len(word) in (3, 4))
    ]
    return hits[0] if hits else None


def read_iso(text: str) -> str | None:
    """An ISO 8601 text in our stored form; a time keeps its zone, since the day that a page names is the day of its place."""
    found = ISO.fullmatch(text)
    if not found:
        return None
    year, month, day, hour, minute, zone = found.groups()
    try:
        date(max(int(year), 1), int(month or 1), int(day or 1))
        if hour is None:
            return "-".join(filter(None, (year, month, day)))
        moment = datetime(int(year), int(month), int(day), int(hour), int(minute))  # noqa: DTZ001 - the zone is kept as text
        offset = (zone or "").replace(":", "")
        if offset and offset != "Z" and (int(offset[1:3]) > 14 or int(offset[3:]) > 59):
            return None
        suffix = "Z" if offset in ("Z", "+0000", "-0000") else f"{offset[:3]}:{offset[3:]}" if offset else ""
        return moment.isoformat(timespec="minutes") + suffix
    except (ValueError, OverflowError):
        return None


def read_worded(text: str) -> str | None:
    """What people write: "12 March 1926", "March 12, 1926", "March 1926"."""
    for pattern in WORDED:
        found = pattern.fullmatch(text)
        month = month_number(found["month"]) if found else None
        if found and month:
            day = found.groupdict().get("day")
            iso = f"{found['year']}-{month:02}" + (f"-{int(day):02}" if day else "")
            return read_iso(iso)
    return None


def read_range(text: str) -> str | None:
    """Two dates of ISO 8601 with "/" or a dash between them: 1890/1914, 1926-03-12/1926-04. The first is the earlier."""
    found = re.fullmatch(r"(\S+?)\s*(?:/|–|—|\s-\s)\s*(\S+)", text)
    years = re.fullmatch(r"(\d{4})\s*-\s*(\d{4})", text)
    if years:
        found = years
    ends = [read_iso(one) for one in found.groups()] if found else []
    return f"{ends[0]}/{ends[1]}" if len(ends) == 2 and all(ends) and str(ends[0]) <= str(ends[1]) + "~" else None


DATE_SIGNS = {
    "=": Relation.IS,
    "==": Relation.IS,
    "<": Relation.BEFORE,
    ">": Relation.AFTER,
    "<=": Relation.UNTIL,
    ">=": Relation.FROM,
    "within": Relation.LAST_DAYS,
}


class Date(FieldKind):
    """A date, time or range as ISO 8601 text, so that the order of texts is the order of time (zones matter within a day).

    What a person writes otherwise ("spring 1880") is kept as it stands, with a warning; it is in no order and met by no
    comparison.
    """

    name = "date"
    is_dated = is_grouping = is_told = True
    order_words = ("oldest", "newest")
    signs = DATE_SIGNS
    relations = (
        Relation.LAST_DAYS,
        Relation.BEFORE,
        Relation.AFTER,
        Relation.IS,
        Relation.FROM,
        Relation.UNTIL,
        *BLANKNESS,
    )
    is_worded = False

    def read(self, text: str) -> Value:
        text = as_line(text)
        if not text:
            return None
        value = read_iso(text) or read_worded(text) or read_range(text)
        if value is None:
            raise UnreadableValue(
                "no-date",
                f"“{text}” is not a date.",
                "Write it like 1926, 1926-03, 1926-03-12, 12 March 1926 or 1890/1914.",
            )
        return value

    def take(self, text: str) -> tuple[Value, str]:
        try:
            return self.read(text), ""
        except UnreadableValue:
            value = as_line(text)
            return value, self.doubt(value)

    def doubt(self, value: Value) -> str:
        if not isinstance(value, str) or read_iso(value) or read_range(value):
            return ""
        return f"“{value}” is not a date that can be sorted; it is kept as text."

    def show(self, value: Value) -> str:
        return str(value).replace("T", " ") if isinstance(value, str) else ""

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
