"""The kind of page: by its declared types, else by what it has that only pages of a kind have."""

import re

from wily_magpie.core.pages.findings.sources import CITATION, KIND_OF, META, Sources
from wily_magpie.core.pages.page import Content, Finding
from wily_magpie.core.pages.structured import types_of

OG_KINDS = {"article": "article", "book": "product", "product": "product", "video": "video", "event": "event"}
DERIVED = "derived from"
LINK = re.compile(r"(?<![!\\])\[[^\]]{1,300}\]\(")
LINK_OR_PICTURE = re.compile(r"(?<!\\)!?\[[^\]]{0,300}\]\([^)]{0,2000}\)")
"""As our own Markdown has them; bounded, since a text of nothing but brackets would be looked through again from each."""
WIKI = re.compile(r"wiki", re.IGNORECASE)
LEAST_ARTICLE = 600
"""Characters of text from which a page with a date or an author is an article."""
LEAST_LINKS, MOST_OTHER = 8, 0.35
"""Paragraphs of a listing that lead elsewhere; the share of letters that may not."""


def kinds(sources: Sources) -> None:
    """Adds the declared types and the kinds that they stand for."""
    for item, origin in sources.items:
        for kind in types_of(item):
            if kind in KIND_OF:
                sources.add("kind", KIND_OF[kind], f"{origin} {kind}")
                sources.add("type", kind, origin)
    if "citation_title" in sources.meta:
        sources.found.insert(0, Finding("kind", "paper", f"{CITATION} citation_title"))
    for value in sources.meta.get("og:type", []):
        ours = OG_KINDS.get(value.split(".")[0].split(":")[-1].casefold())
        if ours:
            sources.add("kind", ours, f"{META} og:type")


def kinds_by_parts(sources: Sources) -> None:
    """For a page that declares no kind: by its player, its price, the program that made it."""
    if sources.best("kind"):
        return
    if sources.best("price"):
        sources.add("kind", "product", f"{DERIVED} its price")
    elif any(WIKI.search(value) for value in sources.meta.get("generator", [])):
        sources.add("kind", "reference work", f"{META} generator")
    elif any(key in sources.meta for key in ("og:video", "og:video:url", "og:video:secure_url")):
        sources.add("kind", "video", f"{DERIVED} its player")
    elif "og:audio" in sources.meta:
        sources.add("kind", "podcast episode", f"{DERIVED} its player")


def kind_by_text(sources: Sources, content: Content) -> None:
    """For a page whose kind nothing else has told: by its text."""
    if sources.best("kind"):
        return
    kept = [block for block in content.blocks if block.is_kept and block.kind in ("paragraph", "list", "heading")]
    plain = sum(len(LINK_OR_PICTURE.sub("", block.markdown)) for block in kept)
    links = sum(len(LINK.findall(block.markdown)) for block in kept)
    if links >= LEAST_LINKS and plain < MOST_OTHER * sum(len(block.text) for block in kept):
        sources.add("kind", "listing", f"{DERIVED} its links")
    elif len(content.text) >= LEAST_ARTICLE and (sources.best("published") or sources.best("author")):
        sources.add("kind", "article", f"{DERIVED} its text with a date or an author")
