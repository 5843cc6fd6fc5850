"""The main content of a page: the text that is believed, found again in the page and cut out of its own elements.

The libraries' own output loses quotations, tables, code, lists and pictures, so only what they say is text is taken from
them (voices). Pieces that are furniture all the same are left out (furniture); a lost first paragraph is put back.
"""

import copy
import re
from dataclasses import replace
from itertools import islice

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.blocks import kept_blocks, left_out, paths_of
from wily_magpie.core.pages.budget import Budget
from wily_magpie.core.pages.furniture import (
    DROPPED_TAGS,
    in_junk,
    is_for_ears,
    is_junk,
    is_mostly_link,
    is_pointer,
    names_of,
    without_furniture,
    without_last_links,
    without_pointers,
    without_teasers,
)
from wily_magpie.core.pages.page import Block, Content
from wily_magpie.core.pages.runs import wrap_runs
from wily_magpie.core.pages.tree import UNREAD_TAGS, Element
from wily_magpie.core.pages.voices import Told, Voices, ask, letters

LARGEST_HTML = 3_000_000
"""Characters beyond which only the page's own structure is asked: the libraries would need minutes."""
SURE, WEAK, REACH = 40, 12, 40
"""Letters from which a piece is looked for everywhere; below which it proves nothing alone; by which a short piece may be
away from the one before it."""
NEAR = 12
"""How many elements behind the last believed one a picture may stand to belong to it."""
LEAD, LEAD_WITHIN = 28, 14
"""Letters by which a first paragraph must open like the page's description; how many pieces before the text it may stand."""
MOST_CAPTION = 80
"""Characters beside a picture past which the element around both is a teaser rather than a picture with its caption."""
ISLAND = 5
"""How many pieces further the text goes on where a short first piece is none of it."""
GALLERY = re.compile(
    r"(^|[\s_-])(gallery|slideshow|slides?|slider|carousel|galerie|bildstrecke)([\s_-]|$)", re.IGNORECASE
)
PICTURES = ("img", "picture", "figure")
MOST_HOLES = 0.1
"""The share of letters in the midst of a text that may be missing before more voices are asked."""
LEAST_LEAD = 60
"""Letters of a paragraph that is put back though nobody gave it."""
LEAST_SOUND = 100
"""Letters of a paragraph from which what is around it is believed to hold text, whatever its names."""
LEAD_NAME = re.compile(
    r"(^|[\s_-])(lead|lede|intro|introduction|standfirst|chapo|chapeau|excerpt|summary|dek|subtitle|vorspann|kicker|preamble|"
    r"teaser-?text|entradilla)([\s_-]|$)",
    re.IGNORECASE,
)
PARAGRAPHS = ("p", "div")
HEADINGS, LISTS = ("h2", "h3", "h4", "h5", "h6"), ("ul", "ol", "dl")
MEDIA_TAGS = frozenset("img picture figure video audio table pre hr iframe math".split())
CAPTIONED = re.compile(
    r"(^|[\s_-])(wp-caption|figure|captioned|caption-container|image-caption)([\s_-]|$)", re.IGNORECASE
)
CREDIT = re.compile(
    r"^\s*((photo(graph)?|image|picture|screenshot|credit|source|foto|bild|bildquelle|quelle|crédits?)s?\s*(credit|by|:|/)|©|\(c\)).{0,80}$",
    re.IGNORECASE,
)


