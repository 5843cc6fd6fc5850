"""Copying a library whole to another folder, each copy checked.

Kept files are called by their digests; that of the database stands beside it, in the form of `sha256sum`.
"""

import os
import shutil
import stat
from collections.abc import Callable, Collection
from contextlib import suppress
from pathlib import Path

from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.places.atomic import write_bytes
from wily_magpie.core.places.library.integrity import CHUNK_BYTES, digest
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.premises import DATABASE, SUMS
from wily_magpie.core.places.own_folders import OwnFolders


def back_up(library: Library, to: Path, tick: Callable[[int, int], None] | None = None) -> int:
    """Copies a library into a folder, and checks each copy; how many files it has. A copy made before is brought up to date.

    Raises:
        UserError: the folder holds something else.
        EnvironmentFailure: the disk refuses, or a copy is not sound.
    """
    to = to.expanduser().absolute()
    if to == library.folder.absolute() or library.folder.absolute() in to.parents:
        raise UserError("backup-inside", "A copy cannot lie inside the library itself.", "Name another folder.")
    if to.is_dir() and any(to.iterdir()) and not (to / DATABASE).is_file():
        raise UserError("backup-there", f"{to} holds something that is no library.", "Name a new or empty folder.")
    try:
        for part in ("files", "pages", "index"):
            (to / part).mkdir(parents=True, exist_ok=True)
        for ending in ("-wal", "-shm"):
            (to / f"library.sqlite{ending}").unlink(missing_ok=True)
        # the database first: files are kept before it knows of them, so that all that this moment of it names is there
        (to / SUMS).unlink(missing_ok=True)
        library.database.back_up(to / DATABASE)
        write_bytes(to / SUMS, f"{digest(to / DATABASE)}  {DATABASE}\n".encode())
        if own := library.own_folders.read():
            OwnFolders(to).allow(own)
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
    return count + sum(1 for path in to.iterdir() if path.is_file())


def copy_files(
    folder: Path, to: Path, tick: Callable[[int, int], None] | None, wanted: Collection[str] | None = None
) -> tuple[int, list[str]]:
    """Copies what is kept; how many files that is, and the names of those that were damaged already.

    Args:
        wanted: digests of those that are copied; None for all.
    """
    files = [path for path in kept_files(folder) if wanted is None or path.name.partition(".")[0] in wanted]
    unsound = []
    for number, path in enumerate(files):
        if tick and number % 50 == 0:
            tick(number, len(files))
        if not copy_one(path, to / path.parent.name / path.name):
            unsound.append(f"{path.parent.name}/{path.name}")
    return len(files), unsound


def kept_files(folder: Path) -> list[Path]:
    """The files beside a database, in order; what is a link is none: it could lead anywhere."""
    parts = [folder / part for part in ("files", "pages") if not (folder / part).is_symlink()]
    return [path for part in parts for path in sorted(part.glob("[!.]*")) if path.is_file() and not path.is_symlink()]


def is_as_copied(copy: Path) -> bool:
    """Whether the database of a copy has the digest that was written down for it; so it is taken to be where there is none."""
    try:
        told = (copy / SUMS).read_text("ascii", "replace").split()
    except OSError:
        return True
    return not told or digest(copy / DATABASE) == told[0]


def copy_one(path: Path, to: Path) -> bool:
    """Copies a file that is not there yet, or is there and not sound; False where it holds something else than its name says.

    Files are called by the SHA-256 of what they hold.
    """
    wanted = path.name.partition(".")[0]
    if to.is_file() and digest(to) == wanted:
        return True
    part = to.with_name(to.name + ".part")
    try:
        with open(path, "rb", opener=without_links) as source, part.open("wb") as target:
            shutil.copyfileobj(source, target, CHUNK_BYTES)
    except FileNotFoundError:  # nothing needs it any more: it was swept away meanwhile
        return True
    found = digest(path)
    if digest(part) != found:
        raise EnvironmentFailure("copy-unsound", f"The copy {to} is not sound.", "Check the disk.")
    part.replace(to)
    return found == wanted


def without_links(path: str, flags: int) -> int:
    """Opens a file that is one: no link, no pipe, no device.

    Raises:
        OSError: it is something else by now.
    """
    opened = os.open(path, flags | os.O_NOFOLLOW | os.O_NONBLOCK)
    if not stat.S_ISREG(os.fstat(opened).st_mode):
        os.close(opened)
        raise OSError(f"{path} is no file.")
    return opened
