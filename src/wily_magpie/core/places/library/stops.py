"""Where one stopped reading. It is no step: undo concerns what is kept."""

from wily_magpie.core.places.database import Database
from wily_magpie.core.places.table import now


def named(owner: str, file: str) -> str:
    """An entry, or a file of it, as its row is named."""
    return f"{owner}\n{file}" if file else owner


class Stops:
    """The table of it; an entry is known by its place and its owner, as for its marks."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def of(self, place: str, owner: str, file: str = "") -> int:
        """Letters of the text that stand above, or where one is in a file; 0 where one did not begin."""
        sql = "SELECT position FROM stopped WHERE place = ? AND owner = ?"
        rows = self.database.rows(sql, (place, named(owner, file)))
        return int(str(rows[0][0])) if rows else 0

    def put(self, place: str, owner: str, position: int, file: str = "") -> None:
        """Notes a place of the text, or of a file; its beginning needs no note."""
        owner = named(owner, file)
        with self.database.writing() as connection:
            connection.execute("DELETE FROM stopped WHERE place = ? AND owner = ?", (place, owner))
            if position > 0:
                connection.execute("INSERT INTO stopped VALUES (?, ?, ?, ?)", (place, owner, position, now()))

    def move(self, place: str, old: str, new: str) -> None:
        """Follows a note to another path."""
        with self.database.writing() as connection:
            connection.execute(
                "UPDATE OR REPLACE stopped SET owner = ?1 || substr(owner, length(?3) + 1)"
                " WHERE place = ?2 AND (owner = ?3 OR substr(owner, 1, length(?3) + 1) = ?3 || char(10))",
                (new, place, old),
            )
