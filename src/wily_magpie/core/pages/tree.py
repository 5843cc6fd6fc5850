"""Pages as trees of elements, parsed forgivingly and within bounds."""

import re
import threading
from collections import defaultdict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from itertools import islice
from typing import Any, TypeAlias, TypeVar

import lxml.html
from lxml import etree

Element: TypeAlias = Any
"""An lxml.html.HtmlElement; lxml has no types of its own for the elements of HTML."""

T = TypeVar("T")
STATE = threading.local()
DEEPEST = 250
"""Elements nested deeper than this are lifted up: libraries that walk by recursion would break on them."""
MOST_TAGS, MOST_ATTRIBUTES = 120_000, 500
"""A page is read up to so many tags; a long tag with more attributes than that is read without any."""
LONG_TAG = re.compile(r"<([a-zA-Z][\w-]*)[^<>]{50000,}>?")
LARGEST_EXACT = 1_000_000
BLOCK_TAGS = frozenset(
    "address article aside blockquote body caption center dd details dialog dir div dl dt fieldset figcaption figure footer"
    " form h1 h2 h3 h4 h5 h6 header hr legend li main nav ol p pre section summary table tbody td tfoot th thead tr ul".split()
)
HEAD_TAGS = frozenset("title base link meta style script noscript template".split())
UNREAD_TAGS = frozenset("script style template noscript head".split())
TAG = re.compile(
    r"<(/?)(?!(?:area|base|br|col|embed|hr|img|input|link|meta|source|track|wbr)\b)[a-z][^<>]*>", re.IGNORECASE
)
ONE_CLASS = etree.ElementDefaultClassLookup(element=lxml.html.HtmlElement)
"""The same class for forms and fields too: lxml.html asks a function in Python for the class of each element."""
REFERENCE = re.compile(r"&#(?:x([0-9a-f]{1,8})|(\d{1,8}));?", re.IGNORECASE)
SELF_CLOSED = re.compile(r"<((?:!doctype|html|head|body)\b[^<>]*)/>", re.IGNORECASE)
CONTROLS = bytes([*range(0x09), 0x0B, 0x0C, *range(0x0E, 0x20)])
NOT_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")


def bounded(html: str) -> str:
    """A page with no more tags than any honest one has, nor tags with thousands of attributes.

    The libraries that read pages work in C for as long as it takes, some with the square of such numbers.
    """
    if html.count("<") > MOST_TAGS:
        html = html[: next(islice(re.finditer("<", html), MOST_TAGS, None)).start()]
    return LONG_TAG.sub(lambda found: f"<{found[1]}>" if found[0].count("=") > MOST_ATTRIBUTES else found[0], html)


def parse(html: str) -> Element:
    """The root element of a page; an empty page gives an empty <html>."""
    html = bounded(html)
    text = REFERENCE.sub(sound_reference, re.sub(r"^\s*<\?xml[^>]*\?>", "", html))
    parser = etree.HTMLParser(huge_tree=True, encoding="utf-8", remove_pis=True, remove_comments=True)
    parser.set_element_class_lookup(ONE_CLASS)
    try:
        root = lxml.html.document_fromstring(xml_bytes(text) or b"<html></html>", parser=parser)
    except (etree.ParserError, etree.XMLSyntaxError, AssertionError):
        root = lxml.html.document_fromstring(b"<html><body></body></html>", parser=parser)
    if not len(root) and SELF_CLOSED.search(text):  # libxml2 takes <html/> for the whole page
        root = lxml.html.document_fromstring(xml_bytes(SELF_CLOSED.sub(r"<\1>", text)), parser=parser)
    if any("depth" in str(fault.message) for fault in parser.error_log):
        # libxml2 leaves out what is nested too deeply
        root = lxml.html.document_fromstring(xml_bytes(shallow(text)), parser=parser)
    end_head(root)
    open_shadows(root)
    unwrap_pictures(root)
    flatten(root)
    return root


def end_head(root: Element) -> None:
    """Ends the head where the HTML standard does: at the first element that is none of its own. libxml2 does not know newer ones."""
    head = root.find("head")
    first = next((at for at, one in enumerate(head) if one.tag not in HEAD_TAGS), None) if head is not None else None
    if first is None:
        return
    body = root.find("body")
    if body is None:
        body = root.makeelement("body")
        root.append(body)
    moved = list(head[first:])
    text, body.text = body.text, None
    for at, one in enumerate(moved):
        body.insert(at, one)
    moved[-1].tail = f"{moved[-1].tail or ''}{text or ''}" or None


