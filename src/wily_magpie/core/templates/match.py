"""Match rules: which pages a template is proposed for, a rule a line.

    host is mills.example
    address begins with https://mills.example/shop and finding price exists
    address matches https://*.example/:year/*
    structured type is VideoObject
    finding site is Ostrel Museum
    language is en
    any page

`and` joins conditions that must all hold. A page is taken by the first rule that holds.
"""

import re
from collections.abc import Callable
from functools import cache

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.address import canonical, host_of
from wily_magpie.core.pages.page import Reading
from wily_magpie.core.templates.rule_context import MANY_NAMES

LONGEST_PATTERN = 2000
AND = re.compile(r"\s+and\s+(?=address |host |structured |finding |language |any page)", re.IGNORECASE)


@dataclass(frozen=True)
class Condition:
    """One thing that must hold of a page: `test` is one of TESTS."""

    test: str
    value: str = ""

    def reason(self, reading: Reading) -> str:
        """That it holds of a page, in words: a type is only called one that the page declares."""
        declared = {finding.value.casefold() for finding in reading.all("type")}
        if self.test != "structured type is" or self.value.casefold() in declared:
            return f"the {self}"
        kind = next(iter(reading.all("kind")), None)
        if kind is None or not kind.is_declared:
            return f"the page seems to be of the kind “{self.value.casefold()}”"
        return f"the {'structured type is' if kind.origin.startswith('structured') else 'page says'} {kind.origin.rpartition(' ')[2]}"

    def __str__(self) -> str:
        if self.test == "finding exists":
            return f"finding {self.value} exists"
        return f"{self.test} {self.value}".strip()


@dataclass(frozen=True)
class MatchRule:
    """Conditions that must all hold."""

    conditions: tuple[Condition, ...]

    def takes(self, reading: Reading) -> bool:
        """Whether it takes a page."""
        return all(TESTS[one.test](reading, one.value) for one in self.conditions)

    @property
    def narrowness(self) -> int:
        """How few pages it takes, as far as its words tell: an address is narrower than a host, that than a kind of page."""
        return sum(NARROWNESS[one.test] + (len(one.value) if one.test in OF_ADDRESS else 0) for one in self.conditions)

    def reason(self, reading: Reading) -> str:
        """Why a page is taken, in words."""
        said = [one.reason(reading) for one in self.conditions if one.test != "any page"]
        return " and ".join(said) or "it takes any page"

    def __str__(self) -> str:
        return " and ".join(map(str, self.conditions))


def begins_with(reading: Reading, value: str) -> bool:
    """Addresses are compared in their canonical form, so that www and https do not matter."""
    wanted = canonical(value)
    return bool(wanted) and canonical(reading.page.address).startswith(wanted)


def matches(reading: Reading, value: str) -> bool:
    """By the URL Pattern standard of the WHATWG."""
    try:
        return bool(pattern_of(value).test(reading.page.address))
    except ValueError:
        return False  # not an address, such as that of a file


@cache
def pattern_of(value: str):  # type: ignore[no-untyped-def]
    """A compiled pattern; a path alone is one of any host.

    Raises:
        ValueError: it is none.
    """
    import urlpattern  # not needed at start

    if len(value) > LONGEST_PATTERN:
        raise ValueError("it is too long")
    return urlpattern.URLPattern({"pathname": value}) if value.startswith("/") else urlpattern.URLPattern(value)


def host_is(reading: Reading, value: str) -> bool:
    """The host or one above it: mills.example takes shop.mills.example."""
    host, wanted = host_of(reading.page.address), value.casefold().removeprefix("www.").strip(".")
    return bool(wanted) and (host == wanted or host.endswith("." + wanted))


def type_is(reading: Reading, value: str) -> bool:
    """Any of the schema.org types that the page declares, or the kind that we derive."""
    kinds = {finding.value.casefold() for finding in (*reading.all("type"), *reading.all("kind")[:1])}
    return value.casefold() in kinds


def values_of(reading: Reading, name: str) -> list[str]:
    """The values of a finding or a meta tag."""
    own = MANY_NAMES.get(name, name)
    meta = reading.data.get("meta", {}).get(name)
    return [one.value for one in reading.all(own)] or ([str(meta)] if meta else [])


def finding_exists(reading: Reading, value: str) -> bool:
    """Whether the page offers anything for a name."""
    return bool(values_of(reading, value))


def finding_is(reading: Reading, value: str) -> bool:
    """Whether one of the values of a name is this one, in any case: the value is "name is text"."""
    name, _, wanted = value.partition(" is ")
    return any(one.casefold() == wanted.casefold() for one in values_of(reading, name))


def language_is(reading: Reading, value: str) -> bool:
    """A language or a kind of it: en takes en-GB."""
    said = reading.best("language").casefold()
    return said == value.casefold() or said.startswith(f"{value.casefold()}-")


TESTS: dict[str, Callable[[Reading, str], bool]] = {
    "address begins with": begins_with,
    "address matches": matches,
    "host is": host_is,
    "structured type is": type_is,
    "finding exists": finding_exists,
    "finding": finding_is,
    "language is": language_is,
    "any page": lambda _reading, _value: True,
}
NARROWNESS = {
    "address begins with": 1000, "address matches": 1000, "host is": 500, "finding": 50, "finding exists": 20,
    "structured type is": 30, "language is": 10, "any page": 0,
}  # fmt: skip
OF_ADDRESS = ("address begins with", "address matches", "host is")
"""Of these, a longer one is narrower."""
FORMS = ("address begins with …", "address matches …", "host is …", "structured type is …", "finding … exists",
         "finding … is …", "language is …", "any page")  # fmt: skip
"""How rules are written."""


def read_rule(line: str) -> MatchRule:
    """A rule from its line.

    Raises:
        UserError: it is none; the nearest form is told.
    """
    parts = [part.strip() for part in AND.split(line.strip())]
    return MatchRule(tuple(read_condition(part) for part in parts))


def read_condition(text: str) -> Condition:
    """One condition from its words."""
    line = " ".join(text.split())
    folded = line.casefold()
    if folded == "any page":
        return Condition("any page")
    found = re.fullmatch(r"finding (\S+) (exists|is .+)", line, re.IGNORECASE)
    if found:
        name, rest = found[1], found[2]
        if rest.casefold() == "exists":
            return Condition("finding exists", name)
        return Condition("finding", f"{name} is {rest[3:].strip()}")
    for test in TESTS:
        if test not in ("finding", "any page", "finding exists") and folded.startswith(f"{test} "):
            value = line[len(test) + 1 :].strip()
            if test == "address matches":
                check_pattern(value)
            return Condition(test, value)
    import difflib  # here, since it takes long to load

    near = difflib.get_close_matches(folded, [form.replace("…", "") for form in FORMS], 1, 0.4)
    way = f"Did you mean “{near[0].strip()} …”?" if near else f"Rules are written: {', '.join(FORMS)}."
    raise UserError("bad-match-rule", f"“{line[:80]}” is no match rule.", way)


def check_pattern(value: str) -> None:
    """Raises UserError where a text is no pattern of addresses."""
    try:
        pattern_of(value)
    except ValueError as error:
        raise UserError(
            "bad-match-rule",
            f"“{value[:80]}” is no pattern of addresses: {error}.",
            "Write it like https://*.example/:year/* or /news/*.",
        ) from error
