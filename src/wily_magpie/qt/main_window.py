"""The window: puts the parts in their places and connects them; decides nothing."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QByteArray, QSettings, QUrl
from PyQt6.QtGui import QAction, QCloseEvent, QDesktopServices, QGuiApplication, QKeySequence
from PyQt6.QtOpenGLWidgets import QOpenGLWidget
from PyQt6.QtWidgets import QApplication, QMainWindow, QMenu, QVBoxLayout, QWidget

from wily_magpie.core.errors import BadQuery, MagpieError
from wily_magpie.core.pages.address import looks_like_address
from wily_magpie.core.session.session import Session
from wily_magpie.qt.actions import Command
from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.notice import Notice
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.station_stack import CAPTURE, READ, SOURCES, TEMPLATES, StationStack
from wily_magpie.qt.style.parts import timer
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.top_line import STATIONS, TopLine
from wily_magpie.qt.tray import TrayButton

if TYPE_CHECKING:
    from wily_magpie.core.session.watching import Watching
    from wily_magpie.qt.stations.capture.slip_card import SlipCard
    from wily_magpie.qt.stations.sources.station import SourcesStation
    from wily_magpie.qt.stations.templates.station import TemplatesStation
    from wily_magpie.qt.web.page_view import PageView

USUAL_SIZE = (1280, 800)
AFTER_START_MS = 400
LOOKS = ("system", "light", "dark")


class MainWindow(QMainWindow):
    """The desk with its five stations.

    Args:
        make_view: makes the live page when the first address is opened; the web engine is not loaded before.
        samples: (title, address) of pages to begin with, shown where no page is open yet.
    """

    def __init__(
        self,
        session: Session,
        settings: QSettings,
        make_view: "Callable[[QWidget], PageView]",
        samples: list[tuple[str, str]],
        *,
        is_demo: bool = False,
    ) -> None:
        super().__init__()
        self.session = session
        self.settings = settings
        self.bridge = Bridge(session)
        self.desk = StationContext(
            session, self.bridge, settings, is_demo, self.say, self.complain, self.read_entry, self.show_entry,
            self.show_question, self.open_outside,
        )  # fmt: skip
        self.setWindowTitle("Wily Magpie — demo" if is_demo else "Wily Magpie")
        body = QWidget()
        body.setObjectName("ground")
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.tray = TrayButton(self.bridge)
        self.top = TopLine(self.tray)
        column.addWidget(self.top)
        self.stack = StationStack(self.desk, make_view, samples)
        column.addWidget(self.stack, 1)
        self.setCentralWidget(body)
        self.notice = Notice(body)
        if QGuiApplication.platformName() not in ("offscreen", "minimal"):
            # a window that is on the screen already would be made anew for the first live page, and lose focus and place
            self.surface = QOpenGLWidget(body)
            self.surface.hide()
        self.top.station_asked.connect(self.go)
        self.top.typed.connect(self._on_typed)
        self.stack.address_changed.connect(self.top.address.setText)
        self.stack.slip_arrived.connect(self._on_arrived)
        self.commands = self.make_commands()
        self.actions_by_id: dict[str, QAction] = {}
        self.make_menu()
        self.bridge.history_changed.connect(self.name_undo)
        self.watching: Watching | None = None
        self.bridge.places_changed.connect(self.watch)
        self.begun = timer(self, self.begin)
        self.begun.start(AFTER_START_MS)
        self.restore()

    def make_commands(self) -> list[Command]:
        """All commands, in the order of the menu; what a station has is asked of it when the command is used."""
        stack = self.stack

        def at(station: int) -> Callable[[], bool]:
            return lambda: stack.currentIndex() == station

        def has_slip() -> bool:
            return stack.currentIndex() == CAPTURE and stack.capture.card.keep.isEnabled()

        def may_keep_second() -> bool:
            return has_slip() and stack.capture.card.keep_second.isVisible()

        def may_read_again() -> bool:
            return stack.currentIndex() == CAPTURE and stack.capture.read_again.isEnabled()

        def has_address() -> bool:
            return stack.is_built(CAPTURE) and bool(stack.capture.address)

        def has_view() -> bool:
            return stack.currentIndex() == SOURCES and stack.sources.places.chosen_view() is not None

        def has_undo() -> bool:
            return self.session.undo_label() is not None

        def has_redo() -> bool:
            return self.session.redo_label() is not None

        def slip(act: Callable[["SlipCard"], None]) -> Callable[[], None]:
            return lambda: act(stack.capture.card)

        def sources(act: Callable[["SourcesStation"], None]) -> Callable[[], None]:
            return lambda: act(stack.sources)

        def templates(act: Callable[["TemplatesStation"], None]) -> Callable[[], None]:
            return lambda: act(stack.templates)

        return [
            Command("undo", "Undo", self.undo, ("Ctrl+Z",), has_undo, "edit", self.undo_label),
            Command("redo", "Redo", self.redo, ("Ctrl+Shift+Z", "Ctrl+Y"), has_redo, "edit", self.redo_label),
            Command("keep", "Keep the slip", slip(lambda s: s.ask_to_keep()), ("Ctrl+Return", "Ctrl+Enter"), has_slip, "capture"),
            Command("keep-open", "Keep the slip and open it", slip(lambda s: s.ask_to_keep_and_open()), ("Ctrl+Shift+Return",), has_slip, "capture"),
            Command("keep-second", "Keep a second one", slip(lambda s: s.ask_to_keep_second()), (), may_keep_second, "capture"),
            Command("later", "Keep only the address", lambda: stack.capture.keeping.keep_address(), (), has_address, "capture"),
            Command("read-again", "Read the page again", lambda: stack.capture.read_again.click(), ("F5",), may_read_again, "capture"),
            Command("mark", "Mark what is chosen in the page", lambda: stack.capture.marking.mark_chosen(), ("Ctrl+M",), may_read_again, "capture"),
            Command("address", "Go to the address line", self.focus_address, ("Ctrl+L",), group="go"),
            *(self.station_command(number, name) for number, name in enumerate(STATIONS)),
            Command("previous", "Previous entry", lambda: stack.read.turn(-1), ("Alt+Left",), at(READ), "read"),
            Command("next", "Next entry", lambda: stack.read.turn(1), ("Alt+Right",), at(READ), "read"),
            Command("new-entry", "New entry by hand", sources(lambda s: s.new_entry()), ("Ctrl+N",), at(SOURCES), "sources"),
            Command("keep-view", "Keep the question as a view", sources(lambda s: s.views.ask_name()), ("Ctrl+S",), at(SOURCES), "sources"),
            Command("rename-view", "Rename the view", sources(lambda s: s.places.rename_view()), (), has_view, "sources"),
            Command("delete-view", "Delete the view", sources(lambda s: s.places.delete_view()), (), has_view, "sources"),
            Command("question-text", "Show the question as text", sources(lambda s: s.sentence.toggle_text()), ("Ctrl+E",), at(SOURCES), "sources"),
            Command("add-condition", "Add a condition", sources(lambda s: s.sentence.ask_new()), ("Ctrl+Shift+A",), at(SOURCES), "sources"),
            Command("open-whole", "Open the entry whole", sources(lambda s: s.middle.open_chosen_whole()), ("F4",), at(SOURCES), "sources"),
            Command("trash", "Open the trash", sources(lambda s: s.middle.open_trash()), (), at(SOURCES), "sources"),
            Command("setup", "Set up this place", sources(lambda s: s.middle.open_setup()), ("F7",), at(SOURCES), "sources"),
            Command("journal", "Write into today's page of the journal", lambda: stack.sources.notes.ask_journal(), ("Ctrl+J",), group="sources"),
            Command("move-note", "Rename or move the note", sources(lambda s: s.notes.ask_move_chosen()), ("Ctrl+Shift+M",), at(SOURCES), "sources"),
            Command("new-place", "New place", sources(lambda s: s.middle.open_new_place()), ("Ctrl+Shift+N",), at(SOURCES), "sources"),
            Command("fold", "Fold the chosen entry away", sources(lambda s: s.fold_panel()), ("F9",), at(SOURCES), "sources"),
            Command("add-folder", "Add a notes folder", sources(lambda s: s.notes.ask_folder()), group="sources"),
            Command("new-template", "New template", templates(lambda s: s.open_new()), ("Ctrl+Shift+T",), at(TEMPLATES), "templates"),
            Command("propose", "Propose rules for the template", templates(lambda s: s.bench.propose()), (), at(TEMPLATES), "templates"),
            Command("copy-template", "Copy the template", templates(lambda s: s.copy()), (), at(TEMPLATES), "templates"),
            Command("delete-template", "Delete the template", templates(lambda s: s.delete()), (), at(TEMPLATES), "templates"),
            Command("back-to-starter", "Back to the template's starter", templates(lambda s: s.back_to_starter()), (), at(TEMPLATES), "templates"),
            Command("template-fields", "Fields of all templates", templates(lambda s: s.open_fields()), (), at(TEMPLATES), "templates"),
            Command("bring-in", "Bring templates in", templates(lambda s: s.ask_import()), (), at(TEMPLATES), "templates"),
            Command("bring-out", "Bring all capture settings out", templates(lambda s: s.ask_export(is_whole=True)), (), at(TEMPLATES), "templates"),
            *(self.look_command(look) for look in LOOKS),
            Command("find", "Find a command", self.open_finder, ("Ctrl+K",), group="end"),
            Command("quit", "Quit", self.close, ("Ctrl+Q",), group="end"),
        ]  # fmt: skip

    def station_command(self, number: int, name: str) -> Command:
        """Opens a station."""
        return Command(
            f"station-{number}", f"Go to {name}", lambda: self.go(number), (f"Ctrl+{number + 1}",), group="go"
        )

    def look_command(self, look: str) -> Command:
        """Sets the look."""
        return Command(f"look-{look}", f"Look: {look}", lambda: self.set_look(look), group="look")

    def make_menu(self) -> None:
        """The one menu; its actions also carry the shortcuts."""
        menu = QMenu(self)
        group = None
        for command in self.commands:
            if group is not None and command.group != group:
                menu.addSeparator()
            group = command.group
            action = QAction(command.label, self)
            action.setShortcuts([QKeySequence(keys) for keys in command.keys])
            action.triggered.connect(lambda _checked, command=command: command.act() if command.is_enabled() else None)
            self.addAction(action)
            menu.addAction(action)
            self.actions_by_id[command.id] = action
        menu.aboutToShow.connect(self.refresh_menu)
        menu.aboutToHide.connect(self.enable_all)
        self.top.menu.setMenu(menu)

    def refresh_menu(self) -> None:
        """Names and greys the commands as they are now."""
        for command in self.commands:
            action = self.actions_by_id[command.id]
            action.setText(command.label.replace("&", "&&"))
            action.setEnabled(command.is_enabled())

    def enable_all(self) -> None:
        """Lets every shortcut through again: whether its command can be had is asked when it is pressed."""
        for action in self.actions_by_id.values():
            action.setEnabled(True)

    def begin(self) -> None:
        """What can wait until the window is there: watching notes folders, clearing up after a program that was killed."""
        if self.session.library.is_read_only:
            self.say("This library is open to be looked at only; nothing in it can be changed here.", ())
            return
        from wily_magpie.core.session.watching import Watching

        self.watching = Watching(self.session.refresh_notes)
        self.watch()
        for work in (self.session.refresh_notes, self.session.library.blobs.sweep):
            self.bridge.ask(work, lambda _count: None, lambda _error: None)

    def watch(self) -> None:
        """Watches the notes folders for what other programs change in them."""
        if self.watching is not None:
            watching, library = self.watching, self.session.library
            self.bridge.ask(
                lambda: watching.watch({n.key: n.path for n in library.notes_folders() if n.path.is_dir()}),
                lambda _done: None,
                lambda _error: None,
            )

    def undo_label(self) -> str:
        """The name of undo now."""
        label = self.session.undo_label()
        return f"Undo: {label}" if label else "Undo"

    def redo_label(self) -> str:
        """The name of redo now."""
        label = self.session.redo_label()
        return f"Redo: {label}" if label else "Redo"

    def name_undo(self) -> None:
        """Keeps the names of undo and redo true."""
        self.actions_by_id["undo"].setText(self.undo_label().replace("&", "&&"))
        self.actions_by_id["redo"].setText(self.redo_label().replace("&", "&&"))

    # going about

    def go(self, number: int) -> None:
        """Opens a station."""
        self.top.show_station(number)
        self.stack.show_station(number)

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
        self.stack.read.open(place, entry_id, around)
        self.go(READ)

    def show_entry(self, place: str, entry_id: int) -> None:
        """Shows an entry where it lives."""
        self.go(SOURCES)
        self.stack.sources.show_entry(place, entry_id)

    def show_question(self, place: str, text: str) -> None:
        """Shows the entries that answer a question."""
        try:
            self.stack.sources.show_question(place, text)
        except BadQuery as error:
            self.complain(error)
        self.go(SOURCES)

    def open_outside(self, address: str) -> None:
        """Opens an address of the web in the system's browser."""
        if address.startswith(("http://", "https://")) and not QDesktopServices.openUrl(QUrl(address)):
            clipboard = QApplication.clipboard()
            if clipboard is not None:
                clipboard.setText(address)
            self.say("No browser could be started; the address is in the clipboard.", ())

    def open_finder(self) -> None:
        """Opens the command finder below the top line."""
        from wily_magpie.qt.finder import CommandFinder

        self.finder = CommandFinder([command for command in self.commands if command.id != "find"], self)
        at = self.mapToGlobal(self.rect().topLeft())
        self.finder.move(at.x() + (self.width() - self.finder.width()) // 2, at.y() + self.top.height() + 8)
        self.finder.show()

    # telling

    def say(self, text: str, buttons: Sequence[tuple[str, Callable[[], None]]]) -> None:
        """Shows a notice."""
        self.notice.show_text(text, buttons)

    def complain(self, error: MagpieError) -> None:
        """Shows an error with its way out."""
        self.notice.show_text(str(error), (), is_problem=True)

    def undo(self) -> None:
        """Takes the last step back."""
        try:
            label = self.session.undo()
        except MagpieError as error:
            self.complain(error)
            return
        if label:
            self.say(f"Undone: {label}", (("Redo", self.redo),))

    def redo(self) -> None:
        """Does the step undone last again."""
        try:
            label = self.session.redo()
        except MagpieError as error:
            self.complain(error)
            return
        if label:
            self.say(f"Done again: {label}", (("Undo", self.undo),))

    def set_look(self, look: str) -> None:
        """Light, dark, or as the system has it."""
        self.settings.setValue("look", look)
        application = QApplication.instance()
        if isinstance(application, QApplication):
            THEME.apply(application, look)
        self.stack.refresh_look()

    # staying as it was

    def restore(self) -> None:
        """Gives the window the size and the station that it had."""
        geometry = self.settings.value("window")
        if not isinstance(geometry, QByteArray) or not self.restoreGeometry(geometry):
            self.resize(*USUAL_SIZE)
        self.go(int(self.settings.value("station", SOURCES)))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Keeps what is being typed, remembers sizes, and takes the web engine down in order."""
        focused = QApplication.focusWidget()
        if focused is not None:
            focused.clearFocus()
        self.settings.setValue("window", self.saveGeometry())
        self.settings.setValue("station", self.stack.currentIndex())
        self.begun.stop()
        if self.watching is not None:
            self.watching.close()
        self.bridge.close()
        self.stack.close_all()
        super().closeEvent(event)

    def changeEvent(self, event: object) -> None:
        super().changeEvent(event)  # type: ignore[arg-type]
        if self.isActiveWindow() and self.bridge.is_open:
            self.bridge.ask(self.session.refresh_notes, lambda _count: None, lambda _error: None)

    def _on_arrived(self) -> None:
        """Whoever opened the page from the address line, and has typed nothing since, goes on in the slip."""
        if self.top.address.hasFocus() and self.top.address.text() == self.stack.capture.address:
            self.stack.capture.card.focus_first()

    def _on_typed(self, text: str) -> None:
        if not text:
            return
        if looks_like_address(text):
            self.go(CAPTURE)
            self.stack.capture.open(text)
        else:
            self.go(SOURCES)
            self.stack.sources.search(text)
