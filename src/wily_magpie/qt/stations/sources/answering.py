"""The answer to what the Sources station asks, worked out off the interface's thread."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.layout import Layout, LayoutKind
from wily_magpie.core.places.api import Group, Listing, PlaceInfo
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.query.nodes import Question
from wily_magpie.qt.models.entry_window import CHUNK
from wily_magpie.qt.stations.sources.model import SourcesState

MOST_KNOWN = 4


@dataclass(frozen=True)
class Answer:
    """The answer to a question, with the rows that are seen first.

    Attributes:
        first: the rows from position `at` on.
        sums: what stands at the foot of columns, by key; of groups it stands with them.
        found: the listing as it was asked for, in no order by hand; None where nothing was asked.
    """

    listing: Listing
    first: Sequence[Entry]
    at: int
    sums: dict[str, str]
    found: Listing | None = None


class Known:
    """The answers to the last questions over one place, as long as none of its entries is another: a layout asks no new question."""

    def __init__(self) -> None:
        self.place: PlaceInfo | None = None
        self.listings: list[tuple[Question, Listing]] = []

    def forget(self) -> None:
        """Some entry is another one."""
        self.listings = []

    def get(self, place: PlaceInfo, question: Question) -> Listing | None:
        """The answer, where it is known."""
        if self.place is None or (self.place.key, self.place.fields) != (place.key, place.fields):
            self.place, self.listings = place, []
        return next((listing for asked, listing in self.listings if asked == question), None)

    def put(self, question: Question, listing: Listing) -> None:
        """Remembers one."""
        self.listings = [(question, listing), *self.listings[: MOST_KNOWN - 1]]


def answer(reader: Reader, state: SourcesState, wanted: int | None, known: Listing | None = None) -> Answer:
    """Asks the question of a state.

    Args:
        known: the entries that answer it, where nothing has changed since they were asked for.
    """
    if state.place is None or state.lacking:
        return Answer(Listing((), (), 0), (), 0, {})
    entries, key = reader.entries, state.place.key
    question = state.asked_question
    found = known if known is not None else entries.listing(key, question)
    listing = by_hand(found, state.layout)
    ids = listing.ids
    at = (ids.index(wanted) // CHUNK) * CHUNK if wanted is not None and wanted in ids else 0
    sums = entries.sums(key, question, state.layout)
    if listing.groups and sums:
        listing = replace(listing, groups=with_sums(listing.groups, sums))
    return Answer(listing, entries.rows(key, ids[at : at + CHUNK]), at, sums.get((), {}), found)


def by_hand(listing: Listing, layout: Layout) -> Listing:
    """Lanes in the order of a person's hand: what was put somewhere first, the others behind in the order of the question."""
    if layout.kind is not LayoutKind.LANES or not layout.by_hand:
        return listing
    rank = {entry_id: place for place, entry_id in enumerate(layout.by_hand)}
    ids: list[int] = []
    for group in listing.groups:
        run = listing.ids[len(ids) : len(ids) + group.rows]
        ids += sorted(run, key=lambda one: rank.get(one, len(rank)))
    return replace(listing, ids=ids)


def with_sums(groups: Sequence[Group], sums: Mapping[tuple[str, ...], dict[str, str]]) -> tuple[Group, ...]:
    """Groups with what stands at the foot of columns in each."""
    out, outer = [], ""
    for group in groups:
        outer = group.name if group.level == 0 else outer
        path = (group.name,) if group.level == 0 else (outer, group.name)
        out.append(replace(group, sums=sums.get(path, {})))
    return tuple(out)
