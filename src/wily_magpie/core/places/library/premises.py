"""The folder of a library, before it is opened: what it must have, and what it must not be taken for."""

import re
import shutil
from datetime import UTC, datetime
from pathlib import Path

from wily_magpie.core.errors import EnvironmentFailure
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.file_lock import FileLock
from wily_magpie.core.places.write_ahead_log import read_log, set_aside_damaged

DATABASE, SUMS = "library.sqlite", "library.sqlite.sha256"
"""The database; and in a copy, its digest, in the form of `sha256sum`."""
OPENING, WINDOW, OPEN = "opening.lock", "window.lock", "open.lock"
"""Files that are locked: while a library is made, brought up to date or mended, by one process after the other; while it is open
in a window; while it is open at all, by all processes together."""
KEPT = ("files", "pages")
TRIGGER = re.compile(r"(content|c\d+)_\w+")
"""Those by which the tables of texts follow others."""


def make_folders(folder: Path) -> None:
    """Makes the folders of a library.

    Raises:
        EnvironmentFailure: they cannot be made.
    """
    try:
        for part in (*KEPT, "index"):
            (folder / part).mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise EnvironmentFailure(
            "library-unopened",
            f"The library folder {folder} cannot be made: {error.strerror}.",
            "Choose another one.",
        ) from error


def refuse_what_lacks_its_database(folder: Path) -> None:
    """A folder with what a library has kept, and without the file that knows of it, is not made a new library.

    Raises:
        EnvironmentFailure: it is one.
    """
    database = folder / DATABASE
    if database.exists() and database.stat().st_size:
        return
    kept = sum(1 for part in KEPT if (folder / part).is_dir() for _ in (folder / part).iterdir())
    if kept:
        raise EnvironmentFailure(
            "library-missing",
            f"{database} is {'empty' if database.exists() else 'gone'}, and beside it are {kept} kept files.",
            "Bring a copy back (wily-magpie restore FOLDER), or open another folder.",
        )


class OpenDatabase:
    """The database of a library, held open together with other processes.

    Attributes:
        told: what is to be said of how it was found: only who has it alone can tell what its log should have held.
    """

    def __init__(self, folder: Path, *, is_read_only: bool) -> None:
        path = folder / DATABASE
        self.lock = None if is_read_only else FileLock(folder / OPEN)
        before = read_log(path) if self.lock is not None and self.lock.take() else None
        try:
            self.database = Database(path, is_read_only=is_read_only)
            self.told: tuple[EnvironmentFailure, ...] = ()
            if before is not None:
                moment = datetime.now(UTC).strftime("%Y%m%dT%H%M%SZ")
                aside = set_aside_damaged(before, path, self.database.frames_in_log(), moment)
                self.told = (told_of_log(aside),) if aside else ()
            if self.lock is not None:
                self.lock.share()
        except BaseException:
            self.let_go()
            raise

    def let_go(self) -> None:
        """Lets others have it alone; the database is closed by then."""
        if self.lock is not None:
            self.lock.close()


def told_of_log(aside: Path) -> EnvironmentFailure:
    """That the last changes are lost."""
    return EnvironmentFailure(
        "log-damaged",
        f"Changes made last before the program ended may be lost: SQLite's log of them was damaged. It is kept as {aside.name}.",
        "Look at what was done last; wily-magpie restore brings back a copy.",
    )


def told_of_journal(aside: Path) -> EnvironmentFailure:
    """That a step could not be taken back."""
    return EnvironmentFailure(
        "journal-damaged",
        f"Notes may be as a step left them that was not finished: its journal cannot be read. It is kept as {aside.name}.",
        "Compare the notes of that day with a copy; then delete the file.",
    )


def is_bare(folder: Path) -> bool:
    """Whether a folder holds nothing that could be missed."""
    locks, empty = (OPENING, WINDOW, OPEN), (*KEPT, "index")
    children = [path for path in folder.glob("*") if path.name not in locks]
    return all(path.name in empty and not any(path.iterdir()) for path in children)


def staging_of(folder: Path) -> Path:
    """Where a copy of a library is put together, its database last, before it takes the library's place."""
    folder = folder.expanduser().absolute()
    return folder.with_name(f".{folder.name}.restoring")


def finish_restoring(folder: Path) -> None:
    """Ends a restoring that was interrupted when the library was moved aside already and its copy was whole."""
    staging = staging_of(folder)
    is_between = (staging / DATABASE).is_file() and not (folder / DATABASE).exists()
    if is_between and all(is_free(staging / part, folder / part) for part in (*KEPT, "index")):
        take_place(staging, folder)


def is_free(part: Path, there: Path) -> bool:
    """Whether a part of a copy can be moved to its place, or is there already."""
    return not part.is_dir() or not there.is_dir() or not any(there.iterdir())


def clear_up(folder: Path) -> None:
    """Takes away what is of no use in a library that is open.

    That is what a restoring left that was killed before it changed anything; and the digest of a copy, which is not as it was
    copied any more.
    """
    shutil.rmtree(staging_of(folder), ignore_errors=True)
    (folder / SUMS).unlink(missing_ok=True)


def refuse_strange(database: Database) -> None:
    """A database of ours has tables, and triggers by known names; anything else could hold up every question.

    Raises:
        EnvironmentFailure: it has something else.
    """
    rows = database.rows("SELECT type, name, coalesce(sql, '') FROM sqlite_schema")
    for kind, name, sql in rows:
        text = " ".join(str(sql).split()).upper()
        is_ours = {
            "table": not text.startswith("CREATE VIRTUAL") or " USING FTS5" in text,
            "index": True,
            "trigger": bool(TRIGGER.fullmatch(str(name))) and "RECURSIVE" not in text,
        }
        if not is_ours.get(str(kind), False):
            raise EnvironmentFailure(
                "library-strange",
                f"library.sqlite holds the {kind} “{str(name)[:60]}”, as no library of ours does: somebody has put it there.",
                "Bring a copy back (wily-magpie restore FOLDER), or open another library.",
            )


def take_place(staging: Path, folder: Path) -> None:
    """Moves what was put together to where the library is, its database last."""
    folder.mkdir(parents=True, exist_ok=True)
    for part in (*KEPT, "index"):
        if (staging / part).is_dir():
            (staging / part).replace(folder / part)  # over an empty one at most
    (staging / DATABASE).replace(folder / DATABASE)
    staging.rmdir()
