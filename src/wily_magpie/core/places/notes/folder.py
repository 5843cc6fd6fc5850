"""A notes folder as a place: files are read, changed and made; an index answers the questions."""

import os
import re
import threading
import time
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.entries.entry import Draft, Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.fields.base import Plain
from wily_magpie.core.places.api import Listing, PlaceSettings
from wily_magpie.core.places.atomic import TEMPORARY, read_bytes, safe_name, write_bytes
from wily_magpie.core.places.history import History
from wily_magpie.core.places.library.trash import Trash
from wily_magpie.core.places.notes.index import NotesIndex
from wily_magpie.core.query.nodes import Question

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.note_file import NoteFile

LARGEST_NOTE_BYTES = 20_000_000
STALE_S = 600
"""Seconds after which nobody is still writing a file."""


class NotesFolder:
    """See api.Place. `refresh` brings the index in step with the files.

    Args:
        declared: the fields that the person named for it; other keys of the files are found by the index.
        index_folder: where the index lives; it may be deleted at any time.
    """

    def __init__(
        self,
        number: int,
        name: str,
        path: Path,
        declared: tuple[Field, ...],
        index_folder: Path,
        history: History,
        trash: Trash,
        settings: PlaceSettings,
    ) -> None:
        self.number = number
        self.name = name
        self.key = f"notes:{number}"
        self.path = path
        self.declared = declared
        self.history = history
        self.trash = trash
        self.settings = settings
        self.given = (name, str(path), declared, settings)
        self.index = NotesIndex(index_folder / f"notes-{number}.sqlite", self.key, declared, settings.rules)
        self.refreshing = threading.Lock()

    def close(self) -> None:
        """Closes the index."""
        self.index.close()

    @property
    def fields(self) -> tuple[Field, ...]:
        return self.index.table.fields

    def refresh(self) -> int:
        """Reads the files that are new, changed or gone since the last time; how many they were.

        Raises:
            EnvironmentFailure: the folder is not there.
        """
        with self.refreshing:
            if not self.path.is_dir():
                raise EnvironmentFailure(
                    "notes-gone", f"The notes folder {self.path} is not there.", "Bring it back, or mount its disk."
                )
            known = self.index.stamps()
            found: dict[str, tuple[int, int]] = {}
            changed = 0
            for path, stamp in markdown_files(self.path):
                found[path] = stamp
                if known.get(path) != stamp and stamp[1] <= LARGEST_NOTE_BYTES:
                    self.index.put(path, stamp, self.read(path))
                    changed += 1
            gone = [path for path in known if path not in found]
            self.index.drop(gone)
            return changed + len(gone)

    def read(self, path: str) -> "NoteFile":
        """One file in its parts."""
        from wily_magpie.core.places.notes import note_file  # YAML is needed only where a file has changed

        content = read_bytes(self.path / path)
        return note_file.parse((content or b"").decode("utf-8", "replace"))

    def listing(self, question: Question) -> Listing:
        return self.index.table.listing(question)

    def rows(self, ids: Sequence[int]) -> list[Entry]:
        return [replace(entry, path=self.index.path(entry.id) or "") for entry in self.index.table.rows(ids)]

    def entry(self, entry_id: int) -> Entry | None:
        found = self.rows([entry_id])
        return replace(found[0], body=self.read(found[0].path).body.strip("\r\n")) if found else None

    def known(self, canonical: str) -> Entry | None:
        entry_id = self.index.table.known(canonical) if canonical else None
        return self.entry(entry_id) if entry_id is not None else None

    def add(self, draft: Draft) -> int:
        """A new file named after the title; a number is added to the name where it is taken."""
        from wily_magpie.core.places.notes import note_file  # as above

        matter: dict[str, Plain] = {"title": draft.title}
        matter.update(self.to_plain(draft.values))
        content = note_file.compose(matter, draft.body).encode("utf-8", "replace")
        name = safe_name(draft.title)
        for number in range(1, 10_000):
            path = self.path / (f"{name}.md" if number == 1 else f"{name} {number}.md")
            try:
                write_bytes(path, content, is_new=True)
            except FileExistsError:
                continue
            self.history.file_changed(path, None, content)
            return self.take_in(path)
        raise UserError("note-names", f"There are too many notes named “{name}”.", "Give this one another title.")

    def change(self, entry_id: int, values: Mapping[str, Value], body: str | None = None) -> None:
        from wily_magpie.core.places.notes import note_file  # as above

        name = self.index.path(entry_id)
        path = self.path / str(name)
        before = read_bytes(path) if name else None
        if before is None:
            raise UserError("note-gone", "This note is no longer there.", "Another program has removed or renamed it.")
        try:
            text = before.decode("utf-8")
        except UnicodeDecodeError as error:
            raise UserError("note-encoding", f"{path.name} is not UTF-8.", "Save it as UTF-8 first.") from error
        note = note_file.parse(text)
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
        content = text.encode()
        if content != before:
            write_bytes(path, content)
            self.history.file_changed(path, before, content)
            self.take_in(path)

    def remove(self, ids: Sequence[int]) -> None:
        for entry_id in ids:
            name = self.index.path(entry_id)
            before = read_bytes(self.path / name) if name else None
            if name and before is not None:
                title = next((entry.title for entry in self.index.table.rows([entry_id])), name)
                self.trash.take_note(self.key, title, name, before)
                (self.path / name).unlink()
                self.history.file_changed(self.path / name, before, None)
                self.index.drop([name])

    def bring_back(self, path: str, content: bytes) -> int:
        """Makes a note from the trash again, at its old path or, where that is taken, with a number; its id."""
        wanted = self.path / path
        wanted.parent.mkdir(parents=True, exist_ok=True)
        for number in range(1, 10_000):
            free = wanted if number == 1 else wanted.with_name(f"{wanted.stem} {number}{wanted.suffix}")
            try:
                write_bytes(free, content, is_new=True)
            except FileExistsError:
                continue
            self.history.file_changed(free, None, content)
            return self.take_in(free)
        raise UserError("note-names", f"There are too many notes named “{wanted.stem}”.", "Rename some of them.")

    def to_plain(self, values: Mapping[str, Value]) -> dict[str, Plain]:
        """Values as front matter holds them, by their keys there; keys that are no field are left out."""
        fields = {field.key: field for field in self.fields[1:]}
        return {key: fields[key].kind.to_plain(value) for key, value in values.items() if key in fields}

    def take_in(self, path: Path) -> int:
        """Brings one file that was just written into the index; its id."""
        name = path.relative_to(self.path).as_posix()
        return self.index.put(name, stamp_of(path.stat()), self.read(name))


