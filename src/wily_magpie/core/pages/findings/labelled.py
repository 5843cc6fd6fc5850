"""Pairs of label and value that a page only shows: lists of definitions, tables of two columns, lines such as "Rent: 1,150 €"."""

import re
from collections.abc import Iterator
from itertools import islice, pairwise

from wily_magpie.core.pages.findings.names import is_organisation, is_person, names_in
from wily_magpie.core.pages.findings.page_lines import is_elsewhere, leaf_lines
from wily_magpie.core.pages.findings.sources import Sources
from wily_magpie.core.pages.page import LABELLED, Finding
from wily_magpie.core.pages.tree import Element, spaced

LINE = re.compile(r"([^\W\d_][\w ()/.’'&-]{1,34}?)\s*[:：]\s+(\S.{0,160})")
AUTHOR_LABEL = re.compile(
    r"by|written by|words|text|texte|texto|testo|von|par|por|authors?|autor(?:in|en|innen|es|a|e|i)?|auteure?s?|autrice|"
    r"verfasser(?:in|innen)?|"
    r"reporters?|schrijver|författare|forfatter|tekst",
    re.IGNORECASE,
)
LABEL = re.compile(r"[^\W\d_][^:：]{0,38}")
MOST_PAIRS, LONGEST_VALUE, LONGEST_LABEL, MOST_TABLES = 60, 300, 40, 12
Pair = tuple[str, str, Element]


def labelled(sources: Sources) -> None:
    """Adds each value with its label as the name; where a label stands twice, the first counts."""
    seen: set[str] = set()
    for label, value, element in islice(pairs(sources.root), MOST_PAIRS):
        name = label.strip(" :：*").strip()
        if name.casefold() not in seen and name and value:
            seen.add(name.casefold())
            sources.add(name, value[:LONGEST_VALUE], LABELLED, element)


def labelled_authors(sources: Sources) -> None:
    """Who wrote it, where that is only said by a label and a value; before what only publishes."""
    best = sources.best("author")
    if best and not is_organisation(best):
        return
    for one in [one for one in sources.found if one.origin == LABELLED and AUTHOR_LABEL.fullmatch(one.name)]:
        names = [name for name in names_in(one.value, is_strong=True) if is_person(name)]
        sources.found[:0] = [Finding("author", name, LABELLED, one.path) for name in names]
        if names:
            return


def pairs(root: Element) -> Iterator[Pair]:
    """All of them, in the order of how sure they are."""
    heading = next(iter(root.iter("h1")), None)
    for found in (defined(root), tabled(root), lined(root)):
        yield from (one for one in found if not is_elsewhere(one[2], heading))


def defined(root: Element) -> Iterator[Pair]:
    """Terms with their definitions."""
    for term in root.iter("dt"):
        value = next(iter(term.itersiblings()), None)
        if value is not None and value.tag == "dd" and is_label(spaced(term)):
            yield spaced(term), spaced(value), value


def tabled(root: Element) -> Iterator[Pair]:
    """Rows of tables that have two columns, the first of which are labels."""
    for table in islice(root.iter("table"), MOST_TABLES):
        rows = [[cell for cell in row if cell.tag in ("td", "th")] for row in islice(table.iter("tr"), MOST_PAIRS)]
        rows = [row for row in rows if row]
        is_of_pairs = len(rows) > 1 and all(len(row) == 2 for row in rows) and table.find(".//table") is None
        are_labels = is_of_pairs and all(is_label(spaced(row[0])) for row in rows)
        is_headed = is_of_pairs and all(cell.tag == "th" for cell in rows[0])
        if are_labels and not is_headed:
            yield from ((spaced(first), spaced(second), second) for first, second in rows)


def lined(root: Element) -> Iterator[Pair]:
    """Lines of label, colon and value, of which at least two follow one another."""
    found = [(match, tag) for tag in leaf_lines(root) if (match := LINE.fullmatch(spaced(tag)))]
    beside = {id(tag) for (_, one), (_, other) in pairwise(found) if are_neighbours(one, other) for tag in (one, other)}
    yield from ((match[1], match[2], tag) for match, tag in found if id(tag) in beside)


def are_neighbours(one: Element, other: Element) -> bool:
    """Whether two lines stand in one box, or in boxes that do."""
    up, over = one.getparent(), other.getparent()
    return up is over or (up is not None and over is not None and up.getparent() is over.getparent() is not None)


def is_label(text: str) -> bool:
    """Whether a text may be the name of a value."""
    plain = text.strip(" :：*")
    return 1 < len(plain) <= LONGEST_LABEL and LABEL.fullmatch(plain) is not None and len(plain.split()) <= 5
