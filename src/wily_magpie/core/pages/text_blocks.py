"""The pieces of a page: its elements that are read as one, and those of them that the believed text is made of."""

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.boilerplate import in_junk, is_mostly_link
from wily_magpie.core.pages.extractors import ExtractedText, letters
from wily_magpie.core.pages.media import is_in_gallery
from wily_magpie.core.pages.tree import UNREAD_TAGS, Element

SURE, WEAK, REACH = 40, 12, 40
"""Letters from which a piece is looked for everywhere; below which it proves nothing alone; by which a short piece may be
away from the one before it."""
MOST_HOLES = 0.1
"""The share of letters in the midst of a text that may be missing before more voices are asked."""


def leaves(body: Element, blockish: set[Element]) -> list[Element]:
    """The elements that hold text and no block: what is read as one piece, in order."""
    out: list[Element] = []
    todo = [body]
    while todo:
        element = todo.pop()
        if not isinstance(element.tag, str) or element.tag in UNREAD_TAGS:
            continue
        if element.tag == "pre" or not any(child in blockish for child in element):
            if tree.text_of(element):
                out.append(element)
        else:
            todo += reversed(element)
    return out


@tree.remembered
def letters_of(leaf: Element) -> str:
    """The letters and digits of a piece."""
    return letters(tree.text_of(leaf))


def believed_leaves(pieces: list[Element], told: ExtractedText) -> list[Element]:
    """The pieces of the page that the believed text is made of.

    Both have the same order. A long piece is looked for everywhere; a short one only as a line of its own, or right behind
    the piece before it, since short texts stand in other places of a page by chance.
    """
    out: list[Element] = []
    cursor = 0
    for leaf in pieces:
        own = letters_of(leaf)
        if not own:
            continue
        wide = 0 if own.isascii() else sum(char > "\u2e7f" for char in own)
        weight = len(own) + 2 * wide  # a letter of a script without spaces says more
        if weight >= SURE:
            at = told.find(own, cursor)
            if at < 0 and not told.holds_most(own):
                continue
            cursor = at + len(own) if at >= 0 else cursor
        else:
            at = told.whole.find(own, cursor, cursor + len(own) + REACH)
            if at >= 0:
                cursor = at + len(own)
            elif own not in told.all_lines or weight < WEAK:
                continue
            if weight < WEAK and in_junk(leaf):
                continue
        out.append(leaf)
    return out


def has_holes(pieces: list[Element], believed: list[Element]) -> bool:
    """Whether much that stands in the midst of a text in the page is missing from the pieces that it is made of."""
    held = set(believed)
    places = [place for place, piece in enumerate(pieces) if piece in held]
    if not places:
        return True
    inside = [piece for piece in pieces[places[0] : places[-1] + 1] if piece in held or not is_mostly_link(piece)]
    sizes = [
        (len(tree.text_of(piece)), piece in held or (in_junk(piece) and not is_in_gallery(piece))) for piece in inside
    ]
    return sum(size for size, is_held in sizes if not is_held) > MOST_HOLES * sum(size for size, _ in sizes)
