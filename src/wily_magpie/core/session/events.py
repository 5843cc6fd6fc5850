"""What happened, in the past tense; an event never says what to redraw."""

from dataclasses import dataclass


@dataclass(frozen=True)
class EntriesChanged:
    """Entries of a place were added, changed or removed; ids is empty where it could be any."""

    place: str
    ids: tuple[int, ...] = ()


@dataclass(frozen=True)
class PlacesChanged:
    """Places, their fields or views are others now."""


@dataclass(frozen=True)
class HistoryChanged:
    """What undo and redo would do is something else now."""


@dataclass(frozen=True)
class JobChanged:
    """A job began, moved on or ended."""

    number: int


@dataclass(frozen=True)
class PicturesKept:
    """Pictures of an entry arrived in the library."""

    place: str


@dataclass(frozen=True)
class TemplatesChanged:
    """Templates, their order or their samples are others now."""


Event = EntriesChanged | PlacesChanged | HistoryChanged | JobChanged | PicturesKept | TemplatesChanged
