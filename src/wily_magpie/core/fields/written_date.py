"""Dates as people write them, read by one piece of code wherever a date is read: in rules, filters, cells, imports and pages.

What is read becomes ISO 8601 of reduced precision; what is about a year and what is a season become the forms of ISO 8601-2
(the Extended Date/Time Format of the Library of Congress): 1790~, and 1880-21 for spring 1880. A date in figures whose order
nobody can know is said to be ambiguous, unless the language that it stands in tells.
"""

import re
from datetime import UTC, date, datetime
from functools import cache
from importlib import import_module

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.patterns import pattern

MONTHS = ("january february march april may june july august september october november december").split()
TIMED = pattern(r"(.*\D\d{4}|\d{1,2}[./]\d{1,2}[./]\d{4})[ ,]+(\d{1,2}):(\d{2})")
SHORT_MONTHS = "Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec".split()
LANGUAGES = "en de fr es it pt nl pl sv da nb fi cs ru uk tr el hu ro ar th vi id".split()
"""In which names of months are looked for where no language is told."""
MONTH_FIRST = ("en-us", "en-ph", "en-ca")
"""Languages in which 3/4/2024 is a day in March."""
UNSURE = ("", "en")
"""In which it may be either."""
ISO = pattern(
    r"(\d{4})(?:-(\d{2})(?:-(\d{2})(?:[T ](\d{2}):(\d{2})(?::\d{2}(?:[.,]\d+)?)?\s*(Z|[+-]\d{2}:?\d{2})?)?)?)?"
)
ABOUT = pattern(
    r"(?:c\.?|ca\.?|circa|about|around|um|gegen|vers|environ|hacia|verso|около|~)\s*(\d{3,4})", re.IGNORECASE
)
ABOUT_ISO = pattern(r"(\d{4})~")
SEASONS = {
    21: "spring frühling frühjahr printemps primavera lente wiosna vår forår kevät весна".split(),
    22: "summer sommer été verano estate verão zomer lato sommar kesä лето".split(),
    23: "autumn fall herbst automne otoño autunno outono herfst jesień höst efterår syksy осень".split(),
    24: "winter hiver invierno inverno zima vinter talvi зима".split(),
}
SEASON_ISO = pattern(r"(\d{4})-(2[1-4])")
SEASON = pattern(r"(?:(?P<before>\d{4}),? )?(?P<word>[^\W\d_]{3,10}),?(?: (?:de |of |des jahres )?(?P<behind>\d{4}))?")
WORDED = (
    pattern(
        r"(?:[^\W\d_]{2,12}\.?,? )?(?:le |den |the |am |el )?(?P<day>\d{1,2})(?:st|nd|rd|th|er|º|\.)? ?(?:de |of |d['’])?"
        r"(?P<month>[^\W\d_]{3,12})\.?,? ?(?:de |del |of )?(?P<year>\d{4})"
    ),
    pattern(
        r"(?:[^\W\d_]{2,12}\.?,? )?(?P<month>[^\W\d_]{3,12})\.? (?P<day>\d{1,2})(?:st|nd|rd|th)?,? (?P<year>\d{4})"
    ),
    pattern(r"(?:en |im |in )?(?P<month>[^\W\d_]{3,12})\.?,? ?(?:de |del |of )?(?P<year>\d{4})"),
)
EAST_ASIAN = pattern(r"(\d{4}) ?[年년] ?(?:(\d{1,2}) ?[月월](?: ?(\d{1,2}) ?[日일])?)?")
YEAR_FIRST = pattern(r"(\d{4})([/.])(\d{1,2})(?:\2(\d{1,2}))?\.?")
DOTTED = pattern(r"(\d{1,2})\. ?(\d{1,2})\. ?(\d{4})")
SLASHED = pattern(r"(\d{1,2})([/-])(\d{1,2})\2(\d{4})")
NUMERALS = str.maketrans("٠١٢٣٤٥٦٧٨٩۰۱۲۳۴۵۶۷۸۹", "01234567890123456789")


@dataclass(frozen=True)
class ReadDate:
    """What was read.

    Attributes:
        value: in the stored form; None where it is no date, or nobody can know which.
        doubt: why nobody can, or "".
    """

    value: str | None = None
    doubt: str = ""


def read_date(text: str, language: str = "") -> ReadDate:
    """Reads a date of any precision, or a range.

    Args:
        language: of what it stands in (BCP 47), by which 3/4/2024 is read; "" where that is not known.
    """
    text = " ".join(text.translate(NUMERALS).split()).strip(" ,;")
    value = read_iso(text) or read_about(text) or read_season(text) or read_range(text)
    if value is None:
        found = read_figures(text, language)
        if found.value or found.doubt:
            return found
        value = read_worded(text, language)
    return ReadDate(value)


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


def read_about(text: str) -> str | None:
    """A year that is not sure: "c. 1790" is 1790~."""
    found = ABOUT_ISO.fullmatch(text) or ABOUT.fullmatch(text)
    return f"{found[1]:0>4}~" if found else None


