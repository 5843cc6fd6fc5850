"""Titles that are made of an entry's fields: "{authors.family}, {published.year}: {place}"."""

import re
from collections.abc import Sequence

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field, find_field
from wily_magpie.core.errors import UserError
from wily_magpie.core.patterns import pattern

SLOT = pattern(r"\{\s*([^{}.]+?)\s*(?:\.\s*(year|family|first)\s*)?\}")


def check_pattern(pattern: str, fields: Sequence[Field]) -> None:
    """Raises UserError where a pattern names no field, or one that does not exist."""
    if pattern and not SLOT.search(pattern):
        raise UserError(
            "bad-pattern", f"“{pattern}” names no field.", "Write fields in braces, such as {published.year}."
        )
    for name, _ in SLOT.findall(pattern):
        if find_field(fields, name).key == "title":
            raise UserError("bad-pattern", "A title cannot be made of itself.", "Take {title} out.")


def fill_pattern(pattern: str, fields: Sequence[Field], entry: Entry) -> str:
    """The title of an entry; blank fields leave nothing, nor the punctuation before them; "" where all are blank."""
    filled = 0

    def one(found: re.Match[str]) -> str:
        nonlocal filled
        try:
            field = find_field(fields, found[1])
        except UserError:
            return "\0"
        text = part_of(field, entry, found[2])
        filled += bool(text)
        return text or "\0"

    title = SLOT.sub(one, pattern)
    title = re.sub(r"[\s,;:/–—·-]*\(?\0\)?", "", title)
    return " ".join(title.split()).strip(" ,;:/–—·-") if filled else ""


def part_of(field: Field, entry: Entry, part: str | None) -> str:
    """A field's value as it stands in a title: the year of a date, the family names of people, the first of many."""
    value = entry.value(field.key)
    if part == "year":
        found = re.search(r"\d{4}", field.kind.show(value))
        return found[0] if found else ""
    if part == "family" and isinstance(value, tuple):
        names = [name.partition(",")[0] for name in value]
        return (
            names[0]
            if len(names) == 1
            else " and ".join(names)
            if len(names) == 2
            else f"{names[0]} and others"
            if names
            else ""
        )
    if part == "first" and isinstance(value, tuple):
        return value[0]
    return field.shown(value)
