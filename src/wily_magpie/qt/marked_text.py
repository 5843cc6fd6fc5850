"""Marks in a text that is read: each kind in a pattern and a colour of its own, comments in the margin beside them."""

import re
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QTextCharFormat, QTextCursor
from PyQt6.QtWidgets import QLabel, QTextEdit, QWidget

from wily_magpie.core.entries.hyphens import SOFT
from wily_magpie.core.entries.mark import AROUND, Mark, place_of
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.parts import label
from wily_magpie.qt.style.tokens import Colours

Underline = QTextCharFormat.UnderlineStyle
LINES = {
    "double": Underline.SingleUnderline,  # the nearest that Qt has
    "wavy": Underline.WaveUnderline,
    "dotted": Underline.DotLine,
    "dashed": Underline.DashUnderline,
    "solid": Underline.SingleUnderline,
}
GAP_PX, LEAST_NOTE_PX, WIDEST_NOTE_PX, BETWEEN_PX = 22, 130, 240, 8
NOTES_PX = GAP_PX + LEAST_NOTE_PX + GAP_PX
"""The least room beside a text in which comments are shown."""


class Words:
    """The words of a view, as marks and hits are looked for in them, and where they stand: soft hyphens are none of their letters.

    Attributes:
        text: in the place of each picture stands a blank.
    """

    def __init__(self, view: QTextEdit) -> None:
        self.view = view
        raw = view.toPlainText().replace("\ufffc", " ")
        self.text = raw.replace(SOFT, "")
        soft = [one.start() for one in re.finditer(SOFT, raw)]
        self.soft = [at - number for number, at in enumerate(soft)]
        """For each soft hyphen the letter of `text` before which it stands."""
        self.wide = [one.start() for one in re.finditer("[\U00010000-\U0010ffff]", self.text)]
        """Letters of which each is two to Qt."""

    def position(self, index: int) -> int:
        """Where a letter of the text stands, as Qt counts."""
        return index + bisect_right(self.soft, index) + bisect_left(self.wide, index)

    def index(self, position: int) -> int:
        """The letter of the text at a position of Qt."""
        low, high = 0, len(self.text)
        while low < high:
            middle = (low + high) // 2
            if self.position(middle) < position:
                low = middle + 1
            else:
                high = middle
        return low

    def chosen(self, start: int, end: int) -> QTextCursor:
        """Some letters, chosen."""
        cursor = self.view.textCursor()
        cursor.setPosition(self.position(start))
        cursor.setPosition(self.position(end), QTextCursor.MoveMode.KeepAnchor)
        return cursor


def cursor_at(words: Words, mark: Mark) -> QTextCursor | None:
    """The passage of a mark in a view, chosen; None where it does not stand there any more."""
    found = place_of(mark, words.text)
    return words.chosen(*found) if found is not None else None


def chosen_in(view: QTextEdit) -> Mark | None:
    """The words that are chosen, with what stands around them; None where none are."""
    cursor = view.textCursor()
    text = view.toPlainText().replace("\ufffc", " ").encode("utf-16-le")

    def piece(start: int, end: int) -> str:
        return text[2 * max(0, start) : 2 * end].decode("utf-16-le", "ignore").replace(SOFT, "")

    start, end = cursor.selectionStart(), cursor.selectionEnd()
    exact = piece(start, end)
    if not exact.strip():
        return None
    before, behind = piece(start - AROUND, start), piece(end, end + AROUND)
    space, rest = exact[: len(exact) - len(exact.lstrip())], exact[len(exact.rstrip()) :]
    return Mark(exact.strip(), prefix=f"{before}{space}"[-AROUND:], suffix=f"{rest}{behind}"[:AROUND])


def bar_width(view: QTextEdit) -> int:
    """The room of a view's scroll bar, in pixels."""
    bar = view.verticalScrollBar()
    return bar.sizeHint().width() if bar is not None else 0


def format_of(kind: str, colours: Colours) -> QTextCharFormat:
    """How the passages of a kind look on a ground."""
    look, out = LOOKS.of(kind), QTextCharFormat()
    if look.pattern in LINES:
        out.setUnderlineStyle(LINES[look.pattern])
        out.setUnderlineColor(QColor(colours.spine(look.colour)))
    else:
        out.setBackground(QColor(colours.wash))
    return out


