"""The files of a notes folder on the disk: which there are, their names, their text."""

import ctypes
import os
import re
import struct
import time
from contextlib import suppress
from datetime import date, datetime
from pathlib import Path

from wily_magpie.core.entries.file_name import safe_name
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.atomic import TEMPORARY, short_path

ABROAD_S = 2
"""Seconds that a writer on another machine, whose number says nothing here, is given."""
UNSURE_NS = 2_000_000_000
"""How coarse a disk's clock may be: FAT counts in two seconds."""
LIBC = ctypes.CDLL(None)
AT_FDCWD, STATX_BTIME = -100, 0x800
STATX = struct.Struct("=I76xq")
"""Of what statx(2) tells: which of it is known, and the seconds at which the file was made."""
STORED = "%Y-%m-%dT%H:%M:%SZ"
NOTE = re.compile(r"\.(md|markdown)$", re.IGNORECASE)
STALE_S = 600
"""Seconds after which nobody is still writing a file."""


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


def path_in(path: str, name: str) -> str:
    """A path within a notes folder of some name as it is written on disk; a Markdown ending is added where it has none.

    Raises:
        UserError: it leads out of the folder, or is hidden.
    """
    parts = [part for part in path.replace("\\", "/").split("/") if part not in ("", ".")]
    if not parts or ".." in parts or any(part.startswith(".") for part in parts):
        raise UserError("bad-path", f"“{path}” is no path in {name}.", "Write it like Journal/2026-03-12.md.")
    bare = "/".join([*map(safe_name, parts[:-1]), safe_name(NOTE.sub("", parts[-1]))])
    ending = NOTE.search(parts[-1])
    return f"{bare}{ending[0] if ending else '.md'}"


def followed(path: Path, folder: Path, name: str, *, may_lead_out: bool) -> Path:
    """Where a path leads in the end: a note may be a link, as long as it stays in its folder, or the person said yes.

    Raises:
        UserError: it leads out of the folder, or to something that is no file.
    """
    try:
        end, home = path.resolve(), folder.resolve()
        is_no_file = end.exists() and not end.is_file()  # a pipe would be waited for without end
    except OSError as error:
        raise UserError(
            "bad-path", f"{short_path(path)} is no path in {name}: {error.strerror}.", "Choose a shorter one."
        ) from error
    is_out = not end.is_relative_to(home)
    if is_out and not may_lead_out:
        raise UserError(
            "note-outside",
            f"{path.name} leads out of {name}, to {end}.",
            "Write into that file with another program, or allow it where the folder is set up.",
        )
    if is_no_file:
        raise UserError("note-no-file", f"{path.name} is no file.", "Name another note.")
    return path if is_out else folder / end.relative_to(home)


def born(path: str, changed_ns: int) -> str:
    """When a file was made, as dates are stored: as the system knows it (statx), else its last change."""
    made_s = born_s(path)
    return time.strftime(STORED, time.gmtime(made_s if made_s is not None else abs(changed_ns) // 10**9))


def born_s(path: str) -> int | None:
    """The seconds at which a file was made; None where the system or the disk does not know. See statx(2)."""
    room = ctypes.create_string_buffer(256)
    try:
        failed = LIBC.statx(AT_FDCWD, os.fsencode(path), 0, STATX_BTIME, room)
    except AttributeError:  # an old C library
        return None
    known, made_s = STATX.unpack_from(room)
    return None if failed or not known & STATX_BTIME else int(made_s)


def stamp_of(stat: os.stat_result) -> tuple[int, int]:
    """What tells a changed file: (time in ns, size in bytes).

    The time is that of the last change of anything (ctime), which nobody can set back. A file that was changed just now may
    be changed once more within the same tick of the disk's clock: its stamp is one that it will not have later, so that it
    is read once more.
    """
    changed = max(stat.st_mtime_ns, stat.st_ctime_ns)
    return (changed if time.time_ns() - changed > UNSURE_NS else -changed), stat.st_size


def is_text(name: str) -> bool:
    """Whether a name is UTF-8; one that is not can be kept nowhere but in a file system."""
    try:
        name.encode()
    except UnicodeEncodeError:
        return False
    return True


def markdown_files(folder: Path, strange: list[str], others: list[str]) -> list[tuple[str, tuple[int, int]]]:
    """Rows of (path from the folder, stamp); hidden folders and links are left out.

    Args:
        strange: gets the names that are no UTF-8.
        others: gets the paths of all other files, to which notes may link.
    """
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
                    elif NOTE.search(entry.name) and entry.is_file(follow_symlinks=False):
                        if not is_text(name):
                            strange.append(name)
                            continue
                        with suppress(FileNotFoundError):  # gone meanwhile
                            out.append((name, stamp_of(entry.stat(follow_symlinks=False))))
                    elif is_text(name):
                        others.append(name)
        except OSError:  # no rights, gone meanwhile, or nothing that can be looked into: it costs itself
            if not inside:
                raise
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
