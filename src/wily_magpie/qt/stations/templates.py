"""The Templates station: what templates there are, what each takes, and where every value comes from."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QListWidget,
    QSplitter,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.pages.address import from_typed
from wily_magpie.core.templates.slip import Slip
from wily_magpie.core.templates.template import Template
from wily_magpie.qt.desk import Desk
from wily_magpie.qt.style.tokens import MONO_FONT


class TemplatesStation(QWidget):
    """Shows templates, and tries one on a page."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.templates: list[Template] = []
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        splitter = QSplitter(Qt.Orientation.Horizontal)
        splitter.setHandleWidth(1)
        self.list = QListWidget()
        self.list.setAccessibleName("Templates")
        self.list.setMinimumWidth(180)
        self.list.currentRowChanged.connect(self.show_template)
        splitter.addWidget(self.list)
        splitter.addWidget(self.make_right())
        splitter.setStretchFactor(1, 1)
        splitter.setSizes([220, 1060])
        layout.addWidget(splitter)
        desk.bridge.places_changed.connect(self.fill)

    def make_right(self) -> QWidget:
        right = QWidget()
        column = QVBoxLayout(right)
        column.setContentsMargins(24, 16, 24, 16)
        column.setSpacing(8)
        self.heading = QLabel()
        self.heading.setObjectName("heading")
        self.about = QLabel()
        self.about.setObjectName("slate")
        self.about.setWordWrap(True)
        column.addWidget(self.heading)
        column.addWidget(self.about)
        row = QHBoxLayout()
        label = QLabel("&Try it on")
        label.setObjectName("slate")
        self.address = QLineEdit()
        self.address.setPlaceholderText("the address of a page; Enter fills the third column")
        self.address.returnPressed.connect(self.try_address)
        label.setBuddy(self.address)
        row.addWidget(label)
        row.addWidget(self.address, 1)
        column.addLayout(row)
        self.verdict = QLabel()
        self.verdict.setWordWrap(True)
        self.verdict.setObjectName("slate")
        column.addWidget(self.verdict)
        self.table = QTableWidget(0, 3)
        self.table.setAccessibleName("Fields and where their values come from")
        self.table.setHorizontalHeaderLabels(["Field", "Expression", "What it gives"])
        self.table.setShowGrid(False)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        header, rows = self.table.horizontalHeader(), self.table.verticalHeader()
        if header is not None and rows is not None:
            rows.hide()
            header.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
            header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.table.setColumnWidth(0, 140)
        self.table.setColumnWidth(1, 320)
        column.addWidget(self.table, 1)
        return right

    def fill(self) -> None:
        """Lists the templates in the order in which they are tried, if anybody looks."""
        if not self.isVisible():
            return
        row = max(0, self.list.currentRow())
        self.templates = self.desk.session.templates()
        self.list.clear()
        self.list.addItems([template.name for template in self.templates])
        self.list.setCurrentRow(min(row, len(self.templates) - 1))

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.fill()

    def chosen(self) -> Template | None:
        """The chosen template."""
        row = self.list.currentRow()
        return self.templates[row] if 0 <= row < len(self.templates) else None

    def show_template(self) -> None:
        """Shows the chosen template."""
        template = self.chosen()
        if template is None:
            return
        self.heading.setText(template.name)
        rules = "; or ".join(map(str, template.match))
        self.about.setText(f"Writes to {template.writes}. A page is taken when {rules}.")
        rows = [("Title", template.title), *self.labelled(template), ("Text", template.body)]
        self.table.setRowCount(len(rows))
        for number, (label, expression) in enumerate(rows):
            self.table.setItem(number, 0, QTableWidgetItem(label))
            item = QTableWidgetItem(expression)
            font = item.font()
            font.setFamily(MONO_FONT)
            font.setPointSizeF(9)
            item.setFont(font)
            self.table.setItem(number, 1, item)
            self.table.setItem(number, 2, QTableWidgetItem(""))
        self.verdict.setText("")

    def labelled(self, template: Template) -> list[tuple[str, str]]:
        """(label, expression) of the template's fields."""
        try:
            labels = {field.key: field.label for field in self.desk.session.place(template.writes).fields}
        except MagpieError:
            labels = {}
        return [(labels.get(key, key), expression) for key, expression in template.fields.items()]

    def try_address(self) -> None:
        """Fills the third column from a page."""
        template, session = self.chosen(), self.desk.session
        if template is None:
            return
        self.verdict.setText("Fetching the page …")

        def work() -> tuple[Slip, str | None, str]:
            reading = session.capturing.read(session.fetcher.page(from_typed(self.address.text())))
            first = next((one.name for one in session.templates() if one.reason(reading)), "")
            return session.capturing.trial(reading, template.name), template.reason(reading), first

        self.desk.bridge.ask(
            work, lambda found: self.show_trial(template, *found), lambda e: self.verdict.setText(str(e))
        )

    def show_trial(self, template: Template, slip: Slip, reason: str | None, first: str) -> None:
        """Shows what each field would get."""
        if template != self.chosen():
            return
        if reason is None:
            said = f"This page would not be taken by “{template.name}”, but by “{first}”."
        elif first != template.name:
            said = f"It would take this page ({reason}), but “{first}” comes before it."
        else:
            said = f"This page would be taken, since {reason}."
        self.verdict.setText(said)
        given = {line.field.label: line.problem or line.text for line in slip.lines}
        given["Text"] = f"{len(slip.body.split()):,} words"
        for row in range(self.table.rowCount()):
            label = self.table.item(row, 0)
            if label is not None:
                self.table.setItem(row, 2, QTableWidgetItem(given.get(label.text(), "")))
