"""Titles: a heading that stands in the page's own title, else declared ones without the name of the site."""

import re
import unicodedata
from collections.abc import Iterable
from itertools import islice

from wily_magpie.core.pages.address import path_of
from wily_magpie.core.pages.findings.sources import CITATION, META, VISIBLE, Sources, from_items
from wily_magpie.core.pages.page import Finding
from wily_magpie.core.pages.tree import Element, squash, text_of

HEADINGS = ("h1", "h2", "h3", "h4")
SEPARATOR = r"(?:\s+[|–—·•:»«/\\~-]+\s+|\s*[|»·•：｜]\s*|:\s+)"
SPLIT = re.compile(r"\s+(?:[|–—·•»«~-]|::)\s+|\s*[|｜»]\s*")
LEAST_SHARE = 0.4
"""How much of the declared title a heading must be: less is the name of the site or of a section."""
LEAST_SPELLED = 0.7
"""The share of a text's and of an address's words that must be the same for the address to spell the text."""
CUT = re.compile(r"\s*(?:…|\.\.\.)\s*$")
LEAST_CUT = 8
UMLAUTS = str.maketrans({"ä": "ae", "ö": "oe", "ü": "ue", "ø": "o", "æ": "ae", "å": "a", "ł": "l", "ı": "i"})
SLUG = re.compile(r"[\w]+(-[\w]+){2,}")


def titles(sources: Sources) -> None:
    """Adds them in order of trust."""
    tag = sources.root.find(".//title")
    page_title = squash(tag.text_content()) if tag is not None else ""
    sites = [finding.value for finding in sources.found if finding.name == "site"]
    shared = next((value for value in sources.meta.get("og:title", []) if not SLUG.fullmatch(value)), "")
    found = [*sources.root.iter("h1"), *islice(sources.root.iter("h2"), 3)]
    headings = [text_of(heading) for heading in found]
    heading = best_heading(headings, without_site(shared, sites) or page_title, sites, sources.address)
    heading = heading or part_heading(sources.root, page_title, sites)
    if heading:
        sources.add("title", heading, f"{VISIBLE} (heading)", found[headings.index(heading)])
    sources.from_meta("title", "citation_title dc.title dcterms.title", CITATION)
    before = len(sources.found)
    from_items(sources, "title", "headline name")
    for number, finding in enumerate(sources.found[before:], before):
        sources.found[number] = type(finding)("title", without_site(finding.value, sites), finding.origin)
    sources.add("title", without_site(shared, sites), f"{META} og:title")
    sources.add("title", without_site(sources.meta.get("twitter:title", [""])[0], sites), f"{META} twitter:title")
    sources.add("title", best_part(without_site(page_title, sites), sources), "page title")
    for value in sources.meta.get("og:title", []):
        sources.add("title", value, f"{META} og:title")
    for one in headings[:1]:
        sources.add("title", one, f"{VISIBLE} (heading)")
    put_whole_first(sources, headings)


def put_whole_first(sources: Sources, headings: list[str]) -> None:
    """Where the best title is cut ("The mill that …"), what begins so and is whole comes before it."""
    best = sources.best("title")
    cut = CUT.sub("", best).casefold()
    if cut == best.casefold() or len(cut) < LEAST_CUT:
        return
    declared = [one for one in sources.found if one.name == "title"]
    shown = [Finding("title", one, f"{VISIBLE} (heading)") for one in headings]
    whole = [one for one in (*declared, *shown) if one.value.casefold().startswith(cut) and not CUT.search(one.value)]
    if whole:
        sources.found.insert(sources.found.index(declared[0]), whole[0])


def best_heading(headings: list[str], declared: str, sites: list[str], address: str = "") -> str:
    """The first heading that is a good part of the declared title or says it with more words; "" if there is none.

    Where none is, one that the address spells is believed.
    """
    known, names = declared.casefold(), {site.casefold() for site in sites}
    for heading in headings:
        folded = heading.casefold()
        is_in = folded in known and len(heading) >= LEAST_SHARE * len(declared)
        says_more = len(known) > 3 and folded.startswith(known)
        if len(heading) > 3 and (is_in or says_more) and folded not in names:
            return heading
    return next((heading for heading in headings if is_spelled(heading, address)), "")


def part_heading(root: Element, page_title: str, sites: list[str]) -> str:
    """A first-level heading that is one of the parts of the page's title, and does not lead to the front page; or ""."""
    parts = {part.casefold() for part in SPLIT.split(page_title)}
    names = {site.casefold() for site in sites}
    for one in root.iter("h1"):
        text = text_of(one).casefold()
        links = [*one.iter("a"), *one.iterancestors("a")]
        is_home = any(path_of(link.get("href") or "/") in ("", "/") for link in links)
        if len(parts) > 1 and text in parts and text not in names and not is_home:
            return text_of(one)
    return ""


def is_spelled(text: str, address: str) -> bool:
    """Whether the last part of an address spells a text: /2019/how-a-mill-works for "How a mill works"."""
    parts = [part for part in path_of(address).split("/") if part and not part.startswith("index.")]
    spelled = set(re.findall(r"[a-z]{3,}", parts[-1].rsplit(".", 1)[0].casefold())) if parts else set()
    words = set(re.findall(r"[a-z]{3,}", plain_letters(text)))
    return len(spelled) > 1 and len(words & spelled) >= max(LEAST_SPELLED * len(words), LEAST_SPELLED * len(spelled))


def plain_letters(text: str) -> str:
    """A text as addresses spell it: lower case, ö as oe, other letters without their marks."""
    folded = text.casefold().translate(UMLAUTS)
    return "".join(char for char in unicodedata.normalize("NFKD", folded) if not unicodedata.combining(char))


def best_part(title: str, sources: Sources) -> str:
    """Of a title in parts, the one that the page itself shows as a text of its own; else all of it."""
    parts = [part for part in SPLIT.split(title) if len(part) > 8]
    if len(parts) < 2:
        return title
    tags = sources.root.iter("h1", "h2", "h3", "h4", "strong", "a", "span", "p", "b", "font")
    plain = (squash(tag.text) if len(tag) == 0 else text_of(tag) if tag.tag in HEADINGS else "" for tag in tags)
    shown = {text.casefold() for text in plain}
    there = [part for part in parts if part.casefold() in shown] or [p for p in parts if is_spelled(p, sources.address)]
    return max(there, key=len) if there else title


def without_site(title: str, sites: Iterable[str]) -> str:
    """A declared title without the name of its site at either end."""
    folded = title.casefold()
    for site in (one for one in sites if one.casefold() in folded):  # a pattern costs a millisecond
        for pattern in (rf"{SEPARATOR}{re.escape(site)}\s*$", rf"^\s*{re.escape(site)}{SEPARATOR}"):
            shorter = re.sub(pattern, "", title, flags=re.IGNORECASE).strip()
            if shorter and shorter != title:
                return shorter
    return title
