"""Lists of addresses."""

from collections.abc import Sequence

from wily_magpie.core.entries.capture_list import CaptureList, ListItem
from wily_magpie.core.pages.address import canonical
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.list_lock import is_going


class ListQueries:
    """See the module."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def all(self) -> list[CaptureList]:
        """All of them, the latest first."""
        return self._library.lists.all()

    def interrupted(self) -> list[CaptureList]:
        """Those in which something waits and that nobody is capturing, the latest first."""
        folder = self._library.folder
        return [one for one in self._library.lists.all() if one.left and not is_going(folder, one.id)]

    def find(self, number: int) -> CaptureList | None:
        """One of them; None where it is forgotten."""
        return self._library.lists.find(number)

    def items(self, number: int) -> list[ListItem]:
        """The addresses of a list, in their order."""
        return self._library.lists.items(number)

    def is_to_be_read(self, place: str, entry_id: int) -> bool:
        """Whether an entry was kept for later, filled from its page, and not read since."""
        return self._library.lists.is_to_be_read(place, entry_id)

    def kept_of(self, addresses: Sequence[tuple[str, str]]) -> dict[str, str]:
        """By the address, the name of the place that it is kept in already; those that are not are left out."""
        out: dict[str, str] = {}
        places = [place for place in self._library.places() if not place.is_away]
        for address, _ in addresses:
            key = canonical(address)
            found = next((place for place in places if place.known(key) is not None), None) if key else None
            if found is not None:
                out[address] = found.name
        return out
