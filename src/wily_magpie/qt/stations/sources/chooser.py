"""The small choosers of one condition: the relation and the value that stands beside it; words that are looked for."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Relation
from wily_magpie.core.query.cql import both_ends, check_value
from wily_magpie.core.query.nodes import Condition, Words
from wily_magpie.core.query.periods import SPANS, UNITS, Period, read_period
from wily_magpie.qt.editors.spine import SpineDelegate
from wily_magpie.qt.style.parts import PlainLabel, WrappedLabel, button, in_row

HINTS = {
    "date": "1926, 1926-03, 12 March 1926 …",
    "number": "a number",
    "amount": "20 EUR; without a unit, of any",
    "duration": "48 min",
    "people": "Family, Given",
    "address": "part of an address",
}
MANY_HINT = "several, with ; between them"


class Chooser(QDialog):
    """A small page under a word of the sentence, with a place for a complaint and its buttons."""

    def __init__(self, parent: QWidget, *, is_new: bool) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.is_new = is_new
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(12, 10, 12, 10)
        self.column.setSpacing(8)
        self.row = QHBoxLayout()
        self.row.setSpacing(6)
        self.column.addLayout(self.row)
        self.problem = WrappedLabel()
        self.problem.setObjectName("problem")
        self.problem.hide()
        self.column.addWidget(self.problem)
        self.apply = button("Apply", self.accept_value, is_main=True)
        self.apply.setDefault(True)
        others = () if is_new else (button("Take this condition out", self.take_out),)
        self.column.addLayout(in_row(self.apply, *others))

    def accept_value(self) -> None:
        """Takes what stands there, if it can be a condition."""

    def take_out(self) -> None:
        """Answers that the condition is to go."""

    def complain(self, text: str) -> None:
        """Says why it cannot be one."""
        self.problem.setText(text)
        self.problem.show()
        self.adjustSize()


class WordsChooser(Chooser):
    """Asks for words that are looked for everywhere. `condition` is the answer, None: they are to go."""

    def __init__(self, words: Words | None, parent: QWidget) -> None:
        super().__init__(parent, is_new=words is None)
        self.condition = words
        self.setAccessibleName("Words that an entry has")
        self.row.addWidget(PlainLabel("Has the words"))
        self.line = QLineEdit(words.text if words is not None else "")
        self.line.setAccessibleName("Words")
        self.line.setMinimumWidth(240)
        self.row.addWidget(self.line)
        self.phrase = QCheckBox("one after another")
        self.phrase.setChecked(words is not None and words.is_phrase)
        self.row.addWidget(self.phrase)
        self.line.setFocus()

    def accept_value(self) -> None:
        text = " ".join(self.line.text().split())
        if not text:
            self.complain("Words are missing. In title, fields, text: it does not matter where they stand.")
            return
        self.condition = Words(text, self.phrase.isChecked() and " " in text)
        self.accept()

    def take_out(self) -> None:
        self.condition = None
        self.accept()


class ConditionChooser(Chooser):
    """Asks for one condition over a field. `condition` is the answer, None: the condition is to go.

    Args:
        fields: of the place, among which one of the same kind may be named.
    """

    def __init__(
        self, field: Field, condition: Condition | None, parent: QWidget, fields: Sequence[Field] = ()
    ) -> None:
        super().__init__(parent, is_new=condition is None)
        self.field = field
        self.condition = condition
        self.alike = [one for one in fields if one.kind is field.kind and one.is_stored and one.key != field.key]
        self.setAccessibleName(f"Condition over {field.label}")
        self.row.addWidget(PlainLabel(field.label))
        self.relation = QComboBox()
        self.relation.setAccessibleName("Relation")
        for relation in field.kind.relations:
            if relation is not Relation.SAME or self.alike:
                self.relation.addItem(relation.value, relation)
        self.row.addWidget(self.relation)
        self.make_values()
        self.relation.currentIndexChanged.connect(self._on_relation)
        if condition is not None:
            self.relation.setCurrentIndex(max(0, self.relation.findData(condition.relation)))
        self._on_relation()
        self.set_value(condition.value if condition else "")
        shown = next((one for one in self.editors if one.isVisibleTo(self)), self.relation)
        shown.setFocus()

    def make_values(self) -> None:
        """All that a value may be written in; one is shown at a time."""
        self.options = QComboBox()
        self.options.setEditable(not self.field.kind.has_spine and not self.field.kind.fixed_texts)
        self.options.setMinimumWidth(190)
        self.options.setItemDelegate(SpineDelegate(self.options))
        for option in self.field.options:
            self.options.addItem(option.name, option.colour)
        self.options.addItems(self.field.kind.fixed_texts)
        self.line = QLineEdit()
        self.line.setMinimumWidth(190)
        self.many = QLineEdit()
        self.many.setMinimumWidth(240)
        self.many.setPlaceholderText(MANY_HINT)
        self.adding = QComboBox()
        self.adding.addItem("+ one more")
        self.adding.addItems([option.name for option in self.field.options])
        self.adding.activated.connect(self.add_one)
        self.first, self.last = QLineEdit(), QLineEdit()
        self.until = PlainLabel("and")
        self.count = QSpinBox()
        self.count.setRange(1, 9_999)
        self.count.setValue(14)
        self.unit = QComboBox()
        for unit in reversed(UNITS):
            self.unit.addItem(f"{unit}s", unit)
        self.span = QComboBox()
        for name, words in SPANS.items():
            self.span.addItem(words, name)
        self.other = QComboBox()
        for one in self.alike:
            self.other.addItem(one.label, one.key)
        self.editors = (
            self.options, self.line, self.many, self.adding, self.first, self.until, self.last, self.count, self.unit,
            self.span, self.other,
        )  # fmt: skip
        for widget in self.editors:
            if widget is not self.until:
                widget.setAccessibleName("Value")
            self.row.addWidget(widget)

    def chosen_relation(self) -> Relation:
        """The relation chosen."""
        return Relation(self.relation.currentData())

    def editors_for(self, relation: Relation) -> tuple[QWidget, ...]:
        """What the value of a relation is written in."""
        if not relation.wants_value:
            return ()
        if relation.wants_period:
            return (self.count, self.unit)
        if relation.wants_many:
            return (self.many, self.adding)
        special: dict[Relation, tuple[QWidget, ...]] = {
            Relation.THIS: (self.span,), Relation.SAME: (self.other,),
            Relation.BETWEEN: (self.first, self.until, self.last),
        }  # fmt: skip
        return special.get(relation) or ((self.options,) if self.uses_options(relation) else (self.line,))

    def uses_options(self, relation: Relation) -> bool:
        """Whether the value is chosen from a list rather than written."""
        kind = self.field.kind
        if kind.has_options or kind.fixed_texts:
            return relation not in PARTS
        return (kind.is_people or kind.is_linked) and relation not in PARTS

    def offer(self, values: list[str]) -> None:
        """Offers values that the field has in some entries; what stands there stays."""
        if self.field.kind.has_spine or self.field.kind.fixed_texts:
            return
        text = self.options.currentText()
        self.options.addItems([value for value in values if self.options.findText(value) < 0])
        self.options.setCurrentText(text)
        self.adding.addItems([value for value in values if self.adding.findText(value) < 0])

    def add_one(self, index: int) -> None:
        """Puts one more value into the list."""
        if index:
            there = [one.strip() for one in self.many.text().split(";") if one.strip()]
            self.many.setText("; ".join(dict.fromkeys([*there, self.adding.itemText(index)])))
            self.adding.setCurrentIndex(0)

    def set_value(self, text: str) -> None:
        """Puts a value in, wherever the relation has it."""
        if not text:
            return
        relation = self.chosen_relation()
        period = read_period(text) if relation.wants_period else None
        if period is not None:
            count, unit = period.parts[0]
            self.count.setValue(count)
            self.unit.setCurrentIndex(self.unit.findData(unit))
        elif relation is Relation.BETWEEN:
            first, last = both_ends(text)
            self.first.setText(first)
            self.last.setText(last)
        elif relation in (Relation.THIS, Relation.SAME):
            box = self.span if relation is Relation.THIS else self.other
            box.setCurrentIndex(max(0, box.findData(text)))
        else:
            self.line.setText(text)
            self.many.setText(text)
            self.options.setCurrentText(text)

    def value(self) -> str:
        """The value as text."""
        relation = self.chosen_relation()
        if relation.wants_period:
            return Period(**{f"{self.unit.currentData()}s": self.count.value()}).written
        if relation is Relation.BETWEEN:
            return f"{self.first.text().strip()}/{self.last.text().strip()}".strip("/")
        if relation in (Relation.THIS, Relation.SAME):
            return str((self.span if relation is Relation.THIS else self.other).currentData())
        if relation.wants_many:
            return self.many.text().strip()
        return (self.options.currentText() if self.uses_options(relation) else self.line.text()).strip()

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
            self.complain(str(error))
            return
        self.condition = Condition(self.field, relation, text)
        self.accept()

    def take_out(self) -> None:
        self.condition = None
        self.accept()

    def _on_relation(self) -> None:
        shown = self.editors_for(self.chosen_relation())
        for widget in self.editors:
            widget.setVisible(widget in shown)
        hint = HINTS.get(self.field.kind.name, "")
        for line in (self.line, self.first, self.last):
            line.setPlaceholderText(hint)
        self.adjustSize()


PARTS = (Relation.CONTAINS, Relation.CONTAINS_NOT, Relation.BEGINS)
