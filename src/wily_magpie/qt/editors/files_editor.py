"""The files of an entry: shown by name, with small pictures; added by choosing or dropping; opened with the system's program."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from PyQt6 import sip
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QIcon, QImage, QKeyEvent, QPixmap
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from wily_magpie.core.fields.files import file_name
from wily_magpie.qt.pictures import decoded
from wily_magpie.qt.style.parts import text_button
from wily_magpie.qt.style.theme import THEME

ROW_PX, THUMBNAIL_PX, MOST_ROWS = 30, 24, 5
LARGEST_BYTES = 60_000_000
"""A larger file is shown without a small picture of it."""
STORED_ROLE = int(Qt.ItemDataRole.UserRole)
Images = Mapping[Path, QImage]
Load = Callable[[Callable[[], Images], Callable[[Images], None]], None]


class FilesEditor(QWidget):
    """Shows and changes the files of an entry.

    Args:
        load: has small pictures made off the thread: (work, what it is handed to).

    Signals:
        added: paths that are to be kept.
        changed: the stored files that are left.
        opened: the path of a file that is to be opened, and its name.
    """

    added = pyqtSignal(list)
    changed = pyqtSignal(tuple)
    opened = pyqtSignal(str, str)

    def __init__(self, load: Load, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.load = load
        self.paths: Mapping[str, Path] = {}
        self.setAcceptDrops(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        self.list = QListWidget()
        self.list.setAccessibleName("Files")
        self.list.setIconSize(QSize(THUMBNAIL_PX, THUMBNAIL_PX))
        self.list.itemActivated.connect(self._on_open)
        column.addWidget(self.list)
        row = QHBoxLayout()
        row.setSpacing(2)
        row.addWidget(text_button("Add a file …", "paperclip", self.ask))
        self.remove = text_button("Take out", "", self.take_out)
        row.addWidget(self.remove)
        row.addStretch(1)
        column.addLayout(row)
        self.set_files(())

    def set_files(self, stored: Sequence[str], paths: Mapping[str, Path] | None = None) -> None:
        """Shows files.

        Args:
            paths: where they lie; one that is not among them is missing.
        """
        self.paths = paths or {}
        self.list.clear()
        for one in stored:
            path = self.paths.get(one)
            item = QListWidgetItem(file_name(one) if path else f"{file_name(one)} — missing")
            item.setData(STORED_ROLE, one)
            item.setIcon(THEME.icon("file" if path is not None else "file-x"))
            if path is None:
                item.setForeground(self.palette().placeholderText())
                item.setToolTip("The file is not in the library's folder any more. Bring it back from a copy.")
            self.list.addItem(item)
        self.list.setVisible(bool(stored))
        self.list.setFixedHeight(min(len(stored), MOST_ROWS) * ROW_PX + 4)
        self.remove.setVisible(bool(stored))
        wanted = list(self.paths.values())
        if wanted:
            self.load(lambda: {path: thumbnail(path) for path in wanted}, self.show_pictures)

    def show_pictures(self, images: Mapping[Path, QImage]) -> None:
        """Shows small pictures of the files that are pictures."""
        for row in range(0 if sip.isdeleted(self) else self.list.count()):
            item = self.list.item(row)
            path = self.paths.get(str(item.data(STORED_ROLE))) if item is not None else None
            image = images.get(path) if path is not None else None
            if item is not None and image is not None and not image.isNull():
                item.setIcon(QIcon(QPixmap.fromImage(image)))

    def stored(self) -> tuple[str, ...]:
        """The files that are shown."""
        items = (self.list.item(row) for row in range(self.list.count()))
        return tuple(str(item.data(STORED_ROLE)) for item in items if item is not None)

    def ask(self) -> None:
        """Asks for files."""
        chosen, _ = QFileDialog.getOpenFileNames(self, "Add files")
        if chosen:
            self.added.emit([Path(path) for path in chosen])

    def take_out(self) -> None:
        """Takes the chosen file out of the entry; undo brings it back."""
        row = max(0, self.list.currentRow())
        self.changed.emit(tuple(one for number, one in enumerate(self.stored()) if number != row))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Delete and self.stored():
            self.take_out()
            return
        super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        self._accept(event)

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        self._accept(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None:
            self.added.emit([Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()])
            event.acceptProposedAction()

    @staticmethod
    def _accept(event: QDragMoveEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and any(url.isLocalFile() for url in data.urls()):
            event.acceptProposedAction()

    def _on_open(self, item: QListWidgetItem) -> None:
        stored = str(item.data(STORED_ROLE))
        path = self.paths.get(stored)
        if path is not None:
            self.opened.emit(str(path), file_name(stored))


def thumbnail(path: Path) -> QImage:
    """A small picture of a picture; a null one for other files. To be called off the interface's thread."""
    try:
        content = path.read_bytes() if path.stat().st_size <= LARGEST_BYTES else b""
    except OSError:
        return QImage()
    return decoded(content, 2 * THUMBNAIL_PX, 2 * THUMBNAIL_PX)
