"""What lies in the trash."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Trashed:
    """One thing in the trash."""

    id: int
    place: str
    title: str
    deleted: str
    """When, as ISO 8601."""
