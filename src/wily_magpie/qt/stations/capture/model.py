"""The state of the Capture station, without a widget: which page, how far it is read, its slip, what is still to be done.

One page at a time: every page gets a number, and what comes back for another number than the present one is dropped.
Updates of the slip (another template, another place, a further mark) are done one after another off the thread, each
beginning with the slip that the one before has left; what is typed meanwhile stays.
"""

from collections.abc import Callable, Sequence
from enum import Enum, auto
from typing import Protocol, TypeVar

from wily_magpie.core.capture.run import CaptureRun
from wily_magpie.core.entries.kept import Kept
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.templates.slip import CHOSEN_BY_YOU, Slip

T = TypeVar("T")
Update = Callable[[CaptureRun, Slip], Slip]
"""Makes another slip of one, off the thread."""


class Phase(Enum):
    """How far the page is."""

    NOTHING, LOADING, READING, READY, KEEPING, FAILED = (auto() for _ in range(6))


class Surroundings(Protocol):
    """What the model reaches the rest by: the core off the thread, and whoever shows it."""

    def work(
        self, work: Callable[[CaptureRun], T], done: Callable[[T], object], failed: Callable[[MagpieError], object]
    ) -> None:
        """Does work off the thread and hands its result back on it."""

    def current(self) -> Slip | None:
        """The slip with what is typed on it just now."""

    def changed(self) -> None:
        """The model is in another state."""

    def show_slip(self, slip: Slip) -> None:
        """Another slip is to be shown."""

    def told_kept(self, kept: Kept, slip: Slip | None, *, is_opened: bool) -> None:
        """Something was kept; without a slip, an address alone."""

    def complain(self, error: MagpieError) -> None:
        """Something failed."""

    def refuse(self, error: MagpieError) -> None:
        """The slip cannot be kept as it stands."""


