"""Drafts that wait."""

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.waiting import WaitingDraft
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.stored_json import read_object
from wily_magpie.core.templates.by_hand import ByHand


@dataclass(frozen=True)
class FoundDraft:
    """A draft with its page, as it was seen."""

    hand: ByHand
    page: Page
    screenshot: bytes


class DraftQueries:
    """See the module."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def waiting(self) -> list[WaitingDraft]:
        """All of them, the one touched last first."""
        return self._library.drafts.all()

    def find(self, address: str) -> FoundDraft | None:
        """The draft of a page; None where none waits."""
        stored = self._library.drafts.find(address)
        if stored is None:
            return None
        return FoundDraft(ByHand.from_plain(read_object(stored.by_hand)), stored.page, stored.screenshot)
