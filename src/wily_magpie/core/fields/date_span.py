"""Where a date lies on an axis of years: a year from its beginning to its end, a day for a day, a range from one to the other."""

import re
from calendar import isleap
from datetime import date
from functools import lru_cache

ISO = re.compile(r"(\d{4})(?:-(\d{2})(?:-(\d{2})(?:T(\d{2}):?(\d{2})?.*)?)?)?~?")
SEASONS = {21: (3, 5), 22: (6, 8), 23: (9, 11), 24: (12, 12)}
"""First and last month of the seasons of ISO 8601-2; a winter is that of its beginning."""
MINUTES_A_DAY = 1440


@lru_cache(maxsize=200_000)
def span_of(value: str) -> tuple[float, float] | None:
    """Begin and end of a date, in years: 1926 is 1926.0 to 1927.0; None of what is kept as text.

    Of what is only about a year it is that year.
    """
    first, sign, last = value.partition("/")
    begin = one_span(first)
    if not sign or begin is None:
        return begin
    end = one_span(last)
    return (begin[0], max(begin[1], end[1])) if end is not None else begin


def one_span(text: str) -> tuple[float, float] | None:
    """Of a date that is no range."""
    found = ISO.fullmatch(text)
    if not found:
        return None
    year, month, day, hour, minute = (int(part) if part else 0 for part in found.groups())
    try:
        if not month:
            return float(year), year + 1.0
        first, last = SEASONS.get(month, (month, month))
        if not day:
            end = date(year, last + 1, 1) if last < 12 else None
            return in_years(date(year, first, 1)), in_years(end) if end is not None else year + 1.0
        begin = in_years(date(year, month, day))
    except ValueError:
        return None
    length = 366 if isleap(year) else 365
    if found[4]:
        begin += (hour * 60 + minute) / MINUTES_A_DAY / length
        return begin, begin
    return begin, begin + 1 / length


def in_years(day: date) -> float:
    """The beginning of a day in years."""
    return day.year + (day.timetuple().tm_yday - 1) / (366 if isleap(day.year) else 365)
