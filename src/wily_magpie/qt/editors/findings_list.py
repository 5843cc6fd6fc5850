"""All that a page says, as a list that can be searched; a finding is taken by a click, by keyboard or by dragging."""

import json
from collections.abc import Callable, Iterable, Sequence

from PyQt6.QtCore import QMimeData, QModelIndex, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QImage, QPainter, QPixmap
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.pages.page import Finding
from wily_magpie.qt.style.parts import label, plain_tip
from wily_magpie.qt.style.theme import THEME

FINDING_ROLE = int(Qt.ItemDataRole.UserRole)
VALUE_ROLE = FINDING_ROLE + 1
PICTURE_NAMES = ("image", "icon")
THUMBNAIL_PX, FINDING_PX = 44, 48
MOST_SHOWN = 400
DRAGGED = "application/x-wily-magpie-finding"
"""The kind of what is dragged: JSON of a value and its origin."""


class FindingDelegate(QStyledItemDelegate):
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
        return QSize(100, FINDING_PX)


class DraggedList(QListWidget):
    """Its rows are dragged as a value with its origin; into other programs as text."""

    def mimeData(self, items: Iterable[QListWidgetItem]) -> QMimeData:
        data = QMimeData()
        for item in items:
            finding: Finding = item.data(FINDING_ROLE)
            data.setText(finding.value)
            data.setData(DRAGGED, json.dumps([finding.value, finding.origin]).encode())
        return data


def dragged_finding(data: QMimeData | None) -> tuple[str, str] | None:
    """The value that is dragged and its origin; None where it is something else."""
    if data is None or not data.hasFormat(DRAGGED):
        return None
    value, origin = json.loads(bytes(data.data(DRAGGED).data()))
    return str(value), str(origin)


class FindingsList(QWidget):
    """See the module.

    Args:
        picture_of: gets a picture by its address.

    Signals:
        taken: the finding that was activated.
    """

    taken = pyqtSignal(object)

    def __init__(
        self, picture_of: Callable[[str, Callable[[QImage], None]], None], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.picture_of = picture_of
        self.findings: Sequence[Finding] = ()
        self.thumbnails: dict[str, QIcon] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.search = QLineEdit()
        self.search.setAccessibleName("Search what the page says")
        self.search.setPlaceholderText("search names, values, origins")
        self.search.textChanged.connect(lambda _text: self.fill())
        column.addWidget(self.search)
        self.list = DraggedList()
        self.list.setAccessibleName("What the page says")
        self.list.setIconSize(QSize(THUMBNAIL_PX, THUMBNAIL_PX))
        self.list.setItemDelegate(FindingDelegate(self.list))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.DragOnly)
        self.list.itemActivated.connect(lambda item: self.taken.emit(item.data(FINDING_ROLE)))
        column.addWidget(self.list, 1)
        self.more = label("", "reason")
        self.more.hide()
        column.addWidget(self.more)

    def show_findings(self, findings: Sequence[Finding]) -> None:
        """Lists findings."""
        if self.findings is not findings:
            self.findings = findings
            self.fill()

    def current(self) -> Finding | None:
        """The one that is chosen."""
        item = self.list.currentItem()
        return item.data(FINDING_ROLE) if item is not None else None

    def found(self) -> list[Finding]:
        """Those that have the words searched for."""
        words = self.search.text().casefold().split()
        return [
            one
            for one in self.findings
            if all(word in f"{one.name} {one.value} {one.origin}".casefold() for word in words)
        ]

    def fill(self) -> None:
        """Lists them; the first is chosen."""
        self.list.clear()
        found = self.found()
        self.more.setVisible(len(found) > MOST_SHOWN)
        self.more.setText(f"and {len(found) - MOST_SHOWN:,} more: search for them above")
        for one in found[:MOST_SHOWN]:
            item = QListWidgetItem(f"{one.name}: {one.value[:160]}")
            item.setData(FINDING_ROLE, one)
            item.setData(VALUE_ROLE, one.value)
            item.setToolTip(plain_tip(f"{one.value[:1500]}\n{one.origin}"))
            if one.name in PICTURE_NAMES:
                self.add_thumbnail(item, one.value)
            self.list.addItem(item)
        if self.list.count():
            self.list.setCurrentRow(0)

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
