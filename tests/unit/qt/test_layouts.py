"""Cards, lanes, list and time line, groups that fold, and the sentence's own keys: driven by mouse and keyboard."""

from dataclasses import replace
from itertools import pairwise
from typing import Any

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from helpers import undo
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.entries.layout import Lane, LayoutKind
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.starters import STATUSES
from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import SOURCES
from wily_magpie.qt.stations.sources.layouts.axis import Axis, written
from wily_magpie.qt.stations.sources.station import SourcesStation

PATIENCE_MS = 15_000
OPTIONS = [option.name for option in STATUSES]
DATED = {
    "Charter": "1298",
    "Building": "1890/1914",
    "Flood": "2025-03-14T07:30Z",
    "Hearsay": "before the flood",
    "Undated": None,
}
PICTURE = (
    b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x01\x00\x00\x00\x01\x08\x02\x00\x00\x00\x90wS\xde"
    b"\x00\x00\x00\x0cIDATx\x9cc\xf8\xcf\xc0\x00\x00\x03\x01\x01\x00\xc9\xfe\x92\xef\x00\x00\x00\x00IEND\xaeB`\x82"
)
SHIFTED = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def sources(session: Session) -> Place:
    """Five entries with dates of all sorts."""
    for number, (title, published) in enumerate(DATED.items()):
        values: dict[str, Any] = {
            "status": ["to read", "read"][number % 2],
            "published": published,
            "price": float(number),
        }
        session.do(
            AddEntry("collection:1", title, values, f"# {title}\n\nThe mill of {title.lower()} stood by the *pond*.")
        )
    return session._library.place("Sources")


@pytest.fixture
def station(window: MainWindow, sources: Place, qtbot: QtBot) -> SourcesStation:
    """The Sources station with all five."""
    window.go(SOURCES)
    station = window.stack.sources
    station.fold_panel()
    station.open_place(sources.key)
    qtbot.waitUntil(lambda: len(station.table.table.listing.ids) == 5, timeout=PATIENCE_MS)
    window.resize(1000, 800)  # which the screen of tests is narrower than
    return station


def look(station: SourcesStation, qtbot: QtBot, kind: LayoutKind, **more: Any) -> Any:
    """Another layout, chosen as a person does; its face."""
    station.arrange(replace(station.state.layout, kind=kind, **more))
    qtbot.waitUntil(lambda: station.state.layout.kind is kind and shown(station).isVisible(), timeout=PATIENCE_MS)
    face = shown(station)
    qtbot.waitUntil(lambda: shown(station) is not station.table and not shown(station).is_stale, timeout=PATIENCE_MS)
    face = shown(station)
    face.setFocus()
    return face


def shown(station: SourcesStation) -> Any:
    return station.page.stack.currentWidget()


def titles(station: SourcesStation) -> list[str]:
    """Of what is chosen."""
    rows = [station.table.table.row_of(one) for one in station.table.chosen_ids()]
    return [entry.title for row in rows if row is not None and (entry := station.table.table.entry_at(row))]


def row_of(station: SourcesStation, title: str) -> int:
    table = station.table.table
    return next(row for row in range(table.rowCount()) if (entry := table.entry_at(row)) and entry.title == title)


def middle(face: Any, row: int) -> QPoint:
    """The middle of a row's box, as it is seen."""
    at: QPoint = face.rect_of(row).center() - face.offset
    return at


def status_of(session: Session, title: str) -> object:
    place = session._library.place("Sources")
    rows = place.rows(place.listing(session.reader.entries.question(place.key, f'title == "{title}"')).ids)
    return rows[0].value("status")


