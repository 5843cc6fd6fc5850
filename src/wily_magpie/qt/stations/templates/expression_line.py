"""A line for an expression: in a face of even width, with a wavy line under what is wrong."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFocusEvent, QKeyEvent, QTextCharFormat, QTextCursor
from PyQt6.QtWidgets import QPlainTextEdit, QTextEdit, QWidget

from wily_magpie.qt.style.fonts import font_family
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.style.tokens import MONO_FONT

ONE_LINE_PX, MORE_LINES_PX = 32, 66


class ExpressionLine(QPlainTextEdit):
    """The line; it grows where there is more than one.

    Signals:
        typed: at every keystroke.
        finished: Enter, or the cursor goes elsewhere.
    """

    typed = pyqtSignal(str)
    finished = pyqtSignal()

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setTabChangesFocus(True)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setStyleSheet(f'font-family: "{font_family(MONO_FONT)}"; font-size: 9pt;')
        self.setFixedHeight(ONE_LINE_PX)
        self.textChanged.connect(self._on_changed)

    def set_text(self, text: str) -> None:
        """Shows a text, unless it stands there already."""
        if text != self.toPlainText():
            self.blockSignals(True)
            self.setPlainText(text)
            self.blockSignals(False)
            self.fit()
        self.mark(0, 0)

    def mark(self, start: int, stop: int) -> None:
        """Puts a wavy line under a part of the text; none where it is empty."""
        selections = []
        if stop > start:
            one = QTextEdit.ExtraSelection()
            form = QTextCharFormat()
            form.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
            form.setUnderlineColor(QColor(THEME.colours.alarm))
            one.format = form
            cursor = QTextCursor(self.document())
            end = len(self.toPlainText())
            cursor.setPosition(min(start, end))
            cursor.setPosition(min(stop, end), QTextCursor.MoveMode.KeepAnchor)
            one.cursor = cursor
            selections.append(one)
        self.setExtraSelections(selections)

    def fit(self) -> None:
        """Grows with its lines."""
        is_long = "\n" in self.toPlainText() or len(self.toPlainText()) > 90
        self.setFixedHeight(MORE_LINES_PX if is_long else ONE_LINE_PX)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.modifiers():
            self.finished.emit()
            return
        super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.finished.emit()

    def _on_changed(self) -> None:
        self.fit()
        self.typed.emit(self.toPlainText())
