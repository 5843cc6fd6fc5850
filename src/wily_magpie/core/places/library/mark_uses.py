"""What becomes of marks: the chapters for which they are gathered, and the texts in which they were used."""

import json
from collections.abc import Mapping, Sequence

from wily_magpie.core.entries.mark_use import MarkUse
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.table import now

TABLES = ("gathered", "mark_use")


class MarkUses:
    """The tables of it.

    A mark is known by its number; a chapter, or another text, by its place and its owner, as an entry is by its marks. A mark that is
    taken away leaves its rows behind, which nobody sees, so that undo brings it back with them.
    """

    def __init__(self, database: Database) -> None:
        self.database = database

    def note(self, marks: Sequence[int], place: str, owner: str, title: str) -> None:
        """Notes that marks were used; "" for place and owner: somewhere outside."""
        at = now()
        with self.database.writing() as connection:
            connection.executemany(
                "INSERT INTO mark_use (mark, place, owner, title, at) VALUES (?, ?, ?, ?, ?)",
                [(mark, place, owner, title, at) for mark in marks],
            )

    def all(self) -> Mapping[int, tuple[MarkUse, ...]]:
        """Where each mark was used, the earliest first; those that were not used are not among them."""
        out: dict[int, tuple[MarkUse, ...]] = {}
        for mark, *parts in self.database.rows("SELECT mark, title, at, place FROM mark_use ORDER BY id"):
            number = int(str(mark))
            out[number] = (*out.get(number, ()), MarkUse(*map(str, parts)))
        return out

    def gathered(self, place: str, owner: str) -> list[int]:
        """The marks gathered for a chapter, in their order there."""
        sql = (
            "SELECT mark FROM gathered JOIN mark ON mark.id = gathered.mark WHERE gathered.place = ? AND gathered.owner = ?"
            " ORDER BY gathered.position, gathered.id"
        )
        return [int(str(mark)) for (mark,) in self.database.rows(sql, (place, owner))]

    def chapters(self) -> list[tuple[str, str]]:
        """The chapters for which marks are gathered, as (place, owner)."""
        sql = "SELECT DISTINCT gathered.place, gathered.owner FROM gathered JOIN mark ON mark.id = gathered.mark ORDER BY 1, 2"
        return [(str(place), str(owner)) for place, owner in self.database.rows(sql)]

    def gather(self, place: str, owner: str, marks: Sequence[int]) -> None:
        """Adds marks behind those of a chapter; those that are there already stay where they are."""
        there = set(self.gathered(place, owner))
        with self.database.writing() as connection:
            last = self.database.one(
                "SELECT coalesce(max(position), 0) FROM gathered WHERE place = ? AND owner = ?", (place, owner)
            )
            connection.executemany(
                "INSERT INTO gathered (place, owner, mark, position) VALUES (?, ?, ?, ?)",
                [
                    (place, owner, mark, float(str(last)) + number)
                    for number, mark in enumerate((one for one in dict.fromkeys(marks) if one not in there), 1)
                ],
            )

    def leave(self, place: str, owner: str, marks: Sequence[int]) -> None:
        """Takes marks out of a chapter; they stay where they were made."""
        with self.database.writing() as connection:
            connection.execute(
                "DELETE FROM gathered WHERE place = ? AND owner = ? AND mark IN (SELECT value FROM json_each(?))",
                (place, owner, json.dumps(list(marks))),
            )

    def order(self, place: str, owner: str, marks: Sequence[int]) -> None:
        """Puts the marks of a chapter into an order; those not named, gathered meanwhile, come behind."""
        named = [*marks, *(one for one in self.gathered(place, owner) if one not in set(marks))]
        with self.database.writing() as connection:
            connection.executemany(
                "UPDATE gathered SET position = ? WHERE place = ? AND owner = ? AND mark = ?",
                [(float(number), place, owner, mark) for number, mark in enumerate(named, 1)],
            )

    def move(self, place: str, old: str, new: str) -> None:
        """Follows a note to another path."""
        with self.database.writing() as connection:
            for table in TABLES:
                connection.execute(f"UPDATE {table} SET owner = ? WHERE place = ? AND owner = ?", (new, place, old))
