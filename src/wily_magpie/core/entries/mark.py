"""A mark: a passage of a page that the reader marked, with a comment."""

import re
from itertools import islice, takewhile

from wily_magpie.core.dataclass import dataclass

KINDS = ("evidence", "quotation", "question", "idea")
"""The kinds of mark that there are at first."""
MOST_PLACES, AROUND = 200, 80
"""How many places of a passage are compared; how many characters around each."""


@dataclass(frozen=True)
class Mark:
    """A marked passage, found again by its own text and what stands around it (W3C TextQuoteSelector).

    Attributes:
        exact: the passage.
        kind: one of KINDS, or one of a person's own.
        comment: in the reader's own words, or "".
        prefix, suffix: the letters right before and behind it in the page; "" where they are not known.
    """

    exact: str
    kind: str = "evidence"
    comment: str = ""
    prefix: str = ""
    suffix: str = ""


def place_of(mark: Mark, text: str) -> tuple[int, int] | None:
    """Where the passage of a mark begins and ends in a text, whatever its white space; None where it does not stand there.

    Where it stands more than once, it is the one with the most of the right letters before and behind it.
    """
    words = mark.exact.split()
    found = list(islice(re.finditer(r"\s+".join(map(re.escape, words)), text), MOST_PLACES)) if words else []
    prefix, suffix = ("".join(one.split()) for one in (mark.prefix, mark.suffix))

    def likeness(one: re.Match[str]) -> int:
        before = "".join(text[max(0, one.start() - AROUND) : one.start()].split())
        behind = "".join(text[one.end() : one.end() + AROUND].split())
        return alike(before[::-1], prefix[::-1]) + alike(behind, suffix)

    best = max(found, key=likeness, default=None)
    return best.span() if best is not None else None


def alike(one: str, other: str) -> int:
    """How many characters two texts begin with in common."""
    return sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], zip(one, other, strict=False)))


def as_markdown(marks: tuple[Mark, ...]) -> str:
    """Marks as quotations, each with its comment below."""
    parts = []
    for mark in marks:
        quoted = "\n".join(f"> {line}".rstrip() for line in mark.exact.strip().splitlines())
        parts.append(f"{quoted}\n\n{mark.comment.strip()}" if mark.comment.strip() else quoted)
    return "\n\n".join(parts)
