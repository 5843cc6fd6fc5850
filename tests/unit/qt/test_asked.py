"""What is asked by menus and pages of its own: lanes, views, columns, a table into a place, a home page, notes that are no UTF-8."""

from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QDialog, QInputDialog, QTreeWidgetItem
from pytestqt.qtbot import QtBot

from driving import MenuAnswers, answered_menus, read_notebook
from helpers import undo
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.views import KeepView
from wily_magpie.core.entries.layout import Layout, LayoutKind
from wily_magpie.core.places.starters import STATUSES
from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import SOURCES
from wily_magpie.qt.stations.sources.home_form import HomeDialog
from wily_magpie.qt.stations.sources.layouts.lanes import LanesView
from wily_magpie.qt.stations.sources.places_list import SYMBOLS
from wily_magpie.qt.stations.sources.station import SourcesStation

PATIENCE_MS = 15_000
KEY = "collection:1"
OPTIONS = [option.name for option in STATUSES]


@pytest.fixture
def station(qtbot: QtBot, window: MainWindow, session: Session) -> SourcesStation:
    """Four entries by title; three are to read, one is read."""
    for number, title in enumerate(("Dam", "Mill", "Sluice", "Weir")):
        status = "read" if number == 3 else "to read"
        session.do(AddEntry(KEY, title, {"status": status, "address": f"https://mill.example/{number}"}))
    window.go(SOURCES)
    station = window.stack.sources
    station.show_question(KEY, "sortBy title")
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 4, timeout=PATIENCE_MS)
    return station


@pytest.fixture
def menus(monkeypatch: pytest.MonkeyPatch) -> MenuAnswers:
    return answered_menus(monkeypatch)


# lanes


@pytest.fixture
def lanes(qtbot: QtBot, station: SourcesStation) -> LanesView:
    """The same in lanes by status."""
    station.show_question(KEY, "sortBy status/group title")
    station.arrange(Layout(kind=LayoutKind.LANES))
    qtbot.waitUntil(
        lambda: isinstance(station.page.stack.currentWidget(), LanesView) and bool(station.faces.lanes.columns),
        timeout=PATIENCE_MS,
    )
    lanes = station.faces.lanes
    qtbot.waitUntil(lambda: not lanes.is_stale, timeout=PATIENCE_MS)
    lanes.setFocus()
    return lanes


def names(lanes: LanesView) -> list[str]:
    """Of the lanes, from left to right."""
    return [one.lane.name for one in lanes.columns]


def lane_of(lanes: LanesView, name: str) -> Any:
    """A lane by its name."""
    return next(one for one in lanes.columns if one.lane.name == name)


def answer(station: SourcesStation, menus: MenuAnswers, name: str, line: str) -> None:
    """Chooses a line of a lane's menu."""
    menus.wanted = (line,)
    station.faces.ask_lane(lane_of(station.faces.lanes, name).lane, QPoint())


def test_keys_go_within_a_lane_and_to_the_next_one_that_has_entries(
    qtbot: QtBot, station: SourcesStation, lanes: LanesView
) -> None:
    def title() -> str:
        entry = station.table.table.entry_at(station.table.currentIndex().row())
        return entry.title if entry is not None else ""

    station.table.choose(lanes.ids_of(lane_of(lanes, "to read"))[0])
    went = []
    for key in (
        Qt.Key.Key_Down, Qt.Key.Key_End, Qt.Key.Key_Down, Qt.Key.Key_Up, Qt.Key.Key_Right, Qt.Key.Key_Left,
        Qt.Key.Key_PageDown, Qt.Key.Key_Home, Qt.Key.Key_PageUp, Qt.Key.Key_Left,
    ):  # fmt: skip
        qtbot.keyClick(lanes, key)
        went.append(title())
    assert went == ["Mill", "Sluice", "Sluice", "Mill", "Weir", "Dam", "Sluice", "Dam", "Dam", "Dam"]


