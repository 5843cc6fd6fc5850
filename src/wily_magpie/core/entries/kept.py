"""Where a capture went."""

from wily_magpie.core.dataclass import dataclass


@dataclass(frozen=True)
class Kept:
    """Status is "kept", "updated" or "known"."""

    place: str
    place_name: str
    entry_id: int
    title: str
    status: str
