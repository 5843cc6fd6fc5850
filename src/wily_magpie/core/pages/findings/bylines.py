"""Authors: declared ones, then those in links and elements that say so, then lines beside the heading and at the end.

People come before what only publishes: a page whose structured data name an agency, and whose by-line names a person, is by
the person.
"""

import json
import re
from collections.abc import Iterator
from itertools import islice, pairwise
from typing import Any

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.pages.address import host_of, path_of
from wily_magpie.core.pages.findings.names import (
    LEAD,
    SHORT_LEAD,
    cleaned,
    is_organisation,
    is_person,
    names_in,
    parted,
)
from wily_magpie.core.pages.findings.page_lines import LONGEST_LINE, is_elsewhere, is_teaser, leaf_lines, lines_around
from wily_magpie.core.pages.findings.sources import CITATION, META, VISIBLE, Sources, main_items, texts
from wily_magpie.core.pages.structured import types_of
from wily_magpie.core.pages.tree import UNREAD_TAGS, Element, named, spaced, squash, text_of

LISTED = re.compile(r";|\w \w+,? (and|und|et|y|&) \w+ \w|,.*,")
"""Several people in one declared name: semicolons, two full names joined, or two commas."""
BYLINE_CLASS = named(
    r"byline|by-line|author|authors|author-?name|auteurs?|autor|autoren|autorin|p-author|writer|contributor|posted-?by|creator|"
    r"verfasser|verfasserin|autora|autores|autore|autori|autrice|firma|firmante|skribent|författare|forfatter|schrijver|redaktor"
)
CARD_CLASS = named(r"vcard|h-card|fn|author-?box|author-?info|about-?author")
AUTHOR_PAGE = re.compile(
    r"/(?:authors?|autor(?:en|in|es|a|i)?|auteurs?|autore|people|person(?:en)?|profiles?|contributors?|writers?|journalists?|"
    r"redakteure?|redaktion|team|staff|by|users?|members?)/[^/?#]*[^\W\d_][^/?#]*/?$",
    re.IGNORECASE,
)
ABOUT = named(
    r"meta|byline|dateline|date|info|details|author|published|posted|entry-header|post-header|article-header|credits?"
)
MAIL = re.compile(r"[\w.+-]+(?:@|\s?\(at\)\s?|\[at\])[\w-]+\.[\w.-]+")
DATE_LIKE = re.compile(
    r"\d{1,2}\.?\s?[^\W\d_]{3,12}\.?,?\s?\d{4}|[^\W\d_]{3,12}\.? \d{1,2}(?:st|nd|rd|th)?,? \d{4}|\d{1,2}[./]\s?\d{1,2}[./]\s?\d{2,4}|"
    r"\d{4}-\d\d-\d\d|\d{4}年\d{1,2}月\d{1,2}日"
)
TIME_LIKE = re.compile(
    r"(?:,|\bat|\bum|\bà|-|–)?\s*\d{1,2}[:.]\d\d(?:\s?(?:uhr|h|am|pm|a\.m\.|p\.m\.))?", re.IGNORECASE
)
AROUND = re.compile(r"^[\s|•·–—/,:-]+|[\s|•·–—/,:-]+$")
HEADINGS = ("h1", "h2", "h3", "h4", "h5", "h6")
OTHERS = re.compile(
    r"^(?:view |see |read |show )?(?:all|more|alle|mehr|weitere|tous|voir|articles?|artikel|posts?|beiträge)\b",
    re.IGNORECASE,
)
MOST_LINKS, MOST_ELEMENTS, LONGEST_BYLINE = 6, 8, 140
PIECES = re.compile(r"\s*[|·•]\s*|\s+[–—]\s+")
NEAR = 4
AT_END = 10
"""How many lines at the end of the page may name who wrote it."""
LARGEST_SEARCHED = 400_000


@dataclass(frozen=True)
class Candidate:
    """A text that may name an author.

    Attributes:
        is_one: whether it is one name, of which "and" is a part; is_declared: whether it is structured data or a citation tag.
        is_strong: whether something says that it is a name, so that one word alone may be one.
    """

    text: str
    origin: str
    is_one: bool = False
    is_declared: bool = False
    is_strong: bool = False


