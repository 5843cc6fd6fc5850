"""The only door to SQLite: one writing connection, a reading connection a thread, errors as ours."""

import threading
import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager, suppress
from itertools import chain, islice
from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import quote

import apsw

from wily_magpie.core.errors import BugError, EnvironmentFailure
from wily_magpie.core.guard import GUARD
from wily_magpie.core.places.write_ahead_log import log_of

if TYPE_CHECKING:
    import tempfile

LEAST_PAUSE_S, MOST_PAUSE_S = 0.0005, 0.004
BUSY_MS = 30_000
"""How long another process is waited for that is in the middle of a step."""
CACHE_KIB = 64 * 1024
COURTESY_S = 0.002
MOST_VALUES = 32_000
"""In one statement; SQLite takes 32,766."""
EXPECTED = {
    apsw.FullError: ("disk-full", "The disk is full.", "Free some space and try again; nothing that was kept is lost."),
    apsw.BusyError: ("library-busy", "Another program is writing to {name}.", "Try again in a moment."),
    apsw.LockedError: ("library-busy", "Another program is writing to {name}.", "Try again in a moment."),
    apsw.ReadOnlyError: (
        "library-read-only",
        "{name} may not be written to.",
        "Check the rights of the file and folder.",
    ),
    apsw.CantOpenError: ("library-unopened", "{name} cannot be opened.", "Check that the folder is there."),
    apsw.NotADBError: ("library-damaged", "{name} is not a library.", "Bring back a copy, or open another folder."),
    apsw.CorruptError: ("library-damaged", "{name} is damaged.", "Bring back a copy of the folder."),
    apsw.IOError: ("disk-failed", "The disk did not answer for {name}.", "Check the disk and try again."),
}


def casefold(*values: object) -> str | None:
    """SQL function: text for comparing without regard to case."""
    return values[0].casefold() if isinstance(values[0], str) else None


class Patience:
    """How one waits for another process that writes: it looks often and at no fixed pace.

    SQLite's own waiting looks every tenth of a second at last, and where somebody writes one step after another without a pause it
    is never let in; between two steps there are a millisecond or two.
    """

    def __init__(self) -> None:
        self.until = 0.0

    def goes_on(self, count: int) -> bool:
        """Called by SQLite before it tries again; count tells how often it has been."""
        import random  # here, since one seldom waits

        if count == 0:
            self.until = time.monotonic() + BUSY_MS / 1000
        time.sleep(random.uniform(LEAST_PAUSE_S, MOST_PAUSE_S))  # noqa: S311 - nobody is to guess it
        return time.monotonic() < self.until


