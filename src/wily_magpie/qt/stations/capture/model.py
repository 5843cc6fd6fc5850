"""The state of the Capture station, without a widget: which page, how far it is read, its slip, what is still to be done.

One page at a time: every page gets a number, and what comes back for another number than the present one is dropped.
Changes of the slip (another template, another place, a further mark) are done one after another off the thread, each
beginning with the slip that the one before has left; what is typed meanwhile stays.

A slip that was touched is a draft: it is written down a moment after each change, and before its page is left.
"""

from collections.abc import Callable
from dataclasses import replace
from enum import Enum, auto
from typing import Protocol, TypeVar

from wily_magpie.core.capture.run import CaptureRun
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.kept import KeepAs, Kept
from wily_magpie.core.entries.mark import Mark, with_mark
from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.templates.by_hand import ByHand
from wily_magpie.core.templates.slip import Slip
from wily_magpie.core.templates.slip_blocks import with_late_blocks
from wily_magpie.core.templates.update import ChosenUpdate, PageUpdate

T = TypeVar("T")
Change = Callable[[ByHand], ByHand]
"""Makes of what a person did on a slip what the person did by now."""


class Phase(Enum):
    """How far the page is."""

    NOTHING, LOADING, READING, READY, KEEPING, FAILED = (auto() for _ in range(6))


@dataclass(frozen=True)
class KeepWanted:
    """How a slip is to be kept once it is there and filled, and whether its page was known then."""

    keep_as: KeepAs
    is_opened: bool
    was_known: bool


class Surroundings(Protocol):
    """What the model reaches the rest by: the core off the thread, and whoever shows it."""

    def work(
        self, work: Callable[[CaptureRun], T], done: Callable[[T], object], failed: Callable[[MagpieError], object]
    ) -> None:
        """Does work off the thread and hands its result back on it."""

    def save_draft(self, slip: Slip) -> None:
        """Has a draft written down."""

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

    def keep_now(self, keep_as: KeepAs, *, is_opened: bool) -> None:
        """The slip that was waited for is there: it is kept as if it were asked for now."""


