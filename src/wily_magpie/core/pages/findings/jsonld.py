"""Structured data as JSON-LD (W3C JSON-LD 1.1, schema.org), read tolerantly and without fetching contexts."""

import json
import re
from collections.abc import Iterator
from typing import Any

from wily_magpie.core.pages.tree import Element

Item = dict[str, Any]
MOST_ITEMS = 400
DEEPEST = 20


def items(root: Element) -> list[Item]:
    """All objects that carry a type, outermost first; faulty scripts are mended where it is safe, else left out."""
    out: list[Item] = []
    for script in root.iter("script"):
        if (script.get("type") or "").split(";")[0].strip().casefold() == "application/ld+json":
            out += typed(loads(script.text or ""), 0)
    return out[:MOST_ITEMS]


def loads(text: str) -> object:
    """JSON, also inside a comment or with line breaks in texts and commas before closing brackets."""
    text = re.sub(r"^\s*(<!--|//\s*<!\[CDATA\[|/\*.*?\*/)|(-->|//\s*\]\]>|;)\s*$", "", text.strip(), flags=re.DOTALL)
    for attempt in (text, re.sub(r",(\s*[}\]])", r"\1", text)):
        try:
            return json.loads(attempt, strict=False)
        except (ValueError, RecursionError):
            continue
    return None


def typed(value: object, depth: int) -> Iterator[Item]:
    """Objects with a @type within a value."""
    if depth > DEEPEST:
        return
    if isinstance(value, list):
        for one in value:
            yield from typed(one, depth + 1)
    elif isinstance(value, dict):
        if value.get("@type"):
            yield value
        for inner in value.values():
            if isinstance(inner, dict | list):
                yield from typed(inner, depth + 1)
