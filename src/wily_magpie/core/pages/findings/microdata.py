"""Structured data as microdata, after the HTML standard's own algorithm (section 5, "Microdata")."""

from typing import Any
from urllib.parse import urljoin

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields import AMOUNT
from wily_magpie.core.fields.amount import split
from wily_magpie.core.fields.number import with_decimals
from wily_magpie.core.pages.findings.jsonld import Item
from wily_magpie.core.pages.tree import Element, squash

ADDRESS_ATTRIBUTES = {
    **dict.fromkeys(("audio", "embed", "iframe", "img", "source", "track", "video"), "src"),
    **dict.fromkeys(("a", "area", "link"), "href"),
    "object": "data",
}
DEEPEST = 20


FIGURES = ("price", "lowPrice", "highPrice", "ratingValue")
"""Properties whose values are numbers, which many pages only show."""


def items(root: Element, base: str, language: str = "") -> list[Item]:
    """Top-level items in the shape of JSON-LD: "@type" without its address, properties as a value or a list.

    Args:
        language: of the page, by which it shows figures.
    """
    return [item(element, base, language, 0) for element in root.xpath("//*[@itemscope and not(@itemprop)]")]


def item(element: Element, base: str, language: str, depth: int) -> Item:
    """One item with its properties."""
    kinds = [kind.rsplit("/", 1)[-1] for kind in (element.get("itemtype") or "").split()]
    out: Item = {"@type": kinds[0] if len(kinds) == 1 else kinds}
    todo = [child for child in element if isinstance(child.tag, str)]
    for reference in (element.get("itemref") or "").split()[:20]:
        todo += element.getroottree().getroot().xpath("//*[@id=$id]", id=reference)[:1]
    while todo:
        child = todo.pop(0)
        is_item = child.get("itemscope") is not None
        for name in (child.get("itemprop") or "").split():
            value = item(child, base, language, depth + 1) if is_item and depth < DEEPEST else value_of(child, base)
            if name in FIGURES and isinstance(value, str) and child.get("content") is None:
                value = in_standard_form(value, language)
            add(out, name, value)
        if not is_item:
            todo = [inner for inner in child if isinstance(inner.tag, str)] + todo
    return out


def in_standard_form(shown: str, language: str) -> str:
    """Figures that a page in a language shows, as the standard has them; as they are shown where they can be two."""
    try:
        value = AMOUNT.read_in(shown, language)
    except UnreadableValue:
        value = None
    if not isinstance(value, str):
        return shown
    number, unit = split(value)
    return f"{with_decimals(shown, number)} {unit}".strip()


def add(out: Item, name: str, value: Any) -> None:
    """A property; a second value makes it a list."""
    if name in out:
        before = out[name] if isinstance(out[name], list) else [out[name]]
        out[name] = [*before, value]
    else:
        out[name] = value


def value_of(element: Element, base: str) -> str:
    """The value of a property by the kind of its element."""
    if element.get("content") is not None:
        return squash(element.get("content"))
    attribute = ADDRESS_ATTRIBUTES.get(str(element.tag))
    if attribute:
        try:
            return urljoin(base, str(element.get(attribute) or "").strip())
        except ValueError:
            return ""
    if element.tag in ("data", "meter"):
        return str(element.get("value") or "")
    if element.tag == "time" and element.get("datetime"):
        return squash(element.get("datetime"))
    return squash(element.text_content())
