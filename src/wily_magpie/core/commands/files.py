"""Commands that take in what is dropped or pasted: addresses, files, pictures, text become entries or attachments."""

from collections.abc import Sequence
from pathlib import Path

from wily_magpie.core.commands.command import Command, Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.dropped import Dropped, title_in
from wily_magpie.core.entries.entry import Draft, short
from wily_magpie.core.entries.field import FieldPlan, find_field
from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.pages.address import canonical
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.library import schema_changes
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.schema_changes import PlannedField
from wily_magpie.core.places.table import now

PICTURE_NAME = "picture.png"
File = tuple[str, bytes, str]
"""Name, contents, and where it came from."""


def label_of(dropped: Dropped, entry_id: int | None) -> str:
    """The name of the step."""
    names = [path.name for path in dropped.files] or [title or address for address, title in dropped.addresses]
    what = f"“{short(names[0])}”" if len(names) == 1 else f"{len(names)} things" if names else "what was dropped"
    return f"{'Attach' if entry_id is not None else 'Take in'} {what}"


@dataclass(frozen=True)
class TakeDropped(Command[list[int]]):
    """Takes things in: onto an entry as attachments and text, else as entries of their own; the entries' ids."""

    place: str
    dropped: Dropped
    entry_id: int | None = None

    def label(self, _library: Library) -> str:
        return label_of(self.dropped, self.entry_id)

    def perform(self, library: Library, progress: Progress) -> list[int]:
        files = [library.blobs.file_at(path) for path in self.dropped.files]
        if self.dropped.picture:
            files.append((PICTURE_NAME, self.dropped.picture, self.dropped.source))
        planned = planned_files(library, library.place(self.place)) if files else ()
        with library.step(self.label(library), progress.close):
            for one in planned:
                schema_changes.add_field(library, one)
            place = library.place(self.place)
            ids = self.taken(library, place, files, progress)
            if not ids:
                raise UserError(
                    "nothing-dropped", "There is nothing in it that could be kept.", "Drop a link, a file or text."
                )
        return ids

    def taken(self, library: Library, place: Place, files: Sequence[File], progress: Progress) -> list[int]:
        """Onto the entry that was dropped on, else as entries of their own."""
        if self.entry_id is not None:
            return self.onto(place, self.entry_id, files)
        return self.entries(library, place, files, progress)

    def entries(self, library: Library, place: Place, files: Sequence[File], progress: Progress) -> list[int]:
        """A new entry for each thing."""
        made = []
        for address, title in self.dropped.addresses:
            wanted = draft(library, place, title or address, {"address": address}, "", canonical(address))
            made.append(place.add(wanted))
        for number, file in enumerate(files):
            progress.tick(number, len(files))
            is_picture = file[0] == PICTURE_NAME and bool(self.dropped.picture)
            values = {"address": self.dropped.source} if is_picture else {}
            made.append(place.add(draft(library, place, "Picture" if is_picture else Path(file[0]).stem, values, "")))
            place.attach(made[-1], None, [file])
        body = markdown_of(self.dropped)
        if body and not made:
            made.append(place.add(draft(library, place, title_in(body), {"address": self.dropped.source}, body)))
        return made

    def onto(self, place: Place, entry_id: int, files: Sequence[File]) -> list[int]:
        """Files are attached, an address fills the address if there is none yet, text goes to the end of the text."""
        if files:
            place.attach(entry_id, None, files)
        is_taken = bool(files)
        texts = [] if is_taken else [markdown_of(self.dropped)]
        main = place.info.main_address
        for number, (address, title) in enumerate(self.dropped.addresses):
            if number == 0 and main is not None and place.rows([entry_id])[0].value(main.key) is None:
                place.change(entry_id, {main.key: address})
                is_taken = True
            else:
                texts.append(f"[{title or address}]({address})")
        for text in filter(None, texts):
            entry = place.entry(entry_id)
            from wily_magpie.core.places.notes.inserting import insert

            place.change(entry_id, {}, insert((entry.body if entry else "") or "", text, InsertPosition()))
            is_taken = True
        return [entry_id] if is_taken else []


def planned_files(library: Library, place: Place) -> Sequence[PlannedField]:
    """The field of files that a collection without one gets; its column is made here, before the step."""
    if place.nature.is_in_files or any(field.kind.holds_files for field in place.fields):
        return ()
    return (schema_changes.plan_field(library, place.key, FieldPlan("", "Files", "files")),)


def draft(library: Library, place: Place, title: str, values: dict[str, str], body: str, known_as: str = "") -> Draft:
    """A new entry with what the place's fields can take of some values."""
    wanted: dict[str, Value] = library.defaults(place)
    keys = {field.key: field for field in place.fields}
    for key, text in {"captured": now()[:16] + "Z", **values}.items():
        if key in keys and text and keys[key].is_writable:
            wanted[key] = keys[key].kind.take(text)[0]
    return Draft(" ".join(title.split()), library.resolve(place, wanted), body, known_as)


def markdown_of(dropped: Dropped) -> str:
    """The text as Markdown, from its HTML where it has some."""
    if dropped.html:
        from wily_magpie.core.pages import tree  # the reader's libraries are only needed for HTML
        from wily_magpie.core.pages.markdown import to_markdown

        body = tree.parse(dropped.html).find(".//body")
        if body is not None:
            return to_markdown(body, dropped.source).strip() or dropped.text.strip()
    return dropped.text.strip()


@dataclass(frozen=True)
class AttachFiles(StepCommand[None]):
    """Keeps copies of files as values of a field of files."""

    place: str
    entry_id: int
    key: str
    paths: Sequence[Path]

    def label(self, _library: Library) -> str:
        return label_of(Dropped(files=tuple(self.paths)), self.entry_id)

    def do(self, library: Library, _progress: Progress) -> None:
        place = library.place(self.place)
        files = [library.blobs.file_at(path) for path in self.paths]
        place.attach(self.entry_id, find_field(place.fields, self.key), files)
