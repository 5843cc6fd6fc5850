"""What a living list asks for: as a sentence, like that of the Sources station, or as the lines of CQL that its comment says."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFormLayout, QLineEdit, QVBoxLayout, QWidget

from wily_magpie.core.entries.living_list import ListForm
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.queries.list_forms import said_by
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.sentence import Sentence
from wily_magpie.qt.style.parts import label, text_button


class ListQuestion(QWidget):
    """Of one list; the lines say what holds, the sentence is read from them and writes into them.

    Signals:
        changed: it asks for something else.
    """

    changed = pyqtSignal()

    def __init__(self, desk: StationContext, form: ListForm) -> None:
        super().__init__()
        self.desk = desk
        self.place: PlaceInfo | None = None
        self.is_text = False
        """Whether the person wants the lines."""
        self.where, self.sort, self.group = QLineEdit(form.where), QLineEdit(form.sort), QLineEdit(form.group)
        self.where.setPlaceholderText("all of it")
        self.group.setPlaceholderText("no groups")
        self.where.setToolTip("CQL, as Ctrl+E shows it")
        self.sentence = Sentence(lambda field, take: desk.ask_names(self.key, field, take), is_of_view=False)
        self.lines = QWidget()
        rows = QFormLayout(self.lines)
        rows.setContentsMargins(0, 0, 0, 0)
        for name, line in (("Where", self.where), ("Sorted by", self.sort), ("Grouped by", self.group)):
            line.setAccessibleName(name)
            line.textEdited.connect(self._on_typed)
            line.textChanged.connect(self._on_lines)
            rows.addRow(label(name), line)
        self.turn = text_button("As text", "", self.toggle)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.sentence)
        column.addWidget(self.lines)
        column.addWidget(self.turn)
        self.sentence.changed.connect(self._on_sentence)

    @property
    def key(self) -> str:
        """Of the place; "" where it is none alone."""
        return self.place.key if self.place is not None else ""

    def named_lines(self) -> dict[str, QLineEdit]:
        """The lines by what a list's comment calls them."""
        return {"where": self.where, "sort": self.sort, "group": self.group}

    def show_of(self, place: PlaceInfo | None) -> None:
        """Asks of another place; None where it is not one place alone, which a sentence cannot be about."""
        self.place = place
        self.refresh()

    def refresh(self) -> None:
        """Shows the sentence of the lines, where they can be said as one."""
        question = self.question()
        if question is not None and self.place is not None:
            self.sentence.show_question(self.place, question)
        is_sentence = question is not None and not self.is_text
        self.sentence.setVisible(is_sentence)
        self.lines.setVisible(not is_sentence)
        self.turn.setVisible(question is not None)
        self.turn.setText("As text" if is_sentence else "As a sentence")

    def question(self) -> Question | None:
        """What the lines ask; None where they cannot be read, or not of one place."""
        if self.place is None:
            return None
        form = ListForm("", self.where.text(), self.sort.text(), self.group.text())
        try:
            return cql.parse(form.question, self.place.askable)
        except MagpieError:  # said where the rows of the list would be
            return None

    def toggle(self) -> None:
        """Shows the other form."""
        self.is_text = not self.is_text
        self.refresh()

    def _on_typed(self, _text: str) -> None:
        self.is_text = True  # it does not turn into a sentence under the hands

    def _on_lines(self, _text: str) -> None:
        self.refresh()
        self.changed.emit()

    def _on_sentence(self, question: Question) -> None:
        for line, text in zip((self.where, self.sort, self.group), said_by(question), strict=True):
            line.blockSignals(True)
            line.setText(text)
            line.blockSignals(False)
        self.changed.emit()
