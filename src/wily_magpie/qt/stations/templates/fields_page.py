"""All fields over all templates: which template fills which, and what leads nowhere."""

from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QInputDialog,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.command import Command
from wily_magpie.core.commands.fields import AddField, ChangeField, DeleteField
from wily_magpie.core.commands.templates import DropRules, RenameRules
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.queries.place_plans import plan_for
from wily_magpie.core.queries.templates import FieldUse
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import button, in_row, label, plain_tip


class FieldsPage(QWidget):
    """Lists them."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.asking = desk, LastAsked(desk.bridge)
        self.uses: list[FieldUse] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 14, 20, 12)
        column.setSpacing(8)
        column.addWidget(label("Fields of all templates", "heading"))
        self.about = label("", wraps=True)
        column.addWidget(self.about)
        self.table = QTableWidget(0, 3)
        self.table.setAccessibleName("Fields of all templates")
        self.table.setHorizontalHeaderLabels(["Field", "Place", "Filled by"])
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.itemSelectionChanged.connect(self.show_buttons)
        rows, header = self.table.verticalHeader(), self.table.horizontalHeader()
        if rows is not None and header is not None:
            rows.hide()
            header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
            header.setHighlightSections(False)
            header.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
            header.resizeSection(0, 220)
            header.resizeSection(1, 160)
        column.addWidget(self.table, 1)
        self.rename = button("Rename …", self.ask_name)
        self.remove = button("Remove", self.take_out)
        self.add = button("Add it to the place", self.add_field)
        column.addLayout(in_row(self.rename, self.remove, self.add))

    def refresh(self) -> None:
        """Looks at all templates anew."""
        self.asking.ask(lambda reader: reader.templates.field_uses(), self.show_uses)

    def show_uses(self, uses: list[FieldUse]) -> None:
        """Lists them."""
        row = self.table.currentRow()
        self.uses = uses
        self.table.setRowCount(len(self.uses))
        for at, use in enumerate(self.uses):
            by = ", ".join(use.templates) or "no template: a person fills it"
            name = use.label if use.is_there else f"{use.label} (the place has no such field)"
            for column, text in enumerate((name, use.place_name, by)):
                item = QTableWidgetItem(text)
                item.setToolTip(plain_tip(text))
                self.table.setItem(at, column, item)
        lost = sum(not use.is_there for use in self.uses)
        unused = sum(not use.templates for use in self.uses)
        self.about.setText(
            f"{len(self.uses)} fields; {unused} that no template fills, {lost} that templates fill and no place has. "
            "A field that is renamed here has its new name everywhere; one that is removed leaves its place, with its values, "
            "and undo brings it back."
        )
        if self.uses:
            self.table.selectRow(min(max(0, row), len(self.uses) - 1))
        self.show_buttons()

    def chosen(self) -> FieldUse | None:
        """The chosen one."""
        row = self.table.currentRow()
        return self.uses[row] if 0 <= row < len(self.uses) else None

    def show_buttons(self) -> None:
        """Says what can be done with the chosen one."""
        use = self.chosen()
        is_notes = use is not None and use.is_in_files
        self.rename.setEnabled(use is not None)
        self.remove.setEnabled(use is not None and (not use.is_there or (not use.templates and not is_notes)))
        self.add.setVisible(use is not None and not use.is_there)
        self.remove.setText("Remove its rules" if use is not None and not use.is_there else "Remove the field")

    def ask_name(self) -> None:
        """Asks for another name."""
        use = self.chosen()
        if use is None:
            return
        title = "Rename a field" if use.is_there else "Let these rules fill"
        name, is_given = QInputDialog.getText(self, title, "Name of the field", text=use.label)
        if is_given and name.strip() and name.strip() != use.label:
            self.give_name(use, name.strip())

    def give_name(self, use: FieldUse, name: str) -> None:
        """Gives a field another name everywhere; rules of one that is missing fill another one from now on."""
        if use.is_there:
            self.do(ChangeField(use.place, use.key, {"label": name}))
        else:
            self.do(RenameRules(use.place, use.key, name))

    def add_field(self) -> None:
        """Gives the place a field that rules already fill."""
        use = self.chosen()
        if use is not None:
            self.do(AddField(use.place, plan_for(use.key)))

    def take_out(self) -> None:
        """Takes out a field that no template fills, or rules that fill nothing."""
        use = self.chosen()
        if use is not None:
            self.do(DeleteField(use.place, use.key) if use.is_there else DropRules(use.place, use.key))

    def do(self, command: Command[Any]) -> None:
        """Changes something and shows how it stands then."""
        self.desk.bridge.do(command, lambda _: self.refresh(), self.refuse)

    def refuse(self, error: MagpieError) -> None:
        """Says what was refused; the table shows what holds."""
        self.desk.complain(error)
        self.refresh()
