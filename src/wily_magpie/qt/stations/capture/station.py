"""The Capture station: widgets around its state (see model.py)."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from PyQt6.QtCore import QByteArray, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QShowEvent
from PyQt6.QtWidgets import (
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.capture.run import CaptureRun, missing_pictures
from wily_magpie.core.commands.drafts import SaveDraft
from wily_magpie.core.entries.kept import KeepAs, Kept
from wily_magpie.core.errors import MagpieError, PageFailure, UserError
from wily_magpie.core.network import failures
from wily_magpie.core.pages.address import from_typed
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.settings.known import mark_kinds_of
from wily_magpie.core.templates.slip import Slip
from wily_magpie.core.templates.slip_blocks import with_blocks
from wily_magpie.qt.kept_notice import kept_notice
from wily_magpie.qt.pictures import decoded
from wily_magpie.qt.reading import Shown, shown
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.capture.making import Making
from wily_magpie.qt.stations.capture.marking import Marking
from wily_magpie.qt.stations.capture.model import CaptureModel, Phase
from wily_magpie.qt.stations.capture.page_bar import PageBar, PageBarActs
from wily_magpie.qt.stations.capture.page_menu import PageMenu
from wily_magpie.qt.stations.capture.panels import FailurePanel, FilePanel, NothingPanel
from wily_magpie.qt.stations.capture.shots import Shots
from wily_magpie.qt.stations.capture.signing import Signing
from wily_magpie.qt.stations.capture.slip_card import LEAD_PX, SlipCard
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.parts import timer

if TYPE_CHECKING:
    from wily_magpie.qt.web.page_view import PageView

T = TypeVar("T")
NOTHING, LIVE, FAILURE, FILE = range(4)
NOTHING_TO_FILL = "There is nothing to fill a slip from.\n\nThe address alone can be kept, to be read later."
NO_PAGE_YET = "No page yet.\n\nThe slip fills itself from the page that you open on the left."
SLIP_PX = 440
"""How wide the slip is, until the person chooses."""
DRAFT_MS = 500
"""How soon after a change a draft is written down."""
DRAFT_BACK = "This slip was begun before and is as you left it."
SAID = {Phase.LOADING: "Loading …", Phase.READING: "Reading …"}


class CaptureStation(QWidget):
    """The live page and its slip.

    Signals:
        address_changed: the page is at another address now.
        arrived: the slip of a page is there; kept: it was kept.
    """

    address_changed = pyqtSignal(str)
    arrived = pyqtSignal()
    kept = pyqtSignal()

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
        self.has_widths = False
        """Whether its parts have widths that are the person's or our own."""
        self.is_reading_asked = False
        """Whether the person had the page read again."""
        self.model = CaptureModel(self)
        self.draft_timer = timer(self, self.model.save_draft)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        self.splitter.setHandleWidth(1)
        self.splitter.addWidget(self.make_left(samples))
        self.card = SlipCard(self.fetch_picture, self.render_text, self.complete)
        self.splitter.addWidget(self.card)
        self.shots = Shots(desk.bridge, lambda: self.view, self.keep_shot, self.bar.say)
        self.menu = PageMenu(self)
        self.splitter.setStretchFactor(0, 1)
        self.splitter.setCollapsible(0, False)
        self.splitter.setCollapsible(1, False)
        layout.addWidget(self.splitter)
        self.making = Making(desk, self.card, self.model)
        self.connect_card()
        self.show_choices()
        self.card.clear(NO_PAGE_YET)
        desk.bridge.places_changed.connect(self.show_choices)
        desk.bridge.templates_changed.connect(self.show_choices)
        desk.bridge.entries_changed.connect(lambda _place, _ids: self.model.others_changed())

    def restore(self, state: object) -> None:
        """Gives the parts the widths that they had."""
        self.has_widths = isinstance(state, QByteArray) and self.splitter.restoreState(state)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if not self.has_widths:  # only now it is known how wide it is
            self.has_widths = True
            self.splitter.setSizes([self.width() - SLIP_PX, SLIP_PX])

    def connect_card(self) -> None:
        """What is done on the slip goes to the model."""
        card, model = self.card, self.model
        card.keep_asked.connect(lambda keep_as, update, is_opened: model.keep(keep_as, update, is_opened=is_opened))
        card.later_asked.connect(model.keep_address)
        card.head.template_chosen.connect(model.choose_template)
        card.head.place_chosen.connect(model.choose_place)
        card.foot.again_asked.connect(self.ask_reading)
        card.fields.key_named.connect(self.making.name_key)
        card.head.anew_asked.connect(self.begin_anew)
        card.head.open_known.connect(lambda known: self.desk.show_entry(known.place, known.id))
        card.blocks_toggled.connect(self._on_blocks)
        card.rule_asked.connect(self.making.make_rule)
        card.shown.connect(self.marking.show)
        card.marks_changed.connect(self.marking.change)
        self.marking.serve(card.marks)
        card.picture_chosen.connect(lambda address: model.change(lambda hand: replace(hand, picture=address)))
        card.update_asked.connect(lambda: model.look_at_update(card.show_update))
        card.touched.connect(lambda: self.draft_timer.start(DRAFT_MS))
        card.typed_in.connect(self.remember_usual)
        card.shot_dropped.connect(self.keep_shot)

    @property
    def address(self) -> str:
        """The address of the page."""
        return self.model.address

    @property
    def reading(self) -> Reading | None:
        """What the page says, once it is read."""
        return self.model.reading

    def make_left(self, samples: list[tuple[str, str]]) -> QWidget:
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.bar = PageBar(PageBarActs(
            self.with_view(lambda page: page.view.back()), self.with_view(lambda page: page.view.forward()),
            self.with_view(lambda page: page.reload()), self.with_view(lambda page: page.stop()), self.ask_reading,
            self.zoom,
        ))  # fmt: skip
        self.back, self.forward, self.reload, self.read_again = (
            self.bar.back, self.bar.forward, self.bar.reload, self.bar.read_again
        )  # fmt: skip
        self.marking = Marking(self.desk, self, lambda: self.view, self.model, self.bar.say)
        self.bar.add_mark(self.marking.button)
        self.state, self.progress = self.bar.state, self.bar.progress
        column.addWidget(self.bar)
        self.stack = QStackedWidget()
        self.nothing, self.failure, self.file = NothingPanel(samples), FailurePanel(), FilePanel(self.render_text)
        for panel in (self.nothing, QWidget(), self.failure, self.file):
            self.stack.addWidget(panel)
        self.nothing.opened.connect(self.open)
        self.failure.again.connect(lambda: self.open(self.address))
        self.failure.later.connect(self.model.keep_address)
        self.failure.shown_anyway.connect(self.show_page_anyway)
        self.failure.outside.connect(lambda: self.desk.open_outside(self.address))
        self.file.followed.connect(self.open)
        column.addWidget(self.stack, 1)
        self.bar.set_tools(is_live=False)
        return left

    def with_view(self, act: Callable[["PageView"], None]) -> Callable[[], None]:
        """What a button does with the live page, once there is one."""

        def do() -> None:
            if self.view is not None:
                act(self.view)

        return do

    def open(self, typed: str, words: str = "", *, is_typed: bool = True) -> None:
        """Loads an address; what is no address is said.

        Args:
            words: of the page, which are marked on its slip.
            is_typed: whether the person wrote it, who may go anywhere.
        """
        try:
            address = from_typed(typed)
        except UserError as error:
            self.desk.complain(error)
            return
        self.draft_timer.stop()
        self.model.open(address, words)
        view = self.live_view()
        if view is None:
            return
        self.card.clear("Waiting for the page …", has_address=True, is_coming=True)
        self.stack.setCurrentIndex(LIVE)
        view.load(address, is_typed=is_typed)

    def open_file(self, path: Path) -> None:
        """Fills a slip from a file of this disk."""
        self.show_given(path.name)
        self.model.read_given(lambda run: run.page(str(path)), str(path))

    def open_snippet(self, text: str, html: str, source: str) -> None:
        """Fills a slip from a piece of text that was copied."""
        self.show_given("A piece of text")
        self.model.read_given(lambda run: run.snippet(text, html, source), source)

    def show_given(self, title: str) -> None:
        """Shows the panel of what is no page of the web."""
        self.draft_timer.stop()
        self.model.began("")
        self.marking.left()
        self.card.clear("Reading …", is_coming=True)
        self.file.show_file(title, "")
        self.stack.setCurrentIndex(FILE)

    def live_view(self) -> "PageView | None":
        """The live page, made when it is first needed; None where it cannot be."""
        if self.view is None:
            self.desk.bridge.work(lambda run: run.prepare(), lambda _none: None)  # while the web engine starts
            try:
                self.view = view = self.make_view(self)
            except PageFailure as error:
                self._on_failed(error)
                return None
            self.stack.removeWidget(self.stack.widget(LIVE))
            self.stack.insertWidget(LIVE, view)
            view.began.connect(self._on_began)
            view.moved.connect(self.progress.setValue)
            view.arrived.connect(self._on_arrived)
            view.failed.connect(self._on_failed)
            view.offered.connect(self._on_offered)
            view.moved_on.connect(self._on_moved_on)
            view.menu_asked.connect(self.menu.open)
            self.signing = Signing(self.desk, view)
        return self.view

    def keep_shot(self, picture: bytes) -> None:
        """A picture of the page goes along with the slip."""
        self.model.change(lambda hand: replace(hand, shots=(*hand.shots, picture)))

    def show_page_anyway(self) -> None:
        """Shows what a server sent instead of the page, to be worked with; its slip is filled from what is there then."""
        if self.view is not None:
            self.stack.setCurrentIndex(LIVE)
            self.ask_reading()

    def close_page(self) -> None:
        """Writes the draft and what is new of lasting sign-ins down, and takes the web engine down before the window goes."""
        self.model.save_draft()
        if self.view is not None:
            self.signing.kept.tell()
            self.view.close_page()

    def zoom(self, step: float) -> None:
        """Makes the page's text larger or smaller."""
        if self.view is not None:
            self.view.view.setZoomFactor(min(3.0, max(0.4, self.view.view.zoomFactor() + step)))

    def show_choices(self) -> None:
        """Fills the slip's lists."""
        overview = self.desk.overview
        LOOKS.kinds = mark_kinds_of(overview.settings)
        self.card.show_choices([(place.key, place.name) for place in overview.places], list(overview.templates))
        if self.card.slip is not None:
            self.card.show_slip(self.card.slip)
        self.shots.look_at_templates()

    def complete(self, place: str, key: str, take: Callable[[list[str]], None]) -> None:
        """Asks for what a field completes with."""
        self.desk.bridge.ask(lambda reader: reader.entries.names_for(place, key), take, lambda _error: None)

    def begin_anew(self) -> None:
        """Fills the slip from the page alone; what was done is brought back by the notice's button."""
        slip = self.card.current()
        if slip is None:
            return
        hand = slip.by_hand
        self.model.begin_anew()
        back = ("Bring it back", lambda: self.model.change(lambda _hand: hand))
        self.desk.say("The slip is filled anew from the page.", (back,))

    def remember_usual(self, key: str) -> None:
        """A field that the person fills by hand is not folded with the blank ones from now on."""
        slip = self.card.slip
        if slip is None or key in self.card.fields.usual:
            return
        self.card.fields.usual |= {key}
        self.desk.settings.setValue(f"slip/{slip.place}", sorted(self.card.fields.usual))

    # the live page

    def ask_reading(self) -> None:
        """Has the page read as it stands now."""
        if self.view is not None:
            self.is_reading_asked = True
            self.view.read_now()

    def fetch_picture(self, address: str, done: Callable[[QImage], None]) -> None:
        """Gets a picture for the slip, off the main thread; nothing is shown where it cannot be had."""
        of = self.reading.page if self.reading else None
        page = of.address if of else self.address
        self.desk.bridge.work(
            lambda run: decoded(run.look_at_picture(address, page, of), *LEAD_PX), done, lambda _error: None
        )

    def render_text(self, markdown: str, done: Callable[[Shown], None]) -> None:
        """Has a text made ready to be shown."""
        self.desk.bridge.ask(lambda reader: shown(reader.entries.rendered(markdown)), done)

    # what the model reaches the rest by

    def work(
        self, work: Callable[[CaptureRun], T], done: Callable[[T], object], failed: Callable[[MagpieError], object]
    ) -> None:
        """Does work off the main thread."""
        self.desk.bridge.work(work, done, failed)

    def save_draft(self, slip: Slip) -> None:
        """Has a draft written down, in its turn."""
        if not self.desk.overview.is_read_only:
            self.desk.bridge.do(SaveDraft(slip))

    def current(self) -> Slip | None:
        """The slip with what is typed on it just now."""
        return self.card.current()

    def changed(self) -> None:
        """Shows how far the page is."""
        phase = self.model.phase
        waits = " It is kept as soon as its slip is there." if self.model.keep_wanted is not None else ""
        self.state.setText(f"{SAID.get(phase, '')}{waits}")
        self.progress.setVisible(phase in (Phase.LOADING, Phase.READING))
        can_keep = self.card.slip is not None or self.model.is_coming
        self.card.set_enabled(is_enabled=phase is not Phase.KEEPING and can_keep)
        failure = self.model.failure
        if phase is Phase.FAILED and failure is not None:
            is_closed = isinstance(failure, PageFailure) and failure.slug == "page-forbidden" and self.view is not None
            self.failure.show_failure(failure.message, failure.way_out, has_page=is_closed)
            self.stack.setCurrentIndex(FAILURE)
            self.card.clear(NOTHING_TO_FILL, has_address=True)

    def show_slip(self, slip: Slip) -> None:
        """Shows another slip."""
        is_first = self.card.slip is None
        self.card.is_settled = not self.model.changes
        self.card.draft = DRAFT_BACK if self.model.is_restored else ""
        self.card.can_take_back = bool(self.marking.before)
        usual = self.desk.settings.value(f"slip/{slip.place}") or []
        self.card.fields.usual = frozenset(map(str, usual if isinstance(usual, list) else [usual]))
        place = self.desk.overview.find_place(slip.place)
        self.card.fields.takes_new_keys = place is not None and place.nature.is_in_files
        if self.stack.currentIndex() == FILE:
            self.file.show_file(slip.reading.best("title"), slip.reading.content.markdown)
        self.card.show_slip(slip)
        if not self.draft_timer.isActive():  # what was done on it need not have been typed
            self.draft_timer.start(DRAFT_MS)
        if is_first:
            self.arrived.emit()

    def told_kept(self, kept: Kept, slip: Slip | None, *, is_opened: bool) -> None:
        """Says what was kept, fetches its pictures, and opens it where that is wanted."""
        self.desk.say(*kept_notice(self.desk, kept))
        if slip is not None:
            self.fetch_pictures(kept, slip)
            self.kept.emit()
        if is_opened:
            self.desk.read_entry(kept.place, kept.entry_id, ())

    def fetch_pictures(self, kept: Kept, slip: Slip) -> None:
        """Fetches the pictures of what was kept, in the tray."""

        def told(missing: list[str]) -> None:
            if missing:
                self.desk.complain(missing_pictures(slip, missing))

        self.desk.bridge.start(
            f"Pictures of “{kept.title}”",
            lambda counter, job: CaptureRun(counter, job, job.is_cancelled).pictures(slip, kept),
            told,
        )

    def complain(self, error: MagpieError) -> None:
        """Says what failed; where there is no slip, also in its place."""
        if self.card.slip is None:
            self.card.clear(str(error), has_address=True)
        self.desk.complain(error)

    def refuse(self, error: MagpieError) -> None:
        """The slip cannot be kept as it stands."""
        if isinstance(error, UserError):
            self.card.complain(error)

    def keep_now(self, keep_as: KeepAs, *, is_opened: bool) -> None:
        """The slip that was waited for is there: it is kept as if it were asked for now."""
        self.card.ask_to_keep(keep_as, is_opened=is_opened)

    # what the live page and the person do

    def _on_blocks(self, slip: Slip, numbers: list[int], is_kept: bool) -> None:
        try:
            self.card.show_slip(with_blocks(slip, numbers, is_kept=is_kept))
        except MagpieError as error:
            self.desk.complain(error)

    def _on_began(self, address: str) -> None:
        self.draft_timer.stop()
        is_kept_then = self.model.keep_wanted if self.card.slip is None else None
        self.model.began(address)
        self.model.keep_wanted = is_kept_then  # it was asked for before the page had begun to come
        self.marking.left()
        self.card.clear("Waiting until the page is quiet …", has_address=True, is_coming=True)
        self.bar.set_tools(is_live=True)
        self._on_moved_on()
        self.stack.setCurrentIndex(LIVE)
        self.address_changed.emit(self.address)

    def _on_arrived(self, page: Page) -> None:
        if self.stack.currentIndex() == FILE:
            return  # the blank page of a file that is being fetched
        screenshot = self.shots.along() if self.stack.currentIndex() == LIVE else b""
        is_asked, self.is_reading_asked = self.is_reading_asked, False
        self.model.arrived(page, screenshot, is_asked=is_asked)

    def _on_failed(self, failure: MagpieError) -> None:
        self.model.failed(failure)

    def _on_offered(self, address: str, media_type: str) -> None:
        """Fetches a file that the engine would have saved, so that its slip can be filled like a page's."""
        from wily_magpie.core.pages.files.recognise import is_readable  # seldom needed

        if not is_readable(media_type):
            self._on_failed(failures.not_a_page(address, media_type))
            return
        self.model.address = address
        self.file.show_file(f"A file rather than a page ({media_type or 'of an unknown kind'})", "")
        self.stack.setCurrentIndex(FILE)
        self.card.clear("Waiting for the file …", has_address=True)
        self.state.setText("Fetching the file …")
        self.model.fetch_file()

    def _on_moved_on(self) -> None:
        if self.view is not None:
            history = self.view.page.history()
            self.back.setEnabled(history is not None and history.canGoBack())
            self.forward.setEnabled(history is not None and history.canGoForward())
