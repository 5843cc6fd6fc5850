"""The marks on a slip, in the order of the page, each with its kind and comment."""

from collections import Counter
from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from wily_magpie.core.entries.mark import Mark
from wily_magpie.qt.editors.mark_row import MarkRow
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.parts import WrappedLabel, scroll_area, text_button

TALLEST_PX, ROW_PX = 132, 66


class MarksList(QWidget):
    """Shows marks and lets them be changed and taken away.

    Signals:
        changed: (those that are others now, those that are to go).
        taken_back: the last change is not to be.
        hidden: whether they are hidden in the page.
        pointed: one is to be shown in the page.
        commented: a comment is written to its end.
    """

    changed = pyqtSignal(tuple, tuple)
    taken_back = pyqtSignal()
    hidden = pyqtSignal(bool)
    pointed = pyqtSignal(object)
    commented = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.marks: tuple[Mark, ...] = ()
        self.typed: tuple[object, str] | None = None
        """The place of a mark, and what is typed as its comment until its row is there."""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 2)
        column.setSpacing(2)
        bar = QHBoxLayout()
        self.head = WrappedLabel()
        self.head.setObjectName("slate")
        bar.addWidget(self.head, 1)
        self.back = text_button("Take back", act=self.taken_back.emit)
        self.back.setToolTip("Take back what was done last with the marks of this slip")
        self.hide_all = text_button("Hide in the page")
        self.hide_all.setCheckable(True)
        self.hide_all.toggled.connect(self._on_hidden)
        for button in (self.back, self.hide_all):
            button.setObjectName("small")
            bar.addWidget(button)
        column.addLayout(bar)
        inside = QWidget()
        self.rows = QVBoxLayout(inside)
        self.rows.setContentsMargins(0, 0, 8, 0)
        self.rows.setSpacing(6)
        self.area = scroll_area(inside)
        column.addWidget(self.area)
        self.hide()

    def show_marks(self, marks: Sequence[Mark], *, can_take_back: bool = False) -> None:
        """Shows marks; nothing where there are none."""
        self.back.setVisible(can_take_back)
        self.setVisible(bool(marks) or can_take_back)
        if tuple(marks) == self.marks:
            return
        self.marks = tuple(marks)
        kinds = ", ".join(f"{count} {kind}" for kind, count in Counter(mark.kind for mark in self.marks).items())
        self.head.setText(f"Marks: {len(self.marks)}{f' ({kinds})' if kinds else ''}")
        clear(self.rows)
        for mark in self.marks:
            row = MarkRow(mark)
            row.changed.connect(lambda new: self.changed.emit((new,), ()))
            row.removed.connect(lambda old: self.changed.emit((), (old,)))
            row.pointed.connect(self.pointed)
            row.comment.returnPressed.connect(self.commented)
            self.rows.addWidget(row)
        self.rows.addStretch(1)
        self.area.setFixedHeight(min(TALLEST_PX, ROW_PX * len(self.marks) + 2))
        self.go_on_typing()

    def type_comment(self, mark: Mark, text: str) -> None:
        """What is typed after a mark was made becomes its comment; the keyboard goes there."""
        before = self.typed[1] if self.typed is not None and self.typed[0] == mark.place else ""
        self.typed = (mark.place, before + text)
        self.go_on_typing()

    def go_on_typing(self) -> None:
        """Puts what was typed into its row, once that is there."""
        rows = [row for row in self.findChildren(MarkRow) if self.typed is not None and row.mark.place == self.typed[0]]
        if self.typed is None or not rows:
            return
        text, self.typed = self.typed[1], None
        self.area.ensureWidgetVisible(rows[-1])
        rows[-1].comment.setFocus()
        rows[-1].comment.end(False)
        rows[-1].comment.insert(text)

    def _on_hidden(self, is_hidden: bool) -> None:
        self.hide_all.setText("Show in the page" if is_hidden else "Hide in the page")
        self.hidden.emit(is_hidden)
