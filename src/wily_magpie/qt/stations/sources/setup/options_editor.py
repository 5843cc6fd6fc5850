"""The options of a choice: renamed, coloured, ordered, merged, deleted, everywhere at once."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.fields import Option
from wily_magpie.qt.editors.spine import SpineDelegate
from wily_magpie.qt.models.entry_table import COLOUR_ROLE
from wily_magpie.qt.style.parts import icon_button, label

COLOURS = ("", "brass", "petrol", "moss", "alarm", "slate")
OLD_ROLE = COLOUR_ROLE + 1
"""The name that an option has in the library."""
Plan = list[tuple[str, Option | None]]


class OptionsEditor(QWidget):
    """Edits a list of options; nothing is done before *Apply*.

    Signals:
        applied: what Arranging.set_options wants.
    """

    applied = pyqtSignal(list)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.deleted: list[str] = []
        self.before: tuple[Option, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.table = QTableWidget(0, 2)
        self.table.setAccessibleName("Options")
        self.table.setHorizontalHeaderLabels(["Option", "Colour"])
        self.table.setShowGrid(False)
        self.table.setMinimumHeight(230)
        rows, header = self.table.verticalHeader(), self.table.horizontalHeader()
        if rows is not None and header is not None:
            rows.hide()
            header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
            header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            header.resizeSection(1, 110)
        self.table.itemChanged.connect(lambda _item: self.say())
        column.addWidget(self.table)
        row = QHBoxLayout()
        row.setSpacing(2)
        row.addWidget(icon_button("plus", "New option", self.add))
        row.addWidget(icon_button("arrow-up", "Up", lambda: self.shift(-1)))
        row.addWidget(icon_button("arrow-down", "Down", lambda: self.shift(1)))
        row.addWidget(icon_button("trash", "Delete the option", self.delete))
        row.addStretch(1)
        self.apply = QPushButton("Apply")
        self.apply.clicked.connect(lambda: self.applied.emit(self.plan()))
        row.addWidget(self.apply)
        column.addLayout(row)
        self.told = label("", wraps=True)
        column.addWidget(self.told)

    def set_options(self, options: Sequence[Option]) -> None:
        """Shows options."""
        self.before, self.deleted = tuple(options), []
        self.table.blockSignals(True)
        self.table.setRowCount(0)
        for option in options:
            self.put(self.table.rowCount(), option.name, option.name, option.colour)
        self.table.blockSignals(False)
        self.say()

    def put(self, row: int, old: str, name: str, colour: str) -> None:
        """A row for an option."""
        self.table.insertRow(row)
        item = QTableWidgetItem(name)
        item.setData(OLD_ROLE, old)
        self.table.setItem(row, 0, item)
        combo = QComboBox()
        combo.setItemDelegate(SpineDelegate(combo))
        for one in COLOURS:
            combo.addItem(one or "none", colour if not one and colour not in COLOURS else one)
        combo.setCurrentIndex(max(0, combo.findData(colour)))
        combo.activated.connect(lambda _index: self.say())
        self.table.setCellWidget(row, 1, combo)

    def row_of(self, row: int) -> tuple[str, str, str]:
        """(old name, name, colour) of a row."""
        item, combo = self.table.item(row, 0), self.table.cellWidget(row, 1)
        colour = str(combo.currentData() or "") if isinstance(combo, QComboBox) else ""
        return (
            (str(item.data(OLD_ROLE) or ""), " ".join(item.text().split()), colour)
            if item is not None
            else ("", "", "")
        )

    def plan(self) -> Plan:
        """What is to be done."""
        rows = [self.row_of(row) for row in range(self.table.rowCount())]
        plan: Plan = [(old, Option(name, colour) if name else None) for old, name, colour in rows if old or name]
        return plan + [(old, None) for old in self.deleted if old]

    def say(self) -> None:
        """Says what Apply would do, and lets it be done where there is anything."""
        plan = self.plan()
        names = [new.name for _, new in plan if new]
        parts = [f"“{old}” becomes “{new.name}”" for old, new in plan if old and new and old != new.name]
        parts += [f"“{name}” is one option then" for name in dict.fromkeys(names) if names.count(name) > 1]
        parts += [f"“{old}” is blanked where it stands" for old, new in plan if old and new is None]
        self.told.setText("; ".join(parts) + "." if parts else "")
        self.told.setVisible(bool(parts))
        self.apply.setEnabled([(one.name, one) for one in self.before] != plan)

    def add(self) -> None:
        """A new option, to be named."""
        row = self.table.rowCount()
        self.put(row, "", "", "")
        self.table.setCurrentCell(row, 0)
        item = self.table.item(row, 0)
        if item is not None:
            self.table.editItem(item)

    def delete(self) -> None:
        """Takes the chosen option out of the list."""
        row = self.table.currentRow()
        if row >= 0:
            self.deleted.append(self.row_of(row)[0])
            self.table.removeRow(row)
            self.say()

    def shift(self, by: int) -> None:
        """Moves the chosen option."""
        row = self.table.currentRow()
        if row >= 0 and 0 <= row + by < self.table.rowCount():
            old, name, colour = self.row_of(row)
            self.table.removeRow(row)
            self.put(row + by, old, name, colour)
            self.table.setCurrentCell(row + by, 0)
            self.say()
