"""A window that is to be killed: it opens a page, a person types on its slip, and it says so.

Called with the library, the proxy of the stand-in web, the address, and a folder for its own settings.
"""

import os
import sys
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from PyQt6.QtCore import QSettings, QTimer

from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.application import make_application, make_window

library, proxy, address, own = sys.argv[1:]
application = make_application()
session = Session(Path(library), Fetcher(lambda _address: proxy), origin="other")
settings = QSettings(str(Path(own) / "child.ini"), QSettings.Format.IniFormat)
window = make_window(session, settings, lambda _address: proxy, [], person=PersonSettings(Path(own) / "child.toml"))
window.show()
window.go(0)
station = window.stack.capture
station.open(address)


def look() -> None:
    """Types once the slip is there."""
    if station.card.slip is None:
        return
    timer.stop()
    area = station.card.fields.enter("summary").editor.area
    assert area is not None
    area.insertPlainText("Typed before the end")
    sys.stdout.write("typed\n")
    sys.stdout.flush()


timer = QTimer()
timer.timeout.connect(look)
timer.start(50)
application.exec()