def content_of(
    root: Element, html: str, address: str, descriptions: list[str], budget: Budget, *, is_file: bool = False
) -> Content:
    """The main content; where no library finds any, all that the page shows outside its furniture.

    Args:
        descriptions: what the page says of itself, by which a lost first paragraph is known.
        is_file: whether the page stands for a file, all of which is content.
    """
    body = root.find(".//body")
    body = root if body is None else body
    if is_file:
        paths = paths_of(body)
        clean(body)
        return whole(body, address, paths, budget)
    if len(html) > LARGEST_HTML:
        cut = whole_body(root)
        return whole(cut, address, paths_of(cut), budget)
    pieces = leaves(body, wrap_runs(body))
    voices = ask(html, address, budget, lambda told: has_holes(pieces, told))
    believed = voices.believed
    kept = chosen_pieces(pieces, believed, descriptions, host_of(address)) if believed else []
    order = {element: place for place, element in enumerate(body.iter())}
    paths = paths_of(body)
    others = left_out(pieces, kept, address, paths) if kept else []
    cut = cut_out(kept) if kept else whole_body(root)
    others = [(element, block) for element, block in others if not any(up is cut for up in element.iterancestors())]
    clean(cut)
    if not kept:
        return whole(cut, address, paths, budget)
    blocks = [(order.get(element, 0), block) for element, block in [*kept_blocks(cut, address, paths, budget), *others]]
    blocks.sort(key=lambda one: one[0])
    return replace(
        Content.of_blocks(tuple(with_scores([block for _, block in blocks], voices))), text=tree.lines_of(cut)
    )


def has_holes(pieces: list[Element], told: Told) -> bool:
    """Whether much that stands in the midst of a text in the page is missing from it."""
    held = set(believed_leaves(pieces, told))
    places = [place for place, piece in enumerate(pieces) if piece in held]
    if not places:
        return True
    inside = [piece for piece in pieces[places[0] : places[-1] + 1] if piece in held or not is_mostly_link(piece)]
    sizes = [
        (len(tree.text_of(piece)), piece in held or (in_junk(piece) and not is_in_gallery(piece))) for piece in inside
    ]
    return sum(size for size, is_held in sizes if not is_held) > MOST_HOLES * sum(size for size, _ in sizes)


def with_scores(blocks: list[Block], voices: Voices) -> list[Block]:
    """Blocks with the share of the voices that hold each; what has no words is as sure as its neighbours."""
    shares = [voices.share(block.text) if letters(block.text) else None for block in blocks]
    out: list[Block] = []
    for at, block in enumerate(blocks):
        near = [share for share in shares[max(0, at - 1) : at + 2] if share is not None]
        own = shares[at]
        score = own if own is not None else sum(near) / len(near) if near else 0.0
        out.append(replace(block, score=round(score, 2)))
    return out


def whole(cut: Element, address: str, paths: dict[Element, str], budget: Budget) -> Content:
    """All of an element as content."""
    blocks = tuple(block for _, block in kept_blocks(cut, address, paths, budget))
    return replace(Content.of_blocks(blocks), text=tree.lines_of(cut))


def chosen_pieces(pieces: list[Element], believed: Told, descriptions: list[str], host: str) -> list[Element]:
    """The pieces of the page that are its text."""
    kept = without_pointers(without_furniture(believed_leaves(pieces, believed)))
    kept = without_islands(without_last_links(without_teasers(kept, pieces), host), pieces)
    return with_holes_filled(with_lead(kept, pieces, descriptions), pieces) if kept else []


def without_islands(kept: list[Element], pieces: list[Element]) -> list[Element]:
    """The pieces without a short one that stands far before all others: a word found there by chance."""
    places = {piece: place for place, piece in enumerate(pieces)}
    while len(kept) > 1 and len(tree.text_of(kept[0])) < SURE and places[kept[1]] - places[kept[0]] > ISLAND:
        kept = kept[1:]
    return kept


def cut_out(kept: list[Element]) -> Element:
    """The smallest part of the page around the pieces, pruned in place of all but them and the media between."""
    ancestor = common_ancestor(kept)
    elements = [element for element in ancestor.iter() if isinstance(element.tag, str)]
    order = {element: place for place, element in enumerate(elements)}
    first, last = order[kept[0]], order[kept[-1]]
    whole, alive, sound = set(kept), set(kept), around(kept)
    for element in elements:
        if first < order[element] <= last + NEAR and element not in whole and is_wanted_media(element, sound):
            whole.add(element)
            alive.add(element)
    for element in reversed(elements):
        if element in alive and element is not ancestor:
            alive.add(element.getparent())
    whole |= {element for element in alive if is_data_table(element)}
    for element in elements:
        parent = element.getparent()
        if parent is not None and parent in whole and element is not ancestor:
            whole.add(element)
    for element in elements:
        if element not in alive and element not in whole:
            remove(element)
    return ancestor


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


