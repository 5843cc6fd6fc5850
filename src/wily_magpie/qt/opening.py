"""How a window comes up: within the screen that it opens on, and painted once its first rows are there."""

from PyQt6.QtCore import QObject, QSize, pyqtBoundSignal
from PyQt6.QtWidgets import QWidget

from wily_magpie.qt.style.parts import timer

LOOKS, LOOK_MS = 20, 60
"""How often, and how far apart, the frame of a window that was shown is looked for."""
AT_MOST_MS = 80
"""How long a first picture may wait."""


class HeldPicture(QObject):
    """Has a window paint nothing until its first rows are there, or a moment has passed: what is painted sooner is painted twice.

    Args:
        arrived: the rows are there.
    """

    def __init__(self, window: QWidget, arrived: pyqtBoundSignal) -> None:
        super().__init__(window)
        self.window, self.arrived = window, arrived
        window.setUpdatesEnabled(False)
        self.late = timer(self, self.show)
        self.late.start(AT_MOST_MS)
        arrived.connect(self.show)

    def show(self) -> None:
        """Paints from now on."""
        self.late.stop()
        self.arrived.disconnect(self.show)
        self.window.setUpdatesEnabled(True)


class Fitting(QObject):
    """Makes a window fit its screen once its frame is there, which the desktop puts around it a while after it is shown."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.window, self.left = window, LOOKS
        self.frame = QSize(-1, -1)
        """What the frame takes beside and above, as it was seen last."""
        self.later = timer(self, self.look)
        self.later.start(0)

    def look(self) -> None:
        """Looks whether the frame is there; where none comes, none is. What the person makes of the size meanwhile is left alone."""
        frame = self.window.frameSize() - self.window.size()
        if frame != self.frame:
            self.frame = frame
            fit_screen(self.window)
        self.left -= 1
        if self.left > 0 and self.window.isVisible():
            self.later.start(LOOK_MS)
        else:
            self.deleteLater()  # a window is shown more than once


def fit_screen(window: QWidget) -> None:
    """Makes a window, its frame included, fit the screen that it is on."""
    screen = window.screen()
    if screen is None or window.isMaximized() or window.isFullScreen():
        return
    room, frame, inner = screen.availableGeometry(), window.frameGeometry(), window.geometry()
    beside, above = frame.width() - inner.width(), frame.height() - inner.height()
    width, height = min(inner.width(), room.width() - beside), min(inner.height(), room.height() - above)
    if (width, height) != (inner.width(), inner.height()):
        window.resize(width, height)
    frame = window.frameGeometry()
    left = max(room.left(), min(frame.left(), room.right() + 1 - frame.width()))
    top = max(room.top(), min(frame.top(), room.bottom() + 1 - frame.height()))
    if (left, top) != (frame.left(), frame.top()):
        window.move(left, top)
