"""The small chooser of one condition: the relation, and the value that stands beside it."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QDialog, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Relation
from wily_magpie.core.query.cql import check_value
from wily_magpie.core.query.nodes import Condition
from wily_magpie.qt.editors.spine import SpineDelegate
from wily_magpie.qt.style.parts import WrappedLabel

HINTS = {
    "date": "1926, 1926-03, 12 March 1926 …",
    "number": "a number",
    "amount": "20 EUR; without a unit, of any",
    "people": "Family, Given",
    "address": "part of an address",
}


class ConditionChooser(QDialog):
    """Asks for one condition over a field. `condition` is the answer, None: the condition is to go."""

    def __init__(self, field: Field, condition: Condition | None, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.field = field
        self.condition = condition
        self.setAccessibleName(f"Condition over {field.label}")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 10)
        column.setSpacing(8)
        row = QHBoxLayout()
        row.setSpacing(6)
        name = QLabel(field.label)
        row.addWidget(name)
        self.relation = QComboBox()
        self.relation.setAccessibleName("Relation")
        for relation in field.kind.relations:
            self.relation.addItem(relation.value, relation)
        row.addWidget(self.relation)
        self.options = QComboBox()
        self.options.setAccessibleName("Value")
        self.options.setEditable(not field.kind.has_spine)
        self.options.setMinimumWidth(190)
        self.options.setItemDelegate(SpineDelegate(self.options))
        for option in field.options:
            self.options.addItem(option.name, option.colour)
        self.options.addItems(field.kind.fixed_texts)
        self.line = QLineEdit()
        self.line.setAccessibleName("Value")
        self.line.setMinimumWidth(190)
        self.unit = QLabel("days")
        for widget in (self.options, self.line, self.unit):
            row.addWidget(widget)
        column.addLayout(row)
        self.add_foot(column, is_new=condition is None)
        self.relation.currentIndexChanged.connect(self._on_relation)
        if condition is not None:
            self.relation.setCurrentIndex(self.relation.findData(condition.relation))
        self._on_relation()
        self.set_value(condition.value if condition else "")
        (self.options if self.options.isVisibleTo(self) else self.line).setFocus()

    def add_foot(self, column: QVBoxLayout, *, is_new: bool) -> None:
        """The place for a complaint, and the buttons."""
        self.problem = WrappedLabel()
        self.problem.setObjectName("problem")
        self.problem.hide()
        column.addWidget(self.problem)
        foot = QHBoxLayout()
        self.apply = QPushButton("Apply")
        self.apply.setObjectName("main")
        self.apply.setDefault(True)
        self.apply.clicked.connect(self.accept_value)
        foot.addWidget(self.apply)
        if not is_new:
            remove = QPushButton("Take this condition out")
            remove.clicked.connect(self.take_out)
            foot.addWidget(remove)
        foot.addStretch(1)
        column.addLayout(foot)

    def chosen_relation(self) -> Relation:
        """The relation chosen."""
        relation = self.relation.currentData()
        return Relation(relation)

    def uses_options(self) -> bool:
        """Whether the value is chosen from a list rather than written."""
        kind = self.field.kind
        if kind.has_options or kind.fixed_texts:
            return True
        return (kind.is_people or kind.is_linked) and self.chosen_relation() is not Relation.CONTAINS

    def offer(self, values: list[str]) -> None:
        """Offers values that the field has in some entries; what stands there stays."""
        text = self.options.currentText()
        self.options.addItems([value for value in values if self.options.findText(value) < 0])
        self.options.setCurrentText(text)

    def set_value(self, text: str) -> None:
        """Puts a value in."""
        self.line.setText(text)
        if text:
            self.options.setCurrentText(text)

    def value(self) -> str:
        """The value as text."""
        return (self.options.currentText() if self.uses_options() else self.line.text()).strip()

    def accept_value(self) -> None:
        """Takes the condition, if its value can be one."""
        relation = self.chosen_relation()
        text = self.value() if relation.wants_value else ""
        try:
            if relation.wants_value:
                if not text:
                    raise UserError("no-value", "A value is missing.", "Or ask whether the field is empty.")
                check_value(self.field, relation, text)
        except UserError as error:
            self.problem.setText(str(error))
            self.problem.show()
            self.adjustSize()
            return
        self.condition = Condition(self.field, relation, text)
        self.accept()

    def take_out(self) -> None:
        """Answers that the condition is to go."""
        self.condition = None
        self.accept()

    def _on_relation(self) -> None:
        relation = self.chosen_relation()
        self.options.setVisible(relation.wants_value and self.uses_options())
        self.line.setVisible(relation.wants_value and not self.uses_options())
        self.unit.setVisible(relation is Relation.LAST_DAYS)
        self.line.setPlaceholderText("14" if relation is Relation.LAST_DAYS else HINTS.get(self.field.kind.name, ""))
        self.adjustSize()
