"""Commands of reading that are no steps: undo concerns what is kept."""

from wily_magpie.core.commands.command import Command, Progress
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.places.library.library import Library


@dataclass(frozen=True)
class NoteStop(Command[None]):
    """Notes where one stopped in the text of an entry; of one that is gone nothing is noted.

    Attributes:
        position: letters of the text that stand above; of a file its page from 1 on, or seconds.
        file: the value of a file of the entry; "" for its text.
    """

    place: str
    entry_id: int
    position: int
    file: str = ""

    def label(self, _library: Library) -> str:
        return "Note where one stopped"

    def perform(self, library: Library, _progress: Progress) -> None:
        place = library.place(self.place)
        if place.rows([self.entry_id]):
            library.stops.put(self.place, place.owner_of(self.entry_id), self.position, self.file)
