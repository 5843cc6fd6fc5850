"""Marks as a list: in groups or in an order of their own, each with its kind, passage, comment, and where it stands."""

import json
from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QAbstractListModel, QByteArray, QMimeData, QModelIndex, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QDrag,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFont,
    QPainter,
    QPaintEvent,
    QResizeEvent,
)
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from wily_magpie.core.queries.marks import BY_DAY, BY_ENTRY, FoundMark
from wily_magpie.qt.hits import paint_snippet
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.parts import plain_tip
from wily_magpie.qt.style.theme import THEME

MakeQuotations = Callable[[Sequence[FoundMark], Callable[[QMimeData], object]], object]
MARKS_FORMAT = "application/x-wily-magpie-marks"
MARK_ROLE = int(Qt.ItemDataRole.UserRole)
PADDING_PX, BAR_PX, HEAD_PX, HINT_PX = 10, 3, 30, 24
MOST_SIGNS = 400
"""Of a passage, as far as two lines can show it."""
NO_GROUP = "without"


class MarkModel(QAbstractListModel):
    """Heads of groups, which are texts, and marks."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[FoundMark | str] = []
        self.by = ""

    def show(self, found: Sequence[FoundMark], by: str = "") -> None:
        """Shows marks.

        Args:
            by: of what groups are made, in the order in which they are met; "" for none.
        """
        self.beginResetModel()
        self.by, groups = by, dict[str, list[FoundMark]]()
        for one in found:
            groups.setdefault(one.group(by) if by else "", []).append(one)
        names = list(groups) if by == BY_ENTRY else sorted(groups, key=lambda name: (not name, name))
        names = names[::-1] if by == BY_DAY else names  # the latest first
        self.rows = []
        for name in names:
            self.rows += [f"{name or NO_GROUP}: {len(groups[name])}"] if by else []
            self.rows += groups[name]
        self.endResetModel()

    def marks(self) -> list[FoundMark]:
        """In the order of the rows."""
        return [row for row in self.rows if isinstance(row, FoundMark)]

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        row = self.rows[index.row()] if index.isValid() else ""
        if role == MARK_ROLE:
            return row
        if isinstance(row, str):
            return row if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole) else None
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return ". ".join(filter(None, (row.mark.kind, passage_of(row), row.mark.comment, told_of(row, self.by))))
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip("\n\n".join(filter(None, (row.mark.exact[:2000], row.mark.comment, told_of(row, "")))))
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        if index.isValid() and isinstance(self.rows[index.row()], str):
            return Qt.ItemFlag.ItemIsEnabled
        usual = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsDragEnabled
        return usual | Qt.ItemFlag.ItemIsDropEnabled if not index.isValid() else usual


def passage_of(one: FoundMark) -> str:
    """The marked words in one line, or what is said of a picture."""
    text = " ".join(one.mark.exact.split())
    return f"A picture: {text or one.mark.picture.rpartition('/')[2]}" if one.mark.picture else text


def told_of(one: FoundMark, by: str) -> str:
    """Where and when a mark was made, and what became of it; what the head of its group says is not said again."""
    used = f"used: {'; '.join(use.told for use in one.uses[-2:])}" if one.uses else ""
    told = [one.mark.kind, used, "" if by == BY_ENTRY else one.entry.title, one.mark.locator, one.made[:10]]
    return " · ".join(filter(None, told))


class MarkDelegate(QStyledItemDelegate):
    """Up to two lines of the passage, the comment, and where it stands; the bar at the left is its kind's."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        c, row = THEME.colours, index.data(MARK_ROLE)
        is_chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(option.rect, QColor(c.wash if is_chosen else c.card))
        rect = option.rect.adjusted(PADDING_PX, 4, -PADDING_PX, -4)
        if not isinstance(row, FoundMark):
            font = QFont(option.font)
            font.setBold(True)
            painter.setFont(font)
            painter.setPen(QColor(c.ink))
            shown = painter.fontMetrics().elidedText(str(row), Qt.TextElideMode.ElideRight, rect.width())
            painter.drawText(rect, Qt.AlignmentFlag.AlignBottom, shown)
            return
        painter.fillRect(
            QRect(rect.left(), rect.top() + 2, BAR_PX, rect.height() - 4),
            QColor(c.spine(LOOKS.of(row.mark.kind).colour)),
        )
        high, metrics = option.fontMetrics.lineSpacing(), option.fontMetrics
        rect = rect.adjusted(BAR_PX + 8, 0, 0, 0)
        text = passage_of(row)
        lines = lines_of(text, metrics.horizontalAdvance(text[:MOST_SIGNS]), rect.width())
        room = QRect(rect.left(), rect.top(), rect.width(), lines * high)
        paint_snippet(painter, room, text[:MOST_SIGNS], (), option.font, QColor(c.ink))
        top = room.bottom() + 1
        told = ((row.mark.comment, c.petrol), (told_of(row, getattr(index.model(), "by", "")), c.slate))
        painter.setFont(option.font)
        for words, colour in told:
            if words:
                painter.setPen(QColor(colour))
                line = QRect(rect.left(), top, rect.width(), high)
                painter.drawText(line, 0, metrics.elidedText(words, Qt.TextElideMode.ElideRight, line.width()))
                top += high

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        row = index.data(MARK_ROLE)
        if not isinstance(row, FoundMark):
            return QSize(60, HEAD_PX)
        view = self.parent()
        port = view.viewport() if isinstance(view, QAbstractItemView) else None
        width = (port.width() if port is not None else 400) - 2 * PADDING_PX - BAR_PX - 8
        text = passage_of(row)
        lines = lines_of(text, option.fontMetrics.horizontalAdvance(text[:MOST_SIGNS]), width)
        return QSize(60, (lines + 1 + bool(row.mark.comment)) * option.fontMetrics.lineSpacing() + 10)


