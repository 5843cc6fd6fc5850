"""Commands over entries: added, changed, put into the trash and brought back."""

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import field

from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Draft, short
from wily_magpie.core.entries.field import TITLE, find_field
from wily_magpie.core.entries.happening import Happening
from wily_magpie.core.entries.typed import typed
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.library.library import Library

CHANGES_A_TICK = 100


def named(library: Library, place: str, ids: Sequence[int]) -> str:
    """Entries in the name of a step."""
    if len(ids) != 1:
        return f"{len(ids)} entries"
    return f"“{short(library.place(place).title_of(ids[0]))}”"


@dataclass(frozen=True)
class AddEntry(StepCommand[int]):
    """A new entry made by hand; its id."""

    place: str
    title: str
    values: Mapping[str, Value] = field(default_factory=dict)
    body: str = ""

    def label(self, _library: Library) -> str:
        return f"New entry “{short(self.title)}”"

    def do(self, library: Library, _progress: Progress) -> int:
        place = library.place(self.place)
        wanted = library.resolve(place, {**library.defaults(place), **self.values})
        return place.add(Draft(self.title, wanted, self.body))


@dataclass(frozen=True)
class SetText(StepCommand[str]):
    """Sets a field of entries to what a person wrote; a warning, or ""."""

    place: str
    ids: Sequence[int]
    key: str
    text: str

    def label(self, library: Library) -> str:
        one = find_field(library.place(self.place).fields, self.key)
        return f"Change {one.label.lower()} of {named(library, self.place, self.ids)}"

    def do(self, library: Library, _progress: Progress) -> str:
        place = library.place(self.place)
        one = find_field(place.fields, self.key)
        value, warning = typed(one, self.text, place.settings.title_pattern)
        set_values(library, place, {number: {one.key: value} for number in self.ids})
        return warning


@dataclass(frozen=True)
class SetValues(StepCommand[None]):
    """Sets fields of entries, each its own.

    Attributes:
        what: begins the name of the step, such as "Change files".
    """

    place: str
    changes: Mapping[int, Mapping[str, Value]]
    what: str = "Change"

    def label(self, library: Library) -> str:
        return f"{self.what} of {named(library, self.place, list(self.changes))}"

    def do(self, library: Library, _progress: Progress) -> None:
        set_values(library, library.place(self.place), self.changes)


def set_values(library: Library, place: Place, changes: Mapping[int, Mapping[str, Value]]) -> None:
    """Sets fields of entries; many that get the same at once."""
    same = next(iter(changes.values()))
    if len(changes) > 1 and all(one == same for one in changes.values()):
        place.change_all(list(changes), library.resolve(place, same))
        return
    for entry_id, values in changes.items():
        place.change(entry_id, library.resolve(place, values, entry_id))


@dataclass(frozen=True)
class ChangeEntry(StepCommand[None]):
    """Sets fields of an entry, and its text where one is given."""

    place: str
    entry_id: int
    values: Mapping[str, Value]
    body: str | None = None

    def label(self, library: Library) -> str:
        return f"Change {named(library, self.place, [self.entry_id])}"

    def do(self, library: Library, _progress: Progress) -> None:
        place = library.place(self.place)
        place.change(self.entry_id, library.resolve(place, self.values, self.entry_id), self.body)


@dataclass(frozen=True)
class SetTexts(StepCommand[tuple[list[int], list[str]]]):
    """Sets many cells to what a person wrote: (the entries, what a person should know).

    What cannot be read is left as it was, and told.

    Attributes:
        changes: (entry id or None for a new entry, text by field key).
    """

    place: str
    changes: Sequence[tuple[int | None, Mapping[str, str]]]
    name: str

    def label(self, _library: Library) -> str:
        return self.name

    def do(self, library: Library, progress: Progress) -> tuple[list[int], list[str]]:
        place = library.place(self.place)
        told: list[str] = []
        ids: list[int] = []
        for number, (entry_id, texts) in enumerate(self.changes):
            if number % CHANGES_A_TICK == 0:
                progress.tick(number, len(self.changes))
            values = read_texts(place, texts, told)
            if entry_id is None:
                wanted = {**library.defaults(place), **values}
                title = str(wanted.pop(TITLE.key, None) or "New entry")
                ids.append(place.add(Draft(title, library.resolve(place, wanted))))
            else:
                place.change(entry_id, library.resolve(place, values, entry_id))
                ids.append(entry_id)
        return ids, told


