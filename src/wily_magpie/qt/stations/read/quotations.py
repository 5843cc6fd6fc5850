"""Quotations on their way out of the window, and the page on which their pattern is written."""

from collections.abc import Sequence

from PyQt6.QtCore import QMimeData
from PyQt6.QtGui import QFontDatabase
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QPlainTextEdit, QPushButton, QWidget

from wily_magpie.core.exchange.quoting import EXAMPLE, NAMES, Quotable, Quotation, Source, check_pattern, quotation
from wily_magpie.core.queries.marks import FoundMark
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.settings.known import QUOTATION
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import foot_of, head_of, label, timer

REST_MS, MOST_TRIED = 250, 3


def mime_of(made: Quotation) -> QMimeData:
    """A quotation as other programs take it: Markdown as text, and rich text."""
    data = QMimeData()
    data.setText(made.markdown)
    data.setHtml(made.html)
    return data


def quote(reader: Reader, found: Sequence[FoundMark], pattern: str) -> Quotation:
    """Found marks as quotations; the text of each source is looked up for the paragraph. Takes its time."""
    texts = {(one.place.key, one.entry.id): reader.marks.text_of(one) for one in found}
    return quotation(
        [Quotable(Source(one.place, one.entry, texts[one.place.key, one.entry.id]), one.mark) for one in found], pattern
    )


class PatternPage(QDialog):
    """Where the person writes how marks are quoted, and sees it on marks while typing."""

    def __init__(self, desk: StationContext, tried: Sequence[FoundMark], parent: QWidget) -> None:
        super().__init__(parent)
        self.desk, self.tried, self.asking = desk, tried[:MOST_TRIED], LastAsked(desk.bridge)
        about = (
            f"An expression as in templates, for each mark. It may name: {', '.join(NAMES)}; entry.chapter and the like are the"
            " fields of the entry. Blank is the usual quotation."
        )
        column = head_of(self, "How marks are quoted", about)
        row = QHBoxLayout()
        self.text, self.shown = QPlainTextEdit(str(desk.person.value(QUOTATION))), QPlainTextEdit()
        for edit, name in ((self.text, "Pattern of quotations"), (self.shown, "Tried on marks")):
            edit.setAccessibleName(name)
            row.addWidget(edit, 1)
        self.text.setFont(QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont))
        self.text.setPlaceholderText(EXAMPLE)
        self.text.setTabChangesFocus(True)
        self.shown.setReadOnly(True)
        self.shown.setPlaceholderText("Marks are tried here once there are some.")
        column.addLayout(row, 1)
        self.told = label("", "problem", wraps=True)
        column.addWidget(self.told)
        self.keep, example = QPushButton("Quote like this"), QPushButton("Begin with an example")
        self.keep.setObjectName("main")
        self.keep.clicked.connect(self.hold)
        example.clicked.connect(lambda: self.text.setPlainText(EXAMPLE))
        column.addLayout(foot_of(self, self.keep, example))
        self.resize(860, 420)
        self.rest = timer(self, self.work)
        self.text.textChanged.connect(lambda: self.rest.start(REST_MS))
        self.work()

    def work(self) -> None:
        """Tries what is typed."""
        text, tried = self.text.toPlainText(), self.tried

        def ask(reader: Reader) -> Quotation:
            if text.strip():
                check_pattern(text)
            return quote(reader, tried, text)

        def done(made: Quotation) -> None:
            self.shown.setPlainText(made.markdown.strip())
            self.show_fault("")

        self.asking.ask(ask, done, lambda error: self.show_fault(str(error)))

    def show_fault(self, told: str) -> None:
        """Says what is wrong with the pattern; what was tried last stays to be seen."""
        self.told.setText(told)
        self.keep.setEnabled(not told)

    def hold(self) -> None:
        """Quotes so from now on."""
        text = self.text.toPlainText()
        self.desk.bridge.write(
            lambda: self.desk.person.set(QUOTATION.name, text),
            lambda _none: self.accept(),
            lambda error: self.show_fault(str(error)),
        )
