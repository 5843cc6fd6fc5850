"""A new place: a collection from a starter or from a table in a file, or a folder of Markdown files."""

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QStackedWidget,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.places import NewCollection
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.exchange.importers import preview
from wily_magpie.core.exchange.sheet import Sheet
from wily_magpie.core.exchange.tables import SKIPPED, misfits, take_in
from wily_magpie.core.fields import KINDS
from wily_magpie.core.places.api import MADE_KINDS, PlaceInfo
from wily_magpie.core.places.starters import STARTERS
from wily_magpie.qt.dropped import TABLE_FILES
from wily_magpie.qt.editors.two_lines import TwoLines
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import button, in_row, label
from wily_magpie.qt.style.theme import THEME

SHOWN_ROWS = 60
LEFT_OUT = "left out"
COLUMN_PX = 150


class NewPlacePage(QWidget):
    """Makes places.

    Signals:
        made: the key of the place that was made.
        left: back to the table.
        folder_asked: a folder of Markdown files is to be chosen.
    """

    made = pyqtSignal(str)
    left = pyqtSignal()
    folder_asked = pyqtSignal()

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.sheet: Sheet | None = None
        self.asking, self.asking_sheet = LastAsked(desk.bridge), LastAsked(desk.bridge)
        self.combos: list[QComboBox] = []
        self.setAcceptDrops(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 14)
        column.setSpacing(10)
        head = label("A new place", "heading")
        column.addWidget(head)
        row = QHBoxLayout()
        row.addWidget(label("Name"))
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the new place")
        self.name.setMaximumWidth(380)
        self.name.textEdited.connect(lambda _text: self.say())
        row.addWidget(self.name, 1)
        row.addStretch(1)
        column.addLayout(row)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.make_starters())
        self.stack.addWidget(self.make_preview())
        column.addWidget(self.stack, 1)
        self.make = button("Make the collection", self.make_place, is_main=True)
        column.addLayout(in_row(self.make, button("Not now", self.left.emit)))

    def make_starters(self) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(label("What it begins with; every field can be changed afterwards"))
        self.starters = QListWidget()
        self.starters.setAccessibleName("What it begins with")
        self.starters.setItemDelegate(TwoLines(self.starters))
        for one in STARTERS:
            self.starters.addItem(f"{one.name}\n{one.about}")
        self.starters.currentRowChanged.connect(lambda _row: self.propose_name())
        self.starters.itemActivated.connect(lambda _item: self.make_place())
        column.addWidget(self.starters, 1)
        self.from_file = button("From a table in a file …", self.ask_file)
        self.from_file.setToolTip("CSV, TSV or JSON; it can also be dropped here")
        column.addLayout(in_row(self.from_file, button("A folder of Markdown files …", self.folder_asked.emit)))
        return box

    def make_preview(self) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        self.told = label("", wraps=True)
        column.addWidget(self.told)
        self.table = QTableWidget(0, 0)
        self.table.setAccessibleName("Preview of the table")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        rows, header = self.table.verticalHeader(), self.table.horizontalHeader()
        if rows is not None and header is not None:
            rows.hide()
            header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
            header.setHighlightSections(False)
        column.addWidget(self.table, 1)
        column.addLayout(in_row(button("Another beginning", self.open)))
        return box

    def open(self) -> None:
        """Begins anew."""
        self.sheet = None
        self.name.clear()
        self.stack.setCurrentIndex(0)
        self.starters.setCurrentRow(0)
        self.propose_name()
        self.name.setFocus()
        self.name.selectAll()

    def propose_name(self) -> None:
        """Proposes the starter's name, unless a person wrote one."""
        known = {one.name for one in STARTERS} | {""}
        if self.name.text() in known and self.starters.currentRow() >= 0:
            self.name.setText(STARTERS[self.starters.currentRow()].name)
            self.name.selectAll()
        self.say()

    def say(self) -> None:
        """Lets it be made where it has a name."""
        self.make.setEnabled(bool(self.name.text().strip()))
        self.make.setText(f"Take in {len(self.sheet.rows):,} rows" if self.sheet is not None else "Make the collection")

    def ask_file(self) -> None:
        """Asks for a table."""
        path, _ = QFileDialog.getOpenFileName(self, "A table", "", TABLE_FILES)
        if path:
            self.open_file(Path(path))

    def open_file(self, path: Path) -> None:
        """Shows a table before it is taken in."""
        self.asking_sheet.ask(
            lambda _reader: preview(path),
            lambda found: self.show_sheet(path.stem, found.sheet, found.kinds),
        )

    def show_sheet(self, name: str, sheet: Sheet, kinds: tuple[str, ...]) -> None:
        """Shows the rows under the guessed kinds, which can be corrected."""
        self.sheet = sheet
        self.name.setText(name)
        self.table.clear()
        self.table.setColumnCount(len(sheet.names))
        self.table.setRowCount(min(len(sheet.rows), SHOWN_ROWS) + 1)
        self.table.setHorizontalHeaderLabels(list(sheet.names))
        self.combos = []
        for column, kind in enumerate(kinds):
            combo = QComboBox()
            combo.setAccessibleName(f"Kind of {sheet.names[column]}")
            combo.addItem("title", "title")
            for one in MADE_KINDS:
                if not KINDS[one].is_fixed:
                    combo.addItem(one, one)
            combo.addItem(LEFT_OUT, SKIPPED)
            combo.setCurrentIndex(combo.findData(kind))
            combo.activated.connect(lambda _index, column=column: self._on_kind(column))
            self.table.setCellWidget(0, column, combo)
            self.table.setColumnWidth(column, COLUMN_PX)
            self.combos.append(combo)
            for row, cells in enumerate(sheet.rows[:SHOWN_ROWS], 1):
                self.table.setItem(row, column, QTableWidgetItem(" ".join(cells[column].split())))
        self.stack.setCurrentIndex(1)
        self.look()
        self.say()

    def kinds(self) -> list[str]:
        """The kinds as they are chosen."""
        return [str(combo.currentData()) for combo in self.combos]

    def _on_kind(self, column: int) -> None:
        if self.combos[column].currentData() == "title":  # there is but one
            for other, combo in enumerate(self.combos):
                if other != column and combo.currentData() == "title":
                    combo.setCurrentIndex(combo.findData("text"))
        self.look()

    def look(self) -> None:
        """Has looked, off the main thread, what the chosen kinds cannot read."""
        sheet, kinds = self.sheet, self.kinds()
        if sheet is not None:
            self.asking.ask(lambda _reader: misfits(sheet, kinds), lambda bad: self.mark(sheet, kinds, bad))

    def mark(self, sheet: Sheet, kinds: list[str], bad: dict[int, set[int]]) -> None:
        """Marks it, and says what becomes of it."""
        for column, kind in enumerate(kinds):
            for row in range(min(len(sheet.rows), SHOWN_ROWS)):
                item = self.table.item(row + 1, column)
                if item is not None:
                    item.setForeground(self.ink(is_bad=row in bad.get(column, ()), is_out=kind == SKIPPED))
        count = sum(map(len, bad.values()))
        guessed = "The kind of each column is guessed; correct it in the first row."
        parts = [f"{len(sheet.rows):,} rows. {guessed}", *sheet.faults]
        if count:
            parts.append(f"{count:,} cells are of no such kind: each is kept as text in a field beside it.")
        self.told.setText(" ".join(parts))

    @staticmethod
    def ink(*, is_bad: bool, is_out: bool) -> QColor:
        """The colour of a cell of the preview."""
        c = THEME.colours
        return QColor(c.alarm if is_bad else c.rule if is_out else c.ink)

    def make_place(self) -> None:
        """Makes the place."""
        name, sheet, kinds = self.name.text(), self.sheet, self.kinds() if self.sheet is not None else []
        if sheet is None:
            starter = STARTERS[max(0, self.starters.currentRow())]
            self.desk.bridge.do(NewCollection(name, starter), lambda made: self.made.emit(made.key), self._on_refused)
            return
        self.desk.bridge.start(
            f"Taking in {name}",
            lambda counter, job: take_in(counter, sheet, kinds, name, job),
            self._on_taken,
            self._on_refused,
        )

    def _on_refused(self, error: MagpieError) -> None:
        self.desk.complain(error)
        self.name.setFocus()

    def _on_taken(self, found: tuple[PlaceInfo, list[str]]) -> None:
        place, told = found
        self.made.emit(place.key)
        if told:
            self.desk.say(" ".join(told[:3]), ())

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and any(url.isLocalFile() for url in data.urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()] if data is not None else []
        if paths:
            self.open_file(paths[0])
