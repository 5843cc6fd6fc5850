"""The sentence above a view: its filter, sorting, grouping and layout in plain words, every bold piece a button.

Brackets stand on lines of their own below, indented, and begin with either … or …, or with both … and ….
"""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QApplication, QLineEdit, QMenu, QPushButton, QVBoxLayout, QWidget

from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.layout import LayoutKind
from wily_magpie.core.errors import BadQuery, MagpieError
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.query import changing, cql
from wily_magpie.core.query.changing import Path
from wily_magpie.core.query.nodes import And, Condition, Node, Not, Or, Question, Words
from wily_magpie.core.query.sentence import wording
from wily_magpie.qt.actions import add_choice
from wily_magpie.qt.editors.field_editor import NamesFor
from wily_magpie.qt.stations.sources.chooser import ConditionChooser, WordsChooser
from wily_magpie.qt.stations.sources.sentence_order import OrderWords
from wily_magpie.qt.style.flow import FlowLayout, clear
from wily_magpie.qt.style.fonts import font_family
from wily_magpie.qt.style.parts import PlainLabel, WrappedLabel, plain_tip
from wily_magpie.qt.style.tokens import MONO_FONT

MOST_VALUES, INDENT_PX, MOST_BACK = 300, 22, 50
UNDO = QKeySequence("Ctrl+Z")
LAYOUT_WORDS = {
    LayoutKind.TABLE: "as a table",
    LayoutKind.CARDS: "as cards",
    LayoutKind.LANES: "in lanes",
    LayoutKind.LIST: "as a list",
    LayoutKind.TIMELINE: "on a time line",
}


class Line(QWidget):
    """One line of the sentence, which flows onto further ones where it is long."""

    def __init__(self, indent_px: int = 0) -> None:
        super().__init__()
        self.flow = FlowLayout(self)
        self.setContentsMargins(indent_px, 0, 0, 0)


