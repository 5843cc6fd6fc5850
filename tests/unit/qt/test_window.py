"""The window as a whole: notices, undo that is stuck, settings, steps, looking only, what others do, and the guard."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from helpers import add_notes, undo_label
from processes import Child
from wily_magpie.core.commands.entries import AddEntry, SetText
from wily_magpie.core.commands.fields import AddField, DeleteField
from wily_magpie.core.commands.notes import WriteNote
from wily_magpie.core.commands.places import DeletePlace
from wily_magpie.core.commands.views import KeepView
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.errors import BugError, UserError
from wily_magpie.core.guard import GUARD, InterfaceWaits
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.application import make_window
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.opening import fit_screen
from wily_magpie.qt.station_stack import READ, REVIEW, SOURCES
from wily_magpie.qt.window_pages import SettingsPage, StepsPage

PATIENCE_MS = 15_000


def button(window: MainWindow, text: str) -> QPushButton:
    return next(one for one in window.notice.buttons if one.text() == text)


def titles(window: MainWindow) -> list[str]:
    table = window.stack.sources.table.table
    return [str(table.index(row, 0).data()) for row in range(table.rowCount())]


def wait_for_titles(qtbot: QtBot, window: MainWindow, wanted: list[str]) -> None:
    qtbot.waitUntil(lambda: sorted(titles(window)) == sorted(wanted), timeout=PATIENCE_MS)


# notices


def test_a_notice_goes_by_itself_after_a_time_that_suits_its_length(qtbot: QtBot, window: MainWindow) -> None:
    short, long = window.notice.shown_ms("Kept."), window.notice.shown_ms("x" * 240)
    assert short < 4_000 < 20_000 < long
    window.person.raw["notice_letters_a_second"] = 60.0
    assert window.notice.shown_ms("x" * 240) < long / 2
    window.say("Kept.", ())
    assert window.notice.isVisible()
    assert window.notice.timer.isActive()
    window.notice.timer.start(0)
    qtbot.waitUntil(lambda: not window.notice.isVisible(), timeout=PATIENCE_MS)


def test_a_problem_stays_until_it_is_seen_and_covers_nothing(qtbot: QtBot, window: MainWindow) -> None:
    window.complain(UserError("bad-set", "That is none.", "Write another."))
    assert not window.notice.timer.isActive()
    assert window.notice.text.text() == "That is none. Write another."
    assert window.notice.geometry().top() >= window.stack.geometry().bottom()
    window.go(REVIEW)
    assert not window.notice.isVisible(), "what was said in a station stays there"


def test_only_our_own_faults_are_called_ours_and_have_a_log(
    qtbot: QtBot, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    opened: list[str] = []

    def open_url(url: object) -> bool:
        opened.append(url.toLocalFile())  # type: ignore[attr-defined]
        return True

    monkeypatch.setattr("PyQt6.QtGui.QDesktopServices.openUrl", open_url)
    window.complain(UserError("bad-set", "That is none."))
    assert window.notice.buttons == []
    window.complain(BugError("bug", "Something went wrong."))
    qtbot.mouseClick(button(window, "Show the log"), Qt.MouseButton.LeftButton)
    assert opened == [str(window.log())]


# undo


@pytest.fixture
def stuck(qtbot: QtBot, window: MainWindow, session: Session, tmp_path: Path) -> Path:
    """An entry, then a note that somebody else has changed since."""
    folder = tmp_path / "Notes"
    folder.mkdir()
    path = folder / "mill.md"
    path.write_text("The mill.\n")
    notes = add_notes(session, "Notes", folder)
    session.refresh_notes()
    session.do(AddEntry("collection:1", "Behind it"))
    session.do(WriteNote(notes.key, "mill.md", "By us."))
    path.write_text(path.read_text() + "By somebody else.\n")
    qtbot.waitUntil(lambda: window.bridge.overview.undo is not None, timeout=PATIENCE_MS)
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: "was changed by another program" in window.notice.text.text(), timeout=PATIENCE_MS)
    return path


def test_a_step_that_is_stuck_is_passed_over_by_a_click(
    qtbot: QtBot, window: MainWindow, session: Session, stuck: Path
) -> None:
    before = stuck.read_text()
    qtbot.mouseClick(button(window, "Pass it over"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: undo_label(session) == "New entry “Behind it”", timeout=PATIENCE_MS)
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: "Undone: New entry" in window.notice.text.text(), timeout=PATIENCE_MS)
    assert stuck.read_text() == before


def test_the_rest_of_a_step_that_is_stuck_is_taken_back_by_a_click(
    qtbot: QtBot, window: MainWindow, session: Session, stuck: Path
) -> None:
    qtbot.mouseClick(button(window, "Take back the rest"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Left as it is: mill.md" in window.notice.text.text(), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: undo_label(session) == "New entry “Behind it”", timeout=PATIENCE_MS)


def test_undo_of_a_notice_takes_back_what_it_speaks_of(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    window.go(SOURCES)
    session.do(AddEntry("collection:1", "The mill"))
    wait_for_titles(qtbot, window, ["The mill"])
    station = window.stack.sources
    station.delete(list(station.table.table.listing.ids))
    qtbot.waitUntil(lambda: bool(window.notice.buttons), timeout=PATIENCE_MS)
    undo_button = button(window, "Undo")
    session.do(AddEntry("collection:1", "Another"))  # meanwhile something else is done
    wait_for_titles(qtbot, window, ["Another"])
    qtbot.mouseClick(undo_button, Qt.MouseButton.LeftButton)
    wait_for_titles(qtbot, window, ["Another", "The mill"])


def test_one_goes_back_to_a_point_in_the_list_of_steps(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    for number in range(4):
        session.do(AddEntry("collection:1", f"Mill {number}"))
    page = StepsPage(window.bridge, window.say, window)
    qtbot.addWidget(page)
    qtbot.waitUntil(lambda: page.table.rowCount() == 4, timeout=PATIENCE_MS)
    assert [page.table.item(row, 0).text() for row in range(2)] == ["New entry “Mill 3”", "New entry “Mill 2”"]  # type: ignore[union-attr]
    page.table.selectRow(1)
    qtbot.mouseClick(page.back, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "2 steps are taken back" in window.notice.text.text(), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: page.table.item(0, 3).text() == "undone", timeout=PATIENCE_MS)  # type: ignore[union-attr]
    assert not page.back.isEnabled()
    assert session.reader.entries.listing("collection:1", Question()).total == 2


# settings


def test_settings_hold_at_once_and_what_is_no_value_is_said(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    page = SettingsPage(window.bridge, window.person, window.hold, window)
    qtbot.addWidget(page)
    page.show()
    size = page.editors["reading_size_pt"].line
    assert size is not None
    size.selectAll()
    qtbot.keyClicks(size, "99")
    qtbot.keyClick(size, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "It can be 8 to 32" in page.told.text(), timeout=PATIENCE_MS)
    assert size.property("problem")
    size.selectAll()
    qtbot.keyClicks(size, "18")
    qtbot.keyClick(size, Qt.Key.Key_Return)
    qtbot.waitUntil(window.person.path.exists, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: window.person.path.read_text() == "reading_size_pt = 18.0\n", timeout=PATIENCE_MS)
    pictures = page.editors["pictures_a_page"].line
    assert pictures is not None
    pictures.selectAll()
    qtbot.keyClicks(pictures, "5")
    qtbot.keyClick(pictures, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: session.overview.settings == {"pictures_a_page": "5"}, timeout=PATIENCE_MS)


# what others do


def test_a_change_by_a_shell_is_seen_in_every_station_without_a_click(
    qtbot: QtBot, qapp: QApplication, tmp_path: Path, fetcher: Fetcher
) -> None:
    folder = tmp_path / "shared"
    Session(folder, fetcher).close()

    def work(_done: object) -> None:
        other = Session(folder, Fetcher(), origin="shell")
        entry_id = other.do(AddEntry("collection:1", "By the shell", {"status": "read"}))
        other.do(SetText("collection:1", [entry_id], "site", "Wick"))
        other.close()

    child = Child(work)
    session = Session(folder, fetcher)
    for window in window_over(session, tmp_path):
        window.go(SOURCES)
        child.go().ended()
        wait_for_titles(qtbot, window, ["By the shell"])
        window.stack.sources.pages.open_trash()
        assert undo_label(session) is None, "undo names only what this window did"
        window.go(REVIEW)
        qtbot.waitUntil(window.stack.review.isVisible, timeout=PATIENCE_MS)
    session.close()


def window_over(session: Session, tmp_path: Path) -> Iterator[MainWindow]:
    """A window over a session of a test's own; it may wait for no database or disk."""
    settings = QSettings(str(tmp_path / "own.ini"), QSettings.Format.IniFormat)
    person = PersonSettings(tmp_path / "own.toml")
    window = make_window(session, settings, lambda _address: None, [], person=person)
    window.show()
    GUARD.watch("wily_magpie.qt")
    yield window
    GUARD.lift()
    window.close()
    window.deleteLater()


