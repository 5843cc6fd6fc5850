"""Marked words on their way to another text: with their source, in the person's own pattern."""

import html
import re
import unicodedata
from collections.abc import Mapping, Sequence
from functools import lru_cache
from itertools import groupby

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.mark import Mark, alternative_of, as_markdown, bare, place_of
from wily_magpie.core.fields.people import given_first
from wily_magpie.core.places.api import PlaceInfo

KEY_FIELDS = ("citation_key", "cite_key", "key")
"""Fields that name a source in citations, where a place has one."""
SHORT_WORD = 3
PARAGRAPH_END = "\n\n"
NO_PARAGRAPH = re.compile(r"\s*(#{1,6}\s|!\[[^\]]*\]\([^)]*\)\s*$|[-*_]{3,}\s*$)")
"""Headings, pictures, lines across."""
Plain = str | list[str] | dict[str, str]


@dataclass(frozen=True)
class Source:
    """What is quoted from.

    Attributes:
        text: the whole of it, where it is known: it tells in which paragraph a mark stands.
    """

    place: PlaceInfo
    entry: Entry
    text: str = ""

    @property
    def address(self) -> str:
        """Of the page that it was kept from, or ""."""
        main = self.place.main_address
        value = self.entry.value(main.key) if main is not None else None
        return value if isinstance(value, str) else ""

    @property
    def authors(self) -> list[str]:
        """Their names, the given ones first."""
        people = self.entry.value("authors")
        return [given_first(one) for one in people] if isinstance(people, tuple) else []

    @property
    def year(self) -> str:
        """When it was published, or ""."""
        return str(self.entry.value("published") or "")[:4]

    @property
    def title(self) -> str:
        """In one line."""
        return " ".join(self.entry.title.split())

    @property
    def key(self) -> str:
        """By which citations name it: its own field for that, else the first family name and the year, else a word of its title."""
        for name in KEY_FIELDS:
            value = self.entry.value(name)
            if isinstance(value, str) and value:
                return value
        people = self.entry.value("authors")
        first = str(people[0]) if isinstance(people, tuple) and people else ""
        family = first.partition(",")[0] if "," in first else first.rpartition(" ")[2]
        named = letters(family) or next(
            (letters(word) for word in self.title.split() if len(letters(word)) > SHORT_WORD), ""
        )
        return f"{named or letters(self.title) or 'source'}{self.year}"

    def where(self, mark: Mark) -> str:
        """Where in it a mark stands, as citations say it: its page or time, else the paragraph of the text; or ""."""
        if mark.locator or not self.text or mark.picture:
            return mark.locator
        text = paragraphs_of(self.text)
        found = place_of(mark, text)
        return f"§ {text.count(PARAGRAPH_END, 0, found[0]) + 1}" if found is not None else ""

    @property
    def link(self) -> str:
        """Its title in Markdown, which leads to its address where it has one."""
        return f"[{alternative_of(self.title)}](<{self.address}>)" if self.address else self.title

    def cited(self, marks: Sequence[Mark]) -> str:
        """As citations in Markdown name it and the places of some marks."""
        return f"[@{', '.join((self.key, *self.wheres(marks)))}]"

    def wheres(self, marks: Sequence[Mark]) -> list[str]:
        """Where some marks stand, each place once."""
        return list(dict.fromkeys(filter(None, map(self.where, marks))))


@dataclass(frozen=True)
class Quotable:
    """A mark with its source."""

    source: Source
    mark: Mark


@dataclass(frozen=True)
class Quotation:
    """See the module.

    Attributes:
        markdown: block quotations, the reader's comments below them, and the sources; html: the same as rich text.
        plain: the same as plain text.
    """

    markdown: str
    html: str
    plain: str


@lru_cache(maxsize=8)
def paragraphs_of(text: str) -> str:
    """The words of a text in its paragraphs: headings and pictures are none."""
    blocks = re.split(r"\n\s*\n", text)
    return bare(
        PARAGRAPH_END.join(block.strip() for block in blocks if block.strip() and not NO_PARAGRAPH.match(block))
    )


def letters(text: str) -> str:
    """The plain small letters of a text."""
    apart = unicodedata.normalize("NFKD", text.casefold())
    return "".join(sign for sign in apart if sign.isalnum() and sign.isascii()) or "".join(
        sign for sign in text.casefold() if sign.isalnum()
    )


