"""The marks on a slip, in the order of the page, each with its comment."""

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wily_magpie.core.entries.mark import Mark
from wily_magpie.qt.editors.mark_row import MarkRow
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.parts import label


class MarksList(QWidget):
    """Shows marks and lets them be commented and taken away.

    Signals:
        changed: all marks as they are now.
    """

    changed = pyqtSignal(tuple)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.marks: tuple[Mark, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 6)
        column.setSpacing(8)
        self.head = label("Marks")
        column.addWidget(self.head)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(10)
        column.addLayout(self.rows)
        self.hide()

    def show_marks(self, marks: Sequence[Mark]) -> None:
        """Shows marks; nothing where there are none."""
        if tuple(marks) == self.marks:
            return
        self.marks = tuple(marks)
        self.setVisible(bool(self.marks))
        self.head.setText(f"Marks: {len(self.marks)}")
        clear(self.rows)
        for at, mark in enumerate(self.marks):
            row = MarkRow(mark)
            row.changed.connect(lambda new, at=at: self.put(at, new))
            row.removed.connect(lambda _mark, at=at: self.put(at, None))
            self.rows.addWidget(row)

    def put(self, at: int, mark: Mark | None) -> None:
        """Changes a mark, or takes it away."""
        marks = list(self.marks)
        marks[at : at + 1] = [mark] if mark is not None else []
        if mark is not None:
            self.marks = tuple(marks)  # its row shows it already
        self.changed.emit(tuple(marks))