class CaptureModel:
    """See the module.

    Attributes:
        address: of the page, or that it was asked for by; typed: what the person asked for last.
        words: of the page that was asked for, which are still to be marked.
        number: of the page, one more for each.
        reading: what the page says, once it is read.
        failure: why the page could not be had, in FAILED.
        settled: what was done on the slip as it was kept or written down last; only what differs from it is a draft.
        is_restored: whether the slip began as a draft that had been left.
    """

    def __init__(self, around: Surroundings) -> None:
        self.around = around
        self.phase = Phase.NOTHING
        self.address = self.typed = self.words = ""
        self.number = 0
        self.reading: Reading | None = None
        self.slip: Slip | None = None
        self.failure: MagpieError | None = None
        self.changes: list[Change] = []
        self.is_updating = False
        self.settled = ByHand()
        self.is_restored = False
        self.wanted_place = ""
        """The place that was chosen before the slip of the page was there."""
        self.keep_wanted: KeepWanted | None = None
        self.kept_by_hand: tuple[Kept, ByHand] | None = None
        """What was done on the slip that was kept last, and where it went: it is on the slip again when that is taken back."""

    # a page

    def open(self, address: str, words: str = "") -> None:
        """An address was asked for by the person; one before it that was to be kept before it was there is kept for later.

        Args:
            words: of the page, which are marked on its slip once that is there.
        """
        if self.keep_wanted is not None and self.slip is None:
            self.keep_address()
        self.leave()
        self.address = self.typed = address
        self.words = words
        self.become(Phase.LOADING)

    def began(self, address: str) -> None:
        """The live page has begun to load another page."""
        self.leave()
        self.number += 1
        self.changes.clear()
        self.address = address if address.startswith("http") else self.address
        self.become(Phase.LOADING)

    def leave(self) -> None:
        """Another page comes: what was done on the slip of this one waits."""
        self.save_draft()
        self.keep_wanted = None
        self.wanted_place = ""
        self.reading, self.slip, self.failure = None, None, None
        self.settled, self.is_restored, self.kept_by_hand = ByHand(), False, None

    def arrived(self, page: Page, screenshot: bytes = b"", *, is_asked: bool = False) -> None:
        """The page is there: it is read, and its slip filled; what was typed on one that is there already stays, and a draft.

        Args:
            is_asked: whether the person had the page read again, and so wants what came late in a text that was edited.
        """
        self.address = page.address
        before, number = self.around.current(), self.number
        self.become(Phase.READING)

        def work(run: CaptureRun) -> tuple[Slip, bool]:
            reading = run.reading(page)
            if before is not None and before.reading.page.address == page.address:
                slip = run.slip(reading, hand=before.by_hand, screenshot=screenshot, is_habit=True)
                return with_late_blocks(slip, before.reading.content, are_taken=is_asked), False
            draft = run.counter.reader.drafts.find(page.address)
            if draft is None:
                return run.slip(reading, screenshot=screenshot, is_habit=True), False
            return run.counter.reader.slips.restored(reading, draft.hand, screenshot or draft.screenshot), True

        self.around.work(
            work, lambda made: self._on_slip(*made, number), lambda error: self._on_read_failed(error, number)
        )

    def failed(self, failure: MagpieError) -> None:
        """The page could not be had; a draft of it is shown all the same, by the page as it was seen."""
        self.failure = failure
        self.become(Phase.FAILED)
        address, number = self.address, self.number

        def work(run: CaptureRun) -> Slip | None:
            draft = run.counter.reader.drafts.find(address)
            if draft is None:
                return None
            return run.counter.reader.slips.restored(run.reading(draft.page), draft.hand, draft.screenshot)

        def done(slip: Slip | None) -> None:
            if slip is not None:
                self._on_slip(slip, True, number)

        self.around.work(work, done, self.around.complain)

    def fetch_file(self) -> None:
        """Fetches the file at the address, which the live page would only have saved; what it shows meanwhile is no page."""
        address, typed = self.address, self.typed
        self.read_given(lambda run: run.page(address, by=typed), address)

    def read_given(self, make: Callable[[CaptureRun], Page], address: str) -> None:
        """Fills a slip from what is no live page: a file, a piece of text."""
        self.number += 1
        self.address = address
        number = self.number

        def arrived(page: Page) -> None:
            if number == self.number:
                self.arrived(page)

        def failed(error: MagpieError) -> None:
            if number == self.number:
                self.failed(error)

        self.around.work(make, arrived, failed)

    def _on_slip(self, slip: Slip, is_restored: bool, number: int) -> None:
        if number != self.number:
            return  # another page was opened meanwhile
        typed = self.around.current()
        self.reading = slip.reading
        if is_restored:
            self.is_restored, self.settled = True, slip.by_hand
        is_behind = typed is not None and typed.by_hand != slip.by_hand
        if typed is not None:
            slip = slip.with_typed(typed.by_hand)  # also what was typed while the page was read again
        self.slip = slip
        self.become(Phase.READY)
        self.around.show_slip(slip)
        if self.wanted_place:
            place, self.wanted_place = self.wanted_place, ""
            self.changes.append(lambda hand: replace(hand, place=place))
        if self.words:
            words, self.words = Mark(self.words), ""
            self.change(lambda hand: replace(hand, marks=with_mark(hand.marks, words)))
        elif is_behind or self.changes:
            self.fill_again()
        elif self.keep_wanted is not None:
            self.keep_as_wanted()

    def _on_read_failed(self, error: MagpieError, number: int) -> None:
        if number != self.number:
            return
        # a slip of the reading before stays, with what was typed on it
        self.become(Phase.READY if self.slip is not None else Phase.NOTHING)
        self.keep_wanted = None
        self.around.complain(error)

    # drafts

    def save_draft(self) -> None:
        """Has what was done on the slip written down, where that is not done yet."""
        slip = self.around.current()
        if slip is not None and slip.by_hand != self.settled:
            self.settled = slip.by_hand
            self.around.save_draft(slip)

    def begin_anew(self) -> None:
        """The slip as the page fills it, without what was done on it."""
        self.is_restored = False
        self.change(lambda _hand: ByHand())

    # its slip

    def choose_template(self, name: str) -> None:
        """Another template; its own place, unless the person chose one."""
        self.change(lambda hand: replace(hand, template=name))

    def choose_place(self, key: str) -> None:
        """Another place; before there is a slip, the one that it is to begin with."""
        if self.slip is None:
            self.wanted_place = key
            return
        self.change(lambda hand: replace(hand, place=key))

    def fill_again(self) -> None:
        """The same slip once more: something was kept or taken back."""
        self.change(lambda hand: hand)

    def others_changed(self) -> None:
        """Entries were kept, changed or taken back, perhaps that of this page."""
        if self.phase is Phase.READY and not self.changes:
            self.fill_again()

    def change(self, change: Change) -> None:
        """Fills the slip anew with something done on it, when its turn comes."""
        self.changes.append(change)
        self.go_on()

    def go_on(self) -> None:
        """Begins with the next change."""
        slip = self.around.current()
        if self.is_updating or not self.changes or slip is None:
            return
        self.is_updating = True
        change, number, given = self.changes.pop(0), self.number, slip.by_hand
        hand = change(given)

        def work(run: CaptureRun) -> Slip:
            return run.slip(slip.reading, hand=hand, screenshot=slip.screenshot, is_habit=True)

        self.around.work(work, lambda filled: self._on_updated(filled, given, number), self._on_update_failed)

    def _on_updated(self, filled: Slip, given: ByHand, number: int) -> None:
        self.is_updating = False
        typed = self.around.current()
        if number == self.number and typed is not None:
            self.slip = filled.with_typed(typed_since(given, typed.by_hand, filled.by_hand))
            self.around.show_slip(self.slip)
            self.look_whether_taken_back(self.slip)
        self.go_on()
        if not self.is_updating and self.keep_wanted is not None and self.slip is not None:
            self.keep_as_wanted()

    def look_whether_taken_back(self, slip: Slip) -> None:
        """Where the entry that was kept last is gone again, what was done on its slip is there again."""
        if self.kept_by_hand is None:
            return
        kept, hand = self.kept_by_hand
        known = [one for one in (slip.known, *(one.entry for one in slip.elsewhere)) if one is not None]
        if all((one.place, one.id) != (kept.place, kept.entry_id) for one in known):
            self.kept_by_hand = None
            self.change(lambda now: typed_since(ByHand(hand.template, hand.place), now, hand))

    def _on_update_failed(self, error: MagpieError) -> None:
        self.is_updating = False
        self.changes.clear()
        self.keep_wanted = None
        self.around.complain(error)
        if self.slip is not None:
            self.around.show_slip(self.slip)

    # keeping

    @property
    def is_coming(self) -> bool:
        """Whether a slip is on its way."""
        return self.phase in (Phase.LOADING, Phase.READING) and self.slip is None

    def keep(
        self, keep_as: KeepAs = KeepAs.NEW, update: ChosenUpdate | None = None, *, is_opened: bool = False
    ) -> None:
        """Keeps the slip; one that is on its way, or is just being filled anew, once it is there."""
        slip = self.around.current()
        if self.phase is Phase.KEEPING:
            return
        if self.is_coming or (self.is_updating and slip is not None):
            self.keep_wanted = KeepWanted(keep_as, is_opened, slip is not None and slip.known is not None)
            self.around.changed()
            return
        if slip is None:
            return
        try:
            slip.draft()
        except UserError as error:
            self.around.refuse(error)
            return
        self.settled = slip.by_hand
        self.become(Phase.KEEPING)
        self.around.work(
            lambda run: run.keep(slip, keep_as, update),
            lambda kept: self._on_kept(kept, slip, is_opened),
            lambda error: self._on_keep_failed(error, slip),
        )

    def keep_as_wanted(self) -> None:
        """Keeps the slip that was waited for, unless there is something that the person has to see first."""
        wanted, self.keep_wanted = self.keep_wanted, None
        self.around.changed()
        if wanted is None or self.slip is None:
            return
        if wanted.was_known != (self.slip.known is not None):
            self.around.refuse(
                UserError("kept-already", "This page is kept already.", "Choose below what is to become of it.")
            )
        else:
            self.around.keep_now(wanted.keep_as, is_opened=wanted.is_opened)

    def look_at_update(self, done: Callable[[PageUpdate], object]) -> None:
        """Has it found out what of the page would replace what of the entry that is kept already."""
        slip, number = self.around.current(), self.number
        if slip is not None and slip.known is not None:
            self.around.work(
                lambda run: run.update_of(slip),
                lambda found: done(found) if number == self.number else None,
                self.around.complain,
            )

    def keep_address(self) -> None:
        """Keeps only the address, to be read later."""
        address, title = self.address, self.reading.best("title") if self.reading is not None else ""
        slip = self.around.current()
        place = slip.place if slip is not None else self.wanted_place
        self.around.work(
            lambda run: run.keep_address(address, title, place),
            lambda kept: self.around.told_kept(kept, None, is_opened=False),
            self.around.complain,
        )

    def _on_kept(self, kept: Kept, slip: Slip, is_opened: bool) -> None:
        if self.phase is Phase.KEEPING:
            self.become(Phase.READY)
        self.around.told_kept(kept, slip, is_opened=is_opened or slip.template.opens)
        shown = self.around.current()
        if shown is not None and shown.reading.page is slip.reading.page:  # no other page was opened meanwhile
            self.is_restored = False
            hand = slip.by_hand
            self.kept_by_hand = (kept, hand)
            # from now on it shows its entry, with what was typed meanwhile
            self.change(lambda now: typed_since(hand, now, ByHand(hand.template, hand.place)))

    def _on_keep_failed(self, error: MagpieError, slip: Slip) -> None:
        if self.phase is Phase.KEEPING:
            self.become(Phase.READY)
        self.settled = ByHand()
        self.around.save_draft(slip)
        self.around.complain(error)
        if error.slug == "kept-already":  # it shows the entry that is there now, with what was typed
            self.fill_again()

    def become(self, phase: Phase) -> None:
        """Another phase."""
        self.phase = phase
        self.around.changed()


def typed_since(given: ByHand, now: ByHand, made: ByHand) -> ByHand:
    """What a filled slip holds by hand, with what was typed while it was being filled.

    Args:
        given: what was done before it was begun with; now: by now; made: on the slip that was filled.
    """
    values = {**made.values, **{key: one for key, one in now.values.items() if given.values.get(key) != one}}
    return replace(made, values=values, body=now.body if now.body != given.body else made.body)
