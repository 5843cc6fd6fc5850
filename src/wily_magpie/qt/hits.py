"""What a search found, as items of a list: the title, where it is kept, and the lines around with the words marked."""

from collections.abc import Sequence

from PyQt6.QtCore import QModelIndex, QPointF, QRect, QSize, Qt
from PyQt6.QtGui import QColor, QFont, QPainter, QTextCharFormat, QTextLayout, QTextOption
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from wily_magpie.core.queries.search import Hit
from wily_magpie.qt.style.parts import plain_tip
from wily_magpie.qt.style.theme import THEME

HIT_ROLE = int(Qt.ItemDataRole.UserRole)
PADDING_PX, GAP_PX = 10, 2
LINES = 2


class HitDelegate(QStyledItemDelegate):
    """Paints such items; others as a name with what it is, told apart by that."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        c, hit = THEME.colours, index.data(HIT_ROLE)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(option.rect, QColor(c.wash if chosen else c.card))
        rect = option.rect.adjusted(PADDING_PX, 5, -PADDING_PX, -4)
        name, _, about = str(index.data() or "").partition("\n")
        metrics = option.fontMetrics
        width = metrics.horizontalAdvance(about) + 12
        line = QRect(rect.left(), rect.top(), rect.width(), metrics.height())
        bold = QFont(option.font)
        bold.setBold(isinstance(hit, Hit))
        painter.setFont(bold)
        painter.setPen(QColor(c.ink))
        title = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, line.width() - width)
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, title)
        painter.setFont(option.font)
        painter.setPen(QColor(c.brass))
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, about)
        if isinstance(hit, Hit):
            rest = rect.adjusted(0, metrics.height() + GAP_PX, 0, 0)
            paint_snippet(painter, rest, hit.snippet, hit.marked, option.font)
        painter.setPen(QColor(c.rule))
        painter.drawLine(option.rect.bottomLeft(), option.rect.bottomRight())

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        high = option.fontMetrics.height()
        hit = index.data(HIT_ROLE)
        lines = 1 + (LINES if isinstance(hit, Hit) and hit.snippet else 0)
        return QSize(200, lines * (high + GAP_PX) + 10)


def paint_snippet(
    painter: QPainter,
    rect: QRect,
    text: str,
    marked: Sequence[tuple[int, int]],
    font: QFont,
    colour: QColor | None = None,
) -> None:
    """The lines around a hit, with its words marked by weight and colour; the others in one of their own."""
    c = THEME.colours
    laid = QTextLayout(text, font)
    option = QTextOption()
    option.setWrapMode(QTextOption.WrapMode.WrapAtWordBoundaryOrAnywhere)
    laid.setTextOption(option)
    ranges = []
    for begin, end in marked:
        one = QTextLayout.FormatRange()
        one.start, one.length = begin, end - begin
        look = QTextCharFormat()
        look.setFontWeight(QFont.Weight.Bold)
        look.setForeground(QColor(c.petrol))
        look.setBackground(QColor(c.wash))
        one.format = look
        ranges.append(one)
    laid.setFormats(ranges)
    laid.beginLayout()
    down = 0.0
    for _ in range(LINES):
        line = laid.createLine()
        if not line.isValid():
            break
        line.setLineWidth(rect.width())
        line.setPosition(QPointF(0, down))
        down += line.height()
    laid.endLayout()
    painter.setPen(colour or QColor(c.slate))
    laid.draw(painter, QPointF(rect.topLeft()))


def add_hits(into: QListWidget, hits: Sequence[Hit]) -> None:
    """Adds hits to a list."""
    for hit in hits:
        about = hit.place_name if hit.where in ("title", "text") else f"{hit.place_name}, {hit.where}"
        item = QListWidgetItem(f"{hit.entry.title}\n{about}")
        item.setData(HIT_ROLE, hit)
        item.setToolTip(plain_tip(hit.entry.title))
        into.addItem(item)


def list_of_hits(name: str) -> QListWidget:
    """An empty list for hits."""
    made = QListWidget()
    made.setAccessibleName(name)
    made.setItemDelegate(HitDelegate(made))
    made.setUniformItemSizes(False)
    return made
