"""A text read aloud, where the system can; the words that are spoken are shown, and one begins at what is seen or chosen."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QLocale, QObject
from PyQt6.QtGui import QColor, QTextCursor
from PyQt6.QtWidgets import QTextEdit

from wily_magpie.qt.marked_text import Words
from wily_magpie.qt.reading import ReadingView
from wily_magpie.qt.style.theme import THEME

if TYPE_CHECKING:
    from PyQt6.QtTextToSpeech import QTextToSpeech

FOR_TESTS = "mock"
"""An engine of Qt that says nothing."""


def engines() -> list[str]:
    """What can speak on this system; none where the library for it is missing."""
    try:
        from PyQt6.QtTextToSpeech import QTextToSpeech
    except ImportError:
        return []
    return [name for name in QTextToSpeech.availableEngines() if name != FOR_TESTS]


class Speaking(QObject):
    """See the module."""

    def __init__(self, view: ReadingView) -> None:
        super().__init__(view)
        self.view = view
        self.voice: QTextToSpeech | None = None
        self.begin = 0
        """The letter of the text with which was begun."""
        self.words: Words | None = None

    def turn(self, engine: str, language: str) -> bool:
        """Begins to speak, or ends it; whether it speaks now.

        Args:
            engine: one of `engines`. language: of the text (BCP 47), "" for that of the system.
        """
        if self.words is not None:
            self.stop()
            return False
        from PyQt6.QtTextToSpeech import QTextToSpeech

        if self.voice is None or self.voice.engine() != engine:
            self.voice = QTextToSpeech(engine, self)
            self.voice.sayingWord.connect(self.show_word)
        self.voice.setLocale(QLocale(language) if language else QLocale())
        self.words = Words(self.view)
        cursor = self.view.textCursor()
        at = cursor.selectionStart() if cursor.hasSelection() else max(self.view.first_position(), self.view.head_end())
        self.begin = self.words.index(at)
        self.voice.say(self.words.text[self.begin :])
        return True

    def stop(self) -> None:
        """Speaks no more."""
        if self.voice is not None:
            self.voice.stop()
        self.words = None
        self.view.marked.show_found(())

    def show_word(self, _word: str, _number: int, start: int, length: int) -> None:
        """Shows the word that is spoken, and follows it."""
        if self.words is None:
            return
        one = QTextEdit.ExtraSelection()
        one.cursor = self.words.chosen(self.begin + start, self.begin + start + length)
        one.format.setBackground(QColor(THEME.colours.brass))
        one.format.setForeground(QColor(THEME.colours.card))
        self.view.marked.show_found([one])
        seen = self.view.cursorRect(QTextCursor(one.cursor))
        bar, port = self.view.verticalScrollBar(), self.view.viewport()
        if bar is not None and port is not None and not port.rect().contains(seen):
            bar.setValue(bar.value() + seen.top() - port.height() // 4)
