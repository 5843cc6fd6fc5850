"""The window: puts the parts in their places and connects them; decides nothing."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QByteArray, QPoint, QSettings, Qt, QUrl, pyqtSignal
from PyQt6.QtGui import (
    QCloseEvent,
    QDesktopServices,
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QKeyEvent,
    QKeySequence,
)
from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog, QMainWindow, QVBoxLayout, QWidget

from wily_magpie.core.errors import BugError, MagpieError
from wily_magpie.core.pages.address import looks_like_address
from wily_magpie.core.settings.known import LOOK, NOTICE_PACE, READING_SETTINGS
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.core.settings.setting import Setting
from wily_magpie.qt.actions import Commands
from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.dropped import from_mime, is_welcome
from wily_magpie.qt.goals import Goals
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.lists import Lists
from wily_magpie.qt.main_menu import MainMenu
from wily_magpie.qt.notice import Notice
from wily_magpie.qt.opening import Fitting, HeldPicture
from wily_magpie.qt.station_context import Buttons, StationContext
from wily_magpie.qt.station_stack import CAPTURE, READ, SOURCES, StationStack
from wily_magpie.qt.strange_folders import ask_about_folders
from wily_magpie.qt.style.parts import timer
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.top_line import TopLine
from wily_magpie.qt.tray import TrayButton
from wily_magpie.qt.undoing import Undoing
from wily_magpie.qt.window_commands import WindowActs, bind_all
from wily_magpie.qt.window_keys import WindowKeys

if TYPE_CHECKING:
    from wily_magpie.core.companion.scheme import Visit
    from wily_magpie.core.entries.kept import Kept
    from wily_magpie.qt.web.page_view import PageView

USUAL_SIZE = (1280, 800)
AFTER_START_MS = 400


class MainWindow(QMainWindow):
    """The desk with its five stations.

    Args:
        make_view: makes the live page when the first address is opened; the web engine is not loaded before.
        begin: what can wait until the window is there.
        samples: (title, address) of pages to begin with, shown where no page is open yet.
        log: tells where our own faults are written down.

    Signals:
        closed: it is gone, and nothing more is to be told.
    """

    closed = pyqtSignal()

    def __init__(
        self,
        bridge: Bridge,
        settings: QSettings,
        person: PersonSettings,
        make_view: "Callable[[QWidget], PageView]",
        begin: Callable[[], None],
        samples: list[tuple[str, str]],
        log: Callable[[], Path],
        *,
        is_demo: bool = False,
    ) -> None:
        super().__init__()
        THEME.dress(self)
        self.settings, self.person, self.log = settings, person, log
        self.wanted_copy: Path | None = None
        """The copy of the library that is to be brought back once the window is closed."""
        self.bridge = bridge
        self.bridge.complain = self.complain
        self.notice = Notice(lambda: float(str(self.person.value(NOTICE_PACE))))
        self.undoing = Undoing(bridge, self.notice, self.complain)
        self.commands = Commands()
        self.desk = StationContext(
            bridge, settings, person, LastAsked(bridge), self.commands, is_demo, self.say, self.complain, self.undo, self.read_entry,
            lambda hit, wanted: self.goals.read_hit(hit, wanted), lambda: self.goals.show_found(),
            lambda name, scope: self.goals.show_all_marks(name, scope), self.show_entry, self.show_note, self.show_question, self.open_outside, lambda paths, place: self.lists.take_given(paths, place),
        )  # fmt: skip
        self.lists = Lists(self.desk, self.open_address, self.take_snippet, self)
        looks_only = " — to be looked at only" if bridge.overview.is_read_only else ""
        self.setWindowTitle(f"Wily Magpie{' — demo' if is_demo else ''}{looks_only}")
        self.make_parts(make_view, samples)
        self.bind_commands()
        self.keys = WindowKeys(self, self.commands, self.stack.currentIndex)
        self.menu = MainMenu(self, self.commands, self.keys)
        self.top.menu.setMenu(self.menu)
        self.bridge.history_changed.connect(self.menu.name_undo)
        self.bridge.kept_outside.connect(self.told_kept)
        self.bridge.lists_left.connect(lambda left: self.goals.tell_of_list(left))
        self.bridge.out_of_step.connect(lambda left: self.goals.tell_out_of_step(left))
        self.setAcceptDrops(True)
        self.begin = begin
        self.begun = timer(self, self._on_begun)
        self.begun.start(AFTER_START_MS)
        self.restore()

    def make_parts(self, make_view: "Callable[[QWidget], PageView]", samples: list[tuple[str, str]]) -> None:
        """The line at the top, the stations, the notice."""
        body = QWidget(self)
        body.setObjectName("ground")
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.tray = TrayButton(self.bridge, self.open_draft, lambda number: self.lists.open(number), self.say, body)
        self.top = TopLine(self.tray, body)
        column.addWidget(self.top)
        self.stack = StationStack(self.desk, make_view, samples, body)
        column.addWidget(self.stack, 1)
        column.addWidget(self.notice)
        self.setCentralWidget(body)
        if QGuiApplication.platformName() not in ("offscreen", "minimal"):
            from PyQt6.QtOpenGLWidgets import QOpenGLWidget

            # a window that is on the screen already would be made anew for the first live page, and lose focus and place
            self.surface = QOpenGLWidget(body)
            self.surface.hide()
        self.top.station_asked.connect(self.go)
        self.top.typed.connect(self._on_typed)
        self.top.address.many.connect(lambda text: self.lists.arriving.take_text(text, only_lists=True))
        self.stack.address_changed.connect(self.top.address.show_address)
        self.goals = Goals(self.desk, self.stack, self.top.address, self.go, self)
        self.stack.slip_arrived.connect(self._on_arrived)

    def bind_commands(self) -> None:
        """Says what the commands of the window do."""
        acts = WindowActs(
            self.undoing, self.go, self.focus_address,
            lambda: self.open_page("steps"), lambda: self.open_page("settings"), lambda: self.open_page("keys"),
            self.ask_copy, self.open_restore, lambda: self.goals.open_finder(), self.close, self.lists.take_clipboard, self.lists.ask_files,
            self.say, self.turn_full, lambda: self.goals.show_all_marks(),
        )  # fmt: skip
        bind_all(self.commands, self.bridge, self.stack, acts)

    def open_page(self, name: str) -> None:
        """Opens a page of the window itself: settings, steps, keys."""
        from wily_magpie.qt.window_pages import KeysPage, SettingsPage, StepsPage

        made: QDialog
        match name:
            case "settings":
                made = SettingsPage(self.bridge, self.person, self.hold, self)
            case "steps":
                made = StepsPage(self.bridge, self.say, self)
            case _:
                made = KeysPage(self)
        self.page: QDialog = made
        made.show()

    def ask_copy(self) -> None:
        """Has a folder chosen, and the library copied into it."""
        given = QFileDialog.getExistingDirectory(self, "Where the library is to be copied to")
        if given:
            self.copy_to(Path(given))

    def copy_to(self, folder: Path) -> None:
        """Copies the library, which shows in the tray."""

        def told(count: int) -> None:
            self.say(f"The library is copied to {folder}, {count:,} files, and the copy is checked.", ())

        self.bridge.start("Copy the library", lambda counter, job: counter.back_up(folder, job), told)

    def open_restore(self) -> None:
        """Has a copy chosen; the window is closed for it to be brought back, and opens again with it."""
        from wily_magpie.qt.restore_page import RestorePage

        page = RestorePage(self.bridge.folder, self)
        page.accepted.connect(lambda: self.bring_back(page.chosen))
        self.page = page
        page.show()

    def bring_back(self, copy: Path | None) -> None:
        """Closes the window for a copy to be brought back."""
        self.wanted_copy = copy
        if copy is not None:
            self.close()

    def _on_begun(self) -> None:
        if self.person.fault:
            self.notice.show_text(self.person.fault, (), is_problem=True)
        if self.bridge.overview.is_read_only:
            self.say("This library is open to be looked at only; nothing in it can be changed here.", ())
        self.tray.ask_drafts()
        self.lists.say_interrupted()
        ask_about_folders(self.desk)
        self.begin()

    # going about

    def go(self, number: int) -> None:
        """Opens a station; what was said in the one before stays there."""
        if number != self.stack.currentIndex():
            self.notice.hide()
        self.top.show_station(number)
        self.stack.show_station(number)
        self.keys.let_through()

    def come_up(self) -> None:
        """Shows the window in front of all others."""
        if self.isMinimized():
            self.showNormal()
        self.raise_()
        self.activateWindow()

    def focus_address(self) -> None:
        """Puts the cursor into the address line."""
        self.top.address.setFocus()
        self.top.address.selectAll()

    def read_entry(self, place: str, entry_id: int, around: Sequence[int]) -> None:
        """Opens an entry for reading."""
        self.go(READ)
        self.stack.read.open(place, entry_id, around)

    def show_entry(self, place: str, entry_id: int) -> None:
        """Shows an entry where it lives."""
        self.go(SOURCES)
        self.stack.sources.show_entry(place, entry_id)

    def show_note(self, place: str, entry_id: int) -> None:
        """Opens a note, or an entry, whole."""
        self.go(SOURCES)
        self.stack.sources.pages.open_whole(place, entry_id)

    def show_question(self, place: str, text: str) -> None:
        """Shows the entries that answer a question."""
        self.go(SOURCES)
        try:
            self.stack.sources.show_question(place, text)
        except MagpieError as error:
            self.complain(error)

    def open_draft(self, address: str) -> None:
        """Opens the page of a slip that waits."""
        self.go(CAPTURE)
        self.stack.capture.open(address)

    def visit(self, visit: "Visit") -> None:
        """Opens the slip of an address that came from outside the window, or the entry that it leads to."""
        from wily_magpie.core.companion.scheme import entry_call  # seldom needed

        call = entry_call(visit.address)
        if call is not None:
            self.goals.show_call(call)
            return
        self.go(CAPTURE)
        self.stack.capture.open(visit.address, visit.words, is_typed=visit.is_typed)

    def open_address(self, address: str) -> None:
        """Opens an address in the Capture station; a path of a file, its slip."""
        self.go(CAPTURE)
        if address.startswith(("http://", "https://")):
            self.stack.capture.open(address)
        else:
            self.stack.capture.open_file(Path(address))

    def told_kept(self, kept: "Kept", by: str) -> None:
        """Says what was kept from outside the window."""
        from wily_magpie.qt.kept_notice import kept_notice  # as above

        self.desk.say(*kept_notice(self.desk, kept, by))

    def open_outside(self, address: str) -> None:
        """Opens an address of the web in the system's browser, one of an entry here."""
        from wily_magpie.core.companion.scheme import entry_call  # as above

        call = entry_call(address)
        if call is not None:
            self.goals.show_call(call)
        elif address.startswith(("http://", "https://")) and not QDesktopServices.openUrl(QUrl(address)):
            clipboard = QApplication.clipboard()
            if clipboard is not None:
                clipboard.setText(address)
            self.say("No browser could be started; the address is in the clipboard.", ())

    # telling

    def say(self, text: str, buttons: Buttons) -> None:
        """Shows a notice."""
        self.notice.show_text(text, buttons)

    def complain(self, error: MagpieError) -> None:
        """Shows an error with its way out; one that is our own fault with what was written down about it."""
        buttons: Buttons = ()
        if isinstance(error, BugError):
            buttons = (("Show the log", lambda: QDesktopServices.openUrl(QUrl.fromLocalFile(str(self.log())))),)
        self.notice.show_text(str(error), buttons, is_problem=True)

    def undo(self, number: int | None = None) -> None:
        """Takes a step back; None: the last one of this window."""
        self.undoing.undo(number)

    def redo(self, number: int | None = None) -> None:
        """Does the step undone last again."""
        self.undoing.redo(number)

    def hold(self, setting: Setting) -> None:
        """Lets a setting of the person's hold that was changed just now."""
        if setting is LOOK:
            self.set_look(str(self.person.value(LOOK)))
        elif setting in READING_SETTINGS and self.stack.is_built(READ):
            self.stack.read.take_look()

    def turn_full(self) -> None:
        """The whole screen, or as it was before."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    def set_look(self, look: str) -> None:
        """Light, dark, or as the system has it."""
        application = QApplication.instance()
        if isinstance(application, QApplication):
            THEME.apply(application, look)
        self.stack.refresh_look()

    # staying as it was

    def restore(self) -> None:
        """Gives the window the size and the station that it had; never larger than the screen that it opens on."""
        geometry = self.settings.value("window")
        if not isinstance(geometry, QByteArray) or not self.restoreGeometry(geometry):
            self.resize(*USUAL_SIZE)
        station = int(self.settings.value("station", SOURCES))
        self.go(station)
        if station == SOURCES and not self.stack.sources.is_answered:
            self.held = HeldPicture(self, self.stack.sources.answered)

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        Fitting(self)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Keeps what is being typed, remembers sizes, and takes the web engine down in order."""
        focused = QApplication.focusWidget()
        if focused is not None:
            focused.clearFocus()
        self.settings.setValue("window", self.saveGeometry())
        self.settings.setValue("station", self.stack.currentIndex())
        self.begun.stop()
        self.stack.close_all()
        self.bridge.close()
        self.closed.emit()
        super().closeEvent(event)

    def changeEvent(self, event: object) -> None:
        super().changeEvent(event)  # type: ignore[arg-type]
        if not self.isActiveWindow() or self.begun.isActive():  # folders are looked at soon after a start anyhow
            return
        if not self.bridge.overview.is_read_only:
            self.bridge.index_notes()

    def _on_arrived(self) -> None:
        """Whoever opened the page from the address line, and has typed nothing since, goes on in the slip."""
        capture = self.stack.capture
        is_to_be_kept = capture.model.keep_wanted is not None  # then the next address is typed, and not into the slip
        if self.top.address.hasFocus() and self.top.address.text() == capture.address and not is_to_be_kept:
            capture.card.focus_first()

    def take_snippet(self, text: str, html: str, source: str) -> None:
        """Fills a slip from a piece of text."""
        self.go(CAPTURE)
        self.stack.capture.open_snippet(text, html, source)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """In Capture, what nobody else pastes is taken."""
        if event is not None and event.matches(QKeySequence.StandardKey.Paste) and self.stack.currentIndex() == CAPTURE:
            self.lists.take_clipboard()
        else:
            super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and is_welcome(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is None or data is None:
            return
        place = self.place_at(event.position().toPoint())
        if self.lists.arriving.take(from_mime(data), place):
            event.acceptProposedAction()
        else:
            self.say("There is nothing in it that could be captured: drop a link, files or a text.", ())

    def place_at(self, at: QPoint) -> str:
        """The key of the place in the list of places that is under the mouse; "" where there is none."""
        return self.stack.sources.places.place_at(self, at) if self.stack.currentIndex() == SOURCES else ""

    def _on_typed(self, text: str) -> None:
        if not text:
            return
        if len(text.split()) > 1 and self.lists.arriving.take_text(text, only_lists=True):
            return
        if looks_like_address(text):
            self.go(CAPTURE)
            self.stack.capture.open(text)
        else:
            self.go(SOURCES)
            self.stack.sources.search(text)
