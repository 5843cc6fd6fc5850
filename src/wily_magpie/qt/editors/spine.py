"""Spine labels: a choice is plain text with a coloured bar at its left, never a filled lozenge."""

from PyQt6.QtCore import QModelIndex, QRect, QSize, Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from wily_magpie.qt.models.entry_table import COLOUR_ROLE
from wily_magpie.qt.style.theme import THEME

BAR_PX = 3
GAP_PX = 7


def paint_spine(painter: QPainter, rect: QRect, colour: str) -> QRect:
    """Paints the bar; the rectangle that is left for the text."""
    bar = QRect(rect.left() + 2, rect.top() + 4, BAR_PX, rect.height() - 8)
    painter.fillRect(bar, QColor(THEME.colours.spine(colour)))
    return rect.adjusted(BAR_PX + GAP_PX, 0, 0, 0)


class SpineDelegate(QStyledItemDelegate):
    """Items of a list of options."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(option.rect, QColor(THEME.colours.wash if chosen else THEME.colours.card))
        rect = option.rect
        if index.data():
            rect = paint_spine(painter, rect, str(index.data(COLOUR_ROLE) or ""))
        painter.setPen(QColor(THEME.colours.ink))
        painter.drawText(rect.adjusted(2, 0, -4, 0), Qt.AlignmentFlag.AlignVCenter, str(index.data() or ""))

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return super().sizeHint(option, index).expandedTo(QSize(60, 26))
