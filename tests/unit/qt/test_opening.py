"""How a window comes up: painted once, its rows first, and with nothing loaded that nobody looks at yet."""

import subprocess
import sys
import threading
from collections import Counter
from collections.abc import Callable
from concurrent.futures import Future, wait
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import QEvent, QObject, QSettings, Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QLineEdit, QMenu, QToolButton
from pytestqt.qtbot import QtBot

from wily_magpie.core.catalogue import MENU, WINDOW_ACTS, Where
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.application import make_window
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import CAPTURE, SOURCES

PATIENCE_MS = 15_000
START = """
import sys
from wily_magpie.__main__ import make_ready
make_ready()
from pathlib import Path
from PyQt6.QtCore import QEventLoop, QSettings
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.application import make_application, make_window
from wily_magpie.qt.style.theme import THEME
application, folder = make_application(), Path(sys.argv[1])
THEME.apply(application, "light")
session = Session(folder, Fetcher())
settings = QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat)
window = make_window(session, settings, lambda _: None, [], person=PersonSettings(folder / "settings.toml"))
window.show()
while window.stack.sources.table.table.rowCount() == 0 or not window.updatesEnabled():
    application.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
print("\\n".join(sys.modules))
window.close()
session.close()
"""
NOT_AT_A_START = (
    "PyQt6.QtWebEngineCore", "inspect", "ipaddress", "traceback", "numpy", "lxml", "httpx",
    "wily_magpie.core.commands.entries", "wily_magpie.core.commands.views", "wily_magpie.core.commands.capture",
    "wily_magpie.core.pages.markdown", "wily_magpie.core.entries.capture_list", "wily_magpie.qt.entry_form",
    "wily_magpie.qt.stations.sources.folder_tree", "wily_magpie.qt.stations.capture.station",
    "wily_magpie.qt.window_pages", "wily_magpie.shell", "wily_magpie.demo",
)  # fmt: skip


def test_a_start_loads_nothing_that_its_first_picture_does_without(session: Session, tmp_path: Path) -> None:
    session.do(AddEntry("collection:1", "The mill"))
    session.close()
    folder = tmp_path / "library"
    ended = subprocess.run([sys.executable, "-c", START, str(folder)], capture_output=True, text=True, check=False)
    assert ended.returncode == 0, ended.stderr
    loaded = set(ended.stdout.split())
    assert "wily_magpie.qt.stations.sources.table" in loaded
    assert [name for name in NOT_AT_A_START if name in loaded] == []


@pytest.fixture
def opened(
    qtbot: QtBot, session: Session, route: Callable[[str], str | None], tmp_path: Path
) -> Callable[[], MainWindow]:
    """Opens a window over the session, which has an entry."""
    session.do(AddEntry("collection:1", "The mill"))

    def make() -> MainWindow:
        settings = QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)
        window = make_window(session, settings, route, [], person=PersonSettings(tmp_path / "settings.toml"))
        qtbot.addWidget(window)
        return window

    return make


