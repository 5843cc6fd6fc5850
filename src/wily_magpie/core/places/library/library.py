"""A library: opens the folder and makes its places. Whoever changes something is inside a step."""

import json
import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager, nullcontext, suppress
from dataclasses import replace
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.entries.entry import Draft
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.entries.layout import Layout, read_layout, write_layout
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Link, Value
from wily_magpie.core.places.api import Place, PlaceSettings
from wily_magpie.core.places.context import PlaceContext
from wily_magpie.core.places.field_store import FieldStore
from wily_magpie.core.places.file_lock import one_at_a_time
from wily_magpie.core.places.history import History
from wily_magpie.core.places.library import premises, schema
from wily_magpie.core.places.library.blob_store import BlobStore
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.library.list_stops import ListStops
from wily_magpie.core.places.library.mark_uses import MarkUses
from wily_magpie.core.places.library.marks import Marks
from wily_magpie.core.places.library.mirror_store import MirrorStore
from wily_magpie.core.places.library.setting_store import SettingStore
from wily_magpie.core.places.library.stops import Stops
from wily_magpie.core.places.library.template_store import TemplateStore
from wily_magpie.core.places.library.view_store import ViewStore
from wily_magpie.core.places.own_folders import OwnFolders, links_in
from wily_magpie.core.places.recovery_journal import SET_ASIDE, roll_back_unfinished
from wily_magpie.core.places.stored_settings import read_place_settings, write_place_settings
from wily_magpie.core.places.table import sort_key, table_numbers
from wily_magpie.core.places.to_sql import table_of
from wily_magpie.core.places.trash import Trash
from wily_magpie.core.query.nodes import Question

if TYPE_CHECKING:
    from wily_magpie.core.places.library.draft_store import DraftStore
    from wily_magpie.core.places.library.filing_store import FilingStore
    from wily_magpie.core.places.library.list_store import ListStore
    from wily_magpie.core.places.library.word_store import WordStore
    from wily_magpie.core.places.notes.folder import NotesFolder


