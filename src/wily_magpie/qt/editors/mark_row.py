"""One mark: its kind, which can be another, its passage or picture, and the reader's comment, which is written in place."""

from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QLineEdit, QMenu, QToolButton, QWidget

from wily_magpie.core.entries.mark import Mark
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.parts import WrappedLabel, icon_button, text_button
from wily_magpie.qt.style.theme import THEME

LONGEST_SHOWN, BAR_PX, INDENT_PX = 200, 3, 6


class MarkRow(QWidget):
    """Shows a mark.

    Signals:
        changed: the mark with another comment or kind.
        removed: it is to be taken away.
        pointed: the person wants to see where it stands.
    """

    changed = pyqtSignal(object)
    removed = pyqtSignal(object)
    pointed = pyqtSignal(object)

    def __init__(self, mark: Mark, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.mark = mark
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(0)
        bar = QFrame()
        bar.setFixedWidth(BAR_PX)
        bar.setStyleSheet(f"background: {THEME.colours.spine(LOOKS.of(mark.kind).colour)};")
        grid.addWidget(bar, 0, 0, 3, 1)
        self.kind = text_button(mark.kind)
        self.kind.setObjectName("markkind")
        self.kind.setToolTip("Change its kind")
        self.kind.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        for name in dict.fromkeys((*LOOKS.names, mark.kind)):
            action = menu.addAction(name.replace("&", "&&"))
            if action is not None:
                action.triggered.connect(lambda _checked, name=name: self.change(replace(self.mark, kind=name)))
        self.kind.setMenu(menu)
        grid.addWidget(self.kind, 0, 1, Qt.AlignmentFlag.AlignLeft)
        remove = icon_button("x", f"Remove this mark: {mark.kind}", lambda: self.removed.emit(self.mark))
        grid.addWidget(remove, 0, 2, Qt.AlignmentFlag.AlignRight)
        text = " ".join(mark.exact.split())
        if mark.picture:
            text = f"A picture: {text or mark.picture.rpartition('/')[2]}"
        self.passage = WrappedLabel(text if len(text) <= LONGEST_SHOWN else f"{text[: LONGEST_SHOWN - 1]}…")
        self.passage.setContentsMargins(INDENT_PX, 0, 0, 0)
        self.passage.setTextFormat(Qt.TextFormat.PlainText)
        self.passage.setToolTip("Click: show where it stands")
        grid.addWidget(self.passage, 1, 1, 1, 2)
        self.comment = QLineEdit(mark.comment)
        self.comment.setObjectName("comment")
        self.comment.setAccessibleName(f"Comment on the {mark.kind}")
        self.comment.setPlaceholderText("your comment")
        self.comment.editingFinished.connect(self._on_comment)
        self.comment.setCursorPosition(0)
        grid.addWidget(self.comment, 2, 1, 1, 2)
        grid.setColumnStretch(1, 1)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        super().mousePressEvent(event)
        self.pointed.emit(self.mark)

    def change(self, mark: Mark) -> None:
        """Makes it another one."""
        if mark != self.mark:
            self.mark = mark
            self.changed.emit(mark)

    def _on_comment(self) -> None:
        self.change(replace(self.mark, comment=self.comment.text()))
