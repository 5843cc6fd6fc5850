"""The chosen entry on the right: its fields, and its text."""

import math
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.qt.actions import tip_of
from wily_magpie.qt.dropped import from_mime, is_welcome
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import WrappedLabel, icon_button, label, scroll_area, timer

if TYPE_CHECKING:
    from wily_magpie.qt.editors.field_editor import FieldEditor, NamesFor
    from wily_magpie.qt.entry_form import EntryForm
    from wily_magpie.qt.stations.sources.body_editor import BodyEditor

BODY_HEIGHT_PX = 220
AT_LATEST_MS = 2_000
"""So long after the first entry was chosen its sheet is made though nothing was painted yet: the panel is folded away."""


class EntryPanel(QWidget):
    """Shows one entry and changes it as soon as an editor is left.

    Signals:
        read_asked, whole_asked: the id of the entry that is to be read, or opened whole.
        dropped: what was dropped on it, and the id of the entry.
        looked_at: the place, the id and the title of the entry that is shown.
    """

    read_asked = pyqtSignal(int)
    whole_asked = pyqtSignal(int)
    dropped = pyqtSignal(object, object)
    looked_at = pyqtSignal(str, int, str)

    def __init__(
        self,
        desk: StationContext,
        names_for: "NamesFor",
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.desk = desk
        self.place = ""
        self.entry: Entry | None = None
        self.asking = LastAsked(desk.bridge)
        self.wanted: tuple[str, int] | None = None
        """What was asked for last, and may still be on its way."""
        self.wants_title = False
        self.first = timer(self, self.begin)
        self.is_painted = False
        self.names_for = names_for
        self.setMinimumWidth(250)
        self.setAcceptDrops(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.stack = QStackedWidget()
        empty = WrappedLabel("Choose an entry to see and correct it here.")
        empty.setObjectName("slate")
        empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        empty.setContentsMargins(24, 24, 24, 24)
        self.stack.addWidget(empty)
        column.addWidget(self.stack, 1)

    @property
    def editors(self) -> "dict[str, FieldEditor]":
        """The editors by field key."""
        self.form.make_rows(math.inf)
        return self.form.editors

    @cached_property
    def form(self) -> "EntryForm":
        """Its fields."""
        from wily_magpie.qt.entry_form import EntryForm  # behind the first picture of the table

        return EntryForm(self.desk, self.names_for)

    @cached_property
    def body(self) -> "BodyEditor":
        """Its text."""
        from wily_magpie.qt.stations.sources.body_editor import BodyEditor  # as above

        return BodyEditor(self.desk)

    @cached_property
    def sheet(self) -> QWidget:
        """What shows an entry; made for the first one, behind the first picture of the table."""
        box = QWidget()
        whole = QVBoxLayout(box)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        bar = QHBoxLayout()
        bar.setContentsMargins(14, 8, 14, 8)
        bar.setSpacing(6)
        self.read = QPushButton("Read")
        self.read.clicked.connect(self._on_read)
        self.whole = QPushButton("Open whole")
        self.whole.setToolTip(tip_of("open-whole"))
        self.whole.clicked.connect(self._on_whole)
        self.outside = icon_button("arrow-square-out", "Open the address in the system's browser", self._on_outside)
        for button in (self.read, self.whole, self.outside):
            bar.addWidget(button)
        bar.addStretch(1)
        whole.addLayout(bar)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(14, 2, 12, 14)
        column.setSpacing(3)
        column.addWidget(self.form)
        column.addWidget(label("Text"))
        self.body.setMinimumHeight(BODY_HEIGHT_PX)
        self.body.setTabChangesFocus(True)
        column.addWidget(self.body, 1)
        self.path = WrappedLabel()
        self.path.setObjectName("reason")
        column.addWidget(self.path)
        self.scroller = scroll_area(inside)
        whole.addWidget(self.scroller, 1)
        return box

    def show_entry(self, place: str, entry_id: int | None, *, edits_title: bool = False) -> None:
        """Shows an entry, once it is fetched; None: none is chosen."""
        self.asking.forget()
        wanted = (place, entry_id) if entry_id is not None else None
        self.wants_title = edits_title or (self.wants_title and wanted == self.wanted)
        self.wanted = wanted
        if wanted is None:
            if self.entry is not None:
                self.body.keep()
            self.entry = None
            self.stack.setCurrentIndex(0)
        elif "sheet" in self.__dict__:
            self.ask(*wanted)
        else:
            self.first.start(0 if self.is_painted else AT_LATEST_MS)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """The sheet is made behind the first picture, in which the panel says that nothing is chosen yet."""
        super().paintEvent(event)
        if not self.is_painted:
            self.is_painted = True
            if self.first.isActive():
                self.first.start(0)

    def begin(self) -> None:
        """Makes the sheet, and has it filled with what is chosen by now when the window has done what waited."""
        self.stack.addWidget(self.sheet)
        self.refresh()

    def ask(self, place: str, entry_id: int) -> None:
        """Has an entry fetched, and shown unless another one is chosen meanwhile."""

        def done(whole: WholeEntry | None) -> None:
            self.show_whole(whole)
            if self.wants_title:
                self.wants_title = False
                self.edit_title()

        self.asking.ask(lambda reader: reader.entries.whole(place, entry_id), done)

    def refresh(self) -> None:
        """Shows the entry as it is now."""
        if self.wanted is not None:
            self.show_entry(*self.wanted)

    def show_whole(self, whole: WholeEntry | None) -> None:
        """Shows an entry that was fetched."""
        self.entry = whole.entry if whole is not None else None
        if whole is None:
            self.stack.setCurrentIndex(0)
            return
        self.stack.setCurrentWidget(self.sheet)
        self.place = whole.place.key
        self.form.show_entry(whole)
        self.body.show_entry(whole.entry)
        self.path.setText(whole.entry.path)
        self.path.setVisible(bool(whole.entry.path))
        self.looked_at.emit(self.place, whole.entry.id, whole.entry.title)
        self.outside.setVisible(isinstance(whole.entry.value("address"), str))

    def edit_title(self) -> None:
        """Puts the cursor into the title."""
        editor = self.editors.get("title")
        if editor is not None and editor.line is not None:
            editor.line.setFocus()
            editor.line.selectAll()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and self.entry is not None and is_welcome(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and self.entry is not None:
            self.dropped.emit(from_mime(data), self.entry.id)
            event.acceptProposedAction()

    def _on_read(self) -> None:
        if self.entry is not None:
            self.read_asked.emit(self.entry.id)

    def _on_whole(self) -> None:
        if self.entry is not None:
            self.whole_asked.emit(self.entry.id)

    def _on_outside(self) -> None:
        address = self.entry.value("address") if self.entry else None
        if isinstance(address, str):
            self.desk.open_outside(address)
