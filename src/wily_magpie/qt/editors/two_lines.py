"""Items of a list with a title and, below it in slate, a line about it; the two are parted by a line break."""

from PyQt6.QtCore import QModelIndex, QSize, Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from wily_magpie.qt.style.theme import THEME

PADDING_PX = 8
GAP_PX = 1


class TwoLines(QStyledItemDelegate):
    """Paints such items."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        c, metrics = THEME.colours, option.fontMetrics
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(option.rect, QColor(c.wash if chosen else c.card))
        title, _, about = str(index.data() or "").partition("\n")
        rect = option.rect.adjusted(PADDING_PX, PADDING_PX // 2, -PADDING_PX, 0)
        for text, colour in ((title, c.ink), (about, c.slate)):
            rect.setHeight(metrics.height())
            painter.setPen(QColor(colour))
            shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, rect.width())
            painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, shown)
            rect.translate(0, metrics.height() + GAP_PX)
        painter.setPen(QColor(c.rule))
        painter.drawLine(option.rect.bottomLeft(), option.rect.bottomRight())

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(200, 2 * option.fontMetrics.height() + GAP_PX + PADDING_PX + 1)
