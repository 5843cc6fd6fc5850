"""Undo and redo: every change of data is one step, recorded by the database itself in the same transaction.

Several processes may share a library: a step knows who did it. Undo without a number takes back the last step of the same
origin, so that a window never takes back what a script has done meanwhile, and a script never takes a window's redo away.
"""

import threading
import zlib
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from enum import IntEnum
from io import BytesIO
from pathlib import Path

import apsw

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.step import BY_ITSELF, Moved, Step
from wily_magpie.core.errors import EnvironmentFailure, StuckStep, UserError
from wily_magpie.core.places.atomic import make_folder, read_bytes, remove_file, write_bytes
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.recovery_journal import Journal
from wily_magpie.core.places.table import now

KEPT_STEPS = 200
OF_THEMSELVES = 50
"""So many of the steps are kept that nobody asked for, such as lists that were filled; they push out nobody's own."""
STEP_COLUMNS = "id, label, at, origin, state"


class StepState(IntEnum):
    """Whether what a step did is there."""

    DONE, UNDONE, PASSED_OVER = range(3)


class Recording:
    """What a step has changed so far outside the database.

    Args:
        before_commit: called when all is done and nothing is committed; may raise to end it.
        origin: who does it.

    Attributes:
        files: (before, after) by path.
    """

    def __init__(self, journal: Journal, before_commit: Callable[[], None] = lambda: None, origin: str = "") -> None:
        self.journal, self.before_commit, self.origin = journal, before_commit, origin
        self.files: dict[Path, tuple[bytes | None, bytes | None]] = {}

    def take_back(self) -> None:
        """Makes files what they were, but for those that another program has written since."""
        for path, (before, after) in self.files.items():
            if read_bytes(path) == after:
                put(path, before, after)


@dataclass(frozen=True)
class StepRecord:
    """A step with what it changed: the database's own changeset, and the paths of files.

    Attributes:
        is_own: whether this process did it just now.
    """

    step: Step
    changeset: bytes
    paths: tuple[Path, ...]
    is_own: bool


@dataclass(frozen=True)
class Seen:
    """How far the history was looked at: (number, state, parts) of the steps."""

    last: int = 0
    states: tuple[tuple[int, int, int], ...] = ()