class Marked:
    """The marks that a view shows.

    Args:
        colours: gives those of the text and its ground.
    """

    def __init__(self, view: QTextEdit, colours: Callable[[], Colours]) -> None:
        self.view, self.colours = view, colours
        self.margin = QWidget(view)
        self.margin.hide()
        self.notes: list[tuple[QTextCursor, QLabel]] = []
        self.placed: list[tuple[Mark, QTextCursor]] = []
        self.known: dict[tuple[str, str, str, str], QTextCursor | None] = {}
        """Where each mark was found in the text as it is laid out."""
        self.lost: tuple[Mark, ...] = ()
        """Those whose words do not stand in the text any more."""
        self.tell_narrow: Callable[[Sequence[Mark]], object] = lambda _marks: None
        """Is told the marks whose comments have no room beside the text."""
        self.selections: list[QTextEdit.ExtraSelection] = []
        self.found: Sequence[QTextEdit.ExtraSelection] = ()
        """What was looked for, painted over the marks."""
        bar = view.verticalScrollBar()
        if bar is not None:
            bar.valueChanged.connect(lambda _value: self.place())

    def show(self, marks: Sequence[Mark]) -> None:
        """Shows marks in the text as it is now."""
        for _, note in self.notes:
            note.deleteLater()
        self.notes, self.placed = [], []
        selections, lost = [], []
        words: Words | None = None
        known, self.known = self.known, {}
        for mark in marks:
            if mark.place in known:  # where it was found in the same text
                cursor = known[mark.place]
            else:
                words = words or Words(self.view)
                cursor = cursor_at(words, mark)
            self.known[mark.place] = cursor
            if cursor is None:
                lost += [mark] if not mark.picture else []
                continue
            self.placed.append((mark, cursor))
            selection = QTextEdit.ExtraSelection()
            selection.cursor, selection.format = cursor, format_of(mark.kind, self.colours())
            selections.append(selection)
            if mark.comment:
                begin = QTextCursor(cursor)
                begin.setPosition(cursor.selectionStart())
                self.notes.append((begin, self.note(mark)))
        self.selections, self.lost = selections, tuple(lost)
        self.view.setExtraSelections([*selections, *self.found])
        self.notes.sort(key=lambda one: one[0].position())
        self.place()

    def at(self, position: int) -> tuple[Mark, QTextCursor] | None:
        """The shortest mark at a position of the text, since a longer one can be had beside it; None where there is none."""
        there = [one for one in self.placed if one[1].selectionStart() <= position <= one[1].selectionEnd()]
        return min(there, key=lambda one: one[1].selectionEnd() - one[1].selectionStart(), default=None)

    def show_found(self, found: Sequence[QTextEdit.ExtraSelection]) -> None:
        """Shows what was looked for."""
        self.found = found
        self.view.setExtraSelections([*self.selections, *found])

    def note(self, mark: Mark) -> QLabel:
        """A comment for the margin."""
        note = label(mark.comment, "slate", wraps=True)
        note.setParent(self.margin)
        note.setTextFormat(Qt.TextFormat.PlainText)
        note.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        note.setAccessibleName(f"Comment on the {mark.kind}")
        c = self.colours()
        colour = c.spine(LOOKS.of(mark.kind).colour)
        note.setStyleSheet(
            f"QLabel {{ border-left: 3px solid {colour}; padding-left: 8px; background: transparent; color: {c.slate}; }}"
        )
        return note

    def place(self) -> None:
        """Puts each comment beside its passage, or below the one before it; where the margin is too narrow, none is shown."""
        port = self.view.viewport()
        if port is None:
            return
        left = port.geometry().right() + GAP_PX
        width = min(WIDEST_NOTE_PX, self.view.contentsRect().width() - bar_width(self.view) - left - GAP_PX // 2)
        is_wide = width >= LEAST_NOTE_PX
        self.margin.setVisible(bool(self.notes) and is_wide)
        self.tell_narrow([] if is_wide else [mark for mark, _ in self.placed if mark.comment])
        if not self.margin.isVisibleTo(self.view):
            return
        self.margin.setGeometry(left, port.geometry().top(), width, port.height())
        free = -(10**6)
        for cursor, note in self.notes:
            top = max(self.view.cursorRect(cursor).top(), free)
            height = note.heightForWidth(width)
            note.setGeometry(0, top, width, height)
            note.show()
            free = top + height + BETWEEN_PX
