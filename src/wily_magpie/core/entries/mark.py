"""A mark: a passage of a page that the reader marked, with a comment."""

from dataclasses import dataclass

KINDS = ("evidence", "quotation", "question", "idea")
"""The kinds of mark that there are at first."""


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


def as_markdown(marks: tuple[Mark, ...]) -> str:
    """Marks as quotations, each with its comment below."""
    parts = []
    for mark in marks:
        quoted = "\n".join(f"> {line}".rstrip() for line in mark.exact.strip().splitlines())
        parts.append(f"{quoted}\n\n{mark.comment.strip()}" if mark.comment.strip() else quoted)
    return "\n\n".join(parts)
