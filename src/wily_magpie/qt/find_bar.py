"""Finding words in the text that is read: all hits at once, the next and the one before, whole words."""

import re
from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QTextCursor
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QLineEdit, QTextEdit, QWidget

from wily_magpie.qt.marked_text import Words
from wily_magpie.qt.style.parts import icon_button, label
from wily_magpie.qt.style.theme import THEME

MOST_SHOWN = 2_000


class FindBar(QWidget):
    """See the module.

    Args:
        view: in which is looked. show_found: marks what was found.
        ask_hits: counts a pattern in each part of a text of which the view shows one; is told what takes the counts.

    Signals:
        closed: one goes on reading.
        part_asked: the number of a part with hits, at the first or last of which one goes on.
    """

    closed = pyqtSignal()
    part_asked = pyqtSignal(int)

    def __init__(
        self,
        view: QTextEdit,
        show_found: Callable[[Sequence[QTextEdit.ExtraSelection]], None],
        ask_hits: Callable[[str, Callable[[list[int]], object]], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.view, self.show_found, self.ask_hits = view, show_found, ask_hits
        self.part, self.coming = 0, 0
        """The part that is shown; whether one comes into another one from before (1) or from behind (-1)."""
        self.counts: list[int] = []
        """Of hits in all parts; none for a text in one piece."""
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
        self.told = label("")
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
        self.at, self.counts = -1, []
        self.mark_all()
        if self.words:
            asked = self.words
            self.ask_hits(self.pattern(), lambda counts: self.take_counts(counts) if asked is self.words else None)
        if self.hits:
            self.go(1)
        else:
            self.tell()

    def take_counts(self, counts: list[int]) -> None:
        """What is found in the other parts is known."""
        self.counts = counts
        self.tell()

    def show_part(self, part: int) -> None:
        """Another part is shown; what is looked for is marked in it, and one goes on from where one came."""
        self.part, coming, self.coming = part, self.coming, 0
        if coming and self.hits:
            self.at = len(self.hits) if coming < 0 else -1
            self.go(coming)
        else:
            self.at = -1
            self.tell()

    def tell(self) -> None:
        """Says where one is among the hits."""
        before = sum(self.counts[: self.part])
        total = before + len(self.hits) + sum(self.counts[self.part + 1 :])
        if not total:
            self.told.setText("not here" if self.words else "")
        elif self.at < 0:
            self.told.setText(f"{total:,} in all, {len(self.hits):,} in this part" if self.counts else f"{total:,}")
        else:
            painted = f", the first {MOST_SHOWN:,} painted" if len(self.hits) > MOST_SHOWN else ""
            self.told.setText(f"{before + self.at + 1:,} of {total:,}{painted}")

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

    def pattern(self) -> str:
        """What is looked for."""
        edge = r"\b" if self.whole.isChecked() else ""
        return "|".join(f"{edge}{re.escape(one.strip())}{edge}" for one in self.words)

    def places(self) -> list[tuple[int, int]]:
        """All places from where to where, in Qt's positions, in the order of the text."""
        if not self.words:
            return []
        words = Words(self.view)
        found = (one.span() for one in re.finditer(self.pattern(), words.text, re.IGNORECASE))
        return [(words.position(start), words.position(end)) for start, end in found]

    def chosen(self, place: tuple[int, int]) -> QTextCursor:
        """A place, chosen."""
        cursor = QTextCursor(self.view.document())
        cursor.setPosition(place[0])
        cursor.setPosition(place[1], QTextCursor.MoveMode.KeepAnchor)
        return cursor

    def go(self, by: int) -> None:
        """Goes to the next hit, or to the one before."""
        if not 0 <= self.at + by < len(self.hits) and (other := self.other_part(by)) is not None:
            self.coming = by
            self.part_asked.emit(other)
            return
        if not self.hits:
            return
        self.at = (self.at + by) % len(self.hits)
        self.tell()
        self.view.setTextCursor(self.chosen(self.hits[self.at]))
        self.view.ensureCursorVisible()

    def other_part(self, by: int) -> int | None:
        """The next part with hits in a direction, round the end of the text; None where there is no other."""
        number = len(self.counts)
        order = [(self.part + by * step) % number for step in range(1, number)]
        return next((part for part in order if self.counts[part]), None)

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
