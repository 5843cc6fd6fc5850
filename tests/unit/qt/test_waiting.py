"""What is waited for, turned and tried again: the small window before there is another one, the calendar, a list, a column's name."""

import threading
from datetime import date

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication, QDialog, QInputDialog, QProgressBar, QPushButton
from pytestqt.qtbot import QtBot

from helpers import undo
from wily_magpie.core.commands.command import Progress
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.lists import MakeList
from wily_magpie.core.entries.capture_list import ItemState, ListWanted
from wily_magpie.core.session.session import Session
from wily_magpie.qt import waiting
from wily_magpie.qt.list_pages import ListPage
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import SOURCES
from wily_magpie.qt.stations.sources.day_page import Calendar
from wily_magpie.qt.stations.sources.station import SourcesStation
from wily_magpie.qt.waiting import wait_for

PATIENCE_MS = 15_000
KEY = "collection:1"
LEFT = Qt.MouseButton.LeftButton


def shown_window() -> QDialog | None:
    """The window that tells what is waited for, if it is seen."""
    dialogs = [one for one in QApplication.topLevelWidgets() if isinstance(one, QDialog) and one.isVisible()]
    return next((one for one in dialogs if one.findChild(QProgressBar) is not None), None)


class Watch:
    """Looks again and again, while the program waits, and acts once."""

    def __init__(self, qtbot: QtBot) -> None:
        self.qtbot, self.seen = qtbot, list[str]()
        self.timer = QTimer()
        self.timer.setInterval(10)

    def press_cancel(self) -> None:
        """Presses Cancel when the window is there."""
        dialog = shown_window()
        if dialog is not None:
            self.timer.stop()
            button = next(one for one in dialog.findChildren(QPushButton) if one.text() == "Cancel")
            self.qtbot.mouseClick(button, LEFT)
            self.seen.append("cancelled")

    def note_progress(self) -> None:
        """Notes how far its bar is."""
        dialog = shown_window()
        bar = dialog.findChild(QProgressBar) if dialog is not None else None
        if bar is not None and bar.maximum() > 0:
            self.seen.append(f"{bar.value()} of {bar.maximum()}")


def go_on(progress: Progress, watch: Watch) -> None:
    """Work of some seconds, which ends when something was seen or when it is told to."""
    pause = threading.Event()
    for _ in range(4_000):
        progress.tick(3, 7)
        if watch.seen and "cancelled" not in watch.seen:
            return
        pause.wait(0.005)


@pytest.fixture
def watch(qtbot: QtBot, qapp: QApplication) -> Watch:
    return Watch(qtbot)


def test_what_is_done_in_a_moment_shows_no_window(watch: Watch) -> None:
    watch.timer.timeout.connect(watch.note_progress)
    watch.timer.start()
    assert wait_for("Making it …", lambda progress: progress.tick(1, 2))
    watch.timer.stop()
    assert watch.seen == []


def test_what_takes_longer_shows_how_far_it_is(watch: Watch, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(waiting, "AFTER_MS", 1)
    watch.timer.timeout.connect(watch.note_progress)
    watch.timer.start()
    assert wait_for("Making it …", lambda progress: go_on(progress, watch))
    watch.timer.stop()
    assert watch.seen[0] == "3 of 7"
    assert shown_window() is None


def test_a_person_can_end_it_and_a_failure_is_told_where_it_was_asked_for(
    watch: Watch, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(waiting, "AFTER_MS", 1)
    watch.timer.timeout.connect(watch.press_cancel)
    watch.timer.start()
    assert not wait_for("Making it …", lambda progress: go_on(progress, watch))
    assert watch.seen == ["cancelled"]

    def fail(_progress: Progress) -> None:
        raise ValueError("no room")

    with pytest.raises(ValueError, match="no room"):
        wait_for("Making it …", fail)


@pytest.mark.parametrize(
    ("start", "by", "wanted"),
    [
        (date(2026, 11, 29), 1, "December 2026"),
        (date(2026, 12, 1), 1, "January 2027"),
        (date(2026, 1, 31), -1, "December 2025"),
        (date(2024, 3, 31), -1, "February 2024"),
    ],
)
def test_the_calendar_turns_over_years_and_short_months(qtbot: QtBot, start: date, by: int, wanted: str) -> None:
    calendar, told = Calendar(), list[date]()
    qtbot.addWidget(calendar)
    calendar.chosen.connect(told.append)
    calendar.show_day(start, {start: 1})
    assert calendar.buttons[start].property("written")
    calendar.turn(by)
    assert calendar.name.text() == wanted
    first = calendar.month
    last = max(calendar.buttons)
    assert (min(calendar.buttons), (last.month, last.day)) == (first, (first.month, len(calendar.buttons)))
    calendar.buttons[last].click()
    assert told == [last]


def test_what_failed_of_a_list_is_tried_again(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    addresses = (("http://127.0.0.1:9/closed", "Closed"), ("http://127.0.0.1:9/too", "Too"))
    number = session.do(MakeList("two doors", addresses, ListWanted()))
    window.bridge.start_list(number)

    def states() -> list[ItemState]:
        return [one.state for one in session.reader.lists.items(number)]

    qtbot.waitUntil(lambda: states() == [ItemState.FAILED, ItemState.FAILED], timeout=PATIENCE_MS)
    window.lists.open(number)
    page = window.lists.page
    assert isinstance(page, ListPage)
    qtbot.waitUntil(page.again.isVisible, timeout=PATIENCE_MS)
    began = len(session.jobs.all)
    qtbot.mouseClick(page.again, LEFT)
    qtbot.waitUntil(lambda: len(session.jobs.all) > began, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: states() == [ItemState.FAILED, ItemState.FAILED], timeout=PATIENCE_MS)
    qtbot.waitUntil(page.again.isVisible, timeout=PATIENCE_MS)
    page.close()


@pytest.fixture
def station(qtbot: QtBot, window: MainWindow, session: Session) -> SourcesStation:
    session.do(AddEntry(KEY, "A mill with a name that is much longer than its column would be, and goes on"))
    window.go(SOURCES)
    station = window.stack.sources
    station.show_question(KEY, "sortBy title")
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 1, timeout=PATIENCE_MS)
    station.table.choose(station.table.table.id_at(0))
    return station


def test_a_column_is_named_here_and_has_its_own_name_again(
    qtbot: QtBot, station: SourcesStation, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    def heading() -> str:
        return str(station.table.table.headerData(0, Qt.Orientation.Horizontal))

    for given, wanted in ((("Work", True), "Work"), (("Else", False), "Work"), (("", True), "Title")):
        monkeypatch.setattr(QInputDialog, "getText", lambda *_, given=given, **__: given)
        station.columns.ask_name()
        qtbot.waitUntil(lambda wanted=wanted: heading() == wanted, timeout=PATIENCE_MS)  # type: ignore[misc]
    undo(session)
    qtbot.waitUntil(lambda: heading() == "Work", timeout=PATIENCE_MS)


def test_a_column_is_fitted_to_what_it_holds(qtbot: QtBot, station: SourcesStation) -> None:
    before = station.table.columnWidth(0)
    station.columns.fit()
    assert station.table.columnWidth(0) > before
    qtbot.waitUntil(lambda: bool(station.state.layout.column("title").width), timeout=PATIENCE_MS)
