"""What libraries say is the text of a page, and which of them is believed.

Where trafilatura and resiliparse say the same and the text has no holes in the page, trafilatura is believed; else where
readability-lxml says the same. Else its strict setting and boilerpy3 are asked too, and of trafilatura, its strict setting and
readability-lxml the one is believed that shares most letters with what two libraries agree on.
"""

import copy
import logging
import re
from collections.abc import Callable
from contextlib import suppress
from typing import TypeVar

import trafilatura
from boilerpy3 import extractors
from lxml import etree
from readability import Document
from resiliparse.extract.html2text import extract_plain_text

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.pages import tree
from wily_magpie.core.pages.budget import FOR_LIBRARIES, Budget
from wily_magpie.core.pages.tree import Element

P = TypeVar("P")
REST = re.compile(r"[\W_]+")
ASCII_REST = {code: None for code in range(128) if not chr(code).isalnum()}
"""What is no letter and no digit: for most texts a table is five times as fast as the expression."""
LONGEST_SEARCHED = 200_000
"""Letters up to which a piece is looked for anywhere in a text; beyond, only among its lines: searching is quadratic."""
PART = 24
"""Letters of the parts in which a long piece is looked for that was not found as a whole."""
UNHEARD = "script style svg link meta template nav aside footer menu canvas iframe dialog".split()
"""What trafilatura takes out by itself, but late: without it, it hears the same in four fifths of the time."""
ENOUGH = {"quick": 0.8, "readability": 0.85}
"""The likeness of trafilatura and a second library from which no other is asked."""
LEAST_AGREED = 0.25
"""The share of trafilatura's text that must be agreed on for the agreement to say anything."""
LEAST_SURE = 300
"""Letters of a text that two libraries agree on, from which a third that says much more may be wrong."""
LEAST_FOUND = 0.7
"""The share of a long piece's parts that must be found."""
for noisy in ("trafilatura", "readability", "htmldate", "boilerpy3"):
    logging.getLogger(noisy).setLevel(logging.CRITICAL)


def letters(text: str) -> str:
    """Only letters and digits, in lower case."""
    folded = text.casefold()
    return folded.translate(ASCII_REST) if folded.isascii() else REST.sub("", folded)


class ExtractedText:
    """A text by its letters alone, which can be asked whether it holds a piece."""

    def __init__(self, text: str) -> None:
        by_line = [letters(line) for line in text.splitlines()]
        self.whole = "".join(by_line)
        self.all_lines = set(by_line)
        self.lines = {line for line in by_line if len(line) > 5}
        """Without those too short to tell anything."""

    def find(self, piece: str, start: int) -> int:
        """Where a piece stands, from a place on or else before it; -1 where it does not."""
        at = self.whole.find(piece, start, len(self.whole) if len(self.whole) <= LONGEST_SEARCHED else start + 20_000)
        if at < 0 and (len(self.whole) <= LONGEST_SEARCHED or piece in self.all_lines):
            at = self.whole.find(piece)
        return at

    def holds_most(self, piece: str) -> bool:
        """Whether most parts of a long piece stand in it: libraries leave single words and links out of a paragraph."""
        if len(self.whole) > LONGEST_SEARCHED:
            return False
        parts = [piece[at : at + PART] for at in range(0, len(piece) - PART + 1, PART)]
        return bool(parts) and sum(part in self.whole for part in parts) > LEAST_FOUND * len(parts)

    def __contains__(self, piece: str) -> bool:
        return piece in self.all_lines or (len(self.whole) <= LONGEST_SEARCHED and piece in self.whole)


MOST_OPTIONS = 500
"""Of lists to choose from; resiliparse takes the square of their number."""
OPTION = re.compile(r"</?opt(?:ion|group)\b[^<>]*>", re.IGNORECASE)


@dataclass(frozen=True)
class Consensus:
    """What the libraries say.

    Attributes:
        believed: the text of the one that the others agree with most; None where none has any.
        texts: the text of each that was asked.
    """

    believed: ExtractedText | None = None
    texts: tuple[ExtractedText, ...] = ()

    def share(self, text: str) -> float:
        """The share of them that hold a text, 0 to 1; 0 where none was asked."""
        piece = letters(text)
        held = sum(piece in one or (len(piece) > 2 * PART and one.holds_most(piece)) for one in self.texts)
        return held / len(self.texts) if self.texts else 0.0


def extract(extractor: "Callable[[P, str], str]", page: P, address: str, budget: Budget) -> ExtractedText:
    """What one library says of a page; nothing where the budget ends it."""
    return ExtractedText(budget.within(lambda: extractor(page, address)) or "")


