"""Where not all is shown or taken, that is said, with how much there is more."""

from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QLabel, QMenu, QWidget
from pytestqt.qtbot import QtBot

from helpers import add_sample
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.lists import MakeList
from wily_magpie.core.commands.templates import MakeWithSample
from wily_magpie.core.entries.capture_list import ListWanted
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.page import Finding, Page
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.template import Template
from wily_magpie.qt import list_pages, tray
from wily_magpie.qt.editors import findings_list
from wily_magpie.qt.editors.findings_list import FindingsList
from wily_magpie.qt.list_pages import ListPage, ListStartPage
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import SOURCES, TEMPLATES
from wily_magpie.qt.stations.sources import cell_commands, whole_entry
from wily_magpie.qt.stations.sources.setup import table_into
from wily_magpie.qt.stations.sources.station import SourcesStation
from wily_magpie.qt.stations.templates import sample_commands

PATIENCE_MS = 15_000
KEY = "collection:1"


@pytest.fixture
def station(qtbot: QtBot, window: MainWindow, session: Session) -> SourcesStation:
    """Five entries by title, the first with four headings in its text."""
    text = "\n\n".join(f"## Part {number}\n\nText." for number in range(4))
    for number in range(5):
        session.do(AddEntry(KEY, f"Mill {number}", {}, text if number == 0 else ""))
    window.go(SOURCES)
    station = window.stack.sources
    station.show_question(KEY, "sortBy title")
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 5, timeout=PATIENCE_MS)
    return station


def labels(widget: QWidget) -> list[str]:
    """What a part says."""
    return [one.text() for one in widget.findChildren(QLabel) if not one.isHidden()]


