"""What stands in the place of the live page: an invitation, what went wrong, or the text of a file."""

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from wily_magpie.qt.editors.two_lines import TwoLines
from wily_magpie.qt.reading import ReadingView, Shown
from wily_magpie.qt.style.flow import in_flow
from wily_magpie.qt.style.parts import button, label


class NothingPanel(QWidget):
    """Before the first page: what to do, and pages to begin with.

    Args:
        samples: (title, address) of pages of the made-up web.
    """

    opened = pyqtSignal(str)

    def __init__(self, samples: list[tuple[str, str]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        column = QVBoxLayout(self)
        column.setContentsMargins(56, 48, 56, 24)
        column.setSpacing(12)
        column.addWidget(label("Paste or type an address above", "heading"))
        hint = "Ctrl+L goes to the address line. The page opens here, and its slip fills itself on the right."
        column.addWidget(label(hint, wraps=True))
        if not samples:
            column.addStretch(1)
            return
        column.addWidget(label("Or open a page of the made-up web that comes with the program:", wraps=True))
        self.samples = QListWidget()
        self.samples.setAccessibleName("Pages of the made-up web")
        self.samples.setItemDelegate(TwoLines(self.samples))
        for title, address in samples:
            item = QListWidgetItem(f"{title}\n{address.removeprefix('http://')}")
            item.setData(Qt.ItemDataRole.UserRole, address)
            self.samples.addItem(item)
        for chosen in (self.samples.itemActivated, self.samples.itemClicked):
            chosen.connect(lambda item: self.opened.emit(item.data(Qt.ItemDataRole.UserRole)))
        column.addWidget(self.samples, 1)


class FailurePanel(QWidget):
    """What went wrong, and the ways out."""

    again = pyqtSignal()
    later = pyqtSignal()
    outside = pyqtSignal()
    shown_anyway = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        column = QVBoxLayout(self)
        column.setContentsMargins(56, 64, 56, 24)
        column.setSpacing(12)
        self.heading = label(name="heading", wraps=True)
        self.text = label(wraps=True)
        column.addWidget(self.heading)
        column.addWidget(self.text)
        again = button("Try again", self.again.emit, is_main=True)
        later = button("Keep only the address", self.later.emit)
        column.addLayout(in_flow(again, later, button("Open in the browser", self.outside.emit)))
        self.show_page = QPushButton("Show the page, to sign in")
        self.show_page.clicked.connect(self.shown_anyway)
        self.show_page.hide()
        column.addWidget(self.show_page, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)

    def show_failure(self, message: str, way_out: str, *, has_page: bool) -> None:
        """Says it.

        Args:
            has_page: whether the server sent a page all the same, such as one on which a person signs in.
        """
        self.show_page.setVisible(has_page)
        self.heading.setText(message)
        self.text.setText(way_out)


class FilePanel(QWidget):
    """A file that the web engine would only have saved, as it reads.

    Args:
        render: has a text made ready to be shown.
    """

    followed = pyqtSignal(str)

    def __init__(self, render: Callable[[str, Callable[[Shown], None]], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.render_text = render
        self.number = 0
        column = QVBoxLayout(self)
        column.setContentsMargins(56, 24, 0, 0)
        column.setSpacing(12)
        self.heading = label(name="heading", wraps=True)
        self.text = ReadingView()
        self.text.followed.connect(self.followed)
        column.addWidget(self.heading)
        column.addWidget(self.text, 1)

    def show_file(self, title: str, markdown: str) -> None:
        """Shows it."""
        self.heading.setText(title)
        self.number += 1
        number = self.number
        self.render_text(markdown, lambda found: self.text.show_text(found) if number == self.number else None)
