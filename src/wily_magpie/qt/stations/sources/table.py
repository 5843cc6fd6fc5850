"""The table of a view: spine labels for choices, group headings across all columns, cells edited in place."""

from collections.abc import Callable

from PyQt6.QtCore import QItemSelectionModel, QModelIndex, QRect, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QKeyEvent, QPainter
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QLineEdit,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import MagpieError
from wily_magpie.qt.editors.spine import BAR_PX, GAP_PX, paint_spine
from wily_magpie.qt.models.entry_table import EntryTable
from wily_magpie.qt.style.theme import THEME

ROW_PX = 28
PADDING_PX = 7
NARROWEST_PX, WIDEST_PX, WIDEST_TITLE_PX = 56, 150, 300
SAMPLED_ROWS = 60
"""Rows from the top whose texts say how wide a column is at first."""


class CellDelegate(QStyledItemDelegate):
    """Paints cells."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        model = index.model()
        if painter is None or not isinstance(model, EntryTable):
            return
        c = THEME.colours
        painter.save()
        if model.group_at(index.row()) is not None:
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
            painter.restore()
            return
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(option.rect, QColor(c.wash if chosen else c.card))
        rect = option.rect.adjusted(PADDING_PX, 0, -PADDING_PX, 0)
        text, colour = model.cell(index.row(), index.column())
        if colour is not None:
            rect = paint_spine(painter, QRect(rect), colour)
        if text:
            column = model.columns[index.column()]
            painter.setFont(option.font)
            painter.setPen(QColor(c.ink if column.key == "title" or chosen or colour is not None else c.slate))
            align = Qt.AlignmentFlag.AlignRight if column.kind.right_aligned else Qt.AlignmentFlag.AlignLeft
            shown = option.fontMetrics.elidedText(text, Qt.TextElideMode.ElideRight, rect.width())
            painter.drawText(rect, align | Qt.AlignmentFlag.AlignVCenter, shown)
        painter.setPen(QColor(c.rule))
        painter.drawLine(option.rect.bottomLeft(), option.rect.bottomRight())
        if option.state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(QColor(c.petrol))
            painter.drawRect(option.rect.adjusted(0, 0, -1, -1))
        painter.restore()

    def createEditor(self, parent: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex) -> QWidget:
        editor = QLineEdit(parent)
        editor.setFrame(False)
        return editor

    def setEditorData(self, editor: QWidget | None, index: QModelIndex) -> None:
        if isinstance(editor, QLineEdit):
            editor.setText(str(index.data(Qt.ItemDataRole.EditRole) or ""))

    def setModelData(self, editor: QWidget | None, model: object, index: QModelIndex) -> None:
        if isinstance(editor, QLineEdit) and isinstance(model, EntryTable):
            model.setData(index, editor.text())


class EntryTableView(QTableView):
    """The table.

    Signals:
        chosen: the id of the entry that is the current one, or None.
        opened: the id of an entry to be read.
        delete_asked: ids.
    """

    chosen = pyqtSignal(object)
    opened = pyqtSignal(int)
    delete_asked = pyqtSignal(list)

    def __init__(
        self,
        set_text: Callable[[int, str, str], None],
        complain: Callable[[MagpieError], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.table = EntryTable(set_text, complain, self)
        self.setModel(self.table)
        self.setItemDelegate(CellDelegate(self))
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setAccessibleName("Entries")
        self.setTabKeyNavigation(False)
        rows, columns = self.verticalHeader(), self.horizontalHeader()
        if rows is not None and columns is not None:
            rows.hide()
            rows.setDefaultSectionSize(ROW_PX)
            rows.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
            columns.setHighlightSections(False)
            columns.setSectionsMovable(True)
            columns.setMinimumSectionSize(48)
            columns.setSectionsClickable(True)
        self.doubleClicked.connect(self._on_double_click)

    def span_groups(self) -> None:
        """Lets the headings of groups go across all columns."""
        self.clearSpans()
        if len(self.table.heads) < 2000 and self.table.columnCount() > 1:
            for row in self.table.heads:
                self.setSpan(row, 0, 1, self.table.columnCount())

    def set_widths(self, kept: dict[str, int]) -> None:
        """Sets the columns' widths: those kept, else what their first texts need."""
        for place, field in enumerate(self.table.columns):
            self.setColumnWidth(place, kept.get(field.key) or self.fitting_width(place, field))

    def fitting_width(self, column: int, field: Field) -> int:
        """A width in which the heading and the first texts of a column fit, within bounds."""
        metrics = self.fontMetrics()
        rows = [row for row in range(min(SAMPLED_ROWS, self.table.rowCount())) if self.table.group_at(row) is None]
        texts = [field.label, *(self.table.cell(row, column)[0] for row in rows)]
        spine = BAR_PX + GAP_PX if field.kind.name == "choice" else 0
        needed = max(map(metrics.horizontalAdvance, texts)) + 2 * PADDING_PX + spine + 4
        return max(NARROWEST_PX, min(needed, WIDEST_TITLE_PX if field.key == "title" else WIDEST_PX))

    def widths(self) -> dict[str, int]:
        """The widths by field key."""
        return {field.key: self.columnWidth(place) for place, field in enumerate(self.table.columns)}

    def chosen_ids(self) -> list[int]:
        """The ids of the selected rows, from top to bottom."""
        selection = self.selectionModel()
        rows = sorted(index.row() for index in selection.selectedRows()) if selection is not None else []
        return [entry_id for row in rows if (entry_id := self.table.id_at(row)) is not None]

    def choose(self, entry_id: int | None) -> bool:
        """Makes an entry the current one; False where it is not in the table."""
        row = self.table.row_of(entry_id) if entry_id is not None else None
        selection = self.selectionModel()
        if row is None or selection is None:
            return False
        flags = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
        selection.setCurrentIndex(self.table.index(row, 0), flags)
        self.scrollTo(self.table.index(row, 0))
        return True

    def currentChanged(self, current: QModelIndex, previous: QModelIndex) -> None:
        super().currentChanged(current, previous)
        if current.row() != previous.row() or not current.isValid():
            self.chosen.emit(self.table.id_at(current.row()) if current.isValid() else None)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and self.state() != QAbstractItemView.State.EditingState:
            entry_id = self.table.id_at(self.currentIndex().row())
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.modifiers() and entry_id is not None:
                self.opened.emit(entry_id)
                return
            if event.key() == Qt.Key.Key_Delete and self.chosen_ids():
                self.delete_asked.emit(self.chosen_ids())
                return
        super().keyPressEvent(event)

    def _on_double_click(self, index: QModelIndex) -> None:
        entry_id = self.table.id_at(index.row())
        if entry_id is not None:
            self.opened.emit(entry_id)