def test_a_lane_is_put_further_limited_and_all_are_as_their_options_again(
    qtbot: QtBot, station: SourcesStation, lanes: LanesView, menus: MenuAnswers, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = names(lanes)
    assert [name for name in before if name in OPTIONS] == OPTIONS
    answer(station, menus, "read", "Further to the left")
    at = before.index("read")
    wanted = [*before[: at - 1], "read", before[at - 1], *before[at + 1 :]]
    qtbot.waitUntil(lambda: names(station.faces.lanes) == wanted, timeout=PATIENCE_MS)
    monkeypatch.setattr(QInputDialog, "getInt", lambda *_: (2, True))
    answer(station, menus, "to read", "At most so many …")
    qtbot.waitUntil(lambda: lane_of(station.faces.lanes, "to read").lane.limit == 2, timeout=PATIENCE_MS)
    assert "Any number" not in menus.lines
    answer(station, menus, "to read", "Any number")
    qtbot.waitUntil(lambda: lane_of(station.faces.lanes, "to read").lane.limit == 0, timeout=PATIENCE_MS)
    answer(station, menus, "to read", "All as their options are")
    qtbot.waitUntil(lambda: names(station.faces.lanes) == before, timeout=PATIENCE_MS)


def test_a_limit_that_is_not_given_changes_nothing(
    station: SourcesStation, lanes: LanesView, menus: MenuAnswers, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(QInputDialog, "getInt", lambda *_: (2, False))
    before = station.state.layout
    answer(station, menus, "to read", "At most so many …")
    assert station.state.layout == before


def test_empty_lanes_are_folded_and_one_is_shown_again(
    qtbot: QtBot, station: SourcesStation, lanes: LanesView, menus: MenuAnswers
) -> None:
    answer(station, menus, "to read", "Fold the empty ones")
    empty = [name for name in names(lanes) if name not in ("to read", "read")]
    qtbot.waitUntil(
        lambda: [one.lane.name for one in station.faces.lanes.columns if one.lane.is_folded] == empty,
        timeout=PATIENCE_MS,
    )
    answer(station, menus, empty[0], "Show this lane")
    qtbot.waitUntil(lambda: not lane_of(station.faces.lanes, empty[0]).lane.is_folded, timeout=PATIENCE_MS)


# views and places


def item_of(station: SourcesStation, text: str) -> QTreeWidgetItem:
    """A line of the list of places."""
    return station.places.findItems(text, Qt.MatchFlag.MatchExactly | Qt.MatchFlag.MatchRecursive)[0]


def right_click(station: SourcesStation, text: str) -> None:
    """Asks for the menu of a line."""
    station.places.customContextMenuRequested.emit(station.places.visualItemRect(item_of(station, text)).center())


def test_a_view_has_a_menu_and_gets_a_symbol(
    qtbot: QtBot, station: SourcesStation, session: Session, menus: MenuAnswers
) -> None:
    session.do(KeepView(KEY, "Unread", session.reader.entries.question(KEY, 'status = "to read"'), None, Layout()))
    qtbot.waitUntil(lambda: bool(station.places.findItems("Unread", Qt.MatchFlag.MatchRecursive)), timeout=PATIENCE_MS)
    menus.wanted = ("Symbol", SYMBOLS[0].capitalize())
    right_click(station, "Unread")
    shown = [line.partition("\t")[0] for line in menus.lines]
    assert shown[:2] == ["Rename the view", "Copy the view"]
    assert shown[-1] == "Delete the view"

    def symbol() -> str:
        return next(one for one in session.overview.views if one.name == "Unread").layout.symbol

    qtbot.waitUntil(lambda: symbol() == SYMBOLS[0], timeout=PATIENCE_MS)
    menus.wanted = ("Symbol", "None")
    right_click(station, "Unread")
    qtbot.waitUntil(lambda: symbol() == "", timeout=PATIENCE_MS)


def test_a_place_has_a_menu_that_shows_all_of_it(
    qtbot: QtBot, station: SourcesStation, menus: MenuAnswers
) -> None:  # fmt: skip
    station.show_question(KEY, 'status = "read"')
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 1, timeout=PATIENCE_MS)
    menus.wanted = ("Show all of it",)
    right_click(station, "Sources")
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 4, timeout=PATIENCE_MS)
    shown = [line.partition("\t")[0] for line in menus.lines]
    assert {"New entry by hand", "New place", "Open the trash", "Set up this place"} <= set(shown)


# columns


def test_a_head_sorts_and_a_width_is_kept_when_it_rests(
    qtbot: QtBot, station: SourcesStation, session: Session
) -> None:
    header = station.table.horizontalHeader()
    assert header is not None
    header.sectionClicked.emit(0)
    qtbot.waitUntil(lambda: station.question.sort[0].descending, timeout=PATIENCE_MS)
    header.resizeSection(0, 240)
    wanted = station.table.characters(240)
    qtbot.waitUntil(lambda: station.state.layout.column("title").width == wanted, timeout=PATIENCE_MS)
    undo(session)
    qtbot.waitUntil(lambda: station.state.layout.column("title").width != wanted, timeout=PATIENCE_MS)


@pytest.mark.parametrize("then", ["another view", "the window closes"])
def test_what_was_just_dragged_is_kept_whatever_comes_next(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session, then: str
) -> None:
    session.do(KeepView(KEY, "As cards", session.reader.entries.question(KEY, ""), None, Layout(kind=LayoutKind.CARDS)))
    view = session.overview.views[0]
    qtbot.waitUntil(lambda: view in window.bridge.overview.views, timeout=PATIENCE_MS)
    header = station.table.horizontalHeader()
    assert header is not None
    header.resizeSection(0, 240)
    wanted = station.table.characters(240)
    station.open_view(view)  # before the width has rested
    qtbot.waitUntil(lambda: session.place(KEY).layout.column("title").width == wanted, timeout=PATIENCE_MS)
    station.page.bar.slider.setValue(view.layout.card_px + 40)
    if then == "another view":
        station.open_place(KEY)
    else:
        window.close()
        session.lanes.close()
    layout = replace(view.layout, card_px=view.layout.card_px + 40)
    qtbot.waitUntil(lambda: session.reader.overview().views[0].layout == layout, timeout=PATIENCE_MS)
    assert session.place(KEY).layout.column("title").width == wanted