def test_cards_are_chosen_by_mouse_and_keys_and_have_covers(
    qtbot: QtBot, window: MainWindow, session: Session, station: SourcesStation
) -> None:
    stored = session._library.blobs.keep_file("mill.png", PICTURE)
    entry_id = station.table.table.listing.ids[0]
    with session._library.step("picture"):
        place = session._library.place("Sources")
        files = next((field for field in place.fields if field.kind.holds_files), None)
        place.change(entry_id, {files.key: (stored,)} if files is not None else {})
    cards = look(station, qtbot, LayoutKind.CARDS)
    qtbot.waitUntil(lambda: len(cards.covers) >= 2, timeout=PATIENCE_MS)
    covers = {key[1]: one for key, one in cards.covers.items()}
    first, second = station.table.table.listing.ids[:2]
    assert covers[second].words == "The mill of building stood by the pond."
    assert covers[second].picture.isNull()
    if files is not None:
        assert not covers[first].picture.isNull()
        assert list((session.folder / "index" / "covers").rglob("*-*")), "made once, and kept"
    qtbot.mouseClick(cards.viewport(), LEFT, pos=middle(cards, 1))
    assert titles(station) == ["Building"]
    assert station.panel.wanted == (station.key, second)
    qtbot.keyClick(cards, Qt.Key.Key_Right)
    assert titles(station) == ["Flood"]
    qtbot.keyClick(cards, Qt.Key.Key_Down)
    qtbot.keyClick(cards, Qt.Key.Key_Home)
    assert titles(station) == ["Charter"]
    qtbot.mouseClick(cards.viewport(), LEFT, Qt.KeyboardModifier.ShiftModifier, pos=middle(cards, 1))
    assert titles(station) == ["Charter", "Building"]
    qtbot.keyClick(cards, Qt.Key.Key_2)
    qtbot.waitUntil(lambda: status_of(session, "Building") == OPTIONS[1], timeout=PATIENCE_MS)
    assert status_of(session, "Charter") == OPTIONS[1]
    qtbot.keyClick(cards, Qt.Key.Key_End)
    qtbot.keyClick(cards, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.stack.read.entry is not None, timeout=PATIENCE_MS)


def test_an_entry_is_dragged_to_another_lane_and_undone(
    qtbot: QtBot, session: Session, station: SourcesStation
) -> None:
    lanes = look(station, qtbot, LayoutKind.LANES)
    assert [column.lane.name for column in lanes.columns][:3] == OPTIONS[:3]
    assert [column.count for column in lanes.columns if column.count] == [3, 2]
    start = middle(lanes, row_of(station, "Charter"))
    target = QPoint(lanes.columns[1].left + 60 - lanes.offset.x(), 120)
    surface = lanes.viewport()
    qtbot.mousePress(surface, LEFT, pos=start)
    for step in range(1, 6):
        qtbot.mouseMove(surface, start + (target - start) * step / 5)
        move(surface, start + (target - start) * step / 5)
    qtbot.mouseRelease(surface, LEFT, pos=target)
    qtbot.waitUntil(lambda: status_of(session, "Charter") == OPTIONS[1], timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: lanes.columns[1].count == 1, timeout=PATIENCE_MS)
    assert undo(session) == f"Move “Charter” to {OPTIONS[1]}"
    qtbot.waitUntil(lambda: lanes.columns[0].count == 3, timeout=PATIENCE_MS)
    lanes.choose_row(row_of(station, "Charter"))
    qtbot.keyClick(lanes, Qt.Key.Key_Right, SHIFTED)
    qtbot.waitUntil(lambda: status_of(session, "Charter") == OPTIONS[1], timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: lanes.columns[1].count == 1, timeout=PATIENCE_MS)
    assert titles(station) == ["Charter"], "what was moved stays chosen"


def move(surface: Any, at: QPoint) -> None:
    """A move of the mouse with its button held, which the test's mouse does not tell."""
    from PyQt6.QtCore import QEvent
    from PyQt6.QtGui import QMouseEvent

    where = QPointF(at)
    event = QMouseEvent(
        QEvent.Type.MouseMove, where, QPointF(surface.mapToGlobal(at)), LEFT, LEFT, Qt.KeyboardModifier.NoModifier
    )
    QApplication.sendEvent(surface, event)


