"""What was lost from a text comes back: its first paragraph, headings, items of lists, paragraphs, sections, speakers."""

from itertools import islice

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.boilerplate import in_junk, is_mostly_link, is_pointer, names_of
from wily_magpie.core.pages.extractors import letters
from wily_magpie.core.pages.text_blocks import SURE
from wily_magpie.core.pages.tree import Element, named

LEAD, LEAD_WITHIN = 28, 14
"""Letters by which a first paragraph must open like the page's description; how many pieces before the text it may stand."""
OUTLIER = 5
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
BOXES = ("div", "section")
DEEPEST_BOX, LEAST_ITEMS = 12, 3
"""How far above a piece a box is looked for; the items of a list that is a part of a text by itself."""
HEADINGS, LISTS = ("h2", "h3", "h4", "h5", "h6"), ("ul", "ol", "dl")


def without_outliers(kept: list[Element], pieces: list[Element]) -> list[Element]:
    """The pieces without a short one that stands far before all others: a word found there by chance."""
    places = {piece: place for place, piece in enumerate(pieces)}
    while len(kept) > 1 and len(tree.text_of(kept[0])) < SURE and places[kept[1]] - places[kept[0]] > OUTLIER:
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


def with_speakers(kept: list[Element], pieces: list[Element]) -> list[Element]:
    """The pieces with the last line of each quotation of which something is kept: it says who said it."""
    quotations = {quotation: piece for piece in pieces if (quotation := quotation_of(piece)) is not None}
    heard = {quotation_of(piece) for piece in kept}
    there = set(kept)
    for quotation, last in quotations.items():
        if quotation in heard and len(tree.text_of(last)) < LEAST_SOUND and not is_pointer(last):
            there.add(last)
    return [piece for piece in pieces if piece in there]


def quotation_of(piece: Element) -> Element | None:
    """The nearest quotation around a piece."""
    return next(piece.iterancestors("blockquote"), None)


def with_later_sections(kept: list[Element], pieces: list[Element]) -> list[Element]:
    """The pieces with the sections behind them that belong to a text of several boxes, of which libraries take the first.

    Such a box has a heading that is no link, and either the tag, the classes and the level of heading of a box that holds a
    paragraph of the text, or it stands beside the boxes of the text and holds a list in which nothing leads elsewhere.
    """
    ancestor = common_ancestor(kept)
    held = {up for piece in kept for up in piece.iterancestors()}
    whole = {
        ancestor,
        *ancestor.iterancestors(),
    }  # a box around all of the text is a post, and what is like it another one
    models = {
        shape_of(up): heads[0]
        for piece in kept
        if is_prose(piece)
        for up in piece.iterancestors()
        if up not in whole and up.tag in BOXES and up.get("class") and (heads := headings_of(up))
    }
    if not models:
        return kept
    behind = pieces[pieces.index(kept[-1]) + 1 :]
    boxes: dict[Element, list[Element]] = {}
    for piece in behind:
        for up in islice(piece.iterancestors(), DEEPEST_BOX):
            if up in held:
                break
            boxes.setdefault(up, []).append(piece)
    there = set(kept)
    for box, inside in boxes.items():
        is_like = models.get(shape_of(box)) in headings_of(box) and any(map(is_prose, inside))
        is_beside = box.getparent() is ancestor and is_headed_list(box)
        is_post = any(up.tag == "article" and up not in held for up in box.iterancestors())
        if (is_like or is_beside) and not is_post and not in_junk(box) and not any(map(is_pointer, inside)):
            there |= {piece for piece in inside if not is_mostly_link(piece)}
    return [piece for piece in pieces if piece in there]


def is_headed_list(box: Element) -> bool:
    """Whether it holds a heading and a list, and nothing in it leads elsewhere."""
    items = sum(1 for _ in box.iter("li"))
    return items >= LEAST_ITEMS and bool(headings_of(box)) and next(box.iter("a", "button", "input"), None) is None


def is_prose(piece: Element) -> bool:
    """Whether a piece is a paragraph of some length."""
    return len(tree.text_of(piece)) >= LEAST_SOUND and not is_mostly_link(piece)


def shape_of(element: Element) -> tuple[str, str]:
    """Its tag and classes."""
    return str(element.tag), element.get("class") or ""


@tree.remembered
def headings_of(box: Element) -> list[str]:
    """The tags of the headings in a box that are no links."""
    return [one.tag for one in box.iter(*HEADINGS) if not is_mostly_link(one)]


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
