"""Many addresses, one after another: politely, and so that a list goes on where it was left, whatever ended it.

One request at a time to a host, with a pause behind it; several hosts at a time; a host that asks for patience gets it
(RFC 9110, section 10.2.3: Retry-After). What ended is written down at once; what was being read when the program ended waits again.
"""

import threading
import time
from collections import deque
from collections.abc import Callable, Sequence
from contextlib import closing
from dataclasses import replace

from wily_magpie.core.capture.run import CaptureRun, Counter, Wanted
from wily_magpie.core.commands.command import UNWATCHED, Progress
from wily_magpie.core.commands.lists import MakeList, NoteItems
from wily_magpie.core.entries.capture_list import ItemState, ListItem, ListWanted
from wily_magpie.core.errors import MagpieError, PageFailure, UserError
from wily_magpie.core.faults import logger
from wily_magpie.core.pages.address import canonical, host_of
from wily_magpie.core.pages.page import Reading
from wily_magpie.core.places.library.list_lock import is_going, list_lock
from wily_magpie.core.templates.slip import KnownEntry

HOSTS_AT_A_TIME, PAUSE_S = 4, 0.5
LONGEST_PATIENCE_S, MOST_TRIES = 120.0, 3
NO_NETWORK = ("no-host", "no-answer", "no-connection", "refused")
"""Failures of addresses that are kept for later which may be over when there is a network."""
LATER_ON = -1.0
"""Instead of seconds of patience: not in this run any more."""
OWN_FAULT = "This failed by a fault of the program's own, which is written down in its log. Please report it."
NOT_TYPED = "list:"
"""Who leads to an address of a list: nobody typed it, so that it may not be of this machine or the local network."""

log = logger(__name__)


def going_on(counter: Counter, label: str, addresses: Sequence[tuple[str, str]], wanted: ListWanted) -> int:
    """The number of a list with these addresses: the one that was interrupted where there is one, else a new one."""
    for there in counter.reader.lists.all():
        is_same = (
            there.label == label and there.wanted == wanted and there.left and not is_going(counter.folder, there.id)
        )
        if is_same and [one.address for one in counter.reader.lists.items(there.id)] == [one for one, _ in addresses]:
            return there.id
    return counter.do(MakeList(label, addresses, wanted))


