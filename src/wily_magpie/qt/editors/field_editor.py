"""The editor of a field, by its kind; all look the same from outside: text in, text out, a signal when it changed."""

from collections.abc import Callable

from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QComboBox, QCompleter, QLabel, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields.new_names import new_names
from wily_magpie.qt.editors.completing import PieceCompleter, dressed, plain_completer
from wily_magpie.qt.editors.long_text import LongText
from wily_magpie.qt.editors.spine import SpineDelegate

LONG_TEXT_LINES, LINE_MARGIN_PX = 3, 2
"""Lines of a text of many, and what stands around it, as in a line, so that both stand in one column."""
AskNames = Callable[[Callable[[list[str]], None]], None]
"""Asks for texts to complete with, and hands them over when they are there."""


def no_names(_take: Callable[[list[str]], None]) -> None:
    """Completes with nothing."""


class NewNamesLabel(QLabel):
    """Stands below an editor, over what is there, without taking the keyboard."""

    def __init__(self, editor: QWidget) -> None:
        super().__init__(editor, Qt.WindowType.ToolTip | Qt.WindowType.FramelessWindowHint)
        self.setObjectName("newname")
        self.setAttribute(Qt.WidgetAttribute.WA_ShowWithoutActivating)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.editor = editor

    def say(self, text: str) -> None:
        """Shows a text; nothing for ""."""
        self.setText(text)
        if not text:
            self.hide()
            return
        self.adjustSize()
        self.move(self.editor.mapToGlobal(self.editor.rect().bottomLeft()))
        self.show()


NamesFor = Callable[[Field, Callable[[list[str]], None]], None]
"""Asks what an editor of a field completes with, and hands it over."""


