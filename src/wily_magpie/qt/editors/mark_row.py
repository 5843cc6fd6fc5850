"""One mark: its kind, its passage, and the reader's comment, which is written in place."""

from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QLineEdit, QWidget

from wily_magpie.core.entries.mark import Mark
from wily_magpie.qt.style.mark_looks import look_of
from wily_magpie.qt.style.parts import WrappedLabel, icon_button, label
from wily_magpie.qt.style.theme import THEME

LONGEST_SHOWN, BAR_PX = 240, 3


class MarkRow(QWidget):
    """Shows a mark.

    Signals:
        changed: the mark with another comment.
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
        grid.setVerticalSpacing(2)
        colour = THEME.colours.spine(look_of(mark.kind).colour)
        bar = QFrame()
        bar.setFixedWidth(BAR_PX)
        bar.setStyleSheet(f"background: {colour};")
        grid.addWidget(bar, 0, 0, 3, 1)
        grid.addWidget(label(mark.kind, "origin"), 0, 1)
        remove = icon_button("x", f"Remove this mark: {mark.kind}", lambda: self.removed.emit(self.mark))
        grid.addWidget(remove, 0, 2, Qt.AlignmentFlag.AlignRight)
        text = " ".join(mark.exact.split())
        self.passage = WrappedLabel(text if len(text) <= LONGEST_SHOWN else f"{text[: LONGEST_SHOWN - 1]}…")
        self.passage.setTextFormat(Qt.TextFormat.PlainText)
        self.passage.setToolTip("Click: show where it stands")
        grid.addWidget(self.passage, 1, 1, 1, 2)
        self.comment = QLineEdit(mark.comment)
        self.comment.setAccessibleName(f"Comment on the {mark.kind}")
        self.comment.setPlaceholderText("your comment")
        self.comment.editingFinished.connect(self._on_comment)
        self.comment.setCursorPosition(0)
        grid.addWidget(self.comment, 2, 1, 1, 2)
        grid.setColumnStretch(1, 1)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        super().mousePressEvent(event)
        self.pointed.emit(self.mark)

    def _on_comment(self) -> None:
        if self.comment.text() != self.mark.comment:
            self.mark = replace(self.mark, comment=self.comment.text())
            self.changed.emit(self.mark)
