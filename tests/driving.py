"""What a person does with the window again and again, in a line each."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import CAPTURE

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
