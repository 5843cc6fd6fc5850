"""Hears what other processes do to the same library: a shell, another window, whatever hands over pages."""

import threading
from collections.abc import Callable

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.faults import logger

PAUSE_S = 0.25
log = logger(__name__)


class Neighbours:
    """Looks now and then whether somebody else has committed anything, which costs next to nothing.

    Args:
        version: a number that is another one whenever somebody else has committed; None where it cannot be told just now.
        changed: called on the thread that looks.
    """

    def __init__(self, version: Callable[[], int | None], changed: Callable[[], object]) -> None:
        self.version = version
        self.changed = changed
        self.ended = threading.Event()
        self.thread = threading.Thread(target=self.listen, name="neighbours", daemon=True)

    def start(self) -> None:
        """Begins to listen."""
        self.thread.start()

    def listen(self) -> None:
        """Until it is closed. What cannot be looked at now is looked at again."""
        seen: int | None = None
        while True:
            try:
                now = self.version()
                if now not in (None, seen):
                    self.changed()  # also at the first look: something may have happened since the library was opened
                    seen = now
            except MagpieError as error:
                log.info("the neighbours could not be heard: %s", error)
            if self.ended.wait(PAUSE_S):
                return

    def close(self) -> None:
        """Ends it."""
        self.ended.set()
        if self.thread.is_alive():
            self.thread.join(timeout=5)