def stamp_of(stat: os.stat_result) -> tuple[int, int]:
    """What tells a changed file: (time in ns, size in bytes)."""
    return stat.st_mtime_ns, stat.st_size


def markdown_files(folder: Path) -> list[tuple[str, tuple[int, int]]]:
    """Rows of (path from the folder, stamp); hidden folders and links out of the folder are left out."""
    out: list[tuple[str, tuple[int, int]]] = []
    todo = [""]
    while todo:
        inside = todo.pop()
        try:
            with os.scandir(folder / inside) as entries:
                for entry in entries:
                    name = f"{inside}/{entry.name}" if inside else entry.name
                    if entry.name.startswith("."):
                        drop_remains(entry)
                        continue
                    if entry.is_dir(follow_symlinks=False):
                        todo.append(name)
                    elif re.search(r"\.(md|markdown)$", entry.name, re.IGNORECASE) and entry.is_file(
                        follow_symlinks=False
                    ):
                        out.append((name, stamp_of(entry.stat(follow_symlinks=False))))
        except PermissionError:
            continue
    return out


def drop_remains(entry: os.DirEntry[str]) -> None:
    """Removes a file that a killed program left half written; one that is being written now is left alone."""
    if TEMPORARY in entry.name and entry.is_file(follow_symlinks=False):
        with suppress(OSError):
            if time.time() - entry.stat(follow_symlinks=False).st_mtime > STALE_S:
                Path(entry.path).unlink()
