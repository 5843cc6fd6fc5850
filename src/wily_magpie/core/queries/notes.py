"""Questions over notes folders."""

from calendar import monthrange
from collections.abc import Iterable, Sequence
from datetime import date
from difflib import get_close_matches
from posixpath import normpath, relpath
from typing import TYPE_CHECKING
from urllib.parse import quote, unquote

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries import living_list
from wily_magpie.core.entries.entry import Entry, short
from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.entries.note_move import Move
from wily_magpie.core.events import Changed
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.notes import moving, writing
from wily_magpie.core.places.notes.encoding import name_of
from wily_magpie.core.places.notes.facts import bare_name, double_name, stem_of, title_of, words_of
from wily_magpie.core.places.notes.outline import NoteLink, outline
from wily_magpie.core.queries.living import ListState, LivingQueries
from wily_magpie.core.queries.mirror import Mirror, Pair

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.folder import NotesFolder


def headings(body: str) -> list[tuple[int, str, int]]:
    """(level, text, index of its line) of the headings of a text."""
    return [(one.level, one.text, one.start) for one in outline(body).headings]


def word_count(text: str) -> int:
    """How many words a text has, without what its living lists hold."""
    return words_of(living_list.outside_of(text))


MOST_HERE, MOST_LINE, NEAR, CUTOFF = 40, 240, 3, 0.55
YEARS_BACK, MOST_OFFERED = 30, 12


@dataclass(frozen=True)
class LinkHere:
    """A link of another note that leads here, with the line that it stands in."""

    id: int
    title: str
    path: str
    line: str


@dataclass(frozen=True)
class LinkOut:
    """Where a note leads to.

    Attributes:
        target: as it is written. id: of the note there; None where there is none.
        is_broken: whether there is no other file either; near: then, paths of notes that could be meant.
        path: of a broken one, where it would have to be.
    """

    target: str
    id: int | None = None
    is_broken: bool = False
    near: Sequence[str] = ()
    path: str = ""


@dataclass(frozen=True)
class Around:
    """What a note is linked with, and what it holds.

    Attributes:
        here: lines that link here, of the first notes that do. count: how many notes do.
        out: what it links to, each target once.
        lists: its living lists. words: how many it has. fault, encoding: why it cannot be read; how it is written.
    """

    here: Sequence[LinkHere]
    count: int
    out: Sequence[LinkOut]
    lists: Sequence[ListState]
    words: int
    fault: str = ""
    encoding: str = ""


def lines_leading(body: str, their: str, path: str) -> list[str]:
    """The lines of a note in which links stand that lead to another note."""
    folder = their.rpartition("/")[0]
    names = (double_name(path), bare_name(path))
    out: dict[str, None] = {}
    for link in outline(body).links:
        there = (
            double_name(link.target)
            if link.is_double
            else normpath(f"{folder}/{link.target}" if folder else link.target)
        )
        if there in names if link.is_double else there == path:
            start, end = body.rfind("\n", 0, link.start) + 1, body.find("\n", link.start)
            out[short(body[start : end if end >= 0 else len(body)].strip(), MOST_LINE)] = None
    return list(out)


