"""A long text in parts, so that one of any length opens at once: each ends where a section does, or at least a paragraph."""

import re
from bisect import bisect_right
from collections.abc import Iterator, Sequence
from functools import cached_property, lru_cache

from wily_magpie.core.entries.mark import Mark, bare, place_of

PART = 60_000
"""Characters that a part has at most, where its paragraphs let it: about 10,000 words, which are laid out within 0.1 s."""
LEAST = PART // 2
"""Characters from which on the next heading ends a part."""
FAR = 1_000
"""How far behind that the next word may begin."""
SHORT = PART // 6
"""A last part of fewer characters belongs to the one before."""
SEAM = "\n\n"
BREAK = re.compile(r"\n[ \t]*\n+")
CODE = re.compile(r"^ {0,3}(`{3,}|~{3,})[^\n]*\n.*?(?:^ {0,3}\1[^\n]*$|\Z)", re.MULTILINE | re.DOTALL)
HEADING = re.compile(r"^(#{1,6})[ \t]+([^\n]*?)[ \t#]*$", re.MULTILINE)
NAME = r"\[(\^?[^\[\]\n]{1,200})\]"
"""A name in brackets; of a bounded length, since of each bracket that is never closed the rest is looked through."""
DEFINITION = re.compile(rf"^{NAME}:[ \t]*\S[^\n]*(?:\n(?:[ \t]+\S[^\n]*|[ \t]*(?=\n[ \t]+\S)))*", re.MULTILINE)
"""Of a footnote, or of an address that links name."""


class Divided:
    """A text and its parts.

    Attributes:
        starts: where in the text each part begins; the first at 0.
    """

    def __init__(self, text: str) -> None:
        self.text = text
        self.starts: list[int] = [0, *(breaks_of(text) if len(text) > PART + LEAST else ())]
        if len(text) - self.starts[-1] < SHORT and len(self.starts) > 1:
            self.starts.pop()
        self.named: dict[int, list[tuple[int, str]]] = {}
        self.places: dict[tuple[str, ...], int | None] = {}

    def __len__(self) -> int:
        return len(self.starts)

    @cached_property
    def definitions(self) -> dict[str, str]:
        """What footnotes and named addresses say, by name; only needed where there are several parts."""
        return {found[1]: found[0] for found in DEFINITION.finditer(self.text)}

    def raw(self, part: int) -> str:
        """A part as it stands in the text."""
        end = self.starts[part + 1] if part + 1 < len(self.starts) else len(self.text)
        return self.text[self.starts[part] : end]

    def part(self, part: int) -> str:
        """A part as it can be shown by itself: with the footnotes and addresses that it names and another part defines."""
        raw = self.raw(part)
        if len(self) == 1:
            return raw
        own = {found[1] for found in DEFINITION.finditer(raw)}
        named = dict.fromkeys(re.findall(NAME, raw))
        more = [self.definitions[name] for name in named if name in self.definitions and name not in own]
        return SEAM.join([raw.rstrip(), *more])

    def part_at(self, place: int) -> int:
        """The part in which a character of the text stands."""
        return max(0, bisect_right(self.starts, place) - 1)

    @cached_property
    def bare(self) -> list[str]:
        """The words of each part, without signs of Markdown."""
        return [bare(self.raw(part)) for part in range(len(self))]

    @cached_property
    def all_bare(self) -> tuple[str, list[int]]:
        """The same in one, with where each begins."""
        starts, at = [], 0
        for one in self.bare:
            starts.append(at)
            at += len(one) + len(SEAM)
        return SEAM.join(self.bare), starts

    def part_of(self, mark: Mark) -> int | None:
        """The part in which a mark stands; None where it does not stand in the text any more."""
        if len(self) == 1:
            return 0
        if mark.place not in self.places:
            text, starts = self.all_bare
            found = (text.find(mark.picture),) if mark.picture else place_of(mark, text)
            is_there = found is not None and found[0] >= 0
            self.places[mark.place] = bisect_right(starts, found[0]) - 1 if is_there and found is not None else None
        return self.places[mark.place]

    def hits(self, pattern: str) -> list[int]:
        """How often a pattern is found in each part, whatever the case."""
        found = re.compile(pattern, re.IGNORECASE)
        return [sum(1 for _ in found.finditer(one)) for one in self.bare]

    def headings(self, part: int) -> list[tuple[int, str]]:
        """The headings of a part, as (level, words)."""
        if part not in self.named:
            self.named[part] = [(len(level), bare(words).strip()) for level, words in headings_in(self.raw(part))]
        return self.named[part]

    def title(self, part: int) -> str:
        """What a part is called: its first heading, or "" where it has none."""
        return next((words for _, words in self.headings(part)), "")


@lru_cache(maxsize=4)
def divided(text: str) -> Divided:
    """A text in parts; the ones asked for last are remembered with what was worked out about them."""
    return Divided(text)


def breaks_of(text: str) -> Iterator[int]:
    """Where parts begin, but for the first."""
    begin = last = 0
    for at, is_heading in [*seams(text), (len(text), False)]:
        if at - begin > PART and last > begin:
            begin = last
            yield begin
        while at - begin > 2 * PART:  # a paragraph without an end
            begin = word_behind(text, begin + PART)
            yield begin
        if is_heading and at - begin > LEAST:
            begin = at
            yield begin
        last = at


def seams(text: str) -> Iterator[tuple[int, bool]]:
    """Where a paragraph begins behind an empty line, and whether it may be a heading; those in code are none."""
    code = [found.span() for found in CODE.finditer(text)] if "```" in text or "~~~" in text else []
    at = 0
    for found in BREAK.finditer(text):
        end = found.end()
        while at < len(code) and code[at][1] <= end:
            at += 1
        if end < len(text) and not (at < len(code) and code[at][0] < end):
            yield end, text.startswith("#", end)


def word_behind(text: str, at: int) -> int:
    """Where the next word begins, unless that is far away."""
    found = re.compile(r"\s+").search(text, at, at + FAR)
    return found.end() if found is not None else at


def headings_in(raw: str) -> Sequence[tuple[str, str]]:
    """The headings of a part, as they are written; those in code are none."""
    return HEADING.findall(CODE.sub("", raw))
