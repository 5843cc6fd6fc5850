"""The pages of a PDF, one below the other: drawn as they come into sight, with words that can be chosen and marks that are seen."""

from bisect import bisect_right
from collections import OrderedDict
from collections.abc import Callable, Sequence

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QPoint, QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QGuiApplication,
    QImage,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtPdf import QPdfDocument, QPdfSelection
from PyQt6.QtWidgets import QAbstractScrollArea, QWidget

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.mark import AROUND, Mark, place_of
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.style.tokens import LIGHT

Work = Callable[[Callable[[], QImage], Callable[[QImage], object]], object]
GAP_PX, MOST_PAGES_HELD, LINE_PX, STEP_PX, COMFORT_PX, HOLD_PX = 14, 12, 2, 60, 900, 7
LEAST_ZOOM, MOST_ZOOM = 0.25, 5.0
PENS = {"wavy": Qt.PenStyle.DashDotLine, "dotted": Qt.PenStyle.DotLine, "dashed": Qt.PenStyle.DashLine}


@dataclass(frozen=True)
class PlacedMark:
    """A mark on a page, with the polygons of its lines, in points."""

    mark: Mark
    page: int
    bounds: tuple[QPolygonF, ...]


class PdfPages(QAbstractScrollArea):
    """See the module.

    Args:
        work: does something in another thread, and hands over what it gives in this one.

    Signals:
        chosen: words were chosen, or none any more. extended: an end of what is chosen was dragged elsewhere.
        mark_clicked: a mark.
        page_changed: the number of the page that is seen, from 0 on.
    """

    chosen = pyqtSignal()
    extended = pyqtSignal()
    mark_clicked = pyqtSignal(object)
    page_changed = pyqtSignal(int)

    def __init__(self, work: Work, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.work = work
        self.document = QPdfDocument(self)
        self.buffer = QBuffer(self)
        self.generation = 0
        """Counts documents and sizes, so that a page of another one is not shown."""
        self.images: OrderedDict[int, QImage] = OrderedDict()
        self.asked: set[tuple[int, QSize]] = set()
        self.tops: list[float] = []
        self.zoom = 1.0
        """Times the width of the window, or of a comfortable page where that is less."""
        self.marks: tuple[Mark, ...] = ()
        self.placed: dict[int, list[PlacedMark]] = {}
        self.found: dict[int, list[QRectF]] = {}
        self.selection: QPdfSelection | None = None
        self.selected_page = 0
        self.pressed: QPointF | None = None
        self.is_held = False
        """Whether an end of what is chosen is held."""
        self.setAccessibleName("PDF")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        bar = self.verticalScrollBar()
        if bar is not None:
            bar.valueChanged.connect(lambda _value: self.page_changed.emit(self.page))
            bar.setSingleStep(STEP_PX)

    # the document

    def load(self, content: bytes) -> bool:
        """Shows another document; whether it could be read."""
        self.generation += 1
        self.document.close()
        self.buffer.close()
        self.buffer.setData(QByteArray(content))
        self.buffer.open(QIODevice.OpenModeFlag.ReadOnly)
        self.document.load(self.buffer)
        self.images.clear()
        self.asked.clear()
        self.placed, self.found, self.selection = {}, {}, None
        self.lay()
        return self.document.status() == QPdfDocument.Status.Ready and self.document.pageCount() > 0

    def text(self, page: int) -> str:
        """The words of a page."""
        return self.document.getAllText(page).text()

    def label(self, page: int) -> str:
        """What a page is called: its printed number, where the document tells it."""
        return self.document.pageLabel(page) or str(page + 1)

    # where pages lie

    @property
    def scale(self) -> float:
        """Pixels a point."""
        widest = max(
            (self.document.pagePointSize(page).width() for page in range(self.document.pageCount())), default=1
        )
        return self.usual_width / max(widest, 1) * self.zoom

    @property
    def usual_width(self) -> int:
        """The width of the widest page where nobody made it larger or smaller."""
        return min(COMFORT_PX, max(self.room, 50))

    @property
    def room(self) -> int:
        """The pixels that a page can have across."""
        port = self.viewport()
        return (port.width() if port is not None else COMFORT_PX) - 2 * GAP_PX

    def fit_width(self) -> None:
        """Shows the widest page as wide as the window."""
        self.set_zoom(self.room / self.usual_width)

    def lay(self) -> None:
        """Puts the pages below one another."""
        scale, top, tops = self.scale, float(GAP_PX), []
        for page in range(self.document.pageCount()):
            tops.append(top)
            top += self.document.pagePointSize(page).height() * scale + GAP_PX
        self.tops = tops
        port, bar, across = self.viewport(), self.verticalScrollBar(), self.horizontalScrollBar()
        if port is not None and bar is not None and across is not None:
            bar.setRange(0, max(0, round(top) - port.height()))
            bar.setPageStep(port.height())
            across.setRange(0, max(0, round(self.usual_width * self.zoom) - self.room))
            across.setPageStep(port.width())
            port.update()

    def rect_of(self, page: int) -> QRectF:
        """Where a page is seen, in pixels of the window."""
        size, scale = self.document.pagePointSize(page), self.scale
        port, bar, across = self.viewport(), self.verticalScrollBar(), self.horizontalScrollBar()
        width = port.width() if port is not None else 0
        left = max(GAP_PX, (width - size.width() * scale) / 2) - (across.value() if across is not None else 0)
        top = self.tops[page] - (bar.value() if bar is not None else 0)
        return QRectF(left, top, size.width() * scale, size.height() * scale)

    @property
    def page(self) -> int:
        """The one that is seen in the middle."""
        bar, port = self.verticalScrollBar(), self.viewport()
        middle = (bar.value() if bar is not None else 0) + (port.height() if port is not None else 0) / 3
        return max(0, bisect_right(self.tops, middle) - 1)

    def go_to(self, page: int, down: float = 0) -> None:
        """Scrolls to a page; down: points from its top."""
        bar = self.verticalScrollBar()
        if bar is not None and 0 <= page < len(self.tops):
            bar.setValue(round(self.tops[page] + down * self.scale - (GAP_PX if not down else self.height() / 3)))

    def set_zoom(self, zoom: float) -> None:
        """Shows the pages larger or smaller, at the place where one is."""
        page = self.page
        self.zoom = max(LEAST_ZOOM, min(zoom, MOST_ZOOM))
        self.images.clear()
        self.asked.clear()
        self.lay()
        self.go_to(page)

    def seen(self) -> list[int]:
        """The pages that are seen."""
        port = self.viewport()
        height = port.height() if port is not None else 0
        return [
            page
            for page in range(len(self.tops))
            if self.rect_of(page).bottom() > 0 and self.rect_of(page).top() < height
        ]

    # what is painted

    def ask_page(self, page: int, size: QSize) -> None:
        """Has a page drawn; Qt lets documents be drawn from any thread, one after another."""
        generation = self.generation
        self.asked.add((page, size))
        take = lambda image: self.take_page(page, image) if generation == self.generation else None  # noqa: E731
        self.work(lambda: self.document.render(page, size), take)

    def take_page(self, page: int, image: QImage) -> None:
        """A page is drawn."""
        self.images[page] = image
        self.images.move_to_end(page)
        while len(self.images) > MOST_PAGES_HELD:
            gone, _ = self.images.popitem(last=False)
            self.asked = {one for one in self.asked if one[0] != gone}
        port = self.viewport()
        if port is not None:
            port.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        port = self.viewport()
        if port is None:
            return
        painter = QPainter(port)
        painter.setRenderHints(QPainter.RenderHint.SmoothPixmapTransform | QPainter.RenderHint.Antialiasing)
        painter.fillRect(port.rect(), QColor(THEME.colours.ground))
        for page in self.seen():
            self.paint_page(painter, page)
        painter.end()

    def paint_page(self, painter: QPainter, page: int) -> None:
        """One of them."""
        rect, ratio = self.rect_of(page), self.devicePixelRatioF()
        painter.fillRect(rect, QColor("white"))
        size = (rect.size() * ratio).toSize()
        if (page, size) not in self.asked:
            self.ask_page(page, size)
        if page in self.images:
            painter.drawImage(rect, self.images[page])
        painter.save()
        painter.translate(rect.topLeft())
        painter.scale(self.scale, self.scale)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_Multiply)
        painter.setPen(Qt.PenStyle.NoPen)
        for one in self.found.get(page, ()):
            painter.fillRect(one, QColor("#F0D28A"))
        for placed in self.marks_on(page):
            self.paint_mark(painter, placed)
        if self.selection is not None and page == self.selected_page:
            painter.setBrush(QColor("#BFDDE2"))
            for polygon in self.selection.bounds():
                painter.drawPolygon(polygon)
        painter.restore()

    def paint_mark(self, painter: QPainter, placed: PlacedMark) -> None:
        """A mark in the pattern and colour of its kind; pages are white also where the window is dark."""
        look = LOOKS.of(placed.mark.kind)
        colour = QColor(LIGHT.spine(look.colour))
        for polygon in placed.bounds:
            if look.pattern == "wash":
                painter.fillRect(polygon.boundingRect(), QColor(LIGHT.wash))
            rect = polygon.boundingRect()
            pen = QPen(colour, LINE_PX / self.scale * (2 if look.pattern == "double" else 1))
            pen.setStyle(PENS.get(look.pattern, Qt.PenStyle.SolidLine))
            painter.setPen(pen)
            painter.drawLine(rect.bottomLeft(), rect.bottomRight())
            painter.setPen(Qt.PenStyle.NoPen)

    # marks

    def show_marks(self, marks: Sequence[Mark]) -> None:
        """Shows marks on the pages that they name, or on whose words they are."""
        self.marks, self.placed = tuple(marks), {}
        port = self.viewport()
        if port is not None:
            port.update()

    def marks_on(self, page: int) -> list[PlacedMark]:
        """The marks of a page; looked for when it is first seen."""
        if page not in self.placed:
            here = (self.locate(mark, page) for mark in self.marks if self.may_be_on(mark, page))
            self.placed[page] = [one for one in here if one is not None]
        return self.placed[page]

    def may_be_on(self, mark: Mark, page: int) -> bool:
        """Whether a mark names this page, or none."""
        return bool(mark.exact) and mark.locator in ("", f"p. {self.label(page)}")

    def locate(self, mark: Mark, page: int) -> PlacedMark | None:
        """Where a mark stands on a page; None where it does not."""
        found = place_of(mark, self.text(page))
        if found is None:
            return None
        start, end = (len(self.text(page)[:at].encode("utf-16-le")) // 2 for at in found)
        selection = self.document.getSelectionAtIndex(page, start, end - start)
        return PlacedMark(mark, page, tuple(selection.bounds())) if selection.isValid() else None

    def page_of(self, mark: Mark) -> int | None:
        """The page on which a mark stands; None where it stands on none."""
        pages = (page for page in range(self.document.pageCount()) if self.may_be_on(mark, page))
        return next((page for page in pages if self.locate(mark, page) is not None), None)

    def show_mark(self, mark: Mark) -> bool:
        """Goes to a mark; whether it stands here."""
        page = self.page_of(mark)
        placed = self.locate(mark, page) if page is not None else None
        if page is None or placed is None:
            return False
        self.go_to(page, placed.bounds[0].boundingRect().top() if placed.bounds else 0)
        return True

    def chosen_mark(self) -> Mark | None:
        """The words that are chosen, with what stands around them and their page; None where none are."""
        if self.selection is None or not self.selection.text().strip():
            return None
        words = self.text(self.selected_page).encode("utf-16-le")
        start, end = self.selection.startIndex(), self.selection.endIndex()

        def piece(begin: int, stop: int) -> str:
            return words[2 * max(0, begin) : 2 * stop].decode("utf-16-le", "ignore")

        exact = " ".join(self.selection.text().split())
        locator = f"p. {self.label(self.selected_page)}"
        return Mark(exact, prefix=piece(start - AROUND, start), suffix=piece(end, end + AROUND), locator=locator)

    def chosen_rects(self) -> tuple[QRect, QRect] | None:
        """Where the first and the last line of what is chosen are seen."""
        bounds = self.selection.bounds() if self.selection is not None else []
        if not bounds:
            return None
        at = self.rect_of(self.selected_page).topLeft()

        def seen(polygon: QPolygonF) -> QRect:
            rect = polygon.boundingRect()
            return QRectF(at + rect.topLeft() * self.scale, rect.size() * self.scale).toRect()

        last = seen(bounds[-1])
        return seen(bounds[0]), QRect(last.right(), last.top(), 1, last.height())

    def choose(self, page: int, start: int, length: int) -> None:
        """Chooses letters of a page."""
        self.selection, self.selected_page = self.document.getSelectionAtIndex(page, start, length), page
        self.chosen.emit()
        self.viewport().update()  # type: ignore[union-attr]

    def leave(self) -> None:
        """Nothing is chosen any more."""
        self.selection = None
        port = self.viewport()
        if port is not None:
            port.update()

    # mouse and keys

    def point_at(self, at: QPoint) -> tuple[int, QPointF] | None:
        """The page at a point of the window, and the place on it, in points."""
        for page in self.seen():
            rect = self.rect_of(page)
            if rect.contains(QPointF(at)):
                return page, (QPointF(at) - rect.topLeft()) / self.scale
        return None

    def other_end(self, at: QPoint) -> QPointF | None:
        """The other end of what is chosen, where a point is at one of its ends; in points of the page."""
        bounds = [one.boundingRect() for one in self.selection.bounds()] if self.selection is not None else []
        if not bounds:
            return None
        corner = self.rect_of(self.selected_page).topLeft()
        start, end = bounds[0], bounds[-1]
        ends = (QPointF(start.left() + 1, start.center().y()), QPointF(end.right() - 1, end.center().y()))
        for here, other in (ends, ends[::-1]):
            seen = corner + here * self.scale
            if abs(seen.x() - at.x()) <= HOLD_PX and abs(seen.y() - at.y()) <= start.height() * self.scale:
                return other
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        found = self.point_at(event.position().toPoint()) if event is not None else None
        self.is_held = False
        if event is not None and (other := self.other_end(event.position().toPoint())) is not None:
            self.pressed, self.is_held = other, True
            return
        self.leave()
        self.pressed = None
        if found is not None:
            self.selected_page, self.pressed = found
        self.chosen.emit()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if self.pressed is None or event is None:
            return
        at = (event.position() - self.rect_of(self.selected_page).topLeft()) / self.scale
        self.selection = self.document.getSelection(self.selected_page, self.pressed, at)
        self.viewport().update()  # type: ignore[union-attr]

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self.pressed is None or event is None:
            return
        if self.chosen_mark() is not None:
            (self.extended if self.is_held else self.chosen).emit()
            return
        for placed in self.marks_on(self.selected_page):
            if any(polygon.boundingRect().contains(self.pressed) for polygon in placed.bounds):
                start = place_of(placed.mark, self.text(self.selected_page))
                if start is not None:
                    self.selection = self.document.getSelectionAtIndex(
                        self.selected_page, start[0], start[1] - start[0]
                    )
                self.mark_clicked.emit(placed.mark)
                return

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        bar = self.verticalScrollBar()
        if event is None or bar is None:
            return
        if event.matches(QKeySequence.StandardKey.Copy) and self.selection is not None:
            clipboard = QGuiApplication.clipboard()
            if clipboard is not None:
                clipboard.setText(self.selection.text())
        elif event.text() == " ":
            bar.triggerAction(bar.SliderAction.SliderPageStepAdd)
        elif event.key() in (Qt.Key.Key_Home, Qt.Key.Key_End):
            bar.setValue(0 if event.key() == Qt.Key.Key_Home else bar.maximum())
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.set_zoom(self.zoom * (1.1 if event.angleDelta().y() > 0 else 1 / 1.1))
        else:
            super().wheelEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        page = self.page if self.tops else 0
        self.images.clear()
        self.asked.clear()
        self.lay()
        self.go_to(page)