def open_shadows(root: Element) -> None:
    """Puts what lies in declared shadow roots (the HTML standard's `template shadowrootmode`) where it is seen: in its host.

    What the host itself holds stands where a slot takes it in, and is not seen where none does.
    """
    declared = [one for one in root.iter("template") if one.get("shadowrootmode") or one.get("shadowroot")]
    for template in reversed(declared):  # the inner ones first: their slots take in slots of the outer ones
        host = template.getparent()
        if host is None:
            continue
        light: dict[str, list[Element]] = {}
        for one in [one for one in host if one is not template]:
            light.setdefault(one.get("slot") or "", []).append(one)
        loose = f"{host.text or ''}{template.tail or ''}".strip()
        host.text = template.tail = None
        template.tag = "div"
        for slot in list(template.iter("slot")):
            name = slot.get("name") or ""
            taken = light.pop(name, [])
            if taken or (loose and not name):
                del slot[:]
                slot.text = loose if not name else None
                slot.extend(taken)
            slot.tag = "div" if any(one.tag in BLOCK_TAGS for one in slot) else "span"
        for one in [one for many in light.values() for one in many]:
            host.remove(one)


def xml_bytes(text: str) -> bytes:
    """A text as UTF-8 without what XML cannot hold."""
    content = text.encode("utf-8", "ignore").translate(None, CONTROLS)
    return content.replace(b"\xef\xbf\xbe", b"").replace(b"\xef\xbf\xbf", b"")


def fragment(html: str) -> Element:
    """A <div> around a piece of HTML; what XML cannot hold is left out, since it would end the text."""
    return lxml.html.fragment_fromstring(xml_bytes(html).decode(), create_parent="div")


def sound_reference(found: re.Match[str]) -> str:
    """A reference to a character by its number; nothing for one that no text may hold."""
    number = int(found[1], 16) if found[1] else int(found[2])
    return found[0] if number <= 0x10FFFF and not NOT_XML.match(chr(number)) else ""


def unwrap_pictures(root: Element) -> None:
    """Shows pictures that stand only for those without scripts, unless a picture beside them is loaded late instead."""
    for box in list(root.iter("noscript")):
        images = list(box.iter("img"))
        parent = box.getparent()
        if parent is None or box.getparent().tag == "head" or len(images) != 1:
            continue
        beside = [one for one in (box.getprevious(), box.getnext()) if one is not None]
        late = next((img for one in beside if isinstance(one.tag, str) for img in one.iter("img")), None)
        if late is None:
            box.addprevious(images[0])
            images[0].tail = None
        elif not is_shown(late):
            late.set("data-src", images[0].get("src") or "")


def is_shown(image: Element) -> bool:
    """Whether a picture tells where its contents are."""
    names = ("src", "data-src", "srcset", "data-srcset", "data-lazy-src", "data-original")
    return any((image.get(name) or "data:").partition(":")[0] != "data" for name in names)


