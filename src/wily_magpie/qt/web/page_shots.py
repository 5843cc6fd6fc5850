"""Pictures of the live page: of what is visible, of a part that is drawn with the mouse, of the whole page."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QBuffer, QByteArray, QEvent, QIODevice, QObject, QPoint, QRect, QSize, Qt, QTimer
from PyQt6.QtGui import QMouseEvent, QPainter, QPixmap
from PyQt6.QtWidgets import QRubberBand

if TYPE_CHECKING:
    from wily_magpie.qt.web.page_view import PageView

SETTLE_MS = 220
"""How long the page is waited for after it was scrolled."""
TALLEST_PX, LEAST_PX = 30_000, 6


def png_of(picture: QPixmap) -> bytes:
    """A picture as PNG."""
    content = QByteArray()
    buffer = QBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    picture.save(buffer, "PNG")
    return bytes(content.data())


class PartShot(QObject):
    """Lets a part of the page be drawn with the mouse; Escape ends it.

    Args:
        done: is handed the picture; nothing where the person gave it up.
    """

    def __init__(self, view: "PageView", done: Callable[[bytes], None]) -> None:
        super().__init__(view)
        self.view, self.done = view, done
        self.band = QRubberBand(QRubberBand.Shape.Rectangle, view.view)
        self.begin: QPoint | None = None
        self.target = view.view.focusProxy()
        if self.target is not None:
            self.target.installEventFilter(self)
        view.view.setCursor(Qt.CursorShape.CrossCursor)

    def eventFilter(self, _watched: QObject | None, event: QEvent | None) -> bool:
        if event is None or event.type() == QEvent.Type.ContextMenu:
            return False
        if event.type() == QEvent.Type.KeyPress:
            self.end(b"")
            return True
        if not isinstance(event, QMouseEvent):
            return False
        at = event.position().toPoint()
        if event.type() == QEvent.Type.MouseButtonPress:
            self.begin = at
            self.band.setGeometry(QRect(at, QSize()))
            self.band.show()
        elif event.type() == QEvent.Type.MouseMove and self.begin is not None:
            self.band.setGeometry(QRect(self.begin, at).normalized())
        elif event.type() == QEvent.Type.MouseButtonRelease and self.begin is not None:
            area = QRect(self.begin, at).normalized()
            self.band.hide()
            is_one = min(area.width(), area.height()) >= LEAST_PX
            self.end(png_of(self.view.view.grab(area)) if is_one else b"")
        return True

    def end(self, picture: bytes) -> None:
        """Lets the page have the mouse again."""
        if self.target is not None:
            self.target.removeEventFilter(self)
        self.view.view.unsetCursor()
        self.band.deleteLater()
        if picture:
            self.done(picture)
        self.deleteLater()


class WholeShot(QObject):
    """Takes a picture of the whole page, screen by screen; it is scrolled meanwhile, and back afterwards."""

    def __init__(self, view: "PageView", done: Callable[[bytes], None]) -> None:
        super().__init__(view)
        self.view, self.done = view, done
        size = view.page.contentsSize()
        self.zoom = view.view.zoomFactor()
        self.height = min(TALLEST_PX, round(size.height()) or view.view.height())
        self.ratio = view.view.devicePixelRatioF()
        self.picture = QPixmap(round(view.view.width() * self.ratio), round(self.height * self.ratio))
        self.picture.fill(Qt.GlobalColor.white)
        self.before = view.page.scrollPosition().toPoint()
        self.at = 0
        self.go(0)

    def go(self, top: int) -> None:
        """Scrolls, and takes what is seen there."""
        self.at = top
        self.view.page.runJavaScript(f"window.scrollTo(0, {round(top / self.zoom)})", 1, lambda _: None)
        QTimer.singleShot(SETTLE_MS, self.take)

    def take(self) -> None:
        """Takes what is seen now, where the page stands by now: at its end it does not go as far as it was told."""
        top = min(round(self.view.page.scrollPosition().y()), self.at)
        painter = QPainter(self.picture)
        painter.drawPixmap(0, round(top * self.ratio), self.view.view.grab())
        painter.end()
        if self.at + self.view.view.height() < self.height:
            self.go(self.at + self.view.view.height())
            return
        x, y = (round(one / self.zoom) for one in (self.before.x(), self.before.y()))
        self.view.page.runJavaScript(f"window.scrollTo({x}, {y})", 1, lambda _: None)
        self.done(png_of(self.picture))
        self.deleteLater()
