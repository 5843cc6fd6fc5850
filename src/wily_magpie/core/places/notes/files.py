"""The Markdown files of a notes folder as they are read: in whatever encoding, and those that cannot be read with the reason."""

import time
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.places.atomic import foresee, read_bytes
from wily_magpie.core.places.notes.disk import born, stamp_of
from wily_magpie.core.places.notes.encoding import UTF_8, decode, encode
from wily_magpie.core.places.notes.index import NotesIndex
from wily_magpie.core.places.notes.index_row import ReadFile, read_file

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.note_file import NoteFile

LARGEST_NOTE_BYTES = 20_000_000
TOO_LARGE = f"It is larger than {LARGEST_NOTE_BYTES // 1_000_000} MB: what it holds is not looked at, and nothing is written into it."
LARGEST_BATCH_BYTES = 50_000_000
"""Of the files that are held in memory until they are indexed together."""
FILES_A_BATCH, LEAST_A_BATCH, FILES_A_TICK, AHEAD = 400, 50, 100, 48
"""AHEAD: how many files before its turn the system is asked for one."""
LONGEST_BATCH_S = 0.06
"""How long a batch may keep others from writing, as far as the one before it tells."""


class NoteFiles:
    """Of one folder.

    Args:
        other_encoding: of files that are no UTF-8; "" where that is not said.
    """

    def __init__(self, path: Path, other_encoding: str) -> None:
        self.path, self.other_encoding = path, other_encoding

    def read(self, path: str) -> "NoteFile":
        """One file in its parts; one that may not be read, or is too large, has nothing in it but the reason."""
        size = 0
        with suppress(OSError):
            size = (self.path / path).stat().st_size
        return self.parsed(path, size)

    def parsed(self, path: str, size: int) -> "NoteFile":
        """The same of a file whose size in bytes is known."""
        from wily_magpie.core.places.notes import note_file  # YAML is needed only where a file has changed

        if size > LARGEST_NOTE_BYTES:
            return note_file.NoteFile("", 0, 0, 0, {}, TOO_LARGE)
        try:
            content = read_bytes(f"{self.path}/{path}")
        except EnvironmentFailure as error:
            return note_file.NoteFile("", 0, 0, 0, {}, error.message)
        found = decode(content or b"", self.other_encoding)
        note = note_file.parse(found.text)
        is_usual = not found.fault and found.encoding == UTF_8
        return note if is_usual else replace(note, encoding=found.encoding, fault=found.fault or note.fault)

    def text_of(self, path: Path, content: bytes) -> str:
        """The text of a file, to be changed.

        Raises:
            UserError: it cannot be read for sure.
        """
        if len(content) > LARGEST_NOTE_BYTES:
            raise UserError("note-too-large", f"{path.name}: {TOO_LARGE}", "Part it in a text editor first.")
        found = decode(content, self.other_encoding)
        if found.fault:
            raise UserError("note-encoding", f"{path.name}: {found.fault}", "Nothing was changed.")
        return found.text

    def content_of(self, path: Path, before: bytes, text: str) -> bytes:
        """A text as it is written into a file, in the encoding that it has."""
        return encode(text, decode(before, self.other_encoding).encoding, path.name)

    def taken(self, path: str, stamp: tuple[int, int]) -> ReadFile:
        """One file, as the index takes it in."""
        return read_file(path, stamp, self.parsed(path, stamp[1]), born(f"{self.path}/{path}", stamp[0]))

    def take_in(self, index: NotesIndex, path: Path) -> int:
        """Brings one file that was just written into an index; its id."""
        return index.put([self.taken(path.relative_to(self.path).as_posix(), stamp_of(path.stat()))])[0]

    def take_in_all(
        self, index: NotesIndex, stamps: Mapping[str, tuple[int, int]], tick: Callable[[int, int], None] | None
    ) -> None:
        """Reads files into an index, batch by batch; somebody who writes one note in between waits for one batch only.

        Args:
            tick: see NotesFolder.refresh.
        """
        paths = list(stamps)
        batch, size, most = [], 0, FILES_A_BATCH
        for number, path in enumerate(paths):
            if tick and number % FILES_A_TICK == 0:
                tick(number, len(paths))
            if number + AHEAD < len(paths):
                foresee(f"{self.path}/{paths[number + AHEAD]}")
            batch.append(self.taken(path, stamps[path]))
            size += min(stamps[path][1], LARGEST_NOTE_BYTES)
            if len(batch) >= most or size > LARGEST_BATCH_BYTES:
                begun_s = time.perf_counter()
                index.put(batch)
                took_s = max(time.perf_counter() - begun_s, 0.001)
                most = max(LEAST_A_BATCH, min(FILES_A_BATCH, round(len(batch) * LONGEST_BATCH_S / took_s)))
                batch, size = [], 0
                index.database.give_way()
        index.put(batch)
        if tick and paths:
            tick(len(paths), len(paths))
