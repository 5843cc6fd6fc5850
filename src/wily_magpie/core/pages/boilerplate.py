"""What a page puts around its text: navigation, share bars, pointers to other pages, bylines; told by names and words."""

import re
from collections.abc import Collection
from itertools import islice

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.tree import Element, named

CAPITAL = re.compile(r"(?<=[a-z])(?=[A-Z])")
DROPPED_TAGS = frozenset(
    "script style template nav aside footer form button input select textarea label dialog svg object embed canvas menu".split()
)
JUNK = named(
    r"nav|navigation|breadcrumbs?|related|recommend(ed|ations)?|read-?more|more-?(stories|from|articles)|sidebar|"
    r"share|sharing|social|newsletter|subscribe|signup|sign-up|comments?|cookies?|consent|banner|advert(isement)?|ads?|promo|"
    r"sponsored|footer|masthead|menu|popular|trending|teaser"
)
MOST_BOILERPLATE = 0.3
"""The share of the believed text up to which a part named like boilerplate is taken for boilerplate."""
FOR_EARS = re.compile(
    r"(^|\s)(visually-?hidden|sr-only|screen-?reader(-text)?|assistive-text|element-invisible)(\s|$)", re.IGNORECASE
)
BOX = named(r"share|sharing|newsletter|subscribe|cookies?")
"""Names of boxes that are never a part of a text, however short it is."""
MOST_BOX = 0.6
SURE_JUNK = named(
    r"comments?|disclaimer|author-?(box|bio|info|card|profile|description)|"
    r"about-?(the-?)?authors?|bio|biography|report-?error|tags|tag-(list|links|cloud)|recirc(ulation)?|outbrain|taboola"
)
BYLINE = named(r"byline|by-line|dateline|pubdate|timestamp|post-date|entry-date|entry-meta|post-meta")
DATE_LINE = named(r"date|meta")
"""Names of what tells of a text at its beginning and end; in its midst it may be a part of it, as in a table of years."""
AT_THE_ENDS = 4
POINTER = re.compile(
    r"^\W*(related( articles| posts| stories| content| topics)?|read (more|also|next)|also read|see also|more (from|on|about)\b.*|"
    r"you (may|might) (also|be)\b.*|recommended( for you)?|further reading on\b.*|"
    r"auch interessant|das könnte (sie|dich|ihnen)\b.*|"
    r"ähnliche (beiträge|artikel|themen)|mehr zum thema|"
    r"mehr (dazu|über|von)\b.*|lesen sie (auch|mehr|dazu)|weitere (artikel|beiträge)\b.*|"
    r"zum weiterlesen|lire aussi|à lire( aussi)?|voir aussi|articles? (similaires|liés|connexes)|sur le même (thème|sujet)|"
    r"leer? (también|más)|lea también|te puede interesar|noticias relacionadas|artículos relacionados|leggi anche|lees ook|"
    r"leia (também|mais)|veja também|czytaj (też|także)|läs (också|mer)|les også|"
    r"関連記事|相关(阅读|新闻|文章)|관련기사)\s*[:…．。.›»]*\s*$",
    re.IGNORECASE,
)
"""A line that announces pages about other things."""
POINTING = re.compile(
    r"^\W*(read more|also read|read also|see also|related|lesen sie auch|mehr dazu|lire aussi|lea también|leggi anche)\s*:",
    re.IGNORECASE,
)
COUNT = re.compile(
    r"^\W*\d[\d.,]*\s*(comments?|kommentare?|commentaires?|comentarios?|commenti|reacties|shares?|likes?|views?|responses?|repl(y|ies)|answers?|"
    r"antworten|réponses|respuestas)\b(\W*|\W*[·|,–-].{0,40})$",
    re.IGNORECASE,
)
GO_ON = re.compile(
    r"^\W*(read (the rest|more|on|full article)\b.{0,12}|continue reading\b.*|weiterlesen|mehr lesen|ganzen artikel lesen|"
    r"lire la suite|lire plus|leer más|seguir leyendo|continua a leggere|leggi tutto|lees (meer|verder)|läs mer|czytaj dalej)\W*$",
    re.IGNORECASE,
)
"""The link at the end of a teaser."""
AFFILIATE = re.compile(
    r"\b(affiliate[ -]links?|affiliate-partner|liens? (d.)?affili|enlaces? de afiliad|link di affiliazione|provisions-links?)",
    re.IGNORECASE,
)
"""Said of the links of a page rather than of its subject."""
OF_MAILS = re.compile(
    r"\b(view|read|see|open)( this| it| the)?( e-?mail| message| newsletter)?( online| in (your|a|the) browser)\b|\bunsubscribe\b|"
    r"\b(manage|update|change) (your )?(e-?mail |subscription )?preferences\b|\bim browser (ansehen|anzeigen|öffnen|lesen)\b|"
    r"\b(abmelden|abbestellen)\b|\b(voir|lire|afficher) (ce message )?dans (votre|le) navigateur\b|"
    r"\bse (désabonner|désinscrire)\b|\bdarse de baja\b|\bver en (el|su|tu) navegador\b|\bannulla(re)? l.iscrizione\b|\bafmelden\b|"
    r"\byou (are receiving|received) this (e-?mail|message)\b",
    re.IGNORECASE,
)
"""Lines of a letter that is sent to many, which tell of the sending."""
LONGEST_POINTER = 160
SENTENCE = re.compile(r"[.!?…。！？]\W*$")
SHORT_LINE = 100
"""Characters of a line that is believed to be boilerplate by its names alone."""
LEAST_TEXT = 200
"""Characters that are a text of their own, however many teasers stand around it."""
LEAST_HEADLINE = 25
"""Letters of a link that may be the headline of another page."""
LONGEST_TEASER = 6
"""Pieces from a teaser's heading to its link."""


