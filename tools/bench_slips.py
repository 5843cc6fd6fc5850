"""`./magpie bench slips`: twelve pages kept in a row in the window, by keyboard: keys and seconds for each.

The floor is the live page alone: from Enter until the page is quiet, which no program can do without.
"""

import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from measure import tell
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QWidget

from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.demo.server import StandInWeb
from wily_magpie.demo.web import addresses
from wily_magpie.qt.application import make_application, make_window
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.style.theme import THEME

PAGES, LONGEST_S = 12, 30
STRANGE = (
    "silent",
    "hangup",
    "short-links",
    "withdrawn",
    "/failed",
    "/members",
    ".zip",
    "/go?to",
    "slow",
    "endless",
    "big-",
    "/amp",
)
CONTROL = Qt.KeyboardModifier.ControlModifier


class Keys:
    """The keyboard, which counts what is pressed."""

    def __init__(self, window: MainWindow) -> None:
        self.window, self.count = window, 0

    def press(self, key: Qt.Key, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        """A key with what is held beside it."""
        self.count += 1
        target: QWidget = QApplication.focusWidget() or self.window
        QTest.keyClick(target, key, held)  # type: ignore[call-overload]


def wait(until: Callable[[], bool], address: str, told: Callable[[], str]) -> None:
    """Lets the window live until something is so."""
    end = time.monotonic() + LONGEST_S
    while not until():
        QApplication.processEvents()
        if time.monotonic() > end:
            raise SystemExit(f"bench slips: {address} was not kept: {told()}")


def keep_one(window: MainWindow, address: str) -> tuple[int, float, float]:
    """Keeps a page: (keys, seconds until it is kept, seconds until it is quiet)."""
    keys, station = Keys(window), window.stack.capture
    clipboard = QApplication.clipboard()
    if clipboard is not None:
        clipboard.setText(address)
    kept: list[float] = []
    told = station.kept.connect(lambda: kept.append(time.perf_counter()))
    quiet: list[float] = []
    keys.press(Qt.Key.Key_V, CONTROL)
    begun = time.perf_counter()
    keys.press(Qt.Key.Key_Return)
    if station.view is not None:
        station.view.arrived.connect(lambda _page: quiet.append(time.perf_counter()))
    keys.press(Qt.Key.Key_Return, CONTROL)
    wait(
        lambda: bool(kept),
        address,
        lambda: " / ".join(one.text() for one in station.findChildren(QLabel) if one.isVisible()),
    )
    station.kept.disconnect(told)
    (end,) = kept
    return keys.count, end - begun, (quiet[0] if quiet else end) - begun


def bench_slips() -> None:
    """Keeps them, and tells what each cost."""
    application = make_application()
    THEME.apply(application, "light")
    web = StandInWeb(passes_on=False)
    wanted = [one for one in addresses() if not any(part in one for part in STRANGE)][: PAGES + 1]
    with tempfile.TemporaryDirectory() as folder:
        session = Session(Path(folder) / "library", Fetcher(lambda _address: web.proxy))
        settings = QSettings(str(Path(folder) / "window.ini"), QSettings.Format.IniFormat)
        person = PersonSettings(Path(folder) / "person.toml")
        window = make_window(session, settings, lambda _address: web.proxy, [], person=person)
        window.show()
        application.setActiveWindow(window)
        Keys(window).press(Qt.Key.Key_L, CONTROL)
        done = [keep_one(window, address) for address in wanted][1:]  # the first one starts the engine
        whole, quiet = [one[1] for one in done], [one[2] for one in done]
        tell(
            f"a page in a row, {max(one[0] for one in done)} keys",
            whole,
            quiet,
            "the page until it is quiet",
            "3 keys, 1 x",
        )
        window.close()
        application.processEvents()
        session.close()
    web.close()
