"""What identifies a work, and what can be measured of it: identifiers, price, times, place, licence, section."""

import re

from wily_magpie.core.pages.findings.sources import (
    CITATION,
    META,
    Sources,
    from_items,
    main_items,
    texts,
    types_of,
)

DOI = re.compile(r"10\.\d{4,9}/[^\s\"<>]+")
ISBN = re.compile(r"(?:97[89][ -]?)?\d{1,5}[ -]?\d{1,7}[ -]?\d{1,7}[ -]?[\dXx]")
ISSN = re.compile(r"\d{4}-\d{3}[\dXx]")


def facts(sources: Sources) -> None:
    """Adds them all."""
    prices(sources)
    identifiers(sources)
    works(sources)
    from_items(sources, "duration", "duration timeRequired")
    sources.from_meta("duration", "video:duration og:video:duration")
    from_items(sources, "start", "startDate")
    from_items(sources, "end", "endDate")
    from_items(sources, "place", "location contentLocation locationCreated")
    from_items(sources, "rating", "aggregateRating reviewRating", "ratingValue")
    from_items(sources, "section", "articleSection")
    sources.from_meta("section", "article:section")
    from_items(sources, "license", "license", "url")
    from_items(sources, "recipient", "toRecipient")
    from_items(sources, "attachment", "messageAttachment")
    for tag in sources.root.xpath("//*[@rel='license'][@href]")[:1]:
        sources.add("license", sources.address_of(tag.get("href") or ""), "link license")
    sources.from_meta("license", "dc.rights dcterms.license dc.rights.license", CITATION)
    for tag in sources.root.xpath("//link[contains(concat(' ', @rel, ' '), ' icon ')][@href]")[:2]:
        sources.add("icon", sources.address_of(tag.get("href") or ""), "link icon")


def prices(sources: Sources) -> None:
    """The price of what is offered, and its currency (ISO 4217)."""
    for item, origin in main_items(sources)[:8]:
        offers = item.get("offers")
        for offer in offers if isinstance(offers, list) else [offers]:
            if isinstance(offer, dict):
                for price in texts(offer.get("price") or offer.get("lowPrice")):
                    sources.add("price", price, f"{origin} {types_of(item)[0]}.offers.price")
                for unit in texts(offer.get("priceCurrency")):
                    sources.add("currency", unit, f"{origin} {types_of(item)[0]}.offers.priceCurrency")
    sources.from_meta("price", "product:price:amount og:price:amount")
    sources.from_meta("currency", "product:price:currency og:price:currency")


def identifiers(sources: Sources) -> None:
    """DOI, ISBN, ISSN and arXiv id, in their own form and only where they have it."""
    for name, keys, form in (
        ("doi", "citation_doi dc.identifier.doi prism.doi bepress_citation_doi dc.identifier", DOI),
        ("isbn", "citation_isbn book:isbn books:isbn og:isbn", ISBN),
        ("issn", "citation_issn prism.issn dc.source.issn", ISSN),
    ):
        for key in keys.split():
            for value in sources.meta.get(key, []):
                found = form.search(value)
                if found:
                    sources.add(
                        name, found[0].rstrip(".,;"), f"{CITATION if 'cit' in key or 'dc' in key else META} {key}"
                    )
    for item, origin in main_items(sources)[:8]:
        kind = types_of(item)[0]
        for name, properties, form in (
            ("isbn", ("isbn",), ISBN),
            ("doi", ("identifier", "sameAs", "@id"), DOI),
            ("issn", ("issn",), ISSN),
        ):
            for one in properties:
                for text in texts(item.get(one), "value"):
                    found = form.fullmatch(text.strip()) if name == "isbn" else form.search(text)
                    if found:
                        sources.add(name, found[0], f"{origin} {kind}.{one}")
    sources.from_meta("arxiv", "citation_arxiv_id", CITATION)


def works(sources: Sources) -> None:
    """Where a paper came out, its subtitle and its publisher."""
    sources.from_meta("journal", "citation_journal_title prism.publicationname", CITATION)
    sources.from_meta("volume", "citation_volume prism.volume", CITATION)
    sources.from_meta("issue", "citation_issue prism.number", CITATION)
    first = next(iter(sources.meta.get("citation_firstpage", [])), "")
    last = next(iter(sources.meta.get("citation_lastpage", [])), "")
    sources.add(
        "pages", f"{first}–{last}" if first and last and first != last else first, f"{CITATION} citation_firstpage"
    )
    from_items(sources, "subtitle", "alternativeHeadline")
    from_items(sources, "publisher", "publisher")
    sources.from_meta("publisher", "citation_publisher dc.publisher", CITATION)
