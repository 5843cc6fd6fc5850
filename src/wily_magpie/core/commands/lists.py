"""Commands over lists of addresses. They are no steps: what a list keeps is, page by page."""

from collections.abc import Sequence
from dataclasses import replace

from wily_magpie.core.commands.command import Command, Progress
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.capture_list import ItemState, ListItem, ListWanted
from wily_magpie.core.events import Event, ListsChanged
from wily_magpie.core.places.library.library import Library


@dataclass(frozen=True)
class MakeList(Command[int]):
    """Makes a list of addresses with their titles; its number."""

    name: str
    addresses: Sequence[tuple[str, str]]
    wanted: ListWanted = ListWanted()

    def label(self, _library: Library) -> str:
        return f"Make the list “{self.name}”"

    def perform(self, library: Library, _progress: Progress) -> int:
        return library.lists.make(self.name, self.wanted, self.addresses)

    def tells(self) -> tuple[Event, ...]:
        return (ListsChanged(),)


@dataclass(frozen=True)
class NoteItems(Command[None]):
    """Writes down how far addresses of a list are."""

    number: int
    items: Sequence[ListItem]

    def label(self, _library: Library) -> str:
        return "Note how far a list is"

    def perform(self, library: Library, _progress: Progress) -> None:
        library.lists.note(self.number, self.items)

    def tells(self) -> tuple[Event, ...]:
        return (ListsChanged(self.number, tuple(self.items)),)


@dataclass(frozen=True)
class WaitAgain(Command[int]):
    """Lets addresses of a list that ended in some states, or some of them, wait once more; how many these are."""

    number: int
    states: Sequence[ItemState] = (ItemState.FAILED,)
    positions: Sequence[int] = ()

    def label(self, _library: Library) -> str:
        return "Try addresses of a list again"

    def perform(self, library: Library, _progress: Progress) -> int:
        there = library.lists.items(self.number)
        again = [
            replace(one, state=ItemState.WAITING, said="")
            for one in there
            if one.state in self.states and (not self.positions or one.position in self.positions)
        ]
        library.lists.note(self.number, again)
        return len(again)

    def tells(self) -> tuple[Event, ...]:
        return (ListsChanged(self.number),)


@dataclass(frozen=True)
class DropList(Command[None]):
    """Forgets a list; what was kept by it stays."""

    number: int

    def label(self, _library: Library) -> str:
        return "Forget a list"

    def perform(self, library: Library, _progress: Progress) -> None:
        library.lists.remove(self.number)

    def tells(self) -> tuple[Event, ...]:
        return (ListsChanged(),)


@dataclass(frozen=True)
class NoteRead(Command[None]):
    """An entry that was kept for later is read; it goes from the list of those."""

    place: str
    entry_id: int

    def label(self, _library: Library) -> str:
        return "Note what is read"

    def perform(self, library: Library, _progress: Progress) -> None:
        library.lists.note_read(self.place, self.entry_id)

    def tells(self) -> tuple[Event, ...]:
        return (ListsChanged(),)
