"""Who captures a list: one process at a time, however that one ends."""

from contextlib import closing
from pathlib import Path

from wily_magpie.core.places.file_lock import FileLock


def list_lock(folder: Path, number: int) -> FileLock:
    """What whoever captures a list of a library holds meanwhile."""
    return FileLock(folder / f"list-{number}.lock")


def is_going(folder: Path, number: int) -> bool:
    """Whether somebody is capturing a list, in whichever process."""
    with closing(list_lock(folder, number)) as lock:
        if not lock.take():
            return True
        lock.path.unlink(missing_ok=True)
    return False