def names_of(one: Quotable) -> Mapping[str, Plain]:
    """What the pattern of a quotation can name."""
    source, mark = one.source, one.mark
    fields = {field.key: field.kind.show(source.entry.value(field.key)) for field in source.place.fields}
    return {
        "words": " ".join(mark.exact.split()), "quote": as_markdown((Mark(mark.exact, picture=mark.picture),)),
        "comment": mark.comment.strip(), "kind": mark.kind, "where": source.where(mark), "cite": source.cited((mark,)),
        "key": source.key, "title": source.title, "authors": source.authors, "year": source.year,
        "address": source.address, "link": source.link, "entry": fields,
    }  # fmt: skip


NAMES = (
    "words",
    "quote",
    "comment",
    "kind",
    "where",
    "cite",
    "key",
    "title",
    "authors",
    "year",
    "address",
    "link",
    "entry",
)
EXAMPLE = """{{ quote }}

{{ comment }}

— {{ authors | join(", ") }}, {{ link }} {{ cite }}"""
"""What a pattern looks like."""


def check_pattern(text: str) -> None:
    """Whether a pattern can be read, and names only what there is.

    Raises:
        Mistake: it cannot; where and why is told.
    """
    from wily_magpie.core.templates import apart  # seldom needed

    apart.check(text, "the pattern of quotations", NAMES)


def quotation(chosen: Sequence[Quotable], pattern: str = "") -> Quotation:
    """Some marks as quotations.

    Args:
        pattern: an expression over NAMES for each mark; "" for the usual: marks of one source that follow one another have it once.

    Raises:
        UserError: the pattern fails.
    """
    return by_pattern(chosen, pattern) if pattern.strip() else usual(chosen)


def by_pattern(chosen: Sequence[Quotable], pattern: str) -> Quotation:
    """Each mark as the pattern says."""
    from wily_magpie.core.entries.rendering import to_safe_html  # seldom needed
    from wily_magpie.core.templates import apart

    texts = apart.write(pattern, [names_of(one) for one in chosen])
    tidied = [re.sub(r"\n{3,}", "\n\n", text).strip() for text in texts]
    text = "\n\n".join(one for one in tidied if one) + "\n"
    return Quotation(text, to_safe_html(text), text)


def usual(chosen: Sequence[Quotable]) -> Quotation:
    """The passages, and their source below the last of those that follow one another."""
    runs = [list(run) for _, run in groupby(chosen, lambda one: (one.source.place.key, one.source.entry.id))]
    return Quotation(
        "\n".join(run_markdown(run) for run in runs), "".join(run_html(run) for run in runs),
        "\n".join(run_plain(run) for run in runs),
    )  # fmt: skip


def told_of(source: Source) -> tuple[str, str]:
    """What stands before the title of a source, and behind it."""
    names = ", ".join(source.authors)
    return f"{names}: " if names else "", f" ({source.year})" if source.year else ""


def wheres(run: Sequence[Quotable]) -> str:
    """Where the marks of a run stand."""
    return "".join(f", {one}" for one in run[0].source.wheres([one.mark for one in run]))


def run_markdown(run: Sequence[Quotable]) -> str:
    """The marks of one source as Markdown."""
    source, marks = run[0].source, tuple(one.mark for one in run)
    before, behind = told_of(source)
    return f"{as_markdown(marks)}\n\n— {before}{source.link}{behind} {source.cited(marks)}\n"


def run_html(run: Sequence[Quotable]) -> str:
    """The same as rich text."""
    source = run[0].source
    before, behind = told_of(source)
    said = "".join(
        f"<blockquote>{html.escape(one.mark.exact)}</blockquote>"
        + (f"<p>{html.escape(one.mark.comment)}</p>" if one.mark.comment else "")
        for one in run
    )
    shown = html.escape(source.title)
    rich = f'<a href="{html.escape(source.address)}">{shown}</a>' if source.address else shown
    return f"{said}<p>— {html.escape(before)}{rich}{behind}{html.escape(wheres(run))}</p>"


def run_plain(run: Sequence[Quotable]) -> str:
    """The same as plain text."""
    source = run[0].source
    before, behind = told_of(source)
    said = "\n\n".join(
        f"“{' '.join(one.mark.exact.split())}”" + (f"\n{one.mark.comment.strip()}" if one.mark.comment.strip() else "")
        for one in run
    )
    address = f", {source.address}" if source.address else ""
    return f"{said}\n— {before}{source.title}{behind}{wheres(run)}{address}\n"
