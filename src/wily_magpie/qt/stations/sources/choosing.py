"""What is chosen in the table, by whole rectangles: Qt's own list of what is chosen asks the table for each cell."""

from collections.abc import Iterator, Mapping, Sequence
from itertools import groupby

from PyQt6.QtCore import QItemSelection, QItemSelectionModel, QItemSelectionRange

from wily_magpie.core.dataclass import dataclass
from wily_magpie.qt.models.entry_table import EntryTable

ChosenCells = Mapping[int, tuple[str, ...]]
"""By the ids of entries, from top to bottom: the keys of their chosen cells."""
MOST_RANGES = 1_000
"""More are not chosen again: what is painted looks through all of them for each cell."""


@dataclass(frozen=True)
class Block:
    """Chosen cells, by their entries and their fields: it holds in another answer, and when columns are arranged anew."""

    ids: Sequence[int]
    keys: Sequence[str]


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


def chosen_blocks(selection: QItemSelectionModel, table: EntryTable) -> list[Block]:
    """The same as it can be chosen again."""
    return [
        Block(
            [one for one in table.ids_at(rows) if one is not None],
            [table.columns[column].key for column in columns],
        )
        for rows, columns in ranges_of(selection)
    ]


def ranges_of(selection: QItemSelectionModel) -> Iterator[tuple[range, range]]:
    """The rows and columns of what is chosen, rectangle by rectangle."""
    found = selection.selection()
    for at in range(len(found)):
        one = found[at]
        yield range(one.top(), one.bottom() + 1), range(one.left(), one.right() + 1)


def choose_again(selection: QItemSelectionModel, table: EntryTable, blocks: Sequence[Block]) -> bool:
    """Chooses cells besides those that are, as far as they are there; False where they lie too far apart for that."""
    again = QItemSelection()
    for rows, columns in (pair for block in blocks for pair in rectangles(table, block)):
        if len(again) == MOST_RANGES:
            return False
        first, last = table.index(rows.start, columns.start), table.index(rows.stop - 1, columns.stop - 1)
        again.append(QItemSelectionRange(first, last))
    selection.select(again, QItemSelectionModel.SelectionFlag.Select)
    return True


def rectangles(table: EntryTable, block: Block) -> Iterator[tuple[range, range]]:
    """The cells of a block as rows and columns that lie together now."""
    columns = runs([number for number, field in enumerate(table.columns) if field.key in block.keys])
    for rows in runs(table.rows_of(block.ids)) if columns else ():
        for some in columns:
            yield rows, some


def runs(numbers: Sequence[int]) -> list[range]:
    """Rising numbers as ranges without gaps."""
    together = (list(some) for _, some in groupby(enumerate(numbers), lambda pair: pair[1] - pair[0]))
    return [range(some[0][1], some[-1][1] + 1) for some in together]
