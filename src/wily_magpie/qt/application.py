"""Starts Qt, opens the library and shows the window."""

import gc
import os
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from importlib import import_module
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtWidgets import QApplication, QMessageBox, QWidget

from wily_magpie.core.commands.command import Progress
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import BugError, MagpieError
from wily_magpie.core.faults import log_path, logger, start_log
from wily_magpie.core.guard import GUARD
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.known import LOOK
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.bindings import made_whole
from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.main_window import AFTER_START_MS, MainWindow
from wily_magpie.qt.single_instance import LOOK_ONLY, SingleInstance
from wily_magpie.qt.style.parts import alone, timer
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.waiting import wait_for

if TYPE_CHECKING:
    from wily_magpie.core.companion.scheme import Visit
    from wily_magpie.core.session.watching import Watching
    from wily_magpie.qt.front_door import FrontDoor
    from wily_magpie.qt.web.page_view import PageView

Route = Callable[[str], str | None]
BEHIND_THE_FIRST_PICTURE = (
    "wily_magpie.core.commands.views",
    "wily_magpie.core.commands.files",
    "wily_magpie.core.commands.history",
    "wily_magpie.core.session.watching",
    "wily_magpie.core.session.filling",
    "wily_magpie.qt.entry_form",
    "wily_magpie.qt.stations.sources.body_editor",
    "wily_magpie.qt.editors.markdown_colours",
    "wily_magpie.qt.front_door",
    "wily_magpie.qt.web.engine",
    "wily_magpie.core.pages.markdown",
    "wily_magpie.qt.stations.capture.station",
    "wily_magpie.qt.stations.read.station",
    "wily_magpie.qt.stations.templates.station",
    "numpy",
)
"""What a window needs soon after it is there, and is loaded beside it."""
STYLE = ("-style", "fusion")
"""Our look is drawn upon Qt's own style, whatever the desktop has; asked for in words, since handing a style over takes 5 ms."""
SLICE_MS = 8
"""So long the window is kept busy at a time with what it will need."""
SELDOM = 20_000
"""So many new objects are made before unused ones are looked for, once the window is there."""
log = logger(__name__)


@dataclass(frozen=True)
class Opens:
    """What a window is to open once it is there.

    Attributes:
        entry: PLACE/NUMBER, or "".
    """

    visit: "Visit | None" = None
    entry: str = ""


NOTHING_TO_OPEN = Opens()


def make_application() -> QApplication:
    """The Qt application with our look; the web engine can be loaded later."""
    # without this a web engine that is imported late refuses to start
    QApplication.setAttribute(Qt.ApplicationAttribute.AA_ShareOpenGLContexts)
    os.environ.setdefault("QTWEBENGINE_CHROMIUM_FLAGS", "--disable-logging")
    application = QApplication.instance()
    if not isinstance(application, QApplication):
        application = QApplication(["wily-magpie", *STYLE])
    application.setApplicationName("wily-magpie")
    application.setDesktopFileName("wily-magpie")
    return application


def person_settings() -> PersonSettings:
    """What the person has set, for all libraries."""
    import platformdirs  # where files live (XDG base directories)

    return PersonSettings(Path(platformdirs.user_config_dir("wily-magpie")) / "settings.toml")


