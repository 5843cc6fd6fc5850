"""The main content of a page: libraries say where it is, and it is cut out of the page's own elements.

trafilatura (plain and strict) and readability-lxml each give a text; the one that shares most letters with what two
of trafilatura, readability-lxml and boilerpy3 agree on is believed. Its text is then found again in the page, since
the libraries' own output loses quotations, tables, code, lists and pictures.
"""

import copy
import logging
import re
from contextlib import suppress

import lxml.html
import trafilatura
from boilerpy3 import extractors
from readability import Document

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.markdown import to_markdown
from wily_magpie.core.pages.page import Content
from wily_magpie.core.pages.runs import wrap_runs
from wily_magpie.core.pages.tree import UNREAD_TAGS, Element

LARGEST_HTML = 3_000_000
"""Characters beyond which only the page's own structure is asked: the libraries would need minutes."""
LONGEST_SEARCHED = 200_000
"""Letters up to which a piece is looked for anywhere in a text; beyond, only among its lines: searching is quadratic."""
SURE, WEAK, REACH, PART = 40, 12, 40, 24
"""Letters from which a piece is looked for everywhere; below which it proves nothing alone; by which a short piece may be
away from the one before it; of the parts in which a long one is looked for that was not found as a whole."""
LEAST_AGREED = 0.25
"""The share of trafilatura's text that must be agreed on for the agreement to say anything."""
NEAR = 12
"""How many elements behind the last believed one a picture may stand to belong to it."""
MOST_CAPTION = 80
"""Characters beside a picture past which the element around both is a teaser rather than a picture with its caption."""
MEDIA_TAGS = frozenset("img picture figure video audio table pre hr iframe math".split())
DROPPED_TAGS = frozenset(
    "script style template nav aside footer form button input select textarea label dialog svg object embed canvas menu".split()
)
JUNK = re.compile(
    r"(^|[\s_-])(nav|navigation|breadcrumbs?|related|recommend(ed|ations)?|read-?more|more-?(stories|from|articles)|sidebar|"
    r"share|sharing|social|newsletter|subscribe|signup|sign-up|comments?|cookies?|consent|banner|advert(isement)?|ads?|promo|"
    r"sponsored|footer|masthead|menu|popular|trending|teaser|paywall)([\s_-]|$)",
    re.IGNORECASE,
)
MOST_FURNITURE = 0.2
"""The share of the believed text up to which a part named like furniture is taken for furniture."""
CAPTIONED = re.compile(
    r"(^|[\s_-])(wp-caption|figure|captioned|caption-container|image-caption)([\s_-]|$)", re.IGNORECASE
)
CREDIT = re.compile(
    r"^\s*((photo(graph)?|image|picture|screenshot|credit|source|foto|bild|bildquelle|quelle|crédits?)s?\s*(credit|by|:|/)|©|\(c\)).{0,80}$",
    re.IGNORECASE,
)
SURE_JUNK = re.compile(r"(^|[\s_-])(share|sharing|newsletter|subscribe|comments?|cookies?)([\s_-]|$)", re.IGNORECASE)
BYLINE = re.compile(
    r"(^|[\s_-])(byline|by-line|dateline|pubdate|timestamp|post-date|entry-date)([\s_-]|$)", re.IGNORECASE
)
for noisy in ("trafilatura", "readability", "htmldate", "boilerpy3"):
    logging.getLogger(noisy).setLevel(logging.CRITICAL)


def content_of(root: Element, html: str, address: str) -> Content:
    """The main content; where no library finds any, all that the page shows outside its furniture."""
    believed = believed_text(html, address) if len(html) <= LARGEST_HTML else None
    cut = cut_out(root, believed) if believed else None
    if cut is None:
        cut = whole_body(root)
    clean(cut)
    fragment = "".join(str(lxml.html.tostring(child, encoding="unicode")) for child in cut)
    fragment = (cut.text or "") + fragment
    return Content(fragment, to_markdown(cut, address), tree.lines_of(cut))


def letters(text: str) -> str:
    """Only letters and digits, in lower case."""
    return re.sub(r"[\W_]+", "", text.casefold())


class Told:
    """A text by its letters alone, which can be asked whether it holds a piece."""

    def __init__(self, text: str) -> None:
        self.text = text
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
        return bool(parts) and 2 * sum(part in self.whole for part in parts) > len(parts)

    def __contains__(self, piece: str) -> bool:
        return piece in self.all_lines or (len(self.whole) <= LONGEST_SEARCHED and piece in self.whole)


def believed_text(html: str, address: str) -> Told | None:
    """The text of the library that the others agree with most."""
    told = {name: Told(run(html, address)) for name, run in VOICES.items()}
    agreed = agreed_lines([told["plain"], told["readability"], told["boilerpy3"]])
    candidates = [told[name] for name in ("plain", "strict", "readability") if told[name].whole]
    if not candidates:
        return told["boilerpy3"] if told["boilerpy3"].whole else None
    if not agreed:
        return max(candidates, key=lambda one: len(one.whole))
    together = Told("\n".join(agreed))
    if len(together.whole) < LEAST_AGREED * len(told["plain"].whole):
        return told["plain"]  # they speak of different parts of the page; this one errs least
    return max(candidates, key=lambda one: overlap(one, together))


