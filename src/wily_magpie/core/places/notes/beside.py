"""Pictures and files of a note, in a folder beside it, to which its text leads by paths from the note on."""

import mimetypes
import re
from collections.abc import Mapping, Sequence
from pathlib import Path
from posixpath import dirname, relpath
from typing import Protocol
from urllib.parse import quote, unquote, urlsplit

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.file_name import safe_name
from wily_magpie.core.entries.note_text import PICTURES
from wily_magpie.core.places.api import PlaceSettings
from wily_magpie.core.places.atomic import read_bytes
from wily_magpie.core.places.notes.disk import fill_path, today
from wily_magpie.core.places.notes.links import BESIDE

USUAL_FOLDER = "Files"
ENDINGS = {"image/jpeg": ".jpg", "image/svg+xml": ".svg"}
"""Where the system's list would take another one of several."""


class Notes(Protocol):
    """What is needed of a notes folder."""

    path: Path

    @property
    def settings(self) -> PlaceSettings:
        """Where pictures are laid."""

    def habit(self, endings: Sequence[str]) -> str | None:
        """The folder in which most files with these endings lie; None where there are none."""

    def put_free(self, wanted: Path, content: bytes) -> Path:
        """Makes a file as part of the step under way, with a number behind its name where that is taken; its path."""


def lay_pictures(notes: Notes, entry: Entry, pictures: Mapping[str, tuple[bytes, str]]) -> tuple[str, frozenset[str]]:
    """Lays the pictures beside a note that its text shows; the text with links that lead to them, and their addresses.

    Args:
        pictures: contents and media type by address.
    """
    body = entry.body or ""
    folder = folder_for(notes, entry)
    shown: set[str] = set()
    for address, (content, media_type) in pictures.items():
        place = re.compile(rf"(?<=[(<]){re.escape(address)}(?=[)>\s])")
        if not place.search(body):
            continue
        link = link_to(notes, laid(notes, notes.path / folder / name_of(address, media_type), content), entry)
        body = place.sub(lambda _found, link=link: link, body)  # type: ignore[misc]
        shown.add(address)
    return body, frozenset(shown)


def lay_file(notes: Notes, entry: Entry, name: str, content: bytes) -> str:
    """Lays a file where such lie; the Markdown that leads to it from a note."""
    stem, dot, ending = name.rpartition(".")
    safe = f"{safe_name(stem or ending)}{dot}{ending if dot else ''}"
    is_picture = (mimetypes.guess_type(name)[0] or "").startswith("image/")
    folder = folder_for(notes, entry) if is_picture else usual_folder(notes, entry, (f".{ending.casefold()}",))
    path = notes.put_free(notes.path / folder / safe, content)
    return f"{'!' if is_picture else ''}[{name}]({link_to(notes, path, entry)})"


def link_to(notes: Notes, path: Path, entry: Entry) -> str:
    """The link from a note to a file of its folder."""
    return quote(relpath(path.relative_to(notes.path).as_posix(), dirname(entry.path) or "."))


def folder_for(notes: Notes, entry: Entry) -> str:
    """The folder for the pictures of a note, from the notes folder on; never outside it."""
    return folder_of(notes, entry) or usual_folder(notes, entry, PICTURES)


def usual_folder(notes: Notes, entry: Entry, endings: Sequence[str]) -> str:
    """Where files of a kind lie by the folder's habit."""
    habit = notes.habit(endings)
    return USUAL_FOLDER if habit is None else dirname(entry.path) if habit == BESIDE else habit


def folder_of(notes: Notes, entry: Entry) -> str:
    """The folder that the person named for pictures; "" where that is no name."""
    usual = notes.settings.pictures_folder
    wanted = fill_path(usual, Path(entry.path).stem, today())
    parts = [safe_name(part) for part in wanted.replace("\\", "/").split("/") if part.strip(". ")]
    return "/".join(parts)


def laid(notes: Notes, wanted: Path, content: bytes) -> Path:
    """The picture as a file: the one that lies there already, if it is the same."""
    return wanted if read_bytes(wanted) == content else notes.put_free(wanted, content)


def name_of(address: str, media_type: str) -> str:
    """A name for the picture at an address, with the ending of its type."""
    name = unquote(urlsplit(address).path.rpartition("/")[2]) or "picture"
    stem, dot, ending = name.rpartition(".")
    is_right = mimetypes.guess_type(name)[0] == media_type
    suffix = (
        f".{ending}" if dot and is_right else ENDINGS.get(media_type) or mimetypes.guess_extension(media_type) or ""
    )
    return f"{safe_name(stem or ending)}{suffix}"
