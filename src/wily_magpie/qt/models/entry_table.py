"""The rows of a view: ids in order, rows fetched as they become visible, a heading row before each group."""

import bisect
from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QObject, Qt

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import Listing, Place

CHUNK = 128
MOST_CHUNKS = 64
ENTRY_CELL = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsDropEnabled
EDITED_CELL = ENTRY_CELL | Qt.ItemFlag.ItemIsEditable
COLOUR_ROLE = int(Qt.ItemDataRole.UserRole)
"""The role under which an item tells its spine's colour by name; None: it has no spine."""


class EntryTable(QAbstractTableModel):
    """A table model over a listing.

    Args:
        set_text: changes a field of an entry: (entry id, field key, text); raises MagpieError.
        complain: is told of such an error.
    """

    def __init__(
        self,
        set_text: Callable[[int, str, str], None],
        complain: Callable[[MagpieError], None],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.place: Place | None = None
        self.columns: tuple[Field, ...] = ()
        self.listing = Listing((), (), 0)
        self.heads: list[int] = []
        self.chunks: dict[int, dict[int, Entry]] = {}
        self.set_text = set_text
        self.complain = complain

    def show(self, place: Place, columns: Sequence[Field], listing: Listing) -> bool:
        """Puts another answer in; False where it has the same rows and columns, of which only the values are read anew."""
        is_same = self.place is not None and self.place.key == place.key and self.columns == tuple(columns)
        if is_same and listing.groups == self.listing.groups and listing.ids == self.listing.ids:
            self.place, self.listing = place, listing
            self.chunks.clear()
            if listing.ids:
                last = self.index(self.rowCount() - 1, self.columnCount() - 1)
                self.dataChanged.emit(self.index(0, 0), last)
            return False
        self.beginResetModel()
        self.place, self.columns, self.listing = place, tuple(columns), listing
        self.chunks.clear()
        self.heads = []
        row = 0
        for group in listing.groups:
            self.heads.append(row)
            row += group.size + 1
        self.endResetModel()
        return True

    def group_at(self, row: int) -> int | None:
        """The number of the group whose heading stands in a row; None for a row of an entry."""
        at = bisect.bisect_left(self.heads, row)
        return at if at < len(self.heads) and self.heads[at] == row else None

    def id_at(self, row: int) -> int | None:
        """The id of the entry in a row; None for a heading."""
        if self.group_at(row) is not None or not 0 <= row < self.rowCount():
            return None
        return self.listing.ids[row - bisect.bisect_right(self.heads, row)]

    def row_of(self, entry_id: int) -> int | None:
        """The row of an entry; None where it is not in the answer."""
        try:
            place = self.listing.ids.index(entry_id)
        except ValueError:
            return None
        row = place
        for head in self.heads:
            if head > row:
                break
            row += 1
        return row

    def entry_at(self, row: int) -> Entry | None:
        """The entry of a row, fetched with its neighbours."""
        entry_id = self.id_at(row)
        if entry_id is None or self.place is None:
            return None
        number = (row - bisect.bisect_right(self.heads, row)) // CHUNK
        chunk = self.chunks.get(number)
        if chunk is None:
            ids = self.listing.ids[number * CHUNK : (number + 1) * CHUNK]
            chunk = {entry.id: entry for entry in self.place.rows(ids)}
            while len(self.chunks) >= MOST_CHUNKS:
                self.chunks.pop(next(iter(self.chunks)))
            self.chunks[number] = chunk
        return chunk.get(entry_id)

    def cell(self, row: int, column: int) -> tuple[str, str | None]:
        """What a cell shows, and its spine's colour (None: it has no spine); for painting, twice as fast as `data`."""
        entry, field = self.entry_at(row), self.columns[column]
        if entry is None:
            return "", None
        value = entry.value(field.key)
        if field.kind.has_spine and isinstance(value, str):
            option = field.option(value)
            return value, option.colour if option else ""
        return one_line(field, value), None

    def has_gap(self, row: int) -> bool:
        """Whether the entry of a row breaks a rule of its place."""
        entry = self.entry_at(row)
        return entry is not None and entry.value("gaps") is not None

    def doubt(self, row: int, column: int) -> str:
        """Why what a cell holds is no good value of its kind, or ""."""
        entry, field = self.entry_at(row), self.columns[column]
        return field.kind.doubt(entry.value(field.key)) if entry is not None else ""

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.listing.ids) + len(self.heads)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation == Qt.Orientation.Horizontal and 0 <= section < len(self.columns):
            if role == Qt.ItemDataRole.DisplayRole:
                return self.columns[section].label
            if role == Qt.ItemDataRole.TextAlignmentRole:
                right = self.columns[section].kind.right_aligned
                return Qt.AlignmentFlag.AlignVCenter | (
                    Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
                )
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        if not index.isValid():
            return Qt.ItemFlag.NoItemFlags
        if self.group_at(index.row()) is not None:
            return Qt.ItemFlag.ItemIsEnabled
        field = self.columns[index.column()]
        return EDITED_CELL if field.is_writable and not field.kind.holds_files else ENTRY_CELL

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        group = self.group_at(index.row())
        if group is not None:
            return self.group_data(group, role) if index.column() == 0 else None
        entry = self.entry_at(index.row())
        field = self.columns[index.column()]
        if entry is None:
            return None
        value = entry.value(field.key)
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return self.cell(index.row(), index.column())[0]
            case Qt.ItemDataRole.EditRole:
                return field.kind.show(value)
            case Qt.ItemDataRole.ToolTipRole:
                gap = f"Still missing: {entry.value('gaps')}" if field.key == "title" and entry.value("gaps") else ""
                return "\n".join(filter(None, (field.shown(value)[:600], field.kind.doubt(value), gap))) or None
            case Qt.ItemDataRole.TextAlignmentRole if field.kind.right_aligned:
                return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            case _ if role == COLOUR_ROLE:
                return self.cell(index.row(), index.column())[1]
        return None

    def group_data(self, group: int, role: int) -> Any:
        """The heading of a group."""
        if role == Qt.ItemDataRole.DisplayRole:
            one = self.listing.groups[group]
            return f"{one.name or 'blank'}  ·  {one.size}"
        return None

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        entry_id = self.id_at(index.row())
        if role != Qt.ItemDataRole.EditRole or entry_id is None or value == self.data(index, role):
            return False
        try:
            self.set_text(entry_id, self.columns[index.column()].key, str(value))
        except MagpieError as error:
            self.complain(error)
            return False
        return True


def one_line(field: Field, value: Any) -> str:
    """A value as it stands in a cell."""
    if field.kind.is_people and isinstance(value, tuple) and len(value) > 2:
        return f"{value[0]} and {len(value) - 1} more"
    text = field.shown(value)
    if field.kind.is_dated and "T" in str(value):
        return text[:10]
    return " ".join(text.split()) if "\n" in text else text
