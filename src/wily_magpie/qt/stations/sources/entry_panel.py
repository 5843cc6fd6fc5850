"""The chosen entry on the right: every field with its editor, and its text."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import MagpieError
from wily_magpie.qt.desk import Desk
from wily_magpie.qt.editors.field_editor import FieldEditor
from wily_magpie.qt.editors.long_text import LongText
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.parts import scroll_area
from wily_magpie.qt.style.tokens import MONO_FONT

BODY_HEIGHT_PX = 220


class BodyEditor(LongText):
    """The text in Markdown; tells when the person is done with it."""

    finished = pyqtSignal()

    def focusOutEvent(self, event: object) -> None:
        super().focusOutEvent(event)  # type: ignore[arg-type]
        self.finished.emit()


class EntryPanel(QWidget):
    """Shows one entry and changes it as soon as an editor is left."""

    read_asked = pyqtSignal(int)

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.place = ""
        self.entry: Entry | None = None
        self.fields: Sequence[Field] = ()
        self.editors: dict[str, FieldEditor] = {}
        self.setMinimumWidth(250)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.stack = QStackedWidget()
        empty = QLabel("Choose an entry to see and correct it here.")
        empty.setObjectName("slate")
        empty.setWordWrap(True)
        empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        empty.setContentsMargins(24, 24, 24, 24)
        self.stack.addWidget(empty)
        self.stack.addWidget(self.make_scroll())
        column.addWidget(self.stack, 1)

    def make_scroll(self) -> QWidget:
        box = QWidget()
        whole = QVBoxLayout(box)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        bar = QHBoxLayout()
        bar.setContentsMargins(14, 8, 14, 8)
        bar.setSpacing(8)
        self.read = QPushButton("Read")
        self.read.clicked.connect(self._on_read)
        self.outside = QPushButton("Open in the browser")
        self.outside.clicked.connect(self._on_outside)
        bar.addWidget(self.read)
        bar.addWidget(self.outside)
        bar.addStretch(1)
        whole.addLayout(bar)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(14, 2, 12, 14)
        column.setSpacing(3)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        column.addLayout(self.rows)
        label = QLabel("Text")
        label.setObjectName("slate")
        column.addWidget(label)
        self.body = BodyEditor()
        self.body.setAccessibleName("Text in Markdown")
        self.body.setStyleSheet(f'font-family: "{MONO_FONT}"; font-size: 9pt;')
        self.body.setMinimumHeight(BODY_HEIGHT_PX)
        self.body.setTabChangesFocus(True)
        self.body.finished.connect(self._on_body)
        column.addWidget(self.body, 1)
        self.path = QLabel()
        self.path.setObjectName("reason")
        self.path.setWordWrap(True)
        column.addWidget(self.path)
        self.scroller = scroll_area(inside)
        whole.addWidget(self.scroller, 1)
        return box

    def show_entry(self, place: str, entry_id: int | None) -> None:
        """Shows an entry; None: none is chosen."""
        target = self.desk.session.place(place) if entry_id is not None else None
        self.entry = target.entry(entry_id) if target is not None and entry_id is not None else None
        self.stack.setCurrentIndex(0 if self.entry is None else 1)
        if target is None or self.entry is None:
            return
        if place != self.place or tuple(target.fields) != tuple(self.fields):
            self.place, self.fields = place, target.fields
            self.make_editors()
        for field in self.fields:
            self.editors[field.key].set_text(field.kind.show(self.entry.value(field.key)))
            self.editors[field.key].set_problem(False)
        if self.body.text() != (self.entry.body or ""):
            self.body.set_text(self.entry.body or "")
        self.path.setText(self.entry.path)
        self.path.setVisible(bool(self.entry.path))
        self.outside.setVisible(isinstance(self.entry.value("address"), str))

    def make_editors(self) -> None:
        """One editor a field."""
        clear(self.rows)
        self.editors = {}
        for field in self.fields:
            label = QLabel(field.label)
            label.setObjectName("slate")
            label.setContentsMargins(0, 5, 0, 0)
            editor = FieldEditor(field)
            editor.finished.connect(lambda field=field: self._on_finished(field))
            label.setBuddy(editor)
            self.rows.addWidget(label)
            self.rows.addWidget(editor)
            self.editors[field.key] = editor

    def _on_finished(self, field: Field) -> None:
        if self.entry is None:
            return
        editor = self.editors[field.key]
        try:
            warning = self.desk.session.set_text(self.place, [self.entry.id], field.key, editor.text())
            if warning:
                self.desk.say(warning, ())
        except MagpieError as error:
            editor.set_problem(True)
            self.desk.complain(error)

    def _on_body(self) -> None:
        if self.entry is None or self.body.text() == (self.entry.body or ""):
            return
        try:
            self.desk.session.set_body(self.place, self.entry.id, self.body.text())
        except MagpieError as error:
            self.desk.complain(error)

    def _on_read(self) -> None:
        if self.entry is not None:
            self.read_asked.emit(self.entry.id)

    def _on_outside(self) -> None:
        address = self.entry.value("address") if self.entry else None
        if isinstance(address, str):
            self.desk.open_outside(address)