def parse_exactly(html: str) -> Element:
    """The root element of a page, repaired as browsers do it (the HTML standard's own algorithm).

    It takes twenty times as long as `parse`, which is used for what is large or nested deeply.
    """
    root = parse(html)
    if len(html) > LARGEST_EXACT or is_deeper(root, DEEPEST // 2):
        return root
    import html5lib  # only needed for whole files

    repaired = html5lib.parse(NOT_XML.sub("", html))
    return parse(str(html5lib.serialize(repaired, omit_optional_tags=False, quote_attr_values="always")))


def shallow(html: str) -> str:
    """A page without the tags that are nested deeper than DEEPEST; what stands in them stays."""
    depth = 0

    def one(found: re.Match[str]) -> str:
        nonlocal depth
        if found[1]:
            depth -= 1
            return found[0] if depth < DEEPEST else " "
        depth += 1
        return found[0] if depth <= DEEPEST else " "

    return TAG.sub(one, html)


def is_deeper(root: Element, levels: int) -> bool:
    """Whether elements are nested in more levels than that."""
    level: list[Element] = list(root)
    for _ in range(levels):
        level = [child for element in level for child in element]
    return bool(level)


def flatten(root: Element) -> None:
    """Lifts what is nested too deeply; the text and its order stay."""
    level: list[Element] = list(root)
    for _ in range(DEEPEST):
        level = [child for element in level for child in element]
        if not level:
            return
    for element in level:
        text = element.text_content() if isinstance(element.tag, str) else ""
        for child in list(element):
            element.remove(child)
        element.text = text


def named(words: str) -> re.Pattern[str]:
    """A pattern that finds one of some words (alternatives of a regular expression) among the names of an element."""
    return re.compile(rf"(^|[\s_-])({words})([\s_-]|$)", re.IGNORECASE)


def elements(root: Element) -> Iterator[Element]:
    """All real elements (no comments) in document order."""
    return (element for element in root.iter() if isinstance(element.tag, str))


def is_undisplayed(element: Element) -> bool:
    """Whether its own style hides it."""
    return "display:none" in (element.get("style") or "").replace(" ", "").casefold()


def squash(text: str | None) -> str:
    """Text with every run of white space as one space."""
    if not text:
        return ""
    return " ".join((text if text.isascii() else text.replace("\u200b", "").replace("\ufeff", "")).split())


@contextmanager
def unchanged() -> Iterator[None]:
    """Within it no tree that this thread asks about is changed, so that what was found of an element once is known."""
    STATE.told = defaultdict(dict)
    try:
        yield
    finally:
        del STATE.told


def remembered(function: Callable[[Element], T]) -> Callable[[Element], T]:
    """A function of an element whose values are remembered within `unchanged`."""

    @wraps(function)
    def asked(element: Element) -> T:
        told: defaultdict[Any, dict[Element, T]] | None = getattr(STATE, "told", None)
        if told is None:
            return function(element)
        known = told[function]
        if element not in known:
            known[element] = function(element)
        return known[element]

    return asked


@remembered
def text_of(element: Element) -> str:
    """The text of an element on one line; text of blocks that follow each other does not run together."""
    if not len(element):
        return squash(element.text) if element.tag not in UNREAD_TAGS else ""
    parts: list[str] = []
    for node in element.iter():
        if not isinstance(node.tag, str) or node.tag in UNREAD_TAGS:
            pass
        else:
            if node.tag in BLOCK_TAGS or node.tag == "br":
                parts.append(" ")
            parts.append(node.text or "")
        if node is not element and node.tail:
            parts.append((" " if node.tag in BLOCK_TAGS else "") + node.tail)
    return squash("".join(parts))


@remembered
def spaced(tag: Element) -> str:
    """The text of an element with a space between its inline parts, which pages often set apart by style alone."""
    parts = [squash(one) for node in tag.iter() if isinstance(node.tag, str) and node.tag not in UNREAD_TAGS
             for one in (node.text, node.tail if node is not tag else None) if one and squash(one)]  # fmt: skip
    return squash(" ".join(parts)).replace(" ,", ",").replace(" .", ".")


def inner(element: Element) -> str:
    """The HTML of what stands in an element."""
    parts = [html_text(element.text)]
    parts += [str(lxml.html.tostring(child, encoding="unicode")) for child in element]
    return "".join(parts)


def outer(element: Element) -> str:
    """The HTML of an element, without what follows it."""
    return str(lxml.html.tostring(element, encoding="unicode", with_tail=False))


def html_text(text: str | None) -> str:
    """A text as it stands in HTML."""
    return (text or "").replace("&", "&amp;").replace("<", "&lt;")


def lines_of(element: Element) -> str:
    """The text of an element, a line a block."""
    parts: list[str] = []

    def walk(node: Element, *, in_pre: bool) -> None:
        if not isinstance(node.tag, str) or node.tag in UNREAD_TAGS:
            return
        is_block = node.tag in BLOCK_TAGS and not in_pre
        in_pre = in_pre or node.tag == "pre"
        if is_block or node.tag == "br":
            parts.append("\n")
        parts.append((node.text or "") if in_pre else re.sub(r"\s+", " ", node.text or ""))
        for child in node:
            walk(child, in_pre=in_pre)
            parts.append((child.tail or "") if in_pre else re.sub(r"\s+", " ", child.tail or ""))
        if is_block:
            parts.append("\n")

    walk(element, in_pre=False)
    lines = (line.strip() for line in "".join(parts).split("\n"))
    return "\n".join(line for line in lines if line)
