"""Bringing a copy of a library back: looked at first, checked, and never over what is there without keeping that aside."""

import shutil
from collections.abc import Mapping
from contextlib import closing, suppress
from datetime import UTC, datetime
from pathlib import Path

from wily_magpie.core.commands.command import UNWATCHED, Progress
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import EnvironmentFailure, MagpieError, UserError
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.file_lock import FileLock
from wily_magpie.core.places.library.backup import copy_files, is_as_copied, kept_files
from wily_magpie.core.places.library.integrity import counted, digest, is_current, named_files
from wily_magpie.core.places.library.premises import (
    DATABASE,
    KEPT,
    OPEN,
    WINDOW,
    is_bare,
    refuse_strange,
    staging_of,
    take_place,
)
from wily_magpie.core.places.own_folders import OwnFolders


@dataclass(frozen=True)
class CopyLook:
    """What a copy holds, and what would become of the library that is there.

    Attributes:
        made: when the copy was last brought up to date, ISO 8601; "" where that is not known.
        places: entries by name of collection; empty where the copy is of an earlier version of the program.
        missing: names of kept files that the copy itself lacks.
        damaged: those that hold something else than was copied; the database among them.
        here: entries by name of collection in the library that is there; None where there is none, or it cannot be read.
        aside: the folder that the library that is there would be moved to; None where there is nothing to move.
    """

    copy: Path
    made: str
    places: Mapping[str, int]
    missing: tuple[str, ...]
    here: Mapping[str, int] | None
    aside: Path | None
    damaged: tuple[str, ...] = ()
    strays: int = 0
    """How many files are in it that its database does not name; they are left out."""

    @property
    def told_damaged(self) -> str:
        """What is said of damaged files, or ""."""
        if not self.damaged:
            return ""
        files = "One file of the copy is" if len(self.damaged) == 1 else f"{len(self.damaged):,} files of the copy are"
        way_out = "What could be read of it is there; take an earlier copy if you have one."
        return f"{files} not what was copied, such as {self.damaged[0]}: damaged or changed since. {way_out}"


def look_at_copy(copy: Path, folder: Path, progress: Progress = UNWATCHED) -> CopyLook:
    """What bringing a copy back would do; nothing is changed. Each of its files is held against its digest.

    Raises:
        UserError: it is no copy of a library.
        EnvironmentFailure: its database is damaged, or of a newer version of the program.
    """
    copy, folder = copy.expanduser().absolute(), folder.expanduser().absolute()
    database = copy / DATABASE
    if not database.is_file() or database.is_symlink() or not database.stat().st_size:
        raise UserError("no-copy", f"There is no copy of a library in {copy}.", "Name the folder that was copied to.")
    if copy == folder or copy in folder.parents or folder in copy.parents:
        raise UserError(
            "copy-inside", f"{copy} is the library itself, or lies in it or around it.", "Name another folder."
        )
    with closing(Database(database, is_read_only=True)) as opened:
        refuse_strange(opened)
        faults = opened.faults()
        if faults:
            raise EnvironmentFailure(
                "copy-unsound", f"The copy {copy} is damaged: {faults[0]}.", "Take an earlier one."
            )
        places, names = counted(opened), set(named_files(opened)) if is_current(opened) else set()
    kept = kept_files(copy)
    there = {path.name.partition(".")[0] for path in kept}
    damaged = [] if is_as_copied(copy) else [DATABASE]
    for number, path in enumerate(kept):
        progress.tick(number, len(kept))
        if path.name.partition(".")[0] in (names or there) and digest(path) != path.name.partition(".")[0]:
            damaged.append(f"{path.parent.name}/{path.name}")
    here = None
    with suppress(MagpieError, OSError):
        if (folder / DATABASE).is_file():
            with closing(Database(folder / DATABASE, is_read_only=True)) as opened:
                here = counted(opened)
    made = datetime.fromtimestamp(database.stat().st_mtime, UTC).strftime("%Y-%m-%dT%H:%MZ")
    missing = tuple(sorted(names - there))
    aside = None if is_bare(folder) else aside_of(folder)
    strays = sum(path.name.partition(".")[0] not in names for path in kept) if names else 0
    return CopyLook(copy, made, places, missing, here, aside, tuple(damaged), strays)


def aside_of(folder: Path) -> Path:
    """Where a library that is there is moved to."""
    stem = f"{folder.name} before {datetime.now(UTC):%Y-%m-%d %H%M}"
    names = [stem, *(f"{stem} ({number})" for number in range(2, 100))]
    return next(folder.with_name(name) for name in names if not folder.with_name(name).exists())


def restore(copy: Path, folder: Path, progress: Progress = UNWATCHED) -> CopyLook:
    """Brings a copy back. What is there is moved aside, whole; where anything fails, all is as it was.

    Raises:
        UserError, EnvironmentFailure: as for looking, or because the library is open somewhere, or the disk refuses.
    """
    look = look_at_copy(copy, folder, progress)
    folder, staging = folder.expanduser().absolute(), staging_of(folder)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with closing(FileLock(folder / WINDOW)) as window, closing(FileLock(folder / OPEN)) as open_anywhere:
            if not window.take() or not open_anywhere.take():
                raise EnvironmentFailure(
                    "library-open", f"The library in {folder} is open.", "Close its windows and try again."
                )
            own = OwnFolders(folder).read() | OwnFolders(look.copy).read()
            stage(look.copy, staging, progress)
            move_in(staging, folder, look.aside)
            OwnFolders(folder).allow(own)  # what this person has set up, and no more
    except OSError as error:
        raise EnvironmentFailure(
            "restore-failed", f"The copy could not be brought back to {folder}: {error.strerror}.",
            "Check the disk and its rights; nothing was changed.",
        ) from error  # fmt: skip
    finally:
        shutil.rmtree(staging, ignore_errors=True)
    return look


def stage(copy: Path, staging: Path, progress: Progress) -> None:
    """Puts the copy together beside the library, each file held against its digest, the database last: then it is whole."""
    shutil.rmtree(staging, ignore_errors=True)  # of a restoring that was killed
    for part in (*KEPT, "index"):
        (staging / part).mkdir(parents=True)
    with closing(Database(copy / DATABASE, is_read_only=True)) as database:
        wanted = set(named_files(database)) if is_current(database) else None
        copy_files(copy, staging, progress.tick, wanted)
        database.back_up(staging / DATABASE)


def move_in(staging: Path, folder: Path, aside: Path | None) -> None:
    """Has what was put together take the library's place; killed in between, the next start ends it."""
    if aside is not None:
        folder.rename(aside)
    try:
        take_place(staging, folder)
    except OSError:
        if aside is not None:
            shutil.rmtree(folder, ignore_errors=True)
            aside.rename(folder)
        raise
