"""The tables of a library, and the way from each older version to this one.

Version 1: the first.
Version 2: of a kept page, its media type.
Version 3: settings of fields and places, links between entries, the trash, files of entries.
Version 4: marks, icons of sites, sample pages of templates.
Version 5: layouts of places and views, settings, who did a step and that it was passed over, tables under way; two tables
have the field's usual names.
Version 6: marks on pictures, drafts of slips.
Version 7: lists of addresses.
Version 8: where one stopped reading.
Version 9: of a mark its page or time; marks gathered for chapters, and used.
Version 10: living lists that are not filled until it is asked for; entries kept in step with notes.
Version 11: collections lie in the order in which they were captured, too.

Physical columns and tables keep their names for ever (c1, f7): undo replays changesets of the database itself,
and those know columns by their place. What people call them stands in `collection` and `field`.
"""

from wily_magpie.core.errors import EnvironmentFailure
from wily_magpie.core.places.api import NEWEST_FIRST
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.table import SHARED_SQL, order_sql

VERSION = 11

FIRST_SQL = """
CREATE TABLE collection (
  id INTEGER PRIMARY KEY, name TEXT NOT NULL, position REAL NOT NULL) STRICT;
CREATE TABLE field (
  id INTEGER PRIMARY KEY,
  place TEXT NOT NULL,            -- "collection:1", "notes:2"
  key TEXT NOT NULL,              -- stable name in queries, templates and files
  label TEXT NOT NULL,
  kind TEXT NOT NULL,             -- one of core.fields.KINDS
  options TEXT NOT NULL,          -- of a choice: JSON [{"name", "colour"}]
  position REAL NOT NULL,
  UNIQUE (place, key)) STRICT;
CREATE TABLE notes_folder (
  id INTEGER PRIMARY KEY, name TEXT NOT NULL, path TEXT NOT NULL, position REAL NOT NULL) STRICT;
CREATE TABLE content (            -- apart from the rows, which stay short and quick to filter
  entry_id INTEGER PRIMARY KEY AUTOINCREMENT,   -- the one source of entries' ids, unique over all collections
  collection_id INTEGER NOT NULL, markdown TEXT NOT NULL) STRICT;
CREATE TABLE view (
  id INTEGER PRIMARY KEY, place TEXT NOT NULL, name TEXT NOT NULL, question TEXT NOT NULL, position REAL NOT NULL) STRICT;
CREATE TABLE template (
  id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, position REAL NOT NULL, definition TEXT NOT NULL) STRICT;
CREATE TABLE page (               -- where a kept entry came from
  id INTEGER PRIMARY KEY, entry_id INTEGER, place TEXT NOT NULL, address TEXT NOT NULL, canonical TEXT NOT NULL,
  captured TEXT NOT NULL, sha256 TEXT NOT NULL, media_type TEXT NOT NULL DEFAULT 'text/html') STRICT;
CREATE TABLE picture (            -- pictures kept in files/, found by the address they had; not undone
  address TEXT PRIMARY KEY, sha256 TEXT NOT NULL, media_type TEXT NOT NULL, size_bytes INTEGER NOT NULL) STRICT;
CREATE TABLE history (
  id INTEGER PRIMARY KEY AUTOINCREMENT, label TEXT NOT NULL, at TEXT NOT NULL,
  changeset BLOB,                 -- SQLite's own, compressed by zlib
  undone INTEGER NOT NULL DEFAULT 0) STRICT;
CREATE TABLE history_file (       -- files of notes folders that a step changed; NULL: was not there
  history_id INTEGER NOT NULL REFERENCES history ON DELETE CASCADE,
  path TEXT NOT NULL, before BLOB, after BLOB) STRICT;
CREATE TRIGGER content_added AFTER INSERT ON content BEGIN
  INSERT INTO body_text (rowid, body) VALUES (new.entry_id, new.markdown); END;
CREATE TRIGGER content_changed AFTER UPDATE ON content BEGIN
  UPDATE body_text SET body = new.markdown WHERE rowid = new.entry_id; END;
CREATE TRIGGER content_removed AFTER DELETE ON content BEGIN
  DELETE FROM body_text WHERE rowid = old.entry_id; END;
"""

