"""What is chosen in the table, by whole ranges: Qt's own list of what is chosen asks the table for each cell."""

from collections.abc import Iterator, Mapping

from PyQt6.QtCore import QItemSelection, QItemSelectionModel, QItemSelectionRange

from wily_magpie.qt.models.entry_table import EntryTable

ChosenCells = Mapping[int, tuple[str, ...]]
"""By the ids of entries, from top to bottom: the keys of their chosen cells."""
MOST_RANGES = 1_000
"""More are not chosen again: what is painted looks through all of them for each cell."""


def chosen_rows(selection: QItemSelectionModel) -> list[int]:
    """The rows with chosen cells, from top to bottom."""
    ranges = list(ranges_of(selection))
    return list(ranges[0][0]) if len(ranges) == 1 else sorted({row for rows, _ in ranges for row in rows})


def chosen_cells(selection: QItemSelectionModel, table: EntryTable) -> ChosenCells:
    """The chosen cells; headings of groups have none."""
    keys_of: dict[int, tuple[str, ...]] = {}
    for rows, columns in ranges_of(selection):
        keys = tuple(table.columns[column].key for column in columns)
        for row in rows:
            keys_of[row] = (*keys_of[row], *keys) if row in keys_of else keys
    rows_chosen = sorted(keys_of)
    ids = zip(rows_chosen, table.ids_at(rows_chosen), strict=True)
    return {entry_id: keys_of[row] for row, entry_id in ids if entry_id is not None}


def ranges_of(selection: QItemSelectionModel) -> Iterator[tuple[range, range]]:
    """The rows and columns of what is chosen, rectangle by rectangle."""
    found = selection.selection()
    for at in range(len(found)):
        one = found[at]
        yield range(one.top(), one.bottom() + 1), range(one.left(), one.right() + 1)


def choose_again(selection: QItemSelectionModel, table: EntryTable, cells: ChosenCells) -> bool:
    """Chooses cells besides those that are, as far as they are there; False where they lie too far apart for that."""
    again = QItemSelection()
    for rows, columns in rectangles(table, cells):
        if len(again) == MOST_RANGES:
            return False
        again.append(
            QItemSelectionRange(table.index(rows.start, columns.start), table.index(rows.stop - 1, columns.stop - 1))
        )
    selection.select(again, QItemSelectionModel.SelectionFlag.Select)
    return True


def rectangles(table: EntryTable, cells: ChosenCells) -> Iterator[tuple[range, range]]:
    """Cells as rows and columns that lie together."""
    number_of = {field.key: number for number, field in enumerate(table.columns)}
    row_of = table.rows_of(cells)
    numbers = {
        row: tuple(sorted(number_of[key] for key in cells[one] if key in number_of)) for one, row in row_of.items()
    }
    rows = sorted(row for row in numbers if numbers[row])
    begin = 0
    for at in range(1, len(rows) + 1):
        if at < len(rows) and rows[at] == rows[at - 1] + 1 and numbers[rows[at]] == numbers[rows[begin]]:
            continue
        for columns in runs(numbers[rows[begin]]):
            yield range(rows[begin], rows[at - 1] + 1), columns
        begin = at


def runs(numbers: tuple[int, ...]) -> Iterator[range]:
    """Sorted numbers as ranges without gaps."""
    begin = 0
    for at in range(1, len(numbers) + 1):
        if at == len(numbers) or numbers[at] != numbers[at - 1] + 1:
            yield range(numbers[begin], numbers[at - 1] + 1)
            begin = at
