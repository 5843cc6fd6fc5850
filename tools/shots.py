"""`./magpie shots`: one picture of each main view, made from the demo library, into docs/screenshots.

`./magpie shots NAME…` makes only those; `--to DIR` puts them elsewhere.
"""

import argparse
import os
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
if os.geteuid() == 0:  # Chromium's sandbox refuses to run as root
    os.environ["QTWEBENGINE_DISABLE_SANDBOX"] = "1"

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QApplication, QDialog

from wily_magpie.core.commands.entries import SetText
from wily_magpie.core.commands.files import AttachFiles
from wily_magpie.core.commands.lists import MakeList
from wily_magpie.core.commands.mark_uses import GatherMarks
from wily_magpie.core.commands.marks import PutMark
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.exchange.addresses import addresses_in_text
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.queries.marks import MarkScope
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.demo.leaflet import leaflet
from wily_magpie.demo.library import make_demo
from wily_magpie.demo.server import StandInWeb
from wily_magpie.demo.web import samples
from wily_magpie.qt.application import make_application, make_window
from wily_magpie.qt.list_pages import ListStartPage
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import CAPTURE, REVIEW, SOURCES, TEMPLATES
from wily_magpie.qt.stations.read.files_shown import readable
from wily_magpie.qt.stations.read.side import MARKS
from wily_magpie.qt.stations.sources.whole_entry import BOTH, PAGE
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.tray import TrayPanel

OUT = Path(__file__).parent.parent / "docs" / "screenshots"
"""Pictures for the documents alone."""
LONGEST_WAIT_S = 30


def wait(until: Callable[[], object], more_s: float = 0.4) -> None:
    """Lets the window live until something is so, and a little longer."""
    end = time.monotonic() + LONGEST_WAIT_S
    while not until():
        QApplication.processEvents()
        if time.monotonic() > end:
            sys.exit("shots: the window did not come to rest")
        time.sleep(0.01)
    end = time.monotonic() + more_s
    while time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.01)


@dataclass
class Scene:
    """The window, what its library holds, and the folder of the pictures."""

    window: MainWindow
    session: Session
    to: Path

    def ids(self, place: str, question: str) -> list[int]:
        """The answers of a question."""
        entries = self.session.reader.entries
        key = entries.place(place).key
        return list(entries.listing(key, entries.question(key, question)).ids)

    def set(self, place: str, ids: list[int], field: str, text: str) -> None:
        """Sets a field."""
        self.session.do(SetText(self.session.place(place).key, ids, field, text))

    def open(self, place: str) -> None:
        """Opens a place in Sources."""
        window = self.window
        window.go(SOURCES)
        window.stack.sources.open_place(self.session.place(place).key)
        wait(lambda: (at := window.stack.sources.place) is not None and at.name == place and has_rows(window)())


def has_rows(window: MainWindow) -> Callable[[], object]:
    """Whether the table has its answer."""
    return lambda: window.stack.sources.table.table.rowCount() > 0


def sources(scene: Scene) -> None:
    window = scene.window
    window.go(SOURCES)
    wait(has_rows(window))
    place = scene.session.place("Sources").key
    asked = '(status any "to read; reading" or tags = law) not entry.has = comment and published > 1700'
    window.stack.sources.show_question(place, f"{asked} sortBy chapter/group captured/descending title")
    wait(has_rows(window))
    listing = window.stack.sources.table.table.listing
    window.stack.sources.table.choose(listing.ids[4])
    window.stack.sources.table.setFocus()


def view_of(scene: Scene, name: str) -> None:
    """Opens a view of Sources by its name."""
    window = scene.window
    window.go(SOURCES)
    station = window.stack.sources
    view = next(one for one in scene.session.overview.views_of(scene.session.place("Sources").key) if one.name == name)
    station.open_view(view)
    wait(lambda: station.state.view is not None and station.state.view.name == name and has_rows(window)(), 1.2)
    face = station.page.stack.currentWidget()
    if face is not None:
        face.setFocus()


def cards(scene: Scene) -> None:
    view_of(scene, "Pictures")


def lanes(scene: Scene) -> None:
    station = scene.window.stack.sources
    station.is_folded = True
    station.show_panel()
    view_of(scene, "Progress")


def timeline(scene: Scene) -> None:
    station = scene.window.stack.sources
    station.is_folded = False
    station.show_panel()
    station.faces.timeline.show_all()
    view_of(scene, "Time line")


def search(scene: Scene) -> None:
    window = scene.window
    window.go(SOURCES)
    scene.session.refresh_words()
    window.top.address.setText("tide pond -loaf")
    window.stack.sources.search("tide pond -loaf")
    wait(lambda: window.stack.sources.results.list.count() > 0, 0.6)


def capture(scene: Scene) -> None:
    window = scene.window
    window.top.address.clear()
    window.go(CAPTURE)
    station = window.stack.capture
    station.open("http://tidal-studies.example/article/12/3/41")
    wait(lambda: station.card.slip is not None, 1.0)


