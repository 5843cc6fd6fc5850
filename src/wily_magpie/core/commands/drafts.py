"""Commands over drafts. They are no steps: undo concerns what is kept."""

from wily_magpie.core.commands.command import Command, Progress
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import short
from wily_magpie.core.events import DraftsChanged, Event
from wily_magpie.core.places.library.draft_store import StoredDraft
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.templates.slip import Slip


@dataclass(frozen=True)
class SaveDraft(Command[None]):
    """Writes down what was done on a slip; one on which nothing is done any more has no draft."""

    slip: Slip

    def label(self, _library: Library) -> str:
        return f"Draft of “{short(self.slip.title)}”"

    def perform(self, library: Library, _progress: Progress) -> None:
        slip, page = self.slip, self.slip.reading.page
        if slip.by_hand.is_blank:
            library.drafts.drop(page.address)
            return
        title = slip.title or slip.reading.best("title") or page.address
        library.drafts.put(StoredDraft(title, slip.by_hand.to_json(), page, slip.screenshot))

    def tells(self) -> tuple[Event, ...]:
        return (DraftsChanged(),)


@dataclass(frozen=True)
class DropDraft(Command[StoredDraft | None]):
    """Forgets the draft of a page; gives back what it was, so that it can be brought back."""

    address: str

    def label(self, _library: Library) -> str:
        return "Drop a draft"

    def perform(self, library: Library, _progress: Progress) -> StoredDraft | None:
        there = library.drafts.find(self.address)
        library.drafts.drop(self.address)
        return there

    def tells(self) -> tuple[Event, ...]:
        return (DraftsChanged(),)


@dataclass(frozen=True)
class BringDraftBack(Command[None]):
    """A draft that was dropped waits again."""

    draft: StoredDraft

    def label(self, _library: Library) -> str:
        return f"Bring the draft of “{short(self.draft.title)}” back"

    def perform(self, library: Library, _progress: Progress) -> None:
        library.drafts.put(self.draft)

    def tells(self) -> tuple[Event, ...]:
        return (DraftsChanged(),)
