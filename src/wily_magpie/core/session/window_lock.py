"""One window a library: a lock that the system takes away when its owner ends, however that happens."""

from pathlib import Path

from wily_magpie.core.places.file_lock import FileLock
from wily_magpie.core.places.library.premises import WINDOW


class WindowLock:
    """Held for as long as a library is open in a window; `is_mine` tells whether it could be had.

    The file also holds what a second window needs to bring up the first: the address that it listens at.
    """

    def __init__(self, folder: Path) -> None:
        self.lock = FileLock(folder / WINDOW)
        self.is_mine = self.lock.take()

    def tell(self, listens_at: str) -> None:
        """Writes down where a second window can reach this one."""
        self.lock.write(listens_at)

    def told(self) -> str:
        """Where the first window listens; "" where it has not said."""
        return self.lock.read()

    def close(self) -> None:
        """Lets it go."""
        self.lock.close()