class Seen(QObject):
    """Notes what is there whenever a widget is painted."""

    def __init__(self, look: Callable[[], object]) -> None:
        super().__init__()
        self.look, self.seen = look, list[object]()

    def eventFilter(self, _watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Paint:
            self.seen.append(self.look())
        return False


def test_what_is_painted_first_has_its_rows_and_no_sheet_yet(qtbot: QtBot, opened: Callable[[], MainWindow]) -> None:
    window = opened()
    station = window.stack.sources
    port = station.table.viewport()
    assert port is not None
    first = Seen(lambda: (station.table.table.rowCount(), "sheet" in station.panel.__dict__))
    port.installEventFilter(first)
    window.show()
    qtbot.waitUntil(lambda: bool(first.seen), timeout=PATIENCE_MS)
    assert first.seen[0] == (1, False)
    qtbot.waitUntil(lambda: station.panel.entry is not None, timeout=PATIENCE_MS)
    assert station.panel.stack.currentWidget() is station.panel.sheet


def test_a_picture_is_not_held_for_an_answer_that_is_there_already(
    opened: Callable[[], MainWindow], session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    ask = session.ask
    monkeypatch.setattr(session, "ask", lambda query: next(iter(wait([ask(query)]).done)))
    window = opened()
    assert window.stack.sources.table.table.rowCount() == 1
    assert window.updatesEnabled()


def test_a_picture_is_held_for_an_answer_but_not_for_long(
    qtbot: QtBot, opened: Callable[[], MainWindow], session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    ask, goes_on = session.ask, threading.Event()

    def slowly(query: Callable[[Any], Any]) -> Future[Any]:
        return ask(lambda reader: (goes_on.wait(20), query(reader))[1])

    monkeypatch.setattr(session, "ask", slowly)
    window = opened()
    window.show()
    assert not window.updatesEnabled()
    qtbot.waitUntil(window.updatesEnabled, timeout=PATIENCE_MS)
    assert window.stack.sources.table.table.rowCount() == 0
    goes_on.set()
    qtbot.waitUntil(lambda: window.stack.sources.table.table.rowCount() == 1, timeout=PATIENCE_MS)


def test_keys_are_there_before_the_menu_was_ever_opened(qtbot: QtBot, window: MainWindow) -> None:
    assert window.menu.actions() == []
    qtbot.waitUntil(window.isActiveWindow, timeout=PATIENCE_MS)
    window.go(SOURCES)
    qtbot.keyClick(window, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
    assert window.stack.currentIndex() == CAPTURE
    assert window.menu.actions() == []


def lines_of(menu: QMenu) -> list[QAction]:
    """The lines of a menu and of those in it."""
    inner = [one.menu() for one in menu.actions()]
    own = [one for one in menu.actions() if one.menu() is None and not one.isSeparator()]
    return [*own, *(line for one in inner if one is not None for line in lines_of(one))]


def test_the_menu_has_every_command_in_its_group_and_fits_a_small_screen(window: MainWindow) -> None:
    assert {act.group for act in WINDOW_ACTS if act.group} == set(MENU)
    window.menu.aboutToShow.emit()
    lines = lines_of(window.menu)
    named = [act for act in WINDOW_ACTS if act.group and act.id in window.commands.bound]
    assert Counter(line.property("act") for line in lines) == Counter(act.id for act in named)
    inner = {one.text(): one.menu() for one in window.menu.actions() if one.menu() is not None}
    assert list(inner) == [name for name in MENU.values() if name]
    for group, name in MENU.items():
        menu = inner[name] if name else None
        told = [line.property("act") for line in menu.actions()] if menu is not None else []
        assert not name or told == [act.id for act in named if act.group == group]
    for menu in (window.menu, *inner.values()):
        assert menu is not None
        assert menu.sizeHint().height() <= 700
        assert menu.sizeHint().width() <= 600
    with_keys = {line.property("act") for line in lines if line.shortcuts()}
    assert with_keys == {act.id for act in named if act.keys and act.where is not Where.PLACES}
    window.menu.aboutToShow.emit()
    assert lines_of(window.menu) == lines


def test_what_the_menu_greys_can_be_had_by_its_keys_again_when_it_is_closed(window: MainWindow) -> None:
    window.go(SOURCES)
    window.menu.aboutToShow.emit()
    redo = window.menu.named["redo"]
    assert not redo.isEnabled()
    window.menu.aboutToHide.emit()
    assert redo.isEnabled()
    keep = window.menu.named["keep"]
    assert not keep.isEnabled()
    window.go(CAPTURE)
    assert keep.isEnabled()


def test_undo_is_named_truly_while_the_menu_is_open(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    window.menu.popup(window.pos())
    assert window.menu.named["undo"].text() == "Undo"
    session.do(AddEntry("collection:1", "The weir"))
    qtbot.waitUntil(lambda: window.menu.named["undo"].text() != "Undo", timeout=PATIENCE_MS)
    assert window.menu.named["undo"].text() == window.commands.bound["undo"].label
    window.menu.hide()


def test_the_address_line_offers_to_be_cleared_once_there_is_something(qtbot: QtBot, window: MainWindow) -> None:
    line: QLineEdit = window.top.address
    assert not line.isClearButtonEnabled()
    qtbot.keyClicks(line, "mill")
    assert line.isClearButtonEnabled()
    button = line.findChild(QToolButton)
    assert button is not None
    qtbot.waitUntil(button.isVisible, timeout=PATIENCE_MS)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert line.text() == ""