class CaptureModel:
    """See the module.

    Attributes:
        address: of the page, or that it was asked for by; typed: what the person asked for last.
        number: of the page, one more for each.
        reading: what the page says, once it is read.
        is_place_chosen: whether the person chose the place, so that another template leaves it.
        failure: why the page could not be had, in FAILED.
    """

    def __init__(self, around: Surroundings) -> None:
        self.around = around
        self.phase = Phase.NOTHING
        self.address = self.typed = ""
        self.number = 0
        self.reading: Reading | None = None
        self.slip: Slip | None = None
        self.is_place_chosen = False
        self.failure: MagpieError | None = None
        self.updates: list[Update] = []
        self.is_updating = False
        self.keep_wanted: tuple[bool, bool, bool] | None = None
        """How the slip is to be kept once it is updated: is_update, is_opened, and whether it was known when asked for."""

    # a page

    def open(self, address: str) -> None:
        """An address was asked for by the person."""
        self.address = self.typed = address
        self.reading, self.slip, self.failure = None, None, None
        self.is_place_chosen = False
        self.become(Phase.LOADING)

    def began(self, address: str) -> None:
        """The live page has begun to load another page."""
        self.number += 1
        self.updates.clear()
        self.keep_wanted = None
        self.address = address if address.startswith("http") else self.address
        self.reading, self.slip, self.failure = None, None, None
        self.become(Phase.LOADING)

    def arrived(self, page: Page, screenshot: bytes = b"") -> None:
        """The page is there: it is read, and its slip filled; one that is there already keeps what was typed."""
        self.address = page.address
        before, number = self.around.current(), self.number
        self.become(Phase.READING)

        def work(run: CaptureRun) -> Slip:
            reading = run.reading(page)
            if before is not None and before.reading.page.address == page.address:
                return self.filled(run, before, before.place if self.is_place_chosen else None, reading=reading)
            return run.slip(reading, screenshot=screenshot)

        self.around.work(
            work, lambda slip: self._on_slip(slip, number), lambda error: self._on_read_failed(error, number)
        )

    def failed(self, failure: MagpieError) -> None:
        """The page could not be had."""
        self.failure = failure
        self.become(Phase.FAILED)

    def fetch_file(self) -> None:
        """Fetches the file at the address, which the live page would only have saved; what it shows meanwhile is no page."""
        self.number += 1
        number, address, typed = self.number, self.address, self.typed

        def arrived(page: Page) -> None:
            if number == self.number:
                self.arrived(page)

        def failed(error: MagpieError) -> None:
            if number == self.number:
                self.failed(error)

        self.around.work(lambda run: run.page(address, by=typed), arrived, failed)

    def _on_slip(self, slip: Slip, number: int) -> None:
        if number != self.number:
            return  # another page was opened meanwhile
        typed = self.around.current()
        self.reading = slip.reading
        if typed is not None:
            slip = slip.with_typed(typed)  # also what was typed while the page was read again
        self.slip = slip
        self.become(Phase.READY)
        self.around.show_slip(slip)
        if typed is not None and typed.marks != slip.marks:
            marks = typed.marks
            self.update(lambda run, one: run.counter.reader.slips.again(one, marks=marks))

    def _on_read_failed(self, error: MagpieError, number: int) -> None:
        if number != self.number:
            return
        # a slip of the reading before stays, with what was typed on it
        self.become(Phase.READY if self.slip is not None else Phase.NOTHING)
        self.around.complain(error)

    # its slip

    @staticmethod
    def filled(
        run: CaptureRun,
        before: Slip,
        place: str | None,
        template: str | None = None,
        reading: Reading | None = None,
    ) -> Slip:
        """A slip filled anew; what was typed on it stays, and so does a template that the person chose."""
        if template is None and before.reason == CHOSEN_BY_YOU:
            template = before.template.name
        return run.slip(reading or before.reading, template, place, before)

    def choose_template(self, name: str) -> None:
        """Another template; its own place, unless the person chose one."""
        is_open = not self.is_place_chosen
        self.update(lambda run, slip: self.filled(run, slip, None if is_open else slip.place, name))

    def choose_place(self, key: str) -> None:
        """Another place."""
        self.is_place_chosen = True
        self.update(lambda run, slip: self.filled(run, slip, key))

    def refill(self, **changes: object) -> None:
        """The slip with other marks or another chosen picture (see `RuleContext`)."""
        self.update(lambda run, slip: run.counter.reader.slips.again(slip, **changes))

    def with_marks(self, change: Callable[[Slip], Sequence[Mark]]) -> None:
        """The slip with other marks, made of those that it has by then."""
        self.update(lambda run, slip: run.counter.reader.slips.again(slip, marks=tuple(change(slip))))

    def fill_again(self) -> None:
        """The same slip once more: something was kept or taken back."""
        self.update(lambda run, slip: self.filled(run, slip, slip.place))

    def others_changed(self) -> None:
        """Entries were kept, changed or taken back, perhaps that of this page."""
        if self.phase is Phase.READY and not self.updates:
            self.fill_again()

    def update(self, update: Update) -> None:
        """Fills the slip as an update says, when its turn comes."""
        self.updates.append(update)
        self.go_on()

    def go_on(self) -> None:
        """Begins with the next update."""
        slip = self.around.current()
        if self.is_updating or not self.updates or slip is None:
            return
        self.is_updating = True
        update, number = self.updates.pop(0), self.number
        self.around.work(
            lambda run: update(run, slip), lambda filled: self._on_updated(filled, number), self._on_update_failed
        )

    def _on_updated(self, filled: Slip, number: int) -> None:
        self.is_updating = False
        typed = self.around.current()
        if number == self.number and typed is not None:
            self.slip = filled.with_typed(typed)
            self.around.show_slip(self.slip)
        self.go_on()
        if not self.is_updating and self.keep_wanted is not None and self.slip is not None:
            is_update, is_opened, was_known = self.keep_wanted
            self.keep_wanted = None
            if was_known == (self.slip.known is not None):  # else the person sees first that it is kept there already
                self.keep(is_update=is_update, is_opened=is_opened)

    def _on_update_failed(self, error: MagpieError) -> None:
        self.is_updating = False
        self.updates.clear()
        self.keep_wanted = None
        self.around.complain(error)
        if self.slip is not None:
            self.around.show_slip(self.slip)

    # keeping

    def keep(self, *, is_update: bool = False, is_opened: bool = False) -> None:
        """Keeps the slip; one that is just being filled anew, once it is."""
        slip = self.around.current()
        if slip is None or self.phase is Phase.KEEPING:
            return
        if self.is_updating:
            self.keep_wanted = (is_update, is_opened, slip.known is not None)
            return
        try:
            slip.draft()
        except UserError as error:
            self.around.refuse(error)
            return
        self.become(Phase.KEEPING)
        self.around.work(
            lambda run: run.keep(slip, is_update=is_update),
            lambda kept: self._on_kept(kept, slip, is_opened),
            self._on_keep_failed,
        )

    def keep_address(self) -> None:
        """Keeps only the address, to be read later."""
        address, title = self.address, self.reading.best("title") if self.reading is not None else ""
        self.around.work(
            lambda run: run.keep_address(address, title),
            lambda kept: self.around.told_kept(kept, None, is_opened=False),
            self.around.complain,
        )

    def _on_kept(self, kept: Kept, slip: Slip, is_opened: bool) -> None:
        if self.phase is Phase.KEEPING:
            self.become(Phase.READY)
        self.around.told_kept(kept, slip, is_opened=is_opened or slip.template.opens)
        shown = self.around.current()
        if shown is not None and shown.reading.page is slip.reading.page:  # no other page was opened meanwhile
            self.fill_again()

    def _on_keep_failed(self, error: MagpieError) -> None:
        if self.phase is Phase.KEEPING:
            self.become(Phase.READY)
        self.around.complain(error)

    def become(self, phase: Phase) -> None:
        """Another phase."""
        self.phase = phase
        self.around.changed()
