"""Commands over what becomes of marks: gathered for a chapter, and used in texts."""

from collections.abc import Sequence

from wily_magpie.core.commands.command import Command, Progress, StepCommand
from wily_magpie.core.commands.notes import WriteJournal
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Draft, short
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.library.library import Library


def counted(marks: Sequence[int]) -> str:
    """Marks in the name of a step."""
    return "a mark" if len(marks) == 1 else f"{len(marks)} marks"


@dataclass(frozen=True)
class ChapterCommand(StepCommand[None]):
    """One over the marks gathered for a chapter: an entry of any place, such as a note."""

    place: str
    entry_id: int
    marks: Sequence[int]

    def title(self, library: Library) -> str:
        """Of the chapter, in the name of a step."""
        return f"“{short(library.place(self.place).title_of(self.entry_id))}”"

    def owner(self, library: Library) -> str:
        """By what marks know the chapter."""
        return library.place(self.place).owner_of(self.entry_id)


@dataclass(frozen=True)
class GatherMarks(ChapterCommand):
    """Adds marks to a chapter, behind those that are there.

    Attributes:
        order: in which all of them stand from then on; () for as they come.
    """

    order: Sequence[int] = ()

    def label(self, library: Library) -> str:
        return f"Add {counted(self.marks)} to {self.title(library)}"

    def do(self, library: Library, _progress: Progress) -> None:
        library.mark_uses.gather(self.place, self.owner(library), self.marks)
        if self.order:
            library.mark_uses.order(self.place, self.owner(library), self.order)


@dataclass(frozen=True)
class LeaveMarks(ChapterCommand):
    """Takes marks out of a chapter."""

    def label(self, library: Library) -> str:
        return f"Take {counted(self.marks)} out of {self.title(library)}"

    def do(self, library: Library, _progress: Progress) -> None:
        library.mark_uses.leave(self.place, self.owner(library), self.marks)


@dataclass(frozen=True)
class OrderMarks(ChapterCommand):
    """Puts the marks of a chapter into an order."""

    def label(self, library: Library) -> str:
        return f"Order the marks of {self.title(library)}"

    def do(self, library: Library, _progress: Progress) -> None:
        library.mark_uses.order(self.place, self.owner(library), self.marks)


@dataclass(frozen=True)
class WriteDraft(ChapterCommand):
    """Writes quotations behind the text of a chapter; the marks are used there.

    Attributes:
        text: Markdown.
    """

    text: str = ""

    def label(self, library: Library) -> str:
        return f"Write {counted(self.marks)} into {self.title(library)}"

    def do(self, library: Library, _progress: Progress) -> None:
        place = library.place(self.place)
        entry = place.entry(self.entry_id)
        if entry is None:
            raise UserError("no-entry", "The chapter is gone.", "Choose another one, or bring it back from the trash.")
        before = (entry.body or "").rstrip()
        place.change(self.entry_id, {}, f"{before}\n\n{self.text.strip()}\n" if before else f"{self.text.strip()}\n")
        library.mark_uses.note(self.marks, place.key, self.owner(library), entry.title)


@dataclass(frozen=True)
class UseMarks(Command[None]):
    """Notes that marks were used outside: copied, or dragged into another program. It is no step: who copies changes nothing."""

    marks: Sequence[int]

    def label(self, _library: Library) -> str:
        return f"Use {counted(self.marks)}"

    def perform(self, library: Library, _progress: Progress) -> None:
        library.mark_uses.note(self.marks, "", "", "")


@dataclass(frozen=True)
class MarksIntoJournal(StepCommand[int]):
    """Writes quotations into today's page of a notes folder, as the folder has it; the marks are used there. Its id."""

    place: str
    text: str
    marks: Sequence[int]

    def label(self, library: Library) -> str:
        return f"Write {counted(self.marks)} into today's page of {library.place(self.place).name}"

    def do(self, library: Library, progress: Progress) -> int:
        page = WriteJournal(self.place, self.text).do(library, progress)
        place = library.place(self.place)
        library.mark_uses.note(self.marks, place.key, place.owner_of(page.id), page.title)
        return page.id


@dataclass(frozen=True)
class NoteFromMarks(StepCommand[int]):
    """A new note, or entry, with quotations; the marks are used there. Its id."""

    place: str
    title: str
    text: str
    marks: Sequence[int]

    def label(self, _library: Library) -> str:
        return f"New note “{short(self.title)}” from {counted(self.marks)}"

    def do(self, library: Library, _progress: Progress) -> int:
        place = library.place(self.place)
        wanted = library.resolve(place, library.defaults(place))
        made = place.add(Draft(self.title, wanted, f"{self.text.strip()}\n"))
        library.mark_uses.note(self.marks, place.key, place.owner_of(made), self.title)
        return made
