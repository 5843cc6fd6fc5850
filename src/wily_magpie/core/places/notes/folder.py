"""A notes folder as a place: files are read, changed and made; an index answers the questions."""

import os
import re
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace
from datetime import date, datetime
from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import unquote

from wily_magpie.core.entries.entry import Draft, Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.file_name import safe_name
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.fields.base import Plain
from wily_magpie.core.places.api import Listing, PlaceSettings
from wily_magpie.core.places.atomic import TEMPORARY, foresee, read_bytes
from wily_magpie.core.places.history import History
from wily_magpie.core.places.notes.index import NotesIndex
from wily_magpie.core.places.trash import Trash
from wily_magpie.core.query.nodes import Question

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.note_file import NoteFile

LARGEST_NOTE_BYTES = 20_000_000
LARGEST_BATCH_BYTES = 50_000_000
"""Of the files that are held in memory until they are indexed together."""
FILES_A_BATCH, FILES_A_TICK, AHEAD = 2_000, 100, 48
"""AHEAD: how many files before its turn the system is asked for one."""
ABROAD_S = 2
"""Seconds that a writer on another machine, whose number says nothing here, is given."""
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

    def refresh(self, tick: Callable[[int, int], None] | None = None) -> int:
        """Reads the files that are new, changed or gone since the last time; how many they were.

        Args:
            tick: told of (done, total) now and then; may raise to end it, and most of what was read stays read.

        Raises:
            EnvironmentFailure: the folder is not there.
        """
        with self.refreshing:
            if not self.path.is_dir():
                raise EnvironmentFailure(
                    "notes-gone", f"The notes folder {self.path} is not there.", "Bring it back, or mount its disk."
                )
            known = self.index.stamps()
            found = dict(markdown_files(self.path))
            changed = [
                path for path, stamp in found.items() if known.get(path) != stamp and stamp[1] <= LARGEST_NOTE_BYTES
            ]
            batch, size = [], 0
            for number, path in enumerate(changed):
                if tick and number % FILES_A_TICK == 0:
                    tick(number, len(changed))
                if number + AHEAD < len(changed):
                    foresee(f"{self.path}/{changed[number + AHEAD]}")
                batch.append((path, found[path], self.read(path)))
                size += found[path][1]
                if len(batch) == FILES_A_BATCH or size > LARGEST_BATCH_BYTES:
                    self.index.put(batch)
                    batch, size = [], 0
            self.index.put(batch)
            gone = [path for path in known if path not in found]
            self.index.drop(gone)
            return len(changed) + len(gone)

    def read(self, path: str) -> "NoteFile":
        """One file in its parts."""
        from wily_magpie.core.places.notes import note_file  # YAML is needed only where a file has changed

        content = read_bytes(f"{self.path}/{path}")
        return note_file.parse((content or b"").decode("utf-8", "replace"))

    def faults(self) -> list[tuple[str, str]]:
        """(path, why) of the notes whose front matter cannot be read."""
        self.refresh()
        return self.index.faults()

    def listing(self, question: Question) -> Listing:
        return self.index.table.listing(question)

    def rows(self, ids: Sequence[int]) -> list[Entry]:
        paths = self.index.paths_of(ids)
        return [replace(entry, path=paths.get(entry.id, "")) for entry in self.index.table.rows(ids)]

    def values_in_use(self, field: Field) -> list[str]:
        return self.index.table.values_in_use(field)

    def entry(self, entry_id: int) -> Entry | None:
        found = self.rows([entry_id])
        if not found:
            return None
        note = self.read(found[0].path)
        return replace(found[0], body=note.body.strip("\r\n"), fault=note.fault)

    def known(self, canonical: str) -> Entry | None:
        entry_id = self.index.table.known(canonical) if canonical else None
        return self.entry(entry_id) if entry_id is not None else None

    def add(self, draft: Draft) -> int:
        """A new file named after the title; a number is added to the name where it is taken."""
        from wily_magpie.core.places.notes import note_file  # as above

        matter: dict[str, Plain] = {"title": draft.title}
        matter.update(self.to_plain(draft.values))
        content = note_file.compose(matter, draft.body).encode("utf-8", "replace")
        pattern = draft.path or self.settings.name_pattern or "{title}"
        return self.bring_back(fill_path(pattern, draft.title, today()), content)

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
        return path, before, decoded(path, before)

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
        self.rewrite(path, before, text.encode())

    def change_body(self, entry_id: int, body: str, opened: str) -> str:
        """Sets the body of a note that was opened with another one; a sentence where somebody changed it meanwhile, or "".

        Where both changed different lines, both changes are kept; else the note stays as it is on disk, and the new body
        becomes a note beside it.
        """
        from wily_magpie.core.places.notes import note_file  # as above
        from wily_magpie.core.places.notes.merging import merge

        path, _, text = self.whole_text(entry_id)
        note = note_file.parse(text)
        theirs = note.body.strip("\r\n").replace("\r\n", "\n")
        merged = merge(opened.replace("\r\n", "\n"), body.strip("\n"), theirs)
        if merged is not None:
            self.change(entry_id, {}, merged)
            is_theirs = theirs not in (opened.replace("\r\n", "\n"), merged)
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

    def put_free(self, wanted: Path, content: bytes) -> Path:
        """Makes a file as part of the step under way, with a number behind its name where that is taken; its path.

        Raises:
            UserError: ten thousand files have that name.
        """
        wanted.parent.mkdir(parents=True, exist_ok=True)
        for number in range(1, 10_000):
            free = wanted if number == 1 else wanted.with_name(f"{wanted.stem} {number}{wanted.suffix}")
            with suppress(FileExistsError):
                self.history.put_file(free, None, content)
                return free
        raise UserError("note-names", f"There are too many files named “{wanted.stem}”.", "Rename some of them.")

    def rewrite(self, path: Path, before: bytes, content: bytes) -> None:
        """Writes a file anew, as part of the step under way, if there is anything new."""
        if content != before:
            self.history.put_file(path, before, content)
            self.take_in(path)

    def remove(self, ids: Sequence[int]) -> None:
        for entry_id in ids:
            name = self.index.path(entry_id)
            before = read_bytes(self.path / name) if name else None
            if name and before is not None:
                title = next((entry.title for entry in self.index.table.rows([entry_id])), name)
                self.trash.take_note(self.key, title, name, before)
                self.history.put_file(self.path / name, before, None)
                self.index.drop([name])

    def bring_back(self, path: str, content: bytes) -> int:
        """Makes a note at a path or, where that is taken, with a number behind it; its id."""
        return self.take_in(self.put_free(self.inside(path), content))

    def note_named(self, name: str) -> int | None:
        """The id of the first note whose file has that name, in any folder; None where there is none."""
        return self.index.id_by_name(f"{name}.md")

    def file_beside(self, path: str, link: str) -> bytes | None:
        """A file that a note links to; None where there is none in this folder."""
        wanted = (self.path / path).parent / unquote(link.partition("#")[0])
        try:
            real = wanted.resolve(strict=True)
        except (OSError, ValueError):
            return None
        if not real.is_relative_to(self.path.resolve()) or not real.is_file():
            return None
        return read_bytes(real) if real.stat().st_size <= LARGEST_NOTE_BYTES else None

    def inside(self, path: str) -> Path:
        """A path of the folder on disk; a Markdown ending is added where it has none.

        Raises:
            UserError: it leads out of the folder, or is hidden.
        """
        parts = [part for part in path.replace("\\", "/").split("/") if part not in ("", ".")]
        if not parts or ".." in parts or any(part.startswith(".") for part in parts):
            raise UserError("bad-path", f"“{path}” is no path in {self.name}.", "Write it like Journal/2026-03-12.md.")
        name = "/".join(
            [*map(safe_name, parts[:-1]), safe_name(re.sub(r"\.(md|markdown)$", "", parts[-1], flags=re.I))]
        )
        ending = re.search(r"\.(md|markdown)$", parts[-1], re.IGNORECASE)
        return self.path / f"{name}{ending[0] if ending else '.md'}"

    def to_plain(self, values: Mapping[str, Value]) -> dict[str, Plain]:
        """Values as front matter holds them, by their keys there; keys that are no field are left out."""
        fields = {field.key: field for field in self.fields[1:]}
        return {key: fields[key].kind.to_plain(value) for key, value in values.items() if key in fields}

    def take_in(self, path: Path) -> int:
        """Brings one file that was just written into the index; its id."""
        name = path.relative_to(self.path).as_posix()
        return self.index.put([(name, stamp_of(path.stat()), self.read(name))])[0]


