"""Lanes: the entries of each value of a choice, of yes and no, or of a reference, side by side; moving an entry sets the field."""

from collections.abc import Iterable, Sequence

from PyQt6.QtCore import QPoint, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QContextMenuEvent, QFont, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QApplication, QWidget

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.layout import Lane, Layout
from wily_magpie.qt.stations.sources.cell_painting import colour_of
from wily_magpie.qt.stations.sources.layouts.canvas import EntryCanvas, paint_lines, reading_font, shown_texts
from wily_magpie.qt.stations.sources.table import EntryTableView
from wily_magpie.qt.style.theme import THEME

LANE_PX, FOLDED_PX, GAP_PX, MARGIN_PX, PADDING_PX = 236, 34, 10, 12, 9
HEAD_PX, FOOT_PX = 38, 30
ONTO = (Qt.Key.Key_Left, Qt.Key.Key_Right)
SHIFTED = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier


@dataclass(frozen=True)
class Column:
    """One lane as it is shown.

    Attributes:
        group: its number among the groups of the answer; -1: nothing stands in it.
        first: the row of its first entry; count: how many they are.
    """

    lane: Lane
    colour: str
    left: int
    width: int
    group: int = -1
    first: int = 0
    count: int = 0
    sums: tuple[str, ...] = ()


