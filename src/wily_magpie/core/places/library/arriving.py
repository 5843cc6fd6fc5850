"""Collections whose rows are being brought in: nobody sees them until the last row is there.

So a large table is brought in by many short transactions, between which others write, and is one undoable step all the
same: the one that makes the collection seen. Who brings it in holds a lock on a file; where nobody does, it was given up.
"""

from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path

from wily_magpie.core.entries.entry import Draft
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.places.api import PlaceSettings
from wily_magpie.core.places.file_lock import FileLock
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.library.library import Library

ROWS_A_TIME = 500


def lock_path(folder: Path, number: int) -> Path:
    """The file that is locked while rows arrive."""
    return folder / f"arriving-{number}.lock"


def begin(library: Library, plans: Sequence[FieldPlan]) -> int:
    """Makes the table of a collection that nobody sees; its number."""
    with library.database.writing() as connection:
        number = library.next_collection_number()
        connection.execute("INSERT INTO arriving (number) VALUES (?)", (number,))
        library.add_fields(f"collection:{number}", plans)
        unseen(library, number).table.create()
    return number


def unseen(library: Library, number: int) -> Collection:
    """The collection that rows arrive in."""
    return Collection(library.context, number, "", PlaceSettings(), Layout())


def add(library: Library, number: int, drafts: Sequence[Draft]) -> None:
    """Brings some rows in."""
    unseen(library, number).add_all(drafts)


def finish(library: Library, number: int, name: str) -> Collection:
    """Lets everybody see the collection; part of the step under way."""
    with library.database.writing() as connection:
        connection.execute("DELETE FROM arriving WHERE number = ?", (number,))
        return library.add_collection(name, number=number)


def drop_some(library: Library, number: int) -> bool:
    """Takes some rows of a collection that was given up away, at last the collection; whether there are more."""
    table = f"c{number}"
    with library.database.writing() as connection:
        some = f"SELECT id FROM {table} LIMIT {ROWS_A_TIME}"
        connection.execute(f"DELETE FROM content WHERE entry_id IN ({some})")
        connection.execute(f"DELETE FROM {table} WHERE id IN ({some})")
        if connection.changes():
            return True
        connection.execute(f"DROP TABLE {table}")
        connection.execute("DELETE FROM field WHERE place = ?", (f"collection:{number}",))
        connection.execute("DELETE FROM arriving WHERE number = ?", (number,))
    return False


def drop_abandoned(library: Library) -> None:
    """Takes away what a program that ended has left half brought in."""
    for (number,) in library.database.rows("SELECT number FROM arriving"):
        path = lock_path(library.folder, int(str(number)))
        lock = FileLock(path)
        try:
            if lock.take():
                while drop_some(library, int(str(number))):
                    pass
                with suppress(OSError):
                    path.unlink()
        finally:
            lock.close()