def authors(sources: Sources) -> None:
    """Adds people as "Family, Given", then what else is named as author; what is plainly no name is left out."""
    structured, organisations = in_structured_data(sources)
    makers = makers_of(sources)
    people: list[tuple[str, str]] = []
    others: list[tuple[str, str]] = []
    shown = shown_candidates(sources)
    candidates = [
        *in_meta(sources, CITATION, ("citation_author", "dc.creator", "dcterms.creator")),
        *structured,
        *with_doubt(sources, in_meta(sources, META, META_NAMES), shown),
    ]
    for one in candidates:
        whole = squash(one.text)
        if one.origin.startswith(META) and any(
            len(maker) > 3 and maker in whole.casefold() for maker in makers - {whole.casefold()}
        ):
            continue  # the site names itself with an address or the like
        if whole in organisations or whole.casefold() in makers:
            others.append((whole, one.origin))
            continue
        for name in names_in(one.text, is_one=one.is_one, is_strong=one.is_strong):
            is_maker = name.casefold() in makers
            is_sure = one.is_declared and not is_organisation(name)
            (people if not is_maker and (is_sure or is_person(name) or one.is_strong) else others).append(
                (name, one.origin)
            )
    people = [one for one in people if not is_organisation(one[0])] + [one for one in people if is_organisation(one[0])]
    for name, origin in (*people, *others):
        sources.add("author", name, origin)


META_NAMES = ("author", "article:author", "parsely-author", "sailthru.author", "byl")


def makers_of(sources: Sources) -> set[str]:
    """Names of who publishes the page rather than writes it."""
    makers = {one.value.casefold() for one in sources.found if one.name == "site"}
    makers |= {value.casefold() for key in ("publisher", "copyright") for value in sources.meta.get(key, [])}
    host = host_of(sources.address)
    return makers | {host, host.rpartition(".")[0], host.partition(".")[0]} - {""}


def in_meta(sources: Sources, origin: str, keys: tuple[str, ...]) -> list[Candidate]:
    """What meta elements say."""
    is_declared = origin == CITATION
    return [
        Candidate(value, f"{origin} {key}", is_declared and not LISTED.search(value), is_declared)
        for key in keys
        for value in sources.meta.get(key, [])
    ]


def with_doubt(sources: Sources, declared: list[Candidate], shown: list[Candidate]) -> list[Candidate]:
    """Meta tags and what the page shows; a name that the page does not show anywhere comes behind one that it shows.

    Such a tag often names who made a theme or a plug-in.
    """
    named_here = [one for one in shown if any(is_person(name) for name in names_in(one.text, is_strong=one.is_strong))]
    if not declared or not named_here:
        return [*declared, *shown]
    body = sources.root.find("body")
    text = squash(" ".join(islice_text(sources.root if body is None else body))).casefold()
    is_seen = [any(word in text for word in last_words(one.text)) for one in declared]
    sure = [one for one, seen in zip(declared, is_seen, strict=True) if seen]
    unsure = [one for one, seen in zip(declared, is_seen, strict=True) if not seen]
    return [*sure, *shown, *unsure]


def islice_text(root: Element) -> Iterator[str]:
    """The texts of a page, as far as it pays to look."""
    size = 0
    for tag in root.iter():
        for text in (tag.text if isinstance(tag.tag, str) and tag.tag not in UNREAD_TAGS else None, tag.tail):
            if text:
                size += len(text)
                yield text
        if size > LARGEST_SEARCHED:
            return


def last_words(text: str) -> list[str]:
    """The family names in a declared text, in small letters."""
    return [name.partition(",")[0].casefold() for name in names_in(text, is_strong=True)]


def in_structured_data(sources: Sources) -> tuple[list[Candidate], set[str]]:
    """What structured data declare, and the names among them that are of organisations."""
    candidates: list[Candidate] = []
    organisations: set[str] = set()
    for item, origin in main_items(sources)[:8]:
        for one in ("author", "creator", "byArtist", "sender"):
            for value in (referred(sources, each) for each in as_list(unpacked(item.get(one)))):
                is_known = isinstance(value, dict) and "Person" in types_of(value)
                candidates += [
                    Candidate(text, f"{origin} {types_of(item)[0]}.{one}", not LISTED.search(text), True, is_known)
                    for text in texts(value)
                ]
                organisations |= set(organisation(value))
    return candidates, organisations


def referred(sources: Sources, value: Any) -> Any:
    """A value, or what stands elsewhere in the page's structured data under its identifier."""
    if not isinstance(value, dict) or set(value) - {"@id", "@type"} or "@id" not in value:
        return value
    return next((item for item, _ in sources.items if item.get("@id") == value["@id"] and "name" in item), value)


def unpacked(value: object) -> object:
    """A value, or what it holds where it is JSON that was written as a text."""
    if not isinstance(value, str) or not value.lstrip().startswith(("{", "[")):
        return value
    try:
        return json.loads(value)
    except (ValueError, RecursionError):
        return value


