"""All findings of a page, each name's in order of trust: structured data, citation and meta tags, text, address."""

import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import urljoin, urlsplit

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.date import DATE
from wily_magpie.core.fields.people import PEOPLE, family_first
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.findings import jsonld, microdata
from wily_magpie.core.pages.page import Finding
from wily_magpie.core.pages.tree import Element, squash, text_of

STRUCTURED, CITATION, META, VISIBLE, ADDRESS = (
    "structured data",
    "citation tag",
    "meta tag",
    "visible text",
    "address",
)
KINDS = {
    "article": "Article NewsArticle BlogPosting Report OpinionNewsArticle TechArticle AdvertiserContentArticle ReviewNewsArticle"
    " AnalysisNewsArticle ReportageNewsArticle LiveBlogPosting Review",
    "video": "VideoObject Movie TVEpisode Clip",
    "discussion": "DiscussionForumPosting Conversation SocialMediaPosting",
    "question": "QAPage Question",
    "product": "Product Book ProductGroup IndividualProduct Offer Vehicle SoftwareApplication",
    "event": "Event BusinessEvent ExhibitionEvent Festival MusicEvent EducationEvent SocialEvent TheaterEvent",
    "podcast episode": "PodcastEpisode RadioEpisode",
    "recipe": "Recipe",
    "data set": "Dataset",
    "object": "VisualArtwork Sculpture Painting Photograph Map ArchiveComponent Thing",
    "paper": "ScholarlyArticle MedicalScholarlyArticle Thesis",
    "reference work": "DefinedTerm",
    "listing": "CollectionPage ItemList SearchResultsPage",
}
KIND_OF = {kind: ours for ours, kinds in KINDS.items() for kind in kinds.split()}
OG_KINDS = {"article": "article", "book": "product", "product": "product", "video": "video", "event": "event"}
SEPARATORS = r"\s+[|–—·•:»«/\\~-]+\s+|\s*[|»·•]\s*|:\s+"
NOT_NAMES = re.compile(
    r"^(admin|administrator|editor|staff|webmaster|user|guest|author|unknown|null|none|by|n/a)$", re.I
)
LISTED = re.compile(r";|\w \w+,? (and|&) \w+ \w|,.*,")
"""Several people in one declared name: semicolons, two full names joined, or two commas."""
BYLINE_CLASS = re.compile(r"(^|[\s_-])(byline|by-line|author|authors|p-author|writer)([\s_-]|$)", re.IGNORECASE)
DATE_CLASS = re.compile(
    r"(^|[\s_-])(date|published|pubdate|dateline|timestamp|entry-date|post-date)([\s_-]|$)", re.IGNORECASE
)


@dataclass
class Sources:
    """What the rules read: the parsed page and its declared data."""

    root: Element
    address: str
    items: list[tuple[dict[str, Any], str]]
    meta: dict[str, list[str]]
    base: str = ""
    found: list[Finding] = field(default_factory=list)

    def add(self, name: str, value: object, origin: str) -> None:
        """A finding, unless it is blank or found from the same origin already."""
        text = squash(str(value)) if isinstance(value, str | int | float) and not isinstance(value, bool) else ""
        finding = Finding(name, text, origin)
        if text and finding not in self.found:
            self.found.append(finding)

    def from_meta(self, name: str, keys: str, origin: str = META) -> None:
        """The contents of meta tags, by their names in order."""
        for key in keys.split():
            for value in self.meta.get(key, []):
                self.add(name, value, f"{origin} {key}")

    def address_of(self, value: str) -> str:
        """An absolute address of the web, or ""."""
        try:
            absolute = urljoin(self.base, value.strip())
        except ValueError:
            return ""
        return absolute if absolute.startswith(("http://", "https://")) else ""


def gather(root: Element, address: str) -> tuple[tuple[Finding, ...], dict[str, Any]]:
    """The findings of a page, and its raw data for templates."""
    base_tag = root.find(".//base[@href]")
    base = address
    if base_tag is not None:
        try:
            base = urljoin(address, base_tag.get("href") or "")
        except ValueError:
            base = address
    from_jsonld, from_microdata = jsonld.items(root), microdata.items(root, base)
    items = [(item, STRUCTURED) for item in from_jsonld] + [
        (item, f"{STRUCTURED} (microdata)") for item in from_microdata
    ]
    sources = Sources(root, address, items, meta_tags(root), base)
    for rule in RULES:
        rule(sources)
    data = {"jsonld": from_jsonld, "microdata": from_microdata, "meta": {k: v[0] for k, v in sources.meta.items()}}
    return tuple(sources.found), data


