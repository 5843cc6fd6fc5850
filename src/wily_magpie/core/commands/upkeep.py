"""What is done to a library now and then, and is no step."""

from wily_magpie.core.commands.command import Command, Progress
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.query.nodes import Question


@dataclass(frozen=True)
class Sweep(Command[int]):
    """Removes files that were written but never told to the database, how many; and drafts that were dropped."""

    def label(self, _library: Library) -> str:
        return "Clear up"

    def perform(self, library: Library, _progress: Progress) -> int:
        library.drafts.sweep()
        return library.blobs.sweep()


@dataclass(frozen=True)
class ForgetSteps(Command[None]):
    """What is there now is where history begins."""

    def label(self, _library: Library) -> str:
        return "Forget all steps"

    def perform(self, library: Library, _progress: Progress) -> None:
        library.history.forget()


@dataclass(frozen=True)
class EmptyFiling(Command[None]):
    """Forgets all that filing by what was filed before has learned; it begins anew with what is kept from now on. No step."""

    def label(self, _library: Library) -> str:
        return "Forget what filing has learned"

    def perform(self, library: Library, _progress: Progress) -> None:
        last = {
            place.key: max(place.listing(Question()).ids, default=0) for place in library.places() if not place.is_away
        }
        library.filing.empty(last)
