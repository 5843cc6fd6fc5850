"""Time line: entries on an axis of years by their dates, whatever their precision; rows by a field, overlapping ones stacked."""

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QKeyEvent, QMouseEvent, QPainter, QPen, QWheelEvent
from PyQt6.QtWidgets import QWidget

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.query.nodes import Question
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.stations.sources.cell_painting import colour_of
from wily_magpie.qt.stations.sources.layouts.axis import Axis, written
from wily_magpie.qt.stations.sources.layouts.canvas import EntryCanvas
from wily_magpie.qt.stations.sources.table import EntryTableView
from wily_magpie.qt.style.theme import THEME

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from wily_magpie.core.queries.looks import Spans

AXIS_PX, NAME_PX, STRIP_PX, BAR_PX, LEVEL_PX, ROW_GAP_PX = 30, 132, 190, 20, 24, 10
SHORTEST_PX, LABEL_PX, MOST_BOXES, DENSITY_PX = 7, 170, 500, 72
ZOOM, MOST_UNDATED = 1.25, 200


@dataclass(frozen=True)
class Band:
    """One row of the time line as it is shown.

    Attributes:
        number: among the names of the spans. top, height: on the surface.
        counts: how many stand at each pixel, where there are too many for boxes; else nothing.
    """

    number: int
    name: str
    top: int
    height: int
    total: int
    counts: tuple[int, ...] = ()


