"""Cells of the table, edited by the editor of their field's kind."""

from functools import partial

from PyQt6.QtCore import QEvent, QModelIndex, QObject, QRect, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractItemDelegate,
    QAbstractItemView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from wily_magpie.qt.editors.field_editor import FieldEditor, NamesFor
from wily_magpie.qt.models.entry_table import EntryTable

LONG_TEXT_PX = 110
Hint = QAbstractItemDelegate.EndEditHint
TABS = {Qt.Key.Key_Tab: Hint.EditNextItem, Qt.Key.Key_Backtab: Hint.EditPreviousItem}


class CellDelegate(QStyledItemDelegate):
    """Edits cells; the table paints them itself.

    Args:
        names_for: asks what a field's editor completes with.
        view: the table.
    """

    def __init__(self, names_for: NamesFor, view: QAbstractItemView) -> None:
        super().__init__(view)
        self.names_for = names_for

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
