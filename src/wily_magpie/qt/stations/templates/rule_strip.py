"""The strip above the bench in which the rule of the chosen row is written."""

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QCompleter, QHBoxLayout, QLineEdit, QStackedWidget, QVBoxLayout, QWidget

from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import UserError
from wily_magpie.core.templates.apart import Mistake
from wily_magpie.core.templates.rule_context import KNOWN_NAMES
from wily_magpie.core.templates.rules import PICTURE_WORDS, SOURCES, Rule
from wily_magpie.qt.editors.completing import dressed
from wily_magpie.qt.stations.templates.expression_line import ExpressionLine
from wily_magpie.qt.style.parts import PlainLabel, label

LEFT_ALONE = "left alone"
HINTS = {
    "finding": "names of what pages say, the first that there is counts: published, modified",
    "fixed": "the value that every page gets",
    "question": "what stands there until you say it; may be blank",
    "passages": "kinds of mark: evidence, quotation; blank: all",
    "comments": "kinds of mark: evidence, quotation; blank: all",
}
PARTED = ("finding", "passages", "comments")
"""Sources whose words are parted by commas."""


class RuleStrip(QWidget):
    """Shows and changes one rule.

    Signals:
        changed: the field, and its rule as it stands (None: left alone), at every keystroke that can be read.
        finished: the person is done with it.

    Args:
        check: tells the third argument, later, what is wrong with an expression (the first) of a field (the second).
    """

    changed = pyqtSignal(object, object)
    finished = pyqtSignal()

    def __init__(
        self, check: Callable[[str, str, Callable[[UserError | None], None]], None], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.check = check
        self.field: Field | None = None
        self.rule: Rule | None = None
        self.checking = 0
        """How many expressions are being looked at; the person is not done with them before."""
        self.asked = 0
        self.answered: dict[str, int] = {}
        """The latest expression of each field that was looked at."""
        self.is_left = False
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        row = QHBoxLayout()
        row.setSpacing(8)
        self.name = PlainLabel()
        self.name.setFixedWidth(96)
        self.source = QComboBox()
        self.source.setAccessibleName("Where the value comes from")
        self.source.addItem(LEFT_ALONE, "")
        for one in SOURCES.values():
            self.source.addItem(one.label, one.name)
        self.source.setFixedWidth(138)
        self.stack = QStackedWidget()
        self.nothing = label("Nothing is written into it.")
        self.words = QLineEdit()
        self.words.setAccessibleName("The rule's words")
        self.expression = ExpressionLine("Expression")
        self.picture = QComboBox()
        self.picture.setAccessibleName("Which picture")
        for key, words in PICTURE_WORDS.items():
            self.picture.addItem(words, key)
        self.picture.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.picture.setMinimumContentsLength(8)
        for widget in (self.nothing, self.words, self.expression, self.picture):
            self.stack.addWidget(widget)
        row.addWidget(self.name, 0, Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.source, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.stack, 1)
        column.addLayout(row)
        self.told = label("", "problem", wraps=True)
        self.told.setContentsMargins(250, 0, 0, 0)
        column.addWidget(self.told)
        self.stack.setFixedHeight(self.expression.height())
        self.source.activated.connect(self._on_source)
        self.words.textEdited.connect(lambda _text: self.take())
        self.words.editingFinished.connect(self.finish)
        self.expression.typed.connect(lambda _text: self.take())
        self.expression.finished.connect(self.finish)
        self.picture.activated.connect(self._on_picture)

    def show_rule(self, name: str, field: Field | None, rule: Rule | None) -> None:
        """Shows the rule of a row; what is being typed stays as it is where it says the same."""
        is_same = self.field is not None and field is not None and self.field.key == field.key and self.rule == rule
        self.field, self.rule = field, rule
        self.name.setText(name)
        self.setEnabled(field is not None)
        self.tell("")
        if is_same and (self.words.hasFocus() or self.expression.hasFocus()):
            return
        self.source.setCurrentIndex(self.source.findData(rule.source if rule else ""))
        self.show_words(rule)

    def show_words(self, rule: Rule | None) -> None:
        """Shows what belongs to the source."""
        source = rule.source if rule is not None else ""
        widget = {"": self.nothing, "expression": self.expression, "picture": self.picture}.get(source, self.words)
        self.stack.setCurrentWidget(widget)
        text = ", ".join(rule.words) if rule is not None else ""
        if widget is self.expression:
            self.expression.set_text(text)
        elif widget is self.picture:
            self.picture.setCurrentIndex(max(0, self.picture.findData(text or "lead")))
        elif widget is self.words:
            self.words.setText(text)
            self.words.setPlaceholderText(HINTS[source])
            self.words.setCompleter(self.completer_for(source))
        self.stack.setFixedHeight(self.expression.height() if widget is self.expression else 32)

    def completer_for(self, source: str) -> QCompleter | None:
        """Names that may follow."""
        options = [one.name for one in self.field.options] if self.field is not None else []
        names = list(KNOWN_NAMES) if source == "finding" else options if source in ("fixed", "question") else []
        completer = QCompleter(names, self.words)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        return dressed(completer) if names else None

    def written(self) -> Rule | None:
        """The rule as it stands."""
        source = str(self.source.currentData() or "")
        if not source:
            return None
        if source == "expression":
            return Rule(source, (self.expression.toPlainText().strip(),))
        if source == "picture":
            return Rule(source, (str(self.picture.currentData()),))
        text = self.words.text().strip()
        if source in PARTED:
            return Rule(source, tuple(word for part in text.split(",") if (word := part.strip())))
        return Rule(source, (text,) if text else ())

    def tell(self, text: str) -> None:
        """Says what is wrong; nothing where there is none."""
        self.told.setText(text)
        self.told.setVisible(bool(text))

    def take(self) -> None:
        """Tells the rule, where it can be read."""
        rule = self.written()
        self.tell("")
        self.expression.mark(0, 0)
        self.stack.setFixedHeight(self.expression.height() if self.stack.currentWidget() is self.expression else 32)
        field = self.field
        if rule is None or rule.source != "expression":
            self.rule = rule
            self.changed.emit(field, rule)
            return
        self.checking += 1
        self.asked += 1
        number = self.asked
        self.check(rule.text, self.name.text(), lambda error: self._on_checked(number, field, rule, error))

    def _on_checked(self, number: int, field: Field | None, rule: Rule, error: UserError | None) -> None:
        self.checking -= 1
        key = field.key if field is not None else ""
        is_late = number < self.answered.get(key, 0)  # what was typed after it in the same field was answered before it
        self.answered[key] = max(self.answered.get(key, 0), number)
        if error is None and not is_late:
            self.rule = rule if field is self.field else self.rule
            self.changed.emit(field, rule)
        elif field is self.field and rule == self.written():
            self.tell(str(error))
            self.expression.mark(*((error.start, error.stop) if isinstance(error, Mistake) else (0, 0)))
        if self.is_left and not self.checking:
            self.finish()

    def finish(self) -> None:
        """The person is done with it, once all is looked at."""
        self.is_left = bool(self.checking)
        if not self.checking:
            self.finished.emit()

    @property
    def is_faulty(self) -> bool:
        """Whether what stands there cannot be read."""
        return bool(self.told.text())

    def _on_source(self, _index: int) -> None:
        source = str(self.source.currentData() or "")
        before = self.rule
        usual = {"finding": ("title",), "expression": ("page.title",), "picture": ("lead",)}
        words: tuple[str, ...] = usual.get(source, ())
        if before is not None and source == "expression" and before.source == "finding":
            words = (
                " or ".join(f"page.{name}" if name in KNOWN_NAMES else f'found["{name}"]' for name in before.words),
            )
        elif before is not None and source == "finding" and self.field is not None:
            words = (self.field.key,) if self.field.key in KNOWN_NAMES else words
        rule = Rule(source, words) if source else None
        self.show_words(rule)
        self.take()
        self.finish()
        widget = self.stack.currentWidget()
        if widget is not None and widget is not self.nothing:
            widget.setFocus()

    def _on_picture(self, _index: int) -> None:
        self.take()
        self.finish()
