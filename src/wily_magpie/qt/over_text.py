"""What opens over a text that is read: a picture as large as the window lets it, and a footnote at its place."""

from collections.abc import Sequence

from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QApplication, QDialog, QFrame, QTextBrowser, QVBoxLayout, QWidget

from wily_magpie.core.dataclass import dataclass
from wily_magpie.qt.style.theme import THEME

EDGE_PX, CAPTION_PX, NOTE_PX, HIGHEST_NOTE_PX = 24, 56, 420, 260


@dataclass(frozen=True)
class Plate:
    """A picture with what is said of it."""

    image: QImage
    caption: str


class PlateView(QDialog):
    """Shows a picture over the window, and its neighbours by the arrows; a click or Escape closes it."""

    def __init__(self, plates: Sequence[Plate], at: int, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.FramelessWindowHint | Qt.WindowType.Dialog)
        self.plates, self.at = plates, at
        self.setModal(True)
        window = parent.window() or parent
        self.setGeometry(QRect(window.mapToGlobal(QPoint(0, 0)), window.size()))
        self.tell()

    def tell(self) -> None:
        """Says what is shown."""
        self.setAccessibleName(self.plates[self.at].caption or "A picture")
        self.update()

    def turn(self, step: int) -> None:
        """Shows a neighbour."""
        self.at = max(0, min(self.at + step, len(self.plates) - 1))
        self.tell()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        c, plate = THEME.colours, self.plates[self.at]
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(c.card))
        room = self.rect().adjusted(EDGE_PX, EDGE_PX, -EDGE_PX, -EDGE_PX - CAPTION_PX)
        size = plate.image.size().scaled(room.size(), Qt.AspectRatioMode.KeepAspectRatio)
        where = QRect(QPoint(0, 0), size)
        where.moveCenter(room.center())
        painter.drawImage(where, plate.image)
        painter.setPen(QColor(c.slate))
        below = QRect(EDGE_PX, room.bottom() + 8, self.width() - 2 * EDGE_PX, CAPTION_PX)
        number = f"{self.at + 1} of {len(self.plates)}" if len(self.plates) > 1 else ""
        told = "\n".join(filter(None, (plate.caption, number)))
        painter.drawText(below, Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap, told)
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key())) if event is not None else None
        if step is not None:
            self.turn(step)
        else:
            super().keyPressEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            event.accept()
        self.accept()


class NoteView(QFrame):
    """A footnote below the place at which it is named; a click elsewhere or Escape closes it."""

    def __init__(self, text: str, sheet: str, at: QPoint, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("card")
        self.setAccessibleName("Footnote")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 6, 10, 6)
        self.text = QTextBrowser()
        self.text.setOpenLinks(False)
        self.text.setFrameShape(QFrame.Shape.NoFrame)
        document = self.text.document()
        if document is not None:
            document.setDefaultStyleSheet(sheet)
            document.setDocumentMargin(0)
        self.text.setHtml(text)
        column.addWidget(self.text)
        if document is not None:
            document.setTextWidth(NOTE_PX)
            self.text.setFixedSize(NOTE_PX + 10, min(HIGHEST_NOTE_PX, round(document.size().height()) + 8))
        self.adjustSize()
        screen = QApplication.screenAt(at)
        if screen is not None:
            right, bottom = screen.availableGeometry().right(), screen.availableGeometry().bottom()
            at = QPoint(min(at.x(), right - self.width()), min(at.y(), bottom - self.height()))
        self.move(at)
