"""The line at the top: the stations as words, the address line, the tray, the menu."""

import re

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QApplication, QButtonGroup, QHBoxLayout, QLineEdit, QToolButton, QWidget

from wily_magpie.core.patterns import pattern
from wily_magpie.qt.style.parts import plain_tip, text_button
from wily_magpie.qt.tray import TrayButton

STATIONS = ("Capture", "Read", "Sources", "Review", "Templates")


INSIDE = pattern(r"https?://\S", re.IGNORECASE)


class AddressLine(QLineEdit):
    """A web address goes to Capture; anything else is looked for in everything kept.

    Signals:
        many: a text with several addresses was pasted.
    """

    many = pyqtSignal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setPlaceholderText("An address to capture, or words to look for in everything kept")
        self.setAccessibleName("Address or words to look for")
        self.setMinimumWidth(120)
        self.textChanged.connect(self.offer_clearing)

    def offer_clearing(self, text: str) -> None:
        """Has a button that clears it from the first text on: the system's icons are looked through for it."""
        if text and not self.isClearButtonEnabled():
            self.setClearButtonEnabled(True)

    def show_address(self, address: str) -> None:
        """Shows where the live page is, ready to be typed over; what is being typed stays."""
        if self.hasFocus() and self.isModified():
            return
        self.setText(address)
        self.setCursorPosition(0)  # its beginning says whose page it is
        if self.hasFocus():
            self.setSelection(len(address), -len(address))

    def take(self) -> str:
        """What was typed; the next is typed over it."""
        self.setModified(False)
        self.selectAll()
        return self.text().strip()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        clipboard = QApplication.clipboard()
        if event is not None and event.matches(QKeySequence.StandardKey.Paste) and clipboard is not None:
            text = clipboard.text()
            if len(INSIDE.findall(text)) > 1:  # a list, which does not fit into a line
                self.many.emit(text)
                return
        super().keyPressEvent(event)
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.clear()


class TopLine(QWidget):
    """Tells which station was asked for, and what was typed."""

    station_asked = pyqtSignal(int)
    typed = pyqtSignal(str)

    def __init__(self, tray: TrayButton, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("topline")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 0, 10, 0)
        row.setSpacing(2)
        self.group = QButtonGroup(self)
        self.stations: list[QToolButton] = []
        for number, name in enumerate(STATIONS):
            button = text_button(name)
            button.setCheckable(True)
            button.setObjectName("station")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setToolTip(plain_tip(f"Ctrl+{number + 1}"))
            self.group.addButton(button, number)
            row.addWidget(button)
            self.stations.append(button)
        self.group.idClicked.connect(self.station_asked)
        row.addSpacing(16)
        self.address = AddressLine()
        self.address.returnPressed.connect(lambda: self.typed.emit(self.address.take()))
        row.addWidget(self.address, 1)
        row.addSpacing(12)
        row.addWidget(tray)
        self.menu = text_button("Menu", "list")
        self.menu.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.menu.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        row.addWidget(self.menu)

    def show_station(self, number: int) -> None:
        """Marks a station as the one that is open."""
        self.stations[number].setChecked(True)
