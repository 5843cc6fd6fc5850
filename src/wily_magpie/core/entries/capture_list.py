"""A list of addresses that are captured one after another: what is wanted of them all, and how far each is."""

from collections.abc import Mapping
from dataclasses import field
from enum import StrEnum

from wily_magpie.core.dataclass import dataclass

LATER = "Kept for later"
"""The list of addresses that were kept alone."""


class ItemState(StrEnum):
    """How far one address is.

    THIN: its text was not there, since scripts build it; it needs the web engine. KNOWN: it is kept already.
    """

    WAITING = "waiting"
    READING = "reading"
    KEPT = "kept"
    KNOWN = "known"
    THIN = "thin"
    FAILED = "failed"


@dataclass(frozen=True)
class ListItem:
    """One address.

    Attributes:
        position: in the list, from 1 on.
        title: as the list had it, later that of the page.
        said: why it failed, or what is to be known of it; "" for nothing.
        place, entry_id: where it is kept; "" and 0 where it is not.
    """

    position: int
    address: str
    title: str = ""
    state: ItemState = ItemState.WAITING
    said: str = ""
    place: str = ""
    entry_id: int = 0


@dataclass(frozen=True)
class ListWanted:
    """How all of a list are captured.

    Attributes:
        template, place: name and key; "" for what fits each page.
        values: (field, text) that are set on each slip whose place has that field.
        is_later: whether these are entries that have only an address so far, which are filled from their pages.
    """

    template: str = ""
    place: str = ""
    values: tuple[tuple[str, str], ...] = ()
    is_later: bool = False


@dataclass(frozen=True)
class CaptureList:
    """A list, as the tray shows it.

    Attributes:
        made: when, ISO 8601.
        counts: how many are in each state.
    """

    id: int
    label: str
    made: str
    wanted: ListWanted
    counts: Mapping[ItemState, int] = field(default_factory=dict)

    @property
    def total(self) -> int:
        """How many addresses it has."""
        return sum(self.counts.values())

    @property
    def left(self) -> int:
        """How many still wait."""
        return self.counts.get(ItemState.WAITING, 0)

    @property
    def in_words(self) -> str:
        """How far it is."""
        told = [f"{count:,} {state}" for state in ItemState if (count := self.counts.get(state, 0))]
        return ", ".join(told) or "nothing in it"
