"""The program's window in a process of its own, with an entry open for reading: `LIBRARY PLACE ID FOLDER`."""

import sys
from pathlib import Path

from PyQt6.QtCore import QSettings

from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.application import make_application, make_window
from wily_magpie.qt.stations.read.side import MARKS


def main(library: str, place: str, entry: str, own: str) -> int:
    application = make_application()
    session = Session(Path(library), Fetcher(lambda _address: None), origin="other")
    settings = QSettings(str(Path(own) / "child.ini"), QSettings.Format.IniFormat)
    settings.setValue(MARKS, "true")
    window = make_window(session, settings, lambda _address: None, [], person=PersonSettings(Path(own) / "child.toml"))
    window.setGeometry(40, 40, 1200, 760)
    window.show()
    window.read_entry(place, int(entry), ())
    return application.exec()


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
