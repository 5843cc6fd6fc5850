"""All findings of a page, each name's in order of trust: structured data, citation and meta tags, text, address."""

import re
from collections.abc import Callable
from itertools import islice
from urllib.parse import urljoin

from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.budget import Budget
from wily_magpie.core.pages.findings import jsonld, microdata
from wily_magpie.core.pages.findings.bylines import authors
from wily_magpie.core.pages.findings.dates import dates
from wily_magpie.core.pages.findings.facts import facts
from wily_magpie.core.pages.findings.kinds import kinds, kinds_by_parts
from wily_magpie.core.pages.findings.labelled import labelled, labelled_authors
from wily_magpie.core.pages.findings.media import media
from wily_magpie.core.pages.findings.offers import offers
from wily_magpie.core.pages.findings.pictures import pictures
from wily_magpie.core.pages.findings.sources import (
    ADDRESS,
    CITATION,
    META,
    STRUCTURED,
    Sources,
    from_items,
    main_items,
    meta_tags,
    texts,
)
from wily_magpie.core.pages.findings.titles import titles
from wily_magpie.core.pages.structured import types_of
from wily_magpie.core.pages.tree import Element


def gather(root: Element, address: str, budget: Budget) -> Sources:
    """What a page declares and shows, with the findings of all rules."""
    base_tag = root.find(".//base[@href]")
    base = address
    if base_tag is not None:
        try:
            base = urljoin(address, base_tag.get("href") or "")
        except ValueError:
            base = address
    items = [(item, STRUCTURED) for item in jsonld.items(root)]
    items += [(item, f"{STRUCTURED} (microdata)") for item in microdata.items(root, base, language_of(root))]
    sources = Sources(root, address, items, meta_tags(root), base)
    budget.within(lambda: apply_all(sources))
    return sources


def apply_all(sources: Sources) -> None:
    """Adds what each rule finds."""
    for rule in RULES:
        rule(sources)


def sites(sources: Sources) -> None:
    """The site's own name."""
    sources.from_meta("site", "og:site_name")
    for item, origin in sources.items:
        kinds = types_of(item)
        if "WebSite" in kinds:
            for text in texts(item.get("name")):
                sources.add("site", text, f"{origin} WebSite.name")
    from_items(sources, "site", "publisher isPartOf provider")
    sources.from_meta("site", "citation_journal_title dc.publisher citation_publisher", CITATION)
    sources.from_meta("site", "application-name al:ios:app_name")
    if sources.address:
        sources.add("site", host_of(sources.address), ADDRESS)


def language_of(root: Element) -> str:
    """The code on the page's root; "" where there is none."""
    names = ("lang", "xml:lang", "{http://www.w3.org/XML/1998/namespace}lang")
    code = next((root.get(name) for name in names if root.get(name)), None) if root.tag == "html" else None
    return (code or "").replace("_", "-")


def languages(sources: Sources) -> None:
    """BCP 47 codes."""
    sources.add("language", language_of(sources.root), "page language")
    for key in ("og:locale", "citation_language", "dc.language", "content-language"):
        for value in sources.meta.get(key, []):
            sources.add("language", value.split(",")[0].replace("_", "-"), f"{META} {key}")
    from_items(sources, "language", "inLanguage")


def descriptions(sources: Sources) -> None:
    """What the page says it is about."""
    sources.from_meta("description", "citation_abstract dc.description dcterms.abstract", CITATION)
    sources.from_meta("description", "og:description description twitter:description")
    from_items(sources, "description", "description abstract")


def keywords(sources: Sources) -> None:
    """Key words, one finding each."""
    for key in ("citation_keywords", "article:tag", "keywords", "news_keywords", "dc.subject"):
        for value in sources.meta.get(key, []):
            for word in re.split(r"[,;]", value)[:20]:
                sources.add("keyword", word.strip(), f"{META} {key}")
    for item, origin in main_items(sources)[:4]:
        for value in texts(item.get("keywords")):
            for word in value.split(",")[:20]:
                sources.add("keyword", word.strip(), f"{origin} {types_of(item)[0]}.keywords")


def canonicals(sources: Sources) -> None:
    """The address under which the page wants to be known."""
    for tag in islice(sources.linked("canonical", "link"), 1):
        sources.add("canonical", sources.address_of(tag.get("href") or ""), "link canonical")
    for value in sources.meta.get("og:url", []):
        sources.add("canonical", sources.address_of(value), f"{META} og:url")


RULES: tuple[Callable[[Sources], None], ...] = (
    languages, sites, kinds, titles, authors, dates, descriptions, pictures, keywords, offers,
    kinds_by_parts, facts, media, canonicals, labelled, labelled_authors,
)  # fmt: skip
