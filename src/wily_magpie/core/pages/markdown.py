"""A part of a page as Markdown (CommonMark, GFM), with absolute addresses."""

import copy
import re
from urllib.parse import urljoin, urlsplit

import html_to_markdown
import lxml.html

from wily_magpie.core.pages.tree import Element

OPTIONS = html_to_markdown.ConversionOptions(
    heading_style="atx", bullets="-", code_block_style="backticks", escape_misc=False, extract_metadata=False
)
PICTURE_SCHEMES = ("http:", "https:")
SAFE_SCHEMES = ("http:", "https:", "mailto:", "tel:", "ftp:", "magpie:")
LAZY = ("data-src", "data-original", "data-lazy-src", "data-url")


def to_markdown(part: Element, address: str) -> str:
    """The Markdown of all that stands in an element."""
    twin = copy.deepcopy(part)
    settle_addresses(twin, address)
    html = (twin.text or "") + "".join(lxml.html.tostring(child, encoding="unicode") for child in twin)
    result = html_to_markdown.convert(html, OPTIONS)
    markdown = getattr(result, "content", result)
    return re.sub(r"\n{3,}", "\n\n", str(markdown or "")).strip()


def settle_addresses(part: Element, address: str) -> None:
    """Makes links and pictures absolute; what leads to no page of the web loses its link.

    Where the page's own address is not known, relative ones stay as they are.
    """
    for image in list(part.iter("img")):
        source = next((image.get(name) for name in LAZY if image.get(name)), image.get("src"))
        target = settled(address, source or "", PICTURE_SCHEMES)
        if target:
            image.set("src", target)
        else:
            image.drop_tree()
    for link in list(part.iter("a")):
        href = link.get("href") or ""
        is_within = href.strip().startswith("#") and bool(address)
        target = "" if is_within else settled(address, href, SAFE_SCHEMES)
        if target:
            link.set("href", target)
        elif link.getparent() is not None and not (link.get("href") == "" and not address):
            link.drop_tag()


def settled(address: str, target: str, schemes: tuple[str, ...]) -> str:
    """An address as it is to stand in a text; "" where it must not."""
    target = target.strip()
    try:
        absolute = urljoin(address, target).replace(" ", "%20") if address else target
        scheme = urlsplit(absolute).scheme
    except ValueError:
        return ""
    return absolute if f"{scheme}:" in schemes or (not scheme and not address) else ""
