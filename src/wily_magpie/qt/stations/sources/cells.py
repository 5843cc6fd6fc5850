"""Cells of the table: painted from the cached row, edited by the editor of their field's kind."""

from functools import lru_cache, partial

from PyQt6.QtCore import QEvent, QModelIndex, QObject, QPoint, QRect, Qt
from PyQt6.QtGui import QColor, QFocusEvent, QFont, QKeyEvent, QPainter, QPen, QPolygon
from PyQt6.QtWidgets import (
    QAbstractItemDelegate,
    QAbstractItemView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from wily_magpie.qt.editors.field_editor import FieldEditor, NamesFor
from wily_magpie.qt.editors.spine import paint_spine
from wily_magpie.qt.models.entry_table import EntryTable
from wily_magpie.qt.style.theme import THEME

PADDING_PX = 7
GAP_PX = 7
LONG_TEXT_PX = 110
Hint = QAbstractItemDelegate.EndEditHint
TABS = {Qt.Key.Key_Tab: Hint.EditNextItem, Qt.Key.Key_Backtab: Hint.EditPreviousItem}


@lru_cache(maxsize=64)
def colour_of(token: str) -> QColor:
    """A colour of the look, parsed once: three are needed for every cell."""
    return QColor(token)


class CellDelegate(QStyledItemDelegate):
    """Paints and edits cells.

    What is chosen is asked of the table, not of the option that Qt hands over: that would make all that Qt's bindings know of
    styles, before the first picture.

    Args:
        names_for: asks what a field's editor completes with.
        view: the table.
    """

    def __init__(self, names_for: NamesFor, view: QAbstractItemView) -> None:
        super().__init__(view)
        self.names_for, self.view = names_for, view

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        model = index.model()
        if painter is None or not isinstance(model, EntryTable):
            return
        if model.group_at(index.row()) is not None:
            self.paint_heading(painter, option, index)
        else:
            self.paint_cell(painter, option, index, model)

    def paint_heading(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        c = THEME.colours
        painter.fillRect(option.rect, QColor(c.ground))
        if index.column() == 0:
            font = QFont(option.font)
            font.setBold(True)
            painter.setFont(font)
            painter.setPen(QColor(c.ink))
            text_rect = option.rect.adjusted(PADDING_PX, 4, 0, 0)
            painter.drawText(text_rect, Qt.AlignmentFlag.AlignVCenter, str(index.data() or ""))
        painter.setPen(QColor(c.rule))
        painter.drawLine(option.rect.bottomLeft(), option.rect.bottomRight())

    def paint_cell(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex, model: EntryTable
    ) -> None:
        c, view, whole = THEME.colours, self.view, option.rect
        current, selection = view.currentIndex(), view.selectionModel()
        is_current = current.row() == index.row()
        chosen = is_current or (selection is not None and selection.isSelected(index))
        painter.fillRect(whole, colour_of(c.wash if chosen else c.card))
        rect = whole.adjusted(PADDING_PX, 0, -PADDING_PX, 0)
        row, place = index.row(), index.column()
        text, colour = model.cell(row, place)
        column = model.columns[place]
        if colour is not None:
            rect = paint_spine(painter, rect, colour)
        if column.key == "title" and (model.has_gap(row) or model.fault(row)):
            self.paint_gap(painter, whole, c.alarm if model.fault(row) else c.brass)
        if text:
            painter.setFont(option.font)
            is_doubtful = model.doubt(row, place) != ""
            ink = c.ink if column.key == "title" or chosen or colour is not None else c.slate
            painter.setPen(colour_of(c.brass if is_doubtful else ink))
            metrics = option.fontMetrics
            shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, rect.width())
            left = rect.right() + 1 - metrics.horizontalAdvance(shown) if column.kind.right_aligned else rect.left()
            middle = rect.top() + (rect.height() - metrics.height()) // 2 + metrics.ascent()
            painter.drawText(left, middle, shown)  # at a point: text in a rectangle is laid out twice as long
        painter.setPen(colour_of(c.rule))
        painter.drawLine(whole.bottomLeft(), whole.bottomRight())
        if current == index and view.hasFocus():
            painter.setPen(QPen(colour_of(c.petrol), 2))
            painter.drawRect(whole.adjusted(1, 1, -1, -2))

    @staticmethod
    def paint_gap(painter: QPainter, rect: QRect, colour: str) -> None:
        """A folded corner: something is still missing, or broken."""
        at = rect.topLeft()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colour))
        painter.drawPolygon(QPolygon([at, at + QPoint(GAP_PX, 0), at + QPoint(0, GAP_PX)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def createEditor(self, parent: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex) -> QWidget | None:
        model = index.model()
        if not isinstance(model, EntryTable):
            return None
        field = model.columns[index.column()]
        editor = FieldEditor(field, parent, names=partial(self.names_for, field))
        editor.setAutoFillBackground(True)
        inner = editor.focusProxy()
        if inner is not None:
            inner.installEventFilter(self)
        if editor.combo is not None:
            editor.combo.activated.connect(lambda _index: self.settle(editor))
        return editor

    def settle(self, editor: FieldEditor, hint: Hint = Hint.NoHint) -> None:
        """Keeps what stands in an editor, and closes it, once: closing it takes the focus away, which would settle it anew."""
        if editor.property("is_settled"):
            return
        editor.setProperty("is_settled", True)
        self.commitData.emit(editor)
        self.closeEditor.emit(editor, hint)

    def updateEditorGeometry(self, editor: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if editor is None:
            return
        rect = QRect(option.rect)
        if isinstance(editor, FieldEditor) and editor.area is not None:
            rect.setHeight(LONG_TEXT_PX)
            rect.setWidth(max(rect.width(), 280))
        editor.setGeometry(rect)

    def setEditorData(self, editor: QWidget | None, index: QModelIndex) -> None:
        if isinstance(editor, FieldEditor):
            editor.set_text(str(index.data(Qt.ItemDataRole.EditRole) or ""))
            editor.select_all()

    def setModelData(self, editor: QWidget | None, model: object, index: QModelIndex) -> None:
        if isinstance(editor, FieldEditor) and isinstance(model, EntryTable):
            model.setData(index, editor.text())

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Enter and Tab settle a cell, Escape leaves it as it was.

        In a text of many lines Enter begins a line, and Ctrl+Enter settles it.
        """
        editor = watched if isinstance(watched, FieldEditor) else watched.parent() if watched is not None else None
        if not isinstance(editor, FieldEditor):
            return super().eventFilter(watched, event)
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            key = event.key()
            has_control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            if key == Qt.Key.Key_Escape:
                editor.setProperty("is_settled", True)
                self.closeEditor.emit(editor, Hint.RevertModelCache)
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and (editor.area is None or has_control):
                self.settle(editor, Hint.SubmitModelCache)
                return True
            if key in TABS:
                self.settle(editor, TABS[Qt.Key(key)])
                return True
        popups = (Qt.FocusReason.PopupFocusReason, Qt.FocusReason.MenuBarFocusReason)
        is_left = isinstance(event, QFocusEvent) and event.type() == QEvent.Type.FocusOut
        if is_left and isinstance(event, QFocusEvent) and event.reason() not in popups:
            self.settle(editor)
        return False
