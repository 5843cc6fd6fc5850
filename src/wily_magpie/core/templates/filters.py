"""The filters of expressions: plain values in, plain values out, none larger than a megabyte."""

import re
from collections.abc import Callable, Iterable, Mapping, Sequence

import jinja2
import regex

from wily_magpie.core.entries.file_name import safe_name
from wily_magpie.core.fields.people import family_first, given_first
from wily_magpie.core.pages.address import host_of

LARGEST = 1_000_000
"""Characters, or items, that a value may have."""
LONGEST_REGEX_S = 0.1
MOST_MATCHES = 1000
MOST_COUNTED = 100_000
MOST_DECIMALS = 20
MONTHS = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
          "December")  # fmt: skip
DATE = re.compile(r"(?P<Y>-?\d{4})(-(?P<m>\d\d)(-(?P<d>\d\d)(T(?P<H>\d\d):(?P<M>\d\d))?)?)?")
SEASON = re.compile(r"\d{4}-2[1-4]")
CODE = re.compile(r"%(-?)([YymBbdeHM%])")
PRECISIONS = {"year": 4, "month": 7, "day": 10, "minute": 16}
SENTENCE_END = re.compile(r"(?<=[.!?…。！？])[\"'”’)]*\s+(?=[^\s\d]|\d)|(?<=[。！？])")


class TooMuch(Exception):
    """An expression that wants more than its share, or what cannot be."""


def as_word(value: object) -> object:
    """What can be written into a text; nothing is blank.

    Raises:
        TooMuch: it is no text, but a list, or a part of the page.
    """
    if value is None or isinstance(value, jinja2.Undefined):
        return ""
    if isinstance(value, str | int | float):
        return value
    if isinstance(value, list | tuple):
        raise TooMuch('a list stands where a text should: write | join(", ") behind it')
    raise TooMuch("a part of the page stands where a text should: name one of its values, such as page.title")


def join(values: Iterable[object], separator: str = "; ") -> str:
    """Texts in one, with something between them."""
    parts, size = [], 0
    for value in [values] if isinstance(values, str) else values:
        parts.append(str(as_word(value)))
        size += len(parts[-1]) + len(separator)
        if size > LARGEST:
            raise TooMuch("it becomes too large")
    return separator.join(parts)


def split(text: object, separator: str = ";") -> list[str]:
    """A text in parts, without blanks around them; blank parts are left out."""
    return [part.strip() for part in str(text or "").split(separator or ";") if part.strip()]


def replace(text: object, old: str, new: str) -> str:
    """One text put in the place of another."""
    whole = str(text)
    if len(whole) + whole.count(old) * len(new) > LARGEST:
        raise TooMuch("it becomes too large")
    return whole.replace(old, new)


def check_counts(pattern: str) -> None:
    """Refuses a regular expression whose counts multiply to more than its compiler has memory for."""
    total = 1
    for count in re.findall(r"\{\s*(\d{1,9})|,\s*(\d{1,9})\s*\}", str(pattern)[:10_000]):
        total *= max(1, *(int(one) for one in count if one))
        if total > MOST_COUNTED:
            raise TooMuch(f"the regular expression {str(pattern)[:60]} counts too far")


def regex_find(text: object, pattern: str, group: int = 0) -> str:
    """What a regular expression finds first, or a group of it; "" where it finds nothing."""
    check_counts(pattern)
    try:
        found = regex.search(pattern, str(text or ""), timeout=LONGEST_REGEX_S)
        return str(found[group] or "") if found else ""
    except (regex.error, TimeoutError, IndexError, OverflowError) as error:
        raise TooMuch(fault_of_regex(pattern, error)) from error


def regex_replace(text: object, pattern: str, new: str = "") -> str:
    """All that a regular expression finds, replaced by another text, in which a backslash and 1 stand for its first group."""
    check_counts(pattern)
    try:
        out = regex.sub(pattern, new, str(text or ""), count=MOST_MATCHES, timeout=LONGEST_REGEX_S)
    except (regex.error, TimeoutError, IndexError, OverflowError) as error:
        raise TooMuch(fault_of_regex(pattern, error)) from error
    if len(out) > LARGEST:
        raise TooMuch("it becomes too large")
    return str(out)


def fault_of_regex(pattern: str, error: Exception) -> str:
    """What is wrong with a regular expression."""
    if isinstance(error, TimeoutError):
        return f"the regular expression {pattern[:60]} takes too long"
    return f"the regular expression {pattern[:60]} cannot be used ({error})"