class Database:
    """One SQLite file.

    Args:
        path: the file; made if it is missing.
        is_durable: False for what can be rebuilt: commits need not reach the disk.
        is_read_only: nothing is written, not even by the program itself.
    """

    def __init__(self, path: Path, *, is_durable: bool = True, is_read_only: bool = False) -> None:
        self.path = path
        self.is_durable = is_durable
        self.is_read_only = is_read_only
        self.spare: tempfile.TemporaryDirectory[str] | None = None
        self.lock = threading.RLock()
        self.count_waiting = 0
        self.local = threading.local()
        self.readers: list[apsw.Connection] = []
        with self.telling():
            self.writer = self.connect()
            if not is_read_only:
                self.writer.execute("PRAGMA journal_mode = WAL").fetchall()

    def connect(self) -> apsw.Connection:
        connection = self.opened_for_looking() if self.is_read_only else apsw.Connection(str(self.path))
        connection.set_busy_handler(Patience().goes_on)
        # one by one: apsw runs a string of statements lazily
        connection.execute(f"PRAGMA synchronous = {'FULL' if self.is_durable else 'OFF'}").fetchall()
        connection.execute(f"PRAGMA cache_size = -{CACHE_KIB}").fetchall()
        connection.execute("PRAGMA trusted_schema = ON").fetchall()
        connection.create_scalar_function("casefold", casefold, 1, deterministic=True)
        return connection

    def opened_for_looking(self) -> apsw.Connection:
        """A connection that only reads.

        Beside a file in WAL mode SQLite makes another one. Where it may not, or the disk is full, the file is read as one that
        cannot change (SQLite's "immutable"); where its log holds something, a copy of both is read.
        """
        flags = apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI
        if self.spare is None:
            connection = apsw.Connection(f"file:{quote(str(self.path))}", flags=flags)
            try:
                connection.execute("SELECT count(*) FROM sqlite_schema").fetchall()
            except (apsw.CantOpenError, apsw.ReadOnlyError, apsw.IOError, apsw.FullError):
                connection.close()
            else:
                return connection
        log = log_of(self.path)
        if not log.exists() or not log.stat().st_size:
            return apsw.Connection(f"file:{quote(str(self.path))}?immutable=1", flags=flags)
        return apsw.Connection(str(self.copied(log)))

    def copied(self, log: Path) -> Path:
        """The file with its log, where there is room for them; until it is closed."""
        if self.spare is None:
            import shutil  # here, since they take long to load
            import tempfile

            self.spare = tempfile.TemporaryDirectory(prefix="wily-magpie-")
            for path in (self.path, log):
                shutil.copyfile(path, Path(self.spare.name) / path.name)
        return Path(self.spare.name) / self.path.name

    @contextmanager
    def telling(self) -> Iterator[None]:
        """Turns SQLite's errors into ours."""
        try:
            yield
        except apsw.Error as error:
            for kind, (slug, message, way_out) in EXPECTED.items():
                if isinstance(error, kind):
                    raise EnvironmentFailure(slug, message.format(name=self.path), way_out) from error
            raise BugError("sql", f"The database refused a statement: {error}") from error

    @property
    def is_mine(self) -> bool:
        """Whether this thread is in the middle of writing."""
        return getattr(self.local, "is_writing", False)

    def reader(self) -> apsw.Connection:
        connection: apsw.Connection | None = getattr(self.local, "reader", None)
        if connection is None:
            connection = self.local.reader = self.connect()
            self.readers.append(connection)
        return connection

    def rows(self, sql: str, values: Sequence[object] = ()) -> list[tuple[object, ...]]:
        """All rows. Inside `writing` what was written so far is seen."""
        GUARD.check(sql)
        with self.telling():
            connection = self.writer if self.is_mine else self.reader()
            try:
                return list(connection.execute(sql, tuple(values)))
            except UnicodeDecodeError:
                return mended_rows(connection, sql, tuple(values))

    def one(self, sql: str, values: Sequence[object] = ()) -> object:
        """The first column of the first row; None where there is no row."""
        found = self.rows(sql, values)
        return found[0][0] if found else None

    @contextmanager
    def looking(self) -> Iterator[None]:
        """What this thread reads within is of one moment, whatever other processes commit meanwhile."""
        connection = self.writer if self.is_mine else self.reader()
        if connection.in_transaction:
            yield
            return
        with self.telling():
            connection.execute("BEGIN")
            try:
                yield
            finally:
                connection.execute("COMMIT")

    def version(self) -> int | None:
        """A number that is another one whenever another process has committed something; None: somebody writes just now.

        Only the connection that writes can tell: what it commits itself does not count, and here nobody else commits.
        """
        if not self.lock.acquire(blocking=False):
            return None
        try:
            with self.telling():
                return int(str(next(iter(self.writer.execute("PRAGMA data_version")))[0]))
        finally:
            self.lock.release()

    @contextmanager
    def writing(self, taken_back: Callable[[], None] = lambda: None) -> Iterator[apsw.Connection]:
        """A transaction; a nested one is part of the outer.

        Args:
            taken_back: called where it fails, before the lock is let go: what was done outside the database is undone while
                no other process can be in between.
        """
        GUARD.check("a change")
        if self.is_mine:
            yield self.writer
            return
        self.count_waiting += 1
        self.lock.acquire()
        self.count_waiting -= 1
        try:
            with self.telling():
                if self.is_read_only:
                    raise apsw.ReadOnlyError
                self.writer.execute("BEGIN IMMEDIATE")
                self.local.is_writing = True
                try:
                    yield self.writer
                    self.writer.execute("COMMIT")
                except BaseException:
                    taken_back()
                    if self.writer.in_transaction:
                        self.writer.execute("ROLLBACK")
                    raise
                finally:
                    self.local.is_writing = False
        finally:
            self.lock.release()

    def insert_rows(self, into: str, rows: Iterable[Sequence[object]]) -> None:
        """Inserts rows, many by one statement; part of the transaction under way.

        One statement for each row would ask for Python's lock each time, which another thread may hold for long, and FTS5
        writes what it has to the disk whenever a statement with triggers begins.

        Args:
            into: the statement up to its values, such as "INSERT INTO note (id, path)". All rows are as long as the first.
        """
        for part in parted(rows):
            marks = f"({', '.join('?' * len(part[0]))})"
            sql = f"{into} VALUES {', '.join([marks] * len(part))}"
            self.writer.execute(sql, [value for row in part for value in row])

    def give_way(self) -> None:
        """For long work between two of its transactions: lets others of this process write first, who are waiting to."""
        while self.count_waiting:
            time.sleep(COURTESY_S)

    def frames_in_log(self) -> int:
        """How many frames of its log SQLite knows; it writes them into the file on the way, where nobody is in between."""
        with self.telling():
            return int(str(next(iter(self.writer.execute("PRAGMA wal_checkpoint(PASSIVE)")))[1]))

    def back_up(self, to: Path) -> None:
        """Makes a copy of all that is committed, and checks it.

        Raises:
            EnvironmentFailure: it could not be written, or is not sound.
        """
        part = to.with_name(to.name + ".part")
        part.unlink(missing_ok=True)
        try:
            with self.telling():
                faults = self.copied_to(part)
            if faults:
                raise EnvironmentFailure(
                    "copy-unsound", f"The copy {to} is not sound: {faults[0]}.", "Check the disk; nothing was changed."
                )
            part.replace(to)
        finally:
            with suppress(OSError):
                part.unlink(missing_ok=True)

    def copied_to(self, part: Path) -> list[str]:
        """Copies all that is committed into a new file; what is wrong with the copy."""
        copy = apsw.Connection(str(part))
        try:
            with copy.backup("main", self.reader(), "main") as running:
                while not running.done:
                    running.step(1000)
            return faults_in(copy)
        finally:
            copy.close()

    def faults(self) -> list[str]:
        """What SQLite finds wrong with the file; nothing, if all is well."""
        with self.telling():
            return faults_in(self.reader())

    def damaged_texts(self, table: str) -> list[tuple[int, str]]:
        """(row number, column) of all texts in a table that are no UTF-8."""
        with self.telling():
            connection = self.reader()
            try:
                for _ in connection.execute(f"SELECT * FROM {table}"):
                    pass
            except UnicodeDecodeError:
                return undecodable(connection, table)
        return []

    def close(self) -> None:
        """Closes every connection; the object is of no use afterwards."""
        with self.lock:
            for connection in [*self.readers, self.writer]:
                connection.close()
            self.readers.clear()
        if self.spare is not None:
            self.spare.cleanup()


