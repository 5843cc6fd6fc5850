"""The templates in the order in which they are tried: switched on and off, ordered by drag or keys."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QDropEvent, QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QWidget

from wily_magpie.core.templates.template import Template
from wily_magpie.qt.style.parts import plain_tip

NAME_ROLE = int(Qt.ItemDataRole.UserRole)


class TemplateList(QListWidget):
    """Lists templates.

    Signals:
        chosen: the name of a template.
        switched: a name, and whether it is on.
        ordered: all names in their new order.
        delete_asked: the current one.
    """

    chosen = pyqtSignal(str)
    switched = pyqtSignal(str, bool)
    ordered = pyqtSignal(list)
    delete_asked = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Templates")
        self.setObjectName("templates")
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.currentItemChanged.connect(lambda item, _before: self._on_chosen(item))
        self.itemChanged.connect(self._on_item)

    def show_templates(self, templates: Sequence[Template], name: str) -> None:
        """Lists templates, with one of them chosen."""
        self.blockSignals(True)
        self.clear()
        for template in templates:
            item = QListWidgetItem(template.name)
            item.setData(NAME_ROLE, template.name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if template.is_on else Qt.CheckState.Unchecked)
            rules = "; or ".join(map(str, template.match)) or "chosen by hand only"
            item.setToolTip(plain_tip(f"{template.name}\nTick: proposed by itself. It takes: {rules}"))
            self.addItem(item)
            if template.name == name:
                self.setCurrentItem(item)
        self.blockSignals(False)

    def choose(self, name: str) -> None:
        """Makes a template the chosen one, without telling."""
        self.blockSignals(True)
        if name in self.names():
            self.setCurrentRow(self.names().index(name))
        self.blockSignals(False)

    def names(self) -> list[str]:
        """All names in their order."""
        return [str(item.data(NAME_ROLE)) for row in range(self.count()) if (item := self.item(row)) is not None]

    def shift(self, step: int) -> None:
        """Moves the current one up (-1) or down (+1)."""
        row, names = self.currentRow(), self.names()
        to = row + step
        if 0 <= row < len(names) and 0 <= to < len(names):
            names.insert(to, names.pop(row))
            self.ordered.emit(names)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() == Qt.Key.Key_Delete:
            self.delete_asked.emit()
        elif event.modifiers() & Qt.KeyboardModifier.AltModifier and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.shift(-1 if event.key() == Qt.Key.Key_Up else 1)
        else:
            super().keyPressEvent(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        super().dropEvent(event)
        self.ordered.emit(self.names())

    def _on_chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.chosen.emit(str(item.data(NAME_ROLE)))

    def _on_item(self, item: QListWidgetItem) -> None:
        self.switched.emit(str(item.data(NAME_ROLE)), item.checkState() == Qt.CheckState.Checked)
