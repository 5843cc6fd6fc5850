"""An editor of Markdown, rules and other texts that are written by hand."""

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import QBuffer, QByteArray, QEvent, QIODevice, QMimeData, QStringListModel, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QImage, QKeyEvent, QTextCursor
from PyQt6.QtWidgets import QCompleter, QWidget

from wily_magpie.core.entries.markdown_writing import cells_of, going_on, is_row, link_begun, tidied
from wily_magpie.qt.editors.completing import dressed
from wily_magpie.qt.editors.long_text import LongText
from wily_magpie.qt.style.fonts import font_family
from wily_magpie.qt.style.tokens import MONO_FONT

RETURNS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
POPUP_KEYS = (*RETURNS, Qt.Key.Key_Escape, Qt.Key.Key_Tab, Qt.Key.Key_Backtab)
if TYPE_CHECKING:
    from wily_magpie.qt.editors.markdown_colours import MarkdownColours

Names = Callable[[str, str, Callable[[list[tuple[str, str]]], None]], None]
"""Asks for links: "brackets" or "path", what is typed of one, and what takes (what is shown, what is written)."""


class MarkdownEditor(LongText):
    """Text in a face of even width and in colour; lists go on, tables are put in order, links are completed.

    Signals:
        finished: the person is done with it.
        picture_given: a picture was pasted or dropped: its bytes, and a name.
    """

    finished = pyqtSignal()
    picture_given = pyqtSignal(bytes, str)

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setStyleSheet(f'font-family: "{font_family(MONO_FONT)}"; font-size: 9pt;')
        self.names: Names | None = None
        self.takes_pictures = False
        self.offers: dict[str, str] = {}
        self.model = QStringListModel(self)
        self.completer = dressed(QCompleter(self.model, self))
        self.completer.setWidget(self)
        self.completer.setCompletionMode(QCompleter.CompletionMode.UnfilteredPopupCompletion)
        self.completer.activated[str].connect(self.complete)
        self.textChanged.connect(self.offer)

    @cached_property
    def colours(self) -> "MarkdownColours":
        """What colours it; a text that is blank wants none."""
        from wily_magpie.qt.editors.markdown_colours import MarkdownColours

        return MarkdownColours(self.document())

    def set_text(self, text: str) -> None:
        """Puts a text in, which counts as unedited."""
        if not text and "colours" not in self.__dict__:
            super().set_text(text)
            return
        self.colours.is_waiting = True
        super().set_text(text)
        self.colours.is_waiting = False
        self.colours.colour_all()

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.PaletteChange and "colours" in self.__dict__:
            self.colours.take_theme()
            self.colours.colour_all()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.colours  # noqa: B018 - from now on

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        popup = self.completer.popup()
        if popup is None or not popup.isVisible():
            self.finished.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        popup = self.completer.popup()
        if popup is not None and popup.isVisible() and event.key() in POPUP_KEYS:
            event.ignore()  # it is the popup's
            return
        is_plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.KeypadModifier)
        if is_plain and not self.isReadOnly():
            if event.key() in RETURNS and self.go_on():
                return
            if event.key() == Qt.Key.Key_Tab and self.to_next_cell():
                return
        super().keyPressEvent(event)

    def line(self) -> str:
        """The line that the cursor is in."""
        return self.textCursor().block().text()

    def go_on(self) -> bool:
        """Goes on with a list, a quotation or a table below the line; an item that holds nothing ends it. Whether it did."""
        cursor = self.textCursor()
        line = self.line()
        if cursor.hasSelection() or cursor.positionInBlock() < len(line.rstrip()):
            return False
        if is_row(line) and len(self.table_rows()) > 1:
            self.tidy_table()
            cursor = self.textCursor()
            cursor.movePosition(QTextCursor.MoveOperation.EndOfBlock)
            cursor.insertText(f"\n|{'  |' * len(cells_of(line))}")
            cursor.movePosition(QTextCursor.MoveOperation.StartOfBlock)
            cursor.movePosition(QTextCursor.MoveOperation.Right, QTextCursor.MoveMode.MoveAnchor, 2)
            self.setTextCursor(cursor)
            return True
        further = going_on(line)
        if further is None:
            return False
        if further.is_end:
            cursor.movePosition(QTextCursor.MoveOperation.StartOfBlock, QTextCursor.MoveMode.KeepAnchor)
            cursor.removeSelectedText()
        else:
            cursor.insertText(f"\n{further.prefix}")
        self.setTextCursor(cursor)
        return True

    def table_rows(self) -> list[int]:
        """The numbers of the lines of the table that the cursor is in."""
        block = self.textCursor().block()
        if not is_row(block.text()):
            return []
        while block.previous().isValid() and is_row(block.previous().text()):
            block = block.previous()
        out = []
        while block.isValid() and is_row(block.text()):
            out.append(block.blockNumber())
            block = block.next()
        return out

    def tidy_table(self) -> None:
        """Puts the bars of the table below one another; the cursor stays in its cell."""
        rows, document = self.table_rows(), self.document()
        if len(rows) < 2 or document is None:
            return
        cursor = self.textCursor()
        at, cell = cursor.blockNumber(), self.cell_number()
        old = [document.findBlockByNumber(row).text() for row in rows]
        new = tidied(old)
        if new == old:
            return
        change = QTextCursor(document.findBlockByNumber(rows[0]))
        change.beginEditBlock()
        change.setPosition(
            document.findBlockByNumber(rows[-1]).position() + len(old[-1]), QTextCursor.MoveMode.KeepAnchor
        )
        change.insertText("\n".join(new))
        change.endEditBlock()
        self.go_to_cell(at, cell)

    def cell_number(self) -> int:
        """The number of the cell of its row that the cursor is in."""
        before = self.line()[: self.textCursor().positionInBlock()]
        number = len(cells_of(f"{before}x")) - 1 if "|" in before else 0
        return min(number, len(cells_of(self.line())) - 1)

    def go_to_cell(self, row: int, cell: int) -> None:
        """Puts the cursor behind what a cell holds."""
        document = self.document()
        if document is None:
            return
        block = document.findBlockByNumber(row)
        line, at = block.text(), -1
        for _ in range(cell + 1):
            at = bar_behind(line, at)
        end = bar_behind(line, at)
        held = line[at + 1 : end if end >= 0 else len(line)].rstrip()
        cursor = QTextCursor(block)
        cursor.setPosition(block.position() + at + 1 + max(len(held), 1))
        self.setTextCursor(cursor)

    def to_next_cell(self) -> bool:
        """Puts the table in order, and the cursor into the next cell, or the first of the next row; whether there is a table."""
        rows = self.table_rows()
        if len(rows) < 2:
            return False
        self.tidy_table()
        row, cell = self.textCursor().blockNumber(), self.cell_number()
        is_last = cell + 1 >= len(cells_of(self.line()))
        if is_last and row == rows[-1]:
            cursor = self.textCursor()
            cursor.movePosition(QTextCursor.MoveOperation.EndOfBlock)
            self.setTextCursor(cursor)
            return self.go_on()
        self.go_to_cell(row + is_last, 0 if is_last else cell + 1)
        return True

    # links

    def offer(self) -> None:
        """Offers what a link that is being written could lead to."""
        popup = self.completer.popup()
        begun = link_begun(self.line()[: self.textCursor().positionInBlock()])
        if self.names is None or begun is None or not self.hasFocus():
            if popup is not None:
                popup.hide()
            return
        kind, typed = begun
        self.names(kind, typed, lambda found: self.show_offers(kind, typed, found))

    def show_offers(self, kind: str, typed: str, found: list[tuple[str, str]]) -> None:
        """Shows them, unless something else was typed meanwhile."""
        popup = self.completer.popup()
        if popup is None or link_begun(self.line()[: self.textCursor().positionInBlock()]) != (kind, typed):
            return
        self.offers = dict(found)
        self.model.setStringList(list(self.offers))
        if not found:
            popup.hide()
            return
        where = self.cursorRect()
        where.setWidth(max(280, popup.sizeHintForColumn(0) + 24))
        self.completer.complete(where)
        popup.setCurrentIndex(self.model.index(0, 0))

    def complete(self, shown: str) -> None:
        """Writes the link that was chosen, and its end."""
        begun = link_begun(self.line()[: self.textCursor().positionInBlock()])
        if begun is None or shown not in self.offers:
            return
        kind, typed = begun
        end = "]]" if kind == "brackets" else ")"
        cursor = self.textCursor()
        cursor.movePosition(QTextCursor.MoveOperation.Left, QTextCursor.MoveMode.KeepAnchor, len(typed))
        behind = self.line()[self.textCursor().positionInBlock() :]
        cursor.insertText(f"{self.offers[shown]}{'' if behind.startswith(end) else end}")
        if behind.startswith(end):
            cursor.movePosition(QTextCursor.MoveOperation.Right, QTextCursor.MoveMode.MoveAnchor, len(end))
        self.setTextCursor(cursor)

    # pictures

    def canInsertFromMimeData(self, source: QMimeData | None) -> bool:
        is_picture = self.takes_pictures and source is not None and source.hasImage()
        return is_picture or super().canInsertFromMimeData(source)

    def insertFromMimeData(self, source: QMimeData | None) -> None:
        if source is not None and self.takes_pictures and source.hasImage() and not source.hasText():
            image = QImage(source.imageData())
            content = QByteArray()
            buffer = QBuffer(content)
            buffer.open(QIODevice.OpenModeFlag.WriteOnly)
            image.save(buffer, "PNG")
            self.picture_given.emit(content.data(), "picture.png")
            return
        super().insertFromMimeData(source)


def bar_behind(line: str, at: int) -> int:
    """Where the next bar of a row stands that parts cells; -1 where there is none."""
    while (at := line.find("|", at + 1)) >= 0:
        if line[at - 1 : at] != "\\":
            return at
    return -1
