"""The window's end of its door: what comes from outside, on threads of its own, is told to the window on the interface's."""

from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from wily_magpie.core.companion.browsers import Companion
from wily_magpie.core.companion.desk import CompanionDesk
from wily_magpie.core.companion.door import Door
from wily_magpie.core.companion.scheme import Visit
from wily_magpie.core.errors import EnvironmentFailure
from wily_magpie.core.session.session import Session


class FrontDoor(QObject):
    """See the module.

    Signals:
        shown: the window is to come up; visited: an address is to be opened; entry_asked: an entry is.
    """

    shown = pyqtSignal()
    visited = pyqtSignal(object)
    entry_asked = pyqtSignal(str, int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.desk = CompanionDesk(session, self, Companion().hear)
        self.door: Door | None = None

    def listen(self) -> Path:
        """Opens the door, which touches the disk; where it is.

        Raises:
            EnvironmentFailure: there is no folder for it.
        """
        try:
            self.door = Door(self.desk.answer)
        except OSError as error:
            raise EnvironmentFailure("no-door", f"Browsers cannot reach this window: {error}.") from error
        return self.door.path

    def come_up(self) -> None:
        """The window is to come up."""
        self.shown.emit()

    def open_address(self, visit: Visit) -> None:
        """An address is to be opened."""
        self.shown.emit()
        self.visited.emit(visit)

    def open_entry(self, place: str, entry_id: int) -> None:
        """An entry is to be shown."""
        self.shown.emit()
        self.entry_asked.emit(place, entry_id)

    def close(self) -> None:
        """Lets nobody in any more; pictures that are waited for are fetched."""
        if self.door is not None:
            self.door.close()
        self.desk.close()