def capture_marks(scene: Scene) -> None:
    """The marking mode, with marks on the page and on the slip."""
    window = scene.window
    window.go(CAPTURE)
    station = window.stack.capture
    station.open("http://slow-letters.example/essays/the-mill-at-night")
    wait(lambda: station.card.slip is not None and "at-night" in station.card.slip.reading.page.address, 1.0)
    wait(lambda: station.card.slip is not None and len(station.card.slip.body) > 300)
    text = station.card.slip.reading.content.text if station.card.slip else ""
    lines = [line for line in text.splitlines() if len(line) > 80]
    for kind, line in (("quotation", lines[0]), ("question", lines[2])):
        station.marking.add(kind, {"exact": line[: line.index(".") + 1], "prefix": "", "suffix": "", "picture": ""})
    wait(lambda: station.card.slip is not None and len(station.card.slip.marks) == 2)
    station.marking.set_on(is_on=True)
    wait(lambda: station.marking.is_on)
    for _ in range(4):
        if station.view is not None:
            station.view.ask_marking("block(1)")
    wait(lambda: True, 0.6)


def read(scene: Scene) -> None:
    window = scene.window
    place = scene.session.place("Sources")
    ids = scene.ids("Sources", "sortBy captured/descending")
    (heron,) = scene.ids("Sources", 'title = "Heron Mill turns"')[:1]
    window.read_entry(place.key, heron, ids)
    view = window.stack.read.view
    wait(lambda: view.marks)
    view.point_at(view.marks[-1])  # so far down that its passage is the last of those that are seen
    window.stack.read.marking.open_at(view.textCursor().selectionStart())


def marks(scene: Scene) -> None:
    """All marks by chapter, and those gathered for a note."""
    window, reader = scene.window, scene.session.reader
    window.goals.show_all_marks("", MarkScope())
    desk = window.stack.read.marks_desk
    wait(lambda: bool(desk.list.marks.marks()))
    notebook = scene.session.place("Notebook").key
    (note,) = scene.ids("Notebook", 'title = "Opening of the book"')[:1]
    law = [one.number for one in reader.marks.found(MarkScope()) if one.group("chapter").startswith("4")]
    scene.session.do(GatherMarks(notebook, note, law[:4]))
    desk.using.chapter = (notebook, note, "Opening of the book")
    desk.by.setCurrentIndex(desk.by.findData("chapter"))
    desk.ask()
    wait(lambda: bool(desk.gathered.marks.marks()))
    desk.list.choose([desk.list.marks.marks()[2].number])


def pdf(scene: Scene) -> None:
    """A PDF with a mark on its page, and what is looked for."""
    window, read = scene.window, scene.window.stack.read
    place = scene.session.place("Sources").key
    (paper,) = scene.ids("Sources", 'address = "http://tidal-studies.example/article/14/1/3"')[:1]
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "mills-between-two-seas.pdf"
        file.write_bytes(leaflet())
        scene.session.do(AttachFiles(place, paper, "files", (file,)))
    scene.session.do(PutMark(place, paper, Mark("a pond can be filled four times a day", "evidence", locator="p. 1")))
    window.read_entry(place, paper, ())
    if not read.side.is_shown(MARKS):
        window.commands.bound["marks-list"].run()
    wait(lambda: read.entry is not None and read.entry.id == paper and bool(read.whole and read.whole.files))
    read.files.open(next(iter(readable(read.whole))) if read.whole is not None else "")
    wait(lambda: read.files.shows_pdf and bool(read.files.pdf and read.files.pdf.pages.images), 0.6)
    if read.files.pdf is not None:
        read.files.pdf.line.setText("mill")


def home(scene: Scene) -> None:
    """A home page as a page alone."""
    scene.window.stack.read.files.close()
    scene.window.commands.bound["marks-list"].run()
    pages = scene.window.stack.sources.pages
    scene.window.go(SOURCES)
    scene.open("Notebook")
    (number,) = scene.ids("Notebook", "title = Home")
    pages.open_whole(scene.session.place("Notebook").key, number)
    pages.whole.show_face(PAGE)
    wait(lambda: pages.whole.entry is not None and pages.whole.side.entry == pages.whole.entry, 1.0)


def day(scene: Scene) -> None:
    """A day that has a page, in its month."""
    pages = scene.window.stack.sources.pages
    pages.whole.show_face(BOTH)
    pages.open_day(scene.session.place("Notebook").key)
    wait(lambda: pages.day.entry is not None)
    pages.day.show_day(date(2026, 11, 20))
    wait(lambda: pages.day.entry is not None and pages.day.entry.title == "2026-11-20", 0.8)