def read_texts(place: Place, texts: Mapping[str, str], told: list[str]) -> dict[str, Value]:
    """The values of texts by field key; what cannot be read, or is doubtful, is told."""
    fields = {one.key: one for one in place.fields}
    values: dict[str, Value] = {}
    for key, text in texts.items():
        try:
            values[key], warning = typed(fields[key], text, place.settings.title_pattern)
            told += [warning] if warning else []
        except UserError as error:
            told.append(error.message)
    return values


@dataclass(frozen=True)
class SetBody(StepCommand[str]):
    """Sets the text of an entry; what a person should know of it, or "".

    Attributes:
        opened: what the text was when it was opened, so that what another program wrote meanwhile is not lost.
    """

    place: str
    entry_id: int
    body: str
    opened: str | None = None

    def label(self, library: Library) -> str:
        return f"Change the text of {named(library, self.place, [self.entry_id])}"

    def do(self, library: Library, _progress: Progress) -> str:
        place = library.place(self.place)
        if self.opened is not None:
            return place.change_body(self.entry_id, self.body, self.opened)
        place.change(self.entry_id, {}, self.body)
        return ""


@dataclass(frozen=True)
class RemoveEntries(StepCommand[None]):
    """Puts entries into the trash."""

    place: str
    ids: Sequence[int]

    def label(self, library: Library) -> str:
        return f"Delete {named(library, self.place, self.ids)}"

    def do(self, library: Library, _progress: Progress) -> None:
        library.place(self.place).remove(self.ids)


@dataclass(frozen=True)
class BringBackState(StepCommand[None]):
    """Makes an entry what it was before something happened to it."""

    place: str
    entry_id: int
    happening: Happening

    def label(self, library: Library) -> str:
        when = self.happening.at[:16].replace("T", " ")
        return f"Bring back {named(library, self.place, [self.entry_id])} as it was before {when}"

    def do(self, library: Library, _progress: Progress) -> None:
        place, was = library.place(self.place), self.happening
        known = [one.key for one in place.fields if one.is_writable]
        wanted = {key: was.values.get(key) for key in known if place.knows_whole_states or key in was.values}
        place.change(self.entry_id, library.resolve(place, wanted), was.body)


@dataclass(frozen=True)
class RestoreEntries(StepCommand[list[str]]):
    """Puts things back from the trash; the titles of those that cannot be, since their place is gone."""

    trash_ids: Sequence[int]

    def label(self, library: Library) -> str:
        there = {one.id: one for one in library.trash.all()}
        if len(self.trash_ids) != 1:
            return f"Restore {len(self.trash_ids)} entries"
        return f"Restore “{there[self.trash_ids[0]].title}”"

    def do(self, library: Library, _progress: Progress) -> list[str]:
        there = {one.id: one for one in library.trash.all()}
        lost = []
        for trash_id in self.trash_ids:
            place = None
            with suppress(UserError):
                place = library.place(there[trash_id].place)
            if place is None:
                lost.append(there[trash_id].title)
            else:
                place.restore(trash_id)
        return lost


@dataclass(frozen=True)
class EmptyTrash(StepCommand[int]):
    """Throws all away that is in the trash; how many they were. Undo still brings it back, for as long as it reaches."""

    def label(self, _library: Library) -> str:
        return "Empty the trash"

    def do(self, library: Library, _progress: Progress) -> int:
        count = len(library.trash.all())
        library.trash.drop()
        return count
