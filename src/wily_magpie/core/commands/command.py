"""What every command is: data that says what is to change, and how the library does it as one step."""

from abc import ABC, abstractmethod
from typing import Generic, TypeVar

from wily_magpie.core.events import Event
from wily_magpie.core.places.library.library import Library

T = TypeVar("T")


class Progress:
    """Whom a command tells how far it is. This one listens to nobody and cancels nothing; a job does both."""

    def tick(self, done: int, total: int) -> None:
        """Told now and then; may raise to end the work, of which nothing stays."""

    def close(self) -> None:
        """Told when all is done and before it is committed: past this, nothing is cancelled. May raise for the last time."""


UNWATCHED = Progress()


class Command(ABC, Generic[T]):
    """One change. Its subclasses are frozen dataclasses; only a session does them, one after another."""

    @abstractmethod
    def label(self, library: Library) -> str:
        """The name of the step that it is."""

    @abstractmethod
    def perform(self, library: Library, progress: Progress) -> T:
        """Does it, as one step; what has to come before the step, such as a new column, is done here."""

    def tells(self) -> tuple[Event, ...]:
        """What happened besides what the step itself tells."""
        return ()


class StepCommand(Command[T]):
    """One that needs nothing before its step."""

    @abstractmethod
    def do(self, library: Library, progress: Progress) -> T:
        """Changes the library, within the step."""

    def perform(self, library: Library, progress: Progress) -> T:
        """Does it as one step."""
        with library.step(self.label(library), progress.close):
            return self.do(library, progress)


class Noted(Command[tuple[T, int]]):
    """Another command, told with the number of the step that it was; 0 where nothing is other than before."""

    def __init__(self, command: Command[T]) -> None:
        self.command = command

    def label(self, library: Library) -> str:
        return self.command.label(library)

    def perform(self, library: Library, progress: Progress) -> tuple[T, int]:
        library.history.noted = 0
        result = self.command.perform(library, progress)
        return result, library.history.noted

    def tells(self) -> tuple[Event, ...]:
        return self.command.tells()