def as_list(value: object) -> list[object]:
    """A value of structured data as a list."""
    return value if isinstance(value, list) else [value]


def organisation(value: object) -> list[str]:
    """The name of what structured data says is an organisation, whose words keep their order."""
    is_one = isinstance(value, dict) and any("Organization" in kind for kind in types_of(value))
    return [squash(name) for name in texts(value)] if is_one and "Person" not in types_of(value) else []  # type: ignore[arg-type]


# what the page shows


def shown_candidates(sources: Sources) -> list[Candidate]:
    """What the page shows, the surest first: links and elements that say so, lines beside the heading, lines at the end."""
    heading = heading_of(sources)
    return [*linked(sources, heading), *by_class(sources.root, heading), *beside_heading(sources.root, heading),
            *at_end(sources.root, heading)]  # fmt: skip


def heading_of(sources: Sources) -> Element | None:
    """The heading that has most of the page's title; else its first one."""
    title = sources.best("title").casefold()
    found = [
        tag for tag in islice(sources.root.iter("h1", "h2"), 40) if (text := text_of(tag).casefold()) and text in title
    ]
    first = next(iter(sources.root.iter("h1")), None)
    return found[0] if found else first


def linked(sources: Sources, heading: Element | None) -> list[Candidate]:
    """Links that say that they lead to the author."""
    links = [
        tag
        for tag in islice(sources.linked("author", "a"), MOST_LINKS)
        if not is_elsewhere(tag, heading) and not is_teaser(tag, heading) and names_in(spaced(tag), is_strong=True)
    ]
    line = [
        spaced(tag) for tag in links if tag.getparent() is links[0].getparent()
    ]  # those of one line belong together
    return [Candidate("; ".join(dict.fromkeys(line)), f"{VISIBLE} (rel author)", is_strong=True)] if line else []


def by_class(root: Element, heading: Element | None) -> list[Candidate]:
    """Texts of elements whose class says that they name the author."""
    out: list[Candidate] = []
    tags = "span p div a address li strong em b td small cite section header".split()
    for tag in root.iter(*tags):
        words = f"{tag.get('class') or ''} {tag.get('itemprop') or ''}"
        is_card = tag.tag == "address" or CARD_CLASS.search(words)
        if not (BYLINE_CLASS.search(words) or is_card) or is_elsewhere(tag, heading) or is_teaser(tag, heading):
            continue
        text = spaced(tag)
        if 2 < len(text) < LONGEST_BYLINE:
            out += [Candidate(one, f"{VISIBLE} (byline)", is_strong=True) for one in pieces_of(tag, text)]
        if len(out) >= MOST_ELEMENTS:
            break
    return first_of_many(out)


def pieces_of(tag: Element, text: str) -> list[str]:
    """The pieces of a by-line that are names by themselves; else the whole, where its label or its form says so."""
    links = [
        spaced(one) for one in tag.iter("a") if one is not tag and AUTHOR_PAGE.search(path_of(one.get("href") or ""))
    ]
    if any(names_in(one, is_strong=True) for one in links):
        return ["; ".join(one for one in links if names_in(one, is_strong=True))]
    pieces = [squash(one) for one in tag.itertext() if squash(one)]
    people = [one for one in pieces if any(map(is_person, names_in(one))) and len(cleaned(one).split()) > 1]
    if len(pieces) > 1 and people:
        return ["; ".join(people)]
    return [text]


def first_of_many(candidates: list[Candidate]) -> list[Candidate]:
    """Those up to the first that names somebody; what follows is often about other texts."""
    at = next((at for at, one in enumerate(candidates) if names_in(one.text, is_strong=one.is_strong)), None)
    return candidates[at : at + 1] if at is not None else []


