"""A mark: a passage or a picture of a page that the reader marked, with a comment."""

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from itertools import islice, takewhile
from urllib.parse import urlsplit

from wily_magpie.core.dataclass import dataclass

KINDS = ("evidence", "quotation", "question", "idea")
"""The kinds of mark that there are at first."""
PARTS = ("exact", "kind", "comment", "prefix", "suffix", "picture", "locator")
MOST_PLACES, AROUND = 200, 80
"""How many places of a passage are compared; how many characters around each."""
NEAR, ALIKE = 24, 0.6
"""Letters around a passage by which it is found when it was changed itself; the share of its words that must be there else."""


@dataclass(frozen=True)
class Mark:
    """A marked passage, found again by its own text and what stands around it (W3C TextQuoteSelector).

    Attributes:
        exact: the passage; of a picture what is said of it, perhaps nothing.
        kind: one of KINDS, or one of a person's own.
        comment: in the reader's own words, or "".
        prefix, suffix: the letters right before and behind it in the page; "" where they are not known.
        picture: the address of a marked picture; "" of a passage.
        locator: the page or the time at which it stands in its source, as citations say it: "p. 5", "12:30"; else "".
    """

    exact: str
    kind: str = "evidence"
    comment: str = ""
    prefix: str = ""
    suffix: str = ""
    picture: str = ""
    locator: str = ""

    @property
    def place(self) -> tuple[str, str, str, str]:
        """By what it is told from other marks of its page: the same words at two places are two marks."""
        return (self.exact, self.prefix, self.suffix, self.picture)

    def to_plain(self) -> dict[str, str]:
        """As it stands in JSON; blank parts are left away."""
        return {name: value for name, value in zip(PARTS, self.parts, strict=True) if value or name in PARTS[:2]}

    @property
    def parts(self) -> tuple[str, ...]:
        """Its values, in the order of PARTS."""
        return (self.exact, self.kind, self.comment, self.prefix, self.suffix, self.picture, self.locator)

    @classmethod
    def from_plain(cls, stored: Mapping[str, object]) -> "Mark":
        """From JSON."""
        return cls(**{"exact": "", **{name: str(stored[name]) for name in PARTS if name in stored}})


def with_mark(marks: Iterable[Mark], fresh: Mark) -> tuple[Mark, ...]:
    """Marks with one more, which takes the place of one at the same place."""
    return (*(one for one in marks if one.place != fresh.place), fresh)


def in_page_order(marks: Iterable[Mark], text: str) -> tuple[Mark, ...]:
    """Marks in the order in which they stand in a text, whenever they were made; pictures are found by their addresses.

    One that does not stand there stays behind the one before it.
    """
    placed: list[tuple[int, Mark]] = []
    for mark in marks:
        before = placed[-1][0] if placed else 0
        if mark.picture:
            at = text.find(mark.picture)
            at = at if at >= 0 else text.find(urlsplit(mark.picture).path or mark.picture)  # as a page may write it
        else:
            found = place_of(mark, text)
            at = found[0] if found is not None else -1
        placed.append((at if at >= 0 else before, mark))
    return tuple(mark for _, mark in sorted(placed, key=lambda one: one[0]))


SYNTAX = (
    (r"!\[([^\]]{0,500})\]\(<?([^)>\s]{1,2000})[^)]{0,500}\)", r"\1 \2"),
    (r"\]\([^)]{0,2000}\)|[\[\]*_`>#\\]", ""),
)
"""Pictures, then all other signs; of bounded lengths, since of each bracket that is never closed the rest is looked through."""


def bare(markdown: str) -> str:
    """The words of a text without its signs, so that passages are found across links and emphasis; pictures by address."""
    for pattern, instead in SYNTAX:
        markdown = re.sub(pattern, instead, markdown)
    return markdown