def test_rows_that_are_not_copied_are_told(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(cell_commands, "MOST_COPIED", 3)
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    station.table.selectAll()
    station.cells.copy_as("markdown")
    qtbot.waitUntil(lambda: clipboard.text().count("Mill ") == 3, timeout=PATIENCE_MS)
    assert window.notice.text.text().startswith("Only the first 3 of 5 rows are copied.")
    window.notice.hide()
    station.table.choose(station.table.table.listing.ids[4])
    station.cells.copy_as("markdown")
    qtbot.waitUntil(lambda: clipboard.text().count("Mill ") == 1, timeout=PATIENCE_MS)
    assert window.notice.isHidden()


def test_headings_that_have_no_door_are_counted(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(whole_entry, "MOST_HEADINGS", 3)
    window.show_note(KEY, station.table.table.listing.ids[0])
    whole = station.pages.whole
    qtbot.waitUntil(lambda: "and 1 more in the text" in labels(whole), timeout=PATIENCE_MS)
    monkeypatch.setattr(whole_entry, "MOST_HEADINGS", 4)
    whole.show_preview()
    qtbot.waitUntil(lambda: "and 1 more in the text" not in labels(whole), timeout=PATIENCE_MS)


def no_picture(_address: str, _take: Callable[[QImage], None]) -> None:
    """Nothing is fetched here."""


def test_what_a_page_says_beyond_the_list_is_found_by_words(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(findings_list, "MOST_SHOWN", 3)
    view = FindingsList(no_picture)
    qtbot.addWidget(view)
    view.show()
    view.show_findings([Finding("title", f"Mill {number}", "page title") for number in range(5)])
    assert view.list.count() == 3
    assert view.more.text() == "and 2 more: search for them above"
    view.search.setText("Mill 4")
    assert view.list.count() == 1
    assert view.more.isHidden()


@pytest.fixture
def address_list(session: Session) -> int:
    """A list of five addresses that has not begun."""
    addresses = tuple((f"https://mill.example/{number}", f"Mill {number}") for number in range(5))
    return session.do(MakeList("five mills", addresses, ListWanted("", "", ())))


def test_a_long_list_says_how_much_of_it_is_shown(
    qtbot: QtBot, window: MainWindow, address_list: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(list_pages, "MOST_SHOWN", 3)
    window.lists.open(address_list)
    page = window.lists.page
    assert isinstance(page, ListPage)
    qtbot.waitUntil(lambda: page.told.text().endswith("The first 3 of 5 are shown."), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: page.table.rowCount() == 3, timeout=PATIENCE_MS)  # the rows come by themselves
    page.close()
    text = "\n".join(f"https://weir.example/{number}" for number in range(4))
    window.lists.arriving.take_text(text, only_lists=True)
    qtbot.waitUntil(lambda: isinstance(window.lists.page, ListStartPage), timeout=PATIENCE_MS)
    start = window.lists.page
    assert isinstance(start, ListStartPage)
    qtbot.waitUntil(lambda: start.told.text().endswith("The first 3 of 4 are shown."), timeout=PATIENCE_MS)
    assert start.start.text() == "Capture these 4"
    start.close()


def test_the_tray_counts_the_lists_that_it_does_not_show(
    qtbot: QtBot, window: MainWindow, session: Session, address_list: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(tray, "MOST_LISTS", 1)
    session.do(MakeList("three more", (("https://weir.example/1", "Weir"),), ListWanted("", "", ())))
    qtbot.waitUntil(lambda: len(window.tray.lists) == 2, timeout=PATIENCE_MS)
    window.tray.open()
    assert "and 1 more, made before these" in labels(window.tray.panel)
    window.tray.panel.hide()


def test_a_long_table_says_how_much_of_it_is_shown_and_takes_all(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(table_into, "SHOWN_ROWS", 2)
    path = tmp_path / "Weirs.csv"
    path.write_text("Title\n" + "".join(f"Weir {number}\n" for number in range(4)), "utf-8")
    assert station.place is not None
    station.pages.open_table(station.place, path)
    qtbot.waitUntil(lambda: "table_into" in station.pages.__dict__, timeout=PATIENCE_MS)
    page = station.pages.table_into
    qtbot.waitUntil(page.take.isEnabled, timeout=PATIENCE_MS)
    assert "The first 2 of 4 rows are shown." in page.told.text()
    assert page.table.rowCount() == 3
    qtbot.mouseClick(page.take, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 9, timeout=PATIENCE_MS)


def test_kept_pages_that_are_not_offered_come_by_their_address(
    qtbot: QtBot, window: MainWindow, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sample_commands, "MOST_KEPT", 2)
    window.go(TEMPLATES)
    commands, menu = window.stack.templates.bench.sample_commands, QMenu()
    pages = [(KEY, number, f"Mill {number}") for number in range(3)]
    commands.show_kept(menu, pages)
    told = [(one.text(), one.isEnabled()) for one in menu.actions()]
    assert told[:2] == [("Mill 0", True), ("Mill 1", True)]
    assert told[2][0].startswith("These are the latest 2;")
    assert not told[2][1]
    commands.show_kept(menu, pages[:2])
    assert len(menu.actions()) == 2
    commands.show_kept(menu, [])
    assert [one.text() for one in menu.actions()] == ["No kept pages yet"]


def test_a_template_is_copied_deleted_and_made_as_its_starter_says(
    qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    window.go(TEMPLATES)
    station = window.stack.templates
    station.open("Article")
    qtbot.waitUntil(lambda: station.template is not None and station.template.name == "Article", timeout=PATIENCE_MS)
    window.commands.bound["back-to-starter"].run()
    qtbot.waitUntil(lambda: window.notice.text.text() == "“Article” is again as its starter says.", timeout=PATIENCE_MS)
    count = len(session.overview.templates)
    window.commands.bound["copy-template"].run()
    qtbot.waitUntil(lambda: len(session.overview.templates) == count + 1, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: station.template is not None and station.template.name != "Article", timeout=PATIENCE_MS)
    copied = station.template
    assert copied is not None
    assert copied.name.startswith("Article")
    window.commands.bound["delete-template"].run()
    qtbot.waitUntil(
        lambda: window.notice.text.text() == f"“{copied.name}” is deleted, with its samples.", timeout=PATIENCE_MS
    )
    assert len(session.overview.templates) == count
    page = Page("https://mill.example/a", "<title>Mill</title><p>The mill.</p>", "file")
    session.do(MakeWithSample(Template("Of my own", writes="Sources"), page, read_page(page), is_new_place=False))
    station.fill()
    qtbot.waitUntil(lambda: "Of my own" in session.overview.templates, timeout=PATIENCE_MS)
    station.open("Of my own")
    qtbot.waitUntil(lambda: station.template is not None and station.template.name == "Of my own", timeout=PATIENCE_MS)
    window.commands.bound["back-to-starter"].run()
    qtbot.waitUntil(lambda: "was not made from a starter" in window.notice.text.text(), timeout=PATIENCE_MS)
    assert add_sample(session, "Of my own", page) > 0
