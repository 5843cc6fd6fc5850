"""Files written so that nobody ever sees half of one."""

import os
from contextlib import suppress
from pathlib import Path

from wily_magpie.core.errors import EnvironmentFailure, FileChanging

LONGEST_TOLD = 300
"""Characters of a path in a message."""
TEMPORARY = ".magpie-writing"


def read_bytes(path: Path | str) -> bytes | None:
    """What a file holds; None where there is none."""
    try:
        with open(path, "rb", buffering=0) as file:  # noqa: PTH123 - a Path costs a third of the time of reading a note
            return file.readall()
    except FileNotFoundError:
        return None
    except OSError as error:
        raise EnvironmentFailure(
            "file-unread", f"{path} cannot be read: {error.strerror}.", "Check its rights."
        ) from error


def sha256_of(content: bytes) -> str:
    """What bytes are known by, and the name under which they are kept."""
    import hashlib  # takes long to load, and most commands of a shell keep no file

    return hashlib.sha256(content).hexdigest()


def foresee(path: str) -> None:
    """Has the system begin to read a file from the disk, since it will be asked for soon."""
    with suppress(OSError):
        opened = os.open(path, os.O_RDONLY)
        try:
            os.posix_fadvise(opened, 0, 0, os.POSIX_FADV_WILLNEED)
        finally:
            os.close(opened)


def write_bytes(
    path: Path, content: bytes, *, is_new: bool = False, mode: int = 0o666, expected: bytes | None = None
) -> None:
    """Writes a file whole, through a temporary one in the same folder, and to the disk itself; a link stays a link.

    Args:
        mode: the rights of a new file, before the person's own mask.
        expected: what the file is to hold until it is replaced, which is looked at in the last moment; None: whatever it is.

    Raises:
        FileExistsError: is_new, and somebody has made that file.
        FileChanging: it holds something else than was expected.
        EnvironmentFailure: the disk refuses.
    """
    path = path.resolve() if path.is_symlink() and not is_new else path
    temporary = path.with_name(f".{path.name.encode()[:120].decode(errors='ignore')}{TEMPORARY}-{os.getpid()}")
    try:
        with open(temporary, "wb", opener=lambda name, flags: os.open(name, flags, mode)) as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        if is_new:
            os.link(temporary, path)  # unlike a rename, never over another file
            temporary.unlink()
        else:
            with suppress(FileNotFoundError):
                temporary.chmod(path.stat().st_mode & 0o7777)
            need_unchanged(path, expected)
            temporary.replace(path)
        sync_folder(path.parent)
    except (FileExistsError, FileChanging):
        temporary.unlink(missing_ok=True)
        raise
    except OSError as error:
        with suppress(OSError):
            temporary.unlink(missing_ok=True)
        raise EnvironmentFailure(
            "file-unwritten",
            f"{short_path(path)} cannot be written: {error.strerror}.",
            "Check the disk and the folder's rights.",
        ) from error


def remove_file(path: Path, expected: bytes | None = None) -> None:
    """Removes a file, if it is there.

    Raises:
        FileChanging: it holds something else than was expected.
    """
    need_unchanged(path, expected)
    path.unlink(missing_ok=True)


def need_unchanged(path: Path, expected: bytes | None) -> None:
    """Raises FileChanging where a file holds something else than was expected; None: whatever it is."""
    if expected is not None and read_bytes(path) != expected:
        raise FileChanging(
            "note-changing",
            f"{short_path(path)} is being written by another program at this moment.",
            "Try again; nothing was changed.",
        )


def make_folder(path: Path) -> None:
    """Makes a folder and those around it.

    Raises:
        EnvironmentFailure: a file is in the way, or the name is too long for the disk.
    """
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise EnvironmentFailure(
            "file-unwritten", f"The folder {short_path(path)} cannot be made: {error.strerror}.", "Choose another path."
        ) from error


def short_path(path: Path) -> str:
    """A path as it can be told."""
    text = str(path)
    return text if len(text) <= LONGEST_TOLD else f"{text[:LONGEST_TOLD]}…"


def sync_folder(folder: Path) -> None:
    """Makes sure that a new file's name is on the disk."""
    opened = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(opened)
    finally:
        os.close(opened)
