"""Kept Markdown for the eyes: sanitised, in the reading face, without a single request to the web.

Qt's text browser has no scripts, forms or frames; of the HTML only what nh3 lets through reaches it, and pictures come
from the library alone.
"""

import html
import re
from collections.abc import Mapping
from dataclasses import field

from PyQt6.QtCore import QByteArray, QPoint, QPointF, Qt, QUrl, pyqtSignal
from PyQt6.QtGui import (
    QCursor,
    QFont,
    QFontMetricsF,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QResizeEvent,
    QTextBlock,
    QTextCursor,
    QTextDocument,
    QTextFormat,
)
from PyQt6.QtWidgets import QTextBrowser, QWidget

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.hyphens import hyphenated
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.entries.moments import MOMENT
from wily_magpie.core.entries.rendering import FORMULA, Rendered
from wily_magpie.qt.marked_text import NOTES_PX, Marked, Words, bar_width, cursor_at
from wily_magpie.qt.over_text import NoteView, Plate, PlateView
from wily_magpie.qt.page_html import footnote, formula_image, laid, sheet
from wily_magpie.qt.pictures import decoded
from wily_magpie.qt.style.fonts import font_family
from wily_magpie.qt.style.parts import timer
from wily_magpie.qt.style.reading_look import ReadingLook

LEAST_MARGIN_PX = 24
WIDEST_PICTURE_PX = 640
COLUMN_LETTERS = 10
WIDEST_IMAGE_PX, HIGHEST_IMAGE_PX = 1600, 4000
"""Pictures are held no larger than this."""
FULLY = QUrl.ComponentFormattingOption.FullyEncoded
REST_MS = 120
"""How long the window must have kept its size before pictures are fitted to it."""


@dataclass(frozen=True)
class Shown:
    """A text with its pictures decoded.

    Attributes:
        images: those of its pictures and formulas that can be shown, by their addresses.
        html: the text with soft hyphens, where they are wanted.
    """

    rendered: Rendered = Rendered()
    images: Mapping[str, QImage] = field(default_factory=dict)
    html: str = ""


def shown(rendered: Rendered, language: str = "") -> Shown:
    """Decodes the pictures of a text; off the interface's thread.

    Args:
        language: BCP 47, by which words are parted; "" for not at all.
    """
    images = {
        address: decoded(content, WIDEST_IMAGE_PX, HIGHEST_IMAGE_PX) for address, content in rendered.pictures.items()
    }
    good = {address: image for address, image in images.items() if not image.isNull()}
    return Shown(rendered, good, hyphenated(rendered.html, language))


