"""A new place for pages like the one that is shown: its fields are proposed, each with a tick and a kind."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.places import PlaceFor
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import COLLECTION, NOTES_FOLDER
from wily_magpie.qt.style.parts import button, in_row, label, scroll_area

SIZE = (520, 600)


class NewPlacePage(QDialog):
    """See the module.

    Args:
        plans: the fields, each with whether it is proposed.
        make: has the place made: (command, what is told why it cannot be).
    """

    def __init__(
        self,
        name: str,
        plans: Sequence[tuple[FieldPlan, bool]],
        make: Callable[[PlaceFor, Callable[[MagpieError], object]], None],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("A new place for pages like this")
        self.resize(*SIZE)
        self.plans, self.make = plans, make
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 14)
        column.setSpacing(8)
        column.addWidget(label("A new place for pages like this", "heading"))
        about = "What is ticked becomes a field; this page and its template have something for it."
        column.addWidget(label(about, wraps=True))
        column.addLayout(self.make_head(name))
        inside = QWidget()
        self.rows = QGridLayout(inside)
        self.rows.setContentsMargins(0, 0, 10, 0)
        self.rows.setColumnStretch(0, 1)
        self.lines = [self.add_row(row, plan, is_proposed=wanted) for row, (plan, wanted) in enumerate(plans)]
        self.rows.setRowStretch(len(plans), 1)
        column.addWidget(scroll_area(inside), 1)
        self.told = label("", "problem", wraps=True)
        self.told.hide()
        column.addWidget(self.told)
        self.done_button = button("Make it, and choose it for this page", self.finish, is_main=True)
        self.done_button.setDefault(True)
        column.addLayout(in_row(self.done_button, button("Cancel", self.reject)))
        self.show_kind()

    def make_head(self, name: str) -> QGridLayout:
        """Its name, what it is, and where."""
        grid = QGridLayout()
        self.name = QLineEdit(name)
        self.name.setAccessibleName("Name of the place")
        self.name.selectAll()
        grid.addWidget(label("Name"), 0, 0)
        grid.addWidget(self.name, 0, 1)
        self.collection, self.notes = QRadioButton("a collection"), QRadioButton("a notes folder")
        self.collection.setChecked(True)
        self.notes.toggled.connect(lambda _on: self.show_kind())
        grid.addWidget(label("It is"), 1, 0)
        grid.addLayout(in_row(self.collection, self.notes), 1, 1)
        where = QHBoxLayout()
        self.folder = QLineEdit(str(Path.home() / name))
        self.folder.setAccessibleName("Folder of the notes")
        where.addWidget(self.folder, 1)
        self.choose = QPushButton("Choose …")
        self.choose.clicked.connect(self.ask_folder)
        where.addWidget(self.choose)
        self.where = label("In the folder")
        grid.addWidget(self.where, 2, 0)
        grid.addLayout(where, 2, 1)
        return grid

    def add_row(self, row: int, plan: FieldPlan, *, is_proposed: bool) -> tuple[QCheckBox, QComboBox]:
        """A field, with its tick and its kind."""
        tick, kind = QCheckBox(plan.label.replace("&", "&&")), QComboBox()
        tick.setChecked(is_proposed)
        kind.setAccessibleName(f"Kind of {plan.label}")
        self.rows.addWidget(tick, row, 0)
        self.rows.addWidget(kind, row, 1)
        return tick, kind

    def show_kind(self) -> None:
        """Offers the kinds of field that such a place can have."""
        is_notes = self.notes.isChecked()
        for widget in (self.where, self.folder, self.choose):
            widget.setVisible(is_notes)
        kinds = (NOTES_FOLDER if is_notes else COLLECTION).field_kinds
        for (plan, _), (tick, combo) in zip(self.plans, self.lines, strict=True):
            wanted = combo.currentText() or plan.kind
            combo.clear()
            combo.addItems(kinds)
            combo.setCurrentText(wanted if wanted in kinds else "text")
            tick.setEnabled(plan.kind in kinds)  # files of notes are files beside them

    def ask_folder(self) -> None:
        """Has a folder chosen."""
        given = QFileDialog.getExistingDirectory(self, "The folder for the notes", str(Path.home()))
        if given:
            self.folder.setText(given)

    def wanted(self) -> PlaceFor:
        """The place as it stands."""
        plans = [
            replace(plan, kind=combo.currentText()) if combo.currentText() != plan.kind else plan
            for (plan, _), (tick, combo) in zip(self.plans, self.lines, strict=True)
            if tick.isChecked() and tick.isEnabled()
        ]
        folder = Path(self.folder.text().strip()) if self.notes.isChecked() else None
        return PlaceFor(self.name.text().strip(), plans, folder)

    def finish(self) -> None:
        """Has it made."""
        if not self.name.text().strip():
            self.refuse_text("The place needs a name.")
            return
        self.make(self.wanted(), lambda error: self.refuse_text(str(error)))

    def refuse_text(self, text: str) -> None:
        """Says why it cannot be made; what was chosen stays."""
        self.told.setText(text)
        self.told.show()
