"""The open form of templates: JSON that people can read; docs/template.schema.json describes it.

Format 1 had expressions alone; it is still read.
"""

import json
import re
from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from wily_magpie.core.entries.insert_position import InsertPosition, NoteTarget
from wily_magpie.core.errors import UserError
from wily_magpie.core.templates.apart import check, is_text
from wily_magpie.core.templates.match import MatchRule, read_rule
from wily_magpie.core.templates.rules import PICTURES, SOURCES, Rule
from wily_magpie.core.templates.template import BODY_PARTS, Body, Template

FORMAT = 2
LONGEST_TEXT, MOST_RULES, LONGEST_NAME = 20_000, 200, 200
LISTS = ("finding", "passages", "comments")
"""Sources of several words."""
OLD_BODY = "page.markdown"


def to_plain(template: Template) -> dict[str, Any]:
    """The open form; what is as usual is left out."""
    out: dict[str, Any] = {
        "format": FORMAT,
        "name": template.name,
        "writes": template.writes,
        "match": [str(rule) for rule in template.match],
        "title": rule_form(template.title),
        "fields": {key: rule_form(rule) for key, rule in template.fields.items()},
        "body": body_form(template.body),
        "bodies": {kind: body_form(body) for kind, body in template.bodies.items()},
        "way": way_form(template.way) if template.way else None,
        "note_name": template.note_name,
        "asks": list(template.asks),
        "hides": list(template.hides),
        **({"only": list(template.only)} if template.only else {}),
        "status": template.status,
        "tags": list(template.tags),
        "starter": template.starter,
    }
    for name, value, usual in (
        ("keeps_pictures", template.keeps_pictures, True),
        ("opens", template.opens, False),
        ("is_on", template.is_on, True),
    ):
        if value is not usual:
            out[name] = value
    always = ("format", "name", "writes", "match", "title", "fields", "body")
    return {key: value for key, value in out.items() if key in always or value not in ("", None, [], {})}


def to_json(template: Template) -> str:
    """The same as text."""
    return json.dumps(to_plain(template), ensure_ascii=False, indent=2)


@lru_cache(maxsize=500)
def from_json(text: str) -> Template:
    """A template from its open form.

    Raises:
        UserError: it is no template; the place and the reason are told.
    """
    return from_plain(parsed(text))


def parsed(text: str) -> Any:
    """JSON; UserError where it is none, or says one key twice, or holds what can be kept nowhere."""
    try:
        raw = json.loads(text, object_pairs_hook=once)
    except (ValueError, RecursionError) as error:
        raise bad("The text", f"is not JSON ({error})") from error
    half = re.search(r"\\u[dD][89a-fA-F]", text) and re.search(
        r"[\ud800-\udfff]|\0", json.dumps(raw, ensure_ascii=False)
    )
    if half or "\\u0000" in text:
        raise bad("The text", "holds half a letter (\\ud800 to \\udfff) or a NUL")
    return raw


def once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    """An object of JSON; ValueError where a key stands there twice."""
    out = dict(pairs)
    if len(out) < len(pairs):
        twice = next(key for at, (key, _) in enumerate(pairs) if key in dict(pairs[:at]))
        raise ValueError(f"“{twice}” stands there twice")
    return out


def from_plain(raw: Any, where: str = "") -> Template:
    """A template from plain data.

    Args:
        where: the place of it in a file of several, told with what is wrong.

    Raises:
        UserError: see `from_json`.
    """
    if not isinstance(raw, dict) or not isinstance(raw.get("name"), str) or not raw["name"].strip():
        raise bad(f"{where}name", "is missing")
    form = raw.get("format", FORMAT)
    if form not in (1, FORMAT):
        raise bad(f"{where}format", f"is {form}, and this version reads up to {FORMAT}")
    unknown = sorted(set(raw) - set(NAMES))
    if unknown:
        raise bad(f"{where}{unknown[0]}", f"is not known; there are: {', '.join(NAMES)}")
    fields = raw.get("fields", {})
    if not isinstance(fields, dict) or len(fields) > MOST_RULES:
        raise bad(f"{where}fields", f"must be an object of at most {MOST_RULES} rules")
    if "title" in fields:
        raise bad(f"{where}fields.title", "has a place of its own: write it as “title” beside “fields”")
    bodies = raw.get("bodies") or {}
    if not isinstance(bodies, dict):
        raise bad(f"{where}bodies", "must be an object: kind of page to body")
    return Template(
        name_of(raw, f"{where}name"),
        text_of(raw, "writes", where),
        read_match(raw.get("match") or [], where),
        read_form(raw.get("title"), f"{where}title") if raw.get("title") is not None else Rule("finding", ("title",)),
        {str(key): read_form(rule, f"{where}fields.{key}") for key, rule in fields.items()},
        read_body(raw.get("body"), f"{where}body"),
        {str(kind): read_body(body, f"{where}bodies.{kind}") for kind, body in bodies.items()},
        read_way(raw.get("way"), where),
        text_of(raw, "note_name", where),
        texts_of(raw, "asks", where),
        texts_of(raw, "hides", where),
        texts_of(raw, "only", where),
        text_of(raw, "status", where),
        texts_of(raw, "tags", where),
        flag_of(raw, "keeps_pictures", where, usual=True),
        flag_of(raw, "opens", where, usual=False),
        flag_of(raw, "is_on", where, usual=True),
        text_of(raw, "starter", where),
    )


NAMES = ("format", "name", "writes", "match", "title", "fields", "body", "bodies", "way", "note_name", "asks", "hides",
         "only", "status", "tags", "keeps_pictures", "opens", "is_on", "starter", "samples")  # fmt: skip


