"""What stands beside the text: the entry's fields, and its marks; each can be put away."""

from collections.abc import Collection

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.entries.parts import Divided
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.qt.editors.entry_marks import EntryMarks
from wily_magpie.qt.entry_form import EntryForm
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import scroll_area

FIELDS, MARKS, SIDE_PX = "read/fields_shown", "read/marks_shown", 250
"""The names under which it is remembered what is shown; the least width."""


class Side(QWidget):
    """See the module.

    Signals:
        pointed: a mark that is to be shown in the text.
    """

    pointed = pyqtSignal(object)

    def __init__(self, desk: StationContext) -> None:
        super().__init__()
        self.desk = desk
        self.place = ""
        self.setMinimumWidth(SIDE_PX)
        self.form = EntryForm(desk, lambda field, take: desk.ask_names(self.place, field, take))
        self.marks = EntryMarks(desk.bridge)
        self.marks.pointed.connect(self.pointed)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(14, 10, 12, 14)
        column.addWidget(self.form)
        column.addWidget(self.marks)
        column.addStretch(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(scroll_area(inside))

    def is_shown(self, part: str) -> bool:
        """Whether the person wants to see a part: FIELDS or MARKS."""
        return str(self.desk.settings.value(part, "false")) == "true"

    def turn(self, part: str) -> bool:
        """Shows a part, or puts it away; so it stays. Whether it is shown now."""
        self.desk.settings.setValue(part, "false" if self.is_shown(part) else "true")
        return self.is_shown(part)

    def show_entry(self, whole: WholeEntry | None, lost: Collection[Mark], text: Divided) -> None:
        """Shows the parts that are wanted, of an entry; of none, nothing."""
        self.form.setVisible(self.is_shown(FIELDS))
        self.marks.setVisible(self.is_shown(MARKS))
        self.setVisible(whole is not None and (self.is_shown(FIELDS) or self.is_shown(MARKS)))
        if whole is None:
            return
        self.place = whole.place.key
        if self.is_shown(FIELDS):
            self.form.show_entry(whole)
        if self.is_shown(MARKS):
            self.marks.show_marks(self.place, whole.entry.id, whole.marks, lost, text.all_bare[0] if lost else "")

    def take_focus(self, key: str = "tags") -> None:
        """A field, or else the first one, gets the keyboard; also one that is blank."""
        self.form.show_field(key)
        editor = self.form.editors.get(key) or next(iter(self.form.editors.values()), None)
        if editor is not None:
            editor.setFocus()
