"""Files that notes show or link to: beside the note, or anywhere in its folder, by name."""

import os
from pathlib import Path
from urllib.parse import unquote

from wily_magpie.core.places.atomic import read_bytes

LARGEST_BYTES = 20_000_000


def file_beside(root: Path, path: str, link: str, *, anywhere: bool = False) -> bytes | None:
    """A file that a note links to; None where there is none in the folder, or it is too large.

    Args:
        root: of the folder; path: of the note, from there on; link: as it stands in the note.
        anywhere: whether one that is not there is looked for by its name in the whole folder.
    """
    name = unquote(link.partition("#")[0])
    try:
        real = ((root / path).parent / name).resolve(strict=True)
    except (OSError, ValueError):
        return file_named(root, name) if anywhere else None
    if not real.is_relative_to(root.resolve()) or not real.is_file():
        return None
    return read_bytes(real) if real.stat().st_size <= LARGEST_BYTES else None


def file_named(root: Path, name: str) -> bytes | None:
    """A file of that name anywhere in a folder, as double brackets mean it; the first by its path."""
    if "/" in name or "." not in name.strip("."):
        return None
    for folder, folders, files in os.walk(root):
        folders[:] = sorted(one for one in folders if not one.startswith("."))
        if name in files:
            return file_beside(root, Path(folder, name).relative_to(root).as_posix(), name)
    return None
