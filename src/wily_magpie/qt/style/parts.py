"""Small widgets that look alike everywhere."""

import html
from collections.abc import Callable

from PyQt6.QtCore import QObject, QSize, Qt, QTimer
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QLayout,
    QMessageBox,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.qt.style.theme import THEME

WIDEST_WORD_PX = 240
MOST_PX = 16_777_215
"""As far as Qt's own sizes go."""


class PlainLabel(QLabel):
    """Shows its text as it is: what begins like HTML, Qt would lay out, and read files of the machine for it."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self.setTextFormat(Qt.TextFormat.PlainText)


class WrappedLabel(PlainLabel):
    """Wraps its text; a word without end, as pages have them, is cut off instead of widening the window."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self.setWordWrap(True)

    def minimumSizeHint(self) -> QSize:
        return super().minimumSizeHint().boundedTo(QSize(WIDEST_WORD_PX, MOST_PX))


def plain_tip(text: str) -> str:
    """A tool tip that shows its text as it is, as a plain label does."""
    return f'<p style="white-space: pre-wrap">{html.escape(text, quote=False)}</p>' if "<" in text else text


def label(text: str = "", name: str = "slate", *, wraps: bool = False) -> QLabel:
    """A label in one of the sheet's manners: slate, heading, reason, problem, origin, empty."""
    made = WrappedLabel(text) if wraps else PlainLabel(text)
    made.setObjectName(name)
    return made


def tell_rest(column: QLayout, total: int, shown: int, told: str = "") -> None:
    """Says below what is shown how much there is more, where that is not all."""
    if total > shown:
        column.addWidget(label(f"and {total - shown:,} more{told}", "reason"))


def text_button(text: str, icon: str = "", act: Callable[[], object] | None = None) -> QToolButton:
    """A flat button with a word, and an icon beside it where one is named."""
    made = QToolButton()
    made.setText(text)
    if icon:
        THEME.set_icon(made, icon)
        made.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
    if act is not None:
        made.clicked.connect(lambda: act())
    return made


def icon_button(icon: str, name: str, act: Callable[[], object] | None = None) -> QToolButton:
    """A flat button with an icon alone; its name is its tip and what a screen reader says."""
    made = QToolButton()
    THEME.set_icon(made, icon)
    made.setToolTip(plain_tip(name))
    made.setAccessibleName(name)
    if act is not None:
        made.clicked.connect(lambda: act())
    return made


def scroll_area(inside: QWidget, *, is_upright: bool = True) -> QScrollArea:
    """A frame that scrolls; upright: never sideways."""
    made = QScrollArea()
    made.setWidgetResizable(True)
    if is_upright:
        made.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    made.setWidget(inside)
    return made


def thin_bar(total: int = 100) -> QProgressBar:
    """A progress bar without a number on it."""
    made = QProgressBar()
    made.setTextVisible(False)
    made.setRange(0, total)
    return made


def alone(icon: "QMessageBox.Icon", text: str = "") -> QMessageBox:
    """A question or a message where there is no window yet."""
    made = QMessageBox(icon, "Wily Magpie", text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    THEME.dress(made)
    return made


def timer(parent: QObject, act: Callable[[], object], every_ms: int = 0) -> QTimer:
    """A timer that calls a function; without every_ms it does so once after each start(ms)."""
    made = QTimer(parent)
    made.setSingleShot(every_ms == 0)
    made.setInterval(every_ms)
    made.timeout.connect(act)
    return made


def at_once(waiting: QTimer, act: Callable[[], object]) -> None:
    """Does now what a timer would do later, where it is about to."""
    if waiting.isActive():
        waiting.stop()
        act()


def head_of(dialog: QDialog, title: str, about: str) -> QVBoxLayout:
    """The column of a page, with its heading."""
    dialog.setWindowTitle(title)
    column = QVBoxLayout(dialog)
    column.setContentsMargins(20, 16, 20, 14)
    column.setSpacing(8)
    column.addWidget(label(title, "heading"))
    column.addWidget(label(about, wraps=True))
    return column


def foot_of(dialog: QDialog, *buttons: QPushButton) -> QHBoxLayout:
    """The row below a page: what can be done on it, and the way out."""
    row = QHBoxLayout()
    for button in buttons:
        row.addWidget(button)
    row.addStretch(1)
    close = QPushButton("Close")
    close.clicked.connect(dialog.accept)
    row.addWidget(close)
    return row


def button(text: str, act: Callable[[], object], *, is_main: bool = False) -> QPushButton:
    """A button; the main one is for what its page is for."""
    made = QPushButton(text)
    made.clicked.connect(lambda: act())
    if is_main:
        made.setObjectName("main")
    return made


def in_row(*widgets: QWidget) -> QHBoxLayout:
    """Beside one another, from the left."""
    row = QHBoxLayout()
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch(1)
    return row


def bare_column(of: QWidget) -> QVBoxLayout:
    """A column without margins in a widget."""
    made = QVBoxLayout(of)
    made.setContentsMargins(0, 0, 0, 0)
    made.setSpacing(0)
    return made


def in_column(*widgets: QWidget) -> QWidget:
    """Widgets one below the other; the last takes the room."""
    box = QWidget()
    inside = bare_column(box)
    for widget in widgets:
        inside.addWidget(widget, int(widget is widgets[-1]))
    return box
