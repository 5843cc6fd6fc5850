"""The table of the bench: a row a field, a column a sample page, in each cell what the field would get."""

from collections.abc import Sequence

from PyQt6.QtCore import QModelIndex, QRect, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QKeySequence,
    QPainter,
    QResizeEvent,
)
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from wily_magpie.core.templates.bench import ACCEPTED, BLANK, DIFFERS, FAILED, UNSET, Cell, Sample, short
from wily_magpie.qt.dropped import from_mime, is_welcome
from wily_magpie.qt.editors.pinned import Pinned, set_usual
from wily_magpie.qt.style.fonts import font_family
from wily_magpie.qt.style.parts import plain_tip
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.style.tokens import MONO_FONT

FIELD, RULE, FIRST = range(3)
"""Columns: the field, where it comes from, and the first sample."""
STATE_ROLE = int(Qt.ItemDataRole.UserRole)
COUNT_ROLE = STATE_ROLE + 1
BAR_PX, PADDING_PX, LONGEST_HEAD = 3, 8, 20
FIELD_PX, RULE_PX, SAMPLE_PX = 132, 168, 170
SIGNS = {DIFFERS: "≠ ", FAILED: "! ", ACCEPTED: "✓ "}
BAR_COLOURS = {DIFFERS: "alarm", FAILED: "alarm", ACCEPTED: "moss"}


