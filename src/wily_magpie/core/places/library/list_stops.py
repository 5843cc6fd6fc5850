"""Living lists that are not filled, since their last filling was undone, until somebody asks for it. It is no step."""

from collections.abc import Iterable

from wily_magpie.core.places.database import Database


class ListStops:
    """The table of it; a list is known by its note and its first comment (LivingList.key)."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def of(self, place: str, path: str) -> frozenset[str]:
        """The keys of the lists of a note that are stopped."""
        rows = self.database.rows("SELECT list FROM list_stop WHERE place = ? AND path = ?", (place, path))
        return frozenset(str(key) for (key,) in rows)

    def put(self, place: str, path: str, keys: Iterable[str]) -> None:
        """Stops lists of a note."""
        with self.database.writing() as connection:
            rows = [(place, path, key) for key in keys]
            connection.executemany("INSERT OR IGNORE INTO list_stop VALUES (?, ?, ?)", rows)

    def drop(self, place: str, path: str) -> None:
        """Lets all lists of a note be filled again."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM list_stop WHERE place = ? AND path = ?", (place, path))

    def move(self, place: str, old: str, new: str) -> None:
        """Follows a note to another path."""
        with self.database.writing() as connection:
            connection.execute(
                "UPDATE OR REPLACE list_stop SET path = ?3 WHERE place = ?1 AND path = ?2", (place, old, new)
            )
