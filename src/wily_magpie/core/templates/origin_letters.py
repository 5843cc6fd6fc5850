"""Where a value came from, in two or three letters; in words it is told below the line that has the keyboard."""

from wily_magpie.core.templates.by_hand import TYPED
from wily_magpie.core.templates.rules import BY_TEMPLATE

LETTERS = (
    (TYPED, "you"),
    ("your comment", "you"),
    ("what is marked", "mrk"),
    ("chosen by you", "you"),
    (BY_TEMPLATE, "tpl"),
    ("the kept entry", "is"),
    ("like ", "lk"),
    ("structured data", "ld"),
    ("microdata", "md"),
    ("citation tag", "cit"),
    ("meta tag og:", "og"),
    ("meta tag article:", "og"),
    ("meta tag twitter:", "og"),
    ("meta tag citation_", "cit"),
    ("meta tag", "tag"),
    ("visible text", "txt"),
    ("label", "txt"),
    ("address", "adr"),
    ("picture", "pic"),
    ("what is visible", "pic"),
    ("the file", "fil"),
    ("counted", "cnt"),
    ("link", "lnk"),
)
OTHER = "pg"
"""Of what stands somewhere else in the page."""


def letters_of(origin: str) -> str:
    """The letters of an origin; "" where there is none."""
    if not origin:
        return ""
    return next((letters for begin, letters in LETTERS if origin.startswith(begin)), OTHER)


def in_words(origin: str) -> str:
    """An origin as a line says it."""
    words = {TYPED: "typed", BY_TEMPLATE: "set by the template", "chosen by you": "chosen by you"}
    if origin.startswith("like "):
        return origin
    return words.get(origin, f"from {origin}") if origin else ""