def test_lanes_are_ordered_by_hand_folded_and_limited(qtbot: QtBot, session: Session, station: SourcesStation) -> None:
    lanes = look(station, qtbot, LayoutKind.LANES)

    def names() -> list[str]:
        first = range(lanes.columns[0].first, lanes.columns[0].first + lanes.columns[0].count)
        return [one.title for row in first if (one := station.table.table.entry_at(row)) is not None]

    assert names() == ["Charter", "Flood", "Undated"]
    lanes.choose_row(row_of(station, "Undated"))
    qtbot.keyClick(lanes, Qt.Key.Key_Up, SHIFTED)
    qtbot.waitUntil(lambda: names() == ["Charter", "Undated", "Flood"], timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: bool(session.overview.place(station.key).layout.by_hand), timeout=PATIENCE_MS)
    station.faces.change_lane(Lane("to read", 2, is_folded=False))
    qtbot.waitUntil(lambda: lanes.columns[0].lane.limit == 2, timeout=PATIENCE_MS)
    qtbot.mouseClick(lanes.viewport(), LEFT, pos=QPoint(lanes.columns[0].left + 30, 12))
    qtbot.waitUntil(lambda: lanes.columns[0].lane.is_folded, timeout=PATIENCE_MS)
    assert lanes.rect_of(lanes.columns[0].first).isEmpty()
    station.faces.fold_empty()
    qtbot.waitUntil(lambda: all(one.lane.is_folded for one in lanes.columns if not one.count), timeout=PATIENCE_MS)


def test_a_list_tells_how_long_and_takes_the_status_by_one_key(
    qtbot: QtBot, session: Session, station: SourcesStation
) -> None:
    queue = look(station, qtbot, LayoutKind.LIST)
    qtbot.waitUntil(lambda: len(queue.beginnings) == 5, timeout=PATIENCE_MS)
    assert {one.minutes for one in queue.beginnings.values()} == {1}
    qtbot.mouseClick(queue.viewport(), LEFT, pos=middle(queue, row_of(station, "Building")))
    qtbot.keyClick(queue, Qt.Key.Key_Down)
    assert titles(station) == ["Flood"]
    qtbot.keyClick(queue, Qt.Key.Key_0)
    qtbot.waitUntil(lambda: status_of(session, "Flood") is None, timeout=PATIENCE_MS)


