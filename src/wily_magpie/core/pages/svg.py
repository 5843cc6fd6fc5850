"""SVG pictures as they may be drawn: no outside references, no scripts, and no more to draw than a picture has.

A drawing may name files, addresses and other drawings, and may repeat a part of itself without end (`use`); the drawer that
we have would follow all of that.
"""

import re
from functools import cache

from lxml import etree

LARGEST_BYTES = 4_000_000
MOST_ELEMENTS, DEEPEST, MOST_DRAWN = 20_000, 120, 60_000
"""Elements that a drawing may have, how deep they may lie, how many may be drawn with all that is repeated."""
DRAWN = {
    "svg", "g", "defs", "symbol", "use", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "tspan",
    "title", "desc", "linearGradient", "radialGradient", "stop", "clipPath", "marker", "switch", "a", "style",
}  # fmt: skip
"""Elements that stay; pictures, filters, patterns, masks, scripts, animations and foreign objects go."""
HREF = "{http://www.w3.org/1999/xlink}href"
LOCAL = re.compile(r"\s*url\(\s*['\"]?#([^)'\"]+)['\"]?\s*\)")
OUTSIDE = re.compile(r"url\(\s*['\"]?(?!\s*['\"]?#)[^)]*\)|@import[^;]*;?|expression\([^)]*\)", re.IGNORECASE)


def safe_svg(content: bytes) -> bytes:
    """A drawing without what it may not have; nothing where there is none, or it is too much to draw."""
    if len(content) > LARGEST_BYTES:
        return b""
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, remove_comments=True, remove_pis=True,
        recover=False,
    )  # fmt: skip
    try:
        root = etree.fromstring(content, parser)
    except (etree.XMLSyntaxError, ValueError):
        return b""
    if name_of(root) != "svg" or not is_small(root):
        return b""
    for element in list(root.iter()):
        parent = element.getparent()
        if name_of(element) not in DRAWN and parent is not None:
            parent.remove(element)
        else:
            clean(element)
    drop_dead_links(root)
    return etree.tostring(root) if is_drawable(root) else b""


def name_of(element: "etree._Element") -> str:
    """The name of an element without its namespace; "" for what is none."""
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def is_small(root: "etree._Element") -> bool:
    """Whether a drawing has no more elements than it may, nor deeper ones."""
    depth = count = 0
    for event, _element in etree.iterwalk(root, events=("start", "end")):
        depth += 1 if event == "start" else -1
        count += event == "start"
        if depth > DEEPEST or count > MOST_ELEMENTS:
            return False
    return True


def clean(element: "etree._Element") -> None:
    """Takes away what leads outside, and what runs."""
    for name, raw in list(element.attrib.items()):
        plain, value = etree.QName(name).localname.casefold(), str(raw)
        leads_outside = plain == "href" and not value.strip().startswith("#")
        if leads_outside or plain.startswith("on") or plain in ("base", "filter", "mask"):
            del element.attrib[name]
        elif OUTSIDE.search(value):
            element.attrib[name] = OUTSIDE.sub("none", value)
    if name_of(element) == "style" and element.text:
        element.text = OUTSIDE.sub("", element.text)


def drop_dead_links(root: "etree._Element") -> None:
    """Takes away what leads to parts that are not there (any more)."""
    known = {str(one.get("id")) for one in root.iter() if one.get("id")}
    for element in list(root.iter()):
        parent = element.getparent()
        if name_of(element) == "use" and parent is not None and not known.intersection(links_of(element)):
            parent.remove(element)
            continue
        for name, value in list(element.attrib.items()):
            if any(str(link) not in known for link in LOCAL.findall(str(value))):
                del element.attrib[name]


def links_of(element: "etree._Element") -> list[str]:
    """The parts of the drawing that an element names."""
    links = [str(value).strip()[1:] for name, value in element.attrib.items() if etree.QName(name).localname == "href"]
    return links + [str(found) for value in element.attrib.values() for found in LOCAL.findall(str(value))]


def is_drawable(root: "etree._Element") -> bool:
    """Whether what it repeats of itself ends, and is not too much."""
    known = {str(one.get("id")): one for one in root.iter() if one.get("id")}
    under_way: set[str] = set()

    @cache
    def drawn(number: str) -> int:
        if number in under_way:
            raise RecursionError
        under_way.add(number)
        total = sum(weight(one) for one in known[number].iter())
        under_way.discard(number)
        return min(total, MOST_DRAWN + 1)

    def weight(one: "etree._Element") -> int:
        return 1 + sum(drawn(link) for link in links_of(one) if link in known)

    try:
        return sum(weight(one) for one in root.iter()) <= MOST_DRAWN
    except RecursionError:
        return False
