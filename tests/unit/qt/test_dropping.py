"""What is dropped on parts of the window: taken where it is welcome, left where it is not, and never lost."""

import json
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt
from PyQt6.QtGui import QDrag, QDragEnterEvent, QMouseEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QApplication, QTableView, QWidget
from pytestqt.qtbot import QtBot

from driving import drop, file_in_hand, link, read_notebook
from helpers import undo
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.entries.layout import Layout, LayoutKind
from wily_magpie.core.session.session import Session
from wily_magpie.qt.dropped import ENTRIES, of_entries
from wily_magpie.qt.editors.findings_list import DRAGGED, dragged_finding
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import SOURCES
from wily_magpie.qt.stations.sources.choosing import Block
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


@pytest.fixture
def notes(qtbot: QtBot, window: MainWindow, session: Session, notes_path: Path) -> SourcesStation:
    """Three notes by title, one of them in a folder."""
    (notes_path / "Coast").mkdir()
    for name in ("dam", "mill", "Coast/weir"):
        (notes_path / f"{name}.md").write_text("Text.\n", "utf-8")
    key = read_notebook(qtbot, window, session)
    window.go(SOURCES)
    station = window.stack.sources
    station.show_question(key, "sortBy title")
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 3, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: station.left.folders.topLevelItemCount() == 1, timeout=PATIENCE_MS)
    return station


def drag(qtbot: QtBot, view: QTableView, start: QPoint, end: QPoint) -> None:
    """Presses, moves and lets go, as a hand does."""
    port, left, none = port_of(view), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    qtbot.mousePress(port, left, none, start)
    for step in range(1, 6):
        at = start + (end - start) * step / 5
        moved = QMouseEvent(
            QEvent.Type.MouseMove, QPointF(at), QPointF(port.mapToGlobal(at)), Qt.MouseButton.NoButton, left, none
        )
        QApplication.sendEvent(port, moved)
    qtbot.mouseRelease(port, left, none, end)


def middle(view: QTableView, row: int, column: int) -> QPoint:
    """Of a cell."""
    model = view.model()
    assert model is not None
    return view.visualRect(model.index(row, column)).center()


@pytest.mark.parametrize("is_pinned", [False, True])
def test_chosen_notes_are_dragged_to_a_folder_by_their_title(
    qtbot: QtBot, notes: SourcesStation, session: Session, notes_path: Path, monkeypatch: pytest.MonkeyPatch, *, is_pinned: bool
) -> None:  # fmt: skip
    taken: list[QMimeData] = []
    monkeypatch.setattr(QDrag, "exec", lambda dragged, *_: taken.append(dragged.mimeData()))
    if is_pinned:
        notes.arrange(Layout(pinned=1))
        qtbot.waitUntil(lambda: notes.table.has_pinned and notes.table.pinned.isVisible(), timeout=PATIENCE_MS)
    view = notes.table.pinned if is_pinned else notes.table
    drag(qtbot, view, middle(view, 1, 0), middle(view, 2, 0))
    assert not taken, "what is not chosen yet is chosen by dragging"
    notes.table.clearSelection()
    model = notes.table.table
    ids = [model.id_at(0), model.id_at(1)]
    notes.table.choose_cells([Block([one for one in ids if one is not None], ["title"])], (ids[0], "title"))
    drag(qtbot, view, middle(view, 1, 0), middle(view, 2, 0))
    assert len(taken) == 1
    assert taken[0].text() == "dam\nmill"
    tree = notes.left.folders
    coast = tree.topLevelItem(0).child(0)  # type: ignore[union-attr]
    assert coast is not None
    asked: list[tuple[str, tuple[int, ...], object]] = []
    monkeypatch.setattr(notes.notes, "ask_moves", lambda *told: asked.append(told))
    assert drop(port_of(tree), taken[0], tree.visualItemRect(coast).center())
    assert asked == [("", tuple(ids), "Coast")]


def test_a_folder_takes_nothing_else_and_notes_go_nowhere_else(
    notes: SourcesStation, paper: Path, window: MainWindow, session: Session
) -> None:
    tree = notes.left.folders
    key = session.place("Notebook").key
    strangers = [of_entries(KEY, [1], ["Mill"]), QMimeData(), QMimeData()]
    strangers[1].setData(ENTRIES, b"{broken")
    strangers[2].setData(ENTRIES, json.dumps([key, "all of them"]).encode())
    for data in strangers:
        enter = QDragEnterEvent(
            QPoint(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
        enter.ignore()
        tree.dragEnterEvent(enter)
        assert not enter.isAccepted()
    ours = of_entries(key, [1], ["mill"])
    for target in (port_of(notes.table), notes.panel, window):
        assert not drop(target, ours)


def test_cells_of_a_collection_are_chosen_by_dragging_from_a_title_too(
    qtbot: QtBot, station: SourcesStation, monkeypatch: pytest.MonkeyPatch
) -> None:
    taken: list[object] = []
    monkeypatch.setattr(QDrag, "exec", lambda *_: taken.append(1))
    station.table.choose(station.table.table.listing.ids[0])
    drag(qtbot, station.table, middle(station.table, 0, 0), middle(station.table, 2, 1))
    assert taken == []
    assert list(map(len, station.table.chosen_cells().values())) == [2, 2, 2]


def test_the_heading_of_a_group_is_folded_where_columns_are_pinned(qtbot: QtBot, station: SourcesStation) -> None:
    station.show_question(KEY, "sortBy status/group title")
    qtbot.waitUntil(lambda: bool(station.table.table.heads), timeout=PATIENCE_MS)
    station.arrange(Layout(pinned=1))
    qtbot.waitUntil(lambda: station.table.has_pinned and station.table.pinned.isVisible(), timeout=PATIENCE_MS)
    rows = station.table.table.rowCount()
    qtbot.mouseClick(
        port_of(station.table.pinned),
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
        middle(station.table.pinned, 0, 0),
    )
    assert station.table.table.rowCount() < rows
