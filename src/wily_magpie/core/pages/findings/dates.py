"""Dates of publication and change: declared ones, then what the page shows as its date; none rather than a guess."""

import copy
import re
from collections import deque
from collections.abc import Iterator
from contextlib import suppress
from datetime import date, timedelta
from itertools import islice
from urllib.parse import urlsplit

import htmldate

from wily_magpie.core.fields import written_date
from wily_magpie.core.pages.boilerplate import names_of
from wily_magpie.core.pages.findings.sources import (
    ADDRESS,
    CITATION,
    META,
    VISIBLE,
    Sources,
    main_items,
    texts,
)
from wily_magpie.core.pages.structured import types_of
from wily_magpie.core.pages.tree import UNREAD_TAGS, Element, named, remembered, squash, text_of

DATE_CLASS = named(r"date|published|pubdate|dateline|timestamp|entry-date|post-date")
IN_ADDRESS = re.compile(r"/((?:19|20)\d\d)[/-]?([01]?\d)[/-]([0-3]?\d)(?=[/_-])")
WHOLE = re.compile(
    r"(?<!\d)((?:19|20)\d\d[-/.年]\s?[01]?\d[-/.月]\s?[0-3]?\d日?|[0-3]?\d\.\s?[01]?\d\.\s?(?:19|20)\d\d)(?!\d)"
)
"""A whole date in figures whose order is sure."""
SLASHED = re.compile(r"(?<![\d/])\d{1,2}/\d{1,2}/(?:19|20)\d\d(?![\d/])")
"""A whole date in figures whose order depends on the language."""
EARLIEST_NEXT, LATEST_BEFORE = 10, 12
"""Hours of UTC from which it can be the next day somewhere (UTC+14), and up to which the day before (UTC-12)."""
OF_UTC = re.compile(r".{10}T\d\d:\d\d(?:Z|\+00:00)")
WORDS = re.compile(
    r"(?P<day_1>\d{1,2})(?:\.|º|er)?\s+(?:de\s+)?(?P<month_1>[^\W\d_]{3,12})\.?,?\s+(?:de\s+)?(?P<year_1>(?:19|20)\d\d)\b|"
    r"(?P<month_2>[^\W\d_]{3,12})\.?\s+(?P<day_2>\d{1,2})(?:st|nd|rd|th)?,?\s+(?P<year_2>(?:19|20)\d\d)\b"
)
"""What may be a whole date in words."""
OF_THE_MATTER = re.compile(
    r"\b(free|available|vacant|valid|expires?|deadline|due|starts?|begins?|ends?|opening|doors|until|till|from|frei|verfügbar|gültig|bezugsfrei|bezug|"
    r"einzug|ab|bis|beginn|ende|libre|disponible|à partir|jusqu|desde|hasta|libero|disponibile|beschikbaar|ledig)\b",
    re.IGNORECASE,
)
"""Said beside a date that tells of what the page is about, not of the page."""
YEAR = re.compile(r"(?:19|20)\d\d")
BASIC = re.compile(r"^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(?:\d\d)?(Z|[+-]\d\d:?\d\d)?$")
"""ISO 8601 without its separators."""
APART = named(
    r"comments?|respond|comentarios?|kommentare?|commentaires?|related|recommend(ed|ations)?|sidebar|teasers?|footer|"
    r"popular|trending|latest|recent|most-?read"
)
BEFORE, AFTER = 8, 16
"""How many texts before and behind the heading a date may stand."""
LONGEST_LINE, LONGEST_LABEL = 70, 40
LINES = ("p", "div", "span", "time", "li", "td", "dd", "dt", "strong", "b", "em")
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
        ("published", "datePublished uploadDate dateSent dateCreated", PUBLISHED),
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
            found = with_address(found, sources.address, sources.language)
            for search in (heading_dates, searched_dates):  # each takes as long as all of the other rules
                if not any(read_date(text, sources.language) for text, _ in found):
                    found += search(sources)
            found = with_shown_day(found, sources)
            found += visible_dates(sources.root)
        add_dates(sources, name, found)


def add_dates(sources: Sources, name: str, found: list[tuple[str, str]]) -> None:
    """Adds those that can be read; where there are none, the first that can be two days as it stands: whoever takes it is told."""
    read = [(read_date(text, sources.language), origin) for text, origin in found]
    for iso, origin in read:
        sources.add(name, iso, origin)
    if not any(iso for iso, _ in read):
        for text, origin in [one for one in found if is_doubtful(one[0], sources.language)][:1]:
            sources.add(name, text, origin)


def is_doubtful(text: str, language: str) -> bool:
    """Whether a text is a date that can be two."""
    return bool(written_date.read_date(squash(text), language).doubt)


