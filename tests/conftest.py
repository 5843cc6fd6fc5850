"""What tests stand on: a real library in a temporary folder, the real stand-in web on loopback."""

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
if os.geteuid() == 0:
    os.environ["QTWEBENGINE_DISABLE_SANDBOX"] = "1"

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import urlsplit

import pytest
from hypothesis import HealthCheck, settings

from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.guard import GUARD
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.demo.server import StandInWeb

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from wily_magpie.qt.main_window import MainWindow

settings.register_profile("ours", deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
settings.load_profile("ours")

HERON = "http://estuary-courier.example/2025/03/14/heron-mill-turns-again"


@pytest.fixture(scope="session")
def web() -> Iterator[StandInWeb]:
    """The stand-in web, with no way on to the real one."""
    running = StandInWeb(passes_on=False)
    yield running
    running.close()


@pytest.fixture
def route(web: StandInWeb) -> Callable[[str], str | None]:
    """The way to the stand-in web; everything else goes its own way."""
    return lambda address: web.proxy if (urlsplit(address).hostname or "").endswith(".example") else None


@pytest.fixture
def fetcher(route: Callable[[str], str | None]) -> Fetcher:
    """Fetches from the stand-in web; a silent server is given up after a moment."""
    return Fetcher(route, silence_s=1.0)


@pytest.fixture
def session(tmp_path: Path, fetcher: Fetcher) -> Iterator[Session]:
    """A fresh library with what it begins with."""
    opened = Session(tmp_path / "library", fetcher)
    yield opened
    opened.close()


NOTE_FIELDS = (
    FieldPlan("status", "Status", "choice"),
    FieldPlan("address", "Address", "address"),
    FieldPlan("authors", "Authors", "people"),
    FieldPlan("published", "Published", "date"),
    FieldPlan("tags", "Tags", "choices"),
    FieldPlan("captured", "Captured", "date"),
)


@pytest.fixture
def notes_path(session: Session, tmp_path: Path) -> Path:
    """The folder of a notes folder named Notebook in the session's library."""
    folder = tmp_path / "Notebook"
    folder.mkdir()
    session._library.add_notes_folder("Notebook", folder, NOTE_FIELDS)
    return folder


@pytest.fixture(scope="session")
def qapp() -> "QApplication":
    """The application as the program makes it."""
    from wily_magpie.qt.application import make_application
    from wily_magpie.qt.style.theme import THEME

    application = make_application()
    THEME.apply(application, "light")
    return application


@pytest.fixture
def window(
    qapp: "QApplication", session: Session, route: Callable[[str], str | None], tmp_path: Path
) -> "Iterator[MainWindow]":
    """The whole window over the session's library, with the stand-in web behind it; it may wait for no database or disk."""
    from PyQt6.QtCore import QSettings

    from wily_magpie.qt.application import make_window

    settings = QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)
    person = PersonSettings(tmp_path / "settings.toml")
    opened = make_window(session, settings, route, [("Heron Mill", HERON)], person=person)
    opened.show()
    opened.resize(1280, 800)
    qapp.setActiveWindow(opened)
    GUARD.watch("wily_magpie.qt")
    yield opened
    GUARD.lift()
    opened.close()
    opened.deleteLater()
    qapp.sendPostedEvents()
