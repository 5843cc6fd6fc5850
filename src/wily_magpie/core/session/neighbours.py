"""Hears what other processes do to the same library: a shell, another window, whatever hands over pages."""

import threading
from collections.abc import Callable

from wily_magpie.core.errors import MagpieError

PAUSE_S = 0.25


class Neighbours:
    """Looks now and then whether somebody else has committed anything, which costs next to nothing.

    Args:
        version: a number that is another one whenever anybody has committed; asked on one thread only.
        changed: called on that thread.
    """

    def __init__(self, version: Callable[[], int], changed: Callable[[], object]) -> None:
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
        while not self.ended.wait(PAUSE_S):
            try:
                now = self.version()
                if seen is not None and now != seen:
                    self.changed()
                seen = now
            except MagpieError:
                continue

    def close(self) -> None:
        """Ends it."""
        self.ended.set()
        if self.thread.is_alive():
            self.thread.join(timeout=5)