def with_shown_day(found: list[tuple[str, str]], sources: Sources) -> list[tuple[str, str]]:
    """Dates with the day that the page shows at its heading, which comes first where a moment of UTC is of the day beside it.

    A page is dated by the day of its own place.
    """
    first = next(filter(None, (read_date(text, sources.language) for text, _ in found)), "")
    if not OF_UTC.fullmatch(first):
        return found
    shown = next(iter(heading_dates(sources)), ("", ""))
    day = read_date(shown[0], sources.language)[:10]
    if len(day) != len("2026-01-31"):
        return found
    apart = date.fromisoformat(day) - date.fromisoformat(first[:10])
    hour = int(first[11:13])
    can_be = (apart == timedelta(days=1) and hour >= EARLIEST_NEXT) or (
        apart == timedelta(days=-1) and hour < LATEST_BEFORE
    )
    return [(day, shown[1]), *found] if can_be else found


def with_address(declared: list[tuple[str, str]], address: str, language: str) -> list[tuple[str, str]]:
    """Declared dates with the one in the address (/2017/7/12/, /201711/17/), which comes first where it is earlier.

    An address keeps the day when a page first came out; what is declared may be of a later edition.
    """
    found = IN_ADDRESS.search(urlsplit(address).path)
    if not found:
        return declared
    day = f"{found[1]}-{int(found[2]):02}-{int(found[3]):02}"
    first = next(filter(None, (read_date(text, language) for text, _ in declared)), "")
    is_earlier = bool(read_date(day)) and len(first) >= len(day) and first[:7] > day[:7]
    return [(day, ADDRESS), *declared] if is_earlier else [*declared, (day, ADDRESS)]


def heading_dates(sources: Sources) -> Iterator[tuple[str, str]]:
    """A whole date in the declared title, or in a short text near the heading."""
    title = sources.best("title")
    for value in [*sources.meta.get("og:title", []), *(squash(tag.text) for tag in sources.root.iter("title"))]:
        for part in re.split(r"\s[|–—-]\s", value):
            if WHOLE.fullmatch(part.strip()):
                yield part.strip(), f"{META} og:title"
    before: deque[tuple[Element, str]] = deque(maxlen=BEFORE)
    shown = texts_of(sources.root)
    for tag, raw in shown:
        text = squash(raw)
        if text and text in title and is_heading(tag):
            break
        before.append((tag, raw))
    else:
        return
    language = sources.language
    for tag, raw in [*islice(shown, AFTER), *reversed(before)]:
        text = squash(raw)
        if (
            len(text) <= LONGEST_LINE
            and YEAR.search(text)
            and not is_elsewhere(tag)
            and not OF_THE_MATTER.search(f"{label_before(tag)} {text}")
        ):
            value = in_words(text, language)
            if value:
                yield value, f"{VISIBLE} (beside the heading)"
                return


def texts_of(root: Element) -> Iterator[tuple[Element, str]]:
    """Each text that a page shows, with the element around it, in order."""
    body = root.find("body")
    for tag in (root if body is None else body).iter():
        if isinstance(tag.tag, str) and tag.tag not in UNREAD_TAGS:
            yield from ((tag, text) for text in [tag.text] if text and not text.isspace())
        parent = tag.getparent()
        if tag.tail and not tag.tail.isspace() and parent is not None and parent.tag not in UNREAD_TAGS:
            yield parent, tag.tail


def is_heading(tag: Element) -> bool:
    """Whether a text stands in a heading."""
    return any(up.tag in ("h1", "h2") for up in (tag, *islice(tag.iterancestors(), 3)))


def in_words(text: str, language: str) -> str:
    """The first whole date in a text as ISO 8601, or as it stands where it can be two days; "" where there is none."""
    found = WHOLE.search(text)
    if found:
        return read_date(found[0])
    slashed = SLASHED.search(text)
    return (read_date(slashed[0], language) or slashed[0]) if slashed else worded(text, language)


def worded(text: str, language: str) -> str:
    """A whole date in the words of a language as ISO 8601; "" where there is none."""
    found = WORDS.search(text)
    if not found:
        return ""
    parts = found.groupdict()
    day, word, year = (parts[f"{name}_1"] or parts[f"{name}_2"] for name in ("day", "month", "year"))
    month = written_date.month_number(word, language)
    return written_date.day_of(year, str(month), day) or "" if month else ""