class ReadingView(QTextBrowser):
    """Shows a rendered text. `followed` tells the address of a link that was clicked; nothing is opened by itself."""

    followed = pyqtSignal(str)
    laid = pyqtSignal()
    went_beyond = pyqtSignal(int)
    """Read on at the end, by Space: 1."""

    def __init__(self, parent: QWidget | None = None, look: ReadingLook | None = None) -> None:
        super().__init__(parent)
        self.look = look or ReadingLook()
        self.shown = Shown()
        self.head = ""
        self.marks: tuple[Mark, ...] = ()
        self.marked = Marked(self, lambda: self.look.colours)
        self.picture_width = 0
        self.rest = timer(self, self.show_again)
        self.setLineWrapMode(QTextBrowser.LineWrapMode.FixedPixelWidth)
        self.setOpenLinks(False)
        self.setOpenExternalLinks(False)
        self.anchorClicked.connect(self._on_link)
        self.setAccessibleName("Kept text")

    def take_look(self, look: ReadingLook) -> None:
        """Shows the same in another look."""
        self.look = look
        c = look.colours
        self.setStyleSheet(
            f"QTextBrowser {{ border: none; background: {c.card}; color: {c.ink};"
            f" selection-background-color: {c.petrol}; selection-color: {c.card}; }}"
        )
        self.show_again()

    def _on_link(self, url: QUrl) -> None:
        """A footnote is shown at its place; a link within the text scrolls there; every other is told."""
        if url.toString().startswith(MOMENT):
            self.followed.emit(url.toString())
        elif url.isRelative() and url.hasFragment() and not url.path():
            note = footnote(self.shown.rendered.html, url.fragment())
            if note:
                at = self.cursorRect().bottomLeft() if not self.underMouse() else self.mapFromGlobal(QCursor.pos())
                self.note = NoteView(note, sheet(self.look), self.mapToGlobal(at + QPoint(0, 12)), self)
                self.note.show()
            else:
                self.scrollToAnchor(url.fragment())
        else:
            self.followed.emit(url.toString())

    def show_text(self, shown: Shown, head: str = "", marks: tuple[Mark, ...] = (), *, stays: bool = False) -> None:
        """Shows a text.

        Args:
            head: HTML of our own above it.
            marks: those of them that stand in the text are shown in it.
            stays: whether one stays where one is in it, and what is chosen stays chosen.
        """
        bar, cursor = self.verticalScrollBar(), self.textCursor()
        at, ends = bar.value() if bar is not None and stays else 0, (cursor.anchor(), cursor.position())
        self.shown, self.head = shown, head
        self.picture_width = min(self.text_width(), WIDEST_PICTURE_PX)
        document = self.document()
        if document is not None:
            document.setDefaultStyleSheet(sheet(self.look))
            document.setDefaultFont(QFont(font_family(self.look.face), round(self.look.size_pt)))
            document.setDocumentMargin(0)
        self.marked.known = {}
        self.setHtml(
            head
            + laid(
                shown.html or shown.rendered.html,
                shown.images,
                self.picture_width,
                COLUMN_LETTERS * self.letter_width(),
                self.look,
            )
        )
        self.fit()
        if stays:
            self.choose(*ends)
        if bar is not None:
            bar.setValue(at)
        self.show_marks(marks)
        self.laid.emit()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        super().mouseReleaseEvent(event)
        if event is not None and event.button() == Qt.MouseButton.LeftButton and not self.textCursor().hasSelection():
            event.setAccepted(self.enlarge_at(event.position().toPoint()) or event.isAccepted())

    def enlarge_at(self, at: QPoint) -> bool:
        """Shows the picture at a point large; whether there is one. One that is a link leads there instead."""
        document = self.document()
        layout = document.documentLayout() if document is not None else None
        if layout is None or self.anchorAt(at):
            return False
        bar, across = self.verticalScrollBar(), self.horizontalScrollBar()
        moved = QPointF(across.value() if across is not None else 0, bar.value() if bar is not None else 0)
        address = layout.imageAt(QPointF(at) + moved)
        plates = {one: Plate(image, told) for one, image, told in self.pictures()}
        if address not in plates:
            return False
        self.plate = PlateView(list(plates.values()), list(plates).index(address), self)
        self.plate.show()
        return True

    def pictures(self) -> list[tuple[str, QImage, str]]:
        """The pictures of the text in their order, without its formulas, as (address, picture, what is said of it)."""
        out = []
        for tag in re.findall(r"<img\b[^>]*>", self.shown.rendered.html):
            source, alt = re.search(r'src="([^"]*)"', tag), re.search(r'alt="([^"]*)"', tag)
            address = html.unescape(source[1]) if source else ""
            image = self.shown.images.get(address)
            if image is not None and not address.startswith(FORMULA):
                out.append((address, image, html.unescape(alt[1]) if alt else ""))
        return out

    def head_end(self) -> int:
        """Where the text begins behind what stands above it, which ends with a line across."""
        document = self.document()
        block = document.begin() if document is not None and "<hr>" in self.head else QTextBlock()
        while block.isValid():
            if block.blockFormat().hasProperty(QTextFormat.Property.BlockTrailingHorizontalRulerWidth):
                return block.position() + block.length()
            block = block.next()
        return 0

    def headings(self) -> list[tuple[int, str, int]]:
        """The headings of the text, as (level, words, letters of the text before it)."""
        document, start = self.document(), self.head_end()
        block = document.findBlock(start) if document is not None else QTextBlock()
        out = []
        while block.isValid():
            level, words = block.blockFormat().headingLevel(), block.text().strip()
            if level and words:
                out.append((level, words, block.position() - start))
            block = block.next()
        return out

    def first_seen(self) -> int:
        """Letters of the text, without what stands above it and without soft hyphens, that are scrolled away."""
        at, start = self.first_position(), self.head_end()
        words = Words(self)
        return max(0, words.index(at) - words.index(start))

    def first_position(self) -> int:
        """The position of the first letter that is seen."""
        return self.cursorForPosition(QPoint(0, 0)).position()

    def go_to_letter(self, letters: int) -> None:
        """Scrolls to where so many letters of the text stand above."""
        words = Words(self)
        start = self.head_end()
        self.go_to(words.position(words.index(start) + letters) - start if letters else 0)

    def go_to(self, position: int) -> None:
        """Scrolls so that the line with that letter of the text is the first that is seen."""
        document, bar = self.document(), self.verticalScrollBar()
        if document is None or bar is None:
            return
        if not position:
            bar.setValue(0)
            return
        document.size()  # has all of it laid out: else the bar knows only the beginning
        cursor = self.textCursor()
        cursor.setPosition(min(self.head_end() + position, document.characterCount() - 1))
        bar.setValue(bar.value() + self.cursorRect(cursor).top())

    def show_marks(self, marks: tuple[Mark, ...]) -> None:
        """Shows other marks in the same text."""
        self.marks, had_notes = marks, bool(self.marked.notes)
        self.marked.show(marks)
        if bool(self.marked.notes) != had_notes:
            self.fit()

    def point_at(self, mark: Mark) -> None:
        """Chooses the passage of a mark, and scrolls to it."""
        cursor = cursor_at(Words(self), mark)
        if cursor is not None:
            self.setTextCursor(cursor)
            self.ensureCursorVisible()

    def text_width(self) -> int:
        """The reading measure in pixels, where there is room for it."""
        measure = self.letter_width() * self.look.measure
        return int(min(measure, max(200, self.contentsRect().width() - bar_width(self) - 2 * LEAST_MARGIN_PX)))

    def letter_width(self) -> float:
        """The average width of a letter of the reading face, in pixels."""
        return QFontMetricsF(QFont(font_family(self.look.face), round(self.look.size_pt))).averageCharWidth()

    def fit(self) -> None:
        """Gives the lines the measure and puts them in the middle."""
        width = self.text_width()
        # a fixed width: by itself the document keeps the width that it had before the margins were set
        self.setLineWrapColumnOrWidth(width)
        room = self.contentsRect().width()
        left = max(LEAST_MARGIN_PX, (room - width) // 2)
        if self.marked.notes:  # the text makes room for the comments beside it, where there is any
            left = max(LEAST_MARGIN_PX, min(left, room - width - bar_width(self) - NOTES_PX))
        right = max(0, room - left - width - bar_width(self))
        self.setViewportMargins(left, 20, right, 12)
        self.marked.place()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.fit()
        if min(self.text_width(), WIDEST_PICTURE_PX) != self.picture_width:
            self.rest.start(REST_MS)

    def show_again(self) -> None:
        """Shows the same for another width, or in other colours."""
        self.show_text(self.shown, self.head, self.marks, stays=True)

    def choose(self, anchor: int, position: int) -> None:
        """Chooses from one position to another one, as far as there are such."""
        document, cursor = self.document(), self.textCursor()
        last = document.characterCount() - 1 if document is not None else 0
        cursor.setPosition(min(anchor, last))
        cursor.setPosition(min(position, last), QTextCursor.MoveMode.KeepAnchor)
        self.setTextCursor(cursor)

    def loadResource(self, kind: int, name: QUrl) -> object:
        """Pictures of the library; nothing else, from nowhere else."""
        if kind == QTextDocument.ResourceType.ImageResource.value:
            address = name.toString()
            image = self.shown.images.get(address) or self.shown.images.get(name.toString(FULLY))
            if image is not None:
                return formula_image(image, self.look, self.devicePixelRatioF()) if name.scheme() == "tex" else image
        return QByteArray()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.text() == " ":  # the reader's page down
            bar = self.verticalScrollBar()
            if bar is not None and bar.value() == bar.maximum():
                self.went_beyond.emit(1)
            elif bar is not None:
                bar.triggerAction(bar.SliderAction.SliderPageStepAdd)
            return
        super().keyPressEvent(event)
