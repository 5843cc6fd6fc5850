"""A template and its open JSON form.

{"name": "Article",
"writes": "Sources",                                   the place it proposes
"match": [{"structured type is": "Article"}],          any of them; an empty object takes every page
"title": {"expression": "page.title"},
"fields": {"published": {"expression": "page.published"}, …},
"body": {"expression": "page.markdown"},
"way": {"note": "Reading log", "heading": "New", "at": "top", "level": 2}}
                                                       where in a notes folder, instead of a new note of its own;
                                                       {"journal": true, …} is the page of the day
"""

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from wily_magpie.core.entries.way import Way
from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.address import canonical
from wily_magpie.core.pages.page import Reading

FORMAT = 1


@dataclass(frozen=True)
class MatchRule:
    """When a template is proposed: `test` is one of TESTS."""

    test: str
    value: str

    def takes(self, reading: Reading) -> bool:
        """Whether it takes a page."""
        return TESTS[self.test](reading, self.value)

    def __str__(self) -> str:
        return f"the {self.test} {self.value}" if self.value else "it takes any page"


def begins_with(reading: Reading, value: str) -> bool:
    """Addresses are compared in their canonical form, so that www and https do not matter."""
    wanted = canonical(value)
    return bool(wanted) and canonical(reading.page.address).startswith(wanted)


def type_is(reading: Reading, value: str) -> bool:
    """Any of the schema.org types that the page declares, or the kind that we derive."""
    kinds = {finding.value.casefold() for finding in (*reading.all("type"), *reading.all("kind")[:1])}
    return value.casefold() in kinds


TESTS: dict[str, Callable[[Reading, str], bool]] = {
    "address begins with": begins_with,
    "structured type is": type_is,
    "any page": lambda _reading, _value: True,
}


@dataclass(frozen=True)
class NoteWay:
    """Where in a notes folder a capture is written, instead of into a note of its own.

    Attributes:
        note: path of a note; "" for the journal page of the day.
        way: where in it.
    """

    note: str
    way: Way


@dataclass(frozen=True)
class Template:
    """How a page is mapped; expressions by field key."""

    name: str
    writes: str
    match: tuple[MatchRule, ...]
    title: str
    fields: Mapping[str, str]
    body: str
    way: NoteWay | None = None

    def reason(self, reading: Reading) -> str | None:
        """Why it takes a page, in words; None where it does not."""
        return next((str(rule) for rule in self.match if rule.takes(reading)), None)


def choose(templates: list[Template], reading: Reading) -> tuple[Template, str]:
    """The first template, in order, that takes a page, and why.

    Raises:
        UserError: no template takes it.
    """
    for template in templates:
        reason = template.reason(reading)
        if reason is not None:
            return template, reason
    raise UserError("no-template", "No template takes this page.", "Choose one on the slip.")


def to_json(template: Template) -> str:
    """The open form."""
    return json.dumps(
        {
            "format": FORMAT,
            "name": template.name,
            "writes": template.writes,
            "match": [{rule.test: rule.value} for rule in template.match],
            "title": {"expression": template.title},
            "fields": {key: {"expression": text} for key, text in template.fields.items()},
            "body": {"expression": template.body},
            **({"way": way_json(template.way)} if template.way else {}),
        },
        ensure_ascii=False,
        indent=2,
    )


def from_json(text: str) -> Template:
    """A template from its open form.

    Raises:
        UserError: it is no template; the place and the reason are told.
    """
    try:
        raw = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise bad("The text", f"is not JSON ({error})") from error
    if not isinstance(raw, dict) or not isinstance(raw.get("name"), str) or not raw["name"].strip():
        raise bad("name", "is missing")
    name = raw["name"]
    if raw.get("format", FORMAT) != FORMAT:
        raise bad("format", f"is {raw['format']}, and this version reads {FORMAT}")
    rules = []
    for place, one in enumerate(raw.get("match") or []):
        if not isinstance(one, dict) or len(one) != 1 or next(iter(one)) not in TESTS:
            raise bad(f"match[{place}]", "must have one of: " + ", ".join(TESTS))
        rules += [MatchRule(test, str(value)) for test, value in one.items()]
    fields = raw.get("fields")
    if not isinstance(fields, dict):
        raise bad("fields", "must be an object")
    return Template(
        name,
        str(raw.get("writes") or ""),
        tuple(rules),
        expression(raw, "title"),
        {str(key): expression(fields, key) for key in fields},
        expression(raw, "body"),
        read_way(raw.get("way")),
    )


def way_json(way: NoteWay) -> dict[str, object]:
    """The open form of a way of writing."""
    more = {"heading": way.way.heading, "at": way.way.at, "level": way.way.level}
    where: dict[str, object] = {"note": way.note} if way.note else {"journal": True}
    return {**where, **{key: value for key, value in more.items() if value not in ("", None)}}


def read_way(raw: object) -> NoteWay | None:
    """A way of writing from its open form; None where there is none."""
    if raw is None:
        return None
    if not isinstance(raw, dict) or bool(raw.get("note")) == bool(raw.get("journal")):
        raise bad("way", 'must have either "note" or "journal"')
    level, at = raw.get("level"), raw.get("at", "end")
    if at not in ("top", "end") or not (level is None or (isinstance(level, int) and 1 <= level <= 6)):
        raise bad("way", 'has "at": "top" or "end", and "level" from 1 to 6')
    return NoteWay(str(raw.get("note") or ""), Way(str(raw.get("heading") or ""), at, level))


def expression(raw: Mapping[str, object], key: str) -> str:
    """The checked expression of a rule."""
    rule = raw.get(key)
    if not isinstance(rule, dict) or not isinstance(rule.get("expression"), str):
        raise bad(key, 'must be {"expression": "…"}')
    from wily_magpie.core.templates.expressions import check  # Jinja is not needed at start

    check(rule["expression"], key)
    return str(rule["expression"])


def bad(where: str, what: str) -> UserError:
    """What is wrong with a template, and where."""
    return UserError("bad-template", f"This is not a template: {where} {what}.", "Mend it there and try again.")