class Upkeep:
    """What goes on beside the window once it is there: watching notes folders, hearing neighbours, clearing up."""

    def __init__(self, session: Session, bridge: Bridge) -> None:
        self.session, self.bridge = session, bridge
        self.classes = made_whole()
        self.later = timer(bridge, self.begin)
        self.watching: Watching | None = None
        bridge.places_changed.connect(self.watch)

    def begin(self) -> None:
        """Begins, once what it needs is loaded: beside the window, which goes on meanwhile."""
        until = time.monotonic() + SLICE_MS / 1000
        for _whole in self.classes:
            if time.monotonic() > until:
                self.later.start()
                return
        self.bridge.ask(lambda _reader: [import_module(name) for name in BEHIND_THE_FIRST_PICTURE], self.go_on)

    def go_on(self, _loaded: object) -> None:
        """What is done when all is loaded."""
        gc.freeze()  # modules and widgets stay: looking through them again and again would make the window halt
        gc.set_threshold(SELDOM)
        self.session.hear_neighbours()
        for failure in self.session.told:
            self.bridge.complain(failure)
        if self.session.overview.is_read_only:
            self.bridge.index_entries()
            return
        from wily_magpie.core.commands.upkeep import Sweep
        from wily_magpie.core.session.watching import Watching

        self.watching = Watching(self.session.index_notes, self.folders)
        self.watch()
        self.bridge.index_notes()
        self.session.keep_lists_filled()
        self.bridge.index_entries()
        self.bridge.entries_changed.connect(lambda place, ids: self.bridge.index_entries(place, ids or None))
        self.bridge.do(Sweep())

    def watch(self) -> None:
        """Watches the notes folders for what other programs change in them."""
        if self.watching is not None:
            watching = self.watching
            self.bridge.ask(lambda _reader: watching.watch(), lambda _none: None)

    def folders(self) -> dict[str, Path]:
        """The notes folders that are there, by the keys of their places."""
        named = {place.key: Path(place.path) for place in self.session.overview.places if place.path}
        return {key: path for key, path in named.items() if path.is_dir()}

    def close(self) -> None:
        """Ends it."""
        if self.watching is not None:
            self.watching.close()


def make_window(
    session: Session,
    settings: QSettings,
    route: Route,
    samples: list[tuple[str, str]],
    *,
    is_demo: bool = False,
    person: PersonSettings | None = None,
) -> MainWindow:
    """The window over an open session."""

    def make_view(parent: QWidget) -> "PageView":
        from wily_magpie.qt.web.engine import need_sandbox, open_gate

        need_sandbox()
        open_gate()  # before the engine is loaded
        from wily_magpie.qt.web.page_view import PageView

        return PageView(route, parent)

    bridge = Bridge(session)
    upkeep = Upkeep(session, bridge)
    window = MainWindow(
        bridge, settings, person or person_settings(), make_view, upkeep.begin, samples, log_path, is_demo=is_demo
    )
    window.closed.connect(upkeep.close)
    return window


def run(
    folder: Path,
    open_session: Callable[[bool], Session],
    route: Route,
    samples: list[tuple[str, str]] | None = None,
    *,
    is_demo: bool = False,
    is_guarded: bool = False,
    prepare: Callable[[Progress], None] | None = None,
    opens: Opens = NOTHING_TO_OPEN,
) -> int:
    """Opens a library in a window; the exit code. A library that is open in a window already is not opened twice.

    Args:
        open_session: opens the library, to be looked at only where it is handed True.
        is_guarded: says where the window waits for a database or a disk, instead of waiting.
        prepare: makes the library first, with progress.
        opens: what the window opens when it is there.

    Raises:
        MagpieError: the library cannot be opened; it was told in a dialog already.
    """
    application = make_application()
    person = person_settings()
    start_log(log_path())
    settings = QSettings(
        QSettings.Format.IniFormat, QSettings.Scope.UserScope, "wily-magpie", "demo" if is_demo else "window"
    )
    THEME.apply(application, str(person.value(LOOK)))
    if prepare is not None and not told(lambda: wait_for("Making the demo library …", prepare)):
        return 0
    is_read_only = False
    while True:
        door = SingleInstance(folder)
        is_read_only = is_read_only or (not door.is_free and door.ask() == LOOK_ONLY)
        if not door.is_free and not is_read_only:
            return 0
        code, copy = 0, None
        try:
            session = opened_by(open_session, is_read_only=is_read_only)
        except MagpieError as error:
            copy, is_read_only = after_failure(error, folder)
            if copy is None and not is_read_only:
                raise
        else:
            if session is not None:
                window = make_window(session, settings, route, samples or [], is_demo=is_demo, person=person)
                code, copy = show(application, window, session, door, opens, is_guarded=is_guarded)
            if copy is None:
                return code
        finally:
            door.close()
        if copy is not None:
            bring_back(copy, folder)


