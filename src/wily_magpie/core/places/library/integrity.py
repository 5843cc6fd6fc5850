"""Checking a library: what is not as it should be, where, and what to do."""

import hashlib
from collections.abc import Callable, Iterator
from glob import escape
from pathlib import Path

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.fields import KINDS
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.library import schema
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.premises import told_of_journal, told_of_log
from wily_magpie.core.places.recovery_journal import SET_ASIDE
from wily_magpie.core.places.rules import read_rule
from wily_magpie.core.places.stored_json import read
from wily_magpie.core.places.table import table_numbers
from wily_magpie.core.places.write_ahead_log import ASIDE

CHUNK_BYTES = 1 << 20
DAMAGED_WAY_OUT = "Set it anew, or bring back a copy of the library (wily-magpie restore)."
FORMS: tuple[tuple[str, str, type], ...] = (
    ("collection", "settings", dict), ("collection", "layout", dict), ("notes_folder", "settings", dict),
    ("notes_folder", "layout", dict), ("field", "options", list), ("field", "settings", dict), ("view", "layout", dict),
    ("sample", "accepted", dict),
)  # fmt: skip
"""Tables, their columns of JSON, and what stands there."""


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
        yield Fault("library.sqlite", fault, "Bring back a copy (wily-magpie restore FOLDER).")
    if damage:
        return  # what else could be asked is not to be trusted
    yield from left_by_accidents(library)
    yield from damaged_rows(library.database)
    there = table_numbers(library.database)
    for collection in library.collections():
        if collection.number in there:
            yield from faults_of(library, collection)
        else:
            yield Fault(collection.name, "Its table is not there.", "Bring back a copy of the library.")
    yield from lost_ends(library)
    yield from file_faults(library, tick)
    yield from note_faults(library)


def left_by_accidents(library: Library) -> Iterator[Fault]:
    """What was set aside at an opening, and steps that cannot be undone any more."""
    for pattern, told_of in ((SET_ASIDE, told_of_journal), (ASIDE, told_of_log)):
        for aside in library.folder.glob(f"{pattern}*"):
            told = told_of(aside)
            yield Fault(aside.name, told.message, told.way_out)
    for step in library.history.damaged():
        yield Fault(
            "library.sqlite",
            f"What “{step.label}” changed cannot be read.",
            "It can be passed over in the list of steps.",
        )


def note_faults(library: Library) -> Iterator[Fault]:
    """Notes folders that are away, and notes that cannot be read."""
    for notes in library.notes_folders():
        if notes.is_strange:  # it may be what it likes: nobody has said that it belongs here
            continue
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


def damaged_rows(database: Database) -> Iterator[Fault]:
    """Texts that are none, and settings that say nothing; each costs what it would have said."""
    tables = database.rows(
        "SELECT name FROM sqlite_schema WHERE type = 'table' AND sql LIKE '%) STRICT%' ORDER BY name"
    )
    for (table,) in tables:
        for number, damaged in database.damaged_texts(str(table)):
            said = f"The {damaged} of row {number} of the table {table} is damaged: it is no text."
            yield Fault("library.sqlite", said, DAMAGED_WAY_OUT)
    for table, column, kind in FORMS:
        for row_id, stored in database.rows(f"SELECT rowid, {column} FROM {table}"):
            if not isinstance(read(stored), kind):
                said = f"The {column} of row {row_id} of the table {table} cannot be read, and are as usual."
                yield Fault("library.sqlite", said, DAMAGED_WAY_OUT)
    for label, name in database.rows("SELECT label, kind FROM field"):
        if name not in KINDS:
            yield Fault(f"Field “{label}”", f"Its kind “{name}” is not known.", DAMAGED_WAY_OUT)


def damaged_values(library: Library, collection: Collection) -> Iterator[Fault]:
    """Values that are not what their fields hold."""
    for field in collection.fields:
        if not field.is_stored or not field.kind.column_type:
            continue
        column = f'"{field.column}"'
        if field.kind.is_many:
            sound = f"iif(json_valid({column}), json_type({column}) = 'array', 0)"
        elif field.kind.column_type == "TEXT":
            sound = f"typeof({column}) = 'text'"
        else:
            sound = f"typeof({column}) IN ('integer', 'real')"
        rows = library.database.rows(
            f"SELECT title FROM {collection.table.name} WHERE {column} IS NOT NULL AND NOT ({sound})"
        )
        for (title,) in rows:
            yield Fault(collection.name, f"The {field.label} of “{title}” is damaged.", "Write it again.")


def faults_of(library: Library, collection: Collection) -> Iterator[Fault]:
    """What is wrong with the entries and rules of a collection."""
    sql = f"SELECT id FROM {collection.table.name} WHERE id NOT IN (SELECT entry_id FROM content)"
    for (entry_id,) in library.database.rows(sql):
        yield Fault(collection.name, f"Entry {entry_id} has lost its text.", "Write it again, or bring a copy back.")
    yield from damaged_values(library, collection)
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


def is_current(database: Database) -> bool:
    """Whether a database has the tables of this version; EnvironmentFailure where it is newer."""
    version = int(str(database.one("PRAGMA user_version")))
    if version > schema.VERSION:
        schema.version_of(database)  # which says it
    return version == schema.VERSION


def counted(database: Database) -> dict[str, int]:
    """Entries by name of collection."""
    if not is_current(database):
        return {}
    collections = database.rows("SELECT id, name FROM collection WHERE is_live ORDER BY position, id")
    return {str(name): int(str(database.one(f"SELECT count(*) FROM c{number}"))) for number, name in collections}


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
        found = next((library.folder / "pages").glob(f"{escape(str(sha256))}*"), None)
        if found is None:
            yield Fault(f"pages/{sha256}", f"A kept page ({media_type}) is missing.", "Capture it again.")
        elif digest(found) != sha256:
            way_out = "Bring it back from a copy, or capture it again."
            yield Fault(f"pages/{found.name}", f"This kept page ({media_type}) is not what was kept.", way_out)


def digest(path: Path) -> str:
    """The SHA-256 of a file."""
    total = hashlib.sha256()
    with path.open("rb") as file:
        while chunk := file.read(CHUNK_BYTES):
            total.update(chunk)
    return total.hexdigest()
