"""Which entry is kept in step with which note, and what both were when they last were the same. Part of the steps that change it."""

import json
from collections.abc import Mapping

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.places.database import Database


@dataclass(frozen=True)
class Twin:
    """An entry and its note.

    Attributes:
        path: of the note; "" where the person took it away, and the entry stays without one.
        values: of the fields, as texts, by key; body; marks: as they both were.
    """

    path: str
    values: Mapping[str, str]
    body: str
    marks: str


class MirrorStore:
    """The table of it."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def of(self, notes: str) -> dict[int, Twin]:
        """All of a notes folder, by the ids of the entries."""
        rows = self.database.rows("SELECT entry, path, held FROM mirror WHERE notes = ?", (notes,))
        out = {}
        for entry, path, held in rows:
            values, body, marks = json.loads(str(held))
            out[int(str(entry))] = Twin(str(path), values, body, marks)
        return out

    def put(self, notes: str, entry: int, twin: Twin) -> None:
        """Notes that both are the same now."""
        held = json.dumps([dict(twin.values), twin.body, twin.marks], ensure_ascii=False)
        with self.database.writing() as connection:
            connection.execute("INSERT OR REPLACE INTO mirror VALUES (?, ?, ?, ?)", (notes, entry, twin.path, held))

    def drop(self, notes: str, entry: int) -> None:
        """Forgets one."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM mirror WHERE notes = ? AND entry = ?", (notes, entry))

    def move(self, notes: str, old: str, new: str) -> None:
        """Follows a note to another path."""
        with self.database.writing() as connection:
            connection.execute("UPDATE mirror SET path = ?3 WHERE notes = ?1 AND path = ?2", (notes, old, new))