def searched_dates(sources: Sources) -> Iterator[tuple[str, str]]:
    """What htmldate finds in elements that say they hold a date; its search through the whole text makes dates up."""
    if sum(len(text) for text in sources.root.itertext()) > LARGEST_SEARCHED:
        return
    whole = copy.deepcopy(sources.root)  # htmldate alters what it is given
    drop([tag for tag in whole.iter(*LINES) if is_of_the_matter(tag)])
    settle_slashed(whole, sources.language)
    own = copy.deepcopy(whole)
    boxes = [tag for tag in own.iter("aside", "footer", "nav", "div", "section", "ul", "li") if is_apart(tag)]
    boxes = [tag for tag in boxes if tag.find(".//h1") is None]
    drop(boxes)
    # where the page's own text has none, what stands around it
    for page in (own, whole) if boxes else (own,):
        with suppress(Exception):  # a library's fault on a broken page is one voice less
            found = htmldate.find_date(page, extensive_search=False, original_date=True)
            if found:
                yield str(found), f"{VISIBLE} (date)"
                return


def settle_slashed(root: Element, language: str) -> None:
    """Writes dates such as 3/4/2024 as the language has them, and takes out what can be two: htmldate takes the day for the first."""

    def settled(text: str) -> str:
        return SLASHED.sub(lambda found: read_date(found[0], language), text)

    for tag in root.iter():
        if isinstance(tag.tag, str) and tag.tag not in UNREAD_TAGS:
            tag.text = settled(tag.text) if tag.text and "/" in tag.text else tag.text
            for name, value in tag.attrib.items():
                if name in ("datetime", "content", "title") and "/" in value:
                    tag.set(name, settled(value))
        tag.tail = settled(tag.tail) if tag.tail and "/" in tag.tail else tag.tail


def drop(tags: list[Element]) -> None:
    """Takes elements out of their page."""
    for tag in tags:
        if tag.getparent() is not None:
            tag.drop_tree()


def visible_dates(root: Element) -> Iterator[tuple[str, str]]:
    """Dates that the page shows as its own: in time elements that say so, and beside the heading."""
    for tag in islice(root.iter("time"), 6):
        if not is_elsewhere(tag) and not is_of_the_matter(tag.getparent()):
            yield tag.get("datetime") or text_of(tag)[:LONGEST_LINE], f"{VISIBLE} (time)"
    for tag in root.iter("span", "p", "div", "time", "li"):
        if DATE_CLASS.search(tag.get("class") or "") and len(text_of(tag)) < 60 and not is_elsewhere(tag):
            if OF_THE_MATTER.search(f"{label_before(tag)} {text_of(tag)}"):
                continue
            yield re.sub(r"^\w+:\s*|^\w+day,?\s+", "", text_of(tag)), f"{VISIBLE} (date)"
            break


def is_of_the_matter(tag: Element | None) -> bool:
    """Whether a short line says a date of what the page is about, such as "free from 1 May"."""
    text = text_of(tag) if tag is not None and tag.tag in LINES else ""
    is_short = len(text) <= LONGEST_LINE and bool(YEAR.search(text))
    return is_short and bool(OF_THE_MATTER.search(text) or OF_THE_MATTER.search(label_before(tag)))


def label_before(tag: Element | None) -> str:
    """The short text that stands right before a cell, a definition or a part of a line; "" where none does."""
    before, around = (tag.getprevious(), tag.getparent()) if tag is not None else (None, None)
    if before is None:
        said = squash(around.text) if around is not None else ""
    else:
        said = squash(before.tail) or (text_of(before) if isinstance(before.tag, str) else "")
    return said if len(said) <= LONGEST_LABEL else ""


def is_elsewhere(tag: Element) -> bool:
    """Whether a text belongs to comments or to what stands beside the page's own text."""
    return any(is_apart(up) for up in (tag, *tag.iterancestors()) if up.tag not in ("body", "html"))


@remembered
def is_apart(tag: Element) -> bool:
    """Whether an element holds what is not the page's own text."""
    return tag.tag in ("aside", "nav", "footer") or bool(APART.search(names_of(tag)))


def read_date(text: str, language: str = "") -> str:
    """A date as ISO 8601, or "" where it is none."""
    text = squash(text).replace("/", "-") if re.fullmatch(r"\d{4}/\d\d(/\d\d)?", squash(text)) else squash(text)
    text = re.sub(r"(T\d\d:\d\d)(\d\d)?$", r"\1", text)
    text = BASIC.sub(lambda found: f"{found[1]}-{found[2]}-{found[3]}T{found[4]}:{found[5]}{found[6]}", text)
    early = re.match(r"\d{4}-\d\d-\d\d", text)
    for attempt in (text[:40], early[0] if early else ""):
        value = written_date.read_date(attempt, language).value
        if value is not None and "1000" < value < "2200":
            return value
    return ""
