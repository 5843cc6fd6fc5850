"""Authors: declared ones, then those in links and elements that say so, then "by …" beside the heading."""

import re
from itertools import islice

from wily_magpie.core.fields.people import PEOPLE, family_first
from wily_magpie.core.pages.findings.sources import (
    CITATION,
    META,
    STRUCTURED,
    VISIBLE,
    Sources,
    main_items,
    texts,
)
from wily_magpie.core.pages.structured import types_of
from wily_magpie.core.pages.tree import Element, named, squash, text_of

NOT_NAMES = re.compile(
    r"^(admin|administrator|editor|editors|staff|webmaster|user|guest|author|unknown|null|none|by|n/a|name|e-?mail|website|"
    r"redaktion|redaction|rédaction|redacción|redazione|anonymous|super user)$",
    re.IGNORECASE,
)
LISTED = re.compile(r";|\w \w+,? (and|&) \w+ \w|,.*,")
"""Several people in one declared name: semicolons, two full names joined, or two commas."""
LEAD = re.compile(
    r"^\s*(?:\(\w+\)\s*)?(?:(?:written|posted|published|story|words|text|report|reported|review|edited|geschrieben|verfasst|"
    r"veröffentlicht|publié|écrit|escrito|publicado|scritto|pubblicato)\s+(?:by|von|par|por|di|da)\b|(?:by|von|par|por|door)\b|"
    r"(?:author|autor|autorin|auteur|auteure|autore|autrice|auteurs|autoren)s?\b\s*:?|all posts by)[:\s]+",
    re.IGNORECASE,
)
TAIL = re.compile(
    r"\s*[|•·–—/]\s.*$|\s+on \d.*$|,?\s+\d{1,2}\.?\s\w+\s\d{4}.*$|\s+\d{1,2}[./]\d{1,2}[./]\d{2,4}.*$|\s*\(.*\)\s*$|,\s*[A-Z]{2,5}$"
)
TWO_NAMES = re.compile(r"([A-ZÀ-Þ][^\s,;]+ [A-ZÀ-Þ][^\s,;]+), ([A-ZÀ-Þ][^\s,;]+ [A-ZÀ-Þ][^\s,;]+)")
"""Two names of two words each: "Ada Penhallow, Tom Varley"."""
STRANGE = re.compile(r"://|[@#*<>{}=]|www\.|\.(com|org|net|de|fr)\b|\d{3}", re.IGNORECASE)
BYLINE_CLASS = named(r"byline|by-line|author|authors|auteurs?|autor|autoren|p-author|writer")
ELSEWHERE = named(r"comments?|comentarios?|kommentare?|commentaires?|related|sidebar")
MOST_LINKS, MOST_ELEMENTS = 4, 3


def authors(sources: Sources) -> None:
    """Adds people as "Family, Given"; what is plainly no name is left out."""
    structured, organisations = in_structured_data(sources)
    linked = [tag for tag in islice(sources.linked("author", "a"), MOST_LINKS) if not is_elsewhere(tag)]
    candidates = [
        *in_meta(sources, CITATION, ("citation_author", "dc.creator", "dcterms.creator")),
        *structured,
        *in_meta(sources, META, ("author", "article:author", "parsely-author", "sailthru.author", "byl")),
        *((text_of(tag), f"{VISIBLE} (rel author)") for tag in linked),
        *by_class(sources.root),
    ]
    makers = {one.value.casefold() for one in sources.found if one.name == "site"}
    makers |= {value.casefold() for key in ("publisher", "copyright") for value in sources.meta.get(key, [])}
    late: list[tuple[str, str]] = []
    for text, origin in candidates:
        declared = origin.startswith((STRUCTURED, CITATION))
        if squash(text).casefold() in makers:
            late.append((text, origin))
            continue
        is_whole = squash(text) in organisations
        for name in [squash(text)] if is_whole else read_people(text, is_one=declared and not LISTED.search(text)):
            sources.add("author", name, origin)
    for text, origin in late:
        for name in read_people(text, is_one=True):
            sources.add("author", name, origin)


def in_meta(sources: Sources, origin: str, keys: tuple[str, ...]) -> list[tuple[str, str]]:
    """(text, origin) of meta elements."""
    return [(value, f"{origin} {key}") for key in keys for value in sources.meta.get(key, [])]


def in_structured_data(sources: Sources) -> tuple[list[tuple[str, str]], set[str]]:
    """(text, origin) of what structured data declare, and the names among them that are of organisations."""
    candidates: list[tuple[str, str]] = []
    organisations: set[str] = set()
    for item, origin in main_items(sources)[:8]:
        for one in ("author", "creator", "byArtist", "sender"):
            candidates += [(text, f"{origin} {types_of(item)[0]}.{one}") for text in texts(item.get(one))]
            organisations |= {name for value in as_list(item.get(one)) for name in organisation(value)}
    return candidates, organisations


def as_list(value: object) -> list[object]:
    """A value of structured data as a list."""
    return value if isinstance(value, list) else [value]


def organisation(value: object) -> list[str]:
    """The name of what structured data says is an organisation, whose words keep their order."""
    is_one = isinstance(value, dict) and any("Organization" in kind for kind in types_of(value))
    return [squash(name) for name in texts(value)] if is_one else []


def by_class(root: Element) -> list[tuple[str, str]]:
    """Texts of elements whose class says that they name the author."""
    out: list[tuple[str, str]] = []
    for tag in root.iter("span", "p", "div", "a", "address", "li", "strong", "em", "b"):
        if BYLINE_CLASS.search(tag.get("class") or "") and not is_elsewhere(tag):
            text = text_of(tag)
            if 3 < len(text) < 90:
                out.append((text, f"{VISIBLE} (byline)"))
                if len(out) == MOST_ELEMENTS:
                    break
    return out[:1] + [one for one in out[1:] if not read_people(out[0][0])]


def is_elsewhere(tag: Element) -> bool:
    """Whether it stands in a part of the page that is about something else."""
    inner = (up for up in (tag, *tag.iterancestors()) if up.tag not in ("body", "html"))
    return any(ELSEWHERE.search(f"{up.get('class') or ''} {up.get('id') or ''}") for up in inner)


def read_people(text: str, *, is_one: bool = False) -> tuple[str, ...]:
    """The names in a byline; none where it does not look like names. is_one: a single name, "and" is part of it."""
    text = LEAD.sub("", squash(text))
    text = TAIL.sub("", TAIL.sub("", text)).strip(" ,:")
    if STRANGE.search(text) or len(text) > 200:
        return ()
    both = TWO_NAMES.fullmatch(text)
    if both and not is_one:
        return (family_first(both[1]), family_first(both[2]))
    value = (family_first(text),) if is_one and text else PEOPLE.read(text)
    names = value if isinstance(value, tuple) else ()
    return tuple(
        name for name in names if len(name) < 70 and not NOT_NAMES.match(name) and re.search(r"[^\W\d_]", name)
    )
