"""Questions over places and their entries."""

from collections.abc import Sequence
from dataclasses import field
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field, find_field
from wily_magpie.core.entries.happening import Happening
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.entries.trashed import Trashed
from wily_magpie.core.entries.view import View
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.places.api import Listing, PlaceInfo
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question, Words

if TYPE_CHECKING:
    from wily_magpie.core.entries.rendering import Rendered

MOST_FOUND = 200


@dataclass(frozen=True)
class Found:
    """What a search over everything kept has found.

    Attributes:
        entries: at most as many as were asked for, those with the words in the title first.
        total: how many there are in all.
    """

    entries: tuple[Entry, ...]
    total: int


@dataclass(frozen=True)
class WholeEntry:
    """An entry with all that is shown around it.

    Attributes:
        picture: the lead picture, or b"" where none was kept.
        icon: of the site that it came from, or b"".
        files: where stored files lie, by their values; missing ones are left out.
    """

    place: PlaceInfo
    entry: Entry
    marks: tuple[Mark, ...] = ()
    picture: bytes = b""
    icon: bytes = b""
    files: dict[str, Path] = field(default_factory=dict)


class EntryQueries:
    """See the module."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def places(self) -> list[PlaceInfo]:
        """Collections, then notes folders."""
        return [place.info for place in self._library.places()]

    def place(self, name: str) -> PlaceInfo:
        """The place of that key or name; a notes folder also by its path. UserError where there is none."""
        return self._library.place(name).info

    def views(self, place: str | None = None) -> list[View]:
        """The views of a place, or all."""
        return self._library.views.all(place)

    def question(self, place: str, text: str) -> Question:
        """A written question, understood for a place; BadQuery where it has a fault."""
        return cql.parse(text, self._library.place(place).askable)

    def listing(self, place: str, question: Question) -> Listing:
        """The answer to a question."""
        return self._library.place(place).listing(question)

    def sums(self, place: str, question: Question, layout: Layout) -> dict[tuple[str, ...], dict[str, str]]:
        """What stands at the foot of columns, by key: of all that answer a question under (), of each group under its names."""
        wanted = {column.key: column.sum for column in layout.columns if column.sum is not None}
        return self._library.place(place).rows_table.sums(question, wanted) if wanted else {}

    def rows(self, place: str, ids: Sequence[int]) -> list[Entry]:
        """Entries without their bodies, in the order asked for; those that are gone are left out."""
        return self._library.place(place).rows(ids)

    def entry(self, place: str, entry_id: int) -> Entry | None:
        """One whole entry."""
        return self._library.place(place).entry(entry_id)

    def whole(self, place: str, entry_id: int) -> WholeEntry | None:
        """An entry with its marks, pictures and files; None where it is gone."""
        target = self._library.place(place)
        entry = target.entry(entry_id)
        if entry is None:
            return None
        lead = entry.value("picture")
        picture = self.picture(lead, entry) if isinstance(lead, str) else None
        marks = self._library.marks.of(target.key, target.owner_of(entry_id))
        files = self.files_of(target.info, entry)
        return WholeEntry(target.info, entry, marks, picture or b"", self.icon_of(entry), files)

    def stopped_at(self, place: str, entry_id: int, file: str = "") -> int:
        """Where one stopped reading an entry: letters of its text that stand above; of a file its page from 1 on, or seconds."""
        return self._library.stops.of(place, self._library.place(place).owner_of(entry_id), file)

    def rendered(self, markdown: str, beside: Entry | None = None) -> "Rendered":
        """A text as sanitised HTML, with the kept pictures that it shows.

        Args:
            beside: the note that it belongs to, whose folder may hold its pictures.
        """
        from wily_magpie.core.entries.rendering import Rendered, formulas_in, sources_in, to_safe_html
        from wily_magpie.core.pages.formulas import drawn_by  # nothing is read at start

        html = to_safe_html(markdown)
        formulas = formulas_in(html)
        found: dict[str, bytes | None] = {
            one: self.picture(one, beside) for one in sources_in(html) if one not in formulas
        }
        found |= drawn_by(formulas)
        return Rendered(markdown, html, {one: content for one, content in found.items() if content is not None})

    def files_of(self, place: PlaceInfo, entry: Entry) -> dict[str, Path]:
        """Where the stored files of an entry lie."""
        stored = [
            one
            for field in place.fields
            if field.kind.holds_files and isinstance(value := entry.value(field.key), tuple)
            for one in value
        ]
        found = {one: self._library.blobs.file_path(one) for one in stored}
        return {one: path for one, path in found.items() if path is not None}

    def named_file(self, path: Path, name: str) -> Path:
        """A stored file under its own name, for programs of the system: a link beside the indexes, which may be deleted."""
        folder = self._library.context.index_folder / "opened" / path.name[:16]
        folder.mkdir(parents=True, exist_ok=True)
        shown = folder / name
        shown.unlink(missing_ok=True)  # the library may have been moved since
        shown.symlink_to(path)
        return shown

    def search(self, words: str, most: int = MOST_FOUND) -> Found:
        """Entries of all places in which all the words stand."""
        found: list[Entry] = []
        total = 0
        for place in self._library.places():
            ids = place.listing(Question(Words(words))).ids
            total += len(ids)
            found += place.rows(list(ids[-most:])[::-1])
        folded = [word.casefold() for word in words.split()]
        found.sort(key=lambda entry: not all(word in entry.title.casefold() for word in folded))
        return Found(tuple(found[:most]), total)

    def names_for(self, place: str, key: str) -> list[str]:
        """What an editor of a field completes with: titles of entries that can be referred to, else values in use."""
        target = self._library.place(place)
        one = find_field(target.fields, key)
        options = [option.name for option in one.options]
        return sorted({*options, *self.values_of(place, one)}, key=str.casefold)

    def values_of(self, place: str, one: Field) -> list[str]:
        """Texts that a field has in some entries; nothing of kinds that are not completed."""
        return self._library.place(place).values_in_use(one) if one.kind.is_completed and one.key != "title" else []

    def marks(self, place: str, entry_id: int) -> tuple[Mark, ...]:
        """The marks of an entry, in their order."""
        target = self._library.place(place)
        return self._library.marks.of(target.key, target.owner_of(entry_id))

    def marks_of(self, place: str, ids: Sequence[int]) -> dict[int, tuple[Mark, ...]]:
        """The marks of some entries, by their numbers; those without any are not among them."""
        target = self._library.place(place)
        owners = {target.owner_of(entry_id): entry_id for entry_id in ids}
        found = self._library.marks.of_many(target.key, list(owners))
        return {owners[owner]: marks for owner, marks in found.items()}

    def history_of(self, place: str, entry_id: int) -> list[Happening]:
        """What happened to an entry, the latest first; takes its time."""
        return self._library.place(place).history_of(entry_id)

    def referring_here(self, place: str, entry_id: int) -> list[tuple[str, int, str, str]]:
        """What refers to an entry, as (key of its place, id, title, by what): notes by links, entries by references."""
        return self._library.place(place).referring_here(entry_id)

    def trash(self) -> list[Trashed]:
        """What is in the trash, the latest first."""
        return self._library.trash.all()

    def icon_of(self, entry: Entry) -> bytes:
        """The icon of the site that an entry came from; b"" where none was kept."""
        address = entry.value("address")
        return (self._library.blobs.icon(host_of(address)) if isinstance(address, str) else None) or b""

    def has_icon(self, host: str) -> bool:
        """Whether the icon of a site is kept."""
        return not host or self._library.blobs.icon(host) is not None

    def picture(self, address: str, beside: Entry | None = None) -> bytes | None:
        """A kept picture by its address; of a note also a file of its folder, by its path from the note on."""
        kept = self._library.blobs.picture(address)
        if kept is None and beside is not None and beside.path and "://" not in address:
            return self._library.notes(beside.place).file_beside(beside.path, address, anywhere=True)
        return kept
