"""Lengths of time as ISO 8601 writes them (P14D, P2W, P3M, P1Y6M), and spans of the calendar around today."""

import re
from datetime import date, timedelta

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.patterns import pattern

PERIOD = pattern(r"P(?=\d)(?:(\d{1,4})Y)?(?:(\d{1,5})M)?(?:(\d{1,4})W)?(?:(\d{1,5})D)?", re.IGNORECASE)
SHORT = pattern(r"(\d{1,5})\s*(days?|weeks?|months?|years?|[dwmy])?", re.IGNORECASE)
UNITS = ("year", "month", "week", "day")
SPANS = {"today": "today", "this-week": "this week", "this-month": "this month", "this-year": "this year"}
"""Spans of the calendar around today, as they are written and as they are said."""


@dataclass(frozen=True)
class Period:
    """A length of time in calendar units."""

    years: int = 0
    months: int = 0
    weeks: int = 0
    days: int = 0

    def before(self, day: date) -> date:
        """The day that lies so long before another one; the first that there is where it would be earlier."""
        return shifted(day, -(self.years * 12 + self.months), -(self.weeks * 7 + self.days))

    def after(self, day: date) -> date:
        """The day that lies so long after another one; the last that there is where it would be later."""
        return shifted(day, self.years * 12 + self.months, self.weeks * 7 + self.days)

    @property
    def parts(self) -> list[tuple[int, str]]:
        """How many of which units it has, the longest first; never none."""
        counts = (self.years, self.months, self.weeks, self.days)
        return [(count, unit) for count, unit in zip(counts, UNITS, strict=True) if count] or [(0, "day")]

    @property
    def in_words(self) -> str:
        """As it stands after "in the last": "14 days", "week", "1 year and 6 months"."""
        parts = self.parts
        if len(parts) == 1 and parts[0][0] == 1:
            return parts[0][1]
        return self.counted

    @property
    def counted(self) -> str:
        """The same with a figure in any case: "1 week"."""
        return " and ".join(f"{count} {unit}" if count == 1 else f"{count} {unit}s" for count, unit in self.parts)

    @property
    def written(self) -> str:
        """In ISO 8601."""
        return "P" + "".join(f"{count}{unit[0].upper()}" for count, unit in self.parts)


def read_period(text: str) -> Period | None:
    """A length of time as ISO 8601 writes it; None where it is none."""
    found = PERIOD.fullmatch(text.strip())
    return Period(*(int(one or 0) for one in found.groups())) if found else None


def read_said(text: str) -> Period | None:
    """The same as a person may say it, too: 14, 14 days, 2 weeks."""
    short = SHORT.fullmatch(text.strip())
    if not short:
        return read_period(text)
    unit = (short[2] or "d")[0].lower()
    return Period(**{f"{one}s": int(short[1]) for one in UNITS if one[0] == unit})


def days_of(year: int, month: int) -> int:
    """How many days a month has."""
    from calendar import monthrange  # here, since a window begins without it

    return monthrange(year, month)[1]


def shifted(day: date, months: int, days: int) -> date:
    """A day moved by months (the last of a month where that is shorter) and days, within what the calendar has."""
    at = day.year * 12 + day.month - 1 + months
    year, month = divmod(at, 12)
    if not date.min.year <= year <= date.max.year:
        return date.min if months < 0 else date.max
    try:
        return date(year, month + 1, min(day.day, days_of(year, month + 1))) + timedelta(days=days)
    except OverflowError:
        return date.min if days < 0 else date.max


def span_of(name: str, day: date) -> tuple[date, date]:
    """First and last day of a span around a day; weeks begin on Monday (ISO 8601)."""
    if name == "this-week":
        first = shifted(day, 0, -day.weekday())
        return first, shifted(first, 0, 6)
    if name == "this-month":
        return day.replace(day=1), day.replace(day=days_of(day.year, day.month))
    if name == "this-year":
        return date(day.year, 1, 1), date(day.year, 12, 31)
    return day, day
