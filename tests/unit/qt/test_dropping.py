"""What is dropped on parts of the window: taken where it is welcome, left where it is not, and never lost."""

import json
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPoint
from PyQt6.QtWidgets import QAbstractScrollArea, QWidget
from pytestqt.qtbot import QtBot

from driving import drop, file_in_hand, link
from helpers import undo
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.entries.layout import Layout, LayoutKind
from wily_magpie.core.session.session import Session
from wily_magpie.qt.editors.findings_list import DRAGGED, dragged_finding
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import SOURCES
from wily_magpie.qt.stations.sources.station import SourcesStation

PATIENCE_MS = 15_000
KEY = "collection:1"


@pytest.fixture
def station(qtbot: QtBot, window: MainWindow, session: Session) -> SourcesStation:
    """Three entries by title."""
    for title in ("Dam", "Mill", "Weir"):
        session.do(AddEntry(KEY, title))
    window.go(SOURCES)
    station = window.stack.sources
    station.show_question(KEY, "sortBy title")
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 3, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: station.panel.entry is not None, timeout=PATIENCE_MS)
    return station


def port_of(area: QAbstractScrollArea) -> QWidget:
    """Where things are dropped on what scrolls."""
    port = area.viewport()
    assert port is not None
    return port


def titles(session: Session) -> list[str]:
    """Of all sources."""
    place = session.overview.place(KEY)
    found = session.reader.entries.listing(KEY, session.reader.entries.question(KEY, "sortBy title"))
    return [one.title for one in session.reader.entries.rows(place.key, found.ids)]


def files_of(session: Session, title: str) -> object:
    """The files of the entry of that title."""
    question = session.reader.entries.question(KEY, f'title == "{title}"')
    entry = session.reader.entries.rows(KEY, session.reader.entries.listing(KEY, question).ids)[0]
    return entry.value("files")


@pytest.fixture
def paper(tmp_path: Path) -> Path:
    """A file that can be kept."""
    path = tmp_path / "a plan.txt"
    path.write_text("The plan of the mill.\n", "utf-8")
    return path


def test_a_file_goes_to_the_entry_that_it_is_dropped_on(
    qtbot: QtBot, station: SourcesStation, session: Session, window: MainWindow, paper: Path
) -> None:
    table = station.table
    row = table.table.row_of(station.table.table.listing.ids[1])
    assert row == 1
    at = table.visualRect(table.table.index(row, 0)).center()
    assert drop(port_of(table), file_in_hand(paper), at)
    qtbot.waitUntil(lambda: "It is attached." in window.notice.text.text(), timeout=PATIENCE_MS)
    assert str(files_of(session, "Mill")).count("a plan.txt") == 1
    assert files_of(session, "Dam") is None
    assert table.currentIndex().row() == 1
    undo(session)
    assert files_of(session, "Mill") is None


def test_below_all_rows_it_becomes_an_entry_of_its_own(
    qtbot: QtBot, station: SourcesStation, session: Session, window: MainWindow, paper: Path
) -> None:
    port = port_of(station.table)
    assert drop(port, file_in_hand(paper), QPoint(30, port.height() - 5))
    qtbot.waitUntil(lambda: "It is an entry now." in window.notice.text.text(), timeout=PATIENCE_MS)
    assert len(titles(session)) == 4
    undo(session)
    assert titles(session) == ["Dam", "Mill", "Weir"]


def test_on_the_entry_beside_the_table_it_is_attached_to_that(
    qtbot: QtBot, station: SourcesStation, session: Session, window: MainWindow, paper: Path
) -> None:
    station.table.choose(station.table.table.listing.ids[2])
    qtbot.waitUntil(
        lambda: station.panel.entry is not None and station.panel.entry.title == "Weir", timeout=PATIENCE_MS
    )
    assert drop(station.panel, file_in_hand(paper))
    qtbot.waitUntil(lambda: files_of(session, "Weir") is not None, timeout=PATIENCE_MS)


def test_where_there_is_nothing_yet_it_is_the_first_entry(
    qtbot: QtBot, station: SourcesStation, session: Session, window: MainWindow, paper: Path
) -> None:
    station.show_question(KEY, 'title = "nothing of that name"')
    empty = station.page.empty
    qtbot.waitUntil(lambda: station.page.stack.currentWidget() is empty, timeout=PATIENCE_MS)
    assert drop(empty, file_in_hand(paper))
    qtbot.waitUntil(lambda: len(titles(session)) == 4, timeout=PATIENCE_MS)


def test_cards_take_files_as_the_table_does(
    qtbot: QtBot, station: SourcesStation, session: Session, window: MainWindow, paper: Path
) -> None:
    station.arrange(Layout(kind=LayoutKind.CARDS))
    qtbot.waitUntil(lambda: station.page.stack.currentWidget() is not station.table, timeout=PATIENCE_MS)
    cards = station.faces.cards
    qtbot.waitUntil(lambda: cards.isVisible() and not cards.is_stale, timeout=PATIENCE_MS)
    assert drop(port_of(cards), file_in_hand(paper), cards.rect_of(1).center() - cards.offset)
    qtbot.waitUntil(lambda: files_of(session, "Mill") is not None, timeout=PATIENCE_MS)


def test_what_has_nothing_in_it_is_not_welcome_anywhere(station: SourcesStation, window: MainWindow) -> None:
    nothing = QMimeData()
    nothing.setData("application/x-of-somebody-else", b"x")
    for target in (port_of(station.table), station.panel, station.page.empty, window):
        assert not drop(target, nothing)


def test_a_link_on_the_window_opens_its_slip(qtbot: QtBot, window: MainWindow, station: SourcesStation) -> None:
    opened: list[str] = []
    window.lists.arriving.open_one = opened.append
    assert drop(window, link("https://mill.example/a"), QPoint(600, 20))
    assert opened == ["https://mill.example/a"]


def test_a_table_dropped_on_the_page_of_a_new_place_is_looked_at(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, tmp_path: Path
) -> None:
    path = tmp_path / "Mills.csv"
    path.write_text("Title,Built\nHeron Mill,1871\n", "utf-8")
    station.pages.open_new_place()
    page = station.pages.new_place
    assert drop(page, file_in_hand(path))
    qtbot.waitUntil(lambda: page.name.text() == "Mills", timeout=PATIENCE_MS)


def test_a_finding_is_known_by_what_it_carries_and_nothing_else_is_one() -> None:
    data = QMimeData()
    data.setData(DRAGGED, json.dumps(["Heron Mill", "page title"]).encode())
    assert dragged_finding(data) == ("Heron Mill", "page title")
    other = QMimeData()
    other.setText("Heron Mill")
    assert dragged_finding(other) is None
    assert dragged_finding(None) is None