class ListRun:
    """Captures what waits in a list.

    Args:
        told: told of each address that changed its state; on any thread.
        pause_s: between two requests to a host.
    """

    def __init__(
        self,
        counter: Counter,
        number: int,
        wanted: ListWanted,
        progress: Progress = UNWATCHED,
        is_cancelled: Callable[[], bool] = lambda: False,
        told: Callable[[ListItem], object] = lambda _item: None,
        pause_s: float = PAUSE_S,
    ) -> None:
        self.counter, self.number, self.wanted = counter, number, wanted
        self.progress, self.is_cancelled, self.told, self.pause_s = progress, is_cancelled, told, pause_s
        self.turn = threading.Condition()
        self.keeping = threading.Lock()
        self.waiting: dict[str, deque[ListItem]] = {}
        self.tries: dict[int, int] = {}
        self.rests_until: dict[str, float] = {}
        self.busy: set[str] = set()
        self.done = self.total = 0
        self.fault: BaseException | None = None

    def run(self) -> None:
        """Works until nothing waits any more, or it is cancelled.

        Raises:
            UserError: another process is at it.
        """
        with closing(list_lock(self.counter.folder, self.number)) as lock:
            if not lock.take():
                raise UserError(
                    "list-going",
                    "Another window or shell is capturing this list.",
                    "Wait until it has come to its end.",
                )
            try:
                self.run_alone()
            finally:
                lock.path.unlink(missing_ok=True)

    def run_alone(self) -> None:
        """The same, once nobody else is at it."""
        items = self.counter.reader.lists.items(self.number)
        self.total = len(items)
        for item in items:
            if item.state in (ItemState.WAITING, ItemState.READING):
                self.waiting.setdefault(host_of(item.address), deque()).append(item)
            else:
                self.done += 1
        self.progress.tick(self.done, self.total)
        workers = [threading.Thread(target=self.work, name="list") for _ in range(HOSTS_AT_A_TIME)]
        for worker in workers:
            worker.start()
        for worker in workers:
            worker.join()
        if self.fault is not None:
            raise self.fault
        self.progress.tick(self.done, self.total)  # raises where it was cancelled

    def work(self) -> None:
        """One after another."""
        try:
            while (item := self.next()) is not None:
                self.take(item)
        except BaseException as error:  # noqa: BLE001 - raised by whoever waits for the threads
            with self.turn:
                self.fault = error
                self.turn.notify_all()

    def next(self) -> ListItem | None:
        """The first of those whose host is free; waits until one is; None at the end."""
        with self.turn:
            while self.fault is None and not self.is_cancelled():
                now = time.monotonic()
                free = [
                    host for host, queue in self.waiting.items()
                    if queue and host not in self.busy and self.rests_until.get(host, 0.0) <= now
                ]  # fmt: skip
                if free:
                    host = min(free, key=lambda one: self.waiting[one][0].position)
                    self.busy.add(host)
                    return self.waiting[host].popleft()
                if not self.busy and not any(self.waiting.values()):
                    self.turn.notify_all()
                    return None
                self.turn.wait(0.05)
        return None

    def take(self, item: ListItem) -> None:
        """Captures one and writes down how that ended; where its host asks for patience, it waits again."""
        host = host_of(item.address)
        self.told(replace(item, state=ItemState.READING))
        ended, patience = self.captured(item)
        with self.turn:
            pause_s = self.pause_s if host else 0.0  # files need no politeness
            self.rests_until[host] = time.monotonic() + max(pause_s, 0.0 if patience == LATER_ON else patience)
            self.busy.discard(host)
            is_left = ended.state is ItemState.WAITING and (patience == LATER_ON or self.is_cancelled())
            if is_left:
                self.turn.notify_all()
            elif ended.state is ItemState.WAITING:
                self.waiting[host].appendleft(ended)
            else:
                self.done += 1
            self.turn.notify_all()
        self.told(ended)
        if ended.state is not ItemState.WAITING or patience == LATER_ON:
            self.counter.do(NoteItems(self.number, (ended,)))
            with self.turn:
                done = self.done
            if not self.is_cancelled():
                self.progress.tick(done, self.total)

    def captured(self, item: ListItem) -> tuple[ListItem, float]:
        """How a capture ended, and how many seconds its host is left in peace."""
        try:
            return self.outcome(item), 0.0
        except PageFailure as error:
            if error.slug == "cancelled":
                return replace(item, state=ItemState.WAITING), 0.0
            if self.wanted.is_later and error.slug in NO_NETWORK:
                return replace(item, state=ItemState.WAITING, said=f"{error.message} It is tried again."), LATER_ON
            patience = error.retry_after_s
            tries = self.tries[item.position] = self.tries.get(item.position, 0) + 1
            if 0.0 < patience <= LONGEST_PATIENCE_S and tries < MOST_TRIES:
                said = f"Its server asks to be asked again in {round(patience)} s."
                return replace(item, state=ItemState.WAITING, said=said), patience
            return replace(item, state=ItemState.FAILED, said=str(error)), 0.0
        except MagpieError as error:
            return replace(item, state=ItemState.FAILED, said=str(error)), 0.0
        except Exception:  # what a page holds costs itself, not the rest of the list
            log.exception("%s could not be captured", item.address)
            return replace(item, state=ItemState.FAILED, said=OWN_FAULT), 0.0

    def outcome(self, item: ListItem) -> ListItem:
        """Captures one address.

        Raises:
            MagpieError: it cannot be.
        """
        known = self.counter.reader.slips.known_anywhere(canonical(item.address))
        known = [one for one in known if self.wanted.place in ("", one.place)]
        if self.wanted.is_later:
            return self.filled(item, known)
        if known:
            there = known[0]
            said = f"Kept in {there.place_name}{f' on {there.when}' if there.when else ''}."
            return replace(
                item,
                state=ItemState.KNOWN,
                title=there.entry.title,
                said=said,
                place=there.place,
                entry_id=there.entry.id,
            )
        run = CaptureRun(self.counter, is_cancelled=self.is_cancelled)
        page = run.page(item.address, by=NOT_TYPED)
        return self.kept(run, item, run.reading(page))

    def filled(self, item: ListItem, known: Sequence[KnownEntry]) -> ListItem:
        """Fills an entry that has only an address so far from its page.

        Raises:
            MagpieError: the page cannot be had.
        """
        if not known:
            return replace(item, state=ItemState.KNOWN, said="It was taken back.")
        there = known[0]
        has_more = bool(there.entry.body) or self.counter.reader.templates.kept_page(there.entry, "") is not None
        if has_more:
            return replace(
                item, state=ItemState.KNOWN, title=there.entry.title, place=there.place, entry_id=there.entry.id
            )
        run = CaptureRun(self.counter, is_cancelled=self.is_cancelled)
        reading = run.reading(run.page(item.address, by=NOT_TYPED))
        if reading.is_thin:
            return replace(item, state=ItemState.THIN, said=reading.notice, place=there.place, entry_id=there.entry.id)
        title = reading.best("title")
        values = (("title", title),) if title and there.entry.title == item.address else ()
        with self.keeping:
            done = run.whole_of(reading, Wanted("", there.place, values, is_update=True))
        failures = run.pictures(done.slip, done.kept)
        said = f"{len(failures)} of its pictures could not be had." if failures else "Filled from its page."
        return replace(
            item, state=ItemState.KEPT, title=title or item.title, said=said, place=there.place, entry_id=there.entry.id
        )

    def kept(self, run: CaptureRun, item: ListItem, reading: Reading) -> ListItem:
        """Keeps a page that was read, unless its text is not there."""
        if reading.is_thin:
            title = reading.best("title") or item.title
            return replace(item, state=ItemState.THIN, title=title, said=reading.notice)
        wanted = Wanted(self.wanted.template, self.wanted.place, self.wanted.values, is_lenient=True)
        with self.keeping:  # two addresses that lead to one page keep it once
            done = run.whole_of(reading, wanted)
        state = ItemState.KNOWN if done.kept.status == "known" else ItemState.KEPT
        said = f"Kept in {done.kept.place_name} already." if state is ItemState.KNOWN else done.left_out
        failures = run.pictures(done.slip, done.kept) if state is ItemState.KEPT else []
        if failures:
            said = f"{said} {len(failures)} of its pictures could not be had.".strip()
        return replace(
            item, state=state, title=done.kept.title, said=said, place=done.kept.place, entry_id=done.kept.entry_id
        )
