"""Commands over drafts. They are no steps: undo concerns what is kept."""

from typing import TYPE_CHECKING

from wily_magpie.core.commands.command import Command, Progress
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import short
from wily_magpie.core.events import DraftsChanged, Event
from wily_magpie.core.places.library.draft_store import StoredDraft
from wily_magpie.core.places.library.library import Library

if TYPE_CHECKING:
    from wily_magpie.core.templates.slip import Slip  # the window begins without any


@dataclass(frozen=True)
class SaveDraft(Command[None]):
    """Writes down what was done on a slip; one on which nothing is done any more has no draft."""

    slip: "Slip"

    def label(self, _library: Library) -> str:
        return f"Draft of “{short(self.slip.title)}”"

    def perform(self, library: Library, _progress: Progress) -> None:
        slip, page = self.slip, self.slip.reading.page
        if slip.by_hand.is_blank:
            library.drafts.remove(page.address)
            return
        title = slip.title or slip.reading.best("title") or page.address
        library.drafts.put(StoredDraft(title, slip.by_hand.to_json(), page, slip.screenshot))

    def tells(self) -> tuple[Event, ...]:
        return (DraftsChanged(),)


@dataclass(frozen=True)
class DropDraft(Command[None]):
    """Drops the draft of a page, or brings back one that was dropped since the library was opened."""

    address: str
    is_dropped: bool = True

    def label(self, _library: Library) -> str:
        return "Drop a draft" if self.is_dropped else "Bring a draft back"

    def perform(self, library: Library, _progress: Progress) -> None:
        library.drafts.set_dropped(self.address, is_dropped=self.is_dropped)

    def tells(self) -> tuple[Event, ...]:
        return (DraftsChanged(),)