def parted(rows: Iterable[Sequence[object]]) -> Iterator[list[Sequence[object]]]:
    """Rows in parts of which each has no more values than one statement takes."""
    coming = iter(rows)
    first = next(coming, None)
    if first is None:
        return
    coming, most = chain([first], coming), max(1, MOST_VALUES // max(1, len(first)))
    while part := list(islice(coming, most)):
        yield part


def undecodable(connection: apsw.Connection, table: str) -> list[tuple[int, str]]:
    """(row number, column) of all texts that are no UTF-8."""
    columns = [str(row[1]) for row in connection.execute(f"PRAGMA table_info({table})")]
    out = []
    for column in columns:
        texts = connection.execute(
            f'SELECT rowid, CAST("{column}" AS BLOB) FROM {table} WHERE typeof("{column}") = \'text\''
        )
        for row_id, content in texts:
            try:
                bytes(content).decode()
            except UnicodeDecodeError:
                out.append((int(row_id), column))
    return out


def mended_rows(connection: apsw.Connection, sql: str, values: tuple[object, ...]) -> list[tuple[object, ...]]:
    """Rows with damaged texts among them: what is no UTF-8 stands there as U+FFFD, and the rest as it is."""
    cursor = connection.execute(sql, values)
    names = [f"c{number}" for number in range(len(cursor.get_description()))]
    cursor.close()
    cells = ", ".join(f"typeof({name}), iif(typeof({name}) = 'text', CAST({name} AS BLOB), {name})" for name in names)
    rows = connection.execute(f"WITH whole ({', '.join(names)}) AS ({sql}) SELECT {cells} FROM whole", values)
    return [
        tuple(
            cell.decode("utf-8", "replace") if kind == "text" and isinstance(cell, bytes) else cell
            for kind, cell in zip(row[::2], row[1::2], strict=True)
        )
        for row in rows
    ]


def faults_in(connection: apsw.Connection) -> list[str]:
    """The faults that SQLite finds; its own "ok" is none."""
    try:
        rows = list(connection.execute("PRAGMA integrity_check(20)"))
    except apsw.CorruptError as error:
        return [str(error)]
    return [str(row[0]) for row in rows if row[0] != "ok"]
