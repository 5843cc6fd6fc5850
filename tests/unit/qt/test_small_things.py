"""Small things that much is made of: which cells are chosen, which keys hold where, what is said of the rest, what is dragged."""

import json
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QItemSelection, QItemSelectionModel, QMimeData, QRect
from PyQt6.QtGui import QStandardItemModel
from PyQt6.QtWidgets import QApplication, QLabel, QTableView, QVBoxLayout, QWidget
from pytestqt.qtbot import QtBot

from wily_magpie.core import commands
from wily_magpie.core.catalogue import Where
from wily_magpie.core.commands.entries import AddEntry, SetText
from wily_magpie.core.session.session import Session
from wily_magpie.qt.dropped import ENTRIES, entries_in, is_welcome, of_entries
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.models.entry_table import EntryTable
from wily_magpie.qt.station_stack import CAPTURE, READ, REVIEW, SOURCES, TEMPLATES
from wily_magpie.qt.stations.sources import whole_entry
from wily_magpie.qt.stations.sources.cell_painting import CellPainter, Chosen
from wily_magpie.qt.style.parts import tell_rest

PATIENCE_MS = 15_000
KEY = "collection:1"
ROWS, COLUMNS = 8, 5
CELL = st.tuples(st.integers(0, ROWS - 1), st.integers(0, COLUMNS - 1))
PLACE = "notes:1"


@settings(max_examples=60, deadline=None)
@given(spans=st.lists(st.tuples(CELL, CELL), max_size=6), current=CELL)
def test_what_is_painted_as_chosen_is_what_qt_says_is_selected(
    qapp: QApplication, spans: list[tuple[tuple[int, int], tuple[int, int]]], current: tuple[int, int]
) -> None:
    view, model = QTableView(), QStandardItemModel(ROWS, COLUMNS)
    view.setModel(model)
    selection = view.selectionModel()
    assert selection is not None
    chosen = QItemSelection()
    for (top, left), (bottom, right) in spans:
        first = model.index(min(top, bottom), min(left, right))
        chosen.select(first, model.index(max(top, bottom), max(left, right)))
    selection.setCurrentIndex(model.index(*current), QItemSelectionModel.SelectionFlag.NoUpdate)
    selection.select(chosen, QItemSelectionModel.SelectionFlag.ClearAndSelect)
    found = Chosen(view)
    for row in range(ROWS):
        for column in range(COLUMNS):
            is_there = selection.isSelected(model.index(row, column)) or row == current[0]
            assert found.holds(row, column) == is_there, (row, column)


@settings(max_examples=40, deadline=None)
@given(left=st.integers(0, 380), top=st.integers(0, 230), width=st.integers(1, 300), height=st.integers(1, 200))
def test_the_columns_of_an_area_are_those_that_it_meets(
    qapp: QApplication, left: int, top: int, width: int, height: int
) -> None:
    view, model = QTableView(), QStandardItemModel(ROWS, COLUMNS)
    view.setModel(model)
    view.resize(400, 250)
    header = view.horizontalHeader()
    assert header is not None
    header.moveSection(0, 3)
    view.hideColumn(2)
    table = EntryTable(lambda _ids, take: take([]), lambda *_: None, lambda _error: None, view)
    area = QRect(left, top, width, height)
    found = CellPainter(view, table, has_focus=False).columns_in(area)
    edges = {one: (view.columnViewportPosition(one), view.columnWidth(one)) for one in range(COLUMNS)}
    wanted = {one for one, (at, wide) in edges.items() if wide and at <= area.right() and at + wide > area.left()}
    assert {one for one, _, _ in found} == wanted
    assert [at for _, at, _ in found] == sorted(at for _, at, _ in found)


OF_ALL = ("undo", "address", "settings", "station-3")
HOLD: dict[int, tuple[str, ...]] = {
    CAPTURE: ("keep", "mark", "read-again"),
    READ: ("next", "copy-quotation", "larger-letters"),
    SOURCES: ("new-entry", "question-text", "setup"),
    TEMPLATES: ("new-template",),
    REVIEW: (),
}


@pytest.mark.parametrize("station", HOLD)
def test_keys_hold_in_their_station_alone(window: MainWindow, station: int) -> None:
    window.go(station)
    actions = window.keys.actions
    assert all(actions[name].isEnabled() for name in (*OF_ALL, *HOLD[station]))
    others = [name for other, names in HOLD.items() if other != station for name in names]
    assert [name for name in others if actions[name].isEnabled()] == []


def test_the_windows_keys_are_no_keys_of_the_list_of_places(window: MainWindow) -> None:
    bound = window.commands.bound
    assert not [name for name in window.keys.actions if bound[name].act.where is Where.PLACES]
    in_list = {str(one.property("act")) for one in window.stack.sources.places.actions()}
    assert in_list == {"rename-view", "copy-view", "view-up", "view-down", "delete-view"}


@pytest.mark.parametrize(
    ("total", "shown", "said"), [(3, 5, []), (5, 5, []), (1_205, 5, ["and 1,200 more, elsewhere"])]
)
def test_what_is_not_shown_is_counted(qtbot: QtBot, total: int, shown: int, said: list[str]) -> None:
    box = QWidget()
    qtbot.addWidget(box)
    tell_rest(QVBoxLayout(box), total, shown, ", elsewhere")
    assert [one.text() for one in box.findChildren(QLabel)] == said


def test_what_refers_here_and_what_happened_is_counted(
    qtbot: QtBot, window: MainWindow, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    entry_id = session.do(AddEntry(KEY, "The mill"))
    for number in range(4):
        session.do(SetText(KEY, (entry_id,), "site", f"Site {number}"))
    monkeypatch.setattr(whole_entry, "MOST_EVENTS", 2)
    window.show_note(KEY, entry_id)
    whole = window.stack.sources.pages.whole

    def said() -> list[str]:
        return [one.text() for one in whole.findChildren(QLabel) if not one.isHidden()]

    qtbot.waitUntil(lambda: "and 3 more, longer ago" in said(), timeout=PATIENCE_MS)


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=4), inner, max_size=3),
    max_leaves=8,
)


@given(told=JSON)
def test_whatever_is_dragged_as_entries_is_taken_or_left(told: Any) -> None:
    data = QMimeData()
    data.setData(ENTRIES, json.dumps(told).encode())
    found = entries_in(data, PLACE)
    assert all(isinstance(one, int) for one in found)
    if found:
        assert told[0] == PLACE
    assert not is_welcome(data)


@given(ids=st.lists(st.integers(1, 2**40), max_size=20), raw=st.binary(max_size=30))
def test_entries_come_back_as_they_were_dragged(ids: list[int], raw: bytes) -> None:
    data = of_entries(PLACE, ids, [f"Mill {one}" for one in ids])
    assert entries_in(data, PLACE) == tuple(ids)
    assert entries_in(data, "notes:2") == ()
    assert data.text().splitlines() == [f"Mill {one}" for one in ids]
    broken = QMimeData()
    broken.setData(ENTRIES, raw)
    assert isinstance(entries_in(broken, PLACE), tuple)


def test_commands_are_had_by_the_names_of_their_modules() -> None:
    for name in commands.__all__:
        assert getattr(commands, name).__name__ == f"wily_magpie.core.commands.{name}"
    assert commands.entries.AddEntry is AddEntry
    with pytest.raises(AttributeError, match="no_such_thing"):
        _ = getattr(commands, "no_such_thing")  # noqa: B009
