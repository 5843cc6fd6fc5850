"""Starts Qt, opens the library and shows the window."""

import os
import sys
import threading
from collections.abc import Callable
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtWidgets import QApplication, QMessageBox, QWidget

from wily_magpie.core.errors import BugError, MagpieError, PageFailure
from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.single_instance import LOOK_ONLY, SingleInstance
from wily_magpie.qt.style.theme import THEME, load_fonts

if TYPE_CHECKING:
    from wily_magpie.qt.web.page_view import PageView

Route = Callable[[str], str | None]


def make_application() -> QApplication:
    """The Qt application with our look; the web engine can be loaded later."""
    # without this a web engine that is imported late refuses to start
    QApplication.setAttribute(Qt.ApplicationAttribute.AA_ShareOpenGLContexts)
    os.environ.setdefault("QTWEBENGINE_CHROMIUM_FLAGS", "--disable-logging")
    application = QApplication.instance()
    if not isinstance(application, QApplication):
        application = QApplication(["wily-magpie"])
    application.setApplicationName("wily-magpie")
    application.setDesktopFileName("wily-magpie")
    load_fonts()
    return application


def make_window(
    session: Session, settings: QSettings, route: Route, samples: list[tuple[str, str]], *, is_demo: bool = False
) -> MainWindow:
    """The window over an open session."""

    def make_view(parent: QWidget) -> "PageView":
        if os.geteuid() == 0 and "QTWEBENGINE_DISABLE_SANDBOX" not in os.environ:
            # Chromium would end the whole program
            raise PageFailure(
                "web-engine-root",
                "The live page does not run for root, who has no sandbox.",
                "Start the program as another user, or capture from the shell: wily-magpie capture ADDRESS.",
            )
        from wily_magpie.qt.web.page_view import PageView

        return PageView(route, parent)

    return MainWindow(session, settings, make_view, samples, is_demo=is_demo)


def run(
    folder: Path,
    open_session: Callable[[bool], Session],
    route: Route,
    samples: list[tuple[str, str]] | None = None,
    *,
    is_demo: bool = False,
) -> int:
    """Opens a library in a window; the exit code. A library that is open in a window already is not opened twice.

    Args:
        open_session: opens the library, to be looked at only where it is handed True.

    Raises:
        MagpieError: the library cannot be opened; it was told in a dialog already.
    """
    application = make_application()
    settings = QSettings(
        QSettings.Format.IniFormat, QSettings.Scope.UserScope, "wily-magpie", "demo" if is_demo else "window"
    )
    THEME.apply(application, str(settings.value("look", "system")))
    try:
        door = SingleInstance(folder)
        is_read_only = not door.is_free and door.ask() == LOOK_ONLY
        if not door.is_free and not is_read_only:
            return 0
        session = open_session(is_read_only)
    except MagpieError as error:
        QMessageBox.critical(None, "Wily Magpie", str(error))
        raise
    window = make_window(session, settings, route, samples or [], is_demo=is_demo)
    if is_read_only:
        window.setWindowTitle(f"{window.windowTitle()} — to be looked at only")
    door.listen(window.come_up)
    catch_faults(window)
    window.show()
    try:
        return application.exec()
    finally:
        window.bridge.close()
        session.close()
        door.close()


def catch_faults(window: MainWindow) -> None:
    """Has our own faults told instead of losing the window to them."""

    def tell(kind: type[BaseException], error: BaseException | None, trace: TracebackType | None) -> None:
        sys.__excepthook__(kind, error or kind(), trace)
        if threading.current_thread() is threading.main_thread():
            window.complain(BugError("bug", f"Something went wrong: {error!r}.", "Nothing that was kept is lost."))

    sys.excepthook = tell
    threading.excepthook = lambda args: tell(args.exc_type, args.exc_value, args.exc_traceback)
