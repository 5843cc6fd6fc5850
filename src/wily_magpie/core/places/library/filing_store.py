"""What filing by what was filed before is reckoned from: a disposable index beside the library's others.

A vector of words for each entry, and the program's own record of proposals that were right and wrong.
"""

import json
from collections.abc import Mapping, Sequence
from pathlib import Path

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.places.database import Database

MOST_DOCUMENTS, MOST_RECORDS = 20_000, 2_000
"""So many of the latest are looked at."""
TABLES = """
CREATE TABLE IF NOT EXISTS document (
  id INTEGER PRIMARY KEY AUTOINCREMENT, place TEXT NOT NULL, owner TEXT NOT NULL, host TEXT NOT NULL, people TEXT NOT NULL,
  vector BLOB NOT NULL, UNIQUE (place, owner)) STRICT;
CREATE TABLE IF NOT EXISTS record (
  id INTEGER PRIMARY KEY AUTOINCREMENT, features TEXT NOT NULL, is_right INTEGER NOT NULL) STRICT;
CREATE TABLE IF NOT EXISTS emptied (      -- entries up to this one are not learned from again
  place TEXT PRIMARY KEY, entry INTEGER NOT NULL) STRICT;
"""


@dataclass(frozen=True)
class Document:
    """One entry, as the index knows it; owner: its number, or the path of a note."""

    owner: str
    host: str
    people: tuple[str, ...]
    vector: bytes


class FilingStore:
    """See the module."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(exist_ok=True)
        self.database = Database(folder / "filing.sqlite", is_durable=False)
        with self.database.writing() as connection:
            connection.execute(TABLES)

    def close(self) -> None:
        """Closes it."""
        self.database.close()

    def version(self, place: str) -> object:
        """Another one whenever documents of a place are others."""
        return tuple(self.database.rows("SELECT count(*), max(id) FROM document WHERE place = ?", (place,))[0])

    def documents(self, place: str) -> list[Document]:
        """Those of a place, the latest last."""
        rows = self.database.rows(
            "SELECT owner, host, people, vector FROM document WHERE place = ? ORDER BY id DESC LIMIT ?",
            (place, MOST_DOCUMENTS),
        )
        return [
            Document(
                str(owner),
                str(host),
                tuple(json.loads(str(people))),
                bytes(vector) if isinstance(vector, bytes) else b"",
            )
            for owner, host, people, vector in reversed(rows)
        ]

    def owners(self, place: str) -> set[str]:
        """The owners that are known."""
        return {str(owner) for (owner,) in self.database.rows("SELECT owner FROM document WHERE place = ?", (place,))}

    def put(self, place: str, documents: Sequence[Document]) -> None:
        """Adds documents, or writes them anew."""
        with self.database.writing() as connection:
            connection.executemany(
                "INSERT OR REPLACE INTO document (place, owner, host, people, vector) VALUES (?, ?, ?, ?, ?)",
                [(place, one.owner, one.host, json.dumps(one.people), one.vector) for one in documents],
            )

    def remove(self, place: str, owners: Sequence[str]) -> None:
        """Forgets documents."""
        with self.database.writing() as connection:
            connection.executemany(
                "DELETE FROM document WHERE place = ? AND owner = ?", [(place, one) for one in owners]
            )

    def count_of_documents(self, place: str) -> int:
        """How many documents a place has."""
        return int(str(self.database.one("SELECT count(*) FROM document WHERE place = ?", (place,))))

    def count_of_records(self) -> int:
        """How many proposals are recorded, those that are no more looked at too."""
        return int(str(self.database.one("SELECT count(*) FROM record")))

    def records(self) -> list[tuple[tuple[float, ...], bool]]:
        """The latest proposals: what was known of each, and whether it was right."""
        rows = self.database.rows("SELECT features, is_right FROM record ORDER BY id DESC LIMIT ?", (MOST_RECORDS,))
        return [(tuple(json.loads(str(features))), bool(is_right)) for features, is_right in reversed(rows)]

    def add_records(self, records: Sequence[tuple[tuple[float, ...], bool]]) -> None:
        """Notes how proposals ended."""
        with self.database.writing() as connection:
            connection.executemany(
                "INSERT INTO record (features, is_right) VALUES (?, ?)",
                [(json.dumps(features), int(is_right)) for features, is_right in records],
            )

    def replace_records(self, records: Sequence[tuple[tuple[float, ...], bool]]) -> None:
        """Begins the record anew."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM record")
        self.add_records(records)

    def emptied(self, place: str) -> int:
        """The number of the last entry that is not learned from again; 0 for none."""
        return int(str(self.database.one("SELECT entry FROM emptied WHERE place = ?", (place,)) or 0))

    def empty(self, last: Mapping[str, int]) -> None:
        """Forgets everything; it begins anew with what comes behind the last entry of each place."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM document; DELETE FROM record")
            connection.executemany("INSERT OR REPLACE INTO emptied VALUES (?, ?)", list(last.items()))
