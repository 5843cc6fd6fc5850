"""What a person does with the window again and again, in a line each."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QAction, QDragEnterEvent, QDragMoveEvent, QDropEvent
from PyQt6.QtWidgets import QApplication, QMenu, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import CAPTURE, SOURCES
from wily_magpie.qt.stations.sources.station import SourcesStation

PATIENCE_MS = 30_000


def type_address(qtbot: QtBot, window: MainWindow, address: str) -> None:
    """What a person does: Ctrl+L, the address, Enter."""
    qtbot.keyClick(window, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
    assert QApplication.focusWidget() is window.top.address
    qtbot.keyClicks(window.top.address, address)
    qtbot.keyClick(window.top.address, Qt.Key.Key_Return)


def open_page(qtbot: QtBot, window: MainWindow, address: str) -> None:
    """Opens an address and waits for its slip."""
    type_address(qtbot, window, address)
    assert window.stack.currentIndex() == CAPTURE
    qtbot.waitUntil(lambda: window.stack.capture.card.slip is not None, timeout=PATIENCE_MS)


def text_of(window: MainWindow, key: str) -> str:
    return window.stack.capture.card.lines[key].editor.text()


def notice_button(window: MainWindow, label: str) -> QPushButton:
    return next(button for button in window.notice.buttons if button.text() == label)


def read_notebook(qtbot: QtBot, window: MainWindow, session: Session) -> str:
    """Has the folder that was just written read, and the window know of it; the folder's key."""
    key = session._library.place("Notebook").key
    session.refresh_notes(key)
    session.look_around()
    qtbot.waitUntil(lambda: window.bridge.overview.find_place("Notebook") is not None, timeout=PATIENCE_MS)
    return key


def notes_station(qtbot: QtBot, window: MainWindow, session: Session) -> SourcesStation:
    """The Sources station with the two notes of the folder that was just written."""
    place = session._library.place("Notebook")
    read_notebook(qtbot, window, session)
    window.go(SOURCES)
    made = window.stack.sources
    made.show_question(place.key, "sortBy title")
    qtbot.waitUntil(lambda: made.table.table.rowCount() == 2, timeout=PATIENCE_MS)
    return made


def note_id(session: Session, path: str) -> int:
    """The id of a note of that folder; 0 for none."""
    return session._library.notes("Notebook").index.id_of(path) or 0


def answered_menus(monkeypatch: pytest.MonkeyPatch) -> "MenuAnswers":
    """Answers the menus that would wait for a person, by the lines that are named beforehand."""
    answers = MenuAnswers()
    monkeypatch.setattr(QMenu, "exec", lambda menu, *_at: answers.answer(menu))
    return answers


class MenuAnswers:
    """Which line of the next menu is chosen, through the menus in it; and which lines the last one had."""

    def __init__(self) -> None:
        self.wanted: tuple[str, ...] = ()
        self.lines: list[str] = []

    def answer(self, menu: QMenu) -> QAction | None:
        """Stands in for a menu that waits."""
        self.lines = [one.text() for one in menu.actions() if not one.isSeparator()]
        for text in self.wanted:
            line = next(one for one in menu.actions() if one.text().partition("\t")[0] == text)
            inner = line.menu()
            if inner is None:
                line.trigger()
                return line
            menu = inner
        return None


def drop(target: QWidget, data: QMimeData, at: QPoint | None = None) -> bool:
    """Drags something over a widget and lets it go there; whether it was welcome."""
    point = QPointF(at if at is not None else target.rect().center())
    action, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    enter = QDragEnterEvent(point.toPoint(), action, data, left, none)
    enter.ignore()
    QApplication.sendEvent(target, enter)
    if not enter.isAccepted():
        return False
    move = QDragMoveEvent(point.toPoint(), action, data, left, none)
    QApplication.sendEvent(target, move)
    QApplication.sendEvent(target, QDropEvent(point, action, data, left, none))
    return True


def link(address: str) -> QMimeData:
    """A link as browsers hand it over."""
    data = QMimeData()
    data.setUrls([QUrl(address)])
    return data


def file_in_hand(path: Path) -> QMimeData:
    """A file as file managers hand it over."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    return data