def without_boilerplate(kept: list[Element]) -> list[Element]:
    """Believed pieces without those in small parts of the page whose names say boilerplate: share bars, bylines, comments."""
    sizes = [len(tree.text_of(leaf)) for leaf in kept]
    inside: dict[Element, int] = {}
    for leaf, size in zip(kept, sizes, strict=True):
        for element in (leaf, *leaf.iterancestors()):
            inside[element] = inside.get(element, 0) + size
    total = sum(sizes)
    most = total * MOST_BOILERPLATE
    junk = {e for e, size in inside.items() if size <= MOST_BOX * total and BOX.search(names_of(e))}
    junk |= {
        e
        for e, size in inside.items()
        if size <= most and (e.tag == "form" or is_for_ears(e) or SURE_JUNK.search(names_of(e)))
    }
    short = [leaf for leaf, size in zip(kept, sizes, strict=True) if size < SHORT_LINE]
    junk |= {leaf for leaf in short if BYLINE.search(names_of(leaf))}
    ends = {*kept[:AT_THE_ENDS], *kept[-AT_THE_ENDS:]}
    junk |= {leaf for leaf in short if leaf in ends and DATE_LINE.search(names_of(leaf))}
    for leaf in (leaf for leaf in short if not SENTENCE.search(tree.text_of(leaf))):
        around = (leaf, *islice(leaf.iterancestors(), 2))
        junk |= {e for e in around if JUNK.search(names_of(e)) and inside[e] <= min(most, SHORT_LINE)}
    return [leaf for leaf in kept if leaf not in junk and not any(up in junk for up in leaf.iterancestors())] or kept


def without_pointers(kept: list[Element]) -> list[Element]:
    """Believed pieces without those that lead to other pages: "Read more: …", and a heading "Related" with its links."""
    out: list[Element] = []
    is_after = False
    for leaf in kept:
        text = tree.text_of(leaf)
        if is_of_mails(leaf):
            continue
        if is_pointer(leaf):
            is_after = bool(POINTER.match(text))
            continue
        if is_after and len(text) < LONGEST_POINTER and is_mostly_link(leaf):
            continue
        is_after = False
        out.append(leaf)
    return out or kept


def is_of_mails(leaf: Element) -> bool:
    """Whether a short piece tells of the sending of a letter: view in browser, unsubscribe."""
    return tells_of_mailing(tree.text_of(leaf))


def tells_of_mailing(text: str, most: int = LONGEST_POINTER) -> bool:
    """The same of a text of no more than so many letters."""
    return len(text) <= most and bool(OF_MAILS.search(text))


def is_pointer(leaf: Element) -> bool:
    """Whether a piece leads to other pages or counts what others have done."""
    text = tree.text_of(leaf)
    told = POINTER.match(text) or COUNT.match(text) or (POINTING.match(text) and is_mostly_link(leaf))
    return (len(text) < LONGEST_POINTER and bool(told)) or (len(text) < 400 and bool(AFFILIATE.search(text)))


