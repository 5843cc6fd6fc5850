"""A PDF that is read: its pages, its page numbers, what is looked for in it, marking."""

from dataclasses import replace

from PyQt6.QtCore import QEvent, QObject, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtPdf import QPdfSearchModel
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QSpinBox, QVBoxLayout, QWidget

from wily_magpie.core.commands.marks import ChangeMark, PutMark, RemoveMark
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.read.mark_strip import MarkStrip
from wily_magpie.qt.stations.read.pdf_pages import PdfPages
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.parts import icon_button, label, text_button, timer

REST_MS, NUMBER_PX = 200, 56
CANNOT = (
    "This PDF cannot be read: it is broken, or locked by a password. Its text, where there is one, is shown as before."
)


class PdfView(QWidget):
    """See the module.

    Attributes:
        open: the mark whose strip is shown; None where words were chosen that are none yet.

    Signals:
        left: back to the text.
    """

    left = pyqtSignal()

    def __init__(self, desk: StationContext) -> None:
        super().__init__()
        self.desk = desk
        self.whole: WholeEntry | None = None
        self.open: Mark | None = None
        self.kind = ""
        self.at = -1
        self.pages = PdfPages(lambda job, done: desk.bridge.ask(lambda _reader: job(), done))
        self.search = QPdfSearchModel(self)
        self.search.setDocument(self.pages.document)
        self.search.countChanged.connect(self.show_found)
        self.rest = timer(self, self.look)
        self.strip = MarkStrip(self.pages, self.pages.chosen_rects)
        self.strip.chosen.connect(self.mark)
        self.strip.commented.connect(lambda comment: self.mark(self.usual_kind(), comment))
        self.strip.copied.connect(lambda: self.desk.commands.bound["copy-quotation"].run())
        self.strip.removed.connect(self.remove)
        self.strip.left.connect(self.close_strip)
        self.pages.chosen.connect(self.offer)
        self.pages.extended.connect(self.extend)
        self.pages.mark_clicked.connect(self.offer)
        self.pages.page_changed.connect(self.show_page)
        self.pages.installEventFilter(self)
        bar = self.pages.verticalScrollBar()
        if bar is not None:
            bar.valueChanged.connect(lambda _value: self.strip.place())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(self.make_bar())
        column.addWidget(self.pages, 1)

    def make_bar(self) -> QHBoxLayout:
        """Page, size, finding, and back to the text."""
        self.number, self.of = QSpinBox(), label()
        self.number.setAccessibleName("Page")
        self.number.setKeyboardTracking(False)
        self.number.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.number.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.number.setFixedWidth(NUMBER_PX)
        self.number.valueChanged.connect(lambda number: self.pages.go_to(number - 1))
        self.line, self.told = QLineEdit(), label()
        self.line.setPlaceholderText("Find in this PDF")
        self.line.setAccessibleName("Find in this PDF")
        self.line.setMaximumWidth(260)
        self.line.textChanged.connect(lambda _text: self.rest.start(REST_MS))
        self.line.returnPressed.connect(lambda: self.go(1))
        self.as_text = text_button("As text", "", self.left.emit)
        self.as_text.setToolTip("Show the text that is kept of it")
        row = QHBoxLayout()
        row.setContentsMargins(12, 2, 12, 6)
        row.setSpacing(6)
        row.addWidget(label("Page"))
        for widget in (
            self.number, self.of,
            text_button("Smaller", "", lambda: self.pages.set_zoom(self.pages.zoom / 1.25)),
            text_button("Larger", "", lambda: self.pages.set_zoom(self.pages.zoom * 1.25)),
            text_button("Whole width", "", self.pages.fit_width),
        ):  # fmt: skip
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.line, 1)
        row.addWidget(icon_button("arrow-up", "The one before (Shift+F3)", lambda: self.go(-1)))
        row.addWidget(icon_button("arrow-down", "The next one (F3)", lambda: self.go(1)))
        row.addWidget(self.told)
        row.addStretch(1)
        row.addWidget(self.as_text)
        return row

    # the file

    def show_file(self, whole: WholeEntry, content: bytes, page: int) -> bool:
        """Shows a PDF of an entry; whether it can be read.

        Args:
            page: that one comes in at.
        """
        self.close_strip()
        self.line.clear()
        if not self.pages.load(content):
            self.desk.say(CANNOT, ())
            return False
        self.number.setRange(1, self.pages.document.pageCount())
        self.of.setText(f"of {self.pages.document.pageCount():,}")
        self.show_entry(whole)
        self.pages.go_to(page)
        self.show_page(page)
        self.pages.setFocus()
        return True

    def show_entry(self, whole: WholeEntry) -> None:
        """The entry, as it is now."""
        self.whole = whole
        if whole.marks != self.pages.marks:
            self.pages.show_marks(whole.marks)
        if self.open is not None and self.open not in whole.marks:
            self.close_strip()

    def show_page(self, page: int) -> None:
        """Says which page is seen."""
        self.number.blockSignals(True)
        self.number.setValue(page + 1)
        self.number.blockSignals(False)
        self.pages.setAccessibleName(f"PDF, page {self.pages.label(page)} of {self.pages.document.pageCount()}")

    # finding

    def look(self) -> None:
        """Looks for what is typed."""
        self.at = -1
        self.pages.found = {}
        self.search.setSearchString(self.line.text().strip())
        self.show_found()

    def hits(self) -> list[tuple[int, list[QRectF]]]:
        """What is found so far, as (page, rectangles)."""
        found = (self.search.resultAtIndex(at) for at in range(self.search.rowCount(self.search.index(-1, -1))))
        return [(one.page(), one.rectangles()) for one in found]

    def show_found(self) -> None:
        """Shows what is found; pages are searched one after another."""
        hits = self.hits()
        self.pages.found = {}
        for page, rects in hits:
            self.pages.found.setdefault(page, []).extend(rects)
        self.told.setText(f"{max(self.at + 1, 0):,} of {len(hits):,}" if self.line.text().strip() else "")
        self.pages.viewport().update()  # type: ignore[union-attr]
        if hits and self.at < 0:
            self.go(1)

    def go(self, by: int) -> None:
        """Goes to the next hit, or to the one before."""
        hits = self.hits()
        if hits:
            self.at = (self.at + by) % len(hits)
            page, rects = hits[self.at]
            self.pages.go_to(page, rects[0].top() if rects else 0)
            self.told.setText(f"{self.at + 1:,} of {len(hits):,}")

    # marking

    @property
    def may_change(self) -> bool:
        """Whether marks can be set here."""
        return not self.desk.overview.is_read_only

    def usual_kind(self) -> str:
        """The kind that a comment alone makes."""
        return self.open.kind if self.open is not None else self.kind or LOOKS.names[0]

    def chosen(self) -> Mark | None:
        """The mark that is open, or the words that are chosen."""
        return self.open or self.pages.chosen_mark()

    def offer(self, mark: Mark | None = None) -> None:
        """Shows the strip for a mark, or for the words that are chosen."""
        if mark is None and self.pages.chosen_mark() is None:
            self.keep_comment()
            self.close_strip()
            return
        self.open = mark
        self.strip.show_at(mark, may_change=self.may_change)

    def close_strip(self) -> None:
        """Puts the strip away."""
        self.open = None
        if self.strip.isAncestorOf(self.window().focusWidget() if self.window() is not None else None):  # type: ignore[union-attr]
            self.pages.setFocus()
        self.strip.hide()

    def keep_comment(self) -> None:
        """What was typed on the strip is not lost when one goes on without Return."""
        typed = self.strip.comment.text().strip()
        if not self.strip.isHidden() and typed and typed != (self.open.comment if self.open is not None else ""):
            self.mark(self.usual_kind(), typed)

    def mark(self, kind: str, comment: str | None = None) -> None:
        """Marks what is chosen, or gives the open mark another kind and comment."""
        fresh, whole = self.chosen(), self.whole
        if fresh is None or whole is None or not self.may_change:
            return
        self.kind, place, entry = kind, whole.place.key, whole.entry.id
        fresh = replace(fresh, kind=kind, comment=fresh.comment if comment is None else comment)
        if self.open is None:
            self.desk.bridge.do(PutMark(place, entry, fresh))
        elif fresh != self.open:
            self.desk.bridge.do(ChangeMark(place, entry, self.open, fresh))
        self.pages.leave()
        self.close_strip()

    def extend(self) -> None:
        """An end of the open mark was dragged elsewhere; or of words that are none yet."""
        fresh, old, whole = self.pages.chosen_mark(), self.open, self.whole
        if old is None or fresh is None or whole is None or not self.may_change:
            self.offer(old)
            return
        fresh = replace(fresh, kind=old.kind, comment=old.comment)
        self.desk.bridge.do(ChangeMark(whole.place.key, whole.entry.id, old, fresh))
        self.pages.leave()
        self.close_strip()

    def remove(self) -> None:
        """Takes the open mark away."""
        if self.open is not None and self.whole is not None and self.may_change:
            self.desk.bridge.do(RemoveMark(self.whole.place.key, self.whole.entry.id, self.open))
            self.pages.leave()
            self.close_strip()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """The keys of the kinds mark, Delete removes, Escape leaves, Return goes to the comment."""
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress or self.chosen() is None:
            return super().eventFilter(watched, event)
        at = event.key() - Qt.Key.Key_1
        if 0 <= at < len(LOOKS.names) and not event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier:
            self.mark(LOOKS.names[at], self.strip.comment.text() if not self.strip.isHidden() else None)
        elif event.key() == Qt.Key.Key_Delete:
            self.remove()
        elif event.key() == Qt.Key.Key_Escape:
            self.pages.leave()
            self.close_strip()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not self.strip.isHidden():
            self.strip.comment.setFocus()
        else:
            return super().eventFilter(watched, event)
        return True
