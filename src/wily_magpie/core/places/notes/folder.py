"""A notes folder as a place: files are read, changed and made; an index answers the questions."""

import threading
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace
from functools import partial
from pathlib import Path
from shlex import quote as shell_word
from typing import TYPE_CHECKING

from wily_magpie.core.entries.entry import Draft, Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.happening import Happening
from wily_magpie.core.entries.insert_position import InsertPosition, NoteTarget
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.errors import BugError, EnvironmentFailure, UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.fields.base import Plain
from wily_magpie.core.places.api import NOTES_FOLDER, FieldConversion, Listing, Place, PlaceSettings, RowsTable
from wily_magpie.core.places.atomic import make_folder, read_bytes
from wily_magpie.core.places.context import PlaceContext
from wily_magpie.core.places.field_store import FieldStore
from wily_magpie.core.places.notes.disk import fill_path, followed, markdown_files, path_in, today
from wily_magpie.core.places.notes.files import NoteFiles
from wily_magpie.core.places.notes.index import NotesIndex, owners_of
from wily_magpie.core.places.notes.inserting import insert
from wily_magpie.core.query.nodes import Question

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.note_file import NoteFile


class NotesFolder(Place):
    """See api.Place. `refresh` brings the index in step with the files.

    Attributes:
        declared: the fields that the person named for it; other keys of the files are found by the index.
    """

    nature = NOTES_FOLDER
    knows_whole_states = False

    def __init__(
        self,
        context: PlaceContext,
        number: int,
        name: str,
        path: Path,
        declared: tuple[Field, ...],
        settings: PlaceSettings,
        layout: Layout,
    ) -> None:
        self.context = context
        self.number = number
        self.name = name
        self.key = f"notes:{number}"
        self.path = path
        self.declared = declared
        self.history = context.history
        self.settings = settings
        self.own_layout = layout
        self.given = (name, str(path), declared, settings, layout)
        owners = partial(owners_of, context.database, self.key)
        self.index = NotesIndex(
            context.index_folder, number, self.key, declared, settings.rules, owners, settings.other_encoding
        )
        self.files = NoteFiles(path, settings.other_encoding)
        self.refreshing = threading.Lock()
        self.strange: tuple[str, ...] = ()

    @property
    def layout(self) -> Layout:
        return self.own_layout

    @property
    def folder(self) -> str:
        return str(self.path)

    def close(self) -> None:
        """Closes the index."""
        self.index.close()

    @property
    def fields(self) -> tuple[Field, ...]:
        return self.index.table.fields

    @property
    def is_being_read(self) -> bool:
        """Whether it is being brought in step with its files just now."""
        return self.refreshing.locked()

    def refresh(self, tick: Callable[[int, int], None] | None = None) -> int:
        """Reads the files that are new, changed or gone since the last time; how many they were.

        Args:
            tick: told of (done, total) now and then; may raise to end it, and most of what was read stays read.

        Raises:
            EnvironmentFailure: the folder is not there.
        """
        with self.refreshing:
            self.need_there()
            try:
                return self.look(tick)
            except (EnvironmentFailure, BugError) as error:
                self.index.remake(error)
                return self.look(tick)

    def look(self, tick: Callable[[int, int], None] | None) -> int:
        """The same, within the lock, and where the index is sound."""
        known = self.index.stamps()
        strange: list[str] = []
        others: list[str] = []
        found = dict(markdown_files(self.path, strange, others))
        self.strange = tuple(strange)
        changed = [path for path, stamp in found.items() if known.get(path) != stamp]
        gone = [path for path in known if path not in found]
        if tick and changed:
            tick(0, len(changed))
        with self.index.links.counting_late(), self.index.taking_many(len(changed)):
            self.index.links.put_beside(others)
            self.files.take_in_all(self.index, {path: found[path] for path in changed}, tick)
            self.index.drop(gone)
        return len(changed) + len(gone) + self.index.keep_up()

    def faults(self) -> list[tuple[str, str]]:
        """(path, why) of the notes whose front matter cannot be read, or that cannot be taken in for their names.

        An index that is not sound is made again before.
        """
        if self.index.database.faults():
            self.index.set_aside()
            self.index.open()
        self.refresh()
        told = "Its name is no UTF-8: give it another one."
        return [*self.index.faults(), *((name.encode(errors="replace").decode(), told) for name in self.strange)]

    def need_there(self) -> None:
        """EnvironmentFailure where the folder is away: nothing is made in the place where its disk will be again."""
        if self.is_strange:
            raise EnvironmentFailure(
                "notes-strange",
                f"The notes folder {self.path} was set up by somebody else, or on another machine.",
                f"Say that it is to be used: in the menu of its place, or by wily-magpie places --use {shell_word(self.name)}",
            )
        if self.is_away:
            raise EnvironmentFailure(
                "notes-gone", f"The notes folder {self.path} is not there.", "Bring it back, or mount its disk."
            )

    @property
    def is_away(self) -> bool:
        """Whether its folder is not there: a disk that is not mounted; or not to be touched yet."""
        return self.is_strange or not self.path.is_dir()

    @property
    def is_strange(self) -> bool:
        """Whether the library names it, and this person has not set it up for this library on this machine."""
        return not self.context.own_folders.has(self.path)

    @property
    def rows_table(self) -> RowsTable:
        return self.index.table

    def listing(self, question: Question) -> Listing:
        try:
            return self.index.table.listing(question)
        except EnvironmentFailure as error:  # damaged where nobody has looked so far
            self.index.remake(error)
            self.refresh()
            return self.index.table.listing(question)

    def rows(self, ids: Sequence[int]) -> list[Entry]:
        files = self.index.files_of(ids)
        rows = ((entry, *files.get(entry.id, ("", ""))) for entry in self.index.table.rows(ids))
        return [replace(entry, path=path, fault=fault) for entry, path, fault in rows]

    def values_in_use(self, field: Field) -> list[str]:
        return self.index.table.values_in_use(field)

    def entry(self, entry_id: int) -> Entry | None:
        for found in self.rows([entry_id]):
            note = self.files.read(found.path)
            return replace(found, body=note.body.strip("\r\n"), fault=note.fault)
        return None

    def signatures(self, ids: Sequence[int] | None = None) -> dict[int, str]:
        return self.index.signatures(ids)

    def known(self, canonical: str) -> Entry | None:
        found = self.index.table.known(canonical) if canonical else None
        return self.entry(found) if found is not None else None

    def add(self, draft: Draft) -> int:
        """A new file named after the title; a number is added to the name where it is taken."""
        from wily_magpie.core.places.notes import note_file  # as above

        matter: dict[str, Plain] = {"title": draft.title, **self.to_plain(draft.values), **draft.matter}
        content = note_file.compose(matter, draft.body).encode("utf-8", "replace")
        pattern = draft.path or self.settings.name_pattern or "{title}"
        return self.bring_back(draft.in_folder(fill_path(pattern, draft.title, today())), content)

    def whole_text(self, entry_id: int) -> tuple[Path, bytes, str]:
        """The path, the bytes and the text of a note's file.

        Raises:
            UserError: it is gone, or no UTF-8.
        """
        name = self.index.path(entry_id)
        path = self.path / str(name)
        before = read_bytes(path) if name else None
        if before is None:
            raise UserError("note-gone", "This note is no longer there.", "Another program has removed or renamed it.")
        return path, before, self.text_of(path, before)

    def text_of(self, path: Path, content: bytes) -> str:
        """The text of a note's file, to be changed; see NoteFiles."""
        return self.files.text_of(path, content)

    def change(self, entry_id: int, values: Mapping[str, Value], body: str | None = None) -> None:
        from wily_magpie.core.places.notes import note_file  # as above

        path, before, text = self.whole_text(entry_id)
        note = note_file.parse(text)
        self.check_seen(entry_id, path, note, values)
        if values:
            title = values.get("title")
            shown = dict(self.to_plain(values))
            if title is not None and not ("title" not in note.matter and str(title) == path.stem):
                shown = {"title": str(title), **shown}
            text = note_file.set_values(note, shown)
        if body is not None:
            note = note_file.parse(text)
            newline = note.newline
            head = text[: note.body_start]
            text = head + (newline if head.strip("\ufeff") else "") + body.strip("\n").replace("\n", newline) + newline
        self.rewrite(path, before, text)

    def change_body(self, entry_id: int, body: str, opened: str) -> str:
        """Sets the body of a note that was opened with another one; a sentence where somebody changed it meanwhile, or "".

        Where both changed different lines, both changes are kept; else the note stays as it is on disk, and the new body
        becomes a note beside it.
        """
        from wily_magpie.core.places.notes import note_file  # as above
        from wily_magpie.core.places.notes.merging import merged_texts

        path, _, text = self.whole_text(entry_id)
        note = note_file.parse(text)
        merged, is_theirs = merged_texts(opened, body, note.body)
        if merged is not None:
            self.change(entry_id, {}, merged)
            return f"{path.name} was changed by another program too; both changes are kept." if is_theirs else ""
        beside = path.with_name(f"{path.stem} (mine){path.suffix}").relative_to(self.path).as_posix()
        head = text[: note.body_start]
        second = self.bring_back(beside, f"{head}{'' if not head else note.newline}{body}{note.newline}".encode())
        self.take_in(path)
        name = self.index.path(second)
        return f"{path.name} was changed by another program in the same lines. It stays as it is; your text is kept in {name}."

    def check_seen(self, entry_id: int, path: Path, note: "NoteFile", values: Mapping[str, Value]) -> None:
        """UserError where a key has another value on disk than the one that was seen here, and is to get a third."""
        there = self.index.values(note)
        for seen in self.index.table.rows([entry_id]):
            for key in values.keys() & there.keys():
                if there[key] not in (seen.value(key), values[key]):
                    self.take_in(path)
                    raise UserError(
                        "note-changed",
                        f"“{key}” was changed by another program to “{note.matter.get(key) or ''}” meanwhile.",
                        "Look at it, and change it again if you want to.",
                    )

    def restore(self, trash_id: int) -> None:
        path, content = self.context.trash.note(trash_id)
        self.bring_back(path, content)
        self.context.trash.drop([trash_id])

    def owner_of(self, entry_id: int) -> str:
        return self.index.path(entry_id) or ""  # ids of notes change where the index is lost, paths do not

    def id_of(self, owner: str) -> int | None:
        return self.index.id_of(owner)

    def page_owner(self, _entry_id: int) -> int | None:
        return None

    def is_declared(self, field: Field) -> bool:
        return field.key in {one.key for one in self.declared}

    def history_of(self, entry_id: int) -> list[Happening]:
        from wily_magpie.core.places.notes.note_history import of_note  # not needed at start

        path = self.index.path(entry_id)
        fields = {one.key: one for one in self.fields}
        return list(of_note(self.history, self.path / path, fields)) if path is not None else []

    def referring_here(self, entry_id: int) -> list[tuple[str, int, str, str]]:
        path = self.index.path(entry_id) or ""
        rows = self.rows([number for number, _ in self.index.links.leading_to(path) if number != entry_id])
        return [(self.key, one.id, one.title, "a link") for one in rows]

    def missing_notes(self, titles: Sequence[str]) -> list[str]:
        return [title for title in titles if self.note_named(title) is None]

    def attach(self, entry_id: int, _field: Field | None, files: Sequence[tuple[str, bytes, str]]) -> None:
        """Lays files into the folder for attachments, each with a link at the end of the note."""
        from wily_magpie.core.places.notes.beside import lay_file  # as above

        for name, content, _ in files:
            entry = self.entry(entry_id)
            if entry is not None:
                self.change(
                    entry_id, {}, insert(entry.body or "", lay_file(self, entry, name, content), InsertPosition())
                )

    def add_matter(self, entry_id: int, matter: Mapping[str, Plain]) -> None:
        from wily_magpie.core.places.notes import note_file  # as above

        path, before, text = self.whole_text(entry_id)
        self.rewrite(path, before, note_file.set_values(note_file.parse(text), dict(matter)))

    def lay_pictures(self, entry_id: int, pictures: Mapping[str, tuple[bytes, str]]) -> frozenset[str]:
        from wily_magpie.core.places.notes.beside import lay_pictures  # as above

        entry = self.entry(entry_id)
        if entry is None:
            return frozenset()
        body, laid = lay_pictures(self, entry, pictures)
        if laid:
            self.change(entry_id, {}, body)
        return laid

    def dry_run(self, target: NoteTarget | None) -> list[str] | None:
        from wily_magpie.core.places.notes import writing  # not needed at start

        return writing.dry_run(self, writing.target_of(self, target)) if target is not None else None

    def holds_address(self, target: NoteTarget, address: str) -> str:
        from wily_magpie.core.places.notes import writing  # not needed at start

        return writing.holding(self, writing.target_of(self, target), address)

    def write_into(self, target: NoteTarget, text: str) -> int:
        from wily_magpie.core.places.notes import writing  # not needed at start

        return writing.write(self, writing.target_of(self, target), text)

    # its fields

    def prepare_column(self, number: int, kind: str) -> None:
        """Nothing: the index gets its columns when it is made anew."""

    def follow_columns(self) -> None:
        """Nothing: as above."""

    def drop_field(self, field: Field) -> None:
        hidden = replace(field.settings, is_hidden=True)
        FieldStore(self.context.database).declare(self.key, field, settings=hidden)

    def convert(self, conversion: FieldConversion) -> None:
        """The text of the files is what is kept; the index reads it anew as the other kind."""
        store = FieldStore(self.context.database)
        store.declare(self.key, conversion.field)
        store.set_kind(self.key, conversion.field.key, conversion.kind)

    def habit(self, endings: Sequence[str]) -> str | None:
        """Where files of a kind lie by the folder's own habit; None where there are none yet."""
        return self.index.links.habit(endings)

    def put_free(self, wanted: Path, content: bytes) -> Path:
        """Makes a file as part of the step under way, with a number behind its name where that is taken; its path.

        Raises:
            UserError: ten thousand files have that name.
        """
        self.need_there()
        make_folder(wanted.parent)
        for number in range(1, 10_000):
            free = wanted if number == 1 else wanted.with_name(f"{wanted.stem} {number}{wanted.suffix}")
            with suppress(FileExistsError):
                self.history.put_file(free, None, content)
                return free
        raise UserError("note-names", f"There are too many files named “{wanted.stem}”.", "Rename some of them.")

    def rewrite(self, path: Path, before: bytes, text: str) -> None:
        """Writes a file anew in its own encoding, as part of the step under way, if there is anything new."""
        content = self.files.content_of(path, before, text)
        if content != before:
            self.history.put_file(path, before, content)
            self.take_in(path)

    def remove(self, ids: Sequence[int]) -> None:
        for entry_id in ids:
            name = self.index.path(entry_id)
            before = read_bytes(self.path / name) if name else None
            if name and before is not None:
                title = next((entry.title for entry in self.index.table.rows([entry_id])), name)
                self.context.trash.take_note(self.key, title, name, before)
                self.history.put_file(self.path / name, before, None)
                self.index.drop([name])

    def bring_back(self, path: str, content: bytes) -> int:
        """Makes a note at a path or, where that is taken, with a number behind it; its id."""
        return self.take_in(self.put_free(self.inside(path), content))

    def note_named(self, name: str) -> int | None:
        """The id of the first note whose file has that name, in any folder; None where there is none."""
        return self.index.id_by_name(f"{name}.md")

    def file_beside(self, path: str, link: str, *, anywhere: bool = False) -> bytes | None:
        """A file that a note links to; None where there is none in this folder.

        Args:
            anywhere: whether one that is not beside the note is looked for by its name in the whole folder, which takes its time.
        """
        from wily_magpie.core.places.notes import shown_files  # as above

        return shown_files.file_beside(self.path, path, link, anywhere=anywhere)

    def inside(self, path: str) -> Path:
        """A path of the folder on disk; a Markdown ending is added where it has none.

        Raises:
            UserError: it leads out of the folder, or is hidden.
        """
        return self.followed(self.path / path_in(path, self.name))

    def followed(self, path: Path) -> Path:
        """Where a path leads in the end, see disk.followed."""
        return followed(path, self.path, self.name, may_lead_out=self.settings.links_lead_out)

    def to_plain(self, values: Mapping[str, Value]) -> dict[str, Plain]:
        """Values as front matter holds them, by their keys there; keys that are no field are left out."""
        fields = {field.key: field for field in self.fields[1:]}
        return {key: fields[key].kind.to_plain(value) for key, value in values.items() if key in fields}

    def look_again(self, paths: Sequence[Path]) -> None:
        """Brings some files into the index as they are now."""
        for path in paths:
            if path.is_file():
                self.take_in(path)
            else:
                self.index.drop([path.relative_to(self.path).as_posix()])

    def take_in(self, path: Path) -> int:
        """Brings one file that was just written into the index; its id."""
        return self.files.take_in(self.index, path)
