"""Finding words in the text that is read: all hits at once, the next and the one before, whole words."""

import re
from bisect import bisect_left
from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QTextCursor
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QLineEdit, QTextEdit, QWidget

from wily_magpie.qt.marked_text import plain_of
from wily_magpie.qt.style.parts import icon_button
from wily_magpie.qt.style.theme import THEME

MOST_SHOWN = 2_000


class FindBar(QWidget):
    """See the module.

    Args:
        view: in which is looked. show_found: marks what was found.

    Signals:
        closed: one goes on reading.
    """

    closed = pyqtSignal()

    def __init__(
        self,
        view: QTextEdit,
        show_found: Callable[[Sequence[QTextEdit.ExtraSelection]], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.view, self.show_found = view, show_found
        self.hits: list[tuple[int, int]] = []
        self.at = -1
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 12, 4)
        self.line = QLineEdit()
        self.line.setPlaceholderText("Find in this text")
        self.line.setAccessibleName("Find in this text")
        self.line.setMaximumWidth(320)
        self.line.textEdited.connect(lambda text: self.look([text] if text.strip() else []))
        self.line.returnPressed.connect(lambda: self.go(1))
        self.whole = QCheckBox("whole words")
        self.whole.toggled.connect(lambda _on: self.look(self.words))
        self.told = QLabel()
        self.told.setObjectName("slate")
        row.addWidget(self.line, 1)
        row.addWidget(icon_button("arrow-up", "The one before (Shift+F3)", lambda: self.go(-1)))
        row.addWidget(icon_button("arrow-down", "The next one (F3)", lambda: self.go(1)))
        row.addWidget(self.whole)
        row.addWidget(self.told)
        row.addStretch(1)
        row.addWidget(icon_button("x", "Close (Escape)", self.close_bar))
        self.words: list[str] = []
        self.hide()

    def open(self) -> None:
        """Begins to look; for what is chosen, where that is short."""
        chosen = self.view.textCursor().selectedText()
        self.show()
        if chosen and "\u2029" not in chosen:
            self.line.setText(chosen)
            self.look([chosen])
        self.line.setFocus()
        self.line.selectAll()

    def show_words(self, words: Sequence[str]) -> None:
        """Marks the words of a search, and goes to the first."""
        self.line.setText(" ".join(words))
        self.show()
        self.look(list(words))

    def look(self, words: Sequence[str]) -> None:
        """Marks all places where one of some texts stands, and goes to the first from what is seen on."""
        self.words = [one for one in words if one.strip()]
        self.at = -1
        self.mark_all()
        if self.hits:
            self.go(1)
        else:
            self.told.setText("not here" if self.words else "")

    def mark_all(self) -> None:
        """Marks the hits in the text as it is laid out now."""
        self.hits = self.places()
        c = THEME.colours
        shown = []
        for place in self.hits[:MOST_SHOWN]:
            one = QTextEdit.ExtraSelection()
            one.cursor = self.chosen(place)
            one.format.setBackground(QColor(c.brass))
            one.format.setForeground(QColor(c.card))
            shown.append(one)
        self.show_found(shown)

    def places(self) -> list[tuple[int, int]]:
        """All places from where to where, in Qt's positions, in the order of the text."""
        if not self.words:
            return []
        edge = r"\b" if self.whole.isChecked() else ""
        pattern = "|".join(f"{edge}{re.escape(one.strip())}{edge}" for one in self.words)
        text = plain_of(self.view)
        found = [one.span() for one in re.finditer(pattern, text, re.IGNORECASE)]
        wide = [one.start() for one in re.finditer("[\U00010000-\U0010ffff]", text)]  # Qt counts each as two
        if not wide:
            return found
        return [(start + bisect_left(wide, start), end + bisect_left(wide, end)) for start, end in found]

    def chosen(self, place: tuple[int, int]) -> QTextCursor:
        """A place, chosen."""
        cursor = QTextCursor(self.view.document())
        cursor.setPosition(place[0])
        cursor.setPosition(place[1], QTextCursor.MoveMode.KeepAnchor)
        return cursor

    def go(self, by: int) -> None:
        """Goes to the next hit, or to the one before."""
        if not self.hits:
            return
        self.at = (self.at + by) % len(self.hits)
        painted = f", the first {MOST_SHOWN:,} painted" if len(self.hits) > MOST_SHOWN else ""
        self.told.setText(f"{self.at + 1:,} of {len(self.hits):,}{painted}")
        self.view.setTextCursor(self.chosen(self.hits[self.at]))
        self.view.ensureCursorVisible()

    def close_bar(self) -> None:
        """Takes the marks away."""
        self.look([])
        self.hide()
        self.closed.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.close_bar()
        else:
            super().keyPressEvent(event)
