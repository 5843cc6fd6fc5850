"""The trash: what was deleted, to be restored or thrown away."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.errors import MagpieError
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import label

ID_ROLE = int(Qt.ItemDataRole.UserRole)


class TrashPage(QWidget):
    """Lists the trash."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 12)
        column.setSpacing(8)
        head = QLabel("Trash")
        head.setObjectName("heading")
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
        session = self.desk.session
        names = {place.key: place.name for place in session.places()}
        there = session.library.trash.all()
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
        self.back.setEnabled(bool(there))
        self.empty.setEnabled(bool(there))

    def chosen(self) -> list[int]:
        """The chosen things."""
        rows = sorted({index.row() for index in self.table.selectedIndexes()})
        items = (self.table.item(row, 0) for row in rows)
        return [int(item.data(ID_ROLE)) for item in items if item is not None]

    def restore(self) -> None:
        """Puts the chosen things back."""
        ids = self.chosen()
        if not ids:
            return
        try:
            lost = self.desk.session.arranging.restore(ids)
        except MagpieError as error:
            self.desk.complain(error)
            return
        if lost:
            self.desk.say(f"The place of “{lost[0]}” is deleted. Undo brings that back, then it can be restored.", ())
        elif len(ids) == 1:
            self.desk.say("Restored.", ())
        else:
            self.desk.say(f"{len(ids)} entries are restored.", ())
        self.refresh()

    def throw_away(self) -> None:
        """Empties the trash."""
        count = self.desk.session.arranging.empty_trash()
        undo = self.desk.session.undo

        def take_back() -> None:
            undo()
            self.refresh()

        if count:
            self.desk.say(
                f"{count} things are thrown away." if count > 1 else "It is thrown away.", (("Undo", take_back),)
            )
        self.refresh()