def today() -> date:
    """The day of the person's own clock."""
    return datetime.now().astimezone().date()


def fill_path(pattern: str, title: str, day: date) -> str:
    """A path made of a pattern with {title}, {date}, {year}, {month}, {day}, {week} and {weekday}."""
    slots = {
        "title": safe_name(title),
        "date": day.isoformat(),
        "year": f"{day.year:04}",
        "month": f"{day.month:02}",
        "day": f"{day.day:02}",
        "week": f"{day.isocalendar().week:02}",
        "weekday": day.strftime("%A"),
    }
    return re.sub(r"\{(\w+)\}", lambda found: slots.get(found[1], found[0]), pattern)


def decoded(path: Path, content: bytes) -> str:
    """The text of a note's file; UserError where it is no UTF-8."""
    try:
        return content.decode("utf-8")
    except UnicodeDecodeError as error:
        raise UserError("note-encoding", f"{path.name} is not UTF-8.", "Save it as UTF-8 first.") from error


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
            if is_left(entry.name, time.time() - entry.stat(follow_symlinks=False).st_mtime):
                Path(entry.path).unlink()


def is_left(name: str, age_s: float) -> bool:
    """Whether nobody will finish a temporary file of this name: its writer has ended, or it is very old."""
    writer = name.rpartition("-")[2]
    return age_s > STALE_S or (age_s > ABROAD_S and writer.isdigit() and not Path(f"/proc/{writer}").exists())
