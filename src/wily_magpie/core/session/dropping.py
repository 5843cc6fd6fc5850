"""What is dropped or pasted from other programs: addresses, files, pictures, text become entries or attachments."""

import mimetypes
import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import quote

from wily_magpie.core.entries.entry import Draft, short, with_files
from wily_magpie.core.entries.field import Field, FieldPlan, find_field
from wily_magpie.core.entries.file_name import safe_name
from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.pages.address import canonical
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.atomic import read_bytes
from wily_magpie.core.places.library import schema_changes
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.places.notes.inserting import insert
from wily_magpie.core.places.table import now

if TYPE_CHECKING:
    from wily_magpie.core.session.session import Session

ATTACHMENTS = "Files"
"""The folder of a notes folder into which dropped files are copied."""
LONGEST_TITLE = 120


@dataclass(frozen=True)
class Dropped:
    """What another program gives.

    Attributes:
        addresses: of the web, each with the title that came with it, or "".
        files: paths on this disk.
        picture: PNG data of a picture without a file.
        text, html: what was chosen there.
        source: the address of the page that it comes from, or "".
    """

    addresses: tuple[tuple[str, str], ...] = ()
    files: tuple[Path, ...] = ()
    picture: bytes = b""
    text: str = ""
    html: str = ""
    source: str = ""


class Dropping:
    """The part of a session that takes such things in; each drop is one undoable step."""

    def __init__(self, session: "Session") -> None:
        self.session = session

    def take(self, place: str, dropped: Dropped, entry_id: int | None = None) -> list[int]:
        """Takes things in: onto an entry as attachments and text, else as entries of their own; the entries' ids.

        Raises:
            UserError: there is nothing in it that could be kept.
        """
        target = self.session.place(place)
        if dropped.files or dropped.picture:
            self.need_files(target)
            target = self.session.place(place)
        with self.session.library.step(self.label(dropped, entry_id)):
            ids = self.onto(target, entry_id, dropped) if entry_id is not None else self.entries(target, dropped)
        if not ids:
            raise UserError(
                "nothing-dropped", "There is nothing in it that could be kept.", "Drop a link, a file or text."
            )
        self.session.changed(target, *ids)
        return ids

    @staticmethod
    def label(dropped: Dropped, entry_id: int | None) -> str:
        """The name of the step."""
        names = [path.name for path in dropped.files] or [title or address for address, title in dropped.addresses]
        what = f"“{short(names[0])}”" if len(names) == 1 else f"{len(names)} things" if names else "what was dropped"
        return f"{'Attach' if entry_id is not None else 'Take in'} {what}"

    def need_files(self, place: Place) -> None:
        """Gives a collection a field of files, if it has none."""
        if not isinstance(place, NotesFolder) and files_field(place) is None:
            schema_changes.add_field(self.session.library, place.key, FieldPlan("", "Files", "files"))

    def entries(self, place: Place, dropped: Dropped) -> list[int]:
        """A new entry for each thing."""
        made = []
        for address, title in dropped.addresses:
            made.append(place.add(self.draft(place, title or address, {"address": address}, "", canonical(address))))
        for path in dropped.files:
            made.append(place.add(self.draft(place, path.stem, {}, "")))
            self.add_file(place, made[-1], path)
        if dropped.picture:
            made.append(place.add(self.draft(place, "Picture", {"address": dropped.source}, "")))
            self.add_picture(place, made[-1], dropped)
        body = markdown_of(dropped)
        if body and not made:
            first = re.sub(r"[#>*_`\[\]]+", "", body.strip().splitlines()[0]).strip()
            title = first[:LONGEST_TITLE].rstrip() or "Dropped text"
            made.append(place.add(self.draft(place, title, {"address": dropped.source}, body)))
        return made

    def draft(self, place: Place, title: str, values: dict[str, str], body: str, known_as: str = "") -> Draft:
        """A new entry with what the place's fields can take of some values."""
        wanted: dict[str, Value] = self.session.library.defaults(place)
        keys = {field.key: field for field in place.fields}
        for key, text in {"captured": now()[:16] + "Z", **values}.items():
            if key in keys and text and keys[key].is_writable:
                wanted[key] = keys[key].kind.take(text)[0]
        return Draft(" ".join(title.split()), self.session.library.resolve(place, wanted), body, known_as)

    def onto(self, place: Place, entry_id: int, dropped: Dropped) -> list[int]:
        """Files are attached, an address fills the address if there is none yet, text goes to the end of the text."""
        for path in dropped.files:
            self.add_file(place, entry_id, path)
        if dropped.picture:
            self.add_picture(place, entry_id, dropped)
        is_taken = bool(dropped.files or dropped.picture)
        texts = [] if is_taken else [markdown_of(dropped)]
        main = next((field for field in place.fields if field.kind.name == "address"), None)
        for number, (address, title) in enumerate(dropped.addresses):
            if number == 0 and main is not None and place.rows([entry_id])[0].value(main.key) is None:
                place.change(entry_id, {main.key: address})
                is_taken = True
            else:
                texts.append(f"[{title or address}]({address})")
        for text in filter(None, texts):
            append(place, entry_id, text)
            is_taken = True
        return [entry_id] if is_taken else []

    def attach(self, place: str, entry_id: int, key: str, paths: Sequence[Path]) -> None:
        """Keeps copies of files as values of a field of files."""
        target = self.session.place(place)
        field = find_field(target.fields, key)
        with self.session.library.step(self.label(Dropped(files=tuple(paths)), entry_id)):
            self.put(target, entry_id, field, [self.session.library.blobs.keep_file_at(path) for path in paths])
        self.session.changed(target, entry_id)

    def add_file(self, place: Place, entry_id: int, path: Path) -> None:
        """Keeps a file with an entry; with a note, as a file of its folder and a link at the end."""
        if isinstance(place, NotesFolder):
            content = read_bytes(path) if path.is_file() else None
            if content is None:
                raise UserError("no-file", f"There is no file {path}.", "Check its name and place.")
            lay_beside(place, entry_id, path.name, content)
        else:
            self.put(place, entry_id, files_field(place), [self.session.library.blobs.keep_file_at(path)])

    def add_picture(self, place: Place, entry_id: int, dropped: Dropped) -> None:
        """The same for a picture that is no file yet."""
        name = "picture.png"
        if isinstance(place, NotesFolder):
            lay_beside(place, entry_id, name, dropped.picture)
        else:
            stored = self.session.library.blobs.keep_file(name, dropped.picture, dropped.source)
            self.put(place, entry_id, files_field(place), [stored])

    @staticmethod
    def put(place: Place, entry_id: int, field: Field | None, stored: Sequence[str]) -> None:
        """Adds stored files to those that an entry has."""
        if field is not None:
            place.change(entry_id, with_files(place.rows([entry_id])[0], {field.key: tuple(stored)}))