def name_of(raw: Mapping[str, Any], where: str) -> str:
    """The name, on one line."""
    name = " ".join(str(raw["name"]).split())
    if len(name) > LONGEST_NAME:
        raise bad(where, "is too long")
    return name


def text_of(raw: Mapping[str, Any], key: str, where: str) -> str:
    """A text, or "" where it is missing."""
    value = raw.get(key) or ""
    if not isinstance(value, str) or len(value) > LONGEST_TEXT:
        raise bad(f"{where}{key}", "must be a text")
    return value


def texts_of(raw: Mapping[str, Any], key: str, where: str) -> tuple[str, ...]:
    """A list of texts."""
    value = raw.get(key) or []
    if not isinstance(value, list) or not all(isinstance(one, str) for one in value) or len(value) > MOST_RULES:
        raise bad(f"{where}{key}", "must be a list of texts")
    return tuple(value)


def flag_of(raw: Mapping[str, Any], key: str, where: str, *, usual: bool) -> bool:
    """True or false."""
    value = raw.get(key, usual)
    if not isinstance(value, bool):
        raise bad(f"{where}{key}", "must be true or false")
    return value


def rule_form(rule: Rule) -> dict[str, Any]:
    """{"finding": ["published", "modified"]}, {"expression": "…"} and so on."""
    return {rule.source: list(rule.words) if rule.source in LISTS else rule.text}


def read_form(raw: Any, where: str) -> Rule:
    """A rule from its open form."""
    if not isinstance(raw, dict) or len(raw) != 1 or next(iter(raw)) not in SOURCES:
        raise bad(where, 'must be {"expression": "…"} or have one of: ' + ", ".join(SOURCES))
    source, given = next(iter(raw.items()))
    words = given if isinstance(given, list) else [given]
    if not all(isinstance(word, str) and len(word) <= LONGEST_TEXT for word in words) or len(words) > MOST_RULES:
        raise bad(where, "must be a text or a list of texts")
    if source not in LISTS and len(words) != 1:
        raise bad(where, "must be one text")
    if source == "picture" and words[0] not in PICTURES:
        raise bad(where, "must be one of: " + ", ".join(PICTURES))
    return Rule(str(source), tuple(words) if source in LISTS or words[0] else ())


def check_expressions(template: Template, where: str = "") -> None:
    """Whether all expressions of a template can be read; those of one that is kept already were looked at before.

    Raises:
        Mistake: one cannot.
    """
    rules = {f"{where}title": template.title, **template.fields}
    for label, rule in rules.items():
        if rule.source == "expression" and rule.text:
            check(rule.text, label)
    bodies = {"body": template.body, **{f"bodies.{kind}": body for kind, body in template.bodies.items()}}
    texts = {f"{label}.{part}": getattr(body, part) for label, body in bodies.items() for part in ("before", "after")}
    for label, text in {**texts, "note_name": template.note_name}.items():
        if is_text(text):
            check(text, f"{where}{label}")


def read_match(raw: Any, where: str) -> tuple[MatchRule, ...]:
    """Match rules: lines, or of format 1 objects of one condition."""
    if not isinstance(raw, list) or len(raw) > MOST_RULES:
        raise bad(f"{where}match", "must be a list of rules")
    out = []
    for at, one in enumerate(raw):
        line = one
        if isinstance(one, dict) and len(one) == 1:
            test, value = next(iter(one.items()))
            line = f"{test} {value}".strip()
        try:
            out.append(read_rule(line if isinstance(line, str) else ""))
        except UserError as error:
            raise bad(f"{where}match[{at}]", f"is no match rule: {error}") from error
    return tuple(out)


def body_form(body: Body) -> dict[str, str]:
    """The open form of a body."""
    more = {"before": body.before, "after": body.after}
    return {"part": body.part, **{key: value for key, value in more.items() if value}}


def read_body(raw: Any, where: str) -> Body:
    """A body from its open form; of format 1 an expression."""
    if raw is None:
        return Body()
    if isinstance(raw, dict) and set(raw) == {"expression"} and isinstance(raw["expression"], str):
        text = raw["expression"]
        if text == OLD_BODY:
            return Body()
        return Body("nothing", before=text if "{{" in text else f"{{{{ {text} }}}}")
    if (
        not isinstance(raw, dict)
        or set(raw) - {"part", "before", "after"}
        or raw.get("part", "content") not in BODY_PARTS
    ):
        raise bad(where, f'must have "part", one of: {", ".join(BODY_PARTS)}; and may have "before" and "after"')
    before, after = (text_of(raw, key, f"{where}.") for key in ("before", "after"))
    return Body(str(raw.get("part", "content")), before, after)


def way_form(way: NoteTarget) -> dict[str, object]:
    """The open form of a way of writing."""
    more = {"heading": way.way.heading, "at": way.way.at, "level": way.way.level}
    where: dict[str, object] = {"note": way.note} if way.note else {"journal": True}
    return {**where, **{key: value for key, value in more.items() if value not in ("", None)}}


def read_way(raw: object, where: str = "") -> NoteTarget | None:
    """A way of writing from its open form; None where there is none."""
    if raw is None:
        return None
    if not isinstance(raw, dict) or bool(raw.get("note")) == bool(raw.get("journal")):
        raise bad(f"{where}way", 'must have either "note" or "journal"')
    level, at = raw.get("level"), raw.get("at", "end")
    if at not in ("top", "end") or not (level is None or (isinstance(level, int) and 1 <= level <= 6)):
        raise bad(f"{where}way", 'has "at": "top" or "end", and "level" from 1 to 6')
    return NoteTarget(str(raw.get("note") or ""), InsertPosition(str(raw.get("heading") or ""), at, level))


def bad(where: str, what: str) -> UserError:
    """What is wrong with a template, and where."""
    return UserError("bad-template", f"This is not a template: {where} {what}.", "Mend it there and try again.")
