"""Pictures: the lead picture, and all that a page shows with their sizes and captions."""

import re
from itertools import islice

from wily_magpie.core.pages.findings.sources import META, VISIBLE, Sources, main_items, texts
from wily_magpie.core.pages.markdown.addresses import picture_of
from wily_magpie.core.pages.page import Picture
from wily_magpie.core.pages.structured import types_of
from wily_magpie.core.pages.tree import Element, named, squash, text_of

LEAST_SIDE_PX = 32
"""Smaller pictures are marks: arrows, flags, counters of readers."""
MOST_PICTURES = 500
LONGEST_CAPTION = 600
CAPTION_NAME = named(r"caption|legend|bildunterschrift|legende")


def pictures(sources: Sources) -> None:
    """The lead picture first, then others of the main content, absolute."""
    found = [
        (value, f"{META} {key}")
        for key in ("og:image", "og:image:url", "twitter:image")
        for value in sources.meta.get(key, [])[:2]
    ]
    for item, origin in main_items(sources)[:4]:
        for one in ("image", "thumbnailUrl"):
            found += [(text, f"{origin} {types_of(item)[0]}.{one}") for text in list(texts(item.get(one), "url"))[:2]]
    for scope in ("//article//img[@src]", "//main//img[@src]"):
        found += [(tag.get("src") or "", f"{VISIBLE} (picture)") for tag in sources.root.xpath(scope)[:1]]
    for address, origin in found:
        sources.add("image", sources.address_of(address), origin)


def all_pictures(root: Element, base: str) -> tuple[Picture, ...]:
    """All pictures in the order of the page, each address once, without those that are only marks."""
    out: dict[str, Picture] = {}
    for image in root.iter("img"):
        address = picture_of(image, base)
        width, height = side(image, "width"), side(image, "height")
        is_mark = 0 < width < LEAST_SIDE_PX or 0 < height < LEAST_SIDE_PX
        if address.startswith(("http", "mid:")) and not is_mark and address not in out and len(out) < MOST_PICTURES:
            path = str(image.getroottree().getpath(image))
            out[address] = Picture(address, width, height, caption_of(image), squash(image.get("alt")), path)
    return tuple(out.values())


def side(image: Element, name: str) -> int:
    """A width or height in pixels as the page tells it, 0 where it does not."""
    found = re.fullmatch(r"\s*(\d{1,5})(?:\.\d+)?(?:px)?\s*", image.get(name) or "")
    told = found or re.search(rf"(?:^|;)\s*{name}:\s*(\d{{1,5}})px", image.get("style") or "")
    return int(told[1]) if told else 0


def caption_of(image: Element) -> str:
    """What stands under a picture: the caption of its figure, or the element that is named so beside it."""
    for up in image.iterancestors():
        if up.tag == "figure":
            return next((text_of(one)[:LONGEST_CAPTION] for one in up.iter("figcaption")), "")
        if up.tag in ("body", "article", "main") or len(list(islice(up.iter("img"), 2))) > 1:
            return ""
        for one in up.iterdescendants("p", "div", "span", "dd", "small", "em"):
            if CAPTION_NAME.search(one.get("class") or ""):
                return text_of(one)[:LONGEST_CAPTION]
    return ""
