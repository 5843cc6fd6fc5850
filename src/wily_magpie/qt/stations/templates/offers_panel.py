"""What a sample page offers for the cell that is pointed at: all findings, searchable, each with its origin."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QModelIndex, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QImage, QPainter, QPixmap
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStackedWidget,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.pages.page import Finding
from wily_magpie.core.templates.bench import ACCEPTED, DIFFERS, Cell, Sample
from wily_magpie.qt.reading import ReadingView, Shown
from wily_magpie.qt.style.parts import WrappedLabel, label, text_button
from wily_magpie.qt.style.theme import THEME

FINDING_ROLE = int(Qt.ItemDataRole.UserRole)
VALUE_ROLE = FINDING_ROLE + 1
PICTURE_NAMES = ("image", "icon")
THUMBNAIL_PX, OFFER_PX = 44, 48
MOST_SHOWN = 400
PREVIEW_PT = 10.5


class OfferDelegate(QStyledItemDelegate):
    """A finding in two lines: its name and origin, and below them its value."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        finding = index.data(FINDING_ROLE)
        if painter is None or not isinstance(finding, Finding):
            return
        colours = THEME.colours
        painter.save()
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(option.rect, QColor(colours.wash if chosen else colours.card))
        rect = option.rect.adjusted(8, 4, -8, -4)
        icon = index.data(Qt.ItemDataRole.DecorationRole)
        if isinstance(icon, QIcon):
            icon.paint(painter, QRect(rect.left(), rect.top(), THUMBNAIL_PX, rect.height()))
            rect.setLeft(rect.left() + THUMBNAIL_PX + 8)
        painter.setFont(option.font)
        upper, lower = QRect(rect), QRect(rect)
        upper.setHeight(rect.height() // 2)
        lower.setTop(upper.bottom())
        painter.setPen(QColor(colours.slate))
        painter.drawText(upper, Qt.AlignmentFlag.AlignVCenter, finding.name)
        room = upper.width() - painter.fontMetrics().horizontalAdvance(finding.name) - 12
        origin = painter.fontMetrics().elidedText(finding.origin, Qt.TextElideMode.ElideLeft, max(0, room))
        painter.setPen(QColor(colours.brass))
        painter.drawText(upper, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, origin)
        painter.setPen(QColor(colours.ink))
        value = " ".join(finding.value.split())
        shown = painter.fontMetrics().elidedText(value, Qt.TextElideMode.ElideRight, lower.width())
        painter.drawText(lower, Qt.AlignmentFlag.AlignVCenter, shown)
        painter.restore()

    def sizeHint(self, _option: QStyleOptionViewItem, _index: QModelIndex) -> QSize:
        return QSize(100, OFFER_PX)


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
        self.thumbnails: dict[str, QIcon] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 12, 12)
        column.setSpacing(6)
        self.head = WrappedLabel()
        column.addWidget(self.head)
        self.value = WrappedLabel()
        self.value.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        column.addWidget(self.value)
        self.origin = label("", "origin", wraps=True)
        column.addWidget(self.origin)
        self.told = label("", "problem", wraps=True)
        column.addWidget(self.told)
        row = QHBoxLayout()
        self.accept = QPushButton("This is right")
        self.accept.setToolTip("Remember this value: the template's own test (Space)")
        self.accept.clicked.connect(lambda: self.accepted.emit(True))
        self.forget = QPushButton("No longer test it")
        self.forget.clicked.connect(lambda: self.accepted.emit(False))
        row.addWidget(self.accept)
        row.addWidget(self.forget)
        row.addStretch(1)
        column.addLayout(row)
        ways = QHBoxLayout()
        self.offers_way = text_button("What the page says", act=lambda: self.turn(is_whole=False))
        self.whole_way = text_button("The whole entry", act=lambda: self.turn(is_whole=True))
        for way in (self.offers_way, self.whole_way):
            way.setObjectName("way")
            way.setCheckable(True)
            ways.addWidget(way)
        ways.addStretch(1)
        column.addLayout(ways)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.make_offers())
        self.whole = ReadingView(size_pt=PREVIEW_PT)
        self.stack.addWidget(self.whole)
        column.addWidget(self.stack, 1)
        self.turn(is_whole=False)

    def make_offers(self) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.search = QLineEdit()
        self.search.setAccessibleName("Search what the page says")
        self.search.setPlaceholderText("search names, values, origins")
        self.search.textChanged.connect(lambda _text: self.fill())
        column.addWidget(self.search)
        self.list = QListWidget()
        self.list.setAccessibleName("What the page says")
        self.list.setIconSize(QSize(THUMBNAIL_PX, THUMBNAIL_PX))
        self.list.setItemDelegate(OfferDelegate(self.list))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemActivated.connect(lambda _item: self.choose(is_fallback=False))
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        self.take = QPushButton("Take this")
        self.take.setToolTip("Make it the source of the field (Enter)")
        self.take.clicked.connect(lambda: self.choose(is_fallback=False))
        self.next = QPushButton("Else this")
        self.next.setToolTip("Make it the next one that is looked for")
        self.next.clicked.connect(lambda: self.choose(is_fallback=True))
        row.addWidget(self.take)
        row.addWidget(self.next)
        row.addStretch(1)
        column.addLayout(row)
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

    def offers(self) -> Sequence[Finding]:
        """What the page says, as far as it has the words searched for; its pictures, too."""
        if self.sample is None:
            return ()
        words = self.search.text().casefold().split()
        every = [*self.sample.context.offers, *self.sample.context.pictures]
        return [
            one for one in every if all(word in f"{one.name} {one.value} {one.origin}".casefold() for word in words)
        ]

    def fill(self) -> None:
        """Lists what the page says."""
        self.list.clear()
        for one in self.offers()[:MOST_SHOWN]:
            item = QListWidgetItem(f"{one.name}: {one.value[:160]}")
            item.setData(FINDING_ROLE, one)
            item.setData(VALUE_ROLE, one.value)
            item.setToolTip(f"{one.value[:1500]}\n{one.origin}")
            if one.name in PICTURE_NAMES:
                self.add_thumbnail(item, one.value)
            self.list.addItem(item)
        if self.list.count():
            self.list.setCurrentRow(0)
        for button in (self.take, self.next):
            button.setEnabled(self.list.count() > 0)

    def add_thumbnail(self, item: QListWidgetItem, address: str) -> None:
        """Shows a picture small, once it has come."""
        if address in self.thumbnails:
            item.setIcon(self.thumbnails[address])
            return

        def arrived(small: QImage) -> None:
            if small.isNull():
                return
            self.thumbnails[address] = QIcon(QPixmap.fromImage(small))
            for row in range(self.list.count()):
                other = self.list.item(row)
                if other is not None and other.data(VALUE_ROLE) == address:
                    other.setIcon(self.thumbnails[address])

        self.picture_of(address, arrived)

    def choose(self, *, is_fallback: bool) -> None:
        """Tells the chosen finding."""
        item = self.list.currentItem()
        if item is not None and self.sample is not None:
            self.source_chosen.emit(self.sample.context.name_for(item.data(FINDING_ROLE)), is_fallback)


def escaped(text: str) -> str:
    """Text that is shown as it is where markup is read."""
    return text.replace("&", "&amp;").replace("<", "&lt;")
