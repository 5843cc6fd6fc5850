"""The queue beside the text: the entries one came from, which of them is read, and what becomes of it."""

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.places.api import first_of
from wily_magpie.qt.actions import tip_of
from wily_magpie.qt.editors.spine import paint_spine
from wily_magpie.qt.models.entry_table import COLOUR_ROLE
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import label, plain_tip, text_button, thin_bar
from wily_magpie.qt.style.theme import THEME

STATUS_ROLE = Qt.ItemDataRole.UserRole + 20
CHUNK, ROW_PX, LEAST_PX = 100, 46, 170


class QueueModel(QAbstractListModel):
    """Entries of a place in an order; those that are seen are fetched, some at a time."""

    def __init__(self, desk: StationContext) -> None:
        super().__init__()
        self.desk = desk
        self.place = ""
        self.ids: Sequence[int] = ()
        self.rows: dict[int, Entry] = {}
        self.asked: set[int] = set()
        self.colours: dict[str, str] = {}
        self.number = 0

    def show(self, place: str, ids: Sequence[int]) -> None:
        """Shows other entries."""
        if (place, tuple(ids)) == (self.place, tuple(self.ids)):
            return
        self.beginResetModel()
        known = self.rows if place == self.place else {}
        self.place, self.ids, self.rows, self.asked = place, ids, known, set()
        info = next((one for one in self.desk.overview.places if one.key == place), None)
        status = first_of(info.fields, lambda one: one.key == "status") if info is not None else None
        self.colours = {option.name: option.colour for option in status.options} if status is not None else {}
        self.number += 1
        self.endResetModel()

    def forget(self) -> None:
        """What was fetched is to be fetched anew; it is shown until then."""
        self.asked = set()
        self.number += 1
        if self.ids:
            self.dataChanged.emit(self.index(0), self.index(len(self.ids) - 1))

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.ids)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        entry = self.rows.get(self.ids[index.row()])
        if role == Qt.ItemDataRole.DisplayRole and index.row() // CHUNK not in self.asked:
            self.ask(index.row() // CHUNK)
        if entry is None:
            return "" if role == Qt.ItemDataRole.DisplayRole else None
        status = str(entry.value("status") or "")
        values = {
            Qt.ItemDataRole.DisplayRole: entry.title,
            Qt.ItemDataRole.ToolTipRole: plain_tip(entry.title),
            Qt.ItemDataRole.AccessibleTextRole: f"{entry.title}, {status}" if status else entry.title,
            STATUS_ROLE: status,
            COLOUR_ROLE: self.colours.get(status, ""),
        }
        return values.get(role)

    def ask(self, chunk: int) -> None:
        """Fetches some."""
        self.asked.add(chunk)
        place, number = self.place, self.number
        ids = list(self.ids[chunk * CHUNK : (chunk + 1) * CHUNK])

        def done(found: Sequence[Entry]) -> None:
            if number == self.number:
                self.rows |= {entry.id: entry for entry in found}
                first = chunk * CHUNK
                self.dataChanged.emit(self.index(first), self.index(first + len(ids) - 1))

        self.desk.bridge.ask(lambda reader: reader.entries.rows(place, ids), done)


class QueueDelegate(QStyledItemDelegate):
    """A title, and its status below."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        is_chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(option.rect, QColor(THEME.colours.wash if is_chosen else THEME.colours.ground))
        rect = paint_spine(painter, option.rect.adjusted(4, 2, -8, -2), str(index.data(COLOUR_ROLE) or ""))
        middle, wide = rect.center().y(), option.fontMetrics
        for text, colour, part in (
            (index.data(), THEME.colours.ink, QRect(rect.left(), rect.top(), rect.width(), middle - rect.top())),
            (
                index.data(STATUS_ROLE),
                THEME.colours.slate,
                QRect(rect.left(), middle, rect.width(), rect.bottom() - middle),
            ),
        ):
            painter.setPen(QColor(colour))
            shown = wide.elidedText(str(text or ""), Qt.TextElideMode.ElideRight, part.width())
            painter.drawText(part, Qt.AlignmentFlag.AlignVCenter, shown)

    def sizeHint(self, _option: QStyleOptionViewItem, _index: QModelIndex) -> QSize:
        return QSize(60, ROW_PX)


class Queue(QWidget):
    """See the module.

    Signals:
        chosen: the id of the entry that is to be read now.
        done, postponed, left_aside: what becomes of the one that is read.
    """

    chosen = pyqtSignal(int)
    done = pyqtSignal()
    postponed = pyqtSignal()
    left_aside = pyqtSignal()

    def __init__(self, desk: StationContext) -> None:
        super().__init__()
        self.setMinimumWidth(LEAST_PX)
        self.model = QueueModel(desk)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 8, 0, 0)
        column.setSpacing(6)
        self.told = label()
        self.told.setContentsMargins(12, 0, 0, 0)
        self.progress = thin_bar()
        self.list = QListView()
        self.list.setObjectName("queue")
        self.list.setAccessibleName("Queue")
        self.list.setUniformItemSizes(True)
        self.list.setModel(self.model)
        self.list.setItemDelegate(QueueDelegate(self.list))
        self.list.clicked.connect(self._on_chosen)
        self.list.activated.connect(self._on_chosen)
        foot = QHBoxLayout()
        foot.setContentsMargins(6, 2, 6, 6)
        foot.setSpacing(0)
        self.buttons = [
            text_button(text, "", signal.emit)
            for text, signal in (("Done", self.done), ("Not now", self.postponed), ("Leave aside", self.left_aside))
        ]
        for button, act in zip(self.buttons, ("done", "not-now", "leave-aside"), strict=True):
            button.setToolTip(tip_of(act))
            foot.addWidget(button)
        foot.addStretch(1)
        column.addWidget(self.told)
        column.addWidget(self.progress)
        column.addWidget(self.list, 1)
        column.addLayout(foot)

    def show_entries(self, place: str, ids: Sequence[int], at: int | None) -> None:
        """Shows a queue.

        Args:
            at: which of them is read, from 0 on; None for none.
        """
        self.model.show(place, ids)
        self.progress.setRange(0, max(len(ids), 1))
        self.progress.setValue(at or 0)
        left = len(ids) - at - 1 if at is not None else len(ids)
        self.told.setText(f"Queue: {left:,} more" if left else "Queue: the last one")
        if at is not None:
            self.list.setCurrentIndex(self.model.index(at))

    def _on_chosen(self, index: QModelIndex) -> None:
        self.chosen.emit(self.model.ids[index.row()])