def note(scene: Scene) -> None:
    window = scene.window
    ids = scene.ids("Notebook", 'title = "What is a pond"')
    scene.set("Notebook", ids, "status", "draft")
    scene.open("Notebook")
    window.stack.sources.pages.open_whole(scene.session.place("Notebook").key, ids[0])
    wait(lambda: window.stack.sources.pages.whole.events.count() > 0)


def setup(scene: Scene) -> None:
    window = scene.window
    scene.open("Sources")
    window.stack.sources.pages.open_setup(scene.session.place("Sources").key, "status")


def review(scene: Scene) -> None:
    window = scene.window
    window.go(REVIEW)


ADDRESSES = """http://estuarine-lexicon.example/tide-mill
http://slow-letters.example/essays/the-mill-at-night
http://millwrights-board.example/thread/311
http://gauge-office.example/account
http://estuary-courier.example/2018/06/01/withdrawn
http://quayside-books.example/things/flour-scoop
http://shio-notes.example/suisha
http://short-links.example/t/heron
ask Edith about the ferry
"""


def list_before(scene: Scene) -> None:
    scene.window.go(CAPTURE)
    scene.window.lists.arriving.take_text(ADDRESSES)
    wait(lambda: isinstance(scene.window.lists.page, ListStartPage) and scene.window.lists.page.start.text())
    scene.window.lists.page.tags.setText("to sort")  # type: ignore[attr-defined]


def tray(scene: Scene) -> None:
    window = scene.window
    window.go(SOURCES)
    number = scene.session.do(MakeList("8 addresses from a text", addresses_in_text(ADDRESSES).addresses))
    window.lists.start(number)
    wait(lambda: (whole := scene.session.reader.lists.find(number)) is not None and whole.left == 0, 1.0)
    window.tray.open()
    wait(lambda: bool(window.tray.lists))


def companion(scene: Scene) -> None:
    """A real browser on a screen of its own; what is made there is saved at once."""
    from companion_shot import shoot_both  # needs browsers, Xvfb and openbox

    shoot_both(scene.session, scene.to / "companion.png")


def templates(scene: Scene) -> None:
    window = scene.window
    window.go(TEMPLATES)
    station = window.stack.templates
    station.open("Article")
    station.fill()
    wait(lambda: len(station.bench.samples) > 3 and len(station.bench.cells) == len(station.bench.fields))
    station.bench.table.setCurrentCell(6, 6)
    station.bench.table.setFocus()


SHOTS: dict[str, tuple[Callable[[Scene], None], str]] = {
    "sources": (sources, "light"),
    "cards": (cards, "light"),
    "lanes": (lanes, "light"),
    "timeline": (timeline, "dark"),
    "search": (search, "light"),
    "read": (read, "light"),
    "marks": (marks, "light"),
    "pdf": (pdf, "dark"),
    "home": (home, "light"),
    "day": (day, "light"),
    "note": (note, "dark"),
    "setup": (setup, "light"),
    "review": (review, "light"),
    "capture": (capture, "light"),
    "capture-marks": (capture_marks, "light"),
    "list": (list_before, "light"),
    "tray": (tray, "light"),
    "templates": (templates, "light"),
    "companion": (companion, "light"),
}


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="*", choices=[[], *SHOTS], metavar="NAME")
    parser.add_argument("--to", type=Path, default=OUT)
    args = parser.parse_args()
    args.to.mkdir(parents=True, exist_ok=True)
    application = make_application()
    with tempfile.TemporaryDirectory() as folder:
        web = StandInWeb(passes_on=False)
        make_demo(Path(folder) / "demo", Fetcher(lambda _address: web.proxy))
        session = Session(Path(folder) / "demo", Fetcher(lambda _address: web.proxy))
        settings = QSettings(str(Path(folder) / "settings.ini"), QSettings.Format.IniFormat)
        THEME.apply(application, "light")
        person = PersonSettings(Path(folder) / "settings.toml")
        person.path = Path("~/.config/wily-magpie/settings.toml")  # as it is told; nothing is written here
        window = make_window(
            session,
            settings,
            lambda _address: web.proxy,
            samples(),
            is_demo=True,
            person=person,
        )
        window.show()
        wait(lambda: True)
        window.resize(1280, 800)  # once the window has made itself fit the small screen that there is without one
        for name in args.names or SHOTS:
            prepare, look = SHOTS[name]
            window.set_look(look)
            window.activateWindow()  # after another one was open, the keyboard is in none
            prepare(Scene(window, session, args.to))
            wait(lambda: not any(not job.is_over for job in session.jobs.all.values()), 0.6)
            page = next((one for one in window.findChildren((QDialog, TrayPanel)) if one.isVisible()), None)
            if name == "companion":
                continue
            (page or window).grab().save(str(args.to / f"{name}.png"))
            if page is not None:
                page.close()
            sys.stdout.write(f"{args.to / f'{name}.png'}\n")
        window.close()
        session.close()
        web.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
