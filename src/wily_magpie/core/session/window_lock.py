"""One window a library: a lock that the system takes away when its owner ends, however that happens."""

import fcntl
import os
from pathlib import Path

from wily_magpie.core.errors import EnvironmentFailure


class WindowLock:
    """Held for as long as a library is open in a window; `is_mine` tells whether it could be had.

    The file also holds what a second window needs to bring up the first: its process and the address that it listens at.
    """

    def __init__(self, folder: Path) -> None:
        self.path = folder / "window.lock"
        try:
            self.file = os.open(self.path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        except OSError as error:
            raise EnvironmentFailure(
                "library-read-only",
                f"{folder} may not be written to: {error.strerror}.",
                "Check the rights of the folder.",
            ) from error
        try:
            fcntl.flock(self.file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            self.is_mine = True
        except OSError:
            self.is_mine = False

    def tell(self, listens_at: str) -> None:
        """Writes down where a second window can reach this one."""
        os.ftruncate(self.file, 0)
        os.pwrite(self.file, listens_at.encode(), 0)

    def told(self) -> str:
        """Where the first window listens; "" where it has not said."""
        return os.pread(self.file, 4096, 0).decode("utf-8", "replace").strip()

    def close(self) -> None:
        """Lets it go."""
        if self.file >= 0:
            os.close(self.file)
            self.file = -1
