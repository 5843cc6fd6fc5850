"""What identifies a work, and what can be measured of it: identifiers, times, place, licence, section, files."""

import re
from itertools import islice, takewhile

from wily_magpie.core.pages.boilerplate import is_mostly_link, names_of
from wily_magpie.core.pages.findings.sources import (
    CITATION,
    META,
    VISIBLE,
    Sources,
    from_items,
    main_items,
    texts,
)
from wily_magpie.core.pages.structured import types_of
from wily_magpie.core.pages.tree import named, text_of

DOI = re.compile(r"10\.\d{4,9}/[^\s\"<>]+")
ISBN = re.compile(r"(?:97[89][ -]?)?\d{1,5}[ -]?\d{1,7}[ -]?\d{1,7}[ -]?[\dXx]")
ARXIV = re.compile(r"\barxiv(?:\.org/abs/|:)\s*([a-z-]+/\d{7}|\d{4}\.\d{4,5})", re.IGNORECASE)
SUBTITLE = named(r"sub-?title|subheading|sub-?headline|standfirst|dek|untertitel|bajada")
ABSTRACT = re.compile(
    r"\W*(abstract|summary|zusammenfassung|kurzfassung|résumé|resumen|resumo|riassunto|samenvatting)\W*", re.IGNORECASE
)
DATA_FILE = re.compile(
    r"\.(csv|tsv|xlsx?|ods|json|geojson|xml|zip|gz|7z|nc|h5|hdf5?|parquet|feather|sqlite|shp|tiff?)(\?|#|$)",
    re.IGNORECASE,
)
HEADINGS = ("h1", "h2", "h3", "h4", "h5", "h6")
ISSN = re.compile(r"\d{4}-\d{3}[\dXx]")


def facts(sources: Sources) -> None:
    """Adds them all."""
    identifiers(sources)
    arxiv(sources)
    works(sources)
    abstracts(sources)
    files(sources)
    from_items(sources, "duration", "duration timeRequired")
    sources.from_meta("duration", "video:duration og:video:duration")
    from_items(sources, "start", "startDate")
    from_items(sources, "end", "endDate")
    from_items(sources, "place", "location contentLocation locationCreated")
    from_items(sources, "section", "articleSection")
    sources.from_meta("section", "article:section")
    from_items(sources, "license", "license", "url")
    from_items(sources, "recipient", "toRecipient")
    from_items(sources, "attachment", "messageAttachment")
    for tag in islice(sources.linked("license", "a", "area", "link"), 1):
        sources.add("license", sources.address_of(tag.get("href") or ""), "link license")
    sources.from_meta("license", "dc.rights dcterms.license dc.rights.license", CITATION)
    for tag in islice(sources.linked("icon", "link"), 2):
        sources.add("icon", sources.address_of(tag.get("href") or ""), "link icon")


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


def arxiv(sources: Sources) -> None:
    """The id in the arXiv."""
    sources.from_meta("arxiv", "citation_arxiv_id", CITATION)
    for key in ("dc.identifier", "citation_id"):
        for value in sources.meta.get(key, []):
            found = ARXIV.search(value)
            sources.add("arxiv", found[1] if found else "", f"{CITATION} {key}")
    for item, origin in main_items(sources)[:8]:
        for one in ("identifier", "sameAs", "@id"):
            for text in texts(item.get(one), "value"):
                found = ARXIV.search(text)
                sources.add("arxiv", found[1] if found else "", f"{origin} {types_of(item)[0]}.{one}")


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
    for heading in islice(sources.root.iter("h1"), 1):
        for one in islice(heading.itersiblings("h2", "h3", "p", "div", "span"), 3):
            if SUBTITLE.search(names_of(one)) and len(text_of(one)) < 400:
                sources.add("subtitle", text_of(one), f"{VISIBLE} (beside the heading)", one)
    from_items(sources, "publisher", "publisher")
    sources.from_meta("publisher", "citation_publisher dc.publisher", CITATION)


def abstracts(sources: Sources) -> None:
    """The abstract of a paper: declared, else the paragraphs under the heading that says so."""
    sources.from_meta("abstract", "citation_abstract dcterms.abstract", CITATION)
    from_items(sources, "abstract", "abstract")
    for heading in sources.root.iter("h1", "h2", "h3", "h4", "strong"):
        if ABSTRACT.fullmatch(text_of(heading)):
            start = heading.getparent() if heading.tag == "strong" else heading
            following = takewhile(lambda one: one.tag not in HEADINGS, start.itersiblings())
            texts_there = [
                text_of(one) for one in following if one.tag in ("p", "div", "section") and not is_mostly_link(one)
            ]
            sources.add("abstract", " ".join(filter(None, texts_there[:6])), f"{VISIBLE} (abstract)", heading)
            return


def files(sources: Sources) -> None:
    """The files of a data set or a paper, with their types and sizes in `about`."""
    for item, origin in sources.items:
        for name in ("distribution", "encoding"):
            value = item.get(name)
            for one in value if isinstance(value, list) else [value]:
                if isinstance(one, dict):
                    address = sources.address_of(str(one.get("contentUrl") or one.get("url") or ""))
                    told = [str(one[key]) for key in ("encodingFormat", "contentSize") if one.get(key)]
                    sources.add("file", address, f"{origin} {types_of(item)[0]}.{name}")
                    sources.about.setdefault(address, ", ".join(told))
    for value in sources.meta.get("citation_pdf_url", []):
        sources.add("file", sources.address_of(value), f"{CITATION} citation_pdf_url")
    if sources.best("kind") == "data set":
        for link in sources.root.xpath("//a[@href]"):
            if DATA_FILE.search(link.get("href")):
                sources.add("file", sources.address_of(link.get("href")), f"{VISIBLE} (link)", link)