def opened_by(open_session: Callable[[bool], Session], *, is_read_only: bool) -> Session | None:
    """The open library; None where the person cancelled it."""
    opened: list[Session] = []
    wait_for("Opening the library …", lambda _progress: opened.append(open_session(is_read_only)))
    return opened[0] if opened else None


def after_failure(error: MagpieError, folder: Path) -> tuple[Path | None, bool]:
    """What the person wants where a library does not open: (the copy that is to be brought back, whether it is looked at only)."""
    from wily_magpie.qt.restore_page import LOOK_ONLY, RESTORE, RestorePage, ask_after_failure  # seldom needed

    answer = ask_after_failure(error)
    if answer != RESTORE:
        return None, answer == LOOK_ONLY
    page = RestorePage(folder)
    THEME.dress(page)
    page.exec()
    return page.chosen, False


def bring_back(copy: Path, folder: Path) -> None:
    """Brings a copy of the library back; nobody has it open."""
    from wily_magpie.core.session.restore import restore  # seldom needed

    with suppress(MagpieError):  # told; what was there is opened again
        told(lambda: wait_for("Bringing the copy back …", lambda progress: restore(copy, folder, progress)))


def told(work: Callable[[], bool]) -> bool:
    """Whether work was done; where it fails, that is told in a dialog before it is raised."""
    try:
        return work()
    except MagpieError as error:
        alone(QMessageBox.Icon.Critical, str(error)).exec()
        raise


def show(
    application: QApplication,
    window: MainWindow,
    session: Session,
    door: SingleInstance,
    opens: Opens,
    *,
    is_guarded: bool,
) -> tuple[int, Path | None]:
    """Shows the window until it is closed: (exit code, the copy that is to be brought back then, if any)."""
    doors: list[FrontDoor] = []
    later = timer(window, lambda: doors.extend(open_door(window, session, door)))
    later.start(AFTER_START_MS)  # what serves browsers is loaded behind the first picture
    catch_faults(window)
    window.show()
    if opens.visit is not None:
        window.visit(opens.visit)
    elif opens.entry:
        place, _, number = opens.entry.rpartition("/")
        window.show_entry(place, int(number) if number.isdigit() else -1)
    if is_guarded:
        GUARD.watch("wily_magpie.qt")
    try:
        return application.exec(), window.wanted_copy
    finally:
        GUARD.lift()
        later.stop()
        for one in doors:
            one.close()
        session.close()


def open_door(window: MainWindow, session: Session, door: SingleInstance) -> "list[FrontDoor]":
    """Lets other starts of the program, and browsers, reach the window; none where they cannot, which is said."""
    if session.overview.is_read_only:
        return []
    from wily_magpie.qt.front_door import FrontDoor

    front = FrontDoor(session)
    front.shown.connect(window.come_up)
    front.visited.connect(window.visit)
    front.entry_asked.connect(window.show_entry)
    window.bridge.ask(lambda _reader: door.tell(front.listen()), lambda _none: None, window.complain)
    return [front]


def catch_faults(window: MainWindow) -> None:
    """Has our own faults told instead of losing the window to them."""

    def tell(kind: type[BaseException], error: BaseException | None, trace: TracebackType | None) -> None:
        sys.__excepthook__(kind, error or kind(), trace)
        log.error("%s", error, exc_info=(kind, error or kind(), trace))
        if threading.current_thread() is threading.main_thread():
            told = error if isinstance(error, MagpieError) else None
            said = f"Something went wrong: {error!r}."
            window.complain(told or BugError("bug", said, "Nothing that was kept is lost."))

    sys.excepthook = tell
    threading.excepthook = lambda args: tell(args.exc_type, args.exc_value, args.exc_traceback)
