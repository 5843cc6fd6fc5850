"""The trash: what was deleted, to be restored or thrown away."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.entries import EmptyTrash, RestoreEntries
from wily_magpie.core.entries.trashed import Trashed
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import label

ID_ROLE = int(Qt.ItemDataRole.UserRole)


class TrashPage(QWidget):
    """Lists the trash."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.asking = desk, LastAsked(desk.bridge)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 12)
        column.setSpacing(8)
        head = label("Trash", "heading")
        column.addWidget(head)
        self.about = label("", wraps=True)
        column.addWidget(self.about)
        self.table = QTableWidget(0, 3)
        self.table.setAccessibleName("Trash")
        self.table.setHorizontalHeaderLabels(["Title", "Was in", "Deleted"])
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        self.table.doubleClicked.connect(lambda _index: self.restore())
        rows, header = self.table.verticalHeader(), self.table.horizontalHeader()
        if rows is not None and header is not None:
            rows.hide()
            header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
            header.setHighlightSections(False)
            header.resizeSection(1, 180)
            header.resizeSection(2, 170)
        column.addWidget(self.table, 1)
        row = QHBoxLayout()
        self.back = QPushButton("Restore")
        self.back.setObjectName("main")
        self.back.clicked.connect(self.restore)
        self.empty = QPushButton("Empty the trash")
        self.empty.clicked.connect(self.throw_away)
        row.addWidget(self.back)
        row.addStretch(1)
        row.addWidget(self.empty)
        column.addLayout(row)

    def refresh(self) -> None:
        """Lists what is in it."""
        self.asking.ask(lambda reader: reader.entries.trash(), self.show_trash)

    def show_trash(self, there: list[Trashed]) -> None:
        """Shows it."""
        names = {place.key: place.name for place in self.desk.overview.places}
        self.table.setRowCount(len(there))
        for number, one in enumerate(there):
            when = one.deleted[:16].replace("T", " ")
            for column, text in enumerate((one.title, names.get(one.place, "a deleted place"), when)):
                item = QTableWidgetItem(text)
                item.setData(ID_ROLE, one.id)
                self.table.setItem(number, column, item)
        if there:
            self.table.selectRow(0)
        self.about.setText(
            "What you delete comes here, whole; it goes back to where it was."
            if there
            else "The trash is empty. What you delete comes here, and goes back to where it was."
        )
        may = bool(there) and not self.desk.overview.is_read_only
        self.back.setEnabled(may)
        self.empty.setEnabled(may)

    def chosen(self) -> list[int]:
        """The chosen things."""
        rows = sorted({index.row() for index in self.table.selectedIndexes()})
        items = (self.table.item(row, 0) for row in rows)
        return [int(item.data(ID_ROLE)) for item in items if item is not None]

    def restore(self) -> None:
        """Puts the chosen things back."""
        ids = self.chosen()
        if ids and self.back.isEnabled():
            self.desk.bridge.do(RestoreEntries(tuple(ids)), lambda lost: self._on_restored(len(ids), lost))

    def _on_restored(self, count: int, lost: list[str]) -> None:
        if lost:
            self.desk.say(f"The place of “{lost[0]}” is deleted. Undo brings that back, then it can be restored.", ())
        else:
            self.desk.say("Restored." if count == 1 else f"{count} entries are restored.", self.desk.undoing())
        self.refresh()

    def throw_away(self) -> None:
        """Empties the trash."""
        self.desk.bridge.do(EmptyTrash(), self._on_emptied)

    def _on_emptied(self, count: int) -> None:
        if count:
            said = f"{count} things are thrown away." if count > 1 else "It is thrown away."
            self.desk.say(said, self.desk.undoing())
        self.refresh()
