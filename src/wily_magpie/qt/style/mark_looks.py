"""How each kind of mark looks, wherever marks are seen: a colour and a line below the passage."""

from wily_magpie.core.dataclass import dataclass


@dataclass(frozen=True)
class MarkLook:
    """One look.

    Attributes:
        colour: a name of the palette's spine colours.
        line: as CSS calls it; "" where the passage is washed instead.
    """

    colour: str
    line: str


LOOKS = {
    "evidence": MarkLook("petrol", ""),
    "quotation": MarkLook("brass", "double"),
    "question": MarkLook("alarm", "wavy"),
    "idea": MarkLook("moss", "dotted"),
}
OTHER = MarkLook("slate", "dashed")
"""Of kinds of a person's own."""


def look_of(kind: str) -> MarkLook:
    """The look of a kind."""
    return LOOKS.get(kind, OTHER)
