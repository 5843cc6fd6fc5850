"""Undo and redo: every change of data is one step, recorded by the database itself in the same transaction."""

import threading
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

import apsw

from wily_magpie.core.errors import UserError
from wily_magpie.core.places.atomic import read_bytes, write_bytes
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.recovery_journal import Journal
from wily_magpie.core.places.table import now

KEPT_STEPS = 200


@dataclass
class Recording:
    """What a step has changed so far outside the database."""

    journal: Journal
    files: dict[Path, tuple[bytes | None, bytes | None]] = field(default_factory=dict)


class History:
    """The steps of one library.

    Args:
        recorded: names the tables whose changes count, asked for at each step.
        folder: where the journals of steps that write files lie.
    """

    def __init__(self, database: Database, recorded: Callable[[], list[str]], folder: Path) -> None:
        self.database = database
        self.folder = folder
        self.recorded = recorded
        self.local = threading.local()

    @contextmanager
    def step(self, label: str) -> Iterator[None]:
        """Everything inside is one step of that name, all of it or nothing; a step inside a step is part of it."""
        if getattr(self.local, "recording", None) is not None:
            yield
            return
        with self.all_or_nothing() as recording, self.database.writing() as connection:
            session = apsw.Session(connection, "main")
            for table in self.recorded():
                session.attach(table)
            self.local.recording = recording
            try:
                yield
            finally:
                self.local.recording = None
                changes = session.changeset()
                session.close()
            if changes or recording.files:
                self.note(label, changes, recording)
            recording.journal.finish(self.database)

    @contextmanager
    def all_or_nothing(self) -> Iterator[Recording]:
        """Puts files back where the transaction inside fails, even at its very end."""
        recording = Recording(Journal(self.folder))
        try:
            yield recording
        except BaseException:
            for path, (before, _) in recording.files.items():
                put(path, before)
            recording.journal.close()
            raise
        recording.journal.close()

    def note(self, label: str, changes: bytes, recording: Recording) -> None:
        """Writes a step down and forgets those that were undone or are too old."""
        with self.database.writing() as connection:
            forget = "SELECT id FROM history WHERE undone OR id <= (SELECT max(id) FROM history) - ?"
            connection.execute(f"DELETE FROM history_file WHERE history_id IN ({forget})", (KEPT_STEPS,))
            connection.execute(f"DELETE FROM history WHERE id IN ({forget})", (KEPT_STEPS,))
            packed = zlib.compress(changes, 1) if changes else None
            connection.execute("INSERT INTO history (label, at, changeset) VALUES (?, ?, ?)", (label, now(), packed))
            step_id = connection.last_insert_rowid()
            for path, (before, after) in recording.files.items():
                connection.execute("INSERT INTO history_file VALUES (?, ?, ?, ?)", (step_id, str(path), before, after))

    def put_file(self, path: Path, before: bytes | None, after: bytes | None) -> None:
        """Writes a file (None: removes it) as part of the step under way.

        Raises:
            FileExistsError: it was not to be there, and is.
        """
        recording: Recording = self.local.recording
        if before is None and path.exists():
            raise FileExistsError(path)
        recording.journal.note(path, before, after)
        first = recording.files[path][0] if path in recording.files else before
        recording.files[path] = (first, after)
        if before is None and after is not None:
            try:
                write_bytes(path, after, is_new=True)
            except FileExistsError:  # somebody was quicker: it is not ours to take back
                del recording.files[path]
                raise
        else:
            put(path, after)

    def forget(self) -> None:
        """Forgets all steps: what is there now is where history begins."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM history_file")
            connection.execute("DELETE FROM history")

    def undo_label(self) -> str | None:
        """What undo would take back."""
        found = self.database.one("SELECT label FROM history WHERE NOT undone ORDER BY id DESC LIMIT 1")
        return None if found is None else str(found)

    def redo_label(self) -> str | None:
        """What redo would do again."""
        found = self.database.one("SELECT label FROM history WHERE undone ORDER BY id LIMIT 1")
        return None if found is None else str(found)

    def undo(self) -> tuple[str, list[Path]] | None:
        """Takes the last step back: its label and the files written; None where there is none.

        Raises:
            UserError: a file was changed by another program since, or a row is not as the step left it.
        """
        return self.move(
            "SELECT id, label, changeset FROM history WHERE NOT undone ORDER BY id DESC LIMIT 1", back=True
        )

    def redo(self) -> tuple[str, list[Path]] | None:
        """Does the step undone last again."""
        return self.move("SELECT id, label, changeset FROM history WHERE undone ORDER BY id LIMIT 1", back=False)

    def move(self, sql: str, *, back: bool) -> tuple[str, list[Path]] | None:
        with self.all_or_nothing() as recording, self.database.writing() as connection:
            found = self.database.rows(sql)
            if not found:
                return None
            (step_id, label, packed) = found[0]
            files = [
                (Path(str(path)), after if back else before, before if back else after)
                for path, before, after in self.database.rows(
                    "SELECT path, before, after FROM history_file WHERE history_id = ?", (step_id,)
                )
            ]
            for path, expected, _ in files:
                if read_bytes(path) != expected:
                    raise UserError(
                        "undo-file-changed",
                        f"{path.name} was changed by another program since.",
                        "Undo stops here so that nothing of it is lost.",
                    )
            if isinstance(packed, bytes):
                changes = zlib.decompress(packed)
                self.apply(connection, apsw.Changeset.invert(changes) if back else changes)
            for path, expected, wanted in files:
                recording.journal.note(path, as_bytes(expected), as_bytes(wanted))
                recording.files[path] = (as_bytes(expected), as_bytes(wanted))
                put(path, as_bytes(wanted))
            recording.journal.finish(self.database)
            connection.execute("UPDATE history SET undone = ? WHERE id = ?", (int(back), int(str(step_id))))
            return str(label), [path for path, _, _ in files]

    @staticmethod
    def apply(connection: apsw.Connection, changes: bytes) -> None:
        def conflict(reason: int, change: apsw.TableChange) -> int:
            return apsw.SQLITE_CHANGESET_ABORT

        try:
            apsw.Changeset.apply(changes, connection, conflict=conflict, flags=apsw.SQLITE_CHANGESETAPPLY_FKNOACTION)
        except apsw.AbortError as error:
            raise UserError(
                "undo-conflict",
                "What this step changed is no longer as it left it.",
                "It cannot be taken back by itself.",
            ) from error


def as_bytes(stored: object) -> bytes | None:
    """The contents of a file as the database has them; None: not there."""
    return stored if isinstance(stored, bytes) else None


def put(path: Path, content: bytes | None) -> None:
    """Makes a file what it was; None: not there."""
    if content is None:
        path.unlink(missing_ok=True)
    else:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_bytes(path, content)
