"""The table of a view: spine labels for choices, group headings across all columns, cells edited as in a spreadsheet."""

from collections.abc import Callable, Sequence
from functools import cached_property

from PyQt6.QtCore import QItemSelectionModel, QModelIndex, QRect, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QDrag,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPaintEvent,
    QResizeEvent,
)
from PyQt6.QtWidgets import QAbstractItemDelegate, QAbstractItemView, QTableView, QWidget

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import Listing, PlaceInfo
from wily_magpie.qt.dropped import from_mime, is_welcome, of_entries
from wily_magpie.qt.editors.field_editor import NamesFor
from wily_magpie.qt.editors.pinned import Pinned, set_usual
from wily_magpie.qt.editors.spine import BAR_PX, GAP_PX
from wily_magpie.qt.models.entry_table import HELD, EntryTable
from wily_magpie.qt.models.entry_window import Fetch
from wily_magpie.qt.stations.sources.cell_painting import PADDING_PX, CellPainter
from wily_magpie.qt.stations.sources.cells import CellDelegate
from wily_magpie.qt.stations.sources.choosing import (
    Block,
    ChosenCells,
    choose_again,
    chosen_blocks,
    chosen_cells,
    chosen_rows,
)
from wily_magpie.qt.style.parts import label
from wily_magpie.qt.style.theme import THEME

NARROWEST_PX, WIDEST_PX, WIDEST_TITLE_PX = 56, 150, 300
SAMPLED_ROWS = 30
"""Rows from the top whose texts say how wide a column is at first."""
MOST_SPANS, MOST_NAMED = 2000, 200
RETURNS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
OWN_KEYS = (Qt.Key.Key_C, Qt.Key.Key_V, Qt.Key.Key_D)


