"""The disposable index of a notes folder: the same typed table as a collection's, in a database of its own."""

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from itertools import count
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.entries.field import TITLE, USUAL, Field, Settings
from wily_magpie.core.errors import NO_ROOM, BugError, EnvironmentFailure, UnreadableValue
from wily_magpie.core.fields import KINDS, Value
from wily_magpie.core.fields.base import Sql
from wily_magpie.core.places.atomic import sha256_of
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.notes.facts import BROKEN_LINKS, ENTRY_KEY, GIVEN, LINKS_IN, bare_name, double_name
from wily_magpie.core.places.notes.index_row import Before, IndexRow, ReadFile, guess_kind, number, row_of
from wily_magpie.core.places.notes.links import LINKS_SQL, NoteLinks
from wily_magpie.core.places.rules import with_gaps
from wily_magpie.core.places.table import SHARED_SQL, Table

if TYPE_CHECKING:
    import tempfile

    from wily_magpie.core.places.notes.note_file import NoteFile

VERSION = 6
MOST_FOUND_FIELDS = 60
MANY = 2_000
"""Files from which full text is put in order behind all of them."""
DAMAGE = ("library-damaged", "disk-failed", "library-unopened", "sql")
"""What is said of a file that is no (good) database, or not one of ours."""
ELSEWHERE = (*NO_ROOM, "library-unopened")
"""What is said where an index cannot be made; it is made elsewhere then."""
INDEX_SQL = """
CREATE TABLE note (
  id INTEGER PRIMARY KEY, path TEXT NOT NULL UNIQUE, mtime_ns INTEGER NOT NULL, size INTEGER NOT NULL,
  fault TEXT NOT NULL,                          -- why it cannot be read
  name TEXT NOT NULL, bare TEXT NOT NULL,       -- name and path as double brackets have them
  own TEXT NOT NULL) STRICT;                    -- of a note with lists, a sum over the rest of it
CREATE INDEX note_name ON note (name);
CREATE INDEX note_bare ON note (bare);
CREATE TABLE living (note_id INTEGER NOT NULL, said TEXT NOT NULL) STRICT;               -- first comments of lists
CREATE INDEX living_note ON living (note_id);
CREATE TABLE found (position INTEGER PRIMARY KEY, key TEXT NOT NULL UNIQUE, kind TEXT NOT NULL) STRICT;
CREATE TABLE reserved (path TEXT PRIMARY KEY, id INTEGER NOT NULL) STRICT;    -- ids that notes had in an index before
"""


CHANGED_SQL = """UPDATE notes SET modified = (
    SELECT strftime('%Y-%m-%dT%H:%M:%SZ', abs(mtime_ns) / 1000000000, 'unixepoch') FROM note WHERE note.id = notes.id)
  WHERE id IN (SELECT value FROM json_each(?))"""
"""A note was changed when its file was."""


def owners_of(library: Database, place: str, what: str) -> list[str]:
    """The paths of the notes of a place that have a mark, or one with a comment, as the library knows."""
    comment = " AND comment <> ''" if what == "comment" else ""
    return [
        str(owner) for (owner,) in library.rows(f"SELECT DISTINCT owner FROM mark WHERE place = ?{comment}", (place,))
    ]


