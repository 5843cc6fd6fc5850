"""The trash: what was deleted, whole, until a person empties it."""

import json
from collections.abc import Sequence

from wily_magpie.core.entries.trashed import Trashed
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.table import now


class Trash:
    """The table of that name; whoever changes something does it inside a step."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def all(self) -> list[Trashed]:
        """What is in it, the latest first."""
        rows = self.database.rows("SELECT id, place, title, deleted FROM trash ORDER BY id DESC")
        return [Trashed(int(str(i)), str(place), str(title), str(deleted)) for i, place, title, deleted in rows]

    def take(self, place: str, table: str, ids: Sequence[int]) -> None:
        """Takes rows of a collection in, with bodies and links; they are not yet deleted by it."""
        with self.database.writing() as connection:
            columns = [str(row[0]) for row in self.database.rows(f"SELECT name FROM pragma_table_info('{table}')")]
            cells = ", ".join(f"'{name}', \"{name}\"" for name in columns)
            for entry_id in ids:
                row = self.database.one(f"SELECT json_object({cells}) FROM {table} WHERE id = ?", (entry_id,))
                if row is None:
                    continue
                links = (
                    "SELECT number, source, target, source_place, target_place FROM link WHERE ?1 IN (source, target)"
                )
                body = self.database.one("SELECT markdown FROM content WHERE entry_id = ?", (entry_id,))
                kept = {"row": json.loads(str(row)), "body": body, "links": self.database.rows(links, (entry_id,))}
                connection.execute(
                    "INSERT INTO trash (place, title, deleted, kept) VALUES (?, ?, ?, ?)",
                    (place, kept["row"]["title"], now(), json.dumps(kept, ensure_ascii=False)),
                )

    def take_note(self, place: str, title: str, path: str, content: bytes) -> None:
        """Takes a note in."""
        with self.database.writing() as connection:
            connection.execute(
                "INSERT INTO trash (place, title, deleted, kept, content) VALUES (?, ?, ?, ?, ?)",
                (place, title, now(), json.dumps({"path": path}, ensure_ascii=False), content),
            )

    def restore_row(self, trash_id: int, table: str, collection: int) -> int:
        """Puts an entry back where it was, under its old number; links whose other end is gone stay away."""
        kept = json.loads(str(self.database.one("SELECT kept FROM trash WHERE id = ?", (trash_id,))))
        row = kept["row"]
        with self.database.writing() as connection:
            entry_id = int(row["id"])
            connection.execute(
                "INSERT INTO content (entry_id, collection_id, markdown) VALUES (?, ?, ?)",
                (entry_id, collection, kept["body"] or ""),
            )
            names = ", ".join(f'"{name}"' for name in row)
            connection.execute(
                f"INSERT INTO {table} ({names}) VALUES ({', '.join('?' * len(row))})", tuple(row.values())
            )
            connection.executemany(
                "INSERT OR IGNORE INTO link SELECT ?1, ?2, ?3, ?4, ?5 WHERE EXISTS (SELECT 1 FROM content WHERE"
                " entry_id = ?2) AND EXISTS (SELECT 1 FROM content WHERE entry_id = ?3)",
                kept["links"],
            )
            connection.execute("DELETE FROM trash WHERE id = ?", (trash_id,))
        return entry_id

    def note(self, trash_id: int) -> tuple[str, bytes]:
        """The path and the contents of a note in the trash."""
        ((kept, content),) = self.database.rows("SELECT kept, content FROM trash WHERE id = ?", (trash_id,))
        return str(json.loads(str(kept))["path"]), content if isinstance(content, bytes) else b""

    def drop(self, ids: Sequence[int] | None = None) -> None:
        """Throws things away for good (as far as undo does not reach); None: all."""
        with self.database.writing() as connection:
            inside = json.dumps([one.id for one in self.all()] if ids is None else list(ids))
            gone = "SELECT json_extract(kept, '$.row.id') FROM trash WHERE id IN (SELECT value FROM json_each(?))"
            connection.execute(f"DELETE FROM page WHERE entry_id IN ({gone})", (inside,))
            connection.execute("DELETE FROM trash WHERE id IN (SELECT value FROM json_each(?))", (inside,))