def date(value: object, form: str, written: str) -> str:
    """A date of ISO 8601 cut to "year", "month", "day" or "minute", or written by codes such as "%d %B %Y".

    A date that lacks what a form asks for stays as it is: nothing is made up.

    Args:
        written: the date as it was given.
    """
    text = str(value or "")
    text, season = (text[:4], text[4:]) if SEASON.fullmatch(text) else (text, "")
    if form in PRECISIONS:
        return written if season and form != "year" else text[: PRECISIONS[form]]
    if "%" not in form:
        raise TooMuch(f"date knows year, month, day, minute and codes such as %d %B %Y, not {form}")
    found = DATE.match(text)
    if not found:
        return written
    parts = found.groupdict()
    names = {"y": "Y", "B": "m", "b": "m", "e": "d"}
    asked = [names.get(code, code) for _, code in CODE.findall(form) if code != "%"]
    if any(parts[one] is None for one in asked):
        return written

    def one(code: "re.Match[str]") -> str:
        short, name = code[1], code[2]
        if name == "%":
            return "%"
        given = parts[names.get(name, name)] or ""
        written = {
            "y": given[-2:],
            "B": MONTHS[(int(given) - 1) % 12] if name in "Bb" else "",
            "b": MONTHS[(int(given) - 1) % 12][:3] if name in "Bb" else "",
            "e": given.lstrip("0"),
        }.get(name, given)
        return (written.lstrip("0") or "0") if short else written

    return CODE.sub(one, form)


def listed(values: object) -> list[object]:
    """A value as a list: a text alone is a list of one."""
    if values is None or values == "":
        return []
    return list(values) if isinstance(values, Sequence) and not isinstance(values, str) else [values]


def given_family(values: object) -> list[str]:
    """People as "RuleResult Family"."""
    return [given_first(str(one)) for one in listed(values)]


def family_given(values: object) -> list[str]:
    """People as "Family, RuleResult"."""
    return [family_first(str(one)) for one in listed(values) if str(one).strip()]


def family(values: object) -> list[str]:
    """The family names alone."""
    return [str(one).partition(",")[0] for one in family_given(values)]


def slug(text: object) -> str:
    """Small letters, digits and hyphens, for addresses and tags."""
    return re.sub(r"[\W_]+", "-", str(text or "").casefold()).strip("-")


def file_name(text: object) -> str:
    """A name that every file system takes."""
    return safe_name(str(text or ""))


def sentences(text: object, count: int = 1) -> str:
    """The first sentences."""
    plain = " ".join(str(text or "")[:20_000].split())
    ends = [found.end() for found in SENTENCE_END.finditer(plain)]
    wanted = int(count)
    return plain if wanted > len(ends) else plain[: ends[wanted - 1]].strip() if wanted > 0 else ""


def quote(text: object) -> str:
    """A quotation of Markdown."""
    return "\n".join(f"> {line}".rstrip() for line in str(text or "").strip().splitlines())


def bullets(values: object) -> str:
    """A list of Markdown."""
    return "\n".join(f"- {' '.join(str(as_word(one)).split())}" for one in listed(values))


def host(address: object) -> str:
    """The host of an address, without www."""
    return host_of(str(address or ""))


def words(value: object, names: object) -> object:
    """One word for another: {"NewsArticle": "news"}; what is not named stays, of lists each item is looked up."""
    if not isinstance(names, Mapping):
        raise TooMuch('words wants pairs, such as {"video": "film"}')
    if isinstance(value, str):
        return str(names.get(value, value))
    return [str(names.get(str(one), one)) for one in listed(value)]


def default(value: object, other: object = "", _blank_too: bool = True) -> object:  # noqa: FBT001, FBT002 - as templates write it
    """Another value where there is none; a blank one is none, since what a page lacks is blank."""
    return other if value in ("", None, []) or isinstance(value, jinja2.Undefined) else value


def unique(values: object) -> list[object]:
    """Each value once, in the order in which they come first."""
    out: list[object] = []
    for one in listed(values):
        if one not in out:
            out.append(one)
    return out


def rounded(value: float, precision: int = 0) -> float:
    """A number with so many decimals."""
    if abs(int(precision)) > MOST_DECIMALS:
        raise TooMuch(f"round knows up to {MOST_DECIMALS} decimals")
    return round(float(value), int(precision))


def reverse(value: object) -> object:
    """A list or a text from its end."""
    return value[::-1] if isinstance(value, str) else listed(value)[::-1]


FILTERS: dict[str, Callable[..., object]] = {
    "given_family": given_family, "family_given": family_given, "family": family, "slug": slug,
    "file_name": file_name, "sentences": sentences, "quote": quote, "bullets": bullets, "host": host,
    "split": split, "join": join, "replace": replace, "regex": regex_find,
    "regex_replace": regex_replace, "words": words, "items": listed, "default": default, "unique": unique,
    "reverse": reverse, "round": rounded,
}  # fmt: skip
"""Ours, by name; those that need to know the page stand in expressions.py."""
BORROWED = ("first", "last", "length", "lower", "upper", "title", "trim", "capitalize", "sort", "int", "float", "abs",
            "truncate", "string", "min", "max", "striptags")  # fmt: skip
"""Jinja's own that are let in."""