def beside_heading(root: Element, heading: Element | None) -> list[Candidate]:
    """Short lines near the heading that begin with "By" and the like, stand beside a date, or lead to an author's page."""
    before, behind = lines_around(root, heading)
    lines = [
        tag for tag in [*behind, *reversed(before)] if not is_elsewhere(tag, heading) and not is_teaser(tag, heading)
    ]
    for tag in lines:
        text = spaced(tag)
        links = [spaced(one) for one in tag.iter("a") if AUTHOR_PAGE.search(path_of(one.get("href") or ""))]
        linked_names = [one for one in links if names_in(one, is_strong=True)]
        if linked_names:
            return [Candidate("; ".join(linked_names), f"{VISIBLE} (link)", is_strong=True)]
        is_short = len(cleaned(text).split()) == 1 and not OTHERS.match(text)
        if (
            LEAD.match(text)
            and tag.tag not in HEADINGS
            and (is_short or are_people(text))
            and names_in(text, is_strong=is_short)
        ):
            return [Candidate(text, f"{VISIBLE} (beside the heading)", is_strong=is_short)]
        bare = SHORT_LEAD.sub("", AROUND.sub("", TIME_LIKE.sub("", DATE_LIKE.sub("", text))))
        is_dated = (
            DATE_LIKE.search(text) is not None and is_about(tag) and " " in bare and bare not in texts_of_links(tag)
        )
        if (is_dated or (SHORT_LEAD.match(text) and tag.tag not in HEADINGS)) and are_people(bare):
            return [Candidate(bare, f"{VISIBLE} (beside the heading)")]
        found = in_pieces(tag, text)
        if found:
            return [Candidate(found, f"{VISIBLE} (beside the heading)")]
    return above_a_date(behind)


def in_pieces(tag: Element, text: str) -> str:
    """The piece of a line in several that names people: "MONDAY | 12 March 2024 | BY Ada Penhallow"; "" where none does.

    A name without a label is one beside a date; in running letters only where the line is a small one.
    """
    pieces = PIECES.split(text)
    led = next((one for one in pieces if LEAD.match(one) and names_in(one) and " " in cleaned(one)), "")
    if len(pieces) > 1 and led and are_people(led):
        return led
    is_cite = tag.tag == "cite" or tag.find(".//cite") is not None
    is_small = tag.tag in ("small", "cite") or (
        len(tag) == 1 and tag[0].tag in ("small", "cite") and not (tag.text or "").strip()
    )
    if not DATE_LIKE.search(text) or not (len(pieces) > 1 or is_small):
        return text if is_small and is_cite and are_people(text) else ""
    parts = [AROUND.sub("", TIME_LIKE.sub("", DATE_LIKE.sub("", one))) for one in pieces]
    there = [one for one in parts if one]
    is_one = len(there) == 1 and there[0] not in texts_of_links(tag)
    return there[0] if is_one and are_people(there[0]) else ""


def above_a_date(lines: list[Element]) -> list[Candidate]:
    """A line behind the heading that is the name of a person, with a date and nothing else in the next one."""
    for one, other in pairwise(lines[:NEAR]):
        is_date = not AROUND.sub("", TIME_LIKE.sub("", DATE_LIKE.sub("", spaced(other))))
        if is_date and DATE_LIKE.search(spaced(other)) and one.tag not in HEADINGS and are_people(spaced(one)):
            return [Candidate(spaced(one), f"{VISIBLE} (above a date)")]
    return []


def are_people(text: str) -> bool:
    """Whether a line holds names of people, and nothing else."""
    is_led = LEAD.match(squash(text)) is not None
    pieces = parted(cleaned(text), is_led=is_led)
    people = [one for one in pieces if is_person(one)]
    return bool(people) and (
        len(people) == len(pieces) or (is_led and all(is_organisation(one) for one in pieces if one not in people))
    )


def texts_of_links(tag: Element) -> set[str]:
    """The texts of links in a line: they lead to other texts of a kind rather than to who wrote this one."""
    return {spaced(one) for one in tag.iter("a")}


def is_about(tag: Element) -> bool:
    """Whether a line says by its class that it tells of the text: when it came out, who wrote it."""
    return any(
        ABOUT.search(f"{up.get('class') or ''} {up.get('id') or ''}") for up in (tag, *islice(tag.iterancestors(), 2))
    )


def at_end(root: Element, heading: Element | None) -> list[Candidate]:
    """A line at the end of the text that has a name and an address for e-mails."""
    lines = [tag for tag in leaf_lines(root) if not is_elsewhere(tag, heading)]
    for tag in lines[-3 * AT_END :]:
        text = spaced(tag)
        if LEAD.match(text) and re.match(r"[^:]{2,20}:\s", text) and tag.tag not in HEADINGS and are_people(text):
            return [Candidate(text, f"{VISIBLE} (at the end)")]
        mail = MAIL.search(text) or next(
            (one for one in tag.iter("a") if (one.get("href") or "").startswith("mailto:")), None
        )
        if mail is None or len(text) > LONGEST_LINE:
            continue
        bare = AROUND.sub("", MAIL.sub("", text))
        if are_people(bare):
            return [Candidate(bare, f"{VISIBLE} (at the end)")]
    return []
