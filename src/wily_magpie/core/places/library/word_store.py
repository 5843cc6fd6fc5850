"""The disposable index of all words that are kept: of every entry its title, fields, text, marks and the texts of its files."""

from collections.abc import Callable, Sequence
from pathlib import Path

import apsw

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.folding import tokenizer

TABLES = """
CREATE TABLE IF NOT EXISTS document (
  id INTEGER PRIMARY KEY AUTOINCREMENT, place TEXT NOT NULL, entry INTEGER NOT NULL, signature TEXT NOT NULL,
  kind TEXT NOT NULL, status TEXT NOT NULL, year TEXT NOT NULL, UNIQUE (place, entry)) STRICT;
CREATE TABLE IF NOT EXISTS file_text (stored TEXT PRIMARY KEY, words TEXT NOT NULL) STRICT;
CREATE VIRTUAL TABLE IF NOT EXISTS words USING fts5 (
  title, fields, body, marks, files, content = '', contentless_delete = 1, prefix = '3', tokenize = 'folding');
"""
WEIGHTS = "8.0, 2.0, 1.0, 2.0, 0.5"
"""Of the columns, in the order above: what bm25 counts a word for."""
FACETS = ("place", "kind", "status", "year")
MOST_RANKED, NEWEST = 20_000, 5_000
"""Where more answer, the newest alone are ranked: ranking all takes longer than a key press."""
FILE_NAME = "words-1.sqlite"


class WordDatabase(Database):
    """A database whose connections know our tokenizer."""

    def connect(self) -> apsw.Connection:
        connection = super().connect()
        connection.register_fts5_tokenizer("folding", tokenizer)
        return connection


@dataclass(frozen=True)
class WordDocument:
    """An entry as the index knows it.

    Attributes:
        signature: another one whenever it was changed.
        year: four figures, or "".
    """

    entry_id: int
    signature: str
    kind: str
    status: str
    year: str
    title: str
    fields: str
    body: str
    marks: str
    files: str


class WordStore:
    """See the module."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(exist_ok=True)
        self.database = WordDatabase(folder / FILE_NAME, is_durable=False)
        with self.database.writing() as connection:
            connection.execute(TABLES)

    def close(self) -> None:
        """Closes it."""
        self.database.close()

    def signatures(self, place: str) -> dict[int, str]:
        """What is known of a place: signatures by the entries' ids."""
        rows = self.database.rows("SELECT entry, signature FROM document WHERE place = ?", (place,))
        return {int(str(entry)): str(signature) for entry, signature in rows}

    def put(self, place: str, documents: Sequence[WordDocument]) -> None:
        """Adds documents, or writes them anew."""
        with self.database.writing() as connection:
            self.drop(place, [one.entry_id for one in documents])
            for one in documents:
                connection.execute(
                    "INSERT INTO document (place, entry, signature, kind, status, year) VALUES (?, ?, ?, ?, ?, ?)",
                    (place, one.entry_id, one.signature, one.kind, one.status, one.year),
                )
                connection.execute(
                    "INSERT INTO words (rowid, title, fields, body, marks, files) VALUES (?, ?, ?, ?, ?, ?)",
                    (connection.last_insert_rowid(), one.title, one.fields, one.body, one.marks, one.files),
                )

    def drop(self, place: str, ids: Sequence[int]) -> None:
        """Forgets documents."""
        with self.database.writing() as connection:
            for entry_id in ids:
                found = self.database.one("SELECT id FROM document WHERE place = ? AND entry = ?", (place, entry_id))
                if found is not None:
                    connection.execute("DELETE FROM words WHERE rowid = ?", (found,))
                    connection.execute("DELETE FROM document WHERE id = ?", (found,))

    def drop_places(self, left: Sequence[str]) -> None:
        """Forgets the documents of places that are gone."""
        for (place,) in self.database.rows("SELECT DISTINCT place FROM document"):
            if str(place) not in left:
                self.drop(str(place), list(self.signatures(str(place))))

    def file_words(self, stored: str, read: Callable[[], str]) -> str:
        """The text of a stored file, read once."""
        known = self.database.one("SELECT words FROM file_text WHERE stored = ?", (stored,))
        if known is not None:
            return str(known)
        words = read()
        with self.database.writing() as connection:
            connection.execute("INSERT OR REPLACE INTO file_text VALUES (?, ?)", (stored, words))
        return words

    # asking

    def count(self, match: str, narrowed: str, values: Sequence[object]) -> int:
        """How many documents match.

        Args:
            match: an expression of FTS5. narrowed: a condition over `document`, "" for none. values: of its question marks.
        """
        if not narrowed:
            return int(str(self.database.one("SELECT count(*) FROM words WHERE words MATCH ?", (match,))))
        inner = f"SELECT id FROM document WHERE {narrowed}"
        sql = f"SELECT count(*) FROM words WHERE words MATCH ? AND rowid IN ({inner})"
        return int(str(self.database.one(sql, (match, *values))))

    def best(
        self, match: str, narrowed: str, values: Sequence[object], most: int, *, is_many: bool
    ) -> list[tuple[str, int]]:
        """(place, entry) of the documents that match best.

        Args:
            is_many: whether so many match that only the newest are ranked.
        """
        inner = f" AND rowid IN (SELECT id FROM document WHERE {narrowed})" if narrowed else ""
        newest = " AND rowid > (SELECT max(id) FROM document) - ?" if is_many else ""
        ids = (
            f"SELECT rowid AS number, bm25(words, {WEIGHTS}) AS rank FROM words WHERE words MATCH ?{inner}{newest}"
            " ORDER BY rank LIMIT ?"
        )
        limits = (NEWEST, most) if is_many else (most,)
        sql = f"SELECT place, entry FROM ({ids}) JOIN document ON document.id = number ORDER BY rank"
        return [(str(place), int(str(entry))) for place, entry in self.database.rows(sql, (match, *values, *limits))]

    def facets(self, match: str, narrowed: str, values: Sequence[object]) -> dict[str, list[tuple[str, int]]]:
        """How many of the documents that match there are of each place, kind, status and year."""
        where = f" AND {narrowed}" if narrowed else ""
        sql = (
            "SELECT place, kind, status, year, count(*) FROM words JOIN document ON document.id = words.rowid"
            f" WHERE words MATCH ?{where} GROUP BY 1, 2, 3, 4"
        )
        counts: dict[str, dict[str, int]] = {name: {} for name in FACETS}
        for *parts, count in self.database.rows(sql, (match, *values)):
            for name, part in zip(FACETS, parts, strict=True):
                counts[name][str(part)] = counts[name].get(str(part), 0) + int(str(count))
        return {name: sorted(found.items(), key=lambda one: -one[1]) for name, found in counts.items()}
