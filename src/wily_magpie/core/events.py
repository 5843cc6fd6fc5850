"""What happened, in the past tense; an event never says what to redraw."""

from collections.abc import Mapping
from dataclasses import field
from typing import TYPE_CHECKING

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.step import Step
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.places.api import PlaceInfo

if TYPE_CHECKING:
    from wily_magpie.core.entries.capture_list import ListItem
    from wily_magpie.core.entries.kept import Kept


@dataclass(frozen=True)
class Overview:
    """What there is in a library, as far as everybody has to know at any time.

    Attributes:
        undo, redo: the steps that these would take back and do again.
        templates: names, in the order in which they are tried.
        settings: the library's own, by name, as text; what is not among them is as usual.
    """

    places: tuple[PlaceInfo, ...] = ()
    views: tuple[View, ...] = ()
    templates: tuple[str, ...] = ()
    undo: Step | None = None
    redo: Step | None = None
    settings: Mapping[str, str] = field(default_factory=dict)
    is_read_only: bool = False

    def place(self, key: str) -> PlaceInfo:
        """The place of that key or name.

        Raises:
            UserError: there is none.
        """
        found = self.find_place(key)
        if found is None:
            there = ", ".join(place.name for place in self.places)
            raise UserError("unknown-place", f"There is no place “{key}” in this library.", f"There are: {there}.")
        return found

    def find_place(self, key: str) -> PlaceInfo | None:
        """The same; None where there is none."""
        folded = key.casefold()
        return next((place for place in self.places if key == place.key or folded == place.name.casefold()), None)

    def views_of(self, place: str) -> tuple[View, ...]:
        """The views of a place, in order."""
        return tuple(view for view in self.views if view.place == place)


@dataclass(frozen=True)
class Changed:
    """One step was done, undone or done again, by whoever shares the library.

    Attributes:
        step: what it is called, when it was, who did it.
        is_own: whether this session did it just now.
        entries: by the key of their place, those that were added, changed or removed; none named: it could be any of them.
        fields: by the key of the place, the keys of the fields that changed; "body" is the text.
        is_of_places: places, their fields or views are others; is_of_templates: templates or their samples are.
        is_of_settings: settings of the library are.
    """

    step: Step
    is_own: bool
    entries: Mapping[str, frozenset[int]] = field(default_factory=dict)
    fields: Mapping[str, frozenset[str]] = field(default_factory=dict)
    is_of_places: bool = False
    is_of_templates: bool = False
    is_of_settings: bool = False

    @property
    def is_small(self) -> bool:
        """Whether only entries changed, and nothing of what there is."""
        return not (self.is_of_places or self.is_of_templates or self.is_of_settings)


@dataclass(frozen=True)
class OverviewChanged:
    """The overview is another one; told before what changed it."""

    overview: Overview


@dataclass(frozen=True)
class NotesComing:
    """Very many files of a notes folder are being read: so many of them are; done is total when all are."""

    place: str
    done: int
    total: int


@dataclass(frozen=True)
class NotesRead:
    """Files of a notes folder were read anew, since somebody else had changed them.

    Attributes:
        is_of_lists: whether nothing but what living lists hold is another.
    """

    place: str
    is_of_lists: bool = False


@dataclass(frozen=True)
class ListsLeft:
    """A living list of a note was left as it is: somebody wrote into it, or it cannot be filled.

    Attributes:
        state: one of those of core.queries.living; told: why.
    """

    place: str
    path: str
    state: str
    told: str


@dataclass(frozen=True)
class OutOfStep:
    """An entry and its note could not be put together.

    Attributes:
        place: the notes folder; path: of the note, "" where that is not known; entry: its number in the collection.
        is_asked: whether nothing is done until a person says what.
    """

    place: str
    path: str
    entry: int
    told: str
    is_asked: bool = False


@dataclass(frozen=True)
class PicturesKept:
    """Pictures of entries arrived in the library; place "": of any."""

    place: str


@dataclass(frozen=True)
class DraftsChanged:
    """A slip was touched, or a draft is no longer one."""


@dataclass(frozen=True)
class JobChanged:
    """A job began, moved on or ended."""

    number: int


@dataclass(frozen=True)
class ListsChanged:
    """A list of addresses was made, went on or is forgotten.

    Attributes:
        number: of the list; 0: any of them. items: those of it that changed, where that is known.
    """

    number: int = 0
    items: "tuple[ListItem, ...]" = ()


@dataclass(frozen=True)
class KeptOutside:
    """Something was kept from outside the window.

    Attributes:
        by: the browser that it came from, or "".
    """

    kept: "Kept"
    by: str = ""


@dataclass(frozen=True)
class PicturesMissing:
    """Pictures of what was kept from outside the window could not be had."""

    error: MagpieError


Event = (
    Changed
    | OverviewChanged
    | NotesComing
    | NotesRead
    | ListsLeft
    | OutOfStep
    | PicturesKept
    | DraftsChanged
    | ListsChanged
    | JobChanged
    | KeptOutside
    | PicturesMissing
)