SECOND_SQL = "ALTER TABLE page ADD COLUMN media_type TEXT NOT NULL DEFAULT 'text/html';"
THIRD_SQL = """
ALTER TABLE field ADD COLUMN settings TEXT NOT NULL DEFAULT '{}';          -- JSON, see entries.field.Settings
ALTER TABLE field ADD COLUMN is_live INTEGER NOT NULL DEFAULT 1;           -- 0: deleted; its number is never used again
ALTER TABLE collection ADD COLUMN settings TEXT NOT NULL DEFAULT '{}';     -- JSON, see places.api.PlaceSettings
ALTER TABLE collection ADD COLUMN is_live INTEGER NOT NULL DEFAULT 1;
ALTER TABLE notes_folder ADD COLUMN settings TEXT NOT NULL DEFAULT '{}';
ALTER TABLE notes_folder ADD COLUMN is_live INTEGER NOT NULL DEFAULT 1;
CREATE TABLE link (               -- references, each once for both of its ends
  number INTEGER NOT NULL, source INTEGER NOT NULL, target INTEGER NOT NULL,
  source_place REAL NOT NULL, target_place REAL NOT NULL,   -- its place in the list at either end
  PRIMARY KEY (number, source, target)) STRICT, WITHOUT ROWID;
CREATE INDEX link_back ON link (number, target, source);
CREATE TABLE trash (
  id INTEGER PRIMARY KEY AUTOINCREMENT, place TEXT NOT NULL, title TEXT NOT NULL, deleted TEXT NOT NULL,
  kept TEXT NOT NULL,             -- JSON: the row by its columns, body and links; of a note its path
  content BLOB) STRICT;           -- of a note: the file
CREATE TABLE finished (id INTEGER PRIMARY KEY AUTOINCREMENT, token TEXT NOT NULL) STRICT;   -- see places.unfinished
CREATE TABLE page_file (sha256 TEXT PRIMARY KEY) STRICT;      -- all copies in pages/; not undone, unlike their rows
CREATE TABLE file (               -- files of entries, in files/; not undone
  sha256 TEXT PRIMARY KEY, media_type TEXT NOT NULL, size_bytes INTEGER NOT NULL, origin TEXT NOT NULL) STRICT;
"""
FOURTH_SQL = """
CREATE TABLE mark (
  id INTEGER PRIMARY KEY AUTOINCREMENT, place TEXT NOT NULL,
  owner TEXT NOT NULL,            -- number of an entry; path of a note
  position REAL NOT NULL, kind TEXT NOT NULL, exact TEXT NOT NULL, prefix TEXT NOT NULL, suffix TEXT NOT NULL,
  comment TEXT NOT NULL, made TEXT NOT NULL) STRICT;
CREATE INDEX mark_owner ON mark (place, owner);
CREATE TABLE site_icon (host TEXT PRIMARY KEY, address TEXT NOT NULL) STRICT;    -- of a picture; not undone
CREATE TABLE sample (             -- pages on which a template is tried
  id INTEGER PRIMARY KEY AUTOINCREMENT, template_id INTEGER NOT NULL, position REAL NOT NULL,
  address TEXT NOT NULL, title TEXT NOT NULL, captured TEXT NOT NULL, sha256 TEXT NOT NULL, media_type TEXT NOT NULL,
  accepted TEXT NOT NULL) STRICT; -- JSON: what its fields are to be, by key
"""
FIFTH_SQL = """
ALTER TABLE view ADD COLUMN layout TEXT NOT NULL DEFAULT '{}';             -- JSON, see entries.layout
ALTER TABLE collection ADD COLUMN layout TEXT NOT NULL DEFAULT '{}';
ALTER TABLE notes_folder ADD COLUMN layout TEXT NOT NULL DEFAULT '{}';
ALTER TABLE history ADD COLUMN origin TEXT NOT NULL DEFAULT 'window';      -- who did it
ALTER TABLE history RENAME COLUMN undone TO state;                         -- see places.history.StepState
ALTER TABLE finished RENAME TO finished_step;
CREATE TABLE setting (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT;  -- the library's own, see core.settings
CREATE TABLE arriving (           -- collections whose rows are being brought in and that nobody sees yet; not undone
  number INTEGER PRIMARY KEY) STRICT;
"""
SIXTH_SQL = """
ALTER TABLE mark ADD COLUMN picture TEXT NOT NULL DEFAULT '';               -- address of a marked picture
ALTER TABLE history ADD COLUMN parts INTEGER NOT NULL DEFAULT 1;            -- one more with each that came late
CREATE TABLE draft (              -- slips that were touched and not kept yet; not undone
  id INTEGER PRIMARY KEY AUTOINCREMENT, address TEXT NOT NULL UNIQUE, title TEXT NOT NULL, touched TEXT NOT NULL,
  by_hand TEXT NOT NULL,          -- JSON, see templates.by_hand
  page TEXT NOT NULL,             -- JSON: what is known of the page besides its contents
  content BLOB NOT NULL,          -- its HTML, or the file that it stands for, compressed by zlib
  screenshot BLOB NOT NULL,
  dropped INTEGER NOT NULL DEFAULT 0) STRICT;     -- by the person, who may still bring it back
"""
SEVENTH_SQL = """
CREATE TABLE capture_list (       -- lists of addresses that are captured; not undone
  id INTEGER PRIMARY KEY AUTOINCREMENT, label TEXT NOT NULL, made TEXT NOT NULL,
  wanted TEXT NOT NULL) STRICT;   -- JSON, see entries.capture_list
CREATE TABLE capture_item (
  list INTEGER NOT NULL, position INTEGER NOT NULL, address TEXT NOT NULL, title TEXT NOT NULL, state TEXT NOT NULL,
  said TEXT NOT NULL DEFAULT '', place TEXT NOT NULL DEFAULT '', entry INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (list, position)) STRICT, WITHOUT ROWID;
"""
EIGHTH_SQL = """
CREATE TABLE stopped (            -- where one stopped reading; not undone
  place TEXT NOT NULL, owner TEXT NOT NULL,       -- as of a mark
  position INTEGER NOT NULL, at TEXT NOT NULL, PRIMARY KEY (place, owner)) STRICT, WITHOUT ROWID;
"""
NINTH_SQL = """
ALTER TABLE mark ADD COLUMN locator TEXT NOT NULL DEFAULT '';               -- its page or time, "p. 5", where its source has such
CREATE TABLE gathered (           -- marks gathered for a chapter, which is an entry, known as by its marks
  id INTEGER PRIMARY KEY AUTOINCREMENT, place TEXT NOT NULL, owner TEXT NOT NULL,
  mark INTEGER NOT NULL, position REAL NOT NULL, UNIQUE (place, owner, mark)) STRICT;
CREATE TABLE mark_use (           -- texts that the words of a mark went into; place and owner "": outside
  id INTEGER PRIMARY KEY AUTOINCREMENT, mark INTEGER NOT NULL, place TEXT NOT NULL, owner TEXT NOT NULL,
  title TEXT NOT NULL, at TEXT NOT NULL) STRICT;
"""
TENTH_SQL = """
CREATE TABLE list_stop (          -- living lists whose last filling was undone; not undone itself
  place TEXT NOT NULL, path TEXT NOT NULL, list TEXT NOT NULL, PRIMARY KEY (place, path, list)) STRICT, WITHOUT ROWID;
CREATE TABLE mirror (             -- entries that are kept in step with notes, and what both last were (JSON)
  notes TEXT NOT NULL, entry INTEGER NOT NULL, path TEXT NOT NULL, held TEXT NOT NULL,
  PRIMARY KEY (notes, entry)) STRICT, WITHOUT ROWID;
"""
USUAL_NAMES_SQL = """
ALTER TABLE chosen RENAME TO multi_value;
DROP INDEX chosen_by_entry;
CREATE INDEX multi_value_by_entry ON multi_value (entry_id, column);
"""
STEPS = {
    1: SECOND_SQL,
    2: THIRD_SQL,
    3: FOURTH_SQL,
    4: FIFTH_SQL + USUAL_NAMES_SQL,
    5: SIXTH_SQL,
    6: SEVENTH_SQL,
    7: EIGHTH_SQL,
    8: NINTH_SQL,
    9: TENTH_SQL,
    10: "",  # see migrate: what is made for each collection
}
"""What brings a library of each version to the next."""

