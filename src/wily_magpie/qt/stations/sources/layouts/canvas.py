"""What all layouts but the table have in common: rows of the table's model as boxes on a surface that scrolls.

Only what is seen is painted. Boxes are chosen by mouse and keyboard in the table's own selection, so that whatever is done with
rows holds here, too.
"""

from abc import abstractmethod
from collections.abc import Iterable, Sequence

from PyQt6.QtCore import QItemSelection, QItemSelectionModel, QPoint, QPointF, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QContextMenuEvent,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QShowEvent,
    QTextLayout,
    QTextOption,
)
from PyQt6.QtWidgets import QAbstractScrollArea, QWidget

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.qt.dropped import from_mime, is_welcome
from wily_magpie.qt.stations.sources.cell_painting import colour_of
from wily_magpie.qt.stations.sources.table import EntryTableView
from wily_magpie.qt.style.fonts import font_family
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.style.tokens import READING_FONT

HEADING_PX = 34
ARROWS = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right)
MOVES = (*ARROWS, Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)
ROWS = QItemSelectionModel.SelectionFlag.Rows
Select = QItemSelectionModel.SelectionFlag


class EntryCanvas(QAbstractScrollArea):
    """See the module.

    Args:
        view: the table whose rows and choice these are.

    Signals:
        opened: the id of an entry to be read.
        menu_asked: a place on the screen.
        dropped: what was dropped, and the id of the entry that it was dropped on, or None.
        status_asked: a number key was pressed: the option of that number is to be set in what is chosen; 0 blanks it.
    """

    opened = pyqtSignal(int)
    menu_asked = pyqtSignal(object)
    dropped = pyqtSignal(object, object)
    status_asked = pyqtSignal(int)

    def __init__(self, view: EntryTableView, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.view, self.table = view, view.table
        self.layout_now = Layout()
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(True)
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.is_stale = True
        self.anchor: int | None = None
        self.table.modelReset.connect(self._on_reset)
        self.table.dataChanged.connect(lambda *_: self.surface.update())
        selection = view.selectionModel()
        if selection is not None:
            selection.currentChanged.connect(lambda current, _before: self._on_current(current.row()))
            selection.selectionChanged.connect(lambda *_: self.surface.update())
        for bar in (self.verticalScrollBar(), self.horizontalScrollBar()):
            if bar is not None:
                bar.setSingleStep(24)

    # what each layout says

    @abstractmethod
    def arrange(self, width: int) -> QSize:
        """Works out where all boxes are; the size of the surface."""

    @abstractmethod
    def rect_of(self, row: int) -> QRect:
        """Where a row's box is; an empty one where it has none."""

    @abstractmethod
    def rows_in(self, rect: QRect) -> Iterable[int]:
        """The rows whose boxes may be seen in a part of the surface."""

    @abstractmethod
    def paint_row(self, painter: QPainter, row: int, rect: QRect, entry: Entry) -> None:
        """Paints an entry's box."""

    @abstractmethod
    def neighbour(self, row: int, key: int) -> int | None:
        """The row that a key leads to."""

    def paint_beside(self, painter: QPainter) -> None:
        """Paints what stands still while the boxes scroll."""

    # what is shown

    @property
    def surface(self) -> QWidget:
        """What is painted on."""
        return self.viewport() or self

    @property
    def place(self) -> PlaceInfo | None:
        """The place whose entries these are."""
        return self.table.place

    def show_layout(self, layout: Layout) -> None:
        """Arranges the boxes by a layout."""
        self.layout_now = layout
        self.refresh()

    def refresh(self) -> None:
        """Arranges the boxes anew."""
        self.is_stale = True
        if not self.isVisible():
            return
        self.is_stale = False
        size, seen = self.arrange(self.surface.width()), self.surface.size()
        for bar, whole, page in (
            (self.verticalScrollBar(), size.height(), seen.height()),
            (self.horizontalScrollBar(), size.width(), seen.width()),
        ):
            if bar is not None:
                bar.setPageStep(page)
                bar.setRange(0, max(0, whole - page))
        self.surface.update()

    @property
    def offset(self) -> QPoint:
        """How far it is scrolled."""
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        return QPoint(across.value() if across is not None else 0, down.value() if down is not None else 0)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self.is_stale:
            self.refresh()
            self.reveal(self.current_row())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.refresh()

    def scrollContentsBy(self, _across: int, _down: int) -> None:
        self.surface.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self.surface)
        painter.setRenderHint(QPainter.RenderHint.TextAntialiasing)
        painter.fillRect(self.surface.rect(), colour_of(THEME.colours.ground))
        painter.translate(-self.offset)
        seen = self.surface.rect().translated(self.offset)
        for row in self.rows_in(seen):
            rect = self.rect_of(row)
            if not rect.intersects(seen):
                continue
            group = self.table.group_at(row)
            if group is not None:
                self.paint_heading(painter, rect, group)
                continue
            entry = self.table.entry_at(row)
            if entry is not None:
                self.paint_row(painter, row, rect, entry)
            else:
                painter.fillRect(rect, colour_of(THEME.colours.card))
        painter.resetTransform()
        self.paint_beside(painter)
        painter.end()

    def paint_heading(self, painter: QPainter, rect: QRect, group: int) -> None:
        """The heading of a group."""
        font = QFont(self.font())
        font.setBold(True)
        painter.setFont(font)
        painter.setPen(colour_of(THEME.colours.ink))
        text = str(self.table.group_data(group, Qt.ItemDataRole.DisplayRole))
        painter.drawText(rect.adjusted(4, 8, 0, 0), Qt.AlignmentFlag.AlignVCenter, text)

    def paint_box(self, painter: QPainter, row: int, rect: QRect, entry: Entry) -> None:
        """The card under an entry, with the rule of its status at the left edge and the frame of what is chosen."""
        c = THEME.colours
        is_chosen = self.is_chosen(row)
        painter.fillRect(rect, colour_of(c.wash if is_chosen else c.card))
        painter.setPen(colour_of(c.rule))
        painter.drawRect(rect.adjusted(0, 0, -1, -1))
        painter.fillRect(QRect(rect.left(), rect.top(), 3, rect.height()), QColor(self.spine_of(entry)))
        if row == self.current_row():
            painter.setPen(QPen(colour_of(c.petrol), 2 if self.hasFocus() else 1))
            painter.drawRect(rect.adjusted(1, 1, -1, -1))

    @property
    def status(self) -> Field | None:
        """The field whose colour stands at the edge: the status, else the first choice."""
        fields = [one for one in (self.place.fields if self.place is not None else ()) if one.kind.has_spine]
        return next((one for one in fields if one.key == "status"), None) or next(iter(fields), None)

    def spine_of(self, entry: Entry) -> str:
        """The colour at the edge of an entry."""
        field = self.status
        value = entry.value(field.key) if field is not None else None
        option = field.option(value) if field is not None and isinstance(value, str) else None
        return THEME.colours.spine(option.colour if option is not None else "")

    # what is chosen

    def current_row(self) -> int:
        """The row of the current entry; -1 for none."""
        return self.view.currentIndex().row()

    def is_chosen(self, row: int) -> bool:
        """Whether a row is chosen."""
        selection = self.view.selectionModel()
        return selection is not None and (row == self.current_row() or selection.isRowSelected(row))

    def choose_row(self, row: int, modifiers: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        """Chooses a row: alone, with Ctrl besides others, with Shift all from the one before."""
        selection = self.view.selectionModel()
        index = self.table.index(row, max(0, self.view.currentIndex().column()))
        if selection is None:
            return
        if modifiers & Qt.KeyboardModifier.ShiftModifier and self.anchor is not None:
            first, last = sorted((self.anchor, row))
            last_column = self.table.columnCount() - 1
            several = QItemSelection(self.table.index(first, 0), self.table.index(last, last_column))
            selection.setCurrentIndex(index, Select.NoUpdate)
            selection.select(several, Select.ClearAndSelect | ROWS)
            return
        self.anchor = row
        if modifiers & Qt.KeyboardModifier.ControlModifier:
            selection.setCurrentIndex(index, Select.Toggle | ROWS)
        else:
            selection.setCurrentIndex(index, Select.ClearAndSelect | ROWS)

    def reveal(self, row: int) -> None:
        """Scrolls to a row."""
        rect = self.rect_of(row) if row >= 0 else QRect()
        if rect.isEmpty():
            return
        seen = self.surface.size()
        top, left = self.verticalScrollBar(), self.horizontalScrollBar()
        for bar, begin, end, page in (
            (top, rect.top() - self.head_px, rect.bottom() + self.foot_px, seen.height()),
            (left, rect.left(), rect.right(), seen.width()),
        ):
            if bar is None:
                continue
            if begin < bar.value():
                bar.setValue(begin - 8)
            elif end > bar.value() + page:
                bar.setValue(end - page + 8)

    head_px, foot_px = 0, 0
    """What stands still above and below the boxes."""

    def row_at_point(self, at: QPoint) -> int | None:
        """The row whose box is at a point of what is seen."""
        point = at + self.offset
        return next((row for row in self.rows_in(QRect(point, QSize(1, 1))) if self.rect_of(row).contains(point)), None)

    # keys and mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        row = self.row_at_point(event.position().toPoint()) if event is not None else None
        if event is None or row is None:
            return
        group = self.table.group_at(row)
        if group is not None:
            if event.button() == Qt.MouseButton.LeftButton:
                self.view.fold(group)
        elif event.button() == Qt.MouseButton.LeftButton or not self.is_chosen(row):
            self.choose_row(row, event.modifiers())

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        row = self.row_at_point(event.position().toPoint()) if event is not None else None
        entry_id = self.table.id_at(row) if row is not None else None
        if entry_id is not None:
            self.opened.emit(entry_id)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is not None:
            self.menu_asked.emit(event.globalPos())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        row, key = self.current_row(), event.key()
        entry_id = self.table.id_at(row) if row >= 0 else None
        if key in MOVES:
            self.go(key, event.modifiers())
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.modifiers() and entry_id is not None:
            self.opened.emit(entry_id)
        elif key == Qt.Key.Key_A and event.modifiers() == Qt.KeyboardModifier.ControlModifier:
            self.view.selectAll()
        elif Qt.Key.Key_0 <= key <= Qt.Key.Key_9 and not event.modifiers():
            self.status_asked.emit(key - Qt.Key.Key_0)
        else:
            event.ignore()

    def go(self, key: int, modifiers: Qt.KeyboardModifier) -> None:
        """Goes where a key leads."""
        row = self.current_row()
        if row < 0:
            first = self.table.next_id(0)
            target = self.table.row_of(first) if first is not None else None
        else:
            target = self.neighbour(row, key)
        if target is not None:
            self.choose_row(target, modifiers & Qt.KeyboardModifier.ShiftModifier)

    def entry_row(self, row: int, by: int) -> int | None:
        """The next row of an entry, from a row on and by a direction; headings are passed over."""
        while 0 <= row < self.table.rowCount():
            if self.table.group_at(row) is None:
                return row
            row += by
        return None

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and is_welcome(event.mimeData()):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is not None and is_welcome(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and is_welcome(data):
            row = self.row_at_point(event.position().toPoint())
            self.dropped.emit(from_mime(data), self.table.id_at(row) if row is not None else None)
            event.acceptProposedAction()

    def _on_reset(self) -> None:
        self.anchor = None
        self.refresh()

    def _on_current(self, row: int) -> None:
        self.surface.update()
        entry = self.table.entry_at(row) if row >= 0 else None
        self.setAccessibleDescription(entry.title if entry is not None else "")
        if self.isVisible() and not self.is_stale:
            self.reveal(row)


def reading_font(size_pt: float, *, is_bold: bool = False) -> QFont:
    """The reading face."""
    font = QFont(font_family(READING_FONT))
    font.setPointSizeF(size_pt)
    font.setBold(is_bold)
    return font


def paint_lines(painter: QPainter, rect: QRect, text: str, font: QFont, colour: str, most: int) -> int:
    """Paints a text on at most so many lines, the last one cut off with an ellipsis; how high they are."""
    laid = QTextLayout(text, font)
    option = QTextOption()
    option.setWrapMode(QTextOption.WrapMode.WrapAtWordBoundaryOrAnywhere)
    laid.setTextOption(option)
    painter.setFont(font)
    painter.setPen(colour_of(colour))
    metrics = painter.fontMetrics()
    laid.beginLayout()
    down, number = 0, 0
    while number < most and down + metrics.height() <= rect.height() + 2:
        line = laid.createLine()
        if not line.isValid():
            break
        line.setLineWidth(rect.width())
        number += 1
        begin = line.textStart()
        is_last = number == most or down + 2 * metrics.height() > rect.height() + 2
        rest = text[begin:] if is_last else text[begin : begin + line.textLength()]
        shown = metrics.elidedText(rest.rstrip(), Qt.TextElideMode.ElideRight, rect.width())
        painter.drawText(QPointF(rect.left(), rect.top() + down + metrics.ascent()), shown)
        down += metrics.height()
    laid.endLayout()
    return down


def shown_texts(entry: Entry, fields: Sequence[Field]) -> list[str]:
    """What some fields of an entry show; blank ones are left out."""
    texts = []
    for field in fields:
        value = entry.value(field.key)
        if value is not None:
            text = field.shown(value)
            texts.append(" ".join(text.split()))
    return texts