class NotesIndex:
    """Opens the index, or makes it where it is missing or damaged.

    Several processes share it, so that ids mean the same in all of them. One that is made for other fields is another file,
    which takes the ids over; nobody is deprived of a file that he has open.

    Args:
        folder: where it lies.
        number: of the notes folder.
        owners: the paths of notes that have a "mark", or a "comment".
        encoding: how notes are read that are no UTF-8: others then, since it holds what was read.
    """

    def __init__(
        self,
        folder: Path,
        number: int,
        place: str,
        declared: tuple[Field, ...],
        rules: tuple[str, ...] = (),
        owners: Callable[[str], list[str]] = lambda _what: [],
        encoding: str = "",
    ) -> None:
        self.owners = owners
        self.rules = rules
        self.place = place
        self.declared = declared
        signature = json.dumps([VERSION, encoding, *((f.key, f.kind.name, f.column) for f in declared)])
        self.stem = f"notes-{number}-"
        self.folder = folder
        self.file = folder / f"{self.stem}{sha256_of(signature.encode())[:10]}.sqlite"
        self.spare: tempfile.TemporaryDirectory[str] | None = None
        self.changed = 0
        """How many notes were taken in or out since it was opened in which more than the rows of lists changed."""
        try:
            self.open()
        except (EnvironmentFailure, BugError) as error:
            self.remake(error)

    def remake(self, error: EnvironmentFailure | BugError) -> None:
        """Throws a damaged index away, which is made again from the notes; makes one elsewhere where there is no room for it."""
        if error.slug in DAMAGE:
            try:
                self.set_aside()
                self.open()
            except (EnvironmentFailure, OSError) as again:
                error = again if isinstance(again, EnvironmentFailure) else error
            else:
                return
        if error.slug not in ELSEWHERE:
            raise error
        import tempfile  # here, since it takes long to load

        with suppress(AttributeError):
            self.database.close()
        self.spare = tempfile.TemporaryDirectory(prefix="wily-magpie-")
        self.file = Path(self.spare.name) / self.file.name
        self.open()

    def close(self) -> None:
        """Closes it; one that was made elsewhere is gone."""
        self.database.close()
        if self.spare is not None:
            self.spare.cleanup()

    def open(self) -> None:
        """Opens the file and makes what it lacks."""
        is_new = not self.file.exists()
        self.database = Database(self.file, is_durable=False)
        self.links = NoteLinks(self.database)
        with self.database.writing():
            if self.database.one("SELECT 1 FROM sqlite_schema WHERE name = 'found'") is None:
                self.create()
            for name in ("note", "link", "living", "beside", "reserved", "notes"):
                self.database.rows(f"SELECT * FROM {name} LIMIT 1")
        self.load_fields()
        if is_new:
            self.table.make_triggers()

    def set_aside(self) -> None:
        """Removes a damaged file, which can be made again from the notes."""
        with suppress(AttributeError):
            self.database.close()
        for ending in ("", "-wal", "-shm"):
            self.file.with_name(self.file.name + ending).unlink(missing_ok=True)

    def create(self) -> None:
        """Makes the tables, with the ids and the fields of the index before; part of the transaction under way."""
        ids, found = self.before()
        with self.database.writing() as connection:
            connection.execute(SHARED_SQL + INDEX_SQL + LINKS_SQL)
            Table(self.database, "notes", self.place, (*self.declared, *GIVEN)).create()
            connection.executemany("INSERT INTO reserved (path, id) VALUES (?, ?)", ids)
            named = {field.key for field in (TITLE, *self.declared, *GIVEN)}
            for key, kind in found:  # what was found before is there before its values are read again
                if key not in named and kind in KINDS:
                    self.add_found(key, kind)

    def before(self) -> tuple[list[tuple[str, int]], list[tuple[str, str]]]:
        """(path, id) of the notes, and (key, kind) of the fields found, in the latest index for other fields."""
        others = [path for path in self.folder.glob(f"{self.stem}*.sqlite") if path != self.file]
        for path in sorted(others, key=lambda one: one.stat().st_mtime, reverse=True)[:1]:
            with suppress(EnvironmentFailure, BugError):
                old = Database(path, is_durable=False, is_read_only=True)
                try:
                    ids = old.rows("SELECT path, id FROM note UNION SELECT path, id FROM reserved")
                    found = old.rows("SELECT key, kind FROM found ORDER BY position")
                finally:
                    old.close()
                latest: dict[str, int] = {str(one): int(str(number)) for one, number in ids}
                return list(latest.items()), [(str(key), str(kind)) for key, kind in found]
        return [], []

    def keep_up(self) -> bool:
        """Takes over fields that another process has found meanwhile; whether there were any."""
        is_behind = int(str(self.database.one("SELECT count(*) FROM found"))) != self.count_found
        if is_behind:
            self.load_fields()
        return is_behind

    def load_fields(self) -> None:
        """The declared fields and those that were found in the files."""
        rows = self.database.rows("SELECT position, key, kind FROM found ORDER BY position")
        self.count_found = len(rows)
        hidden = Settings(is_hidden=True)
        found = [
            Field(str(key), str(key), KINDS[str(kind)], f"x{i}", settings=hidden if key == ENTRY_KEY else USUAL)
            for i, key, kind in rows
        ]
        fields = with_gaps((TITLE, *self.declared, *found, *GIVEN), self.rules, "notes")
        self.table = Table(self.database, "notes", self.place, fields[1:], self.holding)
        self.kinds = {field.key: field.kind for field in self.table.stored_fields}

    def holding(self, what: str) -> Sql:
        """Whether a note has a mark, a comment, or a fault."""
        if what == "fault":
            return "id IN (SELECT id FROM note WHERE fault <> '')", []
        paths = json.dumps(self.owners(what), ensure_ascii=False)
        return "id IN (SELECT id FROM note WHERE path IN (SELECT value FROM json_each(?)))", [paths]

    def stamps(self) -> dict[str, tuple[int, int]]:
        """(time in ns, size in bytes) by path."""
        rows = self.database.rows("SELECT path, mtime_ns, size FROM note")
        return {str(path): (int(str(mtime)), int(str(size))) for path, mtime, size in rows}

    def signatures(self, ids: Sequence[int] | None) -> dict[int, str]:
        """What is another text whenever a note was changed, by its id."""
        which = "" if ids is None else " WHERE id IN (SELECT value FROM json_each(?))"
        sql = f"SELECT id, mtime_ns || ' ' || size FROM note{which}"
        rows = self.database.rows(sql, () if ids is None else (json.dumps(list(ids)),))
        return {int(str(number)): str(told) for number, told in rows}

    def path(self, entry_id: int) -> str | None:
        found = self.database.one("SELECT path FROM note WHERE id = ?", (entry_id,))
        return None if found is None else str(found)

    def id_of(self, path: str) -> int | None:
        """The id of the note at a path."""
        found = self.database.one("SELECT id FROM note WHERE path = ?", (path,))
        return None if found is None else int(str(found))

    def id_by_name(self, name: str) -> int | None:
        """The id of the note that double brackets with this name mean: of that path, or of that name in any folder."""
        sql = "SELECT id FROM note WHERE path = ?1 OR bare = ?2 OR name = ?2 ORDER BY path <> ?1, bare <> ?2, path LIMIT 1"
        found = self.database.one(sql, (name, double_name(name)))
        return None if found is None else int(str(found))

    def put(self, files: Sequence[ReadFile]) -> list[int]:
        """Takes files in; their ids, which stay the same as long as their paths do.

        Statement by statement, not file by file: FTS5 closes a segment whenever a statement with triggers begins.
        """
        if not files:
            return []
        paths = [one.path for one in files]
        with self.database.writing() as connection:
            self.keep_up()
            for one in files:
                self.find_fields(one.note)
            known = self.ids_of(paths)
            ids = self.numbered(paths, known)
            before = self.before_of(list(known.values())) if known else {}
            touched = self.links.of(list(known.values()))
            self.drop_parts(list(known.values()))
            rows = [self.row_of(number, one, before.get(number)) for number, one in zip(ids, files, strict=True)]
            blank: dict[str, Value] = {field.key: None for field in self.table.stored_fields}
            for row in rows:
                if row.file.path in known:
                    counts = before[row.id].counts if row.id in before else (None, None)
                    kept = dict(zip((LINKS_IN.key, BROKEN_LINKS.key), counts, strict=True))
                    self.table.update(row.id, {**blank, **row.values, **kept, "title": row.title}, row.address)
            self.table.insert([row.fresh for row in rows if row.file.path not in known])
            insert = self.database.insert_rows
            insert("INSERT OR REPLACE INTO note", [row.note for row in rows])
            connection.execute(CHANGED_SQL, (json.dumps([row.id for row in rows if not row.is_refilled]),))
            for row in rows:
                if row.is_refilled:  # nobody but the program changed it
                    connection.execute("UPDATE notes SET modified = ? WHERE id = ?", (before[row.id].modified, row.id))
            insert("INSERT INTO link", [link for row in rows for link in row.links])
            insert("INSERT INTO living", [(row.id, said) for row in rows for said in row.file.lists])
            insert("INSERT INTO body_text (rowid, body)", [(row.id, row.file.outside) for row in rows])
            self.changed += sum(not row.is_refilled for row in rows)
            self.links.settle(ids, [*touched, *self.links.of(ids)], [path for path in paths if path not in known])
        return ids

    @contextmanager
    def taking_many(self, count: int) -> Iterator[None]:
        """Very many files are taken in: FTS5 merges what it wrote of them once, behind them."""
        if count < MANY:
            yield
            return
        self.set_merging(automerge=0, crisismerge=1000)
        try:
            yield
        finally:
            self.set_merging(automerge=4, crisismerge=16)  # as usual
            with self.database.writing() as connection:
                for table in ("entry_text", "body_text"):
                    connection.execute(f"INSERT INTO {table} ({table}) VALUES ('optimize')")

    def set_merging(self, **settings: int) -> None:
        """Says when FTS5 merges what it wrote."""
        with self.database.writing() as connection:
            for table in ("entry_text", "body_text"):
                for name, value in settings.items():
                    connection.execute(f"INSERT INTO {table} ({table}, rank) VALUES (?, ?)", (name, value))

    def drop_parts(self, ids: Sequence[int]) -> None:
        """Takes out what notes have besides their rows."""
        with self.database.writing() as connection:
            for table, column in (("link", "note_id"), ("living", "note_id"), ("body_text", "rowid")) if ids else ():
                sql = f"DELETE FROM {table} WHERE {column} IN (SELECT value FROM json_each(?))"
                connection.execute(sql, (json.dumps(list(ids)),))

    def row_of(self, entry_id: int, file: ReadFile, before: Before | None) -> IndexRow:
        """What a file is in the tables."""
        return row_of(entry_id, file, before, self.values(file.note), self.table.fields)

    def before_of(self, ids: Sequence[int]) -> dict[int, Before]:
        """What notes were before they are taken in again."""
        sql = (
            "SELECT note.id, own, modified, g_created, g_links_in, g_broken_links FROM note JOIN notes USING (id)"
            " WHERE note.id IN (SELECT value FROM json_each(?))"
        )
        rows = self.database.rows(sql, (json.dumps(list(ids)),))
        return {
            int(str(i)): Before(str(own), str(modified), str(born or ""), (number(come), number(broken)))
            for i, own, modified, born, come, broken in rows
        }

    def named_like(self, begun: str, most: int) -> list[tuple[str, str]]:
        """(title, path) of notes whose title or name has what was begun, those that begin with it first."""
        folded = begun.casefold().strip()
        sql = (
            "SELECT title, path FROM notes JOIN note USING (id) WHERE instr(casefold(title), ?1) OR instr(note.bare, ?1)"
            " ORDER BY instr(casefold(title), ?1) <> 1 AND instr(note.name, ?1) <> 1, length(title), path LIMIT ?2"
        )
        return [(str(title), str(path)) for title, path in self.database.rows(sql, (folded, most))]

    def shared_names(self, paths: Sequence[str]) -> frozenset[str]:
        """Those of some notes whose names others have, too, so that it takes their folders to tell them apart."""
        sql = (
            "SELECT one.path FROM note AS one WHERE one.path IN (SELECT value FROM json_each(?)) AND"
            " EXISTS (SELECT 1 FROM note AS other WHERE other.name = one.name AND other.id <> one.id)"
        )
        return frozenset(str(path) for (path,) in self.database.rows(sql, (json.dumps(list(paths)),)))

    def lists(self) -> list[tuple[str, str]]:
        """(path of its note, first comment) of all living lists."""
        rows = self.database.rows(
            "SELECT path, said FROM living JOIN note ON note.id = note_id ORDER BY path, living.rowid"
        )
        return [(str(path), str(said)) for path, said in rows]

    def ids_of(self, paths: Sequence[str], table: str = "note") -> dict[str, int]:
        """The ids of those paths that are known."""
        sql = f"SELECT path, id FROM {table} WHERE path IN (SELECT value FROM json_each(?))"
        return {str(path): int(str(number)) for path, number in self.database.rows(sql, (json.dumps(paths),))}

    def numbered(self, paths: Sequence[str], known: Mapping[str, int]) -> list[int]:
        """The ids of paths: those that they have or had, else fresh ones that nobody had."""
        if len(known) == len(set(paths)):
            return [known[path] for path in paths]
        had = self.ids_of(paths, "reserved")
        most = "SELECT max(coalesce((SELECT max(id) FROM note), 0), coalesce((SELECT max(id) FROM reserved), 0)) + 1"
        fresh = count(int(str(self.database.one(most))))
        return [known.get(path) or had.get(path) or next(fresh) for path in paths]

    def drop(self, paths: Sequence[str]) -> None:
        """Takes files out."""
        if not paths:
            return
        with self.database.writing() as connection:
            known = self.ids_of(paths)
            ids = list(known.values())
            links = self.links.of(ids)
            self.table.delete(ids)
            self.drop_parts(ids)
            connection.executemany("DELETE FROM note WHERE id = ?", [(one,) for one in ids])
            self.changed += len(known)
            self.links.settle((), links, list(known))

    def move(self, old: str, new: str, stamp: tuple[int, int]) -> None:
        """Tells that a file has another path, so that its id stays the same."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM note WHERE path = ?", (new,))
            sql = "UPDATE note SET path = ?, name = ?, bare = ?, mtime_ns = ?, size = ? WHERE path = ?"
            connection.execute(sql, (new, bare_name(new), double_name(new), *stamp, old))
            self.links.settle((), (), [old, new])

    def faults(self) -> list[tuple[str, str]]:
        """(path, why) of the notes whose front matter cannot be read."""
        rows = self.database.rows("SELECT path, fault FROM note WHERE fault <> '' ORDER BY path")
        return [(str(path), str(fault)) for path, fault in rows]

    def files_of(self, ids: Sequence[int]) -> dict[int, tuple[str, str]]:
        """The path of each note, and why its front matter cannot be read, or ""."""
        sql = "SELECT id, path, fault FROM note WHERE id IN (SELECT value FROM json_each(?))"
        rows = self.database.rows(sql, (json.dumps(list(ids)),))
        return {int(str(number)): (str(path), str(fault)) for number, path, fault in rows}

    def paths(self) -> list[str]:
        """The paths of all notes."""
        return [str(path) for (path,) in self.database.rows("SELECT path FROM note ORDER BY path")]

    def values(self, note: "NoteFile") -> dict[str, Value]:
        """The typed values of a file; what does not fit its field's kind is left blank here, and stays in the file."""
        out: dict[str, Value] = {}
        for key, given in note.matter.items():
            kind = self.kinds.get(key)
            if kind is not None and given is not None:
                try:
                    out[key] = kind.from_plain(given)
                except UnreadableValue:
                    continue
        return out

    def find_fields(self, note: "NoteFile") -> None:
        """Gives keys that no field has yet a field of a kind that its first value suggests."""
        known = {field.key for field in self.table.fields}
        fresh = [key for key in note.matter if key not in known and note.matter[key] is not None and len(key) < 60]
        if not fresh or len(known) + len(fresh) > MOST_FOUND_FIELDS:
            return
        with self.database.writing():
            for key in fresh:
                self.add_found(key, guess_kind(note.matter[key]))
            self.load_fields()
            self.table.make_triggers()

    def add_found(self, key: str, kind: str) -> None:
        """Gives a key that was found in a file a column."""
        with self.database.writing() as connection:
            connection.execute("INSERT INTO found (key, kind) VALUES (?, ?)", (key, kind))
            column = f"x{connection.last_insert_rowid()}"
            connection.execute(f'ALTER TABLE notes ADD COLUMN "{column}" {KINDS[kind].column_type}')
