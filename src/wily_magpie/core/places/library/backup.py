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
    try:
        for part in ("files", "pages", "index"):
            (to / part).mkdir(parents=True, exist_ok=True)
        for ending in ("-wal", "-shm"):
            (to / f"library.sqlite{ending}").unlink(missing_ok=True)
        # the database first: files are kept before it knows of them, so that all that this moment of it names is there
        library.database.back_up(to / "library.sqlite")
        count, unsound = copy_files(library.folder, to, tick)
    except OSError as error:
        for left in to.glob("*/*.part"):
            with suppress(OSError):
                left.unlink()
        raise EnvironmentFailure(
            "backup-failed",
            f"The copy could not be written to {to}: {error.strerror}.",
            "Check the disk and its rights.",
        ) from error
    if unsound:
        raise EnvironmentFailure(
            "kept-unsound",
            f"The copy is whole, but {len(unsound)} of its files were damaged in the library already, such as {unsound[0]}.",
            "Take them from an earlier copy.",
        )
    return count + 1


def copy_files(folder: Path, to: Path, tick: Callable[[int, int], None] | None) -> tuple[int, list[str]]:
    """Copies what is kept; how many files that is, and the names of those that were damaged already."""
    files = [path for part in ("files", "pages") for path in sorted((folder / part).glob("[!.]*")) if path.is_file()]
    unsound = []
    for number, path in enumerate(files):
        if tick and number % 50 == 0:
            tick(number, len(files))
        if not copy_one(path, to / path.parent.name / path.name):
            unsound.append(f"{path.parent.name}/{path.name}")
    return len(files), unsound


def copy_one(path: Path, to: Path) -> bool:
    """Copies a file that is not there yet, or is there and not sound; False where it holds something else than its name says.

    Files are called by the SHA-256 of what they hold.
    """
    wanted = path.name.partition(".")[0]
    if to.is_file() and digest(to) == wanted:
        return True
    part = to.with_name(to.name + ".part")
    try:
        shutil.copyfile(path, part)
    except FileNotFoundError:  # nothing needs it any more: it was swept away meanwhile
        return True
    found = digest(path)
    if digest(part) != found:
        raise EnvironmentFailure("copy-unsound", f"The copy {to} is not sound.", "Check the disk.")
    part.replace(to)
    return found == wanted
