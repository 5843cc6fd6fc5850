"""A library: opens the folder, makes its places, keeps views, pages and pictures."""

import gzip
import hashlib
import json
import mimetypes
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.fields import KINDS, Option
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.atomic import write_bytes
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.history import History
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.library.schema import RECORDED, migrate
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.places.table import now


@dataclass(frozen=True)
class FieldPlan:
    """A field that is to be made."""

    key: str
    label: str
    kind: str
    options: tuple[Option, ...] = ()


class Library:
    """One library folder; made if it is not there. May be used from any thread."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        try:
            for part in ("files", "pages", "index"):
                (folder / part).mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise EnvironmentFailure(
                "library-unopened",
                f"The library folder {folder} cannot be made: {error.strerror}.",
                "Choose another one.",
            ) from error
        self.database = Database(folder / "library.sqlite")
        self.is_new = migrate(self.database)
        self.history = History(self.database, self.recorded_tables)
        self.notes_by_id: dict[int, NotesFolder] = {}

    def close(self) -> None:
        """Closes the files."""
        for notes in self.notes_by_id.values():
            notes.close()
        self.database.close()

    def recorded_tables(self) -> list[str]:
        """All tables whose changes can be undone; those of collections that an undo took away, too."""
        tables = self.database.rows("SELECT name FROM sqlite_schema WHERE type = 'table' AND name GLOB 'c[0-9]*'")
        return [*RECORDED, *(str(name) for (name,) in tables)]

    @contextmanager
    def step(self, label: str) -> Iterator[None]:
        """One undoable step."""
        with self.history.step(label):
            yield

    # places

    def collections(self) -> list[Collection]:
        """The collections in order."""
        rows = self.database.rows("SELECT id, name FROM collection ORDER BY position, id")
        return [
            Collection(self.database, int(str(i)), str(name), self.fields_of(f"collection:{i}")) for i, name in rows
        ]

    def notes_folders(self) -> list[NotesFolder]:
        """The notes folders in order; each is one object as long as the library is open."""
        out = []
        for i, name, path in self.database.rows("SELECT id, name, path FROM notes_folder ORDER BY position, id"):
            number = int(str(i))
            fields = self.fields_of(f"notes:{number}")
            notes = self.notes_by_id.get(number)
            if notes is None or notes.name != name or notes.declared != fields or str(notes.path) != path:
                notes = self.notes_by_id[number] = NotesFolder(
                    number, str(name), Path(str(path)), fields, self.folder / "index", self.history
                )
            out.append(notes)
        return out

    def places(self) -> list[Place]:
        """Collections, then notes folders."""
        return [*self.collections(), *self.notes_folders()]

    def place(self, name: str) -> Place:
        """The place of that key or name.

        Raises:
            UserError: there is none.
        """
        places = self.places()
        for place in places:
            if name in (place.key, place.name) or name.casefold() == place.name.casefold():
                return place
        there = ", ".join(place.name for place in places)
        raise UserError("unknown-place", f"There is no place “{name}” in this library.", f"There are: {there}.")

    def fields_of(self, place: str) -> tuple[Field, ...]:
        """The declared fields of a place, without the title."""
        rows = self.database.rows(
            "SELECT id, key, label, kind, options FROM field WHERE place = ? ORDER BY position, id", (place,)
        )
        return tuple(
            Field(str(key), str(label), KINDS[str(kind)], f"f{i}", read_options(str(options)))
            for i, key, label, kind, options in rows
        )

    def add_collection(self, name: str, plans: Sequence[FieldPlan]) -> Collection:
        """Makes a collection with fields."""
        with self.step(f"New collection {name}"), self.database.writing() as connection:
            position = self.next_position("collection")
            connection.execute("INSERT INTO collection (name, position) VALUES (?, ?)", (name, position))
            number = connection.last_insert_rowid()
            self.add_fields(f"collection:{number}", plans)
            collection = Collection(self.database, number, name, self.fields_of(f"collection:{number}"))
            collection.table.create()
        return collection

    def add_notes_folder(self, name: str, path: Path, plans: Sequence[FieldPlan]) -> NotesFolder:
        """Takes a folder of Markdown files into the library; nothing in it is changed."""
        with self.step(f"New notes folder {name}"), self.database.writing() as connection:
            position = self.next_position("notes_folder")
            connection.execute(
                "INSERT INTO notes_folder (name, path, position) VALUES (?, ?, ?)", (name, str(path), position)
            )
            number = connection.last_insert_rowid()
            self.add_fields(f"notes:{number}", plans)
        return next(notes for notes in self.notes_folders() if notes.number == number)

    def add_fields(self, place: str, plans: Sequence[FieldPlan]) -> None:
        with self.database.writing() as connection:
            for position, plan in enumerate(plans):
                options = json.dumps([{"name": o.name, "colour": o.colour} for o in plan.options], ensure_ascii=False)
                connection.execute(
                    "INSERT INTO field (place, key, label, kind, options, position) VALUES (?, ?, ?, ?, ?, ?)",
                    (place, plan.key, plan.label, plan.kind, options, float(position)),
                )

    def add_options(self, place: str, key: str, names: Sequence[str]) -> None:
        """New options at the end of a choice's list."""
        field = next(field for field in self.fields_of(place) if field.key == key)
        fresh = [name for name in names if field.option(name) is None]
        if not fresh:
            return
        options = [{"name": o.name, "colour": o.colour} for o in field.options] + [
            {"name": n, "colour": ""} for n in fresh
        ]
        with self.database.writing() as connection:
            text = json.dumps(options, ensure_ascii=False)
            connection.execute("UPDATE field SET options = ? WHERE place = ? AND key = ?", (text, place, key))

    def next_position(self, table: str) -> float:
        """Behind all rows of a table that has an order."""
        return float(str(self.database.one(f"SELECT coalesce(max(position), 0) + 1 FROM {table}")))

    # views

    def views(self, place: str | None = None) -> list[View]:
        """The views of one place, or all, in order."""
        rows = self.database.rows(
            "SELECT id, place, name, question FROM view WHERE ?1 IS NULL OR place = ?1 ORDER BY position, id", (place,)
        )
        return [View(int(str(i)), str(where), str(name), str(question)) for i, where, name, question in rows]

    def keep_view(self, place: str, name: str, question: str, view_id: int | None = None) -> int:
        """Keeps a question under a name; with an id, that view is changed. The view's id."""
        name = " ".join(name.split())
        if not name:
            raise UserError("view-nameless", "A view needs a name.", "Write one.")
        if any(view.name.casefold() == name.casefold() and view.id != view_id for view in self.views(place)):
            raise UserError("view-known", f"There is a view “{name}” already.", "Choose another name.")
        with self.database.writing() as connection:
            if view_id is not None:
                connection.execute("UPDATE view SET name = ?, question = ? WHERE id = ?", (name, question, view_id))
                return view_id
            position = self.next_position("view")
            connection.execute(
                "INSERT INTO view (place, name, question, position) VALUES (?, ?, ?, ?)",
                (place, name, question, position),
            )
            return connection.last_insert_rowid()

    def delete_view(self, view_id: int) -> None:
        """Takes a view out; its entries stay."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM view WHERE id = ?", (view_id,))

    # templates, as JSON text

    def template_texts(self) -> list[tuple[str, str]]:
        """Rows of (name, JSON) in the order in which they are tried."""
        rows = self.database.rows("SELECT name, definition FROM template ORDER BY position, id")
        return [(str(name), str(text)) for name, text in rows]

    def put_template(self, name: str, text: str) -> None:
        """Adds a template, or replaces the one of that name."""
        with self.database.writing() as connection:
            connection.execute(
                "INSERT INTO template (name, position, definition) VALUES (?, ?, ?)"
                " ON CONFLICT (name) DO UPDATE SET definition = excluded.definition",
                (name, self.next_position("template"), text),
            )

    # kept copies

    def keep_page(self, place: str, entry_id: int, page: Page, canonical: str) -> None:
        """Keeps a copy of the page that an entry came from; of a file that stands for one, the file itself."""
        content = page.file or page.html.encode("utf-8", "surrogatepass")
        packed = gzip.compress(content, 6, mtime=0)
        sha256 = hashlib.sha256(packed).hexdigest()
        suffix = (mimetypes.guess_extension(page.media_type) or ".bin") if page.file else ".html"
        path = self.folder / "pages" / f"{sha256}{suffix}.gz"
        if not path.exists():
            write_bytes(path, packed)
        with self.database.writing() as connection:
            connection.execute(
                "INSERT INTO page (entry_id, place, address, canonical, captured, sha256, media_type)"
                " VALUES (?, ?, ?, ?, ?, ?, ?)",
                (
                    entry_id if place.startswith("collection:") else None,
                    place,
                    page.address,
                    canonical,
                    now(),
                    sha256,
                    page.media_type,
                ),
            )

    def keep_picture(self, address: str, content: bytes, media_type: str) -> None:
        """Keeps a picture under the address that pages know it by."""
        sha256 = hashlib.sha256(content).hexdigest()
        path = self.folder / "files" / sha256
        if not path.exists():
            write_bytes(path, content)
        with self.database.writing() as connection:
            connection.execute(
                "INSERT OR REPLACE INTO picture VALUES (?, ?, ?, ?)", (address, sha256, media_type, len(content))
            )

    def picture(self, address: str) -> bytes | None:
        """A kept picture; None where it was not kept."""
        sha256 = self.database.one("SELECT sha256 FROM picture WHERE address = ?", (address,))
        path = self.folder / "files" / str(sha256)
        return path.read_bytes() if sha256 is not None and path.is_file() else None


def read_options(text: str) -> tuple[Option, ...]:
    """Options from their JSON."""
    return tuple(Option(str(one["name"]), str(one.get("colour", ""))) for one in json.loads(text))
