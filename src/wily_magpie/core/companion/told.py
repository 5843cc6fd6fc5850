"""A slip as the companion is told it: what it shows, small enough for one message."""

import json
from collections.abc import Callable, Sequence
from typing import Any

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.events import Overview
from wily_magpie.core.settings.known import mark_kinds_of
from wily_magpie.core.templates.by_hand import ByHand
from wily_magpie.core.templates.origin_letters import in_words, letters_of
from wily_magpie.core.templates.rules import BY_TEMPLATE
from wily_magpie.core.templates.slip import Slip, SlipField
from wily_magpie.core.templates.slip_blocks import shown_content

LONGEST_TEXT, LONGEST_OTHER, LONGEST_BODY = 8_000, 300, 600
MOST_OTHERS, MOST_NAMES, MOST_MARKS, MOST_FIELDS, MOST_PLACES = 4, 200, 200, 60, 200
MOST_LINES = 12


def slip_told(
    slip: Slip, overview: Overview, library: str, names_for: Callable[[str], Sequence[str]]
) -> dict[str, Any]:
    """All that is shown of a slip.

    Args:
        library: what the library is called.
        names_for: what the field of a key completes with.
    """
    shown = [line for line in slip.lines if not line.is_hidden and not line.field.kind.holds_files][:MOST_FIELDS]
    known = slip.known
    return {
        "address": slip.reading.page.address,
        "library": library,
        "template": slip.template.name,
        "templates": list(overview.templates)[:MOST_PLACES],
        "reason": "; ".join(filter(None, (slip.reason, slip.place_reason))),
        "also": list(slip.also_matching)[:MOST_LINES],
        "place": slip.place,
        "places": [[place.key, place.name] for place in overview.places][:MOST_PLACES],
        "fields": [{**field_told(line, names_for), "proposal": proposal_told(slip, line.field.key)} for line in shown],
        "own": own_words(slip),
        "marks": [mark.to_plain() for mark in slip.all_marks][:MOST_MARKS],
        "kinds": kinds_told(overview),
        "body": body_told(slip),
        "known": known_told(known, slip),
        "elsewhere": [f"{one.place_name}{f', {one.when}' if one.when else ''}" for one in slip.elsewhere],
        "told": [
            *([slip.reading.notice] if slip.reading.notice else []),
            *slip.told,
            *(str(one.text) for one in slip.lacks),
        ][:MOST_LINES],
        "hand": hand_told(slip.by_hand),
    }


def hand_told(hand: ByHand) -> dict[str, Any]:
    """What the person did, without what may be larger than a message: that stays at the desk (see `large_of` there)."""
    told = json.loads(hand.to_json())
    values = {key: one for key, one in told["values"].items() if len(one[0]) <= LONGEST_TEXT}
    return {**told, "values": values, "body": None, "shots": []}


def field_told(line: SlipField, names_for: Callable[[str], Sequence[str]]) -> dict[str, Any]:
    """One line."""
    kind = line.field.kind
    others = [[one.value, letters_of(one.origin)] for one in line.others if len(one.value) <= LONGEST_OTHER]
    options = [option.name for option in line.field.options]
    return {
        "key": line.field.key,
        "label": line.field.label,
        "kind": kind.name,
        "text": line.text[:LONGEST_TEXT],
        "is_cut": len(line.text) > LONGEST_TEXT,
        "letters": letters_of(line.origin),
        "origin": ", ".join(filter(None, (in_words(line.origin), line.note))),
        "problem": line.problem,
        "others": others[:MOST_OTHERS],
        "options": options[:MOST_NAMES] if kind.has_spine else [],
        "names": list(names_for(line.field.key))[:MOST_NAMES] if kind.is_completed or kind.has_options else [],
        "is_long": kind.is_long,
        "is_many": kind.is_many,
        "is_asked": line.is_question,
        "is_main": line.is_question or bool(line.problem) or kind.has_options or kind.is_people or is_of_page(line),
    }


def proposal_told(slip: Slip, key: str) -> list[str]:
    """What is proposed for a field, and why; nothing where nothing is."""
    found = slip.proposals.get(key)
    return [found.value, found.reason] if found is not None else []


def is_of_page(line: SlipField) -> bool:
    """Whether it is a date that the page says, rather than the day of the capture."""
    return line.field.kind.is_dated and line.origin != BY_TEMPLATE


def own_words(slip: Slip) -> str:
    """The key of the field that is for a person's own words: the first of many lines that the template leaves alone; else ""."""
    left = (line for line in slip.lines if line.field.kind.is_long and line.rule is None and not line.is_hidden)
    return next((line.field.key for line in left), "")


def kinds_told(overview: Overview) -> list[list[str]]:
    """The kinds of mark with their looks, in the order of their keys."""
    return [[one.name, one.colour, one.pattern] for one in mark_kinds_of(overview.settings)]


def body_told(slip: Slip) -> dict[str, Any]:
    """How the text begins, how long it is, and how much of the page is left out."""
    blocks = shown_content(slip).blocks
    return {
        "begins": slip.body[:LONGEST_BODY],
        "words": len(slip.body.split()),
        "kept": sum(block.is_kept for block in blocks),
        "left": sum(not block.is_kept for block in blocks),
    }


def known_told(known: Entry | None, slip: Slip) -> dict[str, Any] | None:
    """The entry that is kept from the page already."""
    if known is None:
        return None
    return {"place": known.place, "entry": known.id, "title": known.title, "when": slip.known_when}


def marks_told(marks: Sequence[Mark]) -> list[dict[str, str]]:
    """Marks that are shown in the page."""
    return [mark.to_plain() for mark in marks][:MOST_MARKS]
