"""Commands by which a table from a file arrives: see places.library.arriving."""

from collections.abc import Mapping, Sequence
from dataclasses import field

from wily_magpie.core.commands.command import Command, Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Draft
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.places.library import arriving
from wily_magpie.core.places.library.library import Library


@dataclass(frozen=True)
class BeginTable(Command[int]):
    """Makes a collection that nobody sees yet; its number."""

    name: str
    plans: Sequence[FieldPlan]

    def label(self, _library: Library) -> str:
        return f"Begin to take in {self.name}"

    def perform(self, library: Library, _progress: Progress) -> int:
        library.free_name(self.name)  # said before the work, not after it
        return arriving.begin(library, self.plans)


@dataclass(frozen=True)
class AddRows(Command[None]):
    """Brings some rows in."""

    number: int
    drafts: Sequence[Draft]

    def label(self, _library: Library) -> str:
        return f"Take in {len(self.drafts)} rows"

    def perform(self, library: Library, _progress: Progress) -> None:
        arriving.add(library, self.number, self.drafts)


@dataclass(frozen=True)
class FinishTable(StepCommand[PlaceInfo]):
    """Lets the collection be seen, with the options that its values are.

    Attributes:
        options: names of options by the key of their field.
    """

    number: int
    name: str
    options: Mapping[str, Sequence[str]] = field(default_factory=dict)

    def label(self, _library: Library) -> str:
        return f"Take in {self.name}"

    def do(self, library: Library, _progress: Progress) -> PlaceInfo:
        place = arriving.finish(library, self.number, self.name)
        for key, names in self.options.items():
            library.fields.add_options(place.key, key, names)
        return library.place(place.key).info


@dataclass(frozen=True)
class DropRows(Command[bool]):
    """Takes some rows of a table that was given up away again; whether there are more."""

    number: int

    def label(self, _library: Library) -> str:
        return "Give a table up"

    def perform(self, library: Library, _progress: Progress) -> bool:
        return arriving.drop_some(library, self.number)