def place_of(mark: Mark, text: str) -> tuple[int, int] | None:
    """Where the passage of a mark begins and ends in a text, whatever its white space; None where it does not stand there.

    Where it stands more than once, it is the one with the most of the right letters before and behind it.
    """
    passage = loosely(mark.exact.strip())
    if not passage:
        return None
    around = f"{loosely(mark.prefix)}({passage}){loosely(mark.suffix)}"
    at_end = re.search(rf"{around}\s*\Z", text) if mark.prefix and not mark.suffix else None  # nothing was behind it
    exactly = at_end or re.search(around, text)
    if exactly is not None:
        return exactly.span(1)
    found = list(islice(re.finditer(f"(?=({passage}))", text), MOST_PLACES))  # they may overlap
    prefix, suffix = ("".join(one.split()) for one in (mark.prefix, mark.suffix))

    def likeness(one: re.Match[str]) -> int:
        before = "".join(text[max(0, one.start(1) - AROUND) : one.start(1)].split())
        behind = "".join(text[one.end(1) : one.end(1) + AROUND].split())
        return alike(before[::-1], prefix[::-1]) + alike(behind, suffix)

    best = max(found, key=likeness, default=None)
    return best.span(1) if best is not None else None


def proposal(mark: Mark, text: str) -> Mark | None:
    """A mark whose words do not stand in a text any more, where it may stand now; None where nothing is like it.

    That is between what stood around it, else where most of its words are.
    """
    most = 2 * len(mark.exact) + NEAR
    around = f"{loosely(mark.prefix[-NEAR:])}(.{{1,{most}}}?){loosely(mark.suffix[:NEAR])}"
    between = re.search(around, text, re.DOTALL)
    if between is not None and len(mark.prefix) >= NEAR and len(mark.suffix) >= NEAR and between[1].strip():
        return moved_to(mark, text, *between.span(1))
    words = [*re.finditer(r"\w+", text)]
    wanted = [word.casefold() for word in re.findall(r"\w+", mark.exact)]
    if not wanted or len(words) < len(wanted):
        return None
    score, at = best_window([one[0].casefold() for one in words], wanted)
    if score < ALIKE:
        return None
    return moved_to(mark, text, words[at].start(), words[at + len(wanted) - 1].end())


def best_window(words: Sequence[str], wanted: Sequence[str]) -> tuple[float, int]:
    """The share of some words that stand within as many that follow one another, at best, and where these begin."""
    left = Counter(wanted)
    held, best = 0, (0.0, 0)
    for at, word in enumerate(words):
        left[word] -= 1
        held += left[word] >= 0
        if at >= len(wanted):
            gone = words[at - len(wanted)]
            held -= left[gone] >= 0
            left[gone] += 1
        if at >= len(wanted) - 1 and held / len(wanted) > best[0]:
            best = (held / len(wanted), at - len(wanted) + 1)
    return best


def moved_to(mark: Mark, text: str, start: int, end: int) -> Mark:
    """A mark on other letters of a text."""
    exact = text[start:end]
    start, end = start + len(exact) - len(exact.lstrip()), end - len(exact) + len(exact.rstrip())
    before, behind = text[max(0, start - AROUND) : start], text[end : end + AROUND]
    return replace(mark, exact=text[start:end], prefix=before, suffix=behind)


def loosely(text: str) -> str:
    """A pattern for a text, whatever its white space."""
    return re.sub(r"\s+", r"\\s+", re.sub(r"\\(\s)", r"\1", re.escape(text)))


def alike(one: str, other: str) -> int:
    """How many characters two texts begin with in common."""
    return sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], zip(one, other, strict=False)))


def as_markdown(marks: tuple[Mark, ...]) -> str:
    """Marks as quotations, each with its comment below."""
    parts = []
    for mark in marks:
        lines = mark.exact.strip().splitlines()
        if mark.picture:
            lines = [f"![{alternative_of(' '.join(lines))}](<{mark.picture}>)"]
        quoted = "\n".join(f"> {line}".rstrip() for line in lines)
        parts.append(f"{quoted}\n\n{mark.comment.strip()}" if mark.comment.strip() else quoted)
    return "\n\n".join(parts)


def alternative_of(text: str) -> str:
    """A text as it may stand in the brackets of a picture."""
    return re.sub(r"([\[\]\\])", r"\\\1", text)
