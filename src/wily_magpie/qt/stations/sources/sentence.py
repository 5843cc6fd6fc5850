"""The sentence above a view: its filter, sorting and grouping in plain words, every bold piece a button."""

from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import QLabel, QLineEdit, QMenu, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import BadQuery, MagpieError
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Condition, Node, Question, SortKey
from wily_magpie.core.query.sentence import sort_words, wording
from wily_magpie.qt.actions import add_choice
from wily_magpie.qt.stations.sources.cells import NamesFor
from wily_magpie.qt.stations.sources.chooser import ConditionChooser
from wily_magpie.qt.style.flow import FlowLayout, clear
from wily_magpie.qt.style.parts import WrappedLabel
from wily_magpie.qt.style.tokens import MONO_FONT

MOST_VALUES = 300


class Sentence(QWidget):
    """Shows a question over a place and lets it be changed.

    Args:
        values_for: asks which values a field has, for choosing.

    Signals:
        changed: the question is another one now.
    """

    changed = pyqtSignal(object)

    def __init__(self, values_for: NamesFor = lambda _field, take: take([]), parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.values_for = values_for
        self.place: PlaceInfo | None = None
        self.question = Question()
        self.chooser: ConditionChooser | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 8)
        column.setSpacing(4)
        self.words = QWidget()
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.words.setSizePolicy(policy)
        self.flow = FlowLayout(self.words)
        column.addWidget(self.words)
        self.text = QLineEdit()
        self.text.setAccessibleName("The question as text, in CQL")
        self.text.setStyleSheet(f'font-family: "{MONO_FONT}";')
        self.text.setPlaceholderText('status = "to read" and published > 1990 sortBy captured/descending')
        self.text.returnPressed.connect(self._on_text)
        self.text.hide()
        self.problem = WrappedLabel()
        self.problem.setObjectName("problem")
        self.problem.setTextFormat(Qt.TextFormat.PlainText)
        self.problem.hide()
        column.addWidget(self.text)
        column.addWidget(self.problem)

    def show_question(self, place: PlaceInfo, question: Question) -> None:
        """Shows a question; what is shown already, and may be being changed, is left alone."""
        there = self.place
        is_shown = there is not None and (there.key, there.name, there.fields) == (place.key, place.name, place.fields)
        is_shown = is_shown and self.question == question and self.flow.count() > 0
        self.place, self.question = place, question
        if is_shown:
            return
        clear(self.flow)
        self.add_words(place.name, strong=True)
        for number, node in enumerate(question.conditions):
            self.add_words("where" if number == 0 else "and")
            self.add_condition(number, node)
        word = "+ and" if question.conditions else "+ where"
        self.adder = self.add_button("add", word, lambda _b: self.ask_new(), "Add a condition (Ctrl+Shift+A)")
        self.add_sort()
        self.add_group()
        self.text.setText(cql.write(question))
        self.problem.hide()
        self.words.updateGeometry()
        self.updateGeometry()

    def add_words(self, text: str, *, strong: bool = False) -> None:
        label = QLabel(text)
        label.setContentsMargins(3, 2, 3, 2)
        if strong:
            font = label.font()
            font.setBold(True)
            label.setFont(font)
        self.flow.addWidget(label)
        label.show()

    def add_button(self, name: str, text: str, act: object, tip: str = "") -> QPushButton:
        button = QPushButton(text.replace("&", "&&"))
        button.setObjectName(name)
        button.setAutoDefault(False)
        button.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        button.setToolTip(tip)
        if callable(act):
            button.clicked.connect(lambda: act(button))
        self.flow.addWidget(button)
        button.show()
        return button

    def add_condition(self, number: int, node: Node) -> None:
        said = wording(node)
        if not isinstance(node, Condition):
            text = " ".join(filter(None, (said.field, said.verb, said.value)))
            self.add_button(
                "piece", f"({text})" if not said.field else text, lambda _b: self.drop(number), "Take this out"
            )
            return

        def change(button: QPushButton) -> None:
            self.ask(node.field, node, number, button)

        self.add_button("piece", said.field, change, "Change this condition")
        self.add_button("verb", said.verb, change, "Change this condition")
        if said.value:
            self.add_button("piece", said.value, change, "Change this condition")

    def add_sort(self) -> None:
        self.add_words("·")
        if self.question.sort:
            direction, label = sort_words(self.question.sort[0])
            self.add_button("verb", direction, lambda _b: self.turn_sort(), "The other way round")
            self.add_button("piece", label, self.ask_sort, "Sort by another field")
            if direction in ("newest", "oldest", "largest", "smallest", "first", "last"):
                self.add_words("first")
        else:
            self.add_button("add", "in the order kept", self.ask_sort, "Sort")

    def add_group(self) -> None:
        group = self.question.group
        if group:
            self.add_words("· grouped by")
            label = group.label.lower() if group.label.istitle() else group.label
            self.add_button("piece", label, self.ask_group, "Group by another field")
        else:
            self.add_button("add", "+ group", self.ask_group, "Group the entries")

    def fields(self) -> tuple[Field, ...]:
        return self.place.fields if self.place else ()

    def menu_of_fields(self, button: QPushButton, fields: list[Field], act: object, first: str = "") -> None:
        """A menu of fields under a button."""
        menu = QMenu(self)
        if first and callable(act):
            add_choice(menu, first, lambda: act(None))
            menu.addSeparator()
        for field in fields:
            if callable(act):
                add_choice(menu, field.label, partial(act, field))
        menu.popup(button.mapToGlobal(QPoint(0, button.height())))

    def ask_new(self) -> None:
        """Asks for the field of a new condition, then for the condition."""
        if self.place is not None:
            adder = self.adder
            self.menu_of_fields(adder, list(self.fields()), lambda field: self.ask(field, None, None, adder))

    def ask(self, field: Field, condition: Condition | None, number: int | None, button: QWidget) -> None:
        """Opens the chooser of a condition under a button."""
        chooser = self.chooser = ConditionChooser(field, condition, self)
        chooser.move(button.mapToGlobal(QPoint(0, button.height() + 2)))
        chooser.accepted.connect(lambda: self.put(number, chooser.condition))
        chooser.open()
        if field.kind.is_many:
            self.values_for(field, lambda values: chooser.offer(values[:MOST_VALUES]))

    def put(self, number: int | None, condition: Condition | None) -> None:
        """Puts a condition in the place of another, at the end, or takes it out."""
        conditions = list(self.question.conditions)
        if number is None:
            conditions += [condition] if condition else []
        elif condition is None:
            del conditions[number]
        else:
            conditions[number] = condition
        self.tell(self.question.with_conditions(tuple(conditions)))

    def drop(self, number: int) -> None:
        """Takes a condition out."""
        self.put(number, None)

    def turn_sort(self) -> None:
        """Sorts the other way round."""
        first, *rest = self.question.sort
        self.tell(replace(self.question, sort=(replace(first, descending=not first.descending), *rest)))

    def ask_sort(self, button: QPushButton) -> None:
        """Asks for the field to sort by."""

        def act(field: Field | None) -> None:
            descending = field is not None and (field.kind.is_dated or field.kind.is_sized)
            self.tell(replace(self.question, sort=(SortKey(field, descending),) if field else ()))

        self.menu_of_fields(button, [f for f in self.fields() if not f.kind.is_long], act, "In the order kept")

    def ask_group(self, button: QPushButton) -> None:
        """Asks for the field to group by."""

        def act(field: Field | None) -> None:
            self.tell(replace(self.question, group=field))

        self.menu_of_fields(button, [f for f in self.fields()[1:] if f.kind.is_grouping], act, "Do not group")

    def tell(self, question: Question) -> None:
        """Shows another question and says so."""
        if self.place is not None:
            self.show_question(self.place, question)
            self.changed.emit(question)

    def toggle_text(self) -> None:
        """Shows the question as text too, or hides it."""
        is_shown = not self.text.isVisible()
        self.text.setVisible(is_shown)
        self.problem.hide()
        if is_shown:
            self.text.setFocus()
            self.text.selectAll()

    def _on_text(self) -> None:
        if self.place is None:
            return
        try:
            question = cql.parse(self.text.text(), self.place.askable)
        except BadQuery as error:
            self.text.setCursorPosition(error.position)
            self.problem.setText(str(error))
            self.problem.show()
            return
        except MagpieError as error:
            self.problem.setText(str(error))
            self.problem.show()
            return
        self.tell(question)