class LanesView(EntryCanvas):
    """See the module.

    Signals:
        moved: ids that are to have the value of a lane ("" for blank), and the id before which they are put, or None.
        lane_menu_asked: a lane, and a place on the screen.
        fold_asked: a lane is to be folded, or shown again.
    """

    moved = pyqtSignal(list, str, object)
    lane_menu_asked = pyqtSignal(object, object)
    fold_asked = pyqtSignal(object)
    head_px, foot_px = HEAD_PX, FOOT_PX

    def __init__(self, view: EntryTableView, parent: QWidget | None = None) -> None:
        super().__init__(view, "Lanes", parent)
        self.columns: list[Column] = []
        self.card_px = 86
        self.pressed: QPoint | None = None
        self.dragged: QPoint | None = None
        self.setMouseTracking(True)

    @property
    def field(self) -> Field | None:
        """The field whose values the lanes are."""
        return self.layout_now.lane_field(self.place.fields) if self.place is not None else None

    def show_layout(self, layout: Layout) -> None:
        fields = layout.shown_fields(self.place.fields) if self.place is not None else []
        self.card_px = 58 + 17 * min(3, len(fields))
        super().show_layout(layout)

    def lanes(self) -> list[Lane]:
        """All lanes in order: as the person has put them, then those of the options, then other values, the blank one last."""
        field = self.field
        said = {lane.name: lane for lane in self.layout_now.lanes}
        usual = [*(option.name for option in field.options), *field.kind.fixed_texts] if field is not None else []
        there = [group.name for group in self.table.listing.groups]
        names = dict.fromkeys([*said, *usual, *(name for name in there if name), ""])
        return [said.get(name, Lane(name)) for name in names]

    def arrange(self, width: int) -> QSize:
        groups = self.table.listing.groups
        by_name = {group.name: number for number, group in enumerate(groups)}
        field, left, deepest = self.field, MARGIN_PX, 0
        heads = {self.table.group_at(row): row for row in self.table.heads}
        headings = self.table.headings
        self.columns = []
        for lane in self.lanes():
            number = by_name.get(lane.name, -1)
            option = field.option(lane.name) if field is not None else None
            wide = FOLDED_PX if lane.is_folded else LANE_PX
            count = groups[number].rows if number >= 0 else 0
            first = heads.get(number, -1) + 1 if number >= 0 else 0
            sums = (
                tuple(f"{headings.get(key, key)}: {text}" for key, text in groups[number].sums.items())
                if number >= 0
                else ()
            )
            self.columns.append(Column(lane, option.colour if option else "", left, wide, number, first, count, sums))
            left += wide + GAP_PX
            deepest = max(deepest, 0 if lane.is_folded else count)
        return QSize(left - GAP_PX + MARGIN_PX, HEAD_PX + deepest * (self.card_px + GAP_PX) + GAP_PX + FOOT_PX)

    def column_of(self, row: int) -> Column | None:
        """The lane that a row stands in."""
        return next((one for one in self.columns if one.first <= row < one.first + one.count), None)

    def column_at(self, at: QPoint) -> Column | None:
        """The lane at a point of what is seen."""
        across = (at + self.offset).x()
        return next(
            (one for one in self.columns if one.left - GAP_PX // 2 <= across < one.left + one.width + GAP_PX // 2), None
        )

    def rect_of(self, row: int) -> QRect:
        column = self.column_of(row)
        if column is None or column.lane.is_folded:
            return QRect()
        top = HEAD_PX + GAP_PX + (row - column.first) * (self.card_px + GAP_PX)
        return QRect(column.left, top, column.width, self.card_px)

    def rows_in(self, rect: QRect) -> Iterable[int]:
        step = self.card_px + GAP_PX
        first = max(0, (rect.top() - HEAD_PX - GAP_PX) // step)
        last = max(0, (rect.bottom() - HEAD_PX - GAP_PX) // step + 1)
        for column in self.columns:
            is_seen = column.left <= rect.right() and column.left + column.width >= rect.left()
            if is_seen and not column.lane.is_folded:
                yield from range(column.first + min(first, column.count), column.first + min(last, column.count))

    def neighbour(self, row: int, key: int) -> int | None:
        """Up and down within the lane, left and right to the lane beside that has entries."""
        column = self.column_of(row)
        if column is None:
            return None
        inside = row - column.first
        page = max(1, (self.surface.height() - HEAD_PX - FOOT_PX) // (self.card_px + GAP_PX))
        if key in ONTO:
            at = self.columns.index(column)
            others = self.columns[at + 1 :] if key == Qt.Key.Key_Right else self.columns[:at][::-1]
            other = next((one for one in others if one.count and not one.lane.is_folded), None)
            return other.first + min(inside, other.count - 1) if other is not None else None
        steps = {
            Qt.Key.Key_Up: inside - 1, Qt.Key.Key_Down: inside + 1, Qt.Key.Key_Home: 0, Qt.Key.Key_End: column.count - 1,
            Qt.Key.Key_PageUp: inside - page, Qt.Key.Key_PageDown: inside + page,
        }  # fmt: skip
        return column.first + max(0, min(steps[Qt.Key(key)], column.count - 1))

    # painting

    def paint_row(self, painter: QPainter, row: int, rect: QRect, entry: Entry) -> None:
        self.paint_box(painter, row, rect, entry)
        inside = rect.adjusted(3 + PADDING_PX, PADDING_PX - 2, -PADDING_PX, -5)
        c = THEME.colours
        down = paint_lines(painter, inside, entry.title, reading_font(10.5, is_bold=True), c.ink, 2)
        small = QFont(self.font())
        small.setPointSizeF(9.0)
        rest = inside.adjusted(0, down + 3, 0, 0)
        field = self.field
        fields = self.layout_now.shown_fields(self.place.fields) if self.place is not None else []
        for text in shown_texts(entry, [one for one in fields if field is None or one.key != field.key]):
            if rest.height() >= 14:
                rest = rest.adjusted(0, paint_lines(painter, rest, text, small, c.slate, 1) + 1, 0, 0)

    def paint_beside(self, painter: QPainter) -> None:
        """The heads and the feet of the lanes stand still; what is dragged goes along with the mouse."""
        c, seen, offset = THEME.colours, self.surface.rect(), self.offset
        foot = seen.height() - FOOT_PX
        painter.fillRect(QRect(0, 0, seen.width(), HEAD_PX), colour_of(c.ground))
        painter.fillRect(QRect(0, foot, seen.width(), FOOT_PX), colour_of(c.ground))
        target = self.column_at(self.dragged) if self.dragged is not None else None
        for column in self.columns:
            left = column.left - offset.x()
            if left < seen.width() and left + column.width > 0:
                self.paint_lane(
                    painter, column, QRect(left, 0, column.width, seen.height()), is_target=column == target
                )
        painter.setPen(colour_of(c.rule))
        painter.drawLine(0, HEAD_PX - 1, seen.width(), HEAD_PX - 1)
        painter.drawLine(0, foot, seen.width(), foot)
        if self.dragged is not None:
            self.paint_dragged(painter, self.dragged)

    def paint_lane(self, painter: QPainter, column: Column, rect: QRect, *, is_target: bool) -> None:
        """The head and the foot of a lane."""
        c, lane = THEME.colours, column.lane
        font = QFont(self.font())
        font.setBold(True)
        painter.setFont(font)
        if is_target:
            painter.setPen(QPen(colour_of(c.petrol), 2))
            painter.drawRect(rect.adjusted(-3, HEAD_PX + 2, 3, -FOOT_PX - 3))
        painter.fillRect(QRect(rect.left(), 10, 3, HEAD_PX - 20), QColor(c.spine(column.colour)))
        is_over = bool(lane.limit) and column.count > lane.limit
        told = f"{column.count:,} of {lane.limit}" if lane.limit else f"{column.count:,}"
        painter.setPen(colour_of(c.ink if lane.name else c.slate))
        name = lane.name or "blank"
        if lane.is_folded:
            painter.save()
            painter.translate(rect.left() + rect.width() // 2 + 5, HEAD_PX + 10)
            painter.rotate(90)
            painter.drawText(0, 0, f"{name} · {told}")
            painter.restore()
            return
        metrics = painter.fontMetrics()
        width = metrics.horizontalAdvance(told)
        shown = metrics.elidedText(name, Qt.TextElideMode.ElideRight, rect.width() - width - 26)
        middle = QRect(rect.left() + 10, 0, rect.width() - 12, HEAD_PX)
        painter.drawText(middle, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, shown)
        painter.setPen(colour_of(c.alarm if is_over else c.slate))
        painter.drawText(middle, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, told)
        small = QFont(self.font())
        small.setPointSizeF(9.0)
        painter.setFont(small)
        painter.setPen(colour_of(c.slate))
        many = "1 entry" if column.count == 1 else f"{column.count:,} entries"
        foot = " · ".join([f"{column.count:,} for at most {lane.limit}" if is_over else many, *column.sums])
        area = QRect(rect.left() + 4, rect.height() - FOOT_PX, rect.width() - 4, FOOT_PX)
        elided = painter.fontMetrics().elidedText(foot, Qt.TextElideMode.ElideRight, area.width())
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, elided)

    def paint_dragged(self, painter: QPainter, at: QPoint) -> None:
        """What is dragged."""
        c, count = THEME.colours, len(self.view.chosen_ids())
        rect = QRect(at + QPoint(8, 8), QSize(190, 30))
        painter.fillRect(rect, colour_of(c.wash))
        painter.setPen(colour_of(c.petrol))
        painter.drawRect(rect)
        entry = self.table.entry_at(self.current_row())
        text = f"{count} entries" if count > 1 else entry.title if entry is not None else ""
        painter.setPen(colour_of(c.ink))
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, rect.width() - 14)
        painter.drawText(rect.adjusted(8, 0, -6, 0), Qt.AlignmentFlag.AlignVCenter, shown)

    # moving

    def move_to(self, name: str, before: int | None = None) -> None:
        """Moves what is chosen into a lane."""
        ids = self.view.chosen_ids()
        if ids and self.field is not None and not self.table.is_read_only:
            self.moved.emit(ids, name, before)

    def ids_of(self, column: Column) -> list[int]:
        """The entries of a lane in their order."""
        begin = self.table.position(column.first) if column.count else 0
        return list(self.table.listing.ids[begin : begin + column.count])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Ctrl+Shift with an arrow moves what is chosen: to the lane beside, or up and down within it."""
        column = self.column_of(self.current_row())
        if event is None or event.modifiers() & SHIFTED != SHIFTED or column is None:
            super().keyPressEvent(event)
            return
        at, key = self.columns.index(column), event.key()
        if key in ONTO:
            beside = at + (1 if key == Qt.Key.Key_Right else -1)
            if 0 <= beside < len(self.columns):
                self.move_to(self.columns[beside].lane.name)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.move_within(column, -1 if key == Qt.Key.Key_Up else 1)
        else:
            super().keyPressEvent(event)

    def move_within(self, column: Column, by: int) -> None:
        """Moves what is chosen up or down within its lane."""
        ids, chosen = self.ids_of(column), set(self.view.chosen_ids())
        places = [place for place, one in enumerate(ids) if one in chosen]
        if not places:
            return
        target = places[0] - 1 if by < 0 else places[-1] + 2
        if target < 0 or target > len(ids):
            return
        self.move_to(column.lane.name, ids[target] if target < len(ids) else 0)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        at = event.position().toPoint() if event is not None else QPoint()
        column = self.column_at(at)
        if event is not None and column is not None and (at.y() < HEAD_PX or column.lane.is_folded):
            if event.button() == Qt.MouseButton.LeftButton:
                self.fold_asked.emit(column.lane)
            return
        row = self.row_at_point(at)
        is_left = event is not None and event.button() == Qt.MouseButton.LeftButton
        self.pressed = at if is_left and row is not None else None
        if event is not None and row is not None and self.is_chosen(row) and not event.modifiers() and is_left:
            self.setFocus()
            return  # several that are chosen are dragged together; a click alone chooses this one when it is let go
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.pressed is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        at = event.position().toPoint()
        is_far = (at - self.pressed).manhattanLength() >= QApplication.startDragDistance()
        if self.dragged is not None or is_far:
            self.dragged = at
            self.scroll_at_edge(at)
            self.surface.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        at, was_dragged = self.dragged, self.dragged is not None
        pressed, self.pressed, self.dragged = self.pressed, None, None
        self.surface.update()
        if was_dragged and at is not None:
            column = self.column_at(at)
            if column is not None:
                self.move_to(column.lane.name, self.id_below(column, at))
        elif pressed is not None and event is not None and not event.modifiers():
            row = self.row_at_point(pressed)
            if row is not None:
                self.choose_row(row)

    def id_below(self, column: Column, at: QPoint) -> int | None:
        """The entry before which something is put that is let go at a point; 0: behind all."""
        down = (at + self.offset).y() - HEAD_PX - GAP_PX
        place = round(down / (self.card_px + GAP_PX))
        ids = self.ids_of(column)
        return ids[max(0, place)] if place < len(ids) else 0

    def scroll_at_edge(self, at: QPoint) -> None:
        """Scrolls where something is dragged to an edge."""
        bar = self.horizontalScrollBar()
        if bar is not None:
            by = -24 if at.x() < 30 else 24 if at.x() > self.surface.width() - 30 else 0
            bar.setValue(bar.value() + by)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        at = event.pos() if event is not None else QPoint()
        column = self.column_at(at)
        if event is not None and column is not None and (at.y() < HEAD_PX or column.lane.is_folded):
            self.lane_menu_asked.emit(column.lane, event.globalPos())
        else:
            super().contextMenuEvent(event)


def with_lane(lanes: Sequence[Lane], changed: Lane) -> tuple[Lane, ...]:
    """Lanes with one of them otherwise."""
    return tuple(changed if lane.name == changed.name else lane for lane in lanes)