class History:
    """The steps of one library.

    Args:
        recorded: names the tables whose changes count, asked for at each step.
        folder: where the journals of steps that write files lie.
        origin: who does the steps of this process: "window", "shell".
        may_write: whether a file is one of this library or of a folder that the person has set up; steps change no others.
    """

    def __init__(
        self,
        database: Database,
        recorded: Callable[[], list[str]],
        folder: Path,
        origin: str = "window",
        may_write: Callable[[Path], bool] = lambda _path: True,
    ) -> None:
        self.may_write = may_write
        self.database = database
        self.folder = folder
        self.recorded = recorded
        self.origin = origin
        self.most_steps = KEPT_STEPS
        self.mine: set[tuple[int, int]] = set()
        """(number, state) of what was done through this object."""
        self.noted = 0
        """The number of the step that this object did last; 0 where it changed nothing."""
        self.local = threading.local()

    @contextmanager
    def step(
        self, label: str, before_commit: Callable[[], None] = lambda: None, joins: int = 0, origin: str = ""
    ) -> Iterator[None]:
        """Everything inside is one step of that name, all of it or nothing; a step inside a step is part of it.

        Args:
            joins: the number of a step that this is a late part of; where others came since, it is one of its own.
            origin: who does it, where that is not the person at this window or shell.
        """
        if getattr(self.local, "recording", None) is not None:
            yield
            return
        recording = Recording(Journal(self.folder), before_commit, origin=origin or self.origin)
        self.noted = 0
        try:
            with self.database.writing(recording.take_back) as connection:
                session = apsw.Session(connection, "main")
                for table in self.recorded():
                    session.attach(table)
                self.local.recording = recording
                try:
                    yield
                finally:
                    self.local.recording = None
                    changes = recorded_by(session)
                    session.close()
                if changes or recording.files:
                    self.note(label, changes, recording, joins)
                recording.journal.finish(self.database)
                recording.before_commit()
        finally:
            recording.journal.close()

    def note(self, label: str, changes: bytes, recording: Recording, joins: int) -> None:
        """Writes a step down and forgets those of the same origin that were undone, and those that are too old."""
        with self.database.writing() as connection:
            last = "(SELECT id FROM history WHERE {} ORDER BY id DESC LIMIT 1 OFFSET {})"
            forget = (
                f"SELECT id FROM history WHERE (state = {StepState.UNDONE:d} AND origin = ?1)"
                f" OR id <= {last.format('origin <> ?3', '?2')}"
                f" OR (origin = ?3 AND id <= {last.format('origin = ?3', OF_THEMSELVES - 1)})"
            )
            given = (recording.origin, self.most_steps - (recording.origin != BY_ITSELF), BY_ITSELF)
            connection.execute(f"DELETE FROM history_file WHERE history_id IN ({forget})", given)
            connection.execute(f"DELETE FROM history WHERE id IN ({forget})", given)
            latest = self.database.rows(f"SELECT {STEP_COLUMNS} FROM history ORDER BY id DESC LIMIT 1")
            whole = read_step(latest[0]) if latest else None
            if joins and whole is not None and whole.id == joins and whole.state == StepState.DONE:
                self.add_part(whole, changes)
            else:
                connection.execute(
                    "INSERT INTO history (label, at, origin, changeset) VALUES (?, ?, ?, ?)",
                    (label, now(), recording.origin, zlib.compress(changes, 1) if changes else None),
                )
                self.noted = connection.last_insert_rowid()
            self.mine.add((self.noted, StepState.DONE))
            for path, (before, after) in recording.files.items():
                number = (self.noted, str(path))
                connection.execute(
                    "UPDATE history_file SET after = ?3 WHERE (history_id, path) = (?1, ?2)", (*number, after)
                )
                if not connection.changes():
                    connection.execute("INSERT INTO history_file VALUES (?, ?, ?, ?)", (*number, before, after))

    def add_part(self, whole: Step, changes: bytes) -> None:
        """Makes changes part of the step before, so that both are taken back together."""
        builder = apsw.ChangesetBuilder()  # type: ignore[no-untyped-call]
        for one in (self.changeset_of(whole), changes):
            if one:
                builder.add(one)
        with self.database.writing() as connection:
            packed = zlib.compress(builder.output(), 1)
            connection.execute("UPDATE history SET changeset = ?, parts = parts + 1 WHERE id = ?", (packed, whole.id))
            self.noted = whole.id

    def put_file(self, path: Path, before: bytes | None, after: bytes | None) -> None:
        """Writes a file (None: removes it) as part of the step under way.

        Raises:
            FileExistsError: it was not to be there, and is.
            EnvironmentFailure: it lies where nobody has said that it may be written.
        """
        if not self.may_write(path):
            raise EnvironmentFailure(
                "outside", f"{path} lies in no folder that you have set up for this library.", "Nothing was written."
            )
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
            put(path, after, before)

    def forget(self) -> None:
        """Forgets all steps: what is there now is where history begins."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM history_file")
            connection.execute("DELETE FROM history")

    # looking

    def steps(self) -> list[Step]:
        """All steps that are still known, the latest first."""
        return [read_step(row) for row in self.database.rows(f"SELECT {STEP_COLUMNS} FROM history ORDER BY id DESC")]

    def next_undo(self) -> Step | None:
        """What undo would take back."""
        sql = f"SELECT {STEP_COLUMNS} FROM history WHERE state = 0 AND origin = ? ORDER BY id DESC LIMIT 1"
        return next((read_step(row) for row in self.database.rows(sql, (self.origin,))), None)

    def next_redo(self) -> Step | None:
        """What redo would do again."""
        sql = f"SELECT {STEP_COLUMNS} FROM history WHERE state = 1 AND origin = ? ORDER BY id LIMIT 1"
        return next((read_step(row) for row in self.database.rows(sql, (self.origin,))), None)

    def news(self, seen: Seen) -> tuple[list[StepRecord], Seen]:
        """The steps that were done, undone or done again since, by whichever process; and how far it is seen now."""
        with self.database.looking():  # another process may clear up old steps meanwhile
            rows = self.database.rows("SELECT id, state, parts FROM history ORDER BY id")
            states = tuple((int(str(number)), int(str(state)), int(str(parts))) for number, state, parts in rows)
            before = {number: rest for number, *rest in seen.states}
            fresh = [
                number
                for number, *rest in states
                if (number > seen.last if number not in before else before[number] != rest)
            ]
            last = max([seen.last, *(number for number, *_ in states)])
            return [self.record(number) for number in fresh], Seen(last, states)

    def record(self, number: int) -> StepRecord:
        """A step with what it changed."""
        (columns,) = self.database.rows(f"SELECT {STEP_COLUMNS} FROM history WHERE id = ?", (number,))
        paths = self.database.rows("SELECT path FROM history_file WHERE history_id = ?", (number,))
        step = read_step(columns)
        changeset = b""
        with suppress(StuckStep):
            changeset = self.changeset_of(step)
        is_own = (step.id, step.state) in self.mine
        return StepRecord(step, changeset, tuple(Path(str(path)) for (path,) in paths), is_own)

    def changeset_of(self, step: Step) -> bytes:
        """What a step changed in the database.

        Raises:
            StuckStep: it is damaged.
        """
        packed = self.database.one("SELECT changeset FROM history WHERE id = ?", (step.id,))
        try:
            return zlib.decompress(packed) if isinstance(packed, bytes) else b""
        except zlib.error as error:
            way_out = "Pass it over: what lies behind it stays within reach."
            raise StuckStep("step-damaged", f"What “{step.label}” changed cannot be read.", step.id, way_out) from error

    def damaged(self) -> list[Step]:
        """The steps of which it cannot be read what they changed."""
        out = []
        for step in self.steps():
            try:
                self.changeset_of(step)
            except StuckStep:
                out.append(step)
        return out

    # moving

    def undo(self, number: int | None = None, *, in_part: bool = False) -> Moved | None:
        """Takes a step back; None where there is none.

        Args:
            number: which; None: the last of this origin.
            in_part: what can be taken back is, and the rest is told; else all of it or nothing.

        Raises:
            StuckStep: a file was changed by another program since, or a row is not as the step left it.
        """
        step = self.next_undo() if number is None else self.there(number, StepState.DONE)
        return self.move(step, back=True, in_part=in_part) if step is not None else None

    def redo(self, number: int | None = None) -> Moved | None:
        """Does a step that was undone again; None where there is none."""
        step = self.next_redo() if number is None else self.there(number, StepState.UNDONE)
        return self.move(step, back=False, in_part=False) if step is not None else None

    def pass_over(self, number: int) -> Step:
        """Leaves what a step did as it is, and lets undo go on behind it."""
        step = self.there(number, StepState.DONE)
        with self.database.writing() as connection:
            self.mine.add((number, StepState.PASSED_OVER))
            connection.execute("UPDATE history SET state = ? WHERE id = ?", (StepState.PASSED_OVER, number))
        return step

    def there(self, number: int, state: StepState) -> Step:
        """The step of a number that is in some state.

        Raises:
            UserError: it is forgotten, or in another state.
        """
        rows = self.database.rows(f"SELECT {STEP_COLUMNS} FROM history WHERE id = ?", (number,))
        step = read_step(rows[0]) if rows else None
        if step is None or step.state != state:
            said = "is no longer known" if step is None else "is undone already" if state == 0 else "is not undone"
            raise UserError("step-gone", f"This step {said}.", "The list of steps shows what there is.")
        return step

    def move(self, step: Step, *, back: bool, in_part: bool) -> Moved:
        recording = Recording(Journal(self.folder))
        try:
            with self.database.writing(recording.take_back) as connection:
                changeset = self.changeset_of(step)
                files = self.files_of(step, back=back)
                strange = next((path for path, _, _ in files if not self.may_write(path)), None)
                if strange is not None:
                    raise StuckStep(
                        "undo-outside",
                        f"“{step.label}” names {strange}, which lies in no folder that you have set up for this library.",
                        step.id,
                        "Pass it over: what lies behind it stays within reach.",
                    )
                there = {path: read_bytes(path) for path, _, _ in files}
                left = [path.name for path, expected, _ in files if not is_as_left(there[path], expected)]
                if left and not in_part:
                    raise StuckStep(
                        "undo-file-changed",
                        f"{left[0]} was changed by another program since “{step.label}”.",
                        step.id,
                        "Take back the rest of the step, or pass it over: what lies behind it stays within reach.",
                    )
                if changeset:
                    inverse = apsw.Changeset.invert(changeset) if back else changeset
                    left += apply(connection, inverse, step, in_part=in_part)
                for path, _, wanted in files:
                    if path.name not in left:
                        recording.journal.note(path, there[path], wanted)
                        recording.files[path] = (there[path], wanted)
                        put(path, wanted, there[path])
                recording.journal.finish(self.database)
                state = StepState.UNDONE if back else StepState.DONE
                if left:  # what was taken back in part cannot be done again as a whole
                    state = StepState.PASSED_OVER
                self.mine.add((step.id, state))
                connection.execute("UPDATE history SET state = ? WHERE id = ?", (state, step.id))
        finally:
            recording.journal.close()
        return Moved(step, tuple(path for path, _, _ in files if path.name not in left), tuple(left))

    def files_of(self, step: Step, *, back: bool) -> list[tuple[Path, bytes | None, bytes | None]]:
        """(path, what it is expected to hold, what it is to hold) of the files of a step."""
        sql = "SELECT path, before, after FROM history_file WHERE history_id = ?"
        return [
            (Path(str(path)), as_bytes(after if back else before), as_bytes(before if back else after))
            for path, before, after in self.database.rows(sql, (step.id,))
        ]


def is_as_left(there: bytes | None, expected: bytes | None) -> bool:
    """Whether a file is as a step left it. What living lists hold is the program's own: it is filled again behind the step."""
    if there == expected or there is None or expected is None or b"<!--" not in there:
        return there == expected
    from wily_magpie.core.entries.living_list import outside_of  # not at a start

    try:
        return outside_of(there.decode()) == outside_of(expected.decode())
    except UnicodeDecodeError:
        return False


