"""The marks of entries."""

from collections.abc import Sequence

from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.table import now


class Marks:
    """The table of marks; an entry is known by its place and its owner: number, or path of a note."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def of(self, place: str, owner: str) -> tuple[Mark, ...]:
        """The marks of an entry in their order."""
        sql = (
            "SELECT exact, kind, comment, prefix, suffix FROM mark WHERE place = ? AND owner = ? ORDER BY position, id"
        )
        return tuple(Mark(*map(str, row)) for row in self.database.rows(sql, (place, owner)))

    def put(self, place: str, owner: str, marks: Sequence[Mark]) -> None:
        """Adds marks to those of an entry; one that is there already gets the new comment and kind."""
        with self.database.writing() as connection:
            for mark in marks:
                known = self.database.one(
                    "SELECT id FROM mark WHERE place = ? AND owner = ? AND exact = ? AND prefix = ?",
                    (place, owner, mark.exact, mark.prefix),
                )
                if known is not None:
                    connection.execute(
                        "UPDATE mark SET kind = ?, comment = ? WHERE id = ?", (mark.kind, mark.comment, known)
                    )
                else:
                    connection.execute(
                        "INSERT INTO mark (place, owner, position, kind, exact, prefix, suffix, comment, made) VALUES (?, ?,"
                        " (SELECT coalesce(max(position), 0) + 1 FROM mark WHERE place = ?1 AND owner = ?2), ?, ?, ?, ?, ?, ?)",
                        (place, owner, mark.kind, mark.exact, mark.prefix, mark.suffix, mark.comment, now()),
                    )

    def remove(self, place: str, owner: str, mark: Mark) -> None:
        """Takes a mark away."""
        with self.database.writing() as connection:
            connection.execute(
                "DELETE FROM mark WHERE place = ? AND owner = ? AND exact = ? AND prefix = ?",
                (place, owner, mark.exact, mark.prefix),
            )

    def move(self, place: str, old: str, new: str) -> None:
        """Lets the marks of a note follow it to another path."""
        with self.database.writing() as connection:
            connection.execute("UPDATE mark SET owner = ? WHERE place = ? AND owner = ?", (new, place, old))
