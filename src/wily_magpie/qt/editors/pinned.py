"""The first columns of a table once more, above its own, so that they stay where they are when it is scrolled sideways."""

from PyQt6.QtCore import QItemSelectionModel, Qt
from PyQt6.QtGui import QContextMenuEvent
from PyQt6.QtWidgets import QAbstractItemDelegate, QAbstractItemView, QHeaderView, QTableView

ROW_PX = 28


class Pinned(QTableView):
    """Lies above a table and shows the same model.

    Args:
        whole: the table, which calls `place` when anything of its measures changes.
        delegate: paints the cells; None: who makes another class of it does.
    """

    def __init__(self, whole: QTableView, delegate: QAbstractItemDelegate | None = None) -> None:
        super().__init__(whole)
        self.whole = whole
        self.count = 0
        self.setModel(whole.model())
        selection = whole.selectionModel()
        if selection is not None:
            self.setSelectionModel(selection)
        if delegate is not None:
            self.setItemDelegate(delegate)
        set_usual(self)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Pinned columns")
        self.setObjectName("pinned")
        mine, theirs = self.verticalScrollBar(), whole.verticalScrollBar()
        if mine is not None and theirs is not None:
            theirs.valueChanged.connect(mine.setValue)
            mine.valueChanged.connect(theirs.setValue)
        self.doubleClicked.connect(whole.doubleClicked)
        own, header = self.horizontalHeader(), whole.horizontalHeader()
        if own is not None and header is not None:
            own.setSectionsClickable(True)
            own.setDefaultAlignment(header.defaultAlignment())
            own.sectionClicked.connect(header.sectionClicked)
        self.hide()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """The table's own menu."""
        self.whole.contextMenuEvent(event)

    def pin(self, count: int) -> None:
        """Keeps the first columns in sight; 0: none."""
        self.count = min(count, self.columns())
        self.place()

    def columns(self) -> int:
        """How many columns the table has."""
        model = self.whole.model()
        return model.columnCount() if model is not None else 0

    def place(self) -> None:
        """Lies exactly above the table's own first columns."""
        self.setVisible(self.count > 0)
        if not self.count:
            return
        width = 0
        for column in range(self.columns()):
            self.setColumnHidden(column, column >= self.count)
            if column < self.count:
                self.setColumnWidth(column, self.whole.columnWidth(column))
                width += self.whole.columnWidth(column)
        header = self.whole.horizontalHeader()
        viewport = self.whole.viewport()
        height = header.height() if header is not None else 0
        outer, inner = self.whole.frameWidth() - self.frameWidth(), 2 * self.frameWidth()
        own = self.horizontalHeader()
        if own is not None:
            own.setFixedHeight(height)
        if viewport is not None:
            self.setGeometry(outer, outer, width + inner, viewport.height() + height + inner)
        self.raise_()


def set_usual(view: QTableView) -> None:
    """What both a table and its pinned part look like; they have their model already."""
    view.setShowGrid(False)
    view.setWordWrap(False)
    view.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
    rows, columns = view.verticalHeader(), view.horizontalHeader()
    if rows is not None and columns is not None:
        rows.hide()
        rows.setDefaultSectionSize(ROW_PX)
        rows.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        columns.setHighlightSections(False)
        # it shows nothing of what is chosen; of the table's own it would ask for each row, to paint the headings
        columns.setSelectionModel(QItemSelectionModel(view.model(), columns))