# a table into a place


def test_a_table_goes_into_a_place_after_a_look(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session, tmp_path: Path
) -> None:
    path = tmp_path / "More mills.csv"
    path.write_text("Title,Status,Miller\nHeron Mill,to read,Pell\nMill,read,Quill\nWick Mill,,Carne\n", "utf-8")
    place = station.place
    assert place is not None
    station.pages.open_table(place, path)
    qtbot.waitUntil(lambda: "table_into" in station.pages.__dict__, timeout=PATIENCE_MS)
    page = station.pages.table_into
    qtbot.waitUntil(page.take.isEnabled, timeout=PATIENCE_MS)
    assert page.keys() == ["title", "status", ""]
    told = page.told.text()
    assert "2 new entries." in told or "3 new entries." in told
    assert "Left out: Miller." in told
    miller = page.combos[2]
    miller.setCurrentIndex(miller.findData("title"))
    miller.activated.emit(miller.currentIndex())
    assert page.told.text() == "Two columns are given the same field: Title."
    assert not page.take.isEnabled()
    for combo in page.combos:
        combo.setCurrentIndex(0)
    page.look()
    assert page.told.text() == "No column is given a field."
    for combo, key in zip(page.combos, ("title", "status", "authors"), strict=True):
        combo.setCurrentIndex(combo.findData(key))
    page.look()
    qtbot.waitUntil(page.take.isEnabled, timeout=PATIENCE_MS)
    count = len(page.found.rows)
    assert page.take.text() == f"Take {count} in"
    qtbot.mouseClick(page.take, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: f"{count} entries are in Sources now." in window.notice.text.text(), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 4 + count, timeout=PATIENCE_MS)
    assert undo(session) == f"Take {count} rows of More mills.csv into Sources"
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 4, timeout=PATIENCE_MS)


def test_a_table_that_cannot_be_read_is_said(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, tmp_path: Path
) -> None:
    path = tmp_path / "broken.json"
    path.write_text("{not a table", "utf-8")
    assert station.place is not None
    station.pages.open_table(station.place, path)
    qtbot.waitUntil(window.notice.isVisible, timeout=PATIENCE_MS)
    assert "broken.json" in window.notice.text.text()
    assert "table_into" not in station.pages.__dict__


# notes


def test_a_home_page_says_what_it_will_hold_and_is_made(
    qtbot: QtBot,
    window: MainWindow,
    station: SourcesStation,
    session: Session,
    notes_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    read_notebook(qtbot, window, session)

    def fill(dialog: HomeDialog) -> int:
        assert dialog.do is not None
        for number in range(dialog.kind.count()):
            dialog.kind.setCurrentIndex(number)
            assert dialog.told.text().startswith("It will hold: ")
        dialog.path.setText("  ")
        assert not dialog.do.isEnabled()
        dialog.path.setText("Start here")
        assert dialog.do.isEnabled()
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(HomeDialog, "exec", fill)
    window.commands.bound["new-home"].run()
    qtbot.waitUntil((notes_path / "Start here.md").exists, timeout=PATIENCE_MS)
    whole = station.pages.whole
    qtbot.waitUntil(
        lambda: whole.isVisible() and whole.entry is not None and whole.entry.path == "Start here.md",
        timeout=PATIENCE_MS,
    )
    undo(session)
    qtbot.waitUntil(lambda: not (notes_path / "Start here.md").exists(), timeout=PATIENCE_MS)


def test_where_there_is_no_folder_of_notes_the_way_to_one_is_said(
    qtbot: QtBot, window: MainWindow, station: SourcesStation
) -> None:
    window.commands.bound["new-home"].run()
    qtbot.waitUntil(lambda: "There is no notes folder yet." in window.notice.text.text(), timeout=PATIENCE_MS)


def test_notes_that_are_no_utf_8_are_read_as_latin_1_where_it_is_wanted(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session, notes_path: Path
) -> None:
    (notes_path / "old.md").write_bytes("Die Mühle am Fluß\n".encode("latin-1"))
    key = read_notebook(qtbot, window, session)
    window.show_note(key, session._library.notes("Notebook").index.id_of("old.md") or 0)
    side = station.pages.whole.side
    qtbot.waitUntil(lambda: side.entry is not None and side.entry.path == "old.md", timeout=PATIENCE_MS)
    side.read_as_latin_1()
    qtbot.waitUntil(lambda: "read as Latin-1 now" in window.notice.text.text(), timeout=PATIENCE_MS)
    qtbot.waitUntil(
        lambda: "Mühle am Fluß" in station.pages.whole.body.toPlainText(), timeout=PATIENCE_MS
    )  # fmt: skip
    assert (notes_path / "old.md").read_bytes() == "Die Mühle am Fluß\n".encode("latin-1")
    settings = session.overview.place(key).settings
    assert replace(settings, other_encoding="") != settings