class NoteQueries:
    """See the module."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def dry_run(self, place: str, path: str, way: InsertPosition, *, may_make: bool = True) -> list[str]:
        """What writing into a note would make that is not there yet; UserError where it cannot be."""
        notes = self._library.notes(place)
        return writing.dry_run(notes, writing.note_target(notes, path, way), may_make=may_make)

    def dry_run_journal(self, place: str, way: InsertPosition, day: date | None = None) -> list[str]:
        """The same of the journal page of a day."""
        notes = self._library.notes(place)
        return writing.dry_run(notes, writing.journal_target(notes, way, day))

    def look_at_move(self, place: str, entry_id: int, new: str) -> Move:
        """What a move would rewrite."""
        return moving.look_at_move(self._library.notes(place), entry_id, new)

    def note_at(self, entry: Entry, link: str) -> int | None:
        """The note that a link in a note leads to; None where it leads elsewhere."""
        if not entry.path or "://" in link:
            return None
        notes = self._library.notes(entry.place)
        target = unquote(link.partition("#")[0])
        folder = entry.path.rpartition("/")[0]
        exact = notes.index.id_of(normpath(f"{folder}/{target}" if folder else target))
        return exact if exact is not None else notes.index.id_by_name(target)

    def around(self, place: str, entry_id: int, most: int = MOST_HERE) -> Around | None:
        """What a note is linked with; None where it is gone.

        Args:
            most: from how many of the notes that link here the lines are read.
        """
        notes = self._library.notes(place)
        path = notes.index.path(entry_id)
        if path is None:
            return None
        note = notes.files.read(path)
        found = outline(living_list.outside_of(note.body))
        leading = [one for one in notes.index.links.leading_to(path, are_own=True) if one[0] != entry_id]
        here = [
            LinkHere(number, title_of(other.matter, their), their, line)
            for number, their in leading[:most]
            for other in [notes.files.read(their)]
            for line in lines_leading(living_list.outside_of(other.body), their, path)
        ]
        out = self.links_out(notes, path, {one.target: one for one in found.links}.values())
        states = LivingQueries(self._library).states(place, [path]) if "<!--" in note.body else []
        encoding = "" if note.encoding == "utf-8" else name_of(note.encoding)
        return Around(here, len(leading), out, states, words_of(note.body), note.fault, encoding)

    def links_out(self, notes: "NotesFolder", path: str, links: Iterable[NoteLink]) -> list[LinkOut]:
        """Where the links of a note lead to."""
        folder = path.rpartition("/")[0]
        by_stem: dict[str, str] = {}
        out = []
        for link in links:
            there = normpath(f"{folder}/{link.target}" if folder else link.target)
            number = notes.index.id_by_name(link.target) if link.is_double else notes.index.id_of(there)
            if number is not None or notes.index.links.is_beside(link.target if link.is_double else there):
                out.append(LinkOut(link.target, number))
                continue
            by_stem = by_stem or {
                stem_of(one).casefold(): one for one in notes.index.paths()
            }  # once, of very many notes
            wanted = there.rpartition("/")[2].removesuffix(".md").casefold()
            near = [by_stem[one] for one in get_close_matches(wanted, list(by_stem), NEAR, CUTOFF)]
            out.append(LinkOut(link.target, None, True, near, f"{there.removesuffix('.md')}.md"))
        return out

    def offers(self, entry: Entry, kind: str, begun: str) -> list[tuple[str, str]]:
        """(what is shown, what is written) of links from a note that what was begun can become.

        Args:
            kind: "brackets" or "path".
        """
        notes = self._library.notes(entry.place)
        found = notes.index.named_like(unquote(begun).rpartition("/")[2], MOST_OFFERED)
        shared = notes.index.shared_names([path for _, path in found])
        folder = entry.path.rpartition("/")[0]
        out = []
        for title, path in found:
            bare = path.rpartition(".")[0]
            name = bare if path in shared else bare.rpartition("/")[2]
            told = title if title == name else f"{title}  ({path})"
            out.append((told, name if kind == "brackets" else quote(relpath(path, folder or "."))))
        return out

    def days(self, place: str, year: int, month: int) -> dict[date, int]:
        """The days of a month that have a page, with its id."""
        notes = self._library.notes(place)
        last = monthrange(year, month)[1]
        return self.pages_of(notes, [date(year, month, day) for day in range(1, last + 1)])

    def other_years(self, place: str, day: date) -> dict[date, int]:
        """The pages of the same day in other years, the latest first."""
        years = [one for one in range(day.year + 1, day.year - YEARS_BACK, -1) if one != day.year and one > 0]
        same = [date(one, day.month, day.day) for one in years if day.day <= monthrange(one, day.month)[1]]
        return self.pages_of(self._library.notes(place), same)

    def pages_of(self, notes: "NotesFolder", days: Sequence[date]) -> dict[date, int]:
        """The pages that there are of some days."""
        found = ((day, notes.index.id_of(writing.journal_path(notes, day))) for day in days)
        return {day: number for day, number in found if number is not None}

    def folders(self, place: str) -> dict[str, int]:
        """The folders of a notes folder, with how many notes lie in each and below it."""
        counts: dict[str, int] = {}
        for path in self._library.notes(place).index.paths():
            parts = path.split("/")[:-1]
            for deep in range(1, len(parts) + 1):
                name = "/".join(parts[:deep])
                counts[name] = counts.get(name, 0) + 1
        return dict(sorted(counts.items(), key=lambda one: one[0].casefold()))

    def look_at_mirror(self, place: str, collection: str, fields: str = "", path: str = "") -> list[Pair]:
        """What keeping a collection in step with a notes folder would do now; nothing is changed."""
        return Mirror(self._library, self._library.notes(place), collection, fields, path).pairs()

    def out_of_step(self, place: str, ids: Sequence[int] | None) -> list[int]:
        """The entries of which something is to be done so that they are in step again; of some, or of all."""
        notes = self._library.notes(place)
        said = notes.settings
        if self._library.find_place(said.mirrors) is None:
            return []
        mirror = Mirror(self._library, notes, said.mirrors, said.mirror_fields, said.mirror_path)
        return [pair.entry for pair in mirror.pairs(ids)]

    def mirrors(self) -> list[str]:
        """The notes folders that are kept in step with a collection."""
        return [one.key for one in self._library.notes_folders() if one.settings.mirrors and not one.is_away]

    def mirrored(self, change: Changed) -> dict[str, tuple[int, ...] | None]:
        """The notes folders that a change may have brought out of step, with the entries; None: it could be any of them."""
        out: dict[str, tuple[int, ...] | None] = {}
        for notes in self._library.notes_folders():
            collection = notes.settings.mirrors
            if not collection or notes.is_away or not {collection, notes.key} & change.entries.keys():
                continue
            ids = set(change.entries.get(collection, ()))
            there = change.entries.get(notes.key)
            if there:
                ids |= Mirror(self._library, notes, collection).entries_of(there)
            is_any = there == frozenset() or change.entries.get(collection) == frozenset()
            if is_any or ids:
                out[notes.key] = None if is_any else tuple(ids)
        return out

    def in_folder(self, place: str, folder: str) -> list[int]:
        """The notes that lie in a folder or below it."""
        index = self._library.notes(place).index
        return list(index.ids_of([path for path in index.paths() if path.startswith(f"{folder}/")]).values())

    def look_at_moves(self, place: str, ids: Sequence[int], folder: str, inside: str = "") -> list[Move]:
        """What moving several notes into a folder would rewrite."""
        notes = self._library.notes(place)
        wanted = moving.into_folder(notes, ids, folder, inside)
        return [moving.look_at_move(notes, entry_id, new) for entry_id, new in wanted]

    def paths(self, place: str) -> list[str]:
        """The paths of all notes of a folder."""
        return self._library.notes(place).index.paths()

    def id_of(self, place: str, path: str) -> int | None:
        """The note of a path from the folder on; None where there is none."""
        return self._library.notes(place).index.id_of(path)
