"""Where a capture went."""

from dataclasses import field
from enum import Enum, auto

from wily_magpie.core.dataclass import dataclass


class KeepAs(Enum):
    """What becomes of a slip.

    NEW: an entry of its own. ADDITION: something added to the entry that is kept from its page already, whose text stays.
    UPDATE: that entry as the page is today.
    """

    NEW, ADDITION, UPDATE = (auto() for _ in range(3))


@dataclass(frozen=True)
class Kept:
    """Status is "kept", "added", "updated" or "known"; step is the number of the step in which that was done."""

    place: str
    place_name: str
    entry_id: int
    title: str
    status: str
    step: int = field(default=0, compare=False)
