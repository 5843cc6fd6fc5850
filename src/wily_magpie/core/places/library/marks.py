"""The marks of entries."""

import json
from collections.abc import Sequence

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.mark import Mark, in_page_order, with_mark
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.table import now

ROW = "id, place, owner, made, exact, kind, comment, prefix, suffix, picture, locator"
THIS_ONE = "place = ? AND owner = ? AND exact = ? AND prefix = ? AND suffix = ? AND picture = ?"


@dataclass(frozen=True)
class MarkRow:
    """A mark as it is stored.

    Attributes:
        number: by which it is known for ever.
        place, owner: of the entry.
        made: the moment, ISO 8601.
    """

    number: int
    place: str
    owner: str
    made: str
    mark: Mark


def row_of(row: Sequence[object]) -> MarkRow:
    """A row as it is asked for by ROW."""
    number, place, owner, made, *parts = map(str, row)
    return MarkRow(int(number), place, owner, made, Mark(*parts))


class Marks:
    """The table of marks; an entry is known by its place and its owner: number, or path of a note."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def of(self, place: str, owner: str) -> tuple[Mark, ...]:
        """The marks of an entry in their order."""
        sql = (
            "SELECT exact, kind, comment, prefix, suffix, picture, locator FROM mark WHERE place = ? AND owner = ?"
            " ORDER BY position, id"
        )
        return tuple(Mark(*map(str, row)) for row in self.database.rows(sql, (place, owner)))

    def of_many(self, place: str, owners: Sequence[str]) -> dict[str, tuple[Mark, ...]]:
        """The marks of some entries of a place, by their owners; those without any are not among them."""
        sql = (
            "SELECT owner, exact, kind, comment, prefix, suffix, picture, locator FROM mark WHERE place = ?"
            " AND owner IN (SELECT value FROM json_each(?)) ORDER BY owner, position, id"
        )
        out: dict[str, tuple[Mark, ...]] = {}
        for owner, *parts in self.database.rows(sql, (place, json.dumps(list(owners)))):
            out[str(owner)] = (*out.get(str(owner), ()), Mark(*map(str, parts)))
        return out

    def rows_of(self, place: str) -> list[MarkRow]:
        """All marks of a place, by owner, as they stand in the text."""
        sql = f"SELECT {ROW} FROM mark WHERE place = ? ORDER BY owner, position, id"
        return [row_of(row) for row in self.database.rows(sql, (place,))]

    def numbered(self, numbers: Sequence[int]) -> list[MarkRow]:
        """The marks of some numbers, in any order."""
        sql = f"SELECT {ROW} FROM mark WHERE id IN (SELECT value FROM json_each(?))"
        return [row_of(row) for row in self.database.rows(sql, (json.dumps(list(numbers)),))]

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
                        "INSERT INTO mark (place, owner, position, kind, exact, prefix, suffix, comment, made, picture, locator)"
                        " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                        (place, owner, position, mark.kind, mark.exact, mark.prefix, mark.suffix, mark.comment, now(),
                         mark.picture, mark.locator),
                    )  # fmt: skip

    def change(self, place: str, owner: str, old: Mark, fresh: Mark, text: str) -> None:
        """Gives a mark another extent, kind and comment; where the new extent is that of another mark, that one goes."""
        if old.place != fresh.place:
            self.remove(place, owner, fresh)
            with self.database.writing() as connection:
                connection.execute(
                    f"UPDATE mark SET exact = ?, prefix = ?, suffix = ?, picture = ?, locator = ? WHERE {THIS_ONE}",
                    (*fresh.place, fresh.locator, place, owner, *old.place),
                )
        self.put(place, owner, (fresh,), text)

    def number_of(self, place: str, owner: str, mark: Mark) -> int | None:
        """By what number a mark is known for ever; None where it is gone."""
        found = self.database.rows(f"SELECT id FROM mark WHERE {THIS_ONE}", (place, owner, *mark.place))
        return int(str(found[0][0])) if found else None

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
