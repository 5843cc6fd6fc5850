"""A table over the rows of an answer: a heading row before each group, a column a field."""

import bisect
from collections.abc import Callable, Collection, Sequence
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QObject, Qt

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.entries.typed import typed
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import Listing, PlaceInfo
from wily_magpie.qt.models.entry_window import EntryWindow, Fetch
from wily_magpie.qt.style.parts import plain_tip

ENTRY_CELL = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsDropEnabled
EDITED_CELL = ENTRY_CELL | Qt.ItemFlag.ItemIsEditable
HELD = Qt.ItemFlag.ItemIsDragEnabled
COLOUR_ROLE = int(Qt.ItemDataRole.UserRole)
"""The role under which an item tells its spine's colour by name; None: it has no spine."""
MOST_NAMES = 2


class EntryTable(QAbstractTableModel):
    """A table model over a window of entries.

    Args:
        fetch: fetches entries off the thread.
        set_text: changes a field of an entry: (entry id, field key, text); told of what can be read only.
        complain: is told of what cannot.
    """

    def __init__(
        self,
        fetch: Fetch,
        set_text: Callable[[int, str, str], None],
        complain: Callable[[MagpieError], None],
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self.window = EntryWindow(fetch, self)
        self.window.arrived.connect(self._on_arrived)
        self.place: PlaceInfo | None = None
        self.columns: tuple[Field, ...] = ()
        self.layout = Layout()
        self.shown_groups: list[int] = []
        self.heads: list[int] = []
        """The rows of headings; a group's entries follow its own."""
        self.begins: list[int] = []
        """For each heading, the position of the first entry behind it."""
        self.row_count = 0
        self.folded: set[tuple[str, ...]] = set()
        """Names of groups whose entries are folded away, with those of the groups that they are in."""
        self.typed: dict[tuple[int, str], str] = {}
        """What was typed into cells and is not kept yet: shown at once."""
        self.set_text = set_text
        self.complain = complain
        self.is_read_only = False

    @property
    def listing(self) -> Listing:
        """The answer that is shown."""
        return self.window.listing

    def show(
        self,
        place: PlaceInfo,
        columns: Sequence[Field],
        listing: Listing,
        first: Sequence[Entry] = (),
        at: int = 0,
        layout: Layout | None = None,
    ) -> bool:
        """Puts another answer in; False where it has the same rows and columns, of which only the values are read anew.

        Args:
            first: entries that came along, from position `at` on.
        """
        seen = layout or Layout()
        is_same_place = self.place is not None and self.place.key == place.key
        is_same = is_same_place and self.columns == tuple(columns) and self.layout == seen
        is_same_listing = listing.groups == self.listing.groups and listing.ids == self.listing.ids
        self.typed.clear()
        if is_same and is_same_listing:
            self.place = place
            self.window.show(listing, first, at, is_same=True)
            if listing.ids:
                self.dataChanged.emit(self.index(0, 0), self.index(self.rowCount() - 1, self.columnCount() - 1))
            return False
        self.beginResetModel()
        self.place, self.columns, self.layout = place, tuple(columns), seen
        self.window.show(listing, first, at, is_same=is_same_place)
        if not is_same_place:
            self.folded = set()
        self.lay_rows()
        self.endResetModel()
        return True

    def lay_rows(self) -> None:
        """Works out which row is what; the entries of folded groups have none."""
        self.heads, self.begins = [], []
        row = position = 0
        for number, group in enumerate(self.listing.groups):
            is_inside = group.level > 0 and self.path_of(number)[:1] in self.folded
            self.heads.append(-1 if is_inside else row)
            self.begins.append(position)
            shown = 0 if is_inside or self.path_of(number) in self.folded else group.rows
            row += shown + (0 if is_inside else 1)
            position += group.rows
        self.row_count = row if self.listing.groups else len(self.listing.ids)
        kept = [(head, begin) for head, begin in zip(self.heads, self.begins, strict=True) if head >= 0]
        self.shown_groups = [number for number, head in enumerate(self.heads) if head >= 0]
        self.heads, self.begins = [head for head, _ in kept], [begin for _, begin in kept]

    def path_of(self, group: int) -> tuple[str, ...]:
        """The names of a group and of the one that it is in."""
        groups = self.listing.groups
        if groups[group].level == 0:
            return (groups[group].name,)
        outer = next(at for at in range(group, -1, -1) if groups[at].level == 0)
        return (groups[outer].name, groups[group].name)

    def fold(self, group: int) -> None:
        """Folds the entries of a group away, or shows them again."""
        self.fold_all({*self.folded} ^ {self.path_of(group)})

    def fold_all(self, folded: set[tuple[str, ...]]) -> None:
        """Folds just these groups."""
        self.beginResetModel()
        self.folded = folded
        self.lay_rows()
        self.endResetModel()

    def _on_arrived(self, start: int, end: int) -> None:
        first, last = self.row_at(start), self.row_at(end - 1)
        self.dataChanged.emit(self.index(first, 0), self.index(last, self.columnCount() - 1))

    def group_at(self, row: int) -> int | None:
        """The number of the group whose heading stands in a row; None for a row of an entry."""
        at = bisect.bisect_left(self.heads, row)
        return self.shown_groups[at] if at < len(self.heads) and self.heads[at] == row else None

    def position(self, row: int) -> int:
        """The position of a row's entry in the answer."""
        if not self.heads:
            return row
        at = bisect.bisect_right(self.heads, row) - 1
        return self.begins[at] + row - self.heads[at] - 1

    def row_at(self, position: int) -> int:
        """The row of a position; of one that is folded away, that of its group's heading."""
        if not self.heads:
            return position
        at = bisect.bisect_right(self.begins, position) - 1
        row = self.heads[at] + 1 + position - self.begins[at]
        end = self.heads[at + 1] if at + 1 < len(self.heads) else self.row_count
        return row if row < end else self.heads[at]

    def id_at(self, row: int) -> int | None:
        """The id of the entry in a row; None for a heading."""
        if self.group_at(row) is not None or not 0 <= row < self.rowCount():
            return None
        return self.listing.ids[self.position(row)]

    def ids_at(self, rows: Sequence[int]) -> list[int | None]:
        """The same of many rows."""
        ids = self.listing.ids
        return [ids[row] for row in rows] if not self.heads else [self.id_at(row) for row in rows]

    def next_id(self, row: int) -> int | None:
        """The id of the first entry in a row or below it."""
        return next((found for at in range(row, self.rowCount()) if (found := self.id_at(at)) is not None), None)

    def row_of(self, entry_id: int) -> int | None:
        """The row of an entry; None where it is not in the answer."""
        try:
            row = self.row_at(self.listing.ids.index(entry_id))
        except ValueError:
            return None
        return row if self.group_at(row) is None else None

    def rows_of(self, ids: Collection[int]) -> list[int]:
        """The rows of entries, from top to bottom; what is not to be seen is left out."""
        if len(ids) == 1:
            return [row for one in ids if (row := self.row_of(one)) is not None]
        wanted = set(ids)
        positions = [at for at, one in enumerate(self.listing.ids) if one in wanted] if wanted else []
        if not self.heads:
            return positions
        import numpy  # needed only here, and a start shows nothing of it

        begins, heads = numpy.array(self.begins), numpy.array([*self.heads, self.row_count])
        group = numpy.searchsorted(begins, positions, side="right") - 1
        rows = heads[group] + 1 + numpy.array(positions) - begins[group]
        return [int(row) for row in rows[rows < heads[group + 1]]]

    def entry_at(self, row: int) -> Entry | None:
        """The entry of a row; None for a heading, and where it is still to arrive."""
        if self.group_at(row) is not None:
            return None
        return self.window.entry_at(self.position(row))

    def cell(self, row: int, column: int) -> tuple[str, str | None]:
        """What a cell shows, and its spine's colour (None: it has no spine)."""
        entry = self.entry_at(row)
        return self.shown(entry, self.columns[column]) if entry is not None else ("", None)

    def shown(self, entry: Entry, field: Field) -> tuple[str, str | None]:
        """The same of a field of an entry."""
        text = self.typed.get((entry.id, field.key)) if self.typed else None
        value = entry.value(field.key) if text is None else text
        if field.kind.has_spine and isinstance(value, str):
            option = field.option(value)
            return value, option.colour if option else ""
        return (text if text is not None else one_line(field, value)), None

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else self.row_count

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation == Qt.Orientation.Horizontal and 0 <= section < len(self.columns):
            if role == Qt.ItemDataRole.DisplayRole:
                return self.layout.heading(self.columns[section])
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
        is_editable = field.is_writable and not field.kind.holds_files and not self.is_read_only
        held = HELD if field.key == "title" and self.may_be_dragged else Qt.ItemFlag.NoItemFlags
        return held | (EDITED_CELL if is_editable else ENTRY_CELL)

    @property
    def may_be_dragged(self) -> bool:
        """Whether there is anywhere that entries can be dragged to: notes, to the folders beside them."""
        return self.place is not None and self.place.nature.is_in_files and not self.is_read_only

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        group = self.group_at(index.row())
        if group is not None:
            return self.group_data(group, role) if index.column() == 0 else None
        entry = self.entry_at(index.row())
        return self.cell_data(entry, index, role) if entry is not None else None

    def cell_data(self, entry: Entry, index: QModelIndex, role: int) -> Any:
        """What a cell tells."""
        field = self.columns[index.column()]
        value = entry.value(field.key)
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return self.cell(index.row(), index.column())[0]
            case Qt.ItemDataRole.EditRole:
                return self.typed.get((entry.id, field.key), field.kind.show(value))
            case Qt.ItemDataRole.ToolTipRole:
                fault = f"{entry.fault} It is left as it is." if field.key == "title" and entry.fault else ""
                gap = f"Still missing: {entry.value('gaps')}" if field.key == "title" and entry.value("gaps") else ""
                told = "\n".join(filter(None, (field.shown(value)[:600], field.kind.doubt(value), gap, fault)))
                return plain_tip(told) or None
            case Qt.ItemDataRole.TextAlignmentRole if field.kind.right_aligned:
                return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            case _ if role == COLOUR_ROLE:
                return self.cell(index.row(), index.column())[1]
        return None

    def group_data(self, group: int, role: int) -> Any:
        """The heading of a group."""
        if role == Qt.ItemDataRole.DisplayRole:
            one = self.listing.groups[group]
            sign = "▸" if self.path_of(group) in self.folded else "▾"
            indent = "      " * one.level
            told = [f"{self.headings.get(key, key)}: {text}" for key, text in one.sums.items()]
            return "  ·  ".join([f"{indent}{sign} {one.name or 'blank'}", f"{one.size:,}", *told])
        return None

    @property
    def headings(self) -> dict[str, str]:
        """What columns are called here, by the keys of their fields."""
        fields = self.place.fields if self.place is not None else ()
        return {field.key: self.layout.heading(field) for field in fields}

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """What is typed is shown at once, and kept off the thread; what cannot be read is said, and not lost from sight."""
        entry_id, field = self.id_at(index.row()), self.columns[index.column()]
        if role != Qt.ItemDataRole.EditRole or entry_id is None or value == self.data(index, role):
            return False
        try:
            typed(field, str(value), self.place.settings.title_pattern if self.place else "")
        except MagpieError as error:
            self.complain(error)
            return False
        self.typed[entry_id, field.key] = str(value)
        self.dataChanged.emit(index, index)
        self.set_text(entry_id, field.key, str(value))
        return True

    def take_back(self, entry_id: int, key: str) -> None:
        """What was typed could not be kept: what is there is shown again."""
        self.typed.pop((entry_id, key), None)
        row = self.row_of(entry_id)
        if row is not None:
            self.dataChanged.emit(self.index(row, 0), self.index(row, self.columnCount() - 1))


def one_line(field: Field, value: Any) -> str:
    """A value as it stands in a cell."""
    if field.kind.is_people and isinstance(value, tuple) and len(value) > MOST_NAMES:
        return f"{value[0]} and {len(value) - 1} more"
    text = field.shown(value)
    if field.kind.is_dated and "T" in str(value):
        return text.rpartition(" ")[0] or text
    return " ".join(text.split()) if "\n" in text else text
