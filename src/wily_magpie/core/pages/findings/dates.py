"""Dates of publication and change: declared ones, then what the page shows as its date; none rather than a guess."""

import copy
import re
from collections.abc import Iterator
from contextlib import suppress
from urllib.parse import urlsplit

import htmldate

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.date import DATE
from wily_magpie.core.pages.findings.sources import (
    ADDRESS,
    CITATION,
    META,
    VISIBLE,
    Sources,
    main_items,
    texts,
    types_of,
)
from wily_magpie.core.pages.tree import Element, squash, text_of

DATE_CLASS = re.compile(
    r"(^|[\s_-])(date|published|pubdate|dateline|timestamp|entry-date|post-date)([\s_-]|$)", re.IGNORECASE
)
IN_ADDRESS = re.compile(r"/((?:19|20)\d\d)[/-]?([01]?\d)[/-]([0-3]?\d)(?=[/_-])")
PUBLISHED = (
    "citation_publication_date citation_date citation_online_date dc.date dcterms.issued dc.date.issued"
    " article:published_time og:article:published_time og:published_time parsely-pub-date date pubdate datepublished"
    " sailthru.date dcterms.created"
)
MODIFIED = "article:modified_time og:updated_time dcterms.modified last-modified"
LARGEST_SEARCHED = 2_000_000
"""Characters of text beyond which a page is not searched for a date that it does not declare."""


def dates(sources: Sources) -> None:
    """Adds when it came out and when it was changed."""
    for name, properties, keys in (
        ("published", "datePublished uploadDate dateCreated", PUBLISHED),
        ("modified", "dateModified", MODIFIED),
    ):
        found: list[tuple[str, str]] = []
        for item, origin in main_items(sources)[:8]:
            found += [
                (t, f"{origin} {types_of(item)[0]}.{one}") for one in properties.split() for t in texts(item.get(one))
            ]
        found += [
            (v, f"{CITATION if 'cit' in k or 'dc' in k else META} {k}")
            for k in keys.split()
            for v in sources.meta.get(k, [])
        ]
        if name == "published":
            found += address_dates(sources.address)
            found += searched_dates(sources)
            found += visible_dates(sources.root)
        for text, origin in found:
            iso = read_date(text)
            if iso:
                sources.add(name, iso, origin)


def address_dates(address: str) -> Iterator[tuple[str, str]]:
    """A whole date in the path, as /2017/7/12/ or /201711/17/."""
    found = IN_ADDRESS.search(urlsplit(address).path)
    if found:
        yield f"{found[1]}-{int(found[2]):02}-{int(found[3]):02}", ADDRESS


def searched_dates(sources: Sources) -> Iterator[tuple[str, str]]:
    """What htmldate finds in elements that say they hold a date; its search through the whole text makes dates up."""
    if sum(len(text) for text in sources.root.itertext()) > LARGEST_SEARCHED:
        return
    with suppress(Exception):  # a library's fault on a broken page is one voice less
        found = htmldate.find_date(copy.deepcopy(sources.root), extensive_search=False, original_date=True)
        if found:
            yield str(found), f"{VISIBLE} (date)"


def visible_dates(root: Element) -> Iterator[tuple[str, str]]:
    """Dates that the page shows as its own: in time elements that say so, and beside the heading."""
    for tag in root.xpath("//time[@datetime]")[:3]:
        inside_aside = any(up.tag in ("aside", "nav", "footer") for up in tag.iterancestors())
        if not inside_aside:
            yield tag.get("datetime") or "", f"{VISIBLE} (time)"
    for tag in root.iter("span", "p", "div", "time", "li"):
        if DATE_CLASS.search(tag.get("class") or "") and len(text_of(tag)) < 60:
            yield re.sub(r"^\w+:\s*|^\w+day,?\s+", "", text_of(tag)), f"{VISIBLE} (date)"
            break


def read_date(text: str) -> str:
    """A date as ISO 8601, or "" where it is none."""
    text = squash(text).replace("/", "-") if re.fullmatch(r"\d{4}/\d\d(/\d\d)?", squash(text)) else squash(text)
    text = re.sub(r"(T\d\d:\d\d)(\d\d)?$", r"\1", text)
    try:
        value = DATE.read(text[:40])
    except UnreadableValue:
        early = re.match(r"\d{4}-\d\d-\d\d", text)
        value = early[0] if early and DATE.read(early[0]) else None
    return value if isinstance(value, str) and "1000" < value < "2200" else ""
