"""The two pages of a list of addresses: what was understood, before it starts; and how far each address is."""

from collections.abc import Callable, Mapping, Sequence

from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QTableWidgetItem,
    QWidget,
)

from wily_magpie.core.commands.lists import MakeList, WaitAgain
from wily_magpie.core.entries.capture_list import CaptureList, ItemState, ListItem, ListWanted
from wily_magpie.core.exchange.addresses import UnderstoodList
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import foot_of, head_of, in_row, label, plain_tip
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.window_pages import table_of

BY_PAGE = "by each page"
MOST_SHOWN = 2_000
COLOURS = {ItemState.KEPT: "moss", ItemState.KNOWN: "slate", ItemState.THIN: "brass", ItemState.FAILED: "alarm"}


def cut_off(count: int) -> str:
    """What is said where not all rows are shown."""
    return f" The first {MOST_SHOWN:,} of {count:,} are shown." if count > MOST_SHOWN else ""


def in_words(found: UnderstoodList, kept: Mapping[str, str]) -> str:
    """What was understood of a text, in a sentence."""
    count = len(found.addresses)
    parts = [f"{count:,} addresses" if count != 1 else "One address"]
    there = sum(1 for address, _ in found.addresses if address in kept)
    parts += [f"{there:,} kept already"] if there else []
    parts += [f"{found.doubles:,} more that stand there twice"] if found.doubles else []
    if found.others:
        parts.append(f"{len(found.others):,} that {'are no addresses' if len(found.others) != 1 else 'is no address'}")
    return f"{', '.join(parts)}. {found.told_beyond}".rstrip()


