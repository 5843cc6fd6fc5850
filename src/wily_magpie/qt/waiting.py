"""A small window that tells what is waited for, where there is no other one yet."""

import threading
from collections.abc import Callable

from PyQt6.QtCore import QEventLoop, QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QApplication, QDialog, QHBoxLayout, QPushButton, QVBoxLayout

from wily_magpie.core.commands.command import Progress
from wily_magpie.core.session.jobs import Cancelled
from wily_magpie.qt.style.parts import label, thin_bar, timer
from wily_magpie.qt.style.theme import THEME

AFTER_MS = 300
"""How soon the window appears."""


class Waiting(QObject, Progress):
    """The work: on a thread of its own, its progress as signals."""

    moved = pyqtSignal(int, int)
    ended = pyqtSignal()

    def __init__(self, work: Callable[[Progress], object]) -> None:
        super().__init__()
        self.work = work
        self.is_asked_to_stop = False
        self.error: BaseException | None = None
        self.thread_of_work = threading.Thread(target=self.run, daemon=True)

    def run(self) -> None:
        """Does it."""
        try:
            self.work(self)
        except BaseException as error:  # noqa: BLE001 - it is raised again where the work was asked for
            self.error = error
        self.ended.emit()

    def tick(self, done: int, total: int) -> None:
        """Told by the work."""
        if self.is_asked_to_stop:
            raise Cancelled
        self.moved.emit(done, total)

    def stop(self) -> None:
        """Asks it to end."""
        self.is_asked_to_stop = True


def wait_for(text: str, work: Callable[[Progress], object]) -> bool:
    """Does work off the main thread and shows a window with its progress, if it takes longer than a moment.

    Returns:
        Whether it was done; False where the person cancelled it.
    """
    waiting, loop = Waiting(work), QEventLoop()
    waiting.ended.connect(loop.quit)
    dialogs: list[QDialog] = []
    late = timer(waiting, lambda: dialogs.append(shown_dialog(text, waiting)))
    late.start(AFTER_MS)
    waiting.thread_of_work.start()
    loop.exec()
    late.stop()  # what is left of it would show a window until it is collected
    waiting.thread_of_work.join()
    for dialog in dialogs:
        dialog.hide()
        dialog.deleteLater()
    waiting.deleteLater()
    if isinstance(waiting.error, Cancelled):
        return False
    if waiting.error is not None:
        raise waiting.error
    return True


def shown_dialog(text: str, waiting: Waiting) -> QDialog:
    """The window."""
    dialog = QDialog(None, Qt.WindowType.Window)
    THEME.dress(dialog)
    dialog.setWindowTitle("Wily Magpie")
    column = QVBoxLayout(dialog)
    column.setContentsMargins(28, 24, 28, 20)
    column.setSpacing(12)
    column.addWidget(label(text, "heading"))
    bar = thin_bar(0)
    bar.setMinimumWidth(360)
    column.addWidget(bar)
    row = QHBoxLayout()
    row.addStretch(1)
    cancel = QPushButton("Cancel")
    cancel.clicked.connect(waiting.stop)
    dialog.rejected.connect(waiting.stop)
    row.addWidget(cancel)
    column.addLayout(row)

    def show(done: int, total: int) -> None:
        bar.setRange(0, total)
        bar.setValue(done)

    waiting.moved.connect(show)
    screen = QApplication.primaryScreen()
    if screen is not None:
        dialog.adjustSize()
        dialog.move(screen.availableGeometry().center() - dialog.rect().center())
    dialog.show()
    return dialog