def consensus_of(
    html: str,
    address: str,
    budget: Budget,
    has_holes: Callable[[], bool] = lambda: False,
    first: ExtractedText | None = None,
) -> Consensus:
    """What the libraries say of a page; where the budget is spent, no more of them are asked.

    Args:
        has_holes: whether much that stands in the midst of trafilatura's text in the page is missing from it; then two quick
            extractors are not enough, even if they say the same.
        first: what trafilatura says, where it was asked already.
    """
    texts: dict[str, ExtractedText] = {}
    for name, extractor in EXTRACTORS.items():
        texts[name] = first if name == "plain" and first is not None else extract(extractor, html, address, budget)
        enough = ENOUGH.get(name) if texts["plain"].whole else None
        if enough and overlap(texts["plain"], texts[name]) >= enough and not (name == "quick" and has_holes()):
            return Consensus(texts["plain"], tuple(texts.values()))
        if budget.is_spent(FOR_LIBRARIES):
            longest = max(texts.values(), key=lambda one: len(one.whole))
            return Consensus(longest if longest.whole else None, tuple(texts.values()))
    return Consensus(most_agreed(texts), tuple(texts.values()))


def most_agreed(texts: dict[str, ExtractedText]) -> ExtractedText | None:
    """The text that shares most letters with what two libraries agree on."""
    agreed = agreed_lines([texts["plain"], texts["readability"], texts["boilerpy3"]])
    candidates = [texts[name] for name in ("plain", "strict", "readability") if texts[name].whole]
    if not candidates:
        return texts["boilerpy3"] if texts["boilerpy3"].whole else None
    if not agreed:
        return max(candidates, key=lambda one: len(one.whole))
    together = ExtractedText("\n".join(sorted(agreed)))  # in an order that is the same on every day
    best = max(candidates, key=lambda one: overlap(one, together))
    if len(together.whole) < LEAST_AGREED * len(texts["plain"].whole):
        # they speak of different parts of the page: trafilatura errs least, unless it has taken all of the page for text
        is_sure = len(together.whole) >= LEAST_SURE and overlap(best, together) >= ENOUGH["quick"]
        return best if is_sure else texts["plain"]
    return best


def agreed_lines(texts: list[ExtractedText]) -> set[str]:
    """Lines that at least two of the texts hold."""
    lines = set().union(*(one.lines for one in texts))
    return {line for line in lines if sum(line in one for one in texts) >= 2}


def overlap(one: ExtractedText, agreed: ExtractedText) -> float:
    """Share of letters in common (F1)."""
    hit = sum(len(line) for line in agreed.lines if line in one)
    right = sum(len(line) for line in one.lines if line in agreed)
    recall, precision = hit / max(1, len(agreed.whole)), right / max(1, len(one.whole))
    return 2 * precision * recall / max(1e-9, precision + recall)


def by_trafilatura(html: str | Element, address: str, *, strict: bool = False) -> str:
    """Trafilatura's text of a page or its tree, which stays as it is; strict: with its preference for precision."""
    with suppress(Exception):  # a library's fault on a broken page is one extractor less
        twin = tree.parse(html) if isinstance(html, str) else copy.deepcopy(html)
        etree.strip_elements(twin, *UNHEARD, with_tail=False)
        found = trafilatura.bare_extraction(
            twin, url=address or None, include_comments=False, favor_precision=strict, with_metadata=False, fast=True
        )
        return str(getattr(found, "text", "") or "")
    return ""


def by_resiliparse(html: str, _address: str) -> str:
    """Resiliparse's text: in C++, in a twentieth of the others' time."""
    with suppress(Exception):
        if html.count("<option") > MOST_OPTIONS:
            html = OPTION.sub(" ", html)
        return str(extract_plain_text(html, main_content=True, links=False, alt_texts=False))
    return ""


class Unwashed(Document):  # type: ignore[misc] # it has no types
    """readability-lxml without its washing of links and attributes, a third of its time, of which no text shows anything.

    `_parse` is where it takes a page in; were it called otherwise in a later version, pages would only be washed again.
    """

    def _parse(self, page: str) -> Element:
        doc = tree.parse(page)
        for element in doc.xpath("//*[@hidden or @style]"):
            if element.get("hidden") is not None or tree.is_undisplayed(element):
                element.drop_tree()
        etree.strip_elements(doc, "script", "style", "noscript", "link", with_tail=False)
        return doc


def by_readability(html: str, _address: str) -> str:
    """readability-lxml's text."""
    with suppress(Exception):
        return tree.lines_of(tree.parse(Unwashed(html).summary(html_partial=True)))
    return ""


def by_boilerpy(html: str, address: str) -> str:
    """boilerpy3's text."""
    with suppress(Exception):
        return str(extractors.ArticleExtractor(raise_on_failure=False).get_doc(html).content)
    return ""


EXTRACTORS: dict[str, Callable[[str, str], str]] = {
    "plain": by_trafilatura,
    "quick": by_resiliparse,
    "readability": by_readability,
    "strict": lambda html, address: by_trafilatura(html, address, strict=True),
    "boilerpy3": by_boilerpy,
}
