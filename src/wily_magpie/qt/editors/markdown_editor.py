"""An editor of Markdown, rules and other texts that are written by hand."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QFocusEvent
from PyQt6.QtWidgets import QWidget

from wily_magpie.qt.editors.long_text import LongText
from wily_magpie.qt.style.tokens import MONO_FONT


class MarkdownEditor(LongText):
    """Text in a face of even width; tells when the person is done with it."""

    finished = pyqtSignal()

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setStyleSheet(f'font-family: "{MONO_FONT}"; font-size: 9pt;')

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.finished.emit()
