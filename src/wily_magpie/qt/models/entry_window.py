"""The rows of an answer, fetched off the thread as they come into sight; for a table and whatever else shows entries."""

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.places.api import Listing

CHUNK = 128
MOST_CHUNKS = 64
AT_ONCE = 2
"""So many chunks are asked for at a time: what is seen last is fetched next, and what was scrolled past is not."""
Fetch = Callable[[Sequence[int], Callable[[list[Entry]], None]], None]
"""Fetches the entries of some ids and hands them over, on the main thread."""


class EntryWindow(QObject):
    """Entries by their position in an answer.

    Args:
        fetch: see above.

    Signals:
        arrived: entries from one position to another (that one not included) are there now.
    """

    arrived = pyqtSignal(int, int)

    def __init__(self, fetch: Fetch, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.fetch = fetch
        self.listing = Listing((), (), 0)
        self.chunks: dict[int, dict[int, Entry]] = {}
        self.stale: dict[int, Entry] = {}
        """What was there of an answer before, by id: shown until what the entries are now has arrived."""
        self.waiting: list[int] = []
        self.asked: set[int] = set()
        self.number = 0

    def show(self, listing: Listing, first: Sequence[Entry] = (), at: int = 0, *, is_same: bool = False) -> None:
        """Takes another answer.

        Args:
            first: entries that came along with it, the first at position `at`.
            is_same: whether it is of the same place as before: what is known of its entries is shown until they arrive.
        """
        self.number += 1
        there = {entry_id: entry for chunk in self.chunks.values() for entry_id, entry in chunk.items()}
        self.stale = {**self.stale, **there} if is_same else {}
        self.listing = listing
        self.chunks, self.waiting, self.asked = {}, [], set()
        by_id = {entry.id: entry for entry in first}
        for number in range(at // CHUNK, -(-(at + len(first)) // CHUNK)):
            ids = listing.ids[number * CHUNK : (number + 1) * CHUNK]
            if all(entry_id in by_id for entry_id in ids):
                self.chunks[number] = {entry_id: by_id[entry_id] for entry_id in ids}

    def entry_at(self, position: int) -> Entry | None:
        """The entry of a position; None where it is still to arrive."""
        if not 0 <= position < len(self.listing.ids):
            return None
        number, entry_id = position // CHUNK, self.listing.ids[position]
        chunk = self.chunks.get(number)
        if chunk is None:
            self.want(number)
            return self.stale.get(entry_id)
        return chunk.get(entry_id)

    def want(self, number: int) -> None:
        """Wants a chunk; the one wanted last is fetched first."""
        if number in self.asked:
            return
        if number in self.waiting:
            self.waiting.remove(number)
        self.waiting.append(number)
        del self.waiting[:-MOST_CHUNKS]
        self.go_on()

    def go_on(self) -> None:
        """Asks for what is wanted."""
        while self.waiting and len(self.asked) < AT_ONCE:
            number = self.waiting.pop()
            self.asked.add(number)
            ids = self.listing.ids[number * CHUNK : (number + 1) * CHUNK]
            self.fetch(ids, partial(self._on_fetched, number, self.number))

    def _on_fetched(self, number: int, of: int, entries: list[Entry]) -> None:
        if of != self.number:
            return  # another answer is shown by now
        self.asked.discard(number)
        while len(self.chunks) >= MOST_CHUNKS:
            self.chunks.pop(next(iter(self.chunks)))
        self.chunks[number] = {entry.id: entry for entry in entries}
        for entry in entries:
            self.stale.pop(entry.id, None)
        self.go_on()
        start = number * CHUNK
        self.arrived.emit(start, min(start + CHUNK, len(self.listing.ids)))


class Selection(QObject):
    """Which entry of which place is the current one; one for whatever shows them.

    Signals:
        current_changed: the id of the current one, or None.
    """

    current_changed = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.place = ""
        self.current: int | None = None

    def choose(self, place: str, current: int | None) -> None:
        """Makes an entry the current one."""
        if (place, current) != (self.place, self.current):
            self.place, self.current = place, current
            self.current_changed.emit(current)

    def current_in(self, place: str) -> int | None:
        """The current one, where it is of that place."""
        return self.current if place == self.place else None