class EntryTableView(QTableView):
    """The table.

    Signals:
        chosen: the id of the entry that is the current one, or None.
        opened: the id of an entry to be read.
        menu_asked: a place on the screen.
        rested: no cell is being edited any more.
        dropped: what was dropped, and the id of the entry that it was dropped on, or None.
        scattered: so many rows were chosen, and lie too far apart in another answer to stay it.
    """

    chosen = pyqtSignal(object)
    opened = pyqtSignal(int)
    menu_asked = pyqtSignal(object)
    rested = pyqtSignal()
    dropped = pyqtSignal(object, object)
    scattered = pyqtSignal(int)

    def __init__(
        self,
        fetch: Fetch,
        set_text: Callable[[int, str, str], None],
        complain: Callable[[MagpieError], None],
        names_for: NamesFor = lambda _field, _take: None,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.table = EntryTable(fetch, set_text, complain, self)
        self.fitted: object = None
        """For what the widths were set last."""
        self.setModel(self.table)
        self.setItemDelegate(CellDelegate(names_for, self))
        set_usual(self)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        triggers = QAbstractItemView.EditTrigger
        self.setEditTriggers(triggers.EditKeyPressed | triggers.AnyKeyPressed | triggers.DoubleClicked)
        self.setAccessibleName("Entries")
        self.setAcceptDrops(True)
        header = self.horizontalHeader()
        if header is not None:
            header.setSectionsMovable(True)
            header.setMinimumSectionSize(48)
            header.setSectionsClickable(True)
            header.sectionResized.connect(self._on_resized)

    @cached_property
    def pinned(self) -> Pinned:
        """The columns that stay where they are; made when some are pinned for the first time."""
        return PinnedCells(self)

    @property
    def has_pinned(self) -> bool:
        """Whether any were pinned so far."""
        return "pinned" in self.__dict__

    # what is shown

    def show_listing(
        self,
        place: PlaceInfo,
        columns: Sequence[Field],
        listing: Listing,
        first: Sequence[Entry] = (),
        at_position: int = 0,
        layout: Layout | None = None,
    ) -> None:
        """Shows an answer; the current cell and the selected ones stay where their entries are still there."""
        is_same = self.table.place is not None and self.table.place.key == place.key  # else the ids are other entries'
        blocks = self.chosen_blocks() if is_same else []
        current = self.currentIndex()
        is_there = is_same and current.isValid()
        at = (self.table.id_at(current.row()), self.key_at(current.column())) if is_there else None
        if self.table.show(place, columns, listing, first, at_position, layout):
            self.span_groups()
            self.choose_cells(blocks, at)
        count = layout.pinned if layout is not None else 0
        if count or self.has_pinned:
            self.pinned.pin(count)

    def key_at(self, column: int) -> str:
        """The key of a column's field."""
        return self.table.columns[column].key if 0 <= column < len(self.table.columns) else ""

    def span_groups(self) -> None:
        """Lets the headings of groups go across all columns."""
        self.clearSpans()
        if 0 < len(self.table.heads) < MOST_SPANS and self.table.columnCount() > 1:
            for row in self.table.heads:
                self.setSpan(row, 0, 1, self.table.columnCount())

    def set_widths(self) -> None:
        """Sets the columns' widths: those of the layout, else what their first texts need.

        What came in since they were last set does not change them: columns stand still while one looks at them.
        """
        table = self.table
        key = table.place.key if table.place is not None else ""
        shown = (key, tuple(one.key for one in table.columns), table.layout, table.rowCount() > 0)
        if shown == self.fitted:
            return
        self.fitted = shown
        for place, field in enumerate(self.table.columns):
            characters = self.table.layout.column(field.key).width
            wanted = self.width_of(characters) if characters else self.fitting_width(place, field)
            self.setColumnWidth(place, wanted)
        if self.has_pinned:
            self.pinned.place()

    def width_of(self, characters: int) -> int:
        """So many characters in pixels."""
        return round(characters * self.fontMetrics().averageCharWidth()) + 2 * PADDING_PX

    def characters(self, width_px: int) -> int:
        """A width in characters."""
        return max(1, round((width_px - 2 * PADDING_PX) / max(1, self.fontMetrics().averageCharWidth())))

    def fitting_width(self, column: int, field: Field) -> int:
        """A width in which the heading and the first texts of a column fit, within bounds."""
        metrics = self.fontMetrics()
        rows = [row for row in range(min(SAMPLED_ROWS, self.table.rowCount())) if self.table.group_at(row) is None]
        texts = [self.table.layout.heading(field), *(self.table.cell(row, column)[0] for row in rows)]
        spine = BAR_PX + GAP_PX if field.kind.has_spine else 0
        needed = max(map(metrics.horizontalAdvance, texts)) + 2 * PADDING_PX + spine + 4
        return max(NARROWEST_PX, min(needed, WIDEST_TITLE_PX if field.key == "title" else WIDEST_PX))

    def widths(self) -> dict[str, int]:
        """The widths by field key."""
        return {field.key: self.columnWidth(place) for place, field in enumerate(self.table.columns)}

    # what is chosen

    def chosen_ids(self) -> list[int]:
        """The ids of the rows with selected cells, from top to bottom."""
        return [entry_id for entry_id in self.table.ids_at(self.chosen_rows()) if entry_id is not None]

    def chosen_rows(self) -> list[int]:
        """The rows themselves."""
        selection = self.selectionModel()
        return chosen_rows(selection) if selection is not None else []

    def chosen_cells(self) -> ChosenCells:
        """The selected cells."""
        selection = self.selectionModel()
        return chosen_cells(selection, self.table) if selection is not None else {}

    def chosen_blocks(self) -> list[Block]:
        """The same as it can be chosen again."""
        selection = self.selectionModel()
        return chosen_blocks(selection, self.table) if selection is not None else []

    def choose_cells(self, blocks: Sequence[Block], at: tuple[int | None, str] | None) -> None:
        """Selects cells again after another answer came, as far as they are there."""
        selection = self.selectionModel()
        if selection is None:
            return
        row = self.table.row_of(at[0]) if at is not None and at[0] is not None else None
        if row is not None and at is not None:
            column = next((number for number, field in enumerate(self.table.columns) if field.key == at[1]), 0)
            selection.setCurrentIndex(self.table.index(row, column), QItemSelectionModel.SelectionFlag.ClearAndSelect)
        if not choose_again(selection, self.table, blocks):
            self.scattered.emit(len({one for block in blocks for one in block.ids}))

    def choose(self, entry_id: int | None) -> bool:
        """Makes an entry the current one; False where it is not in the table."""
        row = self.table.row_of(entry_id) if entry_id is not None else None
        selection = self.selectionModel()
        if row is None or selection is None:
            return False
        if self.currentIndex().row() != row:
            column = max(0, self.currentIndex().column())
            index = self.table.index(row, min(column, self.table.columnCount() - 1))
            selection.setCurrentIndex(index, QItemSelectionModel.SelectionFlag.ClearAndSelect)
            self.scrollTo(index)
        return True

    def is_editing(self) -> bool:
        """Whether a cell is being edited."""
        return self.state() == QAbstractItemView.State.EditingState

    # keys and mouse

    def currentChanged(self, current: QModelIndex, previous: QModelIndex) -> None:
        super().currentChanged(current, previous)
        if current.row() != previous.row() or not current.isValid():
            for row in {current.row(), previous.row()} - {-1}:  # the whole row of the current cell is tinted
                self.dataChanged(self.table.index(row, 0), self.table.index(row, self.table.columnCount() - 1))
            self.chosen.emit(self.table.id_at(current.row()) if current.isValid() else None)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self.is_editing():
            super().keyPressEvent(event)
            return
        group = self.table.group_at(self.currentIndex().row())
        if group is not None and event.key() in (*RETURNS, Qt.Key.Key_Space, Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.fold(group)
            return
        key, has_control = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if key in RETURNS and not event.modifiers():
            self.edit(self.currentIndex())
        elif has_control and key in OWN_KEYS:
            event.ignore()  # the commands' own: they are actions of this table
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if not self.take_press(self, event):
            super().mousePressEvent(event)

    def take_press(self, view: QTableView, event: QMouseEvent | None) -> bool:
        """A press on the heading of a group folds it, or shows its entries again; with Ctrl all of that level.

        What is pressed elsewhere is dragged where it is a title that is chosen already; else cells are chosen by dragging.

        Returns:
            Whether nothing more is to be done.
        """
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return False
        at = event.position().toPoint()
        row, index = view.rowAt(at.y()), view.indexAt(at)
        group = self.table.group_at(row) if row >= 0 else None
        if group is not None:
            self.fold(group, all_of_level=bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
            return True
        selection = self.selectionModel()
        is_chosen = selection is not None and selection.isSelected(index) and not event.modifiers()
        view.setDragEnabled(is_chosen and bool(self.table.flags(index) & HELD))
        return False

    def startDrag(self, _supported: Qt.DropAction) -> None:
        """Drags the chosen notes."""
        ids, place = self.chosen_ids(), self.table.place
        if place is None or not ids:
            return
        rows = self.chosen_rows()[:MOST_NAMED]
        titles = [entry.title for row in rows if (entry := self.table.entry_at(row)) is not None]
        if len(ids) > len(titles):
            titles.append(f"and {len(ids) - len(titles):,} more")
        said = label(titles[0] if len(titles) == 1 else f"{len(ids):,} notes", "ink")
        said.setContentsMargins(8, 4, 8, 4)
        THEME.dress(said)
        drag = QDrag(self)
        drag.setMimeData(of_entries(place.key, ids, titles))
        drag.setPixmap(said.grab())
        drag.exec(Qt.DropAction.CopyAction)

    def fold(self, group: int, *, all_of_level: bool = False) -> None:
        """Folds a group, or shows its entries again; what is chosen stays chosen where it is still to be seen."""
        blocks, current = self.chosen_blocks(), self.currentIndex()
        at = (self.table.id_at(current.row()), self.key_at(current.column())) if current.isValid() else None
        groups = self.table.listing.groups
        if all_of_level:
            same = {self.table.path_of(n) for n, one in enumerate(groups) if one.level == groups[group].level}
            is_folded = self.table.path_of(group) in self.table.folded
            self.table.fold_all(self.table.folded - same if is_folded else self.table.folded | same)
        else:
            self.table.fold(group)
        self.span_groups()
        self.choose_cells(blocks, at)

    def closeEditor(self, editor: QWidget | None, hint: QAbstractItemDelegate.EndEditHint) -> None:
        """Enter goes on below, Tab beside, as in a spreadsheet."""
        hints = QAbstractItemDelegate.EndEditHint
        super().closeEditor(editor, hints.NoHint)
        actions = QAbstractItemView.CursorAction
        moves = {
            hints.SubmitModelCache: actions.MoveDown,
            hints.EditNextItem: actions.MoveRight,
            hints.EditPreviousItem: actions.MoveLeft,
        }
        if hint in moves:
            index = self.moveCursor(moves[hint], Qt.KeyboardModifier.NoModifier)
            selection = self.selectionModel()
            if index.isValid() and selection is not None:
                selection.setCurrentIndex(index, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        self.setFocus()
        self.rested.emit()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and is_welcome(event.mimeData()):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is not None and is_welcome(event.mimeData()):
            index = self.indexAt(event.position().toPoint())
            if index.isValid():
                self.setCurrentIndex(index)
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and is_welcome(data):
            index = self.indexAt(event.position().toPoint())
            self.dropped.emit(from_mime(data), self.table.id_at(index.row()) if index.isValid() else None)
            event.acceptProposedAction()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is not None:
            self.menu_asked.emit(event.globalPos())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if event is not None:
            self.paint_cells(self, event.rect())

    def paint_cells(self, view: QTableView, area: QRect) -> None:
        """Paints cells of this table, or of what lies above it."""
        CellPainter(view, self.table, has_focus=self.hasFocus()).paint(area)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self.has_pinned:
            self.pinned.place()

    def _on_resized(self, _section: int, _old: int, _new: int) -> None:
        if self.has_pinned:
            self.pinned.place()


class PinnedCells(Pinned):
    """The pinned columns of a table of entries."""

    def __init__(self, whole: EntryTableView) -> None:
        super().__init__(whole)
        self.entries = whole

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if event is not None:
            self.entries.paint_cells(self, event.rect())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if not self.entries.take_press(self, event):
            super().mousePressEvent(event)

    def startDrag(self, supported: Qt.DropAction) -> None:
        self.entries.startDrag(supported)
