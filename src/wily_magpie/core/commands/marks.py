"""Commands over the marks of entries."""

from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.mark import Mark, bare
from wily_magpie.core.places.library.library import Library


@dataclass(frozen=True)
class PutMark(StepCommand[None]):
    """Adds a mark to an entry, or changes its comment and kind."""

    place: str
    entry_id: int
    mark: Mark

    def label(self, library: Library) -> str:
        return f"Mark in “{short(library.place(self.place).title_of(self.entry_id))}”"

    def do(self, library: Library, _progress: Progress) -> None:
        place = library.place(self.place)
        entry = place.entry(self.entry_id)
        text = bare(entry.body or "") if entry is not None else ""
        library.marks.put(self.place, place.owner_of(self.entry_id), (self.mark,), text)


@dataclass(frozen=True)
class ChangeMark(StepCommand[None]):
    """Gives a mark of an entry another extent, kind or comment."""

    place: str
    entry_id: int
    old: Mark
    fresh: Mark

    def label(self, library: Library) -> str:
        return f"Change a mark of “{short(library.place(self.place).title_of(self.entry_id))}”"

    def do(self, library: Library, _progress: Progress) -> None:
        place = library.place(self.place)
        owner, entry = place.owner_of(self.entry_id), place.entry(self.entry_id)
        text = bare(entry.body or "") if entry is not None else ""
        library.marks.change(self.place, owner, self.old, self.fresh, text)


@dataclass(frozen=True)
class RemoveMark(StepCommand[None]):
    """Takes a mark away from an entry."""

    place: str
    entry_id: int
    mark: Mark

    def label(self, library: Library) -> str:
        return f"Remove a mark of “{short(library.place(self.place).title_of(self.entry_id))}”"

    def do(self, library: Library, _progress: Progress) -> None:
        library.marks.remove(self.place, library.place(self.place).owner_of(self.entry_id), self.mark)
