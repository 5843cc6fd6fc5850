"""Files that a step has written before the database has the step: put back, if the program ends in between.

Each step that writes files of notes keeps a journal, a line a file, which is on the disk before the file is touched. The
step's token goes into the database in the same transaction as its changes: a journal whose token is not there belongs to a
step that never happened.

Several processes may be at work on one library. Whoever writes a journal holds a lock on it that ends with the process; so
whoever opens the library touches only journals that nobody holds, and does so within a transaction of its own.
"""

import base64
import fcntl
import json
import os
from collections.abc import Callable
from pathlib import Path

from wily_magpie.core.errors import EnvironmentFailure
from wily_magpie.core.places.atomic import TEMPORARY, make_folder, read_bytes, sha256_of, sync_folder, write_bytes
from wily_magpie.core.places.database import Database

KEPT_TOKENS = 64
PREFIX, SET_ASIDE = "unfinished-", "set-aside-"
"""What journals are called; and those that are no good, which are kept to be looked at."""


class Journal:
    """Of one step; made with the first file that it writes."""

    def __init__(self, folder: Path) -> None:
        self.token = os.urandom(8).hex()
        self.path = folder / f"{PREFIX}{self.token}"
        self.file: int | None = None

    def note(self, path: Path, before: bytes | None, after: bytes | None) -> None:
        """Writes down what a file was, before it is changed."""
        if self.file is None:
            self.file = os.open(self.path, os.O_WRONLY | os.O_CREAT | os.O_APPEND | os.O_CLOEXEC, 0o600)
            fcntl.flock(self.file, fcntl.LOCK_EX)
            sync_folder(self.path.parent)
        line = {"path": str(path), "before": encode(before), "after": digest(after)}
        os.write(self.file, (json.dumps(line) + "\n").encode())
        os.fsync(self.file)

    def finish(self, database: Database) -> None:
        """Tells the database, as part of the step's transaction, that the step has happened."""
        if self.file is not None:
            with database.writing() as connection:
                connection.execute("INSERT INTO finished_step (token) VALUES (?)", (self.token,))
                connection.execute(
                    "DELETE FROM finished_step WHERE id <= (SELECT max(id) FROM finished_step) - ?", (KEPT_TOKENS,)
                )

    def close(self) -> None:
        """Throws the journal away, after the transaction has ended one way or the other."""
        if self.file is not None:
            self.path.unlink(missing_ok=True)
            os.close(self.file)
            self.file = None


def roll_back_unfinished(folder: Path, database: Database, may_write: Callable[[Path], bool]) -> int:
    """Takes back the files of steps that never happened and whose process has ended; how many files they were.

    Journals are made by whoever holds the database's lock, and held from then on. So that nobody waits for the other in a circle,
    no journal is held here while that lock is waited for: it is looked whether any is free, and looked again with the lock.
    """
    if not any(is_free(journal) for journal in folder.glob(f"{PREFIX}*")):
        return 0
    with database.writing():
        return sum(
            roll_back(journal, database, may_write) for journal in sorted(folder.glob(f"{PREFIX}*")) if is_free(journal)
        )


def is_free(journal: Path) -> bool:
    """Whether the process that wrote a journal has ended."""
    try:
        file = os.open(journal, os.O_RDONLY | os.O_CLOEXEC)
    except FileNotFoundError:  # its step has ended meanwhile
        return False
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:  # its process lives, and is in the middle of the step
        return False
    finally:
        os.close(file)
    return True


def roll_back(journal: Path, database: Database, may_write: Callable[[Path], bool]) -> int:
    """Takes back the files of one journal that nobody holds, unless its step has happened; how many they were."""
    count = 0
    token = journal.name.removeprefix(PREFIX)
    if database.one("SELECT 1 FROM finished_step WHERE token = ?", (token,)) is None:
        lines = (read_bytes(journal) or b"").decode("utf-8", "replace").splitlines()
        for number, line in reversed(list(enumerate(lines, 1))):
            try:
                count += roll_back_file(json.loads(line), may_write)
            except (ValueError, TypeError, KeyError, AttributeError, OSError, EnvironmentFailure):
                if number < len(lines):  # the last line may be torn: its file was not touched
                    journal.rename(journal.with_name(journal.name.replace(PREFIX, SET_ASIDE)))
                    return count
    journal.unlink(missing_ok=True)
    return count


def roll_back_file(line: dict[str, str | None], may_write: Callable[[Path], bool]) -> int:
    """Makes a file what it was, if it still is what the step made of it; 1 where it was changed.

    Raises:
        ValueError: it lies where no step of ours writes.
    """
    path = Path(str(line["path"]))
    if not may_write(path):
        raise ValueError(line["path"])
    if digest(read_bytes(path)) != line["after"]:
        return 0
    before = line["before"]
    if before is None:
        path.unlink(missing_ok=True)
    else:
        make_folder(path.parent)
        write_bytes(path, base64.b64decode(before, validate=True))
    return 1


def encode(content: bytes | None) -> str | None:
    """Bytes as text."""
    return None if content is None else base64.b64encode(content).decode()


def digest(content: bytes | None) -> str | None:
    """What bytes are known by; None for no file."""
    return None if content is None else sha256_of(content)


def sweep(folder: Path, known: set[str]) -> int:
    """Removes files that nothing knows, left by a program that ended between writing one and telling the database.

    Args:
        known: the names, without endings, of those that belong here.
    """
    count = 0
    with os.scandir(folder) as entries:
        for entry in entries:
            if entry.is_file() and (TEMPORARY in entry.name or entry.name.partition(".")[0] not in known):
                Path(entry.path).unlink(missing_ok=True)
                count += 1
    return count
