"""A part of a page as Markdown (CommonMark, GFM), with absolute addresses."""

import copy
import re
from urllib.parse import urljoin

import html_to_markdown
import lxml.html

from wily_magpie.core.pages.tree import Element

OPTIONS = html_to_markdown.ConversionOptions(
    heading_style="atx", bullets="-", code_block_style="backticks", escape_misc=False, extract_metadata=False
)
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
    """Makes links and pictures absolute; what leads to no page of the web loses its link."""
    for image in part.iter("img"):
        source = next((image.get(name) for name in LAZY if image.get(name)), image.get("src"))
        absolute = join(address, source or "")
        if absolute.startswith(("http:", "https:")):
            image.set("src", absolute)
        else:
            image.attrib.pop("src", None)
    for image in list(part.iter("img")):
        if not image.get("src"):
            image.drop_tree()
    for link in list(part.iter("a")):
        href = (link.get("href") or "").strip()
        absolute = join(address, href) if href and not href.startswith("#") else ""
        if absolute.casefold().startswith(SAFE_SCHEMES):
            link.set("href", absolute)
        elif link.getparent() is not None:
            link.drop_tag()


def join(address: str, target: str) -> str:
    """An absolute address; "" where it cannot be made."""
    try:
        return urljoin(address, target.strip())
    except ValueError:
        return ""