def read_season(text: str) -> str | None:
    """A season of a year: "spring 1880" is 1880-21."""
    if SEASON_ISO.fullmatch(text):
        return text
    found = SEASON.fullmatch(text.casefold())
    year = (found["before"] or found["behind"]) if found else None
    if found is None or year is None:
        return None
    number = next((number for number, words in SEASONS.items() if found["word"] in words), None)
    return f"{year}-{number}" if number else None


def read_range(text: str) -> str | None:
    """Two dates of ISO 8601 with "/" or a dash between them: 1890/1914, 1926-03-12/1926-04. The first is the earlier."""
    found = re.fullmatch(r"(\S+?)\s*(?:/|–|—|\s-\s)\s*(\S+)", text)
    years = re.fullmatch(r"(\d{4})\s*-\s*(\d{4})", text)
    if years:
        found = years
    ends = [read_iso(one) for one in found.groups()] if found else []
    return f"{ends[0]}/{ends[1]}" if len(ends) == 2 and all(ends) and str(ends[0]) <= str(ends[1]) + "~" else None


def read_figures(text: str, language: str) -> ReadDate:
    """A date in figures: the year first, with the signs of East Asia, with points (the day first), with strokes."""
    found = EAST_ASIAN.fullmatch(text)
    if found:
        return ReadDate(day_of(found[1], found[2], found[3]))
    found = YEAR_FIRST.fullmatch(text)
    if found:
        return ReadDate(day_of(found[1], found[3], found[4]))
    found = DOTTED.fullmatch(text)
    if found:
        return ReadDate(day_of(found[3], found[2], found[1]))
    found = SLASHED.fullmatch(text)
    return read_slashed(found, text, language.casefold()) if found else ReadDate()


def read_slashed(found: "re.Match[str]", text: str, language: str) -> ReadDate:
    """3/4/2024: by the figures where one can be no month, else by the language."""
    first, second, year = found[1], found[3], found[4]
    day_first, month_first = day_of(year, second, first), day_of(year, first, second)
    if first == second or not day_first or not month_first:
        return ReadDate(day_first or month_first)
    if language in MONTH_FIRST:
        return ReadDate(month_first)
    if language not in UNSURE:
        return ReadDate(day_first)
    return ReadDate(None, f"“{text}” can be {day_first} or {month_first}: write one of these")


def day_of(year: str, month: str | None, day: str | None) -> str | None:
    """A date of its parts; None where there is no such day."""
    return read_iso("-".join([f"{year:0>4}", *(f"{int(part):02}" for part in (month, day) if part)]))


def read_worded(text: str, language: str = "") -> str | None:
    """A date with the name of its month: "12 March 1926", "1. Mai 2025", "le 3 mars 1931", "March 1926"."""
    for worded in WORDED:
        found = worded.fullmatch(text.casefold())
        month = month_number(found["month"], language) if found else None
        if found and month:
            return day_of(found["year"], str(month), found.groupdict().get("day"))
    return None


def month_number(word: str, language: str = "") -> int | None:
    """1 to 12 for the name of a month or its short form, in one language or in any."""
    word = word.casefold().rstrip(".")
    hits = [
        number
        for number, name in enumerate(MONTHS, 1)
        if name == word or (name[: len(word)] == word and len(word) in (3, 4))
    ]
    code = language[:2].casefold()
    if hits and code in ("", "en"):
        return hits[0]
    for one in [code] if code in LANGUAGES else LANGUAGES:
        if number := months(one).get(word):
            return number
    return hits[0] if hits else None


@cache
def months(code: str) -> dict[str, int]:
    """The numbers of the months by their names and their short forms in a language (CLDR, as dateparser carries it)."""
    names = import_module(f"dateparser.data.date_translation_data.{code}").info
    return {
        name.casefold().rstrip("."): number for number, month in enumerate(MONTHS, 1) for name in names.get(month, [])
    }


def in_words(value: str) -> str:
    """A stored date as people read it; `read_date` of it gives the value again."""
    about, season = ABOUT_ISO.fullmatch(value), SEASON_ISO.fullmatch(value)
    if about:
        return f"c. {about[1]}"
    if season:
        return f"{SEASONS[int(season[2])][0]} {season[1]}"
    return value.replace("T", " ")


def instant_in_words(value: str) -> str:
    """A moment as people look at it, in local time: 26 Nov 2026 05:38; what is no moment as it is read."""
    try:
        moment = datetime.fromisoformat(value) if "T" in value and "/" not in value else None
    except ValueError:
        moment = None
    if moment is None:
        return in_words(value)
    here = moment.astimezone() if moment.tzinfo is not None else moment
    return f"{here.day} {SHORT_MONTHS[here.month - 1]} {here.year} {here:%H:%M}"


def read_instant(text: str, language: str) -> str | None:
    """A moment as people write it, a day and a time of day in local time; None where it is none."""
    found = TIMED.fullmatch(text)
    day = read_date(found[1].rstrip(" ,"), language).value if found else None
    if not found or day is None or not re.fullmatch(r"\d{4}-\d{2}-\d{2}", day):
        return None
    try:
        moment = datetime.fromisoformat(f"{day}T{int(found[2]):02}:{found[3]}").astimezone(UTC)
    except ValueError:
        return None
    return f"{moment:%Y-%m-%dT%H:%MZ}"