class Sentence(QWidget):
    """Shows a question over a place and lets it be changed.

    Args:
        values_for: asks which values a field has, for choosing.
        is_of_view: whether it says how its answer is looked at, too.

    Signals:
        changed: the question is another one now.
        layout_chosen: it is to be looked at in another way.
    """

    changed = pyqtSignal(object)
    layout_chosen = pyqtSignal(object)

    def __init__(
        self,
        values_for: NamesFor = lambda _field, take: take([]),
        parent: QWidget | None = None,
        *,
        is_of_view: bool = True,
    ) -> None:
        super().__init__(parent)
        self.is_of_view = is_of_view
        self.values_for = values_for
        self.place: PlaceInfo | None = None
        self.question = Question()
        self.kind = LayoutKind.TABLE
        self.before: list[Question] = []
        """What was asked before, for Ctrl+Z here."""
        self.chooser: ConditionChooser | WordsChooser | None = None
        self.order = OrderWords(self, self)
        column = QVBoxLayout(self)
        column.setContentsMargins(*((14, 10, 14, 8) if is_of_view else (0, 6, 0, 4)))
        column.setSpacing(4)
        self.words = QWidget()
        self.lines = QVBoxLayout(self.words)
        self.lines.setContentsMargins(0, 0, 0, 0)
        self.lines.setSpacing(4)
        column.addWidget(self.words)
        self.text = QLineEdit()
        self.text.setAccessibleName("The question as text, in CQL")
        self.text.setPlaceholderText('status = "to read" and published > 1990 sortBy captured/descending')
        self.text.returnPressed.connect(self._on_text)
        self.text.hide()
        self.problem = WrappedLabel()
        self.problem.setObjectName("problem")
        self.problem.setTextFormat(Qt.TextFormat.PlainText)
        self.problem.hide()
        column.addWidget(self.text)
        column.addWidget(self.problem)

    # what is shown

    def show_question(self, place: PlaceInfo, question: Question, kind: LayoutKind = LayoutKind.TABLE) -> None:
        """Shows a question; what is shown already, and may be being changed, is left alone."""
        there = self.place
        is_same_place = there is not None and there.key == place.key
        is_shown = there is not None and (there.key, there.name) == (place.key, place.name)
        is_shown = is_shown and (self.question, self.kind) == (question, kind) and self.lines.count() > 0
        if not is_same_place:
            self.before = []
        self.place, self.question, self.kind = place, question, kind
        if not is_shown:
            self.lay()

    def lay(self) -> None:
        """Sets all words anew."""
        focused = QApplication.focusWidget()
        had_focus = focused is not None and self.words.isAncestorOf(focused)
        clear(self.lines)
        place, question = self.place, self.question
        if place is None:
            return
        line = self.line = self.add_line()
        self.add_words(place.name, strong=True)
        node = question.filter
        if node is not None:
            self.add_words("where")
            self.add_part(node, (), 0)
        self.line = line
        if node is None:
            self.adder = self.add_button("add", "+ where", lambda _b: self.ask_new(), "Add a condition (Ctrl+Shift+A)")
        elif not isinstance(node, And | Or):
            self.add_joints((), And)
        self.order.add()
        if self.is_of_view:
            self.add_button("verb", LAYOUT_WORDS[self.kind], self.ask_layout, "Look at it in another way")
        self.text.setText(cql.write(question))
        self.problem.hide()
        self.words.updateGeometry()
        self.updateGeometry()
        if had_focus:
            self.take_focus()

    def take_focus(self) -> None:
        """Puts the keyboard on the last condition, or on what adds one."""
        pieces = [one for one in self.words.findChildren(QPushButton) if one.objectName() == "piece"]
        target = pieces[-1] if pieces else self.adder
        target.setFocus()

    def add_line(self, indent_px: int = 0) -> Line:
        """A further line."""
        line = Line(indent_px)
        self.lines.addWidget(line)
        line.show()
        return line

    def add_part(self, node: Node, path: Path, depth: int) -> None:
        """The words of a part: what is simple in the line at hand, brackets on lines of their own below."""
        inner = changing.bare(node)
        if isinstance(node, Not):
            self.add_button("verb", "not", lambda _b: self.change(changing.negate, path), "Turn it round")
        if not isinstance(inner, And | Or):
            self.add_simple(inner, path)
            return
        joint = "and" if isinstance(inner, And) else "or"
        if depth or joint == "or" or isinstance(node, Not):
            self.add_words("both" if joint == "and" else "either")
        numbered = list(enumerate(inner.parts))
        simple = [one for one in numbered if not isinstance(changing.bare(one[1]), And | Or)]
        groups = [one for one in numbered if isinstance(changing.bare(one[1]), And | Or)]
        for place, (number, part) in enumerate(simple):
            if place:
                self.add_joint(joint, (*path, number))
            self.add_part(part, (*path, number), depth + 1)
        self.add_joints(path, type(inner))
        for number, part in groups:
            self.line = self.add_line(INDENT_PX * (depth + 1))
            if simple or number != groups[0][0]:
                self.add_joint(joint, (*path, number))
            self.add_part(part, (*path, number), depth + 1)

    def add_joint(self, word: str, path: Path) -> None:
        """The word between two parts."""
        self.add_button("joint", word, lambda button: self.ask_joint(path, button), "And, or, not, brackets")

    def add_joints(self, path: Path, joint: type[And] | type[Or]) -> None:
        """What adds a further part beside those at a path."""
        tip = "Add a condition (Ctrl+Shift+A)" if not path else "Add a condition to these"
        first, second = (And, Or) if joint is And else (Or, And)
        for one in (first, second):
            word = "+ and" if one is And else "+ or"
            button = self.add_button("add", word, lambda b, one=one: self.ask_field(b, path, one), tip)  # type: ignore[misc]
            if not path and one is first:
                self.adder, self.adding = button, one

    def add_simple(self, node: Node, path: Path) -> None:
        """The words of one condition, and the cross that takes it out."""
        said = wording(node)

        def change(button: QPushButton) -> None:
            self.ask(node, path, button)

        for name, text in (("piece", said.field), ("verb", said.verb), ("piece", said.value)):
            if text:
                button = self.add_button(name, text, change, "Change this condition; Del takes it out")
                button.setProperty("path", list(path))
                button.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
                button.customContextMenuRequested.connect(lambda _at, b=button: self.ask_joint(path, b))
        cross = self.add_button("cross", "×", lambda _b: self.drop(path), "Take this condition out")
        cross.setAccessibleName(f"Take out: {said.field} {said.verb} {said.value}".strip())
        cross.setFocusPolicy(Qt.FocusPolicy.ClickFocus)

    def add_words(self, text: str, *, strong: bool = False) -> None:
        """Words that nobody can press."""
        label = PlainLabel(text)
        label.setContentsMargins(3, 2, 3, 2)
        if strong:
            font = label.font()
            font.setBold(True)
            label.setFont(font)
        self.line.flow.addWidget(label)
        label.show()

    def add_button(self, name: str, text: str, act: Callable[[QPushButton], object], tip: str = "") -> QPushButton:
        """A word that can be pressed."""
        button = QPushButton(text.replace("&", "&&"))
        button.setObjectName(name)
        button.setAutoDefault(False)
        button.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        button.setToolTip(plain_tip(tip))
        button.clicked.connect(lambda: act(button))
        button.installEventFilter(self)
        self.line.flow.addWidget(button)
        button.show()
        return button

    # what is changed

    def fields(self) -> tuple[Field, ...]:
        """Of the place."""
        return self.place.fields if self.place else ()

    def ask_new(self) -> None:
        """Asks for the field of a new condition, then for the condition."""
        if self.place is not None:
            self.ask_field(self.adder, (), self.adding if self.question.filter is not None else And)

    def ask_field(self, button: QPushButton, path: Path, joint: type[And] | type[Or]) -> None:
        """Asks what a new condition is about."""
        menu = QMenu(self)
        take = lambda node: self.tell_filter(changing.add(self.question.filter, path, node, joint))  # noqa: E731
        add_choice(menu, "Has the words …", lambda: self.open(WordsChooser(None, self), button, take))
        menu.addSeparator()
        inner: dict[str, QMenu | None] = {}
        for field in self.place.askable if self.place is not None else ():
            through = field.through
            if through is not None and through.key not in inner:
                inner[through.key] = menu.addMenu(f"{through.label}’s")
            target = inner[through.key] if through is not None else menu
            label = field.label if through is None else field.label.partition("’s ")[2].capitalize()
            add_choice(target or menu, label, partial(self.open_condition, field, None, button, take))
        menu.popup(button.mapToGlobal(QPoint(0, button.height())))

    def ask(self, node: Node, path: Path, button: QWidget) -> None:
        """Opens the chooser of a condition under a button."""
        is_negated = self.question.filter is not None and isinstance(changing.part_at(self.question.filter, path), Not)

        def take(new: Node | None) -> None:
            self.tell_filter(changing.put(self.question.filter, path, Not(new) if new and is_negated else new))

        if isinstance(node, Words):
            self.open(WordsChooser(node, self), button, take)
        elif isinstance(node, Condition):
            self.open_condition(node.field, node, button, take)

    def open_condition(
        self, field: Field, condition: Condition | None, button: QWidget, take: Callable[[Node], object]
    ) -> None:
        """Opens the chooser of a condition over a field."""
        chooser = ConditionChooser(field, condition, self, self.fields())
        self.open(chooser, button, take)
        if field.kind.is_many or field.kind.is_completed:
            self.values_for(field, lambda values: chooser.offer(values[:MOST_VALUES]))

    def open(self, chooser: "ConditionChooser | WordsChooser", button: QWidget, take: Callable[[Node], object]) -> None:
        """Opens a chooser under a button; what it answers is taken."""
        self.chooser = chooser
        chooser.move(button.mapToGlobal(QPoint(0, button.height() + 2)))
        chooser.accepted.connect(lambda: take(chooser.condition) if chooser.condition or not chooser.is_new else None)  # type: ignore[arg-type]
        chooser.open()

    def ask_joint(self, path: Path, button: QPushButton) -> None:
        """What can be done with a part: turned round, joined otherwise, put into brackets, taken out."""
        node, outside = self.question.filter, path[:-1]
        if node is None:
            return
        menu = QMenu(self)
        is_negated = isinstance(changing.part_at(node, path), Not)
        add_choice(menu, "Without “not”" if is_negated else "Not this", lambda: self.change(changing.negate, path))
        parent = changing.bare(changing.part_at(node, outside)) if path else None
        if isinstance(parent, And | Or):
            other = "or" if isinstance(parent, And) else "and"
            add_choice(menu, f"Join these by “{other}”", lambda: self.change(changing.join_otherwise, outside))
            if path[-1] and len(parent.parts) > 2:
                text = f"This and the one before, joined by “{other}”"
                add_choice(menu, text, lambda: self.change(changing.into_brackets, path))
        menu.addSeparator()
        add_choice(menu, "Take it out", lambda: self.drop(path))
        menu.popup(button.mapToGlobal(QPoint(0, button.height())))

    def change(self, how: Callable[[Node, Path], Node], path: Path) -> None:
        """Changes the filter at a path."""
        if self.question.filter is not None:
            self.tell_filter(how(self.question.filter, path))

    def drop(self, path: Path) -> None:
        """Takes a part out."""
        self.tell_filter(changing.put(self.question.filter, path, None))

    def ask_layout(self, button: QPushButton) -> None:
        """Asks how it is to be looked at."""
        menu = QMenu(self)
        for kind, words in LAYOUT_WORDS.items():
            choice = menu.addAction(words[0].upper() + words[1:])
            if choice is not None:
                choice.setCheckable(True)
                choice.setChecked(kind is self.kind)
                choice.triggered.connect(partial(self.layout_chosen.emit, kind))
        menu.popup(button.mapToGlobal(QPoint(0, button.height())))

    def tell_filter(self, node: Node | None) -> None:
        """Shows another filter and says so."""
        self.tell(replace(self.question, filter=node))

    def tell(self, question: Question) -> None:
        """Shows another question and says so."""
        if self.place is not None and question != self.question:
            self.before = [*self.before[-MOST_BACK:], self.question]
            self.show_question(self.place, question, self.kind)
            self.changed.emit(question)

    def go_back(self) -> None:
        """Takes back what was changed last in the sentence."""
        if self.place is not None and self.before:
            question = self.before.pop()
            self.show_question(self.place, question, self.kind)
            self.changed.emit(question)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Del takes a condition out; Ctrl+Z takes back what was changed here, as long as there is anything."""
        if isinstance(event, QKeyEvent) and isinstance(watched, QPushButton):
            is_undo = QKeySequence(event.keyCombination()) == UNDO and bool(self.before)
            path = watched.property("path")
            is_drop = event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and path is not None
            if event.type() == QEvent.Type.ShortcutOverride and (is_undo or is_drop):
                event.accept()
                return True
            if event.type() == QEvent.Type.KeyPress and (is_undo or is_drop):
                if is_undo:
                    self.go_back()
                else:
                    self.drop(tuple(path))
                return True
        return super().eventFilter(watched, event)

    def toggle_text(self) -> None:
        """Shows the question as text too, or hides it."""
        is_shown = not self.text.isVisible()
        self.text.setVisible(is_shown)
        self.problem.hide()
        if is_shown:
            self.text.setStyleSheet(f'font-family: "{font_family(MONO_FONT)}";')
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
        self.problem.hide()
        self.tell(question)
