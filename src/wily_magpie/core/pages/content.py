"""The main content of a page: the text that is believed, found again in the page and cut out of its own elements.

The libraries' own output loses quotations, tables, code, lists and pictures, so only what they say is text is taken from
them (consensus). Pieces that are boilerplate all the same are left out (boilerplate); a lost first paragraph is put back.
"""

import copy
import re
from dataclasses import replace

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.blocks import kept_blocks, left_out, paths_of
from wily_magpie.core.pages.boilerplate import (
    DROPPED_TAGS,
    is_for_ears,
    is_junk,
    is_of_mails,
    is_speaker,
    without_boilerplate,
    without_last_links,
    without_pointers,
    without_teasers,
)
from wily_magpie.core.pages.budget import Budget
from wily_magpie.core.pages.extractors import Consensus, ExtractedText, by_trafilatura, consensus_of, extract, letters
from wily_magpie.core.pages.inline_runs import wrap_inline_runs
from wily_magpie.core.pages.media import is_data_table, is_wanted_media
from wily_magpie.core.pages.page import Block, Content
from wily_magpie.core.pages.repair import (
    around,
    common_ancestor,
    with_holes_filled,
    with_later_sections,
    with_lead,
    with_speakers,
    without_outliers,
)
from wily_magpie.core.pages.text_blocks import believed_leaves, has_holes, leaves
from wily_magpie.core.pages.tree import Element

LARGEST_HTML = 3_000_000
"""Characters beyond which only the page's own structure is asked: the libraries would need minutes."""
NEAR = 12
"""How many elements behind the last believed one a picture may stand to belong to it."""
CREDIT = re.compile(
    r"^\s*((photo(graph)?|image|picture|screenshot|credit|source|foto|bild|bildquelle|quelle|crédits?)s?\s*(credit|by|:|/)|©|\(c\)).{0,80}$",
    re.IGNORECASE,
)


def content_of(
    root: Element,
    html: str,
    address: str,
    descriptions: list[str],
    budget: Budget,
    *,
    is_file: bool = False,
    is_mail: bool = False,
) -> Content:
    """The main content; where no library finds any, all that the page shows outside its boilerplate.

    Args:
        descriptions: what the page says of itself, by which a lost first paragraph is known.
        is_file: whether the page stands for a file, all of which is content.
        is_mail: of which all is content but what tells of its sending to many.
    """
    body = root.find(".//body")
    body = root if body is None else body
    if is_mail:
        return content_of_mail(body, address, budget)
    if is_file:
        paths = paths_of(body)
        clean(body)
        return whole(body, address, paths, budget)
    if len(html) > LARGEST_HTML:
        cut = whole_body(root)
        return whole(cut, address, paths_of(cut), budget)
    first = extract(by_trafilatura, root, address, budget)  # which does not have to parse the page again
    blockish = wrap_inline_runs(body)
    with tree.unchanged():
        pieces = leaves(body, blockish)
        plain = believed_leaves(pieces, first)
        consensus = consensus_of(html, address, budget, lambda: has_holes(pieces, plain), first)
        believed = (
            plain if consensus.believed is first else believed_leaves(pieces, consensus.believed or ExtractedText(""))
        )
        kept = chosen_pieces(pieces, believed, descriptions, host_of(address))
        paths = paths_of(common_ancestor(kept)) if kept else {}
        others = left_out(pieces, kept, address, paths) if kept else []
    order = {element: place for place, element in enumerate(body.iter())}
    cut = cut_out(kept) if kept else whole_body(root)
    others = [(element, block) for element, block in others if not any(up is cut for up in element.iterancestors())]
    clean(cut)
    if not kept:
        return whole(cut, address, paths, budget)
    blocks = [(order.get(element, 0), block) for element, block in [*kept_blocks(cut, address, paths, budget), *others]]
    blocks.sort(key=lambda one: one[0])
    return replace(
        Content.of_blocks(tuple(with_scores([block for _, block in blocks], consensus))), text=tree.lines_of(cut)
    )


def content_of_mail(body: Element, address: str, budget: Budget) -> Content:
    """All of an e-mail as content, but for the lines that tell of its sending, which are left out as they are on pages."""
    pieces = leaves(body, wrap_inline_runs(body))
    kept = [piece for piece in pieces if not is_of_mails(piece)] or pieces
    paths, order = paths_of(body), {element: place for place, element in enumerate(body.iter())}
    others = (
        [(order.get(element, 0), block) for element, block in left_out(pieces, kept, address, paths)] if kept else []
    )
    there = set(kept)
    for piece in pieces:
        if piece not in there:
            remove(piece)
    clean(body)
    blocks = [(order.get(element, 0), block) for element, block in kept_blocks(body, address, paths, budget)]
    both = sorted([*blocks, *others], key=lambda one: one[0])
    return replace(Content.of_blocks(tuple(block for _, block in both)), text=tree.lines_of(body))


def with_scores(blocks: list[Block], consensus: Consensus) -> list[Block]:
    """Blocks with the share of the consensus that hold each; what has no words is as sure as its neighbours."""
    shares = [consensus.share(block.text) if letters(block.text) else None for block in blocks]
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


def chosen_pieces(pieces: list[Element], believed: list[Element], descriptions: list[str], host: str) -> list[Element]:
    """The pieces of the page that are its text, of those that are believed to be."""
    if not believed:
        return []
    kept = without_pointers(without_boilerplate(believed))
    kept = without_outliers(without_last_links(without_teasers(kept, pieces), host), pieces)
    if not kept:
        return []
    kept = with_later_sections(with_lead(kept, pieces, descriptions), pieces)
    return with_speakers(with_holes_filled(kept, pieces), pieces)


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


def remove(element: Element) -> None:
    """Takes an element out; the text behind it stays."""
    if element.getparent() is not None:
        element.drop_tree()


def whole_body(root: Element) -> Element:
    """All that a page shows, without its boilerplate."""
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
        if (
            not isinstance(element.tag, str)
            or (element.tag in DROPPED_TAGS and not is_speaker(element))
            or tree.is_undisplayed(element)
            or is_for_ears(element)
        ):
            remove(element)