def agreed_lines(told: list[Told]) -> set[str]:
    """Lines that at least two of the texts hold."""
    lines = set().union(*(one.lines for one in told))
    return {line for line in lines if sum(line in one for one in told) >= 2}


def overlap(one: Told, agreed: Told) -> float:
    """Share of letters in common (F1)."""
    hit = sum(len(line) for line in agreed.lines if line in one)
    right = sum(len(line) for line in one.lines if line in agreed)
    recall, precision = hit / max(1, len(agreed.whole)), right / max(1, len(one.whole))
    return 2 * precision * recall / max(1e-9, precision + recall)


def by_trafilatura(html: str, address: str, *, strict: bool = False) -> str:
    """Trafilatura's text; strict: with its preference for precision."""
    with suppress(Exception):  # a library's fault on a broken page is one voice less
        found = trafilatura.bare_extraction(
            html, url=address or None, include_comments=False, favor_precision=strict, with_metadata=False
        )
        return str(getattr(found, "text", "") or "")
    return ""


def by_readability(html: str, address: str) -> str:
    """readability-lxml's text."""
    with suppress(Exception):
        plain = re.sub(r"^\s*<\?xml[^>]*\?>", "", html)
        return tree.lines_of(tree.parse(Document(plain, url=address or None).summary(html_partial=True)))
    return ""


def by_boilerpy(html: str, address: str) -> str:
    """boilerpy3's text."""
    with suppress(Exception):
        return str(extractors.ArticleExtractor(raise_on_failure=False).get_doc(html).content)
    return ""


VOICES = {
    "plain": by_trafilatura,
    "strict": lambda html, address: by_trafilatura(html, address, strict=True),
    "readability": by_readability,
    "boilerpy3": by_boilerpy,
}


def cut_out(root: Element, believed: Told) -> Element | None:
    """The smallest part of the page that holds the believed text, pruned in place of what is not in it."""
    body = root.find(".//body")
    body = root if body is None else body
    blockish = wrap_runs(body)
    kept = without_furniture(believed_leaves(leaves(body, blockish), believed))
    if not kept:
        return None
    ancestor = common_ancestor(kept)
    elements = [element for element in ancestor.iter() if isinstance(element.tag, str)]
    order = {element: place for place, element in enumerate(elements)}
    first, last = order[kept[0]], order[kept[-1]]
    whole, alive = set(kept), set(kept)
    for element in elements:
        if first < order[element] <= last + NEAR and element not in whole and is_wanted_media(element):
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


def is_wanted_media(element: Element) -> bool:
    """Whether a picture, table, player or code belongs to the text around it, though no library gives it."""
    return holds_media(element) and not in_junk(element) and not is_teaser(element)


def is_teaser(element: Element) -> bool:
    """Whether a picture stands in a link that also holds words: it leads to another page."""
    link = next((up for up in element.iterancestors("a")), None)
    return link is not None and len(tree.text_of(link)) > len(tree.text_of(element)) + 3


def without_furniture(kept: list[Element]) -> list[Element]:
    """Believed pieces without those in small parts of the page whose names say furniture: share bars, bylines, comments."""
    sizes = [len(tree.text_of(leaf)) for leaf in kept]
    inside: dict[Element, int] = {}
    for leaf, size in zip(kept, sizes, strict=True):
        for element in (leaf, *leaf.iterancestors()):
            inside[element] = inside.get(element, 0) + size
    most = sum(sizes) * MOST_FURNITURE
    junk = {e for e, size in inside.items() if size <= most and SURE_JUNK.search(e.get("class") or e.get("id") or "")}
    junk |= {
        leaf for leaf, size in zip(kept, sizes, strict=True) if size < 100 and BYLINE.search(leaf.get("class") or "")
    }
    return [leaf for leaf in kept if leaf not in junk and not any(up in junk for up in leaf.iterancestors())] or kept


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


def is_junk(element: Element) -> bool:
    """Whether its tag or names say furniture."""
    names = f"{element.get('class') or ''} {element.get('id') or ''} {element.get('role') or ''}"
    return element.tag in DROPPED_TAGS or bool(JUNK.search(names))


def in_junk(element: Element) -> bool:
    """Whether it or anything around it does."""
    return is_junk(element) or any(is_junk(up) for up in element.iterancestors() if up.tag not in ("body", "html"))


def common_ancestor(elements: list[Element]) -> Element:
    """The innermost element around all of them."""
    path = [elements[0], *elements[0].iterancestors()]
    for element in elements[1:]:
        around = {id(element), *(id(up) for up in element.iterancestors())}
        path = [up for up in path if id(up) in around]
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
        if not isinstance(element.tag, str) or element.tag in DROPPED_TAGS or "display:none" in style:
            remove(element)
