"""What was lost from a text comes back: its first paragraph, headings, items of lists, paragraphs from its midst."""

from itertools import islice

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.furniture import in_junk, is_mostly_link, is_pointer, names_of
from wily_magpie.core.pages.pieces import SURE
from wily_magpie.core.pages.tree import Element, named
from wily_magpie.core.pages.voices import letters

LEAD, LEAD_WITHIN = 28, 14
"""Letters by which a first paragraph must open like the page's description; how many pieces before the text it may stand."""
ISLAND = 5
"""How many pieces further the text goes on where a short first piece is none of it."""
LEAST_LEAD = 60
"""Letters of a paragraph that is put back though nobody gave it."""
LEAST_SOUND = 100
"""Letters of a paragraph from which what is around it is believed to hold text, whatever its names."""
LEAD_NAME = named(
    r"lead|lede|intro|introduction|standfirst|chapo|chapeau|excerpt|summary|dek|subtitle|vorspann|kicker|preamble|"
    r"teaser-?text|entradilla"
)
PARAGRAPHS = ("p", "div")
HEADINGS, LISTS = ("h2", "h3", "h4", "h5", "h6"), ("ul", "ol", "dl")


def without_islands(kept: list[Element], pieces: list[Element]) -> list[Element]:
    """The pieces without a short one that stands far before all others: a word found there by chance."""
    places = {piece: place for place, piece in enumerate(pieces)}
    while len(kept) > 1 and len(tree.text_of(kept[0])) < SURE and places[kept[1]] - places[kept[0]] > ISLAND:
        kept = kept[1:]
    return kept


def with_lead(kept: list[Element], pieces: list[Element], descriptions: list[str]) -> list[Element]:
    """The pieces with the paragraph before them that opens like the page's description, if one was lost."""
    openings = [letters(text)[:LEAD] for text in descriptions if len(letters(text)) >= LEAD]
    at = pieces.index(kept[0])
    if any(letters(tree.text_of(kept[0])).startswith(opening) for opening in openings):
        return kept
    before = [
        piece for piece in reversed(pieces[max(0, at - LEAD_WITHIN + 1) : at]) if piece.tag not in ("h1", "title")
    ]
    for piece in before:
        text = letters(tree.text_of(piece))
        if any(text.startswith(opening) for opening in openings):
            return [piece, *kept]
    for piece in before:
        if is_named_lead(piece):
            return [piece, *kept]
    return kept


def is_named_lead(piece: Element) -> bool:
    """Whether a piece, or what it stands alone in, is called an introduction."""
    text = tree.text_of(piece)
    if len(text) < LEAST_LEAD // 2 or is_mostly_link(piece) or in_junk(piece):
        return False
    for element in (piece, *piece.iterancestors()):
        if len(tree.text_of(element)) > 2 * len(text):
            return False
        if LEAD_NAME.search(names_of(element)):
            return True
    return False


def with_holes_filled(kept: list[Element], pieces: list[Element]) -> list[Element]:
    """The pieces with headings that stand right before one of them, and with items missing from the midst of a list."""
    there, sound = set(kept), around(kept)
    lists = kept_lists(kept, pieces)
    parents = {
        piece.getparent() for piece in kept if piece.tag in PARAGRAPHS and len(tree.text_of(piece)) >= LEAST_LEAD
    }
    inside = range(pieces.index(kept[0]), pieces.index(kept[-1]) + 1)
    for at in reversed(inside):
        piece = pieces[at]
        if piece in there or at + 1 not in inside or in_junk(piece, sound):
            continue
        is_heading = piece.tag in HEADINGS and pieces[at + 1] in there
        is_item = any(up in lists for up in (piece, *islice(piece.iterancestors(), 6)))
        is_paragraph = piece.tag in PARAGRAPHS and piece.getparent() in parents and not is_mostly_link(piece)
        if (is_heading or is_item or (is_paragraph and len(tree.text_of(piece)) >= LEAST_LEAD)) and not is_pointer(
            piece
        ):
            there.add(piece)
    return [piece for piece in pieces if piece in there]


def kept_lists(kept: list[Element], pieces: list[Element]) -> set[Element]:
    """The lists of which at least half of the letters are kept: what is missing from them was lost."""
    sizes: dict[Element, list[int]] = {}
    there = set(kept)
    for piece in pieces:
        size = len(tree.text_of(piece))
        for up in (piece, *islice(piece.iterancestors(), 6)):
            if up.tag in LISTS:
                both = sizes.setdefault(up, [0, 0])
                both[0] += size if piece in there else 0
                both[1] += size
    return {one for one, (held, whole) in sizes.items() if 2 * held >= whole}


def around(kept: list[Element]) -> set[Element]:
    """The elements that hold all of the text, or a paragraph of it."""
    ancestor = common_ancestor(kept)
    paragraphs = (piece for piece in kept if len(tree.text_of(piece)) >= LEAST_SOUND and not is_mostly_link(piece))
    return {ancestor, *ancestor.iterancestors(), *(up for piece in paragraphs for up in piece.iterancestors())}


def common_ancestor(elements: list[Element]) -> Element:
    """The innermost element around all of them."""
    path = [elements[0], *elements[0].iterancestors()]
    for element in elements[1:]:
        at_or_above = {id(element), *(id(up) for up in element.iterancestors())}
        path = [up for up in path if id(up) in at_or_above]
    found = path[0]
    # a lone leaf is taken with its parent, whose children are what is shown
    parent = found.getparent()
    return parent if found in elements and parent is not None else found
