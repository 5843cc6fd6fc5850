"""Pages as the web engine shows them, without a window: their scripts run, as in a browser."""

import os
from collections.abc import Callable
from functools import cache

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QCoreApplication, QEventLoop, QTimer
from PyQt6.QtWidgets import QApplication

from wily_magpie.core.errors import PageFailure
from wily_magpie.core.network import failures
from wily_magpie.core.pages.page import Page
from wily_magpie.qt.web.engine import need_sandbox, open_gate

LONGEST_MS, CANCEL_MS, SETTLED_MS = 60_000, 200, 1_800
"""SETTLED_MS: how long a page that was quiet is waited for, since text may come later."""
WINDOW_PX = (1280, 1600)


@cache
def application() -> QCoreApplication:
    """The one application of this process, which lives until its end."""
    return QApplication.instance() or QApplication(["wily-magpie"])


class Visit:
    """One page that is opened and waited for."""

    def __init__(self) -> None:
        self.loop = QEventLoop()
        self.page: Page | None = None
        self.failure: PageFailure | None = None
        self.file = ""
        self.settling = QTimer()
        self.settling.setSingleShot(True)
        self.settling.timeout.connect(self.loop.quit)

    def arrived(self, page: Page) -> None:
        """The page is quiet, perhaps not for the last time."""
        self.page = page
        self.settling.start(SETTLED_MS)

    def failed(self, failure: PageFailure) -> None:
        """It could not be had."""
        self.failure = failure
        self.loop.quit()

    def offered(self, address: str, _media_type: str) -> None:
        """It is a file."""
        self.file = address
        self.loop.quit()


def live_page(
    address: str, proxy_for: Callable[[str], str | None], cancelled: Callable[[], bool] = lambda: False
) -> Page | str:
    """The page of an address, once it is quiet; of a file, its address. On the main thread.

    Raises:
        PageFailure: it cannot be had.
    """
    need_sandbox()
    open_gate()
    from wily_magpie.qt.web.page_view import PageView  # has to come before the application

    application()
    visit, view, look = Visit(), PageView(proxy_for), QTimer()
    view.resize(*WINDOW_PX)
    view.arrived.connect(visit.arrived)
    view.failed.connect(visit.failed)
    view.offered.connect(visit.offered)
    look.timeout.connect(lambda: visit.loop.quit() if cancelled() else None)
    look.start(CANCEL_MS)
    QTimer.singleShot(LONGEST_MS, visit.loop.quit)
    view.show()
    view.load(address)
    visit.loop.exec()
    view.close_page()
    view.deleteLater()
    if visit.failure is not None:
        raise visit.failure
    if not visit.file and visit.page is None:
        raise failures.no_answer(address)
    return visit.file or visit.page or ""
