"""What is done to a library now and then, and is no step."""

from wily_magpie.core.commands.command import Command, Progress
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.places.library.library import Library


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