class BenchDelegate(QStyledItemDelegate):
    """Cells with a bar and a sign by their state; blank ones in slate."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        colours = THEME.colours
        state = str(index.data(STATE_ROLE) or "")
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        ground = colours.wash if chosen else colours.ground if index.column() < FIRST else colours.card
        painter.save()
        painter.fillRect(option.rect, QColor(ground))
        painter.setPen(QColor(colours.rule))
        painter.drawLine(option.rect.bottomLeft(), option.rect.bottomRight())
        painter.drawLine(option.rect.topRight(), option.rect.bottomRight())
        rect = option.rect.adjusted(PADDING_PX, 0, -6, 0)
        if state in BAR_COLOURS:
            bar = QRect(option.rect.left() + 1, option.rect.top() + 4, BAR_PX, option.rect.height() - 9)
            painter.fillRect(bar, QColor(colours.spine(BAR_COLOURS[state])))
        font = option.font
        if index.column() == RULE and index.data(STATE_ROLE) == "expression":
            font.setFamily(font_family(MONO_FONT))
            font.setPointSizeF(8.5)
        if index.column() == FIELD:
            rect = self.paint_count(painter, rect, str(index.data(COUNT_ROLE) or ""))
        painter.setFont(font)
        is_quiet = state == BLANK or (index.column() == RULE and state == "none")
        painter.setPen(QColor(colours.slate if is_quiet else colours.alarm if state == FAILED else colours.ink))
        text = painter.fontMetrics().elidedText(str(index.data() or ""), Qt.TextElideMode.ElideRight, rect.width())
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, text)
        painter.restore()

    @staticmethod
    def paint_count(painter: QPainter, rect: QRect, count: str) -> QRect:
        """Paints what is missing in a row at its right; the rectangle that is left."""
        if not count:
            return rect
        painter.setPen(QColor(THEME.colours.brass))
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, count)
        return rect.adjusted(0, 0, -painter.fontMetrics().horizontalAdvance(count) - 6, 0)


class BenchTable(QTableWidget):
    """Shows rows and cells; the bench works them out.

    Signals:
        pointed: the row and the sample of the current cell; the sample is -1 in the first columns.
        edit_asked: the person wants to write the rule of the current row.
        accept_asked: the person says that the chosen cells are right.
        dropped: pages dropped on it, or pasted.
    """

    pointed = pyqtSignal(int, int)
    edit_asked = pyqtSignal()
    accept_asked = pyqtSignal()
    dropped = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(0, FIRST, parent)
        self.setAccessibleName("Fields and what each sample page gives them")
        set_usual(self)
        self.setItemDelegate(BenchDelegate(self))
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.widths: dict[int, int] = {}
        """Of columns that the person made wider or narrower."""
        self.setAcceptDrops(True)
        header = self.horizontalHeader()
        if header is not None:
            header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
            header.setTextElideMode(Qt.TextElideMode.ElideNone)
            header.sectionResized.connect(self._on_resized)
        self.pinned = Pinned(self, BenchDelegate(self))
        self.currentCellChanged.connect(lambda row, column, *_: self.pointed.emit(row, column - FIRST))
        self.doubleClicked.connect(self._on_double)

    def show_samples(self, rows: Sequence[str], samples: Sequence[Sample]) -> None:
        """Makes the rows and the columns; the cells come later."""
        at = (self.currentRow(), self.currentColumn())
        self.blockSignals(True)
        self.setRowCount(len(rows))
        self.setColumnCount(FIRST + len(samples))
        self.setHorizontalHeaderLabels(
            ["Field\n", "Where it comes from\n", *(self.head(one.title, []) for one in samples)]
        )
        for row, name in enumerate(rows):
            for column in range(self.columnCount()):
                self.setItem(row, column, QTableWidgetItem(name if column == FIELD else ""))
        for column in range(self.columnCount()):
            usual = {FIELD: FIELD_PX, RULE: RULE_PX}.get(column, SAMPLE_PX)
            self.setColumnWidth(column, self.widths.get(column, usual))
        self.pinned.pin(FIRST)
        self.blockSignals(False)
        if self.rowCount():
            column = min(max(FIRST if samples else RULE, at[1]), self.columnCount() - 1)
            self.setCurrentCell(min(max(0, at[0]), self.rowCount() - 1), column)

    def show_rule(self, row: int, text: str, source: str) -> None:
        """Shows where a row comes from."""
        item = self.item(row, RULE)
        if item is not None:
            item.setText(text or "left alone")
            item.setData(STATE_ROLE, source or "none")
            item.setToolTip(plain_tip(text))

    def show_cells(self, row: int, cells: Sequence[Cell]) -> None:
        """Shows a row, and counts what is missing in it."""
        for at, cell in enumerate(cells):
            item = self.item(row, FIRST + at)
            if item is None:
                continue
            text = short(cell.text) or cell.problem or ("" if cell.state == UNSET else "blank")
            item.setText(SIGNS.get(cell.state, "") + text)
            item.setData(STATE_ROLE, cell.state)
            item.setToolTip(plain_tip(told(cell)))
        name = self.item(row, FIELD)
        if name is not None:
            name.setData(COUNT_ROLE, counted(cells))

    def show_counts(self, samples: Sequence[Sample], columns: Sequence[Sequence[Cell]]) -> None:
        """Shows at the head of each column what is missing in it."""
        for at, (sample, cells) in enumerate(zip(samples, columns, strict=True)):
            header = self.horizontalHeaderItem(FIRST + at)
            if header is not None:
                header.setText(self.head(sample.title, cells))
                header.setToolTip(plain_tip(f"{sample.title}\n{sample.context.reading.page.address}"))
        self.pinned.place()

    @staticmethod
    def head(title: str, cells: Sequence[Cell]) -> str:
        """The head of a column."""
        return (
            f"{title if len(title) < LONGEST_HEAD else title[: LONGEST_HEAD - 1] + '…'}\n{counted(cells) or 'complete'}"
        )

    def chosen_cells(self) -> list[tuple[int, int]]:
        """(row, sample) of the selected cells."""
        return sorted({(one.row(), one.column() - FIRST) for one in self.selectedIndexes() if one.column() >= FIRST})

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_F2):
            self.edit_asked.emit()
        elif event.key() == Qt.Key.Key_Space:
            self.accept_asked.emit()
        elif event.matches(QKeySequence.StandardKey.Paste):
            clipboard = QApplication.clipboard()
            data = clipboard.mimeData() if clipboard is not None else None
            if data is not None and is_welcome(data):
                self.dropped.emit(from_mime(data))
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.pinned.place()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and is_welcome(event.mimeData()):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is not None and is_welcome(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and is_welcome(data):
            self.dropped.emit(from_mime(data))
            event.acceptProposedAction()

    def _on_resized(self, column: int, _old: int, width: int) -> None:
        if not self.signalsBlocked():
            self.widths[column] = width
        self.pinned.place()

    def _on_double(self, _index: QModelIndex) -> None:
        self.edit_asked.emit()


def counted(cells: Sequence[Cell]) -> str:
    """What is missing, in words; "" where nothing is."""
    counts = [
        (sum(cell.state == DIFFERS for cell in cells), "differs", "differ"),
        (sum(cell.state == FAILED for cell in cells), "fails", "fail"),
        (sum(cell.state == BLANK for cell in cells), "blank", "blank"),
    ]
    return ", ".join(f"{count} {one if count == 1 else many}" for count, one, many in counts if count)


def told(cell: Cell) -> str:
    """All that there is to say of a cell."""
    lines = [cell.text[:600], f"from {cell.origin}" if cell.origin else "", cell.problem]
    if cell.state == DIFFERS:
        lines.append(f"accepted was: {cell.accepted or 'blank'}")
    elif cell.state == ACCEPTED:
        lines.append("accepted as right")
    return "\n".join(filter(None, lines))
