"""Checking a library: what is not as it should be, where, and what to do."""

import hashlib
from collections.abc import Callable, Iterator
from pathlib import Path

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.recovery_journal import SET_ASIDE
from wily_magpie.core.places.rules import read_rule
from wily_magpie.core.places.table import table_numbers

CHUNK_BYTES = 1 << 20


@dataclass(frozen=True)
class Fault:
    """Something that is not as it should be: where, what, and what to do."""

    where: str
    what: str
    way_out: str


def check(library: Library, tick: Callable[[int, int], None] | None = None) -> Iterator[Fault]:
    """What is wrong with a library; nothing is changed.

    Args:
        tick: told of (done, total) while files are read.
    """
    damage = library.database.faults()
    for fault in damage:
        yield Fault("library.sqlite", fault, "Bring back a copy of the folder (wily-magpie backup makes them).")
    if damage:
        return  # what else could be asked is not to be trusted
    for journal in library.folder.glob(f"{SET_ASIDE}*"):
        yield Fault(
            journal.name, "It tells how notes were before a step that was not finished, and cannot be read to its end.",
            "Compare the notes of that day with a copy; then delete the file.",
        )  # fmt: skip
    for collection in library.collections():
        yield from faults_of(library, collection)
    yield from lost_ends(library)
    yield from file_faults(library, tick)
    for notes in library.notes_folders():
        if not notes.path.is_dir():
            yield Fault(notes.name, f"The folder {notes.path} is not there.", "Bring it back, or mount its disk.")
            continue
        try:
            faults = notes.faults()
        except EnvironmentFailure as error:  # the disk is full: what can be known is known all the same
            yield Fault(notes.name, error.message, error.way_out)
            continue
        for path, fault in faults:
            yield Fault(f"{notes.name}: {path}", fault, "Mend it in a text editor.")


def faults_of(library: Library, collection: Collection) -> Iterator[Fault]:
    """What is wrong with the entries and rules of a collection."""
    sql = f"SELECT id FROM {collection.table.name} WHERE id NOT IN (SELECT entry_id FROM content)"
    for (entry_id,) in library.database.rows(sql):
        yield Fault(collection.name, f"Entry {entry_id} has lost its text.", "Write it again, or bring a copy back.")
    for rule in collection.settings.rules:
        try:
            read_rule(rule, collection.fields)
        except UserError as error:
            yield Fault(collection.name, f"The rule “{rule}” says nothing any more: {error.message}", error.way_out)
    for field in collection.fields:
        if field.kind.holds_files:
            yield from missing_files(library, collection, field)


def missing_files(library: Library, collection: Collection, field: Field) -> Iterator[Fault]:
    """Files that entries name and that are not there."""
    table = collection.table.name
    rows = library.database.rows(f'SELECT title, value FROM {table}, json_each({table}."{field.column}")')
    for title, stored in rows:
        if library.blobs.file_path(str(stored)) is None:
            said = f"“{title}” lacks its file {str(stored).partition('/')[2]}."
            yield Fault(collection.name, said, "Bring it back from a copy, or attach it again.")


def lost_ends(library: Library) -> Iterator[Fault]:
    """Texts without entries, and references that lead nowhere."""
    numbers = table_numbers(library.database)
    rows = " UNION ALL ".join(f"SELECT id FROM c{number}" for number in numbers) or "SELECT 0"
    lost = library.database.one(f"SELECT count(*) FROM content WHERE entry_id NOT IN ({rows})")
    if lost:
        yield Fault("library.sqlite", f"{lost} texts belong to no entry.", "They do no harm; please report it.")
    there = "(SELECT entry_id FROM content)"
    ends = library.database.one(f"SELECT count(*) FROM link WHERE source NOT IN {there} OR target NOT IN {there}")
    if ends:
        yield Fault("library.sqlite", f"{ends} references lead nowhere.", "They are not shown; please report it.")


def named_files(database: Database) -> list[str]:
    """The names, which are digests, of all that is kept beside a library's database."""
    sql = " UNION ".join(f"SELECT sha256 FROM {table}" for table in ("file", "picture", "page", "sample"))
    return [str(row[0]) for row in database.rows(sql)]


def file_faults(library: Library, tick: Callable[[int, int], None] | None) -> Iterator[Fault]:
    """Files and pages that are missing or not what was kept."""
    rows = library.database.rows("SELECT sha256 FROM file UNION SELECT sha256 FROM picture")
    for number, (sha256,) in enumerate(rows):
        path = library.folder / "files" / str(sha256)
        if tick and number % 100 == 0:
            tick(number, len(rows))
        if not path.is_file():
            yield Fault(f"files/{path.name}", "This file is missing.", "Bring it back from a copy, or attach it again.")
        elif digest(path) != sha256:
            yield Fault(f"files/{path.name}", "This file is not what was kept.", "Bring it back from a copy.")
    for sha256, media_type in library.database.rows(
        "SELECT sha256, media_type FROM page UNION SELECT sha256, media_type FROM sample"
    ):
        if not list((library.folder / "pages").glob(f"{sha256}*")):
            yield Fault(f"pages/{sha256}", f"A kept page ({media_type}) is missing.", "Capture it again.")


def digest(path: Path) -> str:
    """The SHA-256 of a file."""
    total = hashlib.sha256()
    with path.open("rb") as file:
        while chunk := file.read(CHUNK_BYTES):
            total.update(chunk)
    return total.hexdigest()
