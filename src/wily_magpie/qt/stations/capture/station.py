"""The Capture station."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.errors import MagpieError, PageFailure, UserError
from wily_magpie.core.pages import failures
from wily_magpie.core.pages.address import from_typed
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.templates.slip import CHOSEN_BY_YOU, Slip
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.capture.keeping import Keeping
from wily_magpie.qt.stations.capture.marking import Marking
from wily_magpie.qt.stations.capture.panels import FailurePanel, FilePanel, NothingPanel
from wily_magpie.qt.stations.capture.pending_updates import PendingUpdates
from wily_magpie.qt.stations.capture.slip_card import NEW_PLACE, SlipCard
from wily_magpie.qt.style.parts import icon_button, text_button, thin_bar

if TYPE_CHECKING:
    from wily_magpie.qt.web.page_view import PageView

NOTHING, LIVE, FAILURE, FILE = range(4)
NOTHING_TO_FILL = "There is nothing to fill a slip from.\n\nThe address alone can be kept, to be read later."
NO_PAGE_YET = "No page yet.\n\nThe slip fills itself from the page that you open on the left."


class CaptureStation(QWidget):
    """The live page and its slip.

    Signals:
        address_changed: the page is at another address now.
        arrived: the slip of a page is there.
    """

    address_changed = pyqtSignal(str)
    arrived = pyqtSignal()

    def __init__(
        self,
        desk: StationContext,
        make_view: Callable[[QWidget], "PageView"],
        samples: list[tuple[str, str]],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.desk = desk
        self.make_view = make_view
        self.view: PageView | None = None
        self.reading: Reading | None = None
        self.address = ""
        self.number = 0
        self.is_place_chosen = False
        self.filling = PendingUpdates(self)
        self.keeping = Keeping(self)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        self.splitter.setHandleWidth(1)
        self.splitter.addWidget(self.make_left(samples))
        self.card = SlipCard(self.fetch_picture)
        self.splitter.addWidget(self.card)
        self.splitter.setStretchFactor(0, 1)
        self.splitter.setCollapsible(0, False)
        self.splitter.setCollapsible(1, False)
        self.splitter.setSizes([840, 440])
        layout.addWidget(self.splitter)
        self.card.keep_asked.connect(self.keeping.keep)
        self.card.later_asked.connect(self.keeping.keep_address)
        self.card.template_chosen.connect(lambda name: self.refill(template=name))
        self.card.place_chosen.connect(self._on_place_chosen)
        self.card.blocks_toggled.connect(self._on_blocks)
        self.card.rule_asked.connect(self.marking.make_rule)
        self.card.shown.connect(self.marking.show)
        self.card.refill_asked.connect(
            lambda changes: self.filling.ask(lambda slip: desk.session.capturing.again(slip, **changes))
        )
        self.card.open_known.connect(lambda known: desk.show_entry(known.place, known.id))
        self.show_choices()
        self.card.clear(NO_PAGE_YET)
        desk.bridge.places_changed.connect(self.show_choices)
        desk.bridge.templates_changed.connect(self.show_choices)

    def make_left(self, samples: list[tuple[str, str]]) -> QWidget:
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        bar = QHBoxLayout()
        bar.setContentsMargins(8, 4, 8, 4)
        self.back = icon_button("arrow-left", "Back", self.with_view(lambda page: page.view.back()))
        self.forward = icon_button("arrow-right", "Forward", self.with_view(lambda page: page.view.forward()))
        self.reload = icon_button("arrow-clockwise", "Reload", self.with_view(lambda page: page.reload()))
        self.stop = icon_button("x", "Stop", self.with_view(lambda page: page.stop()))
        self.read_again = text_button("Read again", act=self.with_view(lambda page: page.read_now()))
        self.read_again.setToolTip("Fill the slip anew from the page as it stands; what you typed stays")
        self.smaller = icon_button("magnifying-glass-minus", "Smaller text", lambda: self.zoom(-0.1))
        self.larger = icon_button("magnifying-glass-plus", "Larger text", lambda: self.zoom(0.1))
        self.marking = Marking(self)
        self.mark = self.marking.button
        self.state = QLabel()
        self.state.setObjectName("slate")
        for widget in (self.back, self.forward, self.reload, self.stop, self.read_again, self.mark):
            bar.addWidget(widget)
        bar.addWidget(self.state, 1)
        bar.addWidget(self.smaller)
        bar.addWidget(self.larger)
        column.addLayout(bar)
        self.progress = thin_bar()
        column.addWidget(self.progress)
        self.stack = QStackedWidget()
        self.nothing, self.failure, self.file = NothingPanel(samples), FailurePanel(), FilePanel()
        for panel in (self.nothing, QWidget(), self.failure, self.file):
            self.stack.addWidget(panel)
        self.nothing.opened.connect(self.open)
        self.failure.again.connect(lambda: self.open(self.address))
        self.failure.later.connect(self.keeping.keep_address)
        self.failure.outside.connect(lambda: self.desk.open_outside(self.address))
        self.file.followed.connect(self.open)
        column.addWidget(self.stack, 1)
        self.set_tools(is_live=False)
        return left

    def with_view(self, act: Callable[["PageView"], None]) -> Callable[[], None]:
        """What a button does with the live page, once there is one."""

        def do() -> None:
            if self.view is not None:
                act(self.view)

        return do

    def open(self, typed: str) -> None:
        """Loads an address; what is no address is said."""
        try:
            address = from_typed(typed)
        except UserError as error:
            self.desk.complain(error)
            return
        self.address = address
        if self.view is None:
            self.desk.bridge.ask(self.desk.session.capturing.prepare, lambda _none: None)  # while the web engine starts
            try:
                self.view = view = self.make_view(self)
            except PageFailure as error:
                self._on_failed(error)
                return
            self.stack.removeWidget(self.stack.widget(LIVE))
            self.stack.insertWidget(LIVE, view)
            view.began.connect(self._on_began)
            view.moved.connect(self.progress.setValue)
            view.arrived.connect(self._on_arrived)
            view.failed.connect(self._on_failed)
            view.offered.connect(self._on_offered)
            view.moved_on.connect(self._on_moved_on)
        self.reading = None
        self.is_place_chosen = False
        self.card.clear("Waiting for the page …", has_address=True)
        self.stack.setCurrentIndex(LIVE)
        self.state.setText("Loading …")
        self.progress.show()
        self.view.load(address)

    def close_page(self) -> None:
        """Takes the web engine down before the window goes."""
        if self.view is not None:
            self.view.close_page()

    def set_tools(self, *, is_live: bool) -> None:
        """Switches the buttons above the page on or off."""
        for button in (
            self.back,
            self.forward,
            self.reload,
            self.stop,
            self.read_again,
            self.mark,
            self.smaller,
            self.larger,
        ):
            button.setEnabled(is_live)

    def zoom(self, step: float) -> None:
        """Makes the page's text larger or smaller."""
        if self.view is not None:
            self.view.view.setZoomFactor(min(3.0, max(0.4, self.view.view.zoomFactor() + step)))

    def show_choices(self) -> None:
        """Fills the slip's drop-downs."""
        places = [(place.key, place.name) for place in self.desk.session.places()]
        self.card.show_choices(places, self.desk.session.template_names())
        if self.card.slip is not None:
            self.card.show_slip(self.card.slip)

    def refill(self, template: str | None = None, place: str | None = None) -> None:
        """Fills the slip anew for another template or place; what was typed stays."""
        before = self.card.current()
        if before is None:
            return
        if place == NEW_PLACE:
            place = self.make_place(before)
            if place is None:
                self.card.show_slip(before)
                return
        is_open = template is not None and not self.is_place_chosen
        self.filling.ask(lambda slip: self.again(slip, None if is_open else place or slip.place, template))

    def make_place(self, slip: Slip) -> str | None:
        """Asks for a name and makes a collection for the slip's template; its key, or None where it was not made."""
        proposed = f"{slip.template.name}s"
        name, is_given = QInputDialog.getText(self, "A new collection", "Its name:", text=proposed)
        if not is_given or not name.strip():
            return None
        try:
            made = self.desk.session.arranging.collection_for(name, slip.template)
        except MagpieError as error:
            self.desk.complain(error)
            return None
        return made.key

    def again(
        self, before: Slip, place: str | None, template: str | None = None, reading: Reading | None = None
    ) -> Slip:
        """A slip filled anew; what was typed on it stays, and so does a template that the person chose."""
        if template is None and before.reason == CHOSEN_BY_YOU:
            template = before.template.name
        return self.desk.session.capturing.slip(reading or before.reading, template, place, before)

    def fetch_picture(self, address: str, done: Callable[[bytes], None]) -> None:
        """Gets a picture for the slip, off the main thread; nothing is shown where it cannot be had."""
        capturing, page = self.desk.session.capturing, self.reading.page.address if self.reading else self.address
        self.desk.bridge.ask(lambda: capturing.look_at_picture(address, page), done, lambda _error: None)

    def _on_blocks(self, slip: Slip, numbers: list[int], is_kept: bool) -> None:
        try:
            self.card.show_slip(self.desk.session.capturing.toggle_blocks(slip, numbers, is_kept=is_kept))
        except MagpieError as error:
            self.desk.complain(error)

    def _on_place_chosen(self, key: str) -> None:
        self.is_place_chosen = True
        self.refill(place=key)

    def _on_began(self, address: str) -> None:
        self.number += 1
        self.filling.forget()
        self.address = address if address.startswith("http") else self.address
        self.reading = None
        self.set_tools(is_live=True)
        self._on_moved_on()
        self.state.setText("Loading …")
        self.progress.show()
        self.stack.setCurrentIndex(LIVE)
        self.card.clear("Waiting until the page is quiet …", has_address=True)
        self.address_changed.emit(self.address)

    def _on_arrived(self, page: Page) -> None:
        self.state.setText("Reading …")
        self.address = page.address
        before, number, session = self.card.current(), self.number, self.desk.session
        is_live = self.view is not None and self.stack.currentIndex() == LIVE
        screenshot = (
            self.view.picture() if self.view is not None and is_live and session.capturing.wants_screenshot() else b""
        )

        def work() -> Slip:
            reading = session.capturing.read(page)
            session.refresh_notes()
            if before is not None and before.reading.page.address == page.address:
                return self.again(before, before.place if self.is_place_chosen else None, reading=reading)
            return session.capturing.slip(reading, screenshot=screenshot)

        self.desk.bridge.ask(
            work, lambda slip: self._on_slip(slip, number), lambda error: self._on_read_failed(error, number)
        )

    def _on_slip(self, slip: Slip, number: int) -> None:
        if number != self.number:
            return  # another page was opened meanwhile
        typed = self.card.current()
        self.reading = slip.reading
        if typed is not None:
            if typed.marks != slip.marks:
                slip = self.desk.session.capturing.again(slip, marks=typed.marks)
            slip = slip.with_typed(typed)  # also what was typed while the page was read again
        self.state.setText("")
        self.progress.hide()
        if self.stack.currentIndex() == FILE:
            self.file.show_file(slip.reading.best("title"), slip.reading.content.markdown)
        self.card.show_slip(slip)
        self.arrived.emit()

    def _on_read_failed(self, error: MagpieError, number: int) -> None:
        if number != self.number:
            return
        self.state.setText("")
        self.progress.hide()
        if self.card.slip is None:  # else the slip of the reading before stays, with what was typed on it
            self.card.clear(str(error), has_address=True)
        self.desk.complain(error)

    def _on_offered(self, address: str, media_type: str) -> None:
        """Fetches a file that the engine would have saved, so that its slip can be filled like a page's."""
        from wily_magpie.core.pages.files.recognise import is_readable  # seldom needed

        if not is_readable(media_type):
            self._on_failed(failures.not_a_page(address, media_type))
            return
        self.address, number, session = address, self.number, self.desk.session
        self.file.show_file(f"A file rather than a page ({media_type or 'of an unknown kind'})", "")
        self.stack.setCurrentIndex(FILE)
        self.state.setText("Fetching the file …")
        self.card.clear("Waiting for the file …", has_address=True)

        def arrived(page: Page) -> None:
            if number == self.number:
                self._on_arrived(page)

        def failed(error: MagpieError) -> None:
            if number == self.number:
                self._on_failed(error)

        self.desk.bridge.ask(lambda: session.fetcher.page(address), arrived, failed)

    def _on_failed(self, failure: MagpieError) -> None:
        self.progress.hide()
        self.state.setText("")
        self.failure.show_failure(failure.message, failure.way_out)
        self.stack.setCurrentIndex(FAILURE)
        self.card.clear(NOTHING_TO_FILL, has_address=True)

    def _on_moved_on(self) -> None:
        if self.view is not None:
            history = self.view.page.history()
            self.back.setEnabled(history is not None and history.canGoBack())
            self.forward.setEnabled(history is not None and history.canGoForward())