def read_step(row: Sequence[object]) -> Step:
    """A step from its columns."""
    number, label, at, origin, state = row
    return Step(int(str(number)), str(label), str(at), str(origin), int(str(state)))


def apply(connection: apsw.Connection, changes: bytes, step: Step, *, in_part: bool) -> list[str]:
    """Applies a changeset; what was left out since it is no longer as it was, in words.

    Raises:
        UserError: something was, and not in_part.
    """
    left: list[str] = []

    def conflict(_reason: int, change: apsw.TableChange) -> int:
        left.append(f"a row of {change.name}")
        return apsw.SQLITE_CHANGESET_OMIT if in_part else apsw.SQLITE_CHANGESET_ABORT

    try:
        flags = apsw.SQLITE_CHANGESETAPPLY_FKNOACTION
        apsw.Changeset.apply(piecewise(changes), connection, conflict=conflict, flags=flags)
    except apsw.AbortError as error:
        raise StuckStep(
            "undo-conflict",
            f"What “{step.label}” changed is no longer as it left it.",
            step.id,
            "Take back the rest of the step, or pass it over: what lies behind it stays within reach.",
        ) from error
    return left


def recorded_by(session: apsw.Session) -> bytes:
    """What a session recorded, taken piece by piece, so that other threads have their turns."""
    pieces: list[bytes] = []

    def take(piece: memoryview) -> None:
        pieces.append(bytes(piece))

    session.changeset_stream(take)
    return b"".join(pieces)


def piecewise(changes: bytes) -> Callable[[int], bytes]:
    """A changeset as SQLite reads it piece by piece: in between other threads have Python's lock, which it holds else throughout."""
    source = BytesIO(changes)

    def read(most: int) -> bytes:
        return source.read(most)  # a function of Python's: the lock is not let go by one that is not

    return read


def as_bytes(stored: object) -> bytes | None:
    """The contents of a file as the database has them; None: not there."""
    return stored if isinstance(stored, bytes) else None


def put(path: Path, content: bytes | None, expected: bytes | None) -> None:
    """Makes a file what it was; None: not there.

    Raises:
        FileChanging: it holds something else than was expected by now; None: it may be anything.
    """
    if content is None:
        remove_file(path, expected)
    else:
        make_folder(path.parent)
        write_bytes(path, content, expected=expected)
