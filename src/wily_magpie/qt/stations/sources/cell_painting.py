"""Cells of the table, painted from the cached rows, all that are to be seen in one go.

Qt asks a delegate for each cell alone, and hands over all that it knows of styles, of which nothing is wanted here: so
painted, a table takes half of the time.
"""

from collections.abc import Sequence
from functools import lru_cache

from PyQt6.QtCore import QItemSelection, QPoint, QRect, Qt
from PyQt6.QtGui import QColor, QFont, QPainter, QPen, QPolygon
from PyQt6.QtWidgets import QTableView

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.qt.editors.spine import paint_spine
from wily_magpie.qt.models.entry_table import EntryTable
from wily_magpie.qt.style.theme import THEME

PADDING_PX = 7
CORNER_PX = 7


@lru_cache(maxsize=64)
def colour_of(token: str) -> QColor:
    """A colour of the look, parsed once: three are needed for every cell."""
    return QColor(token)


class Chosen:
    """Which cells of a table are chosen: those that are selected, and the whole row of the current one."""

    def __init__(self, view: QTableView) -> None:
        current, selection = view.currentIndex(), view.selectionModel()
        self.row, self.column = current.row(), current.column()
        found = selection.selection() if selection is not None else QItemSelection()
        spans = [found[number] for number in range(len(found))]
        self.spans = [(one.top(), one.bottom(), one.left(), one.right()) for one in spans]

    def holds(self, row: int, column: int) -> bool:
        """Whether a cell is chosen."""
        is_in = (top <= row <= bottom and left <= column <= right for top, bottom, left, right in self.spans)
        return row == self.row or any(is_in)


class CellPainter:
    """Paints cells of a table.

    Args:
        view: whose cells they are. has_focus: whether the current cell is where keys go.
    """

    def __init__(self, view: QTableView, table: EntryTable, *, has_focus: bool) -> None:
        self.view, self.table, self.has_focus = view, table, has_focus
        self.chosen = Chosen(view)
        self.metrics = view.fontMetrics()

    def paint(self, area: QRect) -> None:
        """Paints what there is of the table in an area of its viewport."""
        rows, columns = self.rows_in(area), self.columns_in(area)
        end = columns[-1][1] + columns[-1][2] - 1 if columns else -1
        painter = QPainter(self.view.viewport())
        painter.setFont(self.view.font())
        for row in rows:
            top, height = self.view.rowViewportPosition(row), self.view.rowHeight(row)
            if self.table.group_at(row) is not None:
                self.paint_heading(painter, row, QRect(QPoint(area.left(), top), QPoint(end, top + height - 1)))
            else:
                self.paint_row(painter, row, columns, top, height)
            painter.setPen(colour_of(THEME.colours.rule))
            painter.drawLine(area.left(), top + height - 1, min(end, area.right()), top + height - 1)
            if row == self.chosen.row and self.has_focus:
                self.paint_current(painter, columns, top, height)

    def rows_in(self, area: QRect) -> range:
        """The rows that an area shows."""
        first, last = self.view.rowAt(area.top()), self.view.rowAt(area.bottom())
        return range(0) if first < 0 else range(first, (last if last >= 0 else self.table.rowCount() - 1) + 1)

    def columns_in(self, area: QRect) -> list[tuple[int, int, int]]:
        """The columns that an area shows, as they stand side by side: number, left edge, width."""
        header = self.view.horizontalHeader()
        numbers = map(header.logicalIndex, range(header.count())) if header is not None else ()
        all_columns = [(one, self.view.columnViewportPosition(one), self.view.columnWidth(one)) for one in numbers]
        return [one for one in all_columns if one[2] > 0 and one[1] <= area.right() and one[1] + one[2] > area.left()]

    def paint_row(
        self, painter: QPainter, row: int, columns: Sequence[tuple[int, int, int]], top: int, height: int
    ) -> None:
        """The cells of an entry."""
        entry = self.table.entry_at(row)
        for column, left, width in columns:
            chosen = self.chosen.holds(row, column)
            painter.fillRect(left, top, width, height, colour_of(THEME.colours.wash if chosen else THEME.colours.card))
            if entry is not None:
                rect = QRect(left, top, width, height)
                self.paint_cell(painter, entry, self.table.columns[column], rect, is_chosen=chosen)

    def paint_cell(self, painter: QPainter, entry: Entry, field: Field, whole: QRect, *, is_chosen: bool) -> None:
        """What a cell says."""
        c, is_title = THEME.colours, field.key == "title"
        text, colour = self.table.shown(entry, field)
        rect = whole.adjusted(PADDING_PX, 0, -PADDING_PX, 0)
        if colour is not None:
            rect = paint_spine(painter, rect, colour)
        if is_title and (entry.fault or entry.value("gaps") is not None):
            paint_gap(painter, whole, c.alarm if entry.fault else c.brass)
        if not text:
            return
        is_doubtful = field.kind.doubt(entry.value(field.key)) != ""
        ink = c.ink if is_title or is_chosen or colour is not None else c.slate
        painter.setPen(colour_of(c.brass if is_doubtful else ink))
        shown = self.metrics.elidedText(text, Qt.TextElideMode.ElideRight, rect.width())
        at_right = field.kind.right_aligned
        left = rect.right() + 1 - self.metrics.horizontalAdvance(shown) if at_right else rect.left()
        # at a point: text in a rectangle is laid out twice as long
        painter.drawText(left, rect.top() + (rect.height() - self.metrics.height()) // 2 + self.metrics.ascent(), shown)

    def paint_heading(self, painter: QPainter, row: int, rect: QRect) -> None:
        """The heading of a group, across all columns."""
        c = THEME.colours
        painter.fillRect(rect, colour_of(c.ground))
        font = QFont(self.view.font())
        font.setBold(True)
        painter.save()
        painter.setFont(font)
        painter.setPen(colour_of(c.ink))
        header = self.view.horizontalHeader()
        first = header.logicalIndex(0) if header is not None else 0
        start = self.view.columnViewportPosition(first) + PADDING_PX
        text_rect = QRect(start, rect.top() + 4, max(0, rect.right() - start), rect.height() - 4)
        painter.drawText(text_rect, Qt.AlignmentFlag.AlignVCenter, str(self.table.index(row, 0).data() or ""))
        painter.restore()

    def paint_current(self, painter: QPainter, columns: Sequence[tuple[int, int, int]], top: int, height: int) -> None:
        """A frame around the current cell."""
        for column, left, width in columns:
            if column == self.chosen.column:
                painter.setPen(QPen(colour_of(THEME.colours.petrol), 2))
                painter.drawRect(QRect(left, top, width, height).adjusted(1, 1, -1, -2))


def paint_gap(painter: QPainter, rect: QRect, colour: str) -> None:
    """A folded corner: something is still missing, or broken."""
    at = rect.topLeft()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour_of(colour))
    painter.drawPolygon(QPolygon([at, at + QPoint(CORNER_PX, 0), at + QPoint(0, CORNER_PX)]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
