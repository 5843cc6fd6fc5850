"""What a sample page offers for the cell that is pointed at: all findings, searchable, each with its origin."""

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QStackedWidget, QVBoxLayout, QWidget

from wily_magpie.core.templates.bench import ACCEPTED, DIFFERS, Cell, Sample
from wily_magpie.qt.editors.findings_list import FindingsList
from wily_magpie.qt.reading import ReadingView, Shown
from wily_magpie.qt.style.flow import in_flow
from wily_magpie.qt.style.parts import WrappedLabel, button, label, text_button
from wily_magpie.qt.style.reading_look import PREVIEW_LINE, ReadingLook

PREVIEW_PT = 10.5


class OffersPanel(QWidget):
    """Shows one cell and what its page offers.

    Signals:
        source_chosen: the name of a finding, and whether it is only the next fall-back.
        accepted: whether the cell is right, or (False) whatever it gives is right again.
    """

    source_chosen = pyqtSignal(str, bool)
    accepted = pyqtSignal(bool)

    def __init__(
        self,
        picture_of: Callable[[str, Callable[[QImage], None]], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.picture_of = picture_of
        self.sample: Sample | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 12, 12)
        column.setSpacing(6)
        self.head = WrappedLabel()
        self.head.setTextFormat(Qt.TextFormat.RichText)  # what comes from a page is escaped below
        column.addWidget(self.head)
        self.value = WrappedLabel()
        self.value.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        column.addWidget(self.value)
        self.origin = label("", "origin", wraps=True)
        column.addWidget(self.origin)
        self.told = label("", "problem", wraps=True)
        column.addWidget(self.told)
        self.accept = button("This is right", lambda: self.accepted.emit(True))
        self.accept.setToolTip("Remember this value: the template's own test (Space)")
        self.forget = button("No longer test it", lambda: self.accepted.emit(False))
        column.addLayout(in_flow(self.accept, self.forget))
        self.offers_way = text_button("What the page says", act=lambda: self.turn(is_whole=False))
        self.whole_way = text_button("The whole entry", act=lambda: self.turn(is_whole=True))
        for way in (self.offers_way, self.whole_way):
            way.setObjectName("way")
            way.setCheckable(True)
        column.addLayout(in_flow(self.offers_way, self.whole_way))
        self.stack = QStackedWidget()
        self.stack.addWidget(self.make_offers())
        self.whole = ReadingView(look=ReadingLook(size_pt=PREVIEW_PT, line_percent=PREVIEW_LINE))
        self.stack.addWidget(self.whole)
        column.addWidget(self.stack, 1)
        self.turn(is_whole=False)

    def make_offers(self) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.findings = FindingsList(self.picture_of)
        self.list, self.search = self.findings.list, self.findings.search
        self.findings.taken.connect(lambda _finding: self.choose(is_fallback=False))
        column.addWidget(self.findings, 1)
        self.take = button("Take this", lambda: self.choose(is_fallback=False))
        self.take.setToolTip("Make it the source of the field (Enter)")
        self.next = button("Else this", lambda: self.choose(is_fallback=True))
        self.next.setToolTip("Make it the next one that is looked for")
        column.addLayout(in_flow(self.take, self.next))
        return box

    def turn(self, *, is_whole: bool) -> None:
        """Shows what the page says, or the whole entry that it would become."""
        self.offers_way.setChecked(not is_whole)
        self.whole_way.setChecked(is_whole)
        self.stack.setCurrentIndex(int(is_whole))

    def show_cell(self, field: str, sample: Sample | None, cell: Cell | None) -> None:
        """Shows a cell; without a sample, only what one would do here."""
        is_other = sample is not self.sample
        self.sample = sample
        has_cell = cell is not None and sample is not None
        for widget in (self.value, self.origin, self.accept, self.offers_way, self.whole_way, self.stack):
            widget.setVisible(has_cell)
        self.told.setVisible(False)
        self.forget.setVisible(False)
        if cell is None or sample is None:
            self.head.setText((field and "Point at a cell to see what its page says.") or "")
            return
        self.head.setText(f"<b>{escaped(field)}</b> of {escaped(sample.title)}")
        self.value.setText(cell.text[:400] or "blank")
        self.origin.setText(f"from {cell.origin}" if cell.origin else "")
        self.origin.setVisible(bool(cell.origin))
        problem = cell.problem
        if cell.state == DIFFERS:
            problem = f"Accepted before: {cell.accepted or 'blank'}"
        self.told.setText(problem[:500])
        self.told.setVisible(bool(problem))
        self.accept.setEnabled(cell.state != ACCEPTED and not cell.problem)
        self.forget.setVisible(cell.accepted is not None)
        if is_other:
            self.fill()

    def show_whole(self, text: Shown) -> None:
        """Shows the entry that the sample would become."""
        self.whole.show_text(text)

    def fill(self) -> None:
        """Lists what the page says; its pictures, too."""
        context = self.sample.context if self.sample is not None else None
        self.findings.show_findings([*context.offers, *context.pictures] if context is not None else [])
        for one in (self.take, self.next):
            one.setEnabled(self.list.count() > 0)

    def choose(self, *, is_fallback: bool) -> None:
        """Tells the chosen finding."""
        finding = self.findings.current()
        if finding is not None and self.sample is not None:
            self.source_chosen.emit(self.sample.context.name_for(finding), is_fallback)


def escaped(text: str) -> str:
    """Text that is shown as it is where markup is read."""
    return text.replace("&", "&amp;").replace("<", "&lt;")
