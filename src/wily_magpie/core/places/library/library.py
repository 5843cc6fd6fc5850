"""A library: opens the folder, makes its places, keeps views and templates."""

import json
import os
import tempfile
import threading
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import asdict, replace
from pathlib import Path

from wily_magpie.core.entries.entry import Draft
from wily_magpie.core.entries.field import Field, FieldPlan
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.fields import Link, Option, Value
from wily_magpie.core.places.api import Place, PlaceSettings
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.history import History
from wily_magpie.core.places.library.blob_store import BlobStore
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.library.field_store import FieldStore
from wily_magpie.core.places.library.marks import Marks
from wily_magpie.core.places.library.schema import RECORDED, migrate
from wily_magpie.core.places.library.template_store import TemplateStore
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.places.recovery_journal import roll_back_unfinished
from wily_magpie.core.places.table import sort_key
from wily_magpie.core.places.trash import Trash
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.query.to_sql import table_of


class Library:
    """One library folder; made if it is not there. May be used from any thread.

    Args:
        is_read_only: nothing in it is changed; it must be there already.
    """

    def __init__(self, folder: Path, *, is_read_only: bool = False) -> None:
        self.folder = folder
        try:
            for part in ("files", "pages", "index"):
                if not is_read_only:
                    (folder / part).mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise EnvironmentFailure(
                "library-unopened",
                f"The library folder {folder} cannot be made: {error.strerror}.",
                "Choose another one.",
            ) from error
        self.is_read_only = is_read_only
        self.index_folder = folder / "index"
        self.spare: tempfile.TemporaryDirectory[str] | None = None
        if is_read_only and not os.access(self.index_folder, os.W_OK):
            # an index is made again wherever there is room
            self.spare = tempfile.TemporaryDirectory(prefix="wily-magpie-")
            self.index_folder = Path(self.spare.name)
        self.database = Database(folder / "library.sqlite", is_read_only=is_read_only)
        self.is_new = migrate(self.database)
        if not is_read_only:
            roll_back_unfinished(folder, self.database)
        self.history = History(self.database, self.recorded_tables, folder)
        self.fields = FieldStore(self.database)
        self.blobs = BlobStore(folder, self.database)
        self.trash = Trash(self.database)
        self.marks = Marks(self.database)
        self.templates = TemplateStore(self.database)
        self.notes_by_id: dict[int, NotesFolder] = {}
        self.retired: list[NotesFolder] = []
        """Those that others took the place of; somebody may still be asking them something."""
        self.opening = threading.RLock()

    def close(self) -> None:
        """Closes the files."""
        for notes in (*self.notes_by_id.values(), *self.retired):
            notes.close()
        self.database.close()
        if self.spare is not None:
            self.spare.cleanup()

    def recorded_tables(self) -> list[str]:
        """All tables whose changes can be undone; those of collections that an undo took away, too."""
        return [*RECORDED, *(f"c{number}" for number in self.table_numbers())]

    def table_numbers(self) -> list[int]:
        """The numbers of all collections that there ever were."""
        names = self.database.rows("SELECT name FROM sqlite_schema WHERE type = 'table' AND name GLOB 'c[0-9]*'")
        return [int(str(name)[1:]) for (name,) in names]

    @contextmanager
    def step(self, label: str) -> Iterator[None]:
        """One undoable step."""
        with self.history.step(label):
            yield

    # places

    def collections(self, key: str | None = None) -> list[Collection]:
        """The collections in order, or the one of that key."""
        sql = "SELECT id, name, settings FROM collection WHERE is_live AND ?1 IN ('collection:' || id, '') ORDER BY position, id"
        rows = self.database.rows(sql, (key or "",))
        return [self.collection(int(str(i)), str(name), str(settings)) for i, name, settings in rows]

    def collection(self, number: int, name: str, settings: str) -> Collection:
        return Collection(
            self.database, number, name, self.fields.of(f"collection:{number}"), read_place_settings(settings)
        )

    def notes_folders(self) -> list[NotesFolder]:
        """The notes folders in order; each is one object as long as the library is open."""
        with self.opening:
            return self.opened_folders()

    def opened_folders(self) -> list[NotesFolder]:
        out = []
        sql = "SELECT id, name, path, settings FROM notes_folder WHERE is_live ORDER BY position, id"
        for i, name, path, text in self.database.rows(sql):
            number = int(str(i))
            fields = self.fields.of(f"notes:{number}")
            settings = read_place_settings(str(text))
            notes = self.notes_by_id.get(number)
            if notes is None or notes.given != (name, str(path), fields, settings):
                if notes is not None:
                    self.retired.append(notes)
                notes = self.notes_by_id[number] = NotesFolder(
                    number,
                    str(name),
                    Path(str(path)),
                    fields,
                    self.index_folder,
                    self.history,
                    self.trash,
                    settings,
                )
            out.append(notes)
        return out

    def places(self) -> list[Place]:
        """Collections, then notes folders."""
        return [*self.collections(), *self.notes_folders()]

    def place(self, name: str) -> Place:
        """The place of that key or name; a notes folder also by its path.

        Raises:
            UserError: there is none.
        """
        sql = (
            "SELECT 'collection:' || id, name, '' FROM collection WHERE is_live UNION ALL"
            " SELECT 'notes:' || id, name, path FROM notes_folder WHERE is_live"
        )
        known = [(str(key), str(title), str(path)) for key, title, path in self.database.rows(sql)]
        wanted = str(Path(name).expanduser().absolute()) if "/" in name else ""
        for key, title, path in known:
            if name == key or name.casefold() == title.casefold() or (wanted and wanted == path):
                found = [*self.collections(key)] if key.startswith("collection:") else self.notes_folders()
                return next(place for place in found if place.key == key)
        there = ", ".join(title for _, title, _ in known)
        raise UserError("unknown-place", f"There is no place “{name}” in this library.", f"There are: {there}.")

    def add_collection(
        self, name: str, plans: Sequence[FieldPlan] = (), settings: PlaceSettings | None = None
    ) -> Collection:
        """Makes a collection with fields."""
        name = self.free_name(name)
        number = max([0, *self.table_numbers()]) + 1
        place = f"collection:{number}"
        with self.step(f"New collection {name}"), self.database.writing() as connection:
            connection.execute(
                "INSERT INTO collection (id, name, position, settings) VALUES (?, ?, ?, ?)",
                (number, name, self.next_position("collection"), write_place_settings(settings or PlaceSettings())),
            )
            self.add_fields(place, plans)
            collection = self.collection(number, name, "{}")
            collection.table.create()
        return next(one for one in self.collections() if one.number == number)

    def add_notes_folder(self, name: str, path: Path, plans: Sequence[FieldPlan]) -> NotesFolder:
        """Takes a folder of Markdown files into the library; nothing in it is changed."""
        with self.step(f"New notes folder {name}"), self.database.writing() as connection:
            number = int(str(self.database.one("SELECT coalesce(max(id), 0) + 1 FROM notes_folder")))
            connection.execute(
                "INSERT INTO notes_folder (id, name, path, position) VALUES (?, ?, ?, ?)",
                (number, name, str(path), self.next_position("notes_folder")),
            )
            self.add_fields(f"notes:{number}", plans)
        return next(notes for notes in self.notes_folders() if notes.number == number)

    def add_fields(self, place: str, plans: Sequence[FieldPlan]) -> None:
        """Writes the fields of a place down that is being made; its table comes after them."""
        for position, plan in enumerate(plans):
            self.fields.add(self.next_field_number(), place, plan, float(position))

    def next_field_number(self) -> int:
        """A number that no field and no column ever had, so that undo never meets another one's values."""
        columns = [
            int(str(name)[1:])
            for number in self.table_numbers()
            for (name,) in self.database.rows(
                f"SELECT name FROM pragma_table_info('c{number}') WHERE name GLOB 'f[0-9]*'"
            )
        ]
        latest = int(str(self.database.one("SELECT coalesce(max(id), 0) FROM field")))
        return max([latest, *columns]) + 1

    def free_name(self, name: str, *, except_for: str = "") -> str:
        """A place's name in its clean form.

        Raises:
            UserError: it is blank, or another place has it.
        """
        name = " ".join(name.split())
        if not name:
            raise UserError("place-nameless", "A place needs a name.", "Write one.")
        if any(place.name.casefold() == name.casefold() and place.key != except_for for place in self.places()):
            raise UserError("place-known", f"There is a place “{name}” already.", "Choose another name.")
        return name

    def rename_place(self, key: str, name: str) -> None:
        """Gives a place another name; views, templates and references know it by its key, templates also by name."""
        place = self.place(key)
        name = self.free_name(name, except_for=place.key)
        table, number = place_row(place.key)
        with self.step(f"Rename {place.name} to {name}"), self.database.writing() as connection:
            connection.execute(f"UPDATE {table} SET name = ? WHERE id = ?", (name, number))
            for template, text in self.templates.texts():
                plan = json.loads(text)
                if str(plan.get("writes", "")).casefold() == place.name.casefold():
                    self.templates.put(template, json.dumps({**plan, "writes": name}, ensure_ascii=False))

    def change_place(self, key: str, settings: PlaceSettings) -> None:
        """Sets what a person has said of a place."""
        table, number = place_row(key)
        with self.step(f"Change {self.place(key).name}"), self.database.writing() as connection:
            sql = f"UPDATE {table} SET settings = ? WHERE id = ?"
            connection.execute(sql, (write_place_settings(settings), number))
            place = self.place(key)
            if isinstance(place, Collection):
                place.entitle(self.ids_of(place))

    def delete_place(self, key: str) -> None:
        """Takes a place out; of a notes folder, the files stay where they are. Undo brings it back."""
        place = self.place(key)
        table, number = place_row(key)
        with self.step(f"Delete {place.name}"), self.database.writing() as connection:
            connection.execute(f"UPDATE {table} SET is_live = 0 WHERE id = ?", (number,))
            for field in place.fields:
                if field.kind.name == "reference":
                    self.fields.soft_delete(key, field)

    @staticmethod
    def ids_of(place: Place) -> list[int]:
        """The ids of all entries of a place."""
        return list(place.listing(Question()).ids)

    # values as people write them

    def resolve(self, place: Place, values: Mapping[str, Value], entry_id: int | None = None) -> dict[str, Value]:
        """Values as they can be kept.

        Names that a choice lacks become options; titles that a reference names become links to entries, which are made
        where there are none.

        Args:
            entry_id: whose values they will be: of several entries of one title, those are meant that it refers to already.
        """
        out = dict(values)
        for field in place.fields:
            value = out.get(field.key)
            if value is None or isinstance(value, bool | float):
                continue
            if field.kind.name in ("choice", "choices") and self.is_declared(place, field):
                self.add_options(place.key, field.key, [value] if isinstance(value, str) else list(value))
            elif field.kind.name == "reference" and isinstance(value, tuple):
                target = self.place(field.settings.target)
                before = next((row.value(field.key) for row in place.rows([entry_id])), None) if entry_id else None
                out[field.key] = self.linked_all(target, value, before if isinstance(before, tuple) else ())
        return out

    def linked_all(self, target: Place, titles: Sequence[str], before: Sequence[str]) -> tuple[Link, ...]:
        """Links to the entries of some titles, each entry once.

        Args:
            before: the links that there were; of several entries of one title these are meant.
        """
        rest = [link for link in before if isinstance(link, Link)]
        made: dict[int, Link] = {}
        for title in titles:
            found = title if isinstance(title, Link) else next((link for link in rest if link == title), None)
            if found in rest:
                rest.remove(found)
            link = found if isinstance(found, Link) else self.linked(target, title)
            made.setdefault(link.id, link)
        return tuple(made.values())

    def linked(self, target: Place, title: str) -> Link:
        """The entry of a title, the first kept one of several; made where there is none."""
        table = table_of(target.key)
        sql = f"SELECT id, title FROM {table} WHERE title_key = ? ORDER BY casefold(title) <> ?, id LIMIT 1"
        found = self.database.rows(sql, (sort_key(title), title.casefold()))
        if found:
            return Link(str(found[0][1]), int(str(found[0][0])))
        return Link(title, target.add(Draft(title, self.defaults(target))))

    @staticmethod
    def defaults(place: Place) -> dict[str, Value]:
        """What a new entry begins with."""
        out: dict[str, Value] = {}
        for field in place.fields[1:]:
            if field.settings.default and field.is_writable:
                with suppress(UserError):
                    out[field.key] = field.kind.take(field.settings.default)[0]
        return out

    @staticmethod
    def is_declared(place: Place, field: Field) -> bool:
        """Whether a field has a row of its own; those that were found in the files of notes have none."""
        return not isinstance(place, NotesFolder) or field.key in {one.key for one in place.declared}

    def add_options(self, place: str, key: str, names: Sequence[str]) -> None:
        """New options at the end of a choice's list."""
        field = next(field for field in self.fields.of(place) if field.key == key)
        fresh = tuple(Option(name) for name in dict.fromkeys(names) if field.option(name) is None)
        if fresh:
            self.fields.change(place, replace(field, options=(*field.options, *fresh)))

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


def place_row(key: str) -> tuple[str, int]:
    """The table and the row of a place."""
    kind, _, number = key.partition(":")
    return ("collection" if kind == "collection" else "notes_folder"), int(number)


def read_place_settings(text: str) -> PlaceSettings:
    """Settings from their JSON; what a later version may have added is passed over."""
    known = {key: value for key, value in json.loads(text).items() if key in PlaceSettings.__dataclass_fields__}
    return PlaceSettings(**{**known, "rules": tuple(known.get("rules", ()))})


def write_place_settings(settings: PlaceSettings) -> str:
    """The JSON of settings."""
    return json.dumps(asdict(settings), ensure_ascii=False)
