"""Two windows on a real screen, each in a process of its own: the program's, and one that things are copied and dragged from.

Called with `window LIBRARY PROXY FOLDER` or `other FOLDER ADDRESS …`.
"""

import sys
from pathlib import Path

from PyQt6.QtCore import QMimeData, QSettings, Qt, QUrl
from PyQt6.QtGui import QDrag, QMouseEvent
from PyQt6.QtWidgets import QApplication, QWidget

COLOUR = (201, 17, 203)
"""Of the other window; nothing of ours has it."""


def show_window(library: str, proxy: str, own: str) -> int:
    """The program's window, in the Capture station."""
    from wily_magpie.core.pages.fetch import Fetcher
    from wily_magpie.core.session.session import Session
    from wily_magpie.core.settings.person import PersonSettings
    from wily_magpie.qt.application import make_application, make_window

    application = make_application()
    session = Session(Path(library), Fetcher(lambda _address: proxy), origin="other")
    settings = QSettings(str(Path(own) / "child.ini"), QSettings.Format.IniFormat)
    window = make_window(session, settings, lambda _address: proxy, [], person=PersonSettings(Path(own) / "child.toml"))
    window.setGeometry(320, 40, 1000, 700)
    window.show()
    window.go(1)
    return application.exec()


class Other(QWidget):
    """What addresses are dragged from; they lie in the clipboard, too."""

    def __init__(self, addresses: list[str]) -> None:
        super().__init__()
        self.addresses = addresses
        self.setGeometry(20, 60, 240, 160)
        self.setStyleSheet(f"background: rgb{COLOUR};")

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            data = QMimeData()
            data.setUrls([QUrl(one) for one in self.addresses])
            drag = QDrag(self)
            drag.setMimeData(data)
            drag.exec(Qt.DropAction.CopyAction)


def show_other(addresses: list[str]) -> int:
    """The other window."""
    application = QApplication([])
    clipboard = application.clipboard()
    assert clipboard is not None
    clipboard.setText("\n".join(addresses))
    other = Other(addresses)
    other.show()
    return application.exec()


if __name__ == "__main__":
    what, *rest = sys.argv[1:]
    sys.exit(show_window(*rest) if what == "window" else show_other(rest))