class Library:
    """One library folder; made if it is not there. May be used from any thread.

    Args:
        seed: puts what a new library begins with into it, as part of its making.
        is_read_only: nothing in it is changed; it must be there already.
        origin: who does the steps of this process.
    """

    def __init__(
        self,
        folder: Path,
        seed: "Callable[[Library], None]" = lambda _library: None,
        *,
        is_read_only: bool = False,
        origin: str = "window",
    ) -> None:
        self.folder = folder
        self.is_read_only = is_read_only
        if not is_read_only:
            premises.finish_restoring(folder)
            premises.make_folders(folder)
        premises.refuse_what_lacks_its_database(folder)
        with nullcontext() if is_read_only else one_at_a_time(folder / premises.OPENING):
            self.held = premises.OpenDatabase(folder, is_read_only=is_read_only)
            self.database, self.told = self.held.database, self.held.told
            premises.refuse_strange(self.database)
            if not is_read_only:
                premises.clear_up(folder)
            version = schema.version_of(self.database)
            if 0 < version < schema.VERSION:
                schema.migrate(self.database, version)
            self.own_folders = OwnFolders(folder)
            self.history = History(self.database, self.recorded_tables, folder, origin, self.may_write)
            self.fields = FieldStore(self.database)
            self.blobs = BlobStore(folder, self.database)
            self.trash = Trash(self.database)
            self.marks = Marks(self.database)
            self.mark_uses = MarkUses(self.database)
            self.stops = Stops(self.database)
            self.list_stops = ListStops(self.database)
            self.mirrors = MirrorStore(self.database)
            self.templates = TemplateStore(self.database)
            self.views = ViewStore(self.database, lambda place: self.place(place).layout)
            self.settings = SettingStore(self.database)
            index = folder / "index"
            self.context = PlaceContext(
                self.database, self.history, self.trash, index, self.own_folders, self.blobs.keep_file
            )
            self.notes_by_id: dict[int, NotesFolder] = {}
            self.retired: list[NotesFolder] = []
            """Those that others took the place of; somebody may still be asking them something."""
            self.opening = threading.RLock()
            if version == 0:
                with self.database.writing():  # made and seeded in one transaction: there is all of it, or nothing
                    schema.create(self.database)
                    seed(self)
                    self.history.forget()
                    schema.settle(self.database)
            if not is_read_only:
                before = set(folder.glob(f"{SET_ASIDE}*"))
                roll_back_unfinished(folder, self.database, self.may_write)
                self.told += tuple(premises.told_of_journal(path) for path in {*folder.glob(f"{SET_ASIDE}*")} - before)

    def close(self) -> None:
        """Closes the files."""
        for notes in (*self.notes_by_id.values(), *self.retired):
            notes.close()
        for name in ("filing", "words"):
            if name in self.__dict__:
                self.__dict__[name].close()
        self.database.close()
        self.held.let_go()

    def recorded_tables(self) -> list[str]:
        """All tables whose changes can be undone; those of collections that an undo took away, too."""
        return [*schema.RECORDED, *(f"c{number}" for number in table_numbers(self.database))]

    @contextmanager
    def step(
        self, label: str, before_commit: Callable[[], None] = lambda: None, joins: int = 0, origin: str = ""
    ) -> Iterator[None]:
        """One undoable step, or a late part of another one (see History.step)."""
        with self.history.step(label, before_commit, joins, origin):
            yield

    # places

    def collections(self) -> list[Collection]:
        """The collections in order."""
        sql = "SELECT id, name, settings, layout FROM collection WHERE is_live ORDER BY position, id"
        return [self.collection(*row) for row in self.database.rows(sql)]

    def collection(self, number: object, name: object, settings: object, layout: object) -> Collection:
        read = read_place_settings(str(settings))
        return Collection(self.context, int(str(number)), str(name), read, read_layout(str(layout)))

    @cached_property
    def filing(self) -> "FilingStore":
        """What filing by what was filed before is reckoned from; made when it is first asked for."""
        from wily_magpie.core.places.library.filing_store import FilingStore  # as below

        return FilingStore(self.folder / "index")

    @cached_property
    def words(self) -> "WordStore":
        """The index of all words that are kept; of a library that may not be written to it lies elsewhere, and is gone with it."""
        import tempfile  # here, since it takes long to load

        from wily_magpie.core.places.library.word_store import WordStore  # as below

        if not self.is_read_only:
            return WordStore(self.folder / "index")
        self.spare = tempfile.TemporaryDirectory(prefix="wily-magpie-")
        return WordStore(Path(self.spare.name) / "index")

    @property
    def has_filing(self) -> bool:
        """Whether there is anything that filing could be reckoned from."""
        return not self.is_read_only and (self.folder / "index" / "filing.sqlite").exists()

    @cached_property
    def lists(self) -> "ListStore":
        """Lists of addresses."""
        from wily_magpie.core.places.library.list_store import ListStore  # not at a start

        return ListStore(self.database)

    @cached_property
    def drafts(self) -> "DraftStore":
        """Slips that were touched and are not kept yet."""
        from wily_magpie.core.places.library.draft_store import DraftStore  # not at a start

        return DraftStore(self.database)

    def notes_folders(self) -> "list[NotesFolder]":
        """The notes folders in order; each is one object as long as the library is open."""
        sql = "SELECT id, name, path, settings, layout FROM notes_folder WHERE is_live ORDER BY position, id"
        with self.opening:
            return [self.opened_folder(*row) for row in self.database.rows(sql)]

    def opened_folder(self, i: object, name: object, path: object, settings: object, layout: object) -> "NotesFolder":
        number, fields = int(str(i)), self.fields.of(f"notes:{i}")
        read, seen = read_place_settings(str(settings)), read_layout(str(layout))
        notes = self.notes_by_id.get(number)
        if notes is not None and notes.given == (name, path, fields, read, seen):
            return notes
        if notes is not None:
            self.retired.append(notes)
        from wily_magpie.core.places.notes.folder import NotesFolder  # not every library has any

        made = NotesFolder(self.context, number, str(name), Path(str(path)), fields, read, seen)
        self.notes_by_id[number] = made
        return made

    def places(self) -> list[Place]:
        """Collections, then notes folders."""
        return [*self.collections(), *self.notes_folders()]

    def place(self, name: str) -> Place:
        """The place of that key or name; a notes folder also by its path.

        Raises:
            UserError: there is none.
        """
        found = self.find_place(name)
        if found is not None:
            return found
        there = ", ".join(place.name for place in self.places())
        raise UserError(
            "unknown-place",
            f"There is no place “{name}” in this library.",
            f"There are: {there}." if there else "There is no place at all yet: make one.",
        )

    def find_place(self, name: str) -> Place | None:
        """The same; None where there is none. Only the one that is meant is opened."""
        wanted = str(Path(name).expanduser().absolute()) if "/" in name else ""
        folded = name.casefold()
        rows = self.database.rows("SELECT id, name, settings, layout FROM collection WHERE is_live")
        for row in rows:
            if name == f"collection:{row[0]}" or folded == str(row[1]).casefold():
                return self.collection(*row)
        sql = "SELECT id, name, path, settings, layout FROM notes_folder WHERE is_live"
        for number, title, path, settings, layout in self.database.rows(sql):
            if name == f"notes:{number}" or folded == str(title).casefold() or (wanted and wanted == path):
                with self.opening:
                    return self.opened_folder(number, title, path, settings, layout)
        return None

    def notes(self, name: str) -> "NotesFolder":
        """The notes folder of that key, name or path.

        Raises:
            UserError: it is none.
        """
        place = self.place(name)
        for notes in self.notes_folders():
            if notes.key == place.key:
                return notes
        raise UserError("no-notes", f"{place.name} is no notes folder.", "Name a notes folder.")

    def first_place(self) -> Place:
        """The place that is meant where none is named.

        Raises:
            UserError: there is none.
        """
        places = self.places()
        if not places:
            raise UserError("no-place", "There is no place in this library yet.", "Make a collection or add a folder.")
        return places[0]

    def add_collection(
        self,
        name: str,
        plans: Sequence[FieldPlan] = (),
        settings: PlaceSettings | None = None,
        layout: Layout | None = None,
        number: int | None = None,
    ) -> Collection:
        """Makes a collection with fields.

        Args:
            number: of a table that is there already, with rows that were brought in before.
        """
        name = self.free_name(name)
        fresh = number is None
        number = number or self.next_collection_number()
        with self.step(f"New collection {name}"), self.database.writing() as connection:
            connection.execute(
                "INSERT INTO collection (id, name, position, settings, layout) VALUES (?, ?, ?, ?, ?)",
                (
                    number,
                    name,
                    self.next_position("collection"),
                    write_place_settings(settings or PlaceSettings()),
                    write_layout(layout or Layout()),
                ),
            )
            if fresh:
                self.add_fields(f"collection:{number}", plans)
                self.collection(number, name, "{}", "{}").table.create()
        (row,) = self.database.rows("SELECT id, name, settings, layout FROM collection WHERE id = ?", (number,))
        return self.collection(*row)

    def next_collection_number(self) -> int:
        """A number that no collection ever had."""
        return max([0, *table_numbers(self.database)]) + 1

    def add_notes_folder(self, name: str, path: Path, plans: Sequence[FieldPlan]) -> "NotesFolder":
        """Takes a folder of Markdown files into the library; nothing in it is changed."""
        with self.step(f"New notes folder {name}"), self.database.writing() as connection:
            number = int(str(self.database.one("SELECT coalesce(max(id), 0) + 1 FROM notes_folder")))
            connection.execute(
                "INSERT INTO notes_folder (id, name, path, position) VALUES (?, ?, ?, ?)",
                (number, name, str(path), self.next_position("notes_folder")),
            )
            self.add_fields(f"notes:{number}", plans)
        self.own_folders.allow([path])
        return next(notes for notes in self.notes_folders() if notes.number == number)

    def use_folder(self, key: str) -> "NotesFolder":
        """The person says that a notes folder which this library names is to be used; links in it lead nowhere else."""
        notes = self.notes(key)
        if notes.settings.links_lead_out:
            self.set_of_place(notes, "settings", write_place_settings(replace(notes.settings, links_lead_out=False)))
        self.own_folders.allow([notes.path])
        return self.notes(key)

    def may_write(self, path: Path) -> bool:
        """Whether a step may write a file: in the library, in a notes folder of this person, or where a link leads out that may."""
        if path.resolve().is_relative_to(self.folder.resolve()) or self.own_folders.holds(path):
            return True
        open_ones = (one.path for one in self.notes_folders() if one.settings.links_lead_out and not one.is_strange)
        return any(path.resolve() in links_in(one) for one in open_ones)

    def add_fields(self, place: str, plans: Sequence[FieldPlan]) -> None:
        """Writes the fields of a place down that is being made; its table comes after them."""
        first = self.fields.next_number() if plans else 0
        for position, plan in enumerate(plans):
            self.fields.add(first + position, place, plan, float(position))

    def free_name(self, name: str, *, except_for: str = "") -> str:
        """A place's name in its clean form.

        Raises:
            UserError: it is blank, or another place has it.
        """
        name = " ".join(name.split())
        if not name:
            raise UserError("place-nameless", "A place needs a name.", "Write one.")
        there = self.database.rows(
            "SELECT name FROM collection WHERE is_live AND 'collection:' || id <> ?1"
            " UNION ALL SELECT name FROM notes_folder WHERE is_live AND 'notes:' || id <> ?1",
            (except_for,),
        )
        if name.casefold() in (str(one).casefold() for (one,) in there):
            raise UserError("place-known", f"There is a place “{name}” already.", "Choose another name.")
        return name

    def rename_place(self, key: str, name: str) -> None:
        """Gives a place another name; views, templates and references know it by its key, templates also by name."""
        place = self.place(key)
        name = self.free_name(name, except_for=place.key)
        self.set_of_place(place, "name", name)
        for template, text in self.templates.texts():
            plan = json.loads(text)
            if str(plan.get("writes", "")).casefold() == place.name.casefold():
                self.templates.put(template, json.dumps({**plan, "writes": name}, ensure_ascii=False))

    def change_place(self, key: str, settings: PlaceSettings) -> None:
        """Sets what a person has said of a place."""
        self.set_of_place(self.place(key), "settings", write_place_settings(settings))
        self.place(key).entitle_all()

    def set_layout(self, key: str, layout: Layout) -> None:
        """Sets how a place is looked at where no view is open."""
        self.set_of_place(self.place(key), "layout", write_layout(layout))

    def delete_place(self, key: str) -> None:
        """Takes a place out; of a notes folder, the files stay where they are. Undo brings it back."""
        place = self.place(key)
        self.set_of_place(place, "is_live", 0)
        for field in place.fields:
            if field.kind.is_linked:
                self.fields.soft_delete(place.key, field)

    def set_of_place(self, place: Place, column: str, value: object) -> None:
        """Sets a column of a place's own row."""
        table, _, number = place.key.partition(":")
        with self.database.writing() as connection:
            row = {"collection": "collection", "notes": "notes_folder"}[table]
            connection.execute(f"UPDATE {row} SET {column} = ? WHERE id = ?", (value, number))

    def move_notes_folders(self, before: Path, after: Path) -> None:
        """Tells where notes folders lie that were moved together with a folder; no step of it can be undone."""
        with self.database.writing() as connection:
            connection.execute(
                "UPDATE notes_folder SET path = ?2 || substr(path, length(?1) + 1) WHERE path LIKE ?1 || '/%'",
                (str(before), str(after)),
            )
        self.own_folders.allow(notes.path for notes in self.notes_folders())

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
            if field.kind.has_options and place.is_declared(field):
                self.fields.add_options(place.key, field.key, [value] if isinstance(value, str) else list(value))
            elif field.kind.is_linked and isinstance(value, tuple):
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

    def next_position(self, table: str) -> float:
        """Behind all rows of a table that has an order."""
        return float(str(self.database.one(f"SELECT coalesce(max(position), 0) + 1 FROM {table}")))
