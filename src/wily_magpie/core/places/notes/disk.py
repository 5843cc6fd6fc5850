"""The files of a notes folder on the disk: which there are, their names, their text."""

import os
import re
import time
from contextlib import suppress
from datetime import date, datetime
from pathlib import Path

from wily_magpie.core.entries.file_name import safe_name
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.atomic import TEMPORARY

ABROAD_S = 2
"""Seconds that a writer on another machine, whose number says nothing here, is given."""
UNSURE_NS = 2_000_000_000
"""How coarse a disk's clock may be: FAT counts in two seconds."""
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
    bare = "/".join([*map(safe_name, parts[:-1]), safe_name(re.sub(r"\.(md|markdown)$", "", parts[-1], flags=re.I))])
    ending = re.search(r"\.(md|markdown)$", parts[-1], re.IGNORECASE)
    return f"{bare}{ending[0] if ending else '.md'}"


def decoded(path: Path, content: bytes) -> str:
    """The text of a note's file; UserError where it is no UTF-8."""
    try:
        return content.decode("utf-8")
    except UnicodeDecodeError as error:
        raise UserError("note-encoding", f"{path.name} is not UTF-8.", "Save it as UTF-8 first.") from error


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


def markdown_files(folder: Path, strange: list[str]) -> list[tuple[str, tuple[int, int]]]:
    """Rows of (path from the folder, stamp); hidden folders and links are left out.

    Args:
        strange: gets the names that are no UTF-8.
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
                    elif re.search(r"\.(md|markdown)$", entry.name, re.IGNORECASE) and entry.is_file(
                        follow_symlinks=False
                    ):
                        if not is_text(name):
                            strange.append(name)
                            continue
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