def append(place: Place, entry_id: int, text: str) -> None:
    """Adds a text at the end of an entry's."""
    entry = place.entry(entry_id)
    place.change(entry_id, {}, insert((entry.body if entry else "") or "", text, InsertPosition()))


def lay_beside(notes: NotesFolder, entry_id: int, name: str, content: bytes) -> None:
    """Makes a file in the folder for attachments, and a link to it at the end of a note."""
    stem, dot, ending = name.rpartition(".")
    path = notes.put_free(
        notes.path / ATTACHMENTS / f"{safe_name(stem or ending)}{dot}{ending if dot else ''}", content
    )
    note = notes.index.path(entry_id) or ""
    link = quote(f"{'../' * note.count('/')}{ATTACHMENTS}/{path.name}")
    is_picture = (mimetypes.guess_type(name)[0] or "").startswith("image/")
    append(notes, entry_id, f"{'!' if is_picture else ''}[{name}]({link})")


def files_field(place: Place) -> Field | None:
    """The first field of files."""
    return next((field for field in place.fields if field.kind.name == "files"), None)


def markdown_of(dropped: Dropped) -> str:
    """The text as Markdown, from its HTML where it has some."""
    if dropped.html:
        from wily_magpie.core.pages import tree  # the reader's libraries are only needed for HTML
        from wily_magpie.core.pages.markdown import to_markdown

        body = tree.parse(dropped.html).find(".//body")
        if body is not None:
            return to_markdown(body, dropped.source).strip() or dropped.text.strip()
    return dropped.text.strip()