def test_a_window_that_looks_only_has_no_button_that_writes_and_goes_along(
    qtbot: QtBot, qapp: QApplication, tmp_path: Path, fetcher: Fetcher
) -> None:
    folder = tmp_path / "shared"
    first = Session(folder, fetcher)
    first.do(AddEntry("collection:1", "The mill"))
    looking = Session(folder, fetcher, is_read_only=True)
    for window in window_over(looking, tmp_path):
        window.go(SOURCES)
        wait_for_titles(qtbot, window, ["The mill"])
        assert "to be looked at only" in window.windowTitle()
        station = window.stack.sources
        for one in ("new-entry", "keep-view", "new-place", "setup", "write-journal"):
            assert not window.commands.bound[one].is_enabled(), one
        names = {b.text() for b in station.findChildren(QPushButton) if b.isVisible() and b.isEnabled()}
        assert names & {"New entry", "Keep as view", "Keep changes", "New place"} == set()
        table = station.table.table
        assert not table.flags(table.index(0, 0)) & Qt.ItemFlag.ItemIsEditable
        first.do(AddEntry("collection:1", "Another"))
        wait_for_titles(qtbot, window, ["The mill", "Another"])
    looking.close()
    first.close()


# what is gone


def test_the_last_place_can_be_deleted_and_the_way_out_is_said(
    qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    window.go(SOURCES)
    session.do(DeletePlace("collection:1"))
    station = window.stack.sources
    qtbot.waitUntil(lambda: station.place is None, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: "There is no place in this library" in station.page.empty.text(), timeout=PATIENCE_MS)
    assert "New place" in station.page.empty.text()
    window.go(REVIEW)
    window.go(READ)
    window.go(SOURCES)
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: station.place is not None, timeout=PATIENCE_MS)


