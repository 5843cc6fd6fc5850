"""A library's own settings, as text by name. Whoever changes something is inside a step."""

from wily_magpie.core.places.database import Database


class SettingStore:
    """The table of that name."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def all(self) -> dict[str, str]:
        """What is set, by name, as text."""
        return {str(name): str(value) for name, value in self.database.rows("SELECT name, value FROM setting")}

    def set(self, name: str, text: str | None) -> None:
        """Sets one; None: as usual."""
        with self.database.writing() as connection:
            if text is None:
                connection.execute("DELETE FROM setting WHERE name = ?", (name,))
            else:
                connection.execute(
                    "INSERT INTO setting VALUES (?1, ?2) ON CONFLICT (name) DO UPDATE SET value = ?2", (name, text)
                )
