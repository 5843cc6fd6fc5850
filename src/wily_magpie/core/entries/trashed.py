"""What lies in the trash."""

from wily_magpie.core.dataclass import dataclass


@dataclass(frozen=True)
class Trashed:
    """One thing in the trash."""

    id: int
    place: str
    title: str
    deleted: str
    """When, as ISO 8601."""
