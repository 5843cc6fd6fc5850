"""Copying a library whole to another folder, each copy checked."""

import shutil
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.places.library.integrity import digest
from wily_magpie.core.places.library.library import Library


def back_up(library: Library, to: Path, tick: Callable[[int, int], None] | None = None) -> int:
    """BlobStore a library into a folder, and checks each copy; how many files it has. A copy made before is brought up to date.

    Raises:
        UserError: the folder holds something else.
        EnvironmentFailure: the disk refuses, or a copy is not sound.
    """
    to = to.expanduser().absolute()
    if to == library.folder.absolute() or library.folder.absolute() in to.parents:
        raise UserError("backup-inside", "A copy cannot lie inside the library itself.", "Name another folder.")
    if to.is_dir() and any(to.iterdir()) and not (to / "library.sqlite").is_file():
        raise UserError("backup-there", f"{to} holds something that is no library.", "Name a new or empty folder.")
    files = [
        path for part in ("files", "pages") for path in sorted((library.folder / part).glob("*")) if path.is_file()
    ]
    try:
        for part in ("files", "pages", "index"):
            (to / part).mkdir(parents=True, exist_ok=True)
        for number, path in enumerate(files):
            if tick and number % 50 == 0:
                tick(number, len(files))
            copy_one(path, to / path.parent.name / path.name)
        for ending in ("-wal", "-shm"):
            (to / f"library.sqlite{ending}").unlink(missing_ok=True)
        library.database.back_up(to / "library.sqlite")
    except OSError as error:
        for left in to.glob("*/*.part"):
            with suppress(OSError):
                left.unlink()
        raise EnvironmentFailure(
            "backup-failed",
            f"The copy could not be written to {to}: {error.strerror}.",
            "Check the disk and its rights.",
        ) from error
    return len(files) + 1


def copy_one(path: Path, to: Path) -> None:
    """BlobStore a file that is not there yet, and checks the copy."""
    if to.is_file() and to.stat().st_size == path.stat().st_size:
        return
    part = to.with_name(to.name + ".part")
    shutil.copyfile(path, part)
    if digest(part) != digest(path):
        raise EnvironmentFailure("copy-unsound", f"The copy {to} is not sound.", "Check the disk.")
    part.replace(to)