def lines_of(text: str, wide_px: int, room_px: int) -> int:
    """How many lines a passage is shown in."""
    return 1 if text and wide_px <= room_px else min(2, max(1, len(text)))


class MarkList(QListView):
    """A list of marks.

    Signals:
        opened: a mark that is to be seen at its place.
        came: numbers of marks that were dropped here, and the row before which.
        used: marks that were dragged into another program.
        let_go: marks whose drag ended before their quotations were made.

    Args:
        takes: whether marks may be dropped here.
        quoted: makes of marks what other programs take, and hands it over, when it is made.
    """

    opened = pyqtSignal(object)
    came = pyqtSignal(object, int)
    used = pyqtSignal(object)
    let_go = pyqtSignal(object)

    def __init__(self, name: str, quoted: MakeQuotations, *, takes: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.marks, self.quoted = MarkModel(), quoted
        self.takes, self.hint = takes, ""
        self.setAccessibleName(name)
        self.setModel(self.marks)
        self.setItemDelegate(MarkDelegate(self))
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setDragEnabled(True)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.setAcceptDrops(takes)
        self.setDropIndicatorShown(takes)
        self.setLayoutMode(QListView.LayoutMode.Batched)
        self.doubleClicked.connect(self.open_at)
        self.activated.connect(self.open_at)

    def open_at(self, index: QModelIndex) -> None:
        """Tells which mark is to be seen."""
        row = index.data(MARK_ROLE)
        if isinstance(row, FoundMark):
            self.opened.emit(row)

    def chosen(self) -> list[FoundMark]:
        """The chosen marks, in their order in the list."""
        rows = sorted({index.row() for index in self.selectedIndexes()})
        return [row for row in (self.marks.rows[at] for at in rows) if isinstance(row, FoundMark)]

    def choose(self, numbers: Sequence[int]) -> None:
        """Chooses marks by their numbers, as far as they are here."""
        model = self.selectionModel()
        if model is None:
            return
        for at, row in enumerate(self.marks.rows):
            if isinstance(row, FoundMark) and row.number in numbers:
                model.select(self.marks.index(at), model.SelectionFlag.Select)
                model.setCurrentIndex(self.marks.index(at), model.SelectionFlag.NoUpdate)

    def startDrag(self, _supported: Qt.DropAction) -> None:
        """Drags the chosen marks: as quotations for other programs, by their numbers for our own lists."""
        chosen = self.chosen()
        if chosen:
            self.quoted(chosen, lambda data: self.drag(chosen, data))

    def drag(self, chosen: Sequence[FoundMark], data: QMimeData) -> None:
        """Goes on when the quotations are made, if the mouse still holds them."""
        if not QApplication.mouseButtons() & Qt.MouseButton.LeftButton:
            self.let_go.emit(chosen)
            return
        data.setData(MARKS_FORMAT, QByteArray(json.dumps([one.number for one in chosen]).encode()))
        drag = QDrag(self)
        drag.setMimeData(data)
        if drag.exec(Qt.DropAction.CopyAction) != Qt.DropAction.IgnoreAction and drag.target() is None:
            self.used.emit(chosen)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        self.take_or_leave(event)

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        super().dragMoveEvent(event)
        self.take_or_leave(event)

    def take_or_leave(self, event: QDragMoveEvent | None) -> None:
        """Only marks are taken."""
        data = event.mimeData() if event is not None else None
        if event is None:
            return
        if self.takes and data is not None and data.hasFormat(MARKS_FORMAT):
            event.acceptProposedAction()
        else:
            event.ignore()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is None or data is None or not self.takes or not data.hasFormat(MARKS_FORMAT):
            return
        at = self.indexAt(event.position().toPoint())
        row = at.row() if at.isValid() else len(self.marks.rows)
        if at.isValid() and event.position().y() > self.visualRect(at).center().y():
            row += 1
        event.acceptProposedAction()
        self.came.emit(json.loads(data.data(MARKS_FORMAT).data()), row)

    def show_hint(self, text: str) -> None:
        """What is said where there are no marks."""
        self.hint = text
        self.setAccessibleDescription(text)
        port = self.viewport()
        if port is not None:
            port.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        port = self.viewport()
        if self.hint and not self.marks.rows and port is not None:
            painter = QPainter(port)
            painter.setPen(QColor(THEME.colours.slate))
            room = port.rect().adjusted(HINT_PX, HINT_PX, -HINT_PX, -HINT_PX)
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.hint)
            painter.end()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.scheduleDelayedItemsLayout()