class TimelineView(EntryCanvas):
    """See the module.

    Args:
        ask: asks where entries lie in time.

    Signals:
        span_chosen: a span of dates, as a question has it, was dragged over: only what lies in it is to be shown.
        undated_asked: those without a date are to be shown alone.
    """

    span_chosen = pyqtSignal(str)
    undated_asked = pyqtSignal()
    head_px = AXIS_PX

    def __init__(self, view: EntryTableView, asking: LastAsked, parent: QWidget | None = None) -> None:
        super().__init__(view, "Time line", parent)
        self.asking = asking
        self.spans: Spans | None = None
        self.asked: object = None
        self.answered: Sequence[int] = ()
        """What the spans were asked for, and the entries that answered then."""
        self.of: object = None
        self.axis = Axis()
        self.bands: list[Band] = []
        self.boxes: dict[int, QRect] = {}
        self.undated: list[int] = []
        self.rows_of: dict[int, int] = {}
        """The rows of the entries of the answer, by their ids."""
        self.pressed: QPoint | None = None
        self.pressed_axis = self.axis
        self.dragged: QPoint | None = None

    def show_question(self, layout: Layout, question: Question) -> None:
        """Asks where the entries of an answer lie, and shows them."""
        place = self.place
        field = layout.time_field(place.fields) if place is not None else None
        self.asking.forget()
        self.layout_now = layout
        if place is None or field is None:
            self.spans = None
            self.refresh()
            return
        key, rows_by = place.key, layout.rows_by if place.has(layout.rows_by) else ""

        asked, answered = (question, key, field.key, rows_by), self.table.listing.ids
        if self.spans is not None and self.asked == asked and self.answered is answered:
            self.refresh()  # no entry is another one
            return

        def take(found: "Spans") -> None:
            self.asked, self.answered = asked, answered
            is_other = self.of != (key, field.key)
            self.of, self.spans = (key, field.key), found
            ids = self.table.listing.ids
            self.rows_of = dict(zip(ids, range(len(ids)), strict=True))
            self.undated = undated_of(ids, found.ids)
            if is_other:
                self.show_all()
            self.refresh()

        self.asking.ask(lambda reader: reader.looks.spans(key, question, field.key, rows_by), take)

    def show_all(self) -> None:
        """Zooms so that all is seen."""
        spans = self.spans
        if spans is not None and len(spans.ids):
            first, last = float(spans.begins.min()), float(spans.ends.max())
            self.axis = Axis.around(first, last, self.chart.width(), LABEL_PX)
        self.refresh()

    @property
    def chart(self) -> QRect:
        """The part of what is seen that the axis spans."""
        seen = self.surface.rect()
        right = STRIP_PX if self.undated else 0
        left = NAME_PX if self.spans is not None and len(self.spans.names) > 1 else 14
        return QRect(left, 0, max(80, seen.width() - left - right), seen.height())

    # where everything is

    def arrange(self, width: int) -> QSize:
        self.boxes, self.bands = {}, []
        spans = self.spans
        if spans is None or not len(spans.ids):
            return QSize(0, 0)
        import numpy as np  # loaded for a time line alone

        chart, top = self.chart, AXIS_PX + ROW_GAP_PX
        lefts = np.maximum((spans.begins - self.axis.left) * self.axis.scale, -10)
        rights = np.minimum((spans.ends - self.axis.left) * self.axis.scale, chart.width() + 10)
        is_seen = (rights >= 0) & (lefts <= chart.width())
        for number, name in enumerate(spans.names):
            here = spans.rows == number
            total = int(here.sum())
            if not total:
                continue
            seen = np.nonzero(here & is_seen)[0]
            counts: tuple[int, ...] = ()
            if len(seen) > MOST_BOXES:
                at = np.clip((lefts[seen] + rights[seen]) / 2, 0, chart.width() - 1).astype(np.int64)
                counts = tuple(np.bincount(at // 3, minlength=chart.width() // 3 + 1).tolist())
                height = DENSITY_PX
            else:
                height = self.stack(spans, seen.tolist(), lefts, rights, top)
            self.bands.append(Band(number, name, top, height, total, counts))
            top += height + ROW_GAP_PX
        return QSize(0, top + 10)

    def stack(
        self,
        spans: "Spans",
        seen: list[int],
        lefts: "NDArray[np.float64]",
        rights: "NDArray[np.float64]",
        top: int,
    ) -> int:
        """Puts boxes onto levels on which they do not overlap; how high these are."""
        chart = self.chart
        ends: list[float] = []
        for at in seen:
            left, right = float(lefts[at]), float(rights[at])
            wide = max(right - left, SHORTEST_PX)
            until = left + max(wide, SHORTEST_PX + LABEL_PX)
            level = next((number for number, end in enumerate(ends) if end <= left), len(ends))
            if level == len(ends):
                ends.append(until)
            ends[level] = until + 4
            row = self.rows_of.get(spans.ids[at])
            if row is not None:
                down = top + level * LEVEL_PX
                self.boxes[row] = QRect(chart.left() + round(left), down, max(SHORTEST_PX, round(wide)), BAR_PX)
        return max(1, len(ends)) * LEVEL_PX

    def rect_of(self, row: int) -> QRect:
        return self.boxes.get(row, QRect())

    def rows_in(self, rect: QRect) -> Iterable[int]:
        is_point = rect.width() <= 1
        reach = rect.adjusted(0 if is_point else -LABEL_PX, 0, 0, 0)
        return [row for row, box in self.boxes.items() if box.intersects(reach)]

    def row_at_point(self, at: QPoint) -> int | None:
        """Boxes are chosen by their words, too."""
        point = at + self.offset
        if at.y() < AXIS_PX:
            return None
        for row, box in self.boxes.items():
            if box.adjusted(0, 0, max(0, SHORTEST_PX + LABEL_PX - box.width()), 0).contains(point):
                return row
        return None

    def neighbour(self, row: int, key: int) -> int | None:
        """Left and right in the order of time, up and down to what stands above or below."""
        box = self.boxes.get(row)
        if box is None:
            return next(iter(self.boxes), None)
        if key in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self.show_all()
            return row
        middle = box.center()
        is_across = key in (Qt.Key.Key_Left, Qt.Key.Key_Right)
        sign = -1 if key in (Qt.Key.Key_Left, Qt.Key.Key_Up, Qt.Key.Key_PageUp) else 1
        best: tuple[int, int] | None = None
        for other, one in self.boxes.items():
            by = one.center() - middle
            along, aside = (by.x(), by.y()) if is_across else (by.y(), by.x())
            if other != row and along * sign > (0 if is_across else 4):
                far = abs(along) + 3 * abs(aside) if is_across else 4 * abs(along) + abs(aside)
                best = min(best, (far, other)) if best is not None else (far, other)
        return best[1] if best is not None else None

    # painting

    def paint_row(self, painter: QPainter, row: int, rect: QRect, entry: Entry) -> None:
        c = THEME.colours
        is_chosen = self.is_chosen(row)
        spine = QColor(self.spine_of(entry))
        fill = QColor(spine)
        fill.setAlpha(70)
        painter.setClipRect(self.chart.translated(self.offset).adjusted(0, AXIS_PX, 0, 0))
        painter.fillRect(rect, colour_of(c.wash) if is_chosen else fill)
        painter.fillRect(QRect(rect.left(), rect.top(), 3, rect.height()), spine)
        if row == self.current_row():
            painter.setPen(QPen(colour_of(c.petrol), 2 if self.hasFocus() else 1))
            painter.drawRect(rect)
        painter.setFont(self.small_font())
        painter.setPen(colour_of(c.ink))
        room = max(rect.width() - 8, LABEL_PX)
        left = max(rect.left(), self.chart.left() + self.offset.x()) + 7
        if rect.width() < LABEL_PX and rect.left() >= self.chart.left():
            left = rect.left() + (7 if rect.width() > 20 else rect.width() + 3)
        text = painter.fontMetrics().elidedText(entry.title, Qt.TextElideMode.ElideRight, room - 6)
        painter.drawText(QRect(left, rect.top(), room, rect.height()), Qt.AlignmentFlag.AlignVCenter, text)
        painter.setClipping(False)

    def small_font(self) -> QFont:
        """What is written small."""
        font = QFont(self.font())
        font.setPointSizeF(9.0)
        return font

    def paint_beside(self, painter: QPainter) -> None:
        """The axis above, the names of rows at the left, those without a date at the right, the span that is dragged over."""
        c, chart, offset = THEME.colours, self.chart, self.offset
        painter.setFont(self.small_font())
        for band in self.bands:
            self.paint_band(painter, band, chart, offset.y())
        painter.fillRect(QRect(0, 0, self.surface.width(), AXIS_PX), colour_of(c.ground))
        painter.setPen(colour_of(c.rule))
        painter.drawLine(0, AXIS_PX - 1, self.surface.width(), AXIS_PX - 1)
        for x, words in self.axis.marks(chart.width()):
            left = chart.left() + round(x)
            if left < chart.left() - 60 or left > chart.right():
                continue
            painter.setPen(colour_of(c.rule))
            painter.drawLine(left, AXIS_PX - 7, left, self.surface.height())
            painter.setPen(colour_of(c.slate))
            painter.drawText(QPoint(left + 4, AXIS_PX - 10), words)
        if self.dragged is not None and self.pressed is not None:
            first, last = sorted((self.pressed.x(), self.dragged.x()))
            tint = QColor(c.petrol)
            tint.setAlpha(48)
            painter.fillRect(QRect(first, 0, last - first, self.surface.height()), tint)
            painter.setPen(colour_of(c.petrol))
            painter.drawText(QPoint(first + 6, AXIS_PX + 14), self.span_of(first, last).replace("/", " to "))
        if self.undated:
            self.paint_undated(painter)
        if self.spans is not None and not self.bands:
            painter.setPen(colour_of(c.slate))
            painter.drawText(chart, Qt.AlignmentFlag.AlignCenter, "Nothing here has a date that can be put on an axis.")

    def paint_band(self, painter: QPainter, band: Band, chart: QRect, down: int) -> None:
        """The name of a row; where there is too much for boxes, how many stand where."""
        c, top = THEME.colours, band.top - down
        painter.setPen(colour_of(c.rule))
        if band != self.bands[0]:
            painter.drawLine(0, top - ROW_GAP_PX // 2, chart.right(), top - ROW_GAP_PX // 2)
        if chart.left() >= NAME_PX:
            painter.fillRect(QRect(0, top - 4, NAME_PX - 6, band.height + 4), colour_of(c.ground))
            painter.setPen(colour_of(c.ink if band.name else c.slate))
            text = f"{band.name or 'blank'}  ·  {band.total:,}"
            shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, NAME_PX - 18)
            painter.drawText(QRect(10, top, NAME_PX - 14, LEVEL_PX), Qt.AlignmentFlag.AlignVCenter, shown)
        most = max(band.counts, default=0)
        for number, count in enumerate(band.counts):
            if count:
                high = max(2, round(count / most * (DENSITY_PX - 22)))
                painter.fillRect(QRect(chart.left() + 3 * number, top + DENSITY_PX - high, 3, high), colour_of(c.slate))
        if band.counts:
            painter.setPen(colour_of(c.slate))
            words = f"{sum(band.counts):,} entries: zoom in to see them one by one"
            painter.drawText(QPoint(chart.left() + 6, top + 12), words)

    def paint_undated(self, painter: QPainter) -> None:
        """Those without a date, beside."""
        c = THEME.colours
        strip = QRect(self.surface.width() - STRIP_PX, 0, STRIP_PX, self.surface.height())
        painter.fillRect(strip, colour_of(c.ground))
        painter.setPen(colour_of(c.rule))
        painter.drawLine(strip.topLeft(), strip.bottomLeft())
        painter.setPen(colour_of(c.slate))
        head = QRect(strip.left() + 12, 0, strip.width() - 16, AXIS_PX)
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, f"Without a date: {len(self.undated):,}")
        for number, entry_id in enumerate(self.undated[:MOST_UNDATED]):
            line = self.undated_line(number)
            if line.bottom() > strip.bottom() - 24:
                left = len(self.undated) - number
                painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, f"and {left:,} more …")
                return
            row = self.table.row_of(entry_id)
            entry = self.table.entry_at(row) if row is not None else None
            if row is not None and self.is_chosen(row):
                painter.fillRect(line.adjusted(-6, 0, 0, 0), colour_of(c.wash))
            painter.setPen(colour_of(c.ink))
            text = entry.title if entry is not None else "…"
            shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, line.width())
            painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, shown)

    def undated_line(self, number: int) -> QRect:
        """Where one without a date stands."""
        return QRect(self.surface.width() - STRIP_PX + 12, AXIS_PX + 6 + 24 * number, STRIP_PX - 20, 22)

    # keys and mouse

    def span_of(self, first: int, last: int) -> str:
        """The span of dates between two pixels, as a question has it."""
        left = self.chart.left()
        return written(self.axis.year(first - left), self.axis.year(last - left), self.axis.scale)

    def zoom(self, factor: float, x: int | None = None) -> None:
        """Comes closer or goes further away, around a pixel or the middle."""
        chart = self.chart
        self.axis = self.axis.zoomed(factor, chart.width() / 2 if x is None else x - chart.left())
        self.refresh()

    def pan(self, by_px: float) -> None:
        """Goes on or back in time."""
        self.axis = self.axis.moved(by_px)
        self.refresh()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """The wheel zooms around the mouse; with Shift it goes along, with Ctrl up and down."""
        if event is None:
            return
        down, across = event.angleDelta().y(), event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            super().wheelEvent(event)
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier or abs(across) > abs(down):
            self.pan(-(across or down))
        elif down:
            self.zoom(ZOOM ** (down / 120), event.position().toPoint().x())
        event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """+ and − zoom, Ctrl with an arrow goes along, Home shows all."""
        if event is None:
            return
        has_control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        steps = {Qt.Key.Key_Left: -80, Qt.Key.Key_Right: 80}
        if event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self.zoom(1 / ZOOM if event.key() == Qt.Key.Key_Minus else ZOOM)
        elif has_control and event.key() in steps:
            self.pan(steps[Qt.Key(event.key())])
        elif event.key() == Qt.Key.Key_Home:
            self.show_all()
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position().toPoint()
        if self.undated and at.x() > self.surface.width() - STRIP_PX:
            self.press_undated(at)
            return
        row = self.row_at_point(at)
        if row is None and event.button() == Qt.MouseButton.LeftButton:
            self.pressed, self.pressed_axis = at, self.axis
            self.is_choosing = at.y() < AXIS_PX or bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        super().mousePressEvent(event)

    def press_undated(self, at: QPoint) -> None:
        """Chooses one without a date; the heading and the last line show them all."""
        number = (at.y() - AXIS_PX - 6) // 24
        line = self.undated_line(max(0, number))
        if number < 0 or number >= len(self.undated) or line.bottom() > self.surface.height() - 24:
            self.undated_asked.emit()
            return
        row = self.table.row_of(self.undated[number])
        if row is not None:
            self.choose_row(row)

    is_choosing = False
    """Whether a drag chooses a span, rather than goes along."""

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Dragging goes along; along the axis, or with Shift, it chooses a span."""
        if event is None or self.pressed is None:
            return
        at = event.position().toPoint()
        if self.is_choosing:
            self.dragged = at
            self.surface.update()
        else:
            self.axis = self.pressed_axis.moved(self.pressed.x() - at.x())
            self.refresh()

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        pressed, dragged, self.pressed, self.dragged = self.pressed, self.dragged, None, None
        if pressed is not None and dragged is not None and abs(dragged.x() - pressed.x()) > 4:
            self.span_chosen.emit(self.span_of(*sorted((pressed.x(), dragged.x()))))
        self.surface.update()


def undated_of(ids: Sequence[int], dated: Sequence[int]) -> list[int]:
    """Those of some entries that are not among the dated ones, in their order."""
    if len(ids) == len(dated):
        return []
    known = set(dated)
    return [one for one in dict.fromkeys(ids) if one not in known]
