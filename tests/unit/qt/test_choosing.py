"""What is chosen in the table: it stays chosen in another answer, and no cell is asked for one by one."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QItemSelectionModel, QModelIndex, Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from driving import PATIENCE_MS, read_notebook
from wily_magpie.core.commands.command import Progress
from wily_magpie.core.commands.entries import SetText
from wily_magpie.core.exchange.sheet import levelled
from wily_magpie.core.exchange.tables import take_in
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.models.entry_table import EntryTable
from wily_magpie.qt.station_stack import SOURCES
from wily_magpie.qt.stations.sources import choosing
from wily_magpie.qt.stations.sources.cell_commands import UNWRITABLE
from wily_magpie.qt.stations.sources.choosing import runs
from wily_magpie.qt.stations.sources.station import SourcesStation

ROWS = 300


@pytest.fixture
def station(qtbot: QtBot, window: MainWindow, session: Session) -> SourcesStation:
    """Mills by number, of three kinds in turn."""
    rows = tuple((f"Mill {n:03}", ("tide", "wind", "water")[n % 3], str(n)) for n in range(ROWS))
    take_in(session, levelled(("Title", "Kind", "Number"), rows), ("title", "text", "number"), "Mills", Progress())
    window.go(SOURCES)
    key = session.place("Mills").key
    qtbot.waitUntil(lambda: window.bridge.overview.find_place(key) is not None, timeout=PATIENCE_MS)
    station = window.stack.sources
    show(qtbot, station, key, "sortBy number")
    return station


def show(qtbot: QtBot, station: SourcesStation, key: str, question: str) -> None:
    with qtbot.waitSignal(station.answered, timeout=PATIENCE_MS):
        station.show_question(key, question)


def choose(station: SourcesStation, *cells: tuple[int, int]) -> dict[int, tuple[str, ...]]:
    """Chooses cells by row and column, the first of which is the current one."""
    selection = station.table.selectionModel()
    assert selection is not None
    selection.setCurrentIndex(station.table.table.index(*cells[0]), QItemSelectionModel.SelectionFlag.ClearAndSelect)
    for cell in cells:
        selection.select(station.table.table.index(*cell), QItemSelectionModel.SelectionFlag.Select)
    return dict(station.table.chosen_cells())


def same(station: SourcesStation) -> dict[int, set[str]]:
    return {one: set(keys) for one, keys in station.table.chosen_cells().items()}


def test_cells_stay_chosen_in_another_order_and_in_groups(qtbot: QtBot, station: SourcesStation) -> None:
    chosen = {one: set(keys) for one, keys in choose(station, (4, 0), (4, 2), (5, 0), (5, 2), (9, 2)).items()}
    assert [sorted(keys) for keys in chosen.values()] == [["number", "title"], ["number", "title"], ["number"]]
    for question in ("sortBy title/descending", "sortBy kind/group number", "sortBy number"):
        show(qtbot, station, station.key, question)
        assert same(station) == chosen


def test_of_what_is_chosen_the_rest_stays_when_a_group_is_folded(qtbot: QtBot, station: SourcesStation) -> None:
    show(qtbot, station, station.key, "sortBy kind/group number")
    station.table.selectAll()
    assert len(station.table.chosen_ids()) == ROWS
    station.table.choose(station.table.table.next_id(0))
    station.table.selectAll()
    station.table.fold(0)  # with the current entry
    assert len(station.table.chosen_ids()) == ROWS - ROWS // 3
    station.table.fold(1)
    assert len(station.table.chosen_ids()) == ROWS // 3


def test_all_stay_chosen_though_one_is_changed(qtbot: QtBot, station: SourcesStation, session: Session) -> None:
    station.table.choose(station.table.table.next_id(0))
    station.table.selectAll()
    session.do(SetText(station.key, [station.table.table.listing.ids[7]], "number", "1000"))
    qtbot.waitUntil(lambda: station.table.table.cell(ROWS - 1, 0)[0] == "Mill 007", timeout=PATIENCE_MS)
    assert len(station.table.chosen_ids()) == ROWS


def test_what_lies_too_far_apart_is_said(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(choosing, "MOST_RANGES", 2)
    choose(station, (0, 0), (1, 0), (2, 0))
    show(qtbot, station, station.key, "sortBy kind number")
    assert window.notice.text.text() == "3 rows were chosen; they lie too far apart now to stay it."
    assert len(station.table.chosen_ids()) == 1


def test_of_another_place_nothing_is_chosen(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session, notes_path: Path
) -> None:
    """A note may have the number of an entry."""
    for name in ("Dam", "Sluice", "Weir"):
        (notes_path / f"{name}.md").write_text("By the pond.\n")
    read_notebook(qtbot, window, session)
    place = session.place("Notebook")
    numbers = list(session.reader.entries.listing(place.key, Question()).ids)
    station.table.choose(station.table.table.next_id(0))
    station.table.selectAll()
    assert len(set(numbers) & set(station.table.chosen_ids())) > 1
    show(qtbot, station, place.key, "sortBy title")
    assert len(station.table.chosen_ids()) == 1


def test_that_nothing_can_be_changed_is_said(window: MainWindow, station: SourcesStation, session: Session) -> None:
    before = session.overview.undo
    choose(station, (0, 0), (1, 0))
    station.cells.blank()
    assert window.notice.text.text() == UNWRITABLE
    assert session.overview.undo == before


def test_no_cell_of_what_is_chosen_is_asked_for(
    qtbot: QtBot, station: SourcesStation, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Qt asks for the flags of each chosen cell for its list of them, and for the look of the headings: a second and more."""
    asked, flags = list[int](), EntryTable.flags

    def counted(self: EntryTable, index: QModelIndex) -> Qt.ItemFlag:
        asked.append(index.row())
        return flags(self, index)

    station.table.choose(station.table.table.next_id(0))
    monkeypatch.setattr(EntryTable, "flags", counted)
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    clipboard.clear()
    station.table.selectAll()
    station.table.grab()
    station.cells.copy_cells()
    qtbot.waitUntil(lambda: clipboard.text().count("\n") == ROWS, timeout=PATIENCE_MS)
    show(qtbot, station, station.key, "sortBy title/descending")
    station.table.grab()
    assert len(asked) < ROWS


@pytest.mark.parametrize(
    ("numbers", "wanted"),
    [([], []), ([3], [range(3, 4)]), ([1, 2, 3, 7, 9, 10], [range(1, 4), range(7, 8), range(9, 11)])],
)
def test_numbers_without_gaps_are_ranges(numbers: list[int], wanted: list[range]) -> None:
    assert runs(numbers) == wanted
