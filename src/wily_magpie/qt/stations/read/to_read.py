"""An entry as it is read: its text laid ready, what stands above it, how long it takes, where one stopped."""

import html
import re
from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtCore import QLocale

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.entries.moments import chapters_of, with_moments
from wily_magpie.core.entries.parts import Divided, divided
from wily_magpie.core.entries.rendering import Rendered
from wily_magpie.core.fields.people import given_first
from wily_magpie.core.pages.words import WORDS_A_MINUTE, word_count
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.core.queries.reader import Reader
from wily_magpie.qt.reading import Shown, shown
from wily_magpie.qt.stations.read.files_shown import is_media

if TYPE_CHECKING:
    from wily_magpie.core.queries.search import Wanted

FEWEST_CHAPTERS = 2
NO_TEXT = Divided("")


@dataclass(frozen=True)
class ToRead:
    """An entry as it is asked for to be read.

    Attributes:
        whole: None where it is gone; text: the whole of it, in parts; part: the one that is shown.
        minutes: that all of it takes, 0 without a text.
        stopped_at: letters of the part that one has behind one.
        marks: those that stand in the part; lost: those that stand nowhere in the text any more.
    """

    whole: WholeEntry | None = None
    text: Divided = NO_TEXT
    part: int = 0
    shown: Shown = Shown()
    minutes: int = 0
    stopped_at: int = 0
    marks: tuple[Mark, ...] = ()
    lost: tuple[Mark, ...] = ()


@dataclass(frozen=True)
class ComeIn:
    """Where one comes in, by the first of these that is known; else where one stopped.

    Attributes:
        words: that a search looked for.
    """

    part: int | None = None
    mark: Mark | None = None
    words: tuple[str, ...] = ()


def read(reader: Reader, place: str, entry_id: int, at: ComeIn, *, hyphens: bool = False) -> ToRead:
    """An entry with what is needed to read a part of it.

    Args:
        hyphens: whether words may be parted at the end of a line, as the language of the entry has it, else that of the system.
    """
    whole = reader.entries.whole(place, entry_id)
    if whole is None:
        return ToRead()
    text = divided(without_title(whole.entry.body or "", whole.entry.title))
    first = text.raw(0)  # the words of a long text are reckoned from its first part
    words = word_count(first) * len(text.text) / max(len(first), 1)
    minutes = max(1, round(words / WORDS_A_MINUTE)) if words else 0
    stop = reader.entries.stopped_at(place, entry_id)
    part = part_for(text, at, stop)
    letters = stop - text.starts[part] if text.part_at(stop) == part else 0
    language = str(whole.entry.value("language") or QLocale().name()) if hyphens else ""
    rendered = reader.entries.rendered(text.part(part), whole.entry)
    if has_moments(whole, text):
        rendered = replace(rendered, html=with_moments(rendered.html))
    view = shown(rendered, language)
    where = {mark.place: text.part_of(mark) for mark in whole.marks}
    marks = tuple(mark for mark in whole.marks if where[mark.place] == part)
    lost = tuple(mark for mark in whole.marks if where[mark.place] is None and not (mark.picture or mark.locator))
    return ToRead(whole, text, part, view, minutes, letters, marks, lost)


def has_moments(whole: WholeEntry, text: Divided) -> bool:
    """Whether moments in a text are those of a film or recording: there is one, or the text tells its chapters."""
    return any(is_media(name) for name in whole.files) or len(chapters_of(text.raw(0))) >= FEWEST_CHAPTERS


def part_for(text: Divided, at: ComeIn, stop: int) -> int:
    """The part in which one comes in."""
    if at.part is not None:
        return max(0, min(at.part, len(text) - 1))
    if len(text) == 1:
        return 0
    if at.mark is not None:
        return text.part_of(at.mark) or 0
    if at.words:
        hits = text.hits("|".join(re.escape(word) for word in at.words))
        return next((part for part, count in enumerate(hits) if count), 0)
    return text.part_at(stop)


def looked_for(wanted: "Wanted") -> list[str]:
    """The words and phrases that a search looked for."""
    return [word.rstrip("*") for word in (*wanted.phrases, *wanted.words)]


def without_title(body: str, title: str) -> str:
    """The text without a first heading that says the title once more."""
    first, _, rest = body.lstrip().partition("\n")
    return rest if first.lstrip("# ").strip() == title.strip() and first.startswith("#") else body


def address_of(entry: Entry) -> str:
    """The entry's address, or ""."""
    value = entry.value("address")
    return value if isinstance(value, str) else ""


def note_for(rendered: Rendered, address: str) -> str:
    """What is said in the place of a text, as HTML; "" where there is one."""
    if rendered.markdown.strip():
        return ""
    if address:
        return "<p class='meta'>No text is kept here. Its address can be opened in the browser.</p>"
    return "<p class='meta'>No text is kept here yet. Write some in Sources.</p>"


def head_of(entry: Entry, part: int = 0) -> str:
    """Title and facts, as HTML of our own; every text in it is escaped. Above a later part stands the title alone."""
    if part:
        return f'<p class="meta">{html.escape(entry.title)}</p><hr>'
    people = entry.value("authors")
    names = ", ".join(map(given_first, people)) if isinstance(people, tuple) else ""
    facts = [names, str(entry.value("published") or "")[:10], str(entry.value("site") or "")]
    line = " · ".join(html.escape(fact) for fact in facts if fact)
    address = html.escape(address_of(entry))
    link = f'<p class="meta"><a href="{address}">{address}</a></p>' if address else ""
    return f'<h1>{html.escape(entry.title)}</h1><p class="meta">{line}</p>{link}<hr>'
