"""The page by which a table from a file goes into a place that is there: each column is given a field, doubles are told."""

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QDialog,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.entries import SetTexts
from wily_magpie.core.exchange.into import LEFT_OUT, Arrival, arrival, is_meant, matched
from wily_magpie.core.exchange.sheet import Sheet
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import button, in_row, label

SHOWN_ROWS, COLUMN_PX, MOST_NAMED = 40, 150, 3


class TableIntoPage(QDialog):
    """See the module."""

    def __init__(self, desk: StationContext, place: PlaceInfo, path: Path, sheet: Sheet, parent: QWidget) -> None:
        super().__init__(parent)
        self.desk, self.place, self.sheet, self.name = desk, place, sheet, path.name
        self.asking = LastAsked(desk.bridge)
        self.found = Arrival((), ())
        self.setWindowTitle(f"{path.name} into {place.name}")
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        head = label(f"{path.name} into {place.name}", "heading")
        column.addWidget(head)
        column.addWidget(label("Each column is given a field of the place, or is left out.", wraps=True))
        self.table = QTableWidget(min(len(sheet.rows), SHOWN_ROWS) + 1, len(sheet.names))
        self.table.setAccessibleName("The table, and the field of each column")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.setHorizontalHeaderLabels(list(sheet.names))
        rows, top = self.table.verticalHeader(), self.table.horizontalHeader()
        if rows is not None and top is not None:
            rows.hide()
            top.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.combos: list[QComboBox] = []
        for number, key in enumerate(matched(sheet, place)):
            self.add_column(number, key)
        column.addWidget(self.table, 1)
        self.told = label("", wraps=True)
        column.addWidget(self.told)
        self.take = button("", self.take_in, is_main=True)
        self.take.setDefault(True)
        column.addLayout(in_row(self.take, button("Not now", self.reject)))
        self.resize(860, 560)
        self.look()

    def add_column(self, number: int, key: str) -> None:
        """A column with the choice of its field."""
        combo = QComboBox()
        combo.setAccessibleName(f"Field of {self.sheet.names[number]}")
        combo.addItem("left out", LEFT_OUT)
        for field in self.place.fields:
            if field.key == "title" or is_meant(field, field.key.casefold()):
                combo.addItem(field.label, field.key)
        combo.setCurrentIndex(max(0, combo.findData(key)))
        combo.activated.connect(lambda _index: self.look())
        self.table.setCellWidget(0, number, combo)
        self.table.setColumnWidth(number, COLUMN_PX)
        self.combos.append(combo)
        for row, cells in enumerate(self.sheet.rows[:SHOWN_ROWS], 1):
            self.table.setItem(row, number, QTableWidgetItem(" ".join(cells[number].split())))

    def keys(self) -> list[str]:
        """The field of each column; one that is chosen twice is left out the second time, and said."""
        return [str(combo.currentData() or LEFT_OUT) for combo in self.combos]

    def look(self) -> None:
        """Works out what it would bring, off the thread."""
        self.asking.forget()
        place, sheet, keys = self.place, self.sheet, self.keys()
        used = [key for key in keys if key != LEFT_OUT]
        twice = {key for key in used if used.count(key) > 1}
        self.take.setEnabled(False)
        if twice or not used:
            labels = ", ".join(field.label for field in place.fields if field.key in twice)
            self.told.setText(
                f"Two columns are given the same field: {labels}." if twice else "No column is given a field."
            )
            return
        take = lambda found: self.show_arrival(found, keys)  # noqa: E731
        self.asking.ask(lambda reader: arrival(reader.entries, place, sheet, keys), take)

    def show_arrival(self, found: Arrival, keys: Sequence[str]) -> None:
        """Says what it would bring."""
        self.found = found
        left = [name for name, key in zip(self.sheet.names, keys, strict=True) if key == LEFT_OUT]
        parts = [f"{len(found.rows):,} new entries."]
        if found.doubles:
            some = ", ".join(f"“{one}”" for one in found.doubles[:MOST_NAMED])
            parts.append(f"{len(found.doubles):,} are there already and are left as they are: {some}.")
        if left:
            parts.append(f"Left out: {', '.join(left)}.")
        if len(self.sheet.rows) > SHOWN_ROWS:
            parts.append(f"The first {SHOWN_ROWS} of {len(self.sheet.rows):,} rows are shown.")
        self.told.setText(" ".join([*parts, *self.sheet.faults]))
        self.take.setText(f"Take {len(found.rows):,} in")
        self.take.setEnabled(bool(found.rows))

    def take_in(self) -> None:
        """Takes the rows in, as one step."""
        changes = tuple((None, texts) for texts in self.found.rows)
        command = SetTexts(self.place.key, changes, f"Take {len(changes)} rows of {self.name} into {self.place.name}")

        def done(ended: tuple[list[int], list[str]]) -> None:
            ids, told = ended
            more = f" {told[0]}" + (f" And {len(told) - 1} more." if len(told) > 1 else "") if told else ""
            self.desk.say(f"{len(ids):,} entries are in {self.place.name} now.{more}", self.desk.undoing())

        self.desk.bridge.start_command(command, done)
        self.accept()
