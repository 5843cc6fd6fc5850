"""Templates and their sample pages, as the library keeps them: JSON in rows."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import field

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.stored_json import read_texts


@dataclass(frozen=True)
class SampleRow:
    """A page on which a template is tried.

    Attributes:
        captured: when it was taken; `now` of its expressions, so that a test gives the same on every day.
        accepted: what fields are to be on it, as text, by key.
    """

    id: int
    address: str
    title: str
    captured: str
    sha256: str
    media_type: str
    accepted: Mapping[str, str] = field(default_factory=dict)


class TemplateStore:
    """The tables of templates and samples; whoever changes them opens a step first."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def texts(self) -> list[tuple[str, str]]:
        """Rows of (name, JSON) in the order in which they are tried."""
        rows = self.database.rows("SELECT name, definition FROM template ORDER BY position, id")
        return [(str(name), str(text)) for name, text in rows]

    def number(self, name: str) -> int:
        """The number of a template; UserError where there is none of that name."""
        found = self.database.one("SELECT id FROM template WHERE name = ? COLLATE NOCASE", (name,))
        if found is None:
            raise UserError("unknown-template", f"There is no template “{name}”.", "Look at the list of templates.")
        return int(str(found))

    def put(self, name: str, text: str, new_name: str = "") -> None:
        """Adds a template at the end, or replaces the one of that name, which may get another name."""
        new_name = new_name or name
        with self.database.writing() as connection:
            found = self.database.one("SELECT id FROM template WHERE name = ? COLLATE NOCASE", (name,))
            taken = self.database.one("SELECT id FROM template WHERE name = ? COLLATE NOCASE", (new_name,))
            if taken is not None and taken != found:
                raise UserError("template-known", f"There is a template “{new_name}” already.", "Choose another name.")
            if found is not None:
                sql = "UPDATE template SET name = ?, definition = ? WHERE id = ?"
                connection.execute(sql, (new_name, text, int(str(found))))
            else:
                connection.execute(
                    "INSERT INTO template (name, position, definition)"
                    " VALUES (?, (SELECT coalesce(max(position), 0) + 1 FROM template), ?)",
                    (new_name, text),
                )

    def remove(self, name: str) -> None:
        """Takes a template out, with its samples."""
        number = self.number(name)
        with self.database.writing() as connection:
            connection.execute("DELETE FROM sample WHERE template_id = ?", (number,))
            connection.execute("DELETE FROM template WHERE id = ?", (number,))

    def order(self, names: Sequence[str]) -> None:
        """Puts templates into an order."""
        with self.database.writing() as connection:
            connection.executemany(
                "UPDATE template SET position = ? WHERE name = ?", [(float(at), name) for at, name in enumerate(names)]
            )

    # samples

    def samples(self, name: str) -> list[SampleRow]:
        """The sample pages of a template in order."""
        sql = (
            "SELECT sample.id, address, title, captured, sha256, media_type, accepted FROM sample"
            " JOIN template ON template.id = template_id WHERE template.name = ? COLLATE NOCASE"
            " ORDER BY sample.position, sample.id"
        )
        return [
            SampleRow(
                int(str(number)), str(address), str(title), str(captured), str(sha), str(kind), read_texts(accepted)
            )
            for number, address, title, captured, sha, kind, accepted in self.database.rows(sql, (name,))
        ]

    def add_sample(self, name: str, row: SampleRow) -> int:
        """A further sample page; its number."""
        number = self.number(name)
        with self.database.writing() as connection:
            connection.execute(
                "INSERT INTO sample (template_id, position, address, title, captured, sha256, media_type, accepted) VALUES (?1,"
                " (SELECT coalesce(max(position), 0) + 1 FROM sample WHERE template_id = ?1), ?, ?, ?, ?, ?, ?)",
                (number, row.address, row.title, row.captured, row.sha256, row.media_type, written(row.accepted)),
            )
            return connection.last_insert_rowid()

    def remove_sample(self, sample_id: int) -> None:
        """Takes a sample page out."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM sample WHERE id = ?", (sample_id,))

    def accept(self, sample_id: int, accepted: Mapping[str, str]) -> None:
        """Sets what the fields are to be on a sample page."""
        with self.database.writing() as connection:
            connection.execute("UPDATE sample SET accepted = ? WHERE id = ?", (written(accepted), sample_id))


def written(accepted: Mapping[str, str]) -> str:
    """Accepted values as JSON."""
    return json.dumps(dict(accepted), ensure_ascii=False)
