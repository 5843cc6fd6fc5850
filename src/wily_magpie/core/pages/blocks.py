"""The main content block by block, and what was left out beside it with the reason, so that a person can decide anew."""

import re
from collections.abc import Mapping
from itertools import islice

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.boilerplate import (
    BYLINE,
    COUNT,
    DATE_LINE,
    is_mostly_link,
    is_of_mails,
    is_pointer,
    names_of,
)
from wily_magpie.core.pages.budget import FOR_BLOCKS, Budget
from wily_magpie.core.pages.markdown import lines_to_markdown, one_to_markdown
from wily_magpie.core.pages.markdown.footnotes import notes_of
from wily_magpie.core.pages.page import Block
from wily_magpie.core.pages.tree import BLOCK_TAGS, Element, named

FRAMES = frozenset(
    "div section article main body center aside header footer details address form fieldset nav html span".split()
)
KINDS = {
    **dict.fromkeys(("h1", "h2", "h3", "h4", "h5", "h6"), "heading"),
    **dict.fromkeys(("ul", "ol", "dl", "li", "dt", "dd"), "list"),
    **dict.fromkeys(("img", "picture", "figure"), "picture"),
    **dict.fromkeys(("iframe", "video", "audio"), "player"),
    "pre": "code",
    "blockquote": "quotation",
    "table": "table",
    "hr": "rule",
}
REASONS = (
    ("comments", r"comments?|kommentare?|commentaires?|comentarios?|disqus|respond"),
    (
        "related links",
        r"related|recommend(ed|ations)?|read-?more|more-?(stories|from|articles)|popular|trending|teasers?|similar",
    ),
    ("share bar", r"share|sharing|social|share-?bar|addtoany"),
    ("cookie notice", r"cookies?|consent|gdpr"),
    ("subscription", r"newsletter|subscribe|subscription|signup|sign-up|paywall|donat(e|ion)"),
    ("advertisement", r"ads?|advert(isement)?|promo|sponsored|banner"),
    ("navigation", r"nav|navigation|menu|breadcrumbs?|footer|masthead|sidebar|pagination|header"),
)
PATTERNS = [(reason, named(words)) for reason, words in REASONS]
FOOTNOTE = re.compile(r"\[\^[^\]]+\]: ")
AROUND = 14
"""How many left-out pieces before and behind the text are offered."""
MOST_LEFT_OUT = 80
HUGE = 5000
"""Elements in one block."""


def left_out(
    pieces: list[Element], kept: list[Element], address: str, paths: dict[Element, str]
) -> list[tuple[Element, Block]]:
    """Pieces within and near the text that are not part of it.

    Args:
        paths: of the elements around the text.
    """
    there = set(kept)
    whole = pieces[0].getroottree()
    first, last = pieces.index(kept[0]), pieces.index(kept[-1])
    out: list[tuple[Element, Block]] = []
    for piece in pieces[max(0, first - AROUND) : last + 1 + AROUND]:
        if piece not in there and len(out) < MOST_LEFT_OUT:
            path = paths.get(piece) or str(whole.getpath(piece))
            out.append((piece, make(piece, address, path, reason=reason_of(piece))))
    return out


def kept_blocks(cut: Element, address: str, paths: dict[Element, str], budget: Budget) -> list[tuple[Element, Block]]:
    """The blocks of what was cut out, in order.

    Args:
        paths: of elements as they were before the cutting.
        budget: those that are not made in its time are left away.
    """
    made: list[tuple[Element, Block]] = []
    notes = notes_of(cut)
    for unit in units(cut):
        if len(made) % 50 == 49 and budget.is_spent(FOR_BLOCKS):
            break
        markdown = written(unit, address, notes, budget)
        if markdown:
            is_note = bool(notes) and FOOTNOTE.match(markdown) is not None
            made.append((unit, make(unit, address, paths.get(unit, ""), written=markdown, is_note=is_note)))
    return made


def written(unit: Element, address: str, notes: Mapping[str, str], budget: Budget) -> str:
    """Its Markdown; of a huge one that would take too long, such as a table of 100,000 rows, its lines as they are."""
    if sum(1 for _ in islice(unit.iter(), HUGE)) < HUGE:
        return one_to_markdown(unit, address, notes)
    markdown = budget.within(lambda: one_to_markdown(unit, address, notes), FOR_BLOCKS)
    return lines_to_markdown(tree.lines_of(unit)) if markdown is None else markdown


def paths_of(root: Element) -> dict[Element, str]:
    """The paths (XPath) of all elements in one, as lxml writes them; in one walk, since asking for each is quadratic."""
    out = {root: str(root.getroottree().getpath(root))}
    for parent in tree.elements(root):
        above = out[parent]
        by_tag: dict[str, list[Element]] = {}
        for child in parent:
            if isinstance(child.tag, str):
                by_tag.setdefault(child.tag, []).append(child)
        for tag, children in by_tag.items():
            if len(children) == 1:
                out[children[0]] = f"{above}/{tag}"
            else:
                out.update((child, f"{above}/{tag}[{number}]") for number, child in enumerate(children, 1))
    return out


def units(element: Element) -> list[Element]:
    """The elements that are one block each; frames around blocks are looked into."""
    out: list[Element] = []
    todo = list(reversed(element))
    while todo:
        one = todo.pop()
        if not isinstance(one.tag, str):
            continue
        is_frame = one.tag in FRAMES and any(isinstance(c.tag, str) and c.tag in BLOCK_TAGS | {"img"} for c in one)
        if is_frame:
            todo += reversed(one)
        else:
            out.append(one)
    return out


def make(
    element: Element, address: str, path: str, *, reason: str = "", written: str | None = None, is_note: bool = False
) -> Block:
    """A block of an element; where its Markdown is not written yet, that is done when it is asked for."""
    is_of_links = sum(1 for _ in islice(element.iter("a"), 2)) > 1  # pages set them apart by style alone
    tag, text = str(element.tag), tree.spaced(element) if is_of_links else tree.text_of(element)
    kind = KINDS.get(tag, "picture" if not text and any(True for _ in element.iter("img")) else "paragraph")
    level = int(tag[1]) if kind == "heading" else 0
    kind = "footnote" if is_note else kind
    return Block(kind, level, tree.outer(element), text, path, not reason, reason, address, written)


@tree.remembered
def own_reason(element: Element) -> str:
    """Why an element by itself holds no text of the page; "" where nothing speaks against it."""
    if tree.is_undisplayed(element) or element.get("hidden") is not None:
        return "hidden"
    if element.tag in ("nav", "footer"):
        return "navigation"
    names = names_of(element)
    if element.tag not in ("body", "html"):
        for reason, pattern in PATTERNS:
            if pattern.search(names):
                return reason
    return "byline" if BYLINE.search(names) or DATE_LINE.search(names) else ""


def reason_of(piece: Element) -> str:
    """Why a piece is not part of the text, by what stands around it, nearest first."""
    if is_of_mails(piece):
        return "e-mail footer"
    if is_pointer(piece):
        return "comments" if COUNT.match(tree.text_of(piece)) else "related links"
    reason = next((found for element in (piece, *piece.iterancestors()) if (found := own_reason(element))), "")
    if reason:
        return reason
    if piece.tag == "h1" or any(up.tag == "h1" for up in piece.iterancestors()):
        return "title"
    return "links" if is_mostly_link(piece) else "beside the text"
