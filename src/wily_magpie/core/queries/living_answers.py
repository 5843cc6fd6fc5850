"""What living lists hold: their questions answered, and their rows with where they lead."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from posixpath import dirname, relpath
from typing import TYPE_CHECKING
from urllib.parse import quote

from wily_magpie.core.entries import living_rows
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import TITLE, Field, find_field
from wily_magpie.core.entries.living_list import EVERYWHERE, MOST_ROWS, ListForm
from wily_magpie.core.entries.living_rows import Row, RowGroup, Rows
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.api import Listing, Place
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.queries.looks import first_picture
from wily_magpie.core.query import cql
from wily_magpie.core.query.askable import CHANGED, HOLDINGS
from wily_magpie.core.query.nodes import Question

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.folder import NotesFolder

MANY = 2_000
"""Entries of an answer that are remembered, so that a change can be told not to touch it."""
Known = dict[tuple[str, str, int], tuple[Sequence[int], int]]
"""First entries and how many there are, by place, question and the most of them."""
PLACE = "place"
"""What stands for the place of an entry among the fields of a list over all places."""


def field_called(place: Place, name: str) -> Field:
    """A field that can be shown.

    Raises:
        UserError: there is none of that name, or it can be asked for only.
    """
    field = find_field(place.askable, name)
    if field.through is not None or field.key == HOLDINGS.key:
        raise UserError("not-shown", f"“{name}” can be asked for, but not shown.", "Show the reference itself.")
    return field


class Answering:
    """Answers the questions of the lists of a note.

    Attributes:
        answered: all entries that answered last; None where they are very many, or of several places.
    """

    def __init__(self, library: Library, notes: "NotesFolder", path: str, known: Known) -> None:
        self.library, self.notes, self.path, self.known = library, notes, path, known
        self.answered: frozenset[int] | None = None

    def rows(self, form: ListForm) -> str:
        """What a list holds.

        Raises:
            UserError: its question has a fault.
        """
        self.answered = None
        if form.place == EVERYWHERE:
            parts, missed = [], None
            for place in self.library.places():
                try:
                    parts.append(self.answer(form, place))
                except UserError as error:  # it has no such field, and so nothing that answers
                    missed = error
            if not parts and missed is not None:
                raise missed
            self.answered = None
            return living_rows.written(together(parts, form.most or MOST_ROWS), form.shape)
        return living_rows.written(self.answer(form, self.place(form)), form.shape)

    def place(self, form: ListForm) -> Place:
        """The place that a list asks."""
        return self.library.place(form.place) if form.place else self.notes

    def answer(self, form: ListForm, place: Place) -> Rows:
        """What a place answers."""
        question = cql.parse(form.question, place.askable)
        shown = [one for one in form.shown if one.key.casefold() not in (TITLE.key, TITLE.label.casefold())]
        titled = next((one.name for one in form.shown if one not in shown), "")
        fields = [
            None if one.key == PLACE and form.place == EVERYWHERE else field_called(place, one.key) for one in shown
        ]
        most = 0 if form.shape == "count" else form.most or MOST_ROWS
        if question.groups:
            listing = place.listing(question)
            groups, count = grouped(listing, most), listing.size
        else:
            same = (place.key, form.question, max(most, MANY))
            if same not in self.known:
                self.known[same] = place.rows_table.first(question, max(most, MANY))
            first, count = self.known[same]
            groups = [("", 0, first[:most], count)]
            self.answered = frozenset(first) if count == len(first) else None
        wanted = list(dict.fromkeys(number for _, _, ids, _ in groups for number in ids))
        entries = {entry.id: entry for entry in place.rows(wanted)}
        changed = self.changed(place, question, entries) if CHANGED in fields else {}
        pictures = self.pictures(place, entries) if form.shape == "cards" else {}
        leads = Leads(self.notes, self.path, place, form.links, entries.values())
        made = {
            number: Row(
                leads.title(entry),
                [self.cell(place, entry, field, changed, shown=number) for field in fields],
                pictures.get(number, ""),
            )
            for number, entry in entries.items()
        }
        usual = [field.label if field else "Place" for field in fields]
        return Rows(
            [titled or TITLE.label, *(one.name or name for one, name in zip(shown, usual, strict=True))],
            frozenset(one.name for one in shown if one.name),
            [RowGroup(name, [made[i] for i in ids if i in made], level, size) for name, level, ids, size in groups],
            count,
            living_rows.plain(place.name),
        )  # fmt: skip

    def cell(self, place: Place, entry: Entry, field: Field | None, changed: Mapping[int, str], shown: int) -> str:
        """A field of an entry, as Markdown."""
        if field is None:
            return living_rows.plain(place.name)
        value = changed.get(shown) if field == CHANGED else entry.value(field.key)
        if value is None:
            return ""
        if field.kind.is_address:
            return living_rows.web_link(str(value))
        return living_rows.plain(field.shown(value))

    def changed(self, place: Place, question: Question, entries: Mapping[int, Entry]) -> dict[int, str]:
        """When entries were changed last."""
        ids, (moments,) = place.rows_table.columns(replace(question, groups=()), [CHANGED])
        return {number: str(at) for number, at in zip(ids, moments, strict=True) if number in entries}

    def pictures(self, place: Place, entries: Mapping[int, Entry]) -> dict[int, str]:
        """Where the pictures of entries lie, as seen from the note; addresses of the web as they are."""
        out = {}
        for number, glimpse in place.rows_table.glimpses(list(entries)).items():
            found = first_picture(place, entries[number], glimpse)
            if found and "://" not in found and place.folder:
                there = f"{place.folder}/{dirname(entries[number].path)}/{found}"
                found = relpath(there, f"{self.notes.path}/{dirname(self.path)}")
            out[number] = found if "://" in found or place.folder else ""
        return out


class Leads:
    """Where the titles of rows lead to."""

    def __init__(self, notes: "NotesFolder", path: str, place: Place, links: str, entries: Collection[Entry]) -> None:
        self.notes, self.path, self.place = notes, path, place
        usual = (
            "brackets"
            if place.key == notes.key and notes.index.links.has_brackets
            else "path"
            if place.folder
            else "entry"
        )
        self.links = links or usual
        is_named = self.links == "brackets" and place.key == notes.key
        self.shared = notes.index.shared_names([one.path for one in entries]) if is_named else frozenset()
        self.address = next((one.key for one in place.fields if one.kind.is_address), "")

    def title(self, entry: Entry) -> str:
        """A title with its link, and behind it the address of the web that it came from."""
        address = str(entry.value(self.address) or "") if self.address else ""
        if self.links == "web" and address:
            return living_rows.link(entry.title, address)
        if self.place.folder and self.links == "brackets" and self.place.key == self.notes.key:
            bare = entry.path.rpartition(".")[0]
            name = bare if entry.path in self.shared else bare.rpartition("/")[2]
            return living_rows.brackets(name, entry.title)
        if self.place.folder and self.links != "entry":
            there = f"{self.place.folder}/{entry.path}"
            return living_rows.link(entry.title, relpath(there, f"{self.notes.path}/{dirname(self.path)}"))
        at = f"wily-magpie:open?place={quote(self.place.name, safe='')}&entry={entry.id}"
        if self.place.folder:
            at = f"wily-magpie:open?place={quote(self.place.name, safe='')}&note={quote(entry.path, safe='')}"
        made = living_rows.link(entry.title, at)
        return f"{made} ({living_rows.web_link(address)})" if address else made


def grouped(listing: Listing, most: int) -> list[tuple[str, int, Sequence[int], int]]:
    """(name, level, ids, size) of the groups of an answer, of which only so many rows are shown."""
    out: list[tuple[str, int, Sequence[int], int]] = []
    at = 0
    for group in listing.groups:
        ids = listing.ids[at : min(at + group.rows, most)]
        out.append((group.name or "(blank)", group.level, ids, group.size))
        at += group.rows
    return out


def together(parts: Sequence[Rows], most: int) -> Rows:
    """The answers of several places, one behind another; groups of the same name are one."""
    groups: dict[tuple[str, int], RowGroup] = {}
    for part in parts:
        for group in part.groups:
            before = groups.get((group.name, group.level))
            rows = [*(before.rows if before is not None else ()), *group.rows]
            size = group.size + (before.size if before is not None else 0)
            groups[group.name, group.level] = RowGroup(group.name, rows[:most], group.level, size)
    return replace(parts[0], groups=list(groups.values()), count=sum(part.count for part in parts), of="all places")
