"""The bench: one template tried on its sample pages, edited row by row."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import (
    QLineEdit,
    QMenu,
    QPushButton,
    QSplitter,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.capture.run import CaptureRun
from wily_magpie.core.commands.templates import Accept
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.templates.bench import BODY, Cell, Sample
from wily_magpie.core.templates.bench import row as row_of
from wily_magpie.core.templates.propose import Proposal
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.template import Template
from wily_magpie.qt.editors.findings_list import THUMBNAIL_PX
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.pictures import decoded
from wily_magpie.qt.reading import Shown, shown
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.templates.bench_table import BenchTable
from wily_magpie.qt.stations.templates.model import fresh_only, from_finding, rows_of, told_of, with_rule
from wily_magpie.qt.stations.templates.offers_panel import OffersPanel
from wily_magpie.qt.stations.templates.rule_strip import RuleStrip
from wily_magpie.qt.stations.templates.sample_commands import SampleCommands
from wily_magpie.qt.style.flow import in_flow
from wily_magpie.qt.style.parts import label, text_button, timer

TYPING_REST_MS = 40
NO_SAMPLES = "Add a sample page: then each row shows what its field would get from it, and rules can be proposed."


class Bench(QWidget):
    """Shows one template.

    Signals:
        edited: the template as it is to be kept.
        text_asked: the person wants to say what the text is made of, which stands among the settings.
    """

    edited = pyqtSignal(object)
    text_asked = pyqtSignal()

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.asking_rules, self.asking_whole = desk, LastAsked(desk.bridge), LastAsked(desk.bridge)
        self.template: Template | None = None
        self.fields: list[Field | None] = []
        """The rows; None stands for the text."""
        self.samples: list[Sample] = []
        self.cells: dict[int, list[Cell]] = {}
        self.kept: Template | None = None
        self.awaited: set[int] = set()
        """Rows that are being worked out."""
        self.then_accepted: list[tuple[list[tuple[str, int]], bool]] = []
        """What was accepted while its cells were still to come."""
        self.number = 0
        self.faulty_row = -1
        self.sample_commands = SampleCommands(desk, lambda: self.template)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        self.splitter.setHandleWidth(1)
        self.splitter.addWidget(self.make_middle())
        self.panel = OffersPanel(self.fetch_picture)
        self.splitter.addWidget(self.panel)
        self.splitter.setStretchFactor(0, 1)
        self.splitter.setSizes([740, 320])
        layout.addWidget(self.splitter)
        self.panel.source_chosen.connect(self.take_source)
        self.panel.accepted.connect(lambda is_right: self.accept(is_right=is_right))
        self.panel.whole_way.clicked.connect(self.show_whole)
        self.rest = timer(self, self._on_rest)

    def make_middle(self) -> QWidget:
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(16, 8, 12, 10)
        column.setSpacing(8)
        self.strip = RuleStrip(self.check)
        self.strip.changed.connect(self._on_rule)
        self.strip.finished.connect(self.keep)
        column.addWidget(self.strip)
        self.table = BenchTable()
        self.table.pointed.connect(self._on_pointed)
        self.table.edit_asked.connect(self.edit_rule)
        self.table.accept_asked.connect(lambda: self.accept(is_right=True))
        self.table.dropped.connect(self.sample_commands.take_dropped)
        column.addWidget(self.table, 1)
        self.address = QLineEdit()
        self.address.setAccessibleName("Address of a sample page")
        self.address.setPlaceholderText("add a sample page: its address; or drop pages, links and files on the table")
        self.address.returnPressed.connect(self.add_address)
        column.addWidget(self.address)
        self.from_library = text_button("From the library", "archive")
        self.from_library.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.menu = QMenu(self)
        self.menu.aboutToShow.connect(lambda: self.sample_commands.fill_menu(self.menu))
        self.from_library.setMenu(self.menu)
        self.remove = text_button("Remove sample", "x", lambda: self.sample_commands.remove(self.current_sample()))
        self.proposing = QPushButton("Propose rules")
        self.proposing.setToolTip("Fill the rows that have no rule yet from their names, kinds and the samples")
        self.proposing.clicked.connect(self.propose)
        column.addLayout(in_flow(self.from_library, self.remove, self.proposing))
        self.told = label("", "reason", wraps=True)
        self.told.hide()
        column.addWidget(self.told)
        return middle

    # what is shown

    def show_template(self, template: Template, fields: tuple[Field, ...]) -> None:
        """Shows a template; its samples are read off the main thread. What is being typed stays."""
        is_other = self.template is None or self.template.name != template.name
        if is_other or self.template == self.kept:
            self.template = template
        self.kept = template
        self.fields = rows_of(template, fields)
        if is_other:
            self.samples, self.cells, self.then_accepted = [], {}, []
            self.asking_rules.forget()
            self.told.hide()
        self.number += 1
        number = self.number
        self.desk.bridge.ask(
            lambda reader: reader.templates.samples(template.name),
            lambda samples: self._on_samples(samples, number),
        )
        if is_other:
            self.table.show_samples([self.label_of(one) for one in self.fields], ())
            self.show_rules()

    @staticmethod
    def label_of(field: Field | None) -> str:
        """The name of a row."""
        return field.label if field is not None else "Text"

    @staticmethod
    def key_of(field: Field | None) -> str:
        """The key of a row."""
        return field.key if field is not None else BODY

    def _on_samples(self, samples: list[Sample], number: int) -> None:
        if number != self.number:
            return
        self.samples = samples
        self.remove.setEnabled(bool(samples))
        if not samples or self.told.text() == NO_SAMPLES:
            self.told.setText("" if samples else NO_SAMPLES)
            self.told.setVisible(not samples)
        self.table.show_samples([self.label_of(one) for one in self.fields], samples)
        self.show_rules()
        self.work_out(range(len(self.fields)))

    def show_rules(self) -> None:
        """Shows where each row comes from."""
        template = self.template
        if template is None:
            return
        for at, field in enumerate(self.fields):
            if field is None:
                around = " with text of your own" if template.body.before or template.body.after else ""
                self.table.show_rule(at, f"{template.body.part}{around}", "body")
            else:
                rule = template.rule_of(field.key)
                set_words = {"status": template.status, "tags": ", ".join(template.tags)}.get(field.key, "")
                usual = f"set: {set_words}" if set_words else ""
                self.table.show_rule(at, rule.shown() if rule else usual, rule.source if rule else "")
        self._on_pointed(self.table.currentRow(), self.table.currentColumn() - 2)

    def work_out(self, rows: Sequence[int]) -> None:
        """Works rows out off the main thread and shows them."""
        template, samples, fields, number = self.template, self.samples, self.fields, self.number
        if template is None:
            return
        self.awaited = {row for row in self.awaited.union(rows) if row < len(fields)}
        wanted = sorted(self.awaited)  # also those whose answer is for a template that is past

        def done(found: dict[int, list[Cell]]) -> None:
            if number == self.number and template == self.template:
                self.show_cells(found)

        def failed(error: MagpieError) -> None:
            self.awaited, self.then_accepted = set(), []
            self.desk.complain(error)

        self.desk.bridge.work(lambda _run: {at: row_of(template, fields[at], samples) for at in wanted}, done, failed)

    def show_cells(self, found: dict[int, list[Cell]]) -> None:
        """Shows rows that were worked out."""
        self.cells |= found
        for at, cells in found.items():
            self.table.show_cells(at, cells)
        by_sample = [[cells[n] for cells in self.cells.values() if n < len(cells)] for n in range(len(self.samples))]
        self.table.show_counts(self.samples, by_sample)
        self._on_pointed(self.table.currentRow(), self.table.currentColumn() - 2)
        self.awaited -= found.keys()
        if not self.awaited:
            waiting, self.then_accepted = self.then_accepted, []
            for named, is_right in waiting:
                self.accept_cells(named, is_right=is_right)

    def _on_pointed(self, row: int, sample: int) -> None:
        if self.template is None or not 0 <= row < len(self.fields):
            return
        field = self.fields[row]
        if field is None:
            self.strip.show_rule("Text", None, None)
        else:
            self.strip.show_rule(field.label, field, self.template.rule_of(field.key))
        cells = self.cells.get(row, [])
        is_cell = 0 <= sample < len(self.samples) and sample < len(cells)
        self.panel.show_cell(
            self.label_of(field), self.samples[sample] if is_cell else None, cells[sample] if is_cell else None
        )
        if is_cell and self.panel.stack.currentIndex() == 1:
            self.show_whole()

    def current_sample(self) -> Sample | None:
        """The sample of the current column."""
        at = self.table.currentColumn() - 2
        return self.samples[at] if 0 <= at < len(self.samples) else None

    def show_whole(self) -> None:
        """Shows the entry that the current sample would become."""
        sample, template, fields = self.current_sample(), self.template, self.fields
        if sample is None or template is None:
            self.asking_whole.forget()
            return

        def work(reader: Reader) -> Shown:
            return shown(reader.entries.rendered(reader.templates.as_entry(template, sample, fields)))

        def done(text: Shown) -> None:
            if sample is self.current_sample():
                self.panel.show_whole(text)

        self.asking_whole.ask(work, done)

    # rules

    def edit_rule(self) -> None:
        """Puts the cursor into the rule of the current row."""
        row = self.table.currentRow()
        if 0 <= row < len(self.fields) and self.fields[row] is None:
            self.text_asked.emit()
            return
        widget = self.strip.stack.currentWidget()
        if widget is not None and widget is not self.strip.nothing:
            widget.setFocus()
        else:
            self.strip.source.setFocus()

    def check(self, expression: str, of: str, done: Callable[[UserError | None], None]) -> None:
        """Looks at an expression, off the main thread."""
        self.desk.bridge.work(lambda run: run.check(expression, of), done)

    def _on_rule(self, field: Field | None, rule: Rule | None) -> None:
        if self.template is None or field not in self.fields or field is None:
            return
        row = self.fields.index(field)
        self.template = with_rule(self.template, self.key_of(self.fields[row]), rule)
        self.table.show_rule(row, rule.shown() if rule else "", rule.source if rule else "")
        self.faulty_row = row
        self.rest.start(TYPING_REST_MS)

    def _on_rest(self) -> None:
        self.work_out([self.faulty_row])

    def keep(self) -> None:
        """Keeps what was changed."""
        if self.template is not None and self.template != self.kept and not self.strip.is_faulty:
            self.kept = self.template
            self.edited.emit(self.template)

    def set_rules(self, rules: dict[str, Rule]) -> None:
        """Sets several rules as one step."""
        if self.template is None:
            return
        for key, rule in rules.items():
            self.template = with_rule(self.template, key, rule)
        self.show_rules()
        self.work_out(range(len(self.fields)))
        self.keep()

    def take_source(self, name: str, is_fallback: bool) -> None:
        """Makes a finding the source of the current row, or the next one that is looked for."""
        row = self.table.currentRow()
        field = self.fields[row] if 0 <= row < len(self.fields) else None
        if self.template is None or field is None:
            return
        self.set_rules({field.key: from_finding(self.template, field, name, is_fallback=is_fallback)})

    def propose(self) -> None:
        """Fills the rows that have no rule yet."""
        template, samples = self.template, self.samples
        if template is None:
            return
        self.asking_rules.ask(lambda reader: reader.templates.propose(template, samples), self.show_proposals)

    def show_proposals(self, proposals: dict[str, Proposal]) -> None:
        """Takes proposals in and tells how sure they are."""
        template = self.template
        if template is None:
            return
        fresh = fresh_only(template, proposals)
        if fresh:
            self.set_rules({key: one.rule for key, one in fresh.items()})
        self.told.setText(told_of(fresh, {self.key_of(one): self.label_of(one) for one in self.fields}))
        self.told.show()

    # samples

    def add_address(self) -> None:
        """Adds the page at the address that was typed."""
        if self.sample_commands.add_typed(self.address.text()):
            self.address.clear()

    def accept(self, *, is_right: bool) -> None:
        """Says that the chosen cells are right, or that whatever they give is right again; once they are there."""
        chosen = [
            (row, at) for row, at in self.table.chosen_cells() if row < len(self.fields) and at < len(self.samples)
        ]
        named = [(self.key_of(self.fields[row]), self.samples[at].id) for row, at in chosen]
        if self.awaited.intersection(row for row, _ in chosen):
            self.then_accepted.append((named, is_right))
        else:
            self.accept_cells(named, is_right=is_right)

    def accept_cells(self, named: Sequence[tuple[str, int]], *, is_right: bool) -> None:
        """The same of cells that are there, each by its row's key and its sample's number in the library."""
        if self.template is None:
            return
        accepted: list[tuple[int, str, str | None]] = []
        for row, field in enumerate(self.fields):
            key = self.key_of(field)
            for sample, cell in zip(self.samples, self.cells.get(row, []), strict=False):
                if (key, sample.id) in named and (not is_right or not cell.problem):
                    accepted.append((sample.id, key, cell.text if is_right else None))
        if accepted:
            self.desk.bridge.do(Accept(self.template.name, accepted))

    def fetch_picture(self, address: str, done: Callable[[QImage], None]) -> None:
        """Gets a picture of the current sample, to be looked at."""
        sample = self.current_sample()
        page = sample.context.reading.page.address if sample is not None else ""

        def work(run: CaptureRun) -> QImage:
            return decoded(run.look_at_picture(address, page), THUMBNAIL_PX, THUMBNAIL_PX)

        self.desk.bridge.work(work, done, lambda _error: None)