def without_teasers(kept: list[Element], pieces: list[Element]) -> list[Element]:
    """Believed pieces without teasers of other pages: a heading, a few lines and "read the rest", twice or more.

    Args:
        pieces: all of the page, in order.
    """
    ends = [place for place, leaf in enumerate(pieces) if GO_ON.match(tree.text_of(leaf))]
    if len(ends) < 2:
        return kept
    drop: set[Element] = set()
    for end in ends:
        heads = [at for at in range(max(0, end - LONGEST_TEASER), end) if is_in_heading(pieces[at])]
        drop |= set(pieces[heads[-1] if heads else end : end + 1])
    rest = [leaf for leaf in kept if leaf not in drop]
    sizes = [sum(len(tree.text_of(leaf)) for leaf in some) for some in (rest, kept)]
    is_page_of_teasers = sizes[0] < LEAST_TEXT and sizes[0] < MOST_BOILERPLATE * sizes[1]
    return kept if is_page_of_teasers else rest


def without_last_links(kept: list[Element], host: str) -> list[Element]:
    """Believed pieces without the headlines of other pages at their end, and without the line that announces them.

    Headlines are links of some length to the same host, at least two; behind them only short lines may stand.
    """
    at = len(kept)
    links = 0
    for place in range(len(kept) - 1, 0, -1):
        leaf = kept[place]
        size = len(tree.text_of(leaf))
        if is_mostly_link(leaf) and leaf.tag not in ("td", "th"):
            links += size >= LEAST_HEADLINE and leads_within(leaf, host)
            at = place
        elif size >= LEAST_TEXT // 2 or (links and at == place + 1 and size >= LEAST_TEXT // 4):
            break
        elif links and at == place + 1:
            at = place  # what announces them
            break
    left = sum(len(tree.text_of(leaf)) for leaf in kept[:at])
    rest = kept[:at] if links >= 2 and left >= LEAST_TEXT else kept
    end = len(rest)
    while end > 1 and rest[end - 1].tag in ("h2", "h3", "h4", "h5", "h6"):
        end -= 1  # a heading of nothing
    return rest[:end]


def leads_within(leaf: Element, host: str) -> bool:
    """Whether the links of a piece lead to pages of the same host."""
    around = next(iter(leaf.iterancestors("a")), None)
    hosts = {host_of(link.get("href") or "") for link in ([around] if around is not None else leaf.iter("a"))}
    return hosts <= {"", host}


def is_in_heading(leaf: Element) -> bool:
    """Whether a piece is a heading or stands in one."""
    return any(element.tag in ("h1", "h2", "h3", "h4") for element in (leaf, *leaf.iterancestors()))


@tree.remembered
def is_mostly_link(leaf: Element) -> bool:
    """Whether most of a piece's letters lead elsewhere."""
    inside = next(iter(leaf.iterancestors("a")), None) is not None or leaf.tag == "a"
    linked = sum(len(tree.text_of(link)) for link in leaf.iter("a"))
    return inside or 2 * linked > len(tree.text_of(leaf))


@tree.remembered
def names_of(element: Element) -> str:
    """Its classes, name and role, with a hyphen where a capital begins a word."""
    names = f"{element.get('class') or ''} {element.get('id') or ''} {element.get('role') or ''}"
    return CAPITAL.sub("-", names)


def is_for_ears(element: Element) -> bool:
    """Whether it is said to those who hear the page, and not shown."""
    return bool(FOR_EARS.search(element.get("class") or ""))


@tree.remembered
def is_junk(element: Element) -> bool:
    """Whether its tag or names say boilerplate."""
    return element.tag in DROPPED_TAGS or bool(JUNK.search(names_of(element)))


def is_speaker(element: Element) -> bool:
    """Whether it is the foot of a quotation, which says who said it."""
    return element.tag == "footer" and next(element.iterancestors("blockquote"), None) is not None


def in_junk(element: Element, sound: Collection[Element] = ()) -> bool:
    """Whether it or anything around it does; what is around the text itself (sound) may have what name it will."""
    above = (up for up in element.iterancestors() if up.tag not in ("body", "html") and up not in sound)
    return is_junk(element) or any(is_junk(up) for up in above)