def test_a_time_line_shows_dates_of_any_precision(qtbot: QtBot, session: Session, station: SourcesStation) -> None:
    line = look(station, qtbot, LayoutKind.TIMELINE)
    qtbot.waitUntil(lambda: len(line.boxes) == 3, timeout=PATIENCE_MS)
    undated = [station.table.table.entry_at(station.table.table.row_of(one)) for one in line.undated]  # type: ignore[arg-type]
    assert [one.title for one in undated if one is not None] == ["Hearsay", "Undated"]
    charter, building = (line.rect_of(row_of(station, one)) for one in ("Charter", "Building"))
    assert charter.left() < building.left() < line.rect_of(row_of(station, "Flood")).left()
    at = QPointF(building.center() - line.offset)
    before = line.axis.scale
    for _ in range(12):
        wheel = QWheelEvent(
            at, QPointF(line.mapToGlobal(at.toPoint())), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(line.viewport(), wheel)
    assert line.axis.scale > 8 * before
    years = line.rect_of(row_of(station, "Building")).width() / line.axis.scale
    assert years == pytest.approx(25, abs=1 / line.axis.scale), "from the beginning of 1890 to the end of 1914"
    assert row_of(station, "Charter") not in line.boxes, "what is not in sight has no box"
    qtbot.keyClick(line, Qt.Key.Key_Home)
    assert row_of(station, "Charter") in line.boxes
    qtbot.mouseClick(line.viewport(), LEFT, pos=middle(line, row_of(station, "Charter")))
    qtbot.keyClick(line, Qt.Key.Key_Right)
    assert titles(station) == ["Building"]
    left, right = (line.chart.left() + round(line.axis.x(year)) for year in (1700.5, 1980.5))
    qtbot.mousePress(line.viewport(), LEFT, pos=QPoint(left, 8))
    move(line.viewport(), QPoint(right, 8))
    qtbot.mouseRelease(line.viewport(), LEFT, pos=QPoint(right, 8))
    qtbot.waitUntil(lambda: len(station.table.table.listing.ids) == 1, timeout=PATIENCE_MS)
    assert station.sentence.text.text().startswith("published within ")


SPANS = {  # begin, end and pixels a year, and what is written of it
    "centuries": (1298.2, 1914.9, 0.5, "1298/1914"),
    "years": (1890.0, 1914.5, 20.0, "1890/1914"),
    "months": (2025.21, 2025.45, 900.0, "2025-03/2025-06"),
    "days": (2025.2, 2025.21, 60_000.0, "2025-03-15/2025-03-18"),
}


@pytest.mark.parametrize("name", SPANS)
def test_a_span_is_written_as_exactly_as_it_could_be_pointed_at(name: str) -> None:
    begin, end, scale, expected = SPANS[name]
    assert written(begin, end, scale) == expected


@pytest.mark.parametrize("scale", [0.04, 0.1, 1, 10, 100, 500, 5_000, 50_000, 400_000])
def test_an_axis_has_marks_that_stand_apart(scale: float) -> None:
    axis = Axis(1999.7, scale)
    marks = axis.marks(800)
    assert all(after - before > 40 for (before, _), (after, _) in pairwise(marks))
    assert axis.year(axis.x(1298.5)) == pytest.approx(1298.5)
    assert axis.zoomed(2.0, 300).year(300) == pytest.approx(axis.year(300))


def test_groups_fold_and_say_their_sums(qtbot: QtBot, session: Session, station: SourcesStation) -> None:
    from wily_magpie.core.entries.layout import Sum

    station.arrange(station.state.layout.with_column("price", station.place.fields, sum=Sum.SUM))  # type: ignore[union-attr]
    station.show_question(station.key, "sortBy status/group published/group=century title")
    table = station.table.table
    qtbot.waitUntil(lambda: len(table.heads) == 7, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: "Price: sum 6" in str(table.index(0, 0).data()), timeout=PATIENCE_MS)
    assert str(table.index(0, 0).data()).startswith("▾ to read  ·  3")
    first = station.table.visualRect(table.index(0, 0)).center()
    qtbot.mouseClick(station.table.viewport(), LEFT, pos=first)
    assert str(table.index(0, 0).data()).startswith("▸ to read")
    assert str(table.index(1, 0).data()).startswith("▾ read")
    assert table.row_of(session.reader.entries.listing(station.key, station.question).ids[0]) is None
    qtbot.mouseClick(station.table.viewport(), LEFT, pos=first)
    assert table.rowCount() == 12


def pieces(station: SourcesStation) -> list[QPushButton]:
    words = station.sentence.words
    return [one for one in words.findChildren(QPushButton) if one.isVisibleTo(words) and one.objectName() == "piece"]


def test_the_sentence_removes_by_del_and_brings_back_only_that(
    qtbot: QtBot, session: Session, station: SourcesStation
) -> None:
    station.sentence.text.setText("(status = read or price > 2) not title = flood sortBy title")
    station.sentence._on_text()
    qtbot.waitUntil(lambda: len(station.table.table.listing.ids) == 3, timeout=PATIENCE_MS)
    steps = session.overview.undo
    chosen = next(one for one in pieces(station) if one.text() == "“flood”")
    chosen.setFocus()
    qtbot.keyClick(chosen, Qt.Key.Key_Delete)
    assert station.sentence.text.text() == "status = read or price > 2 sortBy title"
    again = pieces(station)[-1]
    again.setFocus()
    qtbot.keyClick(again, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert station.sentence.text.text() == "(status = read or price > 2) not title = flood sortBy title"
    assert session.overview.undo == steps, "nothing else is undone"
    words = station.sentence.words.findChildren(QPushButton)  # those of before are hidden, and gone a moment later
    not_word = next(one for one in words if one.text() == "not" and one.isVisible())
    qtbot.mouseClick(not_word, LEFT)
    assert station.sentence.text.text() == "(status = read or price > 2) and title = flood sortBy title"
    cross = next(
        one
        for one in station.sentence.words.findChildren(QPushButton)
        if one.accessibleName() == "Take out: price is more than 2" and one.isVisible()
    )
    qtbot.mouseClick(cross, LEFT)
    assert station.sentence.text.text() == "status = read and title = flood sortBy title"