def meta_tags(root: Element) -> dict[str, list[str]]:
    """Contents of meta tags by name or property, in lower case."""
    out: dict[str, list[str]] = {}
    for tag in root.iter("meta"):
        key = squash(tag.get("property") or tag.get("name") or tag.get("http-equiv")).casefold()
        content = squash(tag.get("content"))
        if key and content:
            out.setdefault(key, []).append(content)
    return out


def types_of(item: dict[str, Any]) -> list[str]:
    """The types of an item without their addresses."""
    kinds = item.get("@type")
    return [str(kind).rsplit("/", 1)[-1] for kind in (kinds if isinstance(kinds, list) else [kinds]) if kind]


def texts(value: object, key: str = "name") -> Iterator[str]:
    """The texts in a value of structured data: texts themselves, and the names of things."""
    if isinstance(value, str | int | float) and not isinstance(value, bool):
        yield str(value)
    elif isinstance(value, list):
        for one in value:
            yield from texts(one, key)
    elif isinstance(value, dict):
        yield from texts(value.get(key) or value.get("@value") or value.get("url"), key)


def main_items(sources: Sources) -> list[tuple[dict[str, Any], str]]:
    """Items of which the page is about, by their types; things that stand within another one come last."""
    return [(item, origin) for item, origin in sources.items if any(kind in KIND_OF for kind in types_of(item))]


def from_items(sources: Sources, name: str, properties: str, key: str = "name") -> None:
    """A property of the main items."""
    for item, origin in main_items(sources)[:8]:
        for one in properties.split():
            for text in texts(item.get(one), key):
                sources.add(name, text, f"{origin} {types_of(item)[0]}.{one}")


def titles(sources: Sources) -> None:
    """A heading that stands in the page's own title, else declared titles without the site's name."""
    tag = sources.root.find(".//title")
    page_title = squash(tag.text_content()) if tag is not None else ""
    sites = [finding.value for finding in sources.found if finding.name == "site"]
    og = (sources.meta.get("og:title") or [""])[0]
    headings = [text_of(h) for h in sources.root.iter("h1")] + [text_of(h) for h in sources.root.iter("h2")][:3]
    known = f"{page_title} {og}".casefold()
    for heading in headings:
        says_more = len(page_title) > 3 and heading.casefold().startswith(page_title.casefold())
        if (
            len(heading) > 3
            and (says_more or heading.casefold() in known)
            and heading.casefold() not in {s.casefold() for s in sites}
        ):
            sources.add("title", heading, f"{VISIBLE} (heading)")
            break
    sources.from_meta("title", "citation_title dc.title dcterms.title", CITATION)
    from_items(sources, "title", "headline name")
    for value in sources.meta.get("og:title", []):
        sources.add("title", without_site(value, sites), f"{META} og:title")
    sources.from_meta("title", "twitter:title")
    sources.add("title", without_site(page_title, sites), "page title")
    for heading in headings[:1]:
        sources.add("title", heading, f"{VISIBLE} (heading)")


def without_site(title: str, sites: Iterable[str]) -> str:
    """A declared title without the name of its site at either end."""
    for site in sites:
        for pattern in (rf"(?:{SEPARATORS}){re.escape(site)}\s*$", rf"^\s*{re.escape(site)}(?:{SEPARATORS})"):
            shorter = re.sub(pattern, "", title, flags=re.IGNORECASE).strip()
            if shorter and shorter != title:
                return shorter
    return title


