"""Addresses as they stand in a text: absolute, of the web, and the real one of pictures that are loaded late."""

import re
from collections.abc import Iterator
from urllib.parse import urljoin, urlsplit

from wily_magpie.core.pages.tree import Element

LINKS = ("http", "https", "mailto", "tel", "ftp", "magpie")
DANGEROUS = ("javascript", "vbscript", "data", "file", "blob")
PICTURES = ("http", "https", "mid")
"""Also those that an e-mail brought along (RFC 2392)."""
LATE = ("data-src", "data-original", "data-lazy-src", "data-url", "data-hi-res-src")
PLAIN = re.compile(r"https?://[a-z0-9.-]+/[^\s?#;\\\x00-\x1f]*(?:\?[^\s?#;\\\x00-\x1f]+)?", re.ASCII)
"""Whole addresses without what `urljoin` tidies up."""
CANDIDATE = re.compile(r"(\S+)(?:\s+([\d.]+)[wx])?\s*(?:,|$)")


def settled(address: str, target: str, schemes: tuple[str, ...]) -> str:
    """An address as it is to stand in a text; "" where it must not.

    Args:
        address: the page's own; where it is not known ("") relative targets stay as they are.
    """
    target = target.strip()
    if PLAIN.fullmatch(target) and "http" in schemes:
        return target  # most are: nothing of them would change
    try:
        absolute = urljoin(address, target) if address else target
        scheme = urlsplit(absolute).scheme
    except ValueError:
        return ""
    if address:
        return absolute if scheme in schemes else ""
    return absolute if scheme not in DANGEROUS else ""


def picture_of(image: Element, address: str) -> str:
    """The address of a picture, "" for none: what is loaded late, else its source, else the largest of its set."""
    for candidate in candidates(image):
        if candidate and not candidate.strip().startswith("data:"):
            target = settled(address, candidate, PICTURES)
            if target:
                return target
    return ""


def candidates(image: Element) -> Iterator[str | None]:
    """What may be the address of a picture."""
    for name in (*LATE, "src"):
        yield image.get(name)
    sets = [image.get("data-srcset"), image.get("srcset")]
    for picture in image.iterancestors("picture"):
        sets += [source.get("srcset") or source.get("data-srcset") for source in picture.iter("source")]
    for text in sets:
        yield largest(text) if text else None


def largest(srcset: str) -> str:
    """The candidate of the greatest width or density."""
    found = [
        (float(size or 1), source) for source, size in CANDIDATE.findall(srcset) if re.fullmatch(r"[\d.]*", size or "")
    ]
    return max(found)[1] if found else ""
