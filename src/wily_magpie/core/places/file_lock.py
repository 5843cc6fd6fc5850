"""A lock on a file, which the system takes away when its owner ends, however that happens."""

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from wily_magpie.core.errors import EnvironmentFailure


class FileLock:
    """Of one process (and one object in it).

    Raises:
        EnvironmentFailure: the folder may not be written to.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        try:
            self.file = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        except OSError as error:
            raise EnvironmentFailure(
                "library-read-only",
                f"{path.parent} may not be written to: {error.strerror}.",
                "Check the rights of the folder.",
            ) from error

    def take(self, *, waits: bool = False) -> bool:
        """Takes it; False where somebody else has it and one does not wait."""
        try:
            fcntl.flock(self.file, fcntl.LOCK_EX | (0 if waits else fcntl.LOCK_NB))
        except OSError:
            return False
        return True

    def share(self) -> None:
        """Holds it together with others, from being its only owner or not at all."""
        fcntl.flock(self.file, fcntl.LOCK_SH)

    def write(self, text: str) -> None:
        """Writes something down for those who do not get it."""
        os.ftruncate(self.file, 0)
        os.pwrite(self.file, text.encode(), 0)

    def read(self) -> str:
        """What its owner has written down."""
        return os.pread(self.file, 4096, 0).decode("utf-8", "replace").strip()

    def close(self) -> None:
        """Lets it go."""
        if self.file >= 0:
            os.close(self.file)
            self.file = -1


@contextmanager
def one_at_a_time(path: Path) -> Iterator[None]:
    """Lets one process after the other through."""
    lock = FileLock(path)
    try:
        lock.take(waits=True)
        yield
    finally:
        lock.close()