def is_wanted_media(element: Element, sound: set[Element]) -> bool:
    """Whether a picture, table, player or code belongs to the text around it, though no library gives it."""
    is_out = in_junk(element, sound) and not (element.tag in PICTURES and is_in_gallery(element))
    return holds_media(element) and not is_out and not is_teaser(element)


def is_in_gallery(element: Element) -> bool:
    """Whether a picture is one of a series, whose parts are often called teasers."""
    return any(GALLERY.search(names_of(up)) for up in islice(element.iterancestors(), 6))


def is_teaser(element: Element) -> bool:
    """Whether a picture stands in a link that also holds words: it leads to another page."""
    link = next((up for up in element.iterancestors("a")), None)
    return link is not None and len(tree.text_of(link)) > len(tree.text_of(element)) + 3


def remove(element: Element) -> None:
    """Takes an element out; the text behind it stays."""
    if element.getparent() is not None:
        element.drop_tree()


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


def believed_leaves(pieces: list[Element], told: Told) -> list[Element]:
    """The pieces of the page that the believed text is made of.

    Both have the same order. A long piece is looked for everywhere; a short one only as a line of its own, or right behind
    the piece before it, since short texts stand in other places of a page by chance.
    """
    out: list[Element] = []
    cursor = 0
    for leaf in pieces:
        own = letters(tree.text_of(leaf))
        weight = len(own) + 2 * sum(char > "\u2e7f" for char in own)  # a letter of a script without spaces says more
        if not own:
            continue
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


def holds_media(element: Element) -> bool:
    """Whether it is a picture with or without a caption, a table of data, a player or code."""
    if element.tag == "table":
        return is_data_table(element)
    if element.tag == "figure" or CAPTIONED.search(element.get("class") or ""):
        has_media = any(True for _ in element.iter("img", "picture", "video", "audio", "iframe", "pre", "svg"))
        return has_media and len(tree.text_of(element)) < 3 * MOST_CAPTION
    return element.tag in MEDIA_TAGS


def is_data_table(element: Element) -> bool:
    """Whether it is a table of data rather than one for layout: flat, with several cells a row and little text in each."""
    if element.tag != "table" or any(True for _ in element.iterdescendants("table")):
        return False
    rows = list(element.iter("tr"))
    cells = list(element.iter("td", "th"))
    return len(rows) > 1 and len(cells) >= 2 * len(rows) and len(tree.text_of(element)) < 120 * len(cells)


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


def whole_body(root: Element) -> Element:
    """All that a page shows, without its furniture."""
    body = root.find(".//main")
    body = root.find(".//body") if body is None else body
    twin = copy.deepcopy(root if body is None else body)
    for element in list(tree.elements(twin)):
        if element is not twin and (element.tag in DROPPED_TAGS or is_junk(element)):
            remove(element)
    return twin


def clean(cut: Element) -> None:
    """Takes out what can never be content: scripts, forms, hidden things."""
    for element in list(cut.iter("figcaption", "p", "span", "div", "cite", "small")):
        in_figure = element.tag == "figcaption" or any(up.tag == "figure" for up in element.iterancestors())
        if in_figure and element is not cut and CREDIT.match(tree.text_of(element)):
            remove(element)
    for element in list(cut.iter()):
        if element is cut:
            continue
        style = (element.get("style") or "").replace(" ", "").casefold() if isinstance(element.tag, str) else ""
        if (
            not isinstance(element.tag, str)
            or element.tag in DROPPED_TAGS
            or "display:none" in style
            or is_for_ears(element)
        ):
            remove(element)
