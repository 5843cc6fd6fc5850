"""An entry as it is read: its text laid ready, what stands above it, how long it takes, where one stopped."""

import html

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.rendering import Rendered
from wily_magpie.core.fields.people import given_first
from wily_magpie.core.pages.words import WORDS_A_MINUTE, word_count
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.core.queries.reader import Reader
from wily_magpie.qt.reading import Shown, shown


@dataclass(frozen=True)
class ToRead:
    """An entry as it is asked for to be read.

    Attributes:
        whole: None where it is gone; minutes: that it takes, 0 without a text.
        stopped_at: letters of its text that one has behind one.
    """

    whole: WholeEntry | None = None
    shown: Shown = Shown()
    minutes: int = 0
    stopped_at: int = 0


def read(reader: Reader, place: str, entry_id: int) -> ToRead:
    """An entry with what is needed to read it."""
    whole = reader.entries.whole(place, entry_id)
    if whole is None:
        return ToRead()
    body = without_title(whole.entry.body or "", whole.entry.title)
    words = word_count(body)
    minutes = max(1, round(words / WORDS_A_MINUTE)) if words else 0
    text = shown(reader.entries.rendered(body, whole.entry))
    return ToRead(whole, text, minutes, reader.entries.stopped_at(place, entry_id))


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


def head_of(entry: Entry) -> str:
    """Title and facts, as HTML of our own; every text in it is escaped."""
    people = entry.value("authors")
    names = ", ".join(map(given_first, people)) if isinstance(people, tuple) else ""
    facts = [names, str(entry.value("published") or "")[:10], str(entry.value("site") or "")]
    line = " · ".join(html.escape(fact) for fact in facts if fact)
    address = html.escape(address_of(entry))
    link = f'<p class="meta"><a href="{address}">{address}</a></p>' if address else ""
    return f'<h1>{html.escape(entry.title)}</h1><p class="meta">{line}</p>{link}<hr>'
