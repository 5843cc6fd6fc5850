"""`./magpie bench read`: a text of 10,000, 100,000 and 1,000,000 words is opened, marked and searched in the Read station.

Floor: a bare QTextBrowser that is given the HTML of the same text and paints its first screen.
"""

import random
import re
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from bench_places import WORDS
from measure import by_turns, tell, timed
from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QApplication, QTextBrowser

from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.entries.parts import divided
from wily_magpie.core.entries.rendering import to_safe_html
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.application import make_application, make_window
from wily_magpie.qt.marked_text import chosen_in
from wily_magpie.qt.station_stack import READ
from wily_magpie.qt.style.theme import THEME

if TYPE_CHECKING:
    from wily_magpie.qt.stations.read.station import ReadStation

PLACE, SENTENCE, SENTENCES = "collection:1", 12, 8
SIZES = {10_000: "100 ms", 100_000: "150 ms", 1_000_000: "300 ms"}
RUNS, MARKS, BETWEEN, LARGE = 3, 30, 90, 1_000_000


def text_of(words: int) -> str:
    """A made-up text with headings, of about so many words."""
    draw = random.Random(words)
    sentences = [" ".join(draw.choices(WORDS, k=SENTENCE)).capitalize() + "." for _ in range(words // SENTENCE)]
    paragraphs = [" ".join(sentences[at : at + SENTENCES]) for at in range(0, len(sentences), SENTENCES)]
    return "\n\n".join(f"## Part {at}\n\n{one}" if at % 40 == 0 else one for at, one in enumerate(paragraphs))


def bench_read() -> None:
    """Prints the figures."""
    application = make_application()
    THEME.apply(application, "light")
    for words, aim in SIZES.items():
        with tempfile.TemporaryDirectory() as inside:
            bench_text(Path(inside), words, aim)


def wait_for(test: Callable[[], bool]) -> None:
    """Lets the window work until something is so."""
    while not test():
        QApplication.processEvents()


def bench_text(folder: Path, words: int, aim: str) -> None:
    """One text."""
    body = text_of(words)
    session = Session(folder / "library", Fetcher())
    session.do(AddEntry(PLACE, "Long", {}, body))
    session.do(AddEntry(PLACE, "Short", {}, "Another."))
    settings = QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat)
    window = make_window(session, settings, lambda _a: None, [], person=PersonSettings(folder / "settings.toml"))
    window.begun.stop()
    window.resize(1280, 800)
    window.show()
    window.go(READ)
    station = window.stack.read
    safe = to_safe_html(body)  # of a very long text its beginning alone

    def ours() -> float:
        open_entry(station, 2)
        divided.cache_clear()
        return timed(lambda: open_entry(station, 1))()

    spent = by_turns(RUNS if words < LARGE else 1, ours=ours, floor=timed(lambda: bare(safe)))
    tell(f"{words:,} words: first screen", spent["ours"], spent["floor"], "bare QTextBrowser", aim)
    marked = [mark_one(station, number) for number in range(MARKS)]
    looked = by_turns(
        RUNS if words < LARGE else 1, ours=timed(lambda: station.finding.look(["mill"])), floor=lambda: plain(body)
    )
    print(
        f"{words:,} words: a mark more, slowest of {MARKS}: {max(marked) * 1000:.1f} ms   aim: 50 ms at 100,000",
        flush=True,
    )
    name = f"{words:,} words: {len(station.finding.hits):,} hits"
    tell(name, looked["ours"], looked["floor"], "re.finditer over the text")
    window.close()
    session.close()


def mark_one(station: "ReadStation", number: int) -> float:
    """Shows one mark more, somewhere in the middle of the text; in seconds."""
    view = station.view
    document = view.document()
    begin = (document.characterCount() // 2 if document is not None else 0) + number * BETWEEN
    view.choose(begin, begin + BETWEEN // 2)

    def show() -> None:
        chosen = chosen_in(view)
        view.show_marks((*view.marks, chosen) if chosen is not None else view.marks)

    return timed(show)()


def plain(body: str) -> float:
    """Seconds for all hits in the plain text."""
    return timed(lambda: sum(1 for _ in re.finditer("mill", body, re.IGNORECASE)))()


def bare(safe: str) -> None:
    """Shows the HTML in a bare view."""
    view = QTextBrowser()
    view.resize(1280, 800)
    view.setHtml(safe)
    view.show()
    view.grab()
    view.deleteLater()


def open_entry(station: "ReadStation", entry_id: int) -> None:
    """Opens one and waits until it is seen."""
    station.open(PLACE, entry_id, [1, 2])
    wait_for(lambda: station.entry is not None and station.entry.id == entry_id)
    station.view.grab()