def authors(sources: Sources) -> None:
    """People as "Family, Given"; what is plainly no name is left out."""
    candidates: list[tuple[str, str]] = []
    candidates += [
        (v, f"{CITATION} {k}")
        for k in ("citation_author", "dc.creator", "dcterms.creator")
        for v in sources.meta.get(k, [])
    ]
    for item, origin in main_items(sources)[:8]:
        for one in ("author", "creator", "byArtist"):
            candidates += [(text, f"{origin} {types_of(item)[0]}.{one}") for text in texts(item.get(one))]
    for key in ("author", "article:author", "parsely-author", "sailthru.author", "byl"):
        candidates += [(value, f"{META} {key}") for value in sources.meta.get(key, [])]
    candidates += [(text_of(tag), f"{VISIBLE} (rel author)") for tag in sources.root.xpath("//a[@rel='author']")[:4]]
    for tag in sources.root.iter("span", "p", "div", "a", "address", "li"):
        if BYLINE_CLASS.search(tag.get("class") or ""):
            text = text_of(tag)
            if 3 < len(text) < 90:
                candidates.append((text, f"{VISIBLE} (byline)"))
                break
    for text, origin in candidates:
        declared = origin.startswith((STRUCTURED, CITATION))
        for name in read_people(text, is_one=declared and not LISTED.search(text)):
            sources.add("author", name, origin)


def read_people(text: str, *, is_one: bool = False) -> tuple[str, ...]:
    """The names in a byline; none where it does not look like names. is_one: a single name, "and" is part of it."""
    text = re.sub(
        r"^\s*((written|posted|published|story|words|text|report)\s+)?(by|von|par|por|door)\b[:\s]+",
        "",
        squash(text),
        flags=re.I,
    )
    text = re.sub(r"\s*[|•·–—]\s.*$|\s+on \d.*$|,?\s+\d{1,2}\s\w+\s\d{4}.*$", "", text)
    if "://" in text or "@" in text or len(text) > 200:
        return ()
    value = (family_first(text),) if is_one and text else PEOPLE.read(text)
    names = value if isinstance(value, tuple) else ()
    return tuple(
        name for name in names if len(name) < 70 and not NOT_NAMES.match(name) and re.search(r"[^\W\d_]", name)
    )


def dates(sources: Sources) -> None:
    """When it came out and when it was changed; declared ones only, and what the page shows as its date."""
    for name, properties, keys in (
        (
            "published",
            "datePublished uploadDate dateCreated",
            "citation_publication_date citation_date citation_online_date dc.date dcterms.issued dc.date.issued"
            " article:published_time og:article:published_time og:published_time parsely-pub-date date pubdate datepublished"
            " sailthru.date dcterms.created",
        ),
        ("modified", "dateModified", "article:modified_time og:updated_time dcterms.modified last-modified"),
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
            found += visible_dates(sources.root)
            within = re.search(r"/((?:19|20)\d\d)/(\d\d)(?:/(\d\d))?/", urlsplit(sources.address).path)
            if within and within[3]:
                found.append(("-".join(within.groups()), ADDRESS))
        for text, origin in found:
            iso = read_date(text)
            if iso:
                sources.add(name, iso, origin)


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


def languages(sources: Sources) -> None:
    """BCP 47 codes."""
    for tag in sources.root.xpath("/html[@lang] | /html[@*[local-name() = 'lang']]")[:1]:
        code = tag.get("lang") or tag.get("xml:lang") or tag.get("{http://www.w3.org/XML/1998/namespace}lang") or ""
        sources.add("language", code.replace("_", "-"), "page language")
    for key in ("og:locale", "citation_language", "dc.language", "content-language"):
        for value in sources.meta.get(key, []):
            sources.add("language", value.split(",")[0].replace("_", "-"), f"{META} {key}")
    from_items(sources, "language", "inLanguage")


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


def kinds(sources: Sources) -> None:
    """The kind of page, by its declared types."""
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


def facts(sources: Sources) -> None:
    """Price, duration and what identifies a work."""
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
    from_items(sources, "duration", "duration")
    from_items(sources, "isbn", "isbn")
    sources.from_meta("doi", "citation_doi", CITATION)
    sources.from_meta("journal", "citation_journal_title", CITATION)


def canonicals(sources: Sources) -> None:
    """The address under which the page wants to be known."""
    for tag in sources.root.xpath("//link[translate(@rel, 'CANONIL', 'canonil')='canonical'][@href]")[:1]:
        sources.add("canonical", sources.address_of(tag.get("href") or ""), "link canonical")
    for value in sources.meta.get("og:url", []):
        sources.add("canonical", sources.address_of(value), f"{META} og:url")


RULES: tuple[Callable[[Sources], None], ...] = (
    sites, kinds, titles, authors, dates, descriptions, languages, pictures, keywords, facts, canonicals,
)  # fmt: skip