class ListStartPage(QDialog):
    """What was understood, and what is wanted of all: the place, the template, values.

    Args:
        name: what the list is called.
        started: told the number of the list that was made.
        place: the key of the place that is proposed, "" for none.
    """

    def __init__(
        self,
        desk: StationContext,
        name: str,
        found: UnderstoodList,
        started: Callable[[int], object],
        place: str = "",
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.desk, self.name, self.found, self.started = desk, name, found, started
        column = head_of(
            self, "Capture a list", "Politely: one page at a time of each site. What is kept already is left as it is."
        )
        self.told = label("", wraps=True)
        column.addWidget(self.told)
        self.table = table_of(["Address", "What becomes of it"], "Addresses of the list", {1: 220})
        column.addWidget(self.table, 1)
        form = QFormLayout()
        form.setHorizontalSpacing(14)
        self.place, self.template = QComboBox(), QComboBox()
        self.place.addItem(BY_PAGE, "")
        for one in desk.overview.places:
            self.place.addItem(one.name, one.key)
        self.place.setCurrentIndex(max(0, self.place.findData(place)))
        self.template.addItem(BY_PAGE, "")
        for template in desk.overview.templates:
            self.template.addItem(template, template)
        self.status, self.tags, self.other = QLineEdit(), QLineEdit(), QLineEdit()
        self.status.setPlaceholderText("as the template says")
        self.tags.setPlaceholderText("besides those of each page; several with ;")
        self.other.setPlaceholderText("chapter = The law of the tide")
        rows = (
            ("Place", self.place), ("Template", self.template), ("Status of all", self.status), ("Tags of all", self.tags),
            ("Another field", self.other),
        )  # fmt: skip
        for title, editor in rows:
            editor.setAccessibleName(title)
            form.addRow(label(title), editor)
        column.addLayout(form)
        self.problem = label("", "problem", wraps=True)
        column.addWidget(self.problem)
        self.start = QPushButton()
        self.start.setObjectName("main")
        self.start.setDefault(True)
        self.start.clicked.connect(self.begin)
        column.addLayout(foot_of(self, self.start))
        self.resize(760, 620)
        self.show_kept({})
        desk.bridge.ask(lambda reader: reader.lists.kept_of(found.addresses), self.show_kept)

    def show_kept(self, kept: Mapping[str, str]) -> None:
        """Shows what is kept of it already."""
        new = sum(1 for address, _ in self.found.addresses if address not in kept)
        self.start.setText(f"Capture these {new:,}" if new != 1 else "Capture this one")
        self.start.setEnabled(bool(self.found.addresses))
        rows = [(title or address, address, f"kept already, in {kept[address]}" if address in kept else "")
                for address, title in self.found.addresses]  # fmt: skip
        rows += [(line, line, "no address, left out") for line in self.found.others]
        self.told.setText(f"{in_words(self.found, kept)}{cut_off(len(rows))}")
        self.table.setRowCount(min(len(rows), MOST_SHOWN))
        for at, (shown, tip, said) in enumerate(rows[:MOST_SHOWN]):
            for column, text in enumerate((shown, said)):
                item = QTableWidgetItem(text)
                item.setToolTip(plain_tip(tip))
                self.table.setItem(at, column, item)

    def wanted(self) -> ListWanted | None:
        """What is wanted of all; None where a field is written as none is."""
        values = [(key, editor.text().strip()) for key, editor in (("status", self.status), ("tags", self.tags))]
        key, equals, value = self.other.text().partition("=")
        if self.other.text().strip() and not (equals and key.strip()):
            self.problem.setText("Write the other field like: chapter = The law of the tide.")
            return None
        values.append((key.strip(), value.strip()))
        filled = tuple((key, text) for key, text in values if key and text)
        return ListWanted(self.template.currentData(), self.place.currentData(), filled)

    def begin(self) -> None:
        """Makes the list and starts it."""
        wanted = self.wanted()
        if wanted is None:
            return
        command = MakeList(self.name, self.found.addresses, wanted)
        self.desk.bridge.do(command, self._on_made)

    def _on_made(self, number: int) -> None:
        self.accept()
        self.started(number)


class ListPage(QDialog):
    """How far each address of a list is; those that failed are tried again, those that are thin read by the engine.

    Args:
        visit: opens an address in the Capture station.
    """

    def __init__(
        self, desk: StationContext, number: int, visit: Callable[[str], object], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.desk, self.number, self.visit = desk, number, visit
        self.asking, self.asking_whole = LastAsked(desk.bridge), LastAsked(desk.bridge)
        self.items: dict[int, ListItem] = {}
        self.told_since: dict[int, ListItem] = {}
        """What changed since all was asked for: the answer may be older."""
        column = head_of(
            self, "A list of addresses", "It goes on in the background; a double click shows what was kept."
        )
        self.told = label("", wraps=True)
        column.addWidget(self.told)
        self.table = table_of(["Page", "State", "What is to be known"], "Addresses of the list", {1: 90, 2: 300})
        self.table.cellDoubleClicked.connect(self.open_row)
        column.addWidget(self.table, 1)
        self.again, self.engine = (
            QPushButton("Try the failed ones again"),
            QPushButton("Read the thin ones as a browser does"),
        )
        self.go_on, self.stop = QPushButton("Go on"), QPushButton("Stop")
        self.show_entry = QPushButton("Show the entry")
        self.again.clicked.connect(self.try_again)
        self.engine.clicked.connect(lambda: desk.bridge.start_engine(number))
        self.go_on.clicked.connect(lambda: desk.bridge.start_list(number))
        self.stop.clicked.connect(lambda: desk.bridge.stop_list(number))
        self.show_entry.clicked.connect(lambda: self.open_row(self.table.currentRow(), 0))
        for one in (self.go_on, self.stop, self.again, self.engine, self.show_entry):
            one.setAutoDefault(False)  # Enter in the table is no press of it
        column.addLayout(in_row(self.go_on, self.stop, self.again, self.engine))
        column.addLayout(foot_of(self, self.show_entry))
        self.resize(860, 620)
        desk.bridge.lists_changed.connect(self.take)
        desk.bridge.job_changed.connect(self.ask_whole)
        self.refresh()

    def refresh(self) -> None:
        """Asks for all of it."""
        self.told_since = {}
        self.asking.ask(lambda reader: reader.lists.items(self.number), self.show_items)
        self.ask_whole()

    def ask_whole(self, _job: int = 0) -> None:
        """Asks how far it is as a whole; a page that was closed asks nothing any more."""
        if self.isHidden() and self.items:
            return
        self.asking_whole.ask(lambda reader: reader.lists.find(self.number), self.show_whole)

    def take(self, number: int, items: Sequence[ListItem]) -> None:
        """Some of it changed."""
        if self.isHidden():
            return
        if number == self.number and items:
            for item in items:
                self.items[item.position] = self.told_since[item.position] = item
                self.fill(item)
            self.ask_whole()
        elif number in (0, self.number):
            self.refresh()

    def show_items(self, items: Sequence[ListItem]) -> None:
        """Shows all addresses."""
        self.items = {one.position: one for one in items} | self.told_since
        self.table.setRowCount(min(len(self.items), MOST_SHOWN))
        for item in self.items.values():
            self.fill(item)

    def fill(self, item: ListItem) -> None:
        """Shows one address."""
        if item.position > self.table.rowCount():
            return
        for column, text in enumerate((item.title or item.address, str(item.state), item.said)):
            cell = QTableWidgetItem(text)
            cell.setToolTip(plain_tip(f"{item.address}\n{item.said}".strip()))
            if column == 1 and item.state in COLOURS:
                cell.setForeground(QColor(getattr(THEME.colours, COLOURS[item.state])))
            self.table.setItem(item.position - 1, column, cell)

    def show_whole(self, whole: CaptureList | None) -> None:
        """Shows how far it is, and what can be done."""
        if whole is None:
            self.close()
            return
        self.setWindowTitle(whole.label)
        self.told.setText(f"{whole.label}: {whole.in_words}.{cut_off(whole.total)}")
        is_going = self.desk.bridge.is_list_going(self.number)
        self.stop.setVisible(is_going)
        self.go_on.setVisible(not is_going and whole.left > 0)
        self.again.setVisible(not is_going and whole.counts.get(ItemState.FAILED, 0) > 0)
        self.engine.setVisible(not is_going and whole.counts.get(ItemState.THIN, 0) > 0)

    def try_again(self) -> None:
        """Lets those that failed wait again: the chosen ones, else all."""
        rows = {index.row() + 1 for index in self.table.selectedIndexes()}
        chosen = [at for at in rows if self.items[at].state is ItemState.FAILED]
        command = WaitAgain(self.number, positions=chosen)
        self.desk.bridge.do(command, lambda _count: self.desk.bridge.start_list(self.number))

    def open_row(self, row: int, _column: int) -> None:
        """Shows the entry of an address; of one that is not kept, opens the page."""
        item = self.items.get(row + 1)
        if item is None:
            return
        self.accept()
        if item.entry_id:
            self.desk.show_entry(item.place, item.entry_id)
        else:
            self.visit(item.address)