def test_a_view_that_lacks_its_field_shows_nothing_wrong(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    session.do(AddField("collection:1", FieldPlan("depth", "Depth", "number")))
    session.do(AddEntry("collection:1", "A pond", {"depth": 9.0}))
    session.do(AddEntry("collection:1", "A stream", {"depth": 1.0}))
    question = session.reader.entries.question("collection:1", "depth > 3")
    number = session.do(KeepView("collection:1", "Deep", question))
    window.go(SOURCES)
    station = window.stack.sources
    qtbot.waitUntil(lambda: any(v.id == number for v in window.bridge.overview.views), timeout=PATIENCE_MS)
    station.open_view(next(v for v in window.bridge.overview.views if v.id == number))
    wait_for_titles(qtbot, window, ["A pond"])
    session.do(DeleteField("collection:1", "depth"))
    qtbot.waitUntil(lambda: "cannot be asked any more" in station.page.empty.text(), timeout=PATIENCE_MS)
    assert titles(window) == []
    assert not station.page.keep_changes.isVisible()


def test_the_window_fits_the_screen_that_it_is_on(qtbot: QtBot, window: MainWindow) -> None:
    screen = QGuiApplication.primaryScreen()
    assert screen is not None
    room = screen.availableGeometry()
    window.resize(room.width() + 500, room.height() + 500)
    window.move(room.right() - 20, room.bottom() - 20)
    fit_screen(window)
    frame = window.frameGeometry()
    assert frame.topLeft() == room.topLeft(), "its title can be reached"
    assert frame.height() <= room.height()
    borders = frame.width() - window.width()
    assert frame.width() <= max(room.width(), window.minimumSizeHint().width() + borders)


def test_every_station_fits_the_smallest_screen(window: MainWindow) -> None:
    for number in range(5):
        window.go(number)
        least = window.stack.minimumSizeHint().expandedTo(window.top.minimumSizeHint())
        assert least.width() <= 798, number  # the frame takes two
        assert least.height() <= 500, number


def test_the_guard_is_on_while_windows_are_tested(window: MainWindow) -> None:
    window.notice.letters_a_second = lambda: float(Path(window.settings.fileName()).read_text() or 1)
    with pytest.raises(InterfaceWaits):
        window.notice.shown_ms("x")


def test_a_word_without_end_widens_no_window(qtbot: QtBot, window: MainWindow) -> None:
    before = window.size()
    window.complain(UserError("bad", "L" * 5000, "Try again."))
    window.stack.sources.sentence.problem.setText("L" * 5000)
    qtbot.waitUntil(window.notice.isVisible, timeout=5000)
    assert window.notice.text.toolTip().startswith("LLL")
    window.adjustSize()
    assert window.minimumSizeHint().width() <= 1024
    assert window.width() <= before.width()
