"""Commands that move among the steps."""

from collections.abc import Callable

from wily_magpie.core.commands.command import Command, Progress
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.step import Moved, Step
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.library.library import Library

FEW_FILES = 50
"""So many files of notes are read anew at once; more of them, with all others, in the background."""


def stop_lists(library: Library, moved: Moved) -> None:
    """Stops the lists whose filling was taken back, until somebody asks for it."""
    from wily_magpie.core.entries.living_list import lists_in  # not at a start

    for path, filled, empty in library.history.files_of(moved.step, back=True):
        for notes in library.notes_folders():
            if not path.is_relative_to(notes.path):
                continue
            held = [
                {one.key: one.held(text) for one in lists_in(text)}
                for text in ((content or b"").decode("utf-8", "replace") for content in (filled, empty))
            ]
            keys = [key for key in held[1] if held[0].get(key) != held[1][key]]
            library.list_stops.put(notes.key, path.relative_to(notes.path).as_posix(), keys)


def read_anew(library: Library, moved: Moved | None) -> None:
    """Brings the indexes of notes in step with the files that were written."""
    paths = moved.paths if moved is not None else ()
    for notes in library.notes_folders() if paths else ():
        own = [path for path in paths if path.is_relative_to(notes.path)]
        if len(own) > FEW_FILES:
            notes.refresh()
        else:
            notes.look_again(own)


@dataclass(frozen=True)
class MoveInHistory(Command[Moved | None]):
    """What undo and redo have in common.

    Attributes:
        number: of the step; None: the last of this session's origin.
    """

    number: int | None = None

    def moved(self, library: Library, progress: Progress, move: Callable[[], Moved | None]) -> Moved | None:
        """Moves one step."""
        progress.close()  # it is one transaction, which begins now
        moved = move()
        read_anew(library, moved)
        return moved


@dataclass(frozen=True)
class Undo(MoveInHistory):
    """Takes a step back.

    Attributes:
        in_part: what can be taken back is, and what cannot is told.
    """

    in_part: bool = False

    def label(self, _library: Library) -> str:
        return "Undo"

    def perform(self, library: Library, progress: Progress) -> Moved | None:
        moved = self.moved(library, progress, lambda: library.history.undo(self.number, in_part=self.in_part))
        if moved is not None and moved.step.is_filling:
            stop_lists(library, moved)
        return moved


@dataclass(frozen=True)
class Redo(MoveInHistory):
    """Does a step that was undone again."""

    def label(self, _library: Library) -> str:
        return "Redo"

    def perform(self, library: Library, progress: Progress) -> Moved | None:
        return self.moved(library, progress, lambda: library.history.redo(self.number))


@dataclass(frozen=True)
class PassOver(Command[Step]):
    """Leaves what a step did as it is, and lets undo go on behind it."""

    number: int

    def label(self, _library: Library) -> str:
        return "Pass over a step"

    def perform(self, library: Library, progress: Progress) -> Step:
        progress.close()
        return library.history.pass_over(self.number)


@dataclass(frozen=True)
class UndoTo(Command[tuple[int, UserError | None]]):
    """Goes back to the point before a step: takes it and all behind it back, the latest first.

    Stops at the first that cannot be: (how many were taken back, why it stopped or None).
    """

    number: int

    def label(self, _library: Library) -> str:
        return "Go back to a point"

    def perform(self, library: Library, progress: Progress) -> tuple[int, UserError | None]:
        progress.close()  # each step is taken back by itself, and stays so
        steps = [step for step in library.history.steps() if step.id >= self.number and step.state == 0]
        count = 0
        for step in steps:
            progress.tick(count, len(steps))
            try:
                read_anew(library, library.history.undo(step.id))
            except UserError as error:
                return count, error
            count += 1
        return count, None