RECORDED = (
    "collection",
    "field",
    "notes_folder",
    "content",
    "view",
    "template",
    "page",
    "link",
    "trash",
    "mark",
    "gathered",
    "mark_use",
    "mirror",
    "sample",
    "setting",
)
"""Tables whose changes are undone, besides those of the collections."""


def version_of(database: Database) -> int:
    """The version of a library's tables; 0: there are none yet.

    Raises:
        EnvironmentFailure: it was written by a newer version of the program, or would have to be changed and may not be.
    """
    version = int(str(database.one("PRAGMA user_version")))
    if version > VERSION:
        raise EnvironmentFailure(
            "library-newer",
            f"{database.path} was written by a newer version of Wily Magpie.",
            "Open it with that version, or update this one.",
        )
    if version < VERSION and database.is_read_only:
        raise EnvironmentFailure(
            "library-older",
            f"{database.path} was written by an older version of Wily Magpie, or holds nothing yet.",
            "Open it once where it may be written to; a copy is made first.",
        )
    return version


def create(database: Database) -> None:
    """Makes the tables of a new library, as part of the transaction under way; `settle` ends it."""
    with database.writing() as connection:
        later = (THIRD_SQL, FOURTH_SQL, FIFTH_SQL, SIXTH_SQL, SEVENTH_SQL, EIGHTH_SQL, NINTH_SQL, TENTH_SQL)
        connection.execute("".join((SHARED_SQL, FIRST_SQL, *later)))


def settle(database: Database) -> None:
    """Says that the tables are those of this version."""
    with database.writing() as connection:
        connection.execute(f"PRAGMA user_version = {VERSION}")


def migrate(database: Database, version: int) -> None:
    """Brings a library of an older version to this one; a checked copy is made first.

    Raises:
        EnvironmentFailure: no copy could be made of it.
    """
    database.back_up(database.path.with_name(f"library-before-version-{VERSION}.sqlite"))
    with database.writing() as connection:
        for step in range(version, VERSION):
            connection.execute(STEPS[step])
        if version < 3:
            there = {(path.name.partition(".")[0],) for path in (database.path.parent / "pages").glob("*")}
            connection.executemany("INSERT INTO page_file VALUES (?)", sorted(there))
        captured = database.rows(
            "SELECT place, id FROM field WHERE key = ? AND place GLOB 'collection:*'", (NEWEST_FIRST,)
        )
        for place, number in captured:
            connection.execute(order_sql(f"c{str(place).partition(':')[2]}", f"f{number}"))
        settle(database)