class FieldEditor(QWidget):
    """Edits the text form of one field's value.

    Args:
        names: is asked for what it completes with when it is first entered, and hands it over once it is known; a choice
            completes its options.

    Signals:
        edited: at every change by the person.
        finished: when the person is done (Enter, focus gone, option chosen) and the text is another one than before.
    """

    edited = pyqtSignal()
    finished = pyqtSignal()

    def __init__(self, field: Field, parent: QWidget | None = None, names: AskNames = no_names) -> None:
        super().__init__(parent)
        self.field = field
        self.names = names
        self.is_asked = False
        self.settled = ""
        self.known: list[str] = []
        """Names that are there already, as far as they were asked for."""
        self.told = NewNamesLabel(self)
        self.line: QLineEdit | None = None
        self.area: LongText | None = None
        self.combo: QComboBox | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        inner = self.build()
        inner.setAccessibleName(field.label)
        layout.addWidget(inner)
        self.setFocusProxy(inner)
        self.edited.connect(self.tell_new)

    def build(self) -> QWidget:
        kind = self.field.kind.name
        if kind in ("choice", "yes/no"):
            self.combo = combo = QComboBox()
            combo.setEditable(kind == "choice")
            combo.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
            combo.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            combo.addItem("")
            for option in self.field.options:
                combo.addItem(option.name, option.colour)
            if kind == "yes/no":
                combo.addItems(["yes", "no"])
            combo.setItemDelegate(SpineDelegate(combo))
            combo.activated.connect(lambda _index: self.edited.emit())
            combo.activated.connect(lambda _index: self.finish())
            inner = combo.lineEdit()
            if inner is not None:
                inner.textEdited.connect(lambda _text: self.edited.emit())
                inner.editingFinished.connect(self.finish)
                combo.setCompleter(dressed(QCompleter([option.name for option in self.field.options], combo)))
            combo.installEventFilter(self)
            return combo
        if kind == "long text":
            self.area = area = LongText()
            area.setTabChangesFocus(True)
            document = area.document()
            if document is not None:
                document.setDocumentMargin(LINE_MARGIN_PX)
            metrics = area.fontMetrics()
            area.setFixedHeight(metrics.lineSpacing() * LONG_TEXT_LINES + 16)
            area.textChanged.connect(self.edited)
            area.installEventFilter(self)
            return area
        self.line = line = QLineEdit()
        if self.field.kind.right_aligned:
            line.setAlignment(Qt.AlignmentFlag.AlignRight)
        if self.field.kind.is_many:
            line.setPlaceholderText("several: put ; between them")
        line.installEventFilter(self)
        line.setReadOnly(not self.field.is_writable or kind == "files")
        line.textEdited.connect(lambda _text: self.edited.emit())
        line.editingFinished.connect(self.finish)
        return line

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.FocusIn and watched is self.line:
            self.complete()
        if event is not None and event.type() == QEvent.Type.FocusOut:
            self.told.hide()
            if watched is self.area:
                self.finish()
        if event is not None and event.type() == QEvent.Type.Wheel and watched is self.combo:
            event.ignore()  # scrolling past a choice must not change it
            return True
        if isinstance(event, QKeyEvent) and watched is self.area and event.type() == QEvent.Type.KeyPress:
            is_return = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            if is_return and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                event.ignore()
                return False
        return super().eventFilter(watched, event)

    def complete(self) -> None:
        """Makes what is typed be completed, from now on."""
        if self.line is None or self.is_asked or not self.field.kind.is_completed or not self.field.is_writable:
            return
        self.is_asked = True
        self.names(self.complete_with)

    def complete_with(self, names: list[str]) -> None:
        """Completes what is typed by some texts."""
        if sip.isdeleted(self):
            return
        self.known = names
        self.tell_new()
        if names and self.line is not None:
            many = self.field.kind.is_many
            self.line.setCompleter(PieceCompleter(names, self.line) if many else plain_completer(names, self.line))

    def tell_new(self) -> None:
        """Says below it which names are not there yet, while somebody writes them."""
        kind, inner = self.field.kind, self.line or (self.combo.lineEdit() if self.combo is not None else None)
        known = [option.name for option in self.field.options] if self.combo is not None else self.known
        is_written = inner is not None and inner.hasFocus() and self.is_unsettled
        makes = kind.is_many or kind.has_options or kind.is_linked
        found = new_names(kind, self.text(), known) if is_written and makes else []
        self.told.say("\n".join(one.said() for one in found))

    def text(self) -> str:
        """What stands in it."""
        if self.combo is not None:
            return self.combo.currentText()
        if self.area is not None:
            return self.area.text()
        return self.line.text() if self.line is not None else ""

    @property
    def is_unsettled(self) -> bool:
        """Whether something was typed that nobody has been told of yet."""
        return self.text() != self.settled

    def set_text(self, text: str) -> None:
        """Puts a text in without telling that it changed."""
        self.settled = text
        if text == self.text():
            return
        self.blockSignals(True)
        if self.combo is not None:
            place = self.combo.findText(text)
            if place < 0 and not self.combo.isEditable():
                place = 0
            self.combo.setCurrentIndex(place)
            if self.combo.isEditable():
                self.combo.setEditText(text)
        elif self.area is not None:
            self.area.set_text(text)
        elif self.line is not None:
            self.line.setText(text)
            self.line.setCursorPosition(0)
        self.blockSignals(False)

    def select_all(self) -> None:
        """Chooses all that stands in it, so that typing replaces it."""
        widget = self.line or self.area or (self.combo.lineEdit() if self.combo is not None else None)
        if widget is not None:
            widget.selectAll()

    def finish(self) -> None:
        """Tells that the person is done, if there is something new."""
        if self.is_unsettled:
            self.settled = self.text()
            self.finished.emit()

    def set_problem(self, is_problem: bool) -> None:
        """Marks it as holding something that cannot be kept."""
        widget = self.line or self.area or self.combo
        if widget is not None and widget.property("problem") != is_problem:
            widget.setProperty("problem", is_problem)
            style = widget.style()
            if style is not None:
                style.polish(widget)
