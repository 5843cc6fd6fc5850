"""The marks of entries."""

import json
from collections.abc import Sequence

from wily_magpie.core.entries.mark import Mark, in_page_order, with_mark
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.table import now

THIS_ONE = "place = ? AND owner = ? AND exact = ? AND prefix = ? AND suffix = ? AND picture = ?"


class Marks:
    """The table of marks; an entry is known by its place and its owner: number, or path of a note."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def of(self, place: str, owner: str) -> tuple[Mark, ...]:
        """The marks of an entry in their order."""
        sql = (
            "SELECT exact, kind, comment, prefix, suffix, picture FROM mark WHERE place = ? AND owner = ?"
            " ORDER BY position, id"
        )
        return tuple(Mark(*map(str, row)) for row in self.database.rows(sql, (place, owner)))

    def of_many(self, place: str, owners: Sequence[str]) -> dict[str, tuple[Mark, ...]]:
        """The marks of some entries of a place, by their owners; those without any are not among them."""
        sql = (
            "SELECT owner, exact, kind, comment, prefix, suffix, picture FROM mark WHERE place = ?"
            " AND owner IN (SELECT value FROM json_each(?)) ORDER BY owner, position, id"
        )
        out: dict[str, tuple[Mark, ...]] = {}
        for owner, *parts in self.database.rows(sql, (place, json.dumps(list(owners)))):
            out[str(owner)] = (*out.get(str(owner), ()), Mark(*map(str, parts)))
        return out

    def signatures(self, place: str) -> dict[str, str]:
        """What is another text whenever the marks of an entry were changed, by its owner."""
        sql = "SELECT owner, count(*) || ' ' || max(id) || ' ' || total(length(comment)) FROM mark WHERE place = ? GROUP BY owner"
        return {str(owner): str(told) for owner, told in self.database.rows(sql, (place,))}

    def put(self, place: str, owner: str, marks: Sequence[Mark], text: str) -> None:
        """Adds marks to those of an entry; one at the same place gets the new comment and kind.

        Args:
            text: of the entry, in whose order all of them stand.
        """
        there = self.of(place, owner)
        merged = there
        for mark in marks:
            merged = with_mark(merged, mark)
        ordered = in_page_order(merged, text)
        known = {mark.place for mark in there}
        with self.database.writing() as connection:
            for position, mark in enumerate(ordered, 1):
                if mark.place in known:
                    connection.execute(
                        f"UPDATE mark SET kind = ?, comment = ?, position = ? WHERE {THIS_ONE}",
                        (mark.kind, mark.comment, position, place, owner, *mark.place),
                    )
                else:
                    connection.execute(
                        "INSERT INTO mark (place, owner, position, kind, exact, prefix, suffix, comment, made, picture)"
                        " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                        (place, owner, position, mark.kind, mark.exact, mark.prefix, mark.suffix, mark.comment, now(),
                         mark.picture),
                    )  # fmt: skip

    def change(self, place: str, owner: str, old: Mark, fresh: Mark, text: str) -> None:
        """Gives a mark another extent, kind and comment; where the new extent is that of another mark, that one goes."""
        if old.place != fresh.place:
            self.remove(place, owner, fresh)
            with self.database.writing() as connection:
                connection.execute(
                    f"UPDATE mark SET exact = ?, prefix = ?, suffix = ?, picture = ? WHERE {THIS_ONE}",
                    (*fresh.place, place, owner, *old.place),
                )
        self.put(place, owner, (fresh,), text)

    def remove(self, place: str, owner: str, mark: Mark) -> None:
        """Takes a mark away."""
        with self.database.writing() as connection:
            connection.execute(
                f"DELETE FROM mark WHERE {THIS_ONE}",
                (place, owner, *mark.place),
            )

    def move(self, place: str, old: str, new: str) -> None:
        """Lets the marks of a note follow it to another path."""
        with self.database.writing() as connection:
            connection.execute("UPDATE mark SET owner = ? WHERE place = ? AND owner = ?", (new, place, old))
