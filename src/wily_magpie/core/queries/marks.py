"""Questions over marks: of some entries, of a place, of the whole library; and those gathered for a chapter."""

import re
from collections.abc import Iterable, Iterator, Sequence

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.entries.mark_use import MarkUse
from wily_magpie.core.places.api import Place, PlaceInfo
from wily_magpie.core.places.folding import folded
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.marks import MarkRow

CHUNK = 500
BY_ENTRY, BY_KIND, BY_DAY = "entry", "kind", "day"


@dataclass(frozen=True)
class FoundMark:
    """A mark with where it stands.

    Attributes:
        number: by which it is known for ever.
        entry: without its text.
        made: the moment, ISO 8601.
        uses: where its words went, the earliest first.
    """

    number: int
    place: PlaceInfo
    entry: Entry
    mark: Mark
    made: str
    uses: tuple[MarkUse, ...] = ()

    def group(self, by: str) -> str:
        """The name of the group that it stands in; "" where its entry has no such value.

        Args:
            by: one of BY_ENTRY, BY_KIND, BY_DAY, or the key of a field of entries.
        """
        if by == BY_KIND:
            return self.mark.kind
        if by == BY_DAY:
            return self.made[:10]
        if by == BY_ENTRY:
            return self.entry.title
        field = next((one for one in self.place.fields if one.key == by), None)
        value = self.entry.value(by)
        return field.kind.show(value) if field is not None and value is not None else ""


@dataclass(frozen=True)
class MarkScope:
    """Of which entries marks are wanted, and which of these.

    Attributes:
        place: its key; "" for the whole library.
        ids: of that place, in their order; None for all.
        words: each begins a word of the passage, the comment or the entry's title, whatever case and accents.
        kind: of marks, "" for all; is_used: whether they were used, None for both.
    """

    place: str = ""
    ids: tuple[int, ...] | None = None
    words: str = ""
    kind: str = ""
    is_used: bool | None = None


@dataclass(frozen=True)
class Chapter:
    """A text for which marks are gathered."""

    place: PlaceInfo
    entry: Entry


class MarkQueries:
    """See the module."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def found(self, scope: MarkScope) -> list[FoundMark]:
        """The marks of a scope: by place, by entry in the order of the scope or of their titles, as they stand in the text."""
        places = [self._library.place(scope.place)] if scope.place else self._library.places()
        wanted = [folded(word) for word in scope.words.split()]
        every = (one for place in places for one in self.of_place(place, scope.ids))
        return [
            one
            for one in every
            if (not scope.kind or one.mark.kind == scope.kind)
            and (scope.is_used is None or bool(one.uses) is scope.is_used)
            and has_words(one, wanted)
        ]

    def of_place(self, place: Place, ids: Sequence[int] | None) -> Iterator[FoundMark]:
        """The marks of some entries of a place, or of all."""
        return self.with_entries(place, self._library.marks.rows_of(place.key), ids)

    def numbered(self, numbers: Sequence[int]) -> list[FoundMark]:
        """Marks by their numbers, in that order; those that are gone are left out."""
        by_place: dict[str, list[MarkRow]] = {}
        for row in self._library.marks.numbered(numbers):
            by_place.setdefault(row.place, []).append(row)
        found = {}
        for key, rows in by_place.items():
            place = self._library.find_place(key)
            if place is not None:
                found.update({one.number: one for one in self.with_entries(place, rows, None)})
        return [found[number] for number in numbers if number in found]

    def with_entries(self, place: Place, rows: Iterable[MarkRow], ids: Sequence[int] | None) -> Iterator[FoundMark]:
        """Marks with their entries; those whose entry is gone are left out."""
        by_entry: dict[int, list[MarkRow]] = {}
        for row in rows:
            entry_id = place.id_of(row.owner)
            if entry_id is not None:
                by_entry.setdefault(entry_id, []).append(row)
        order = list(by_entry) if ids is None else [one for one in ids if one in by_entry]
        entries = [entry for at in range(0, len(order), CHUNK) for entry in place.rows(order[at : at + CHUNK])]
        if ids is None:
            entries.sort(key=lambda entry: (folded(entry.title), entry.id))
        uses, info = self._library.mark_uses.all(), place.info
        for entry in entries:
            for row in by_entry[entry.id]:
                yield FoundMark(row.number, info, entry, row.mark, row.made, uses.get(row.number, ()))

    def of_mark(self, place: str, entry_id: int, mark: Mark) -> list[FoundMark]:
        """A mark of an entry, as it is found; none where it is gone."""
        number = self.number_of(place, entry_id, mark)
        return self.numbered([number]) if number is not None else []

    def number_of(self, place: str, entry_id: int, mark: Mark) -> int | None:
        """The number of a mark of an entry; None where it is gone."""
        target = self._library.place(place)
        return self._library.marks.number_of(target.key, target.owner_of(entry_id), mark)

    def gathered(self, place: str, entry_id: int) -> list[FoundMark]:
        """The marks gathered for a chapter, in their order there."""
        target = self._library.place(place)
        return self.numbered(self._library.mark_uses.gathered(target.key, target.owner_of(entry_id)))

    def chapters(self) -> list[Chapter]:
        """The chapters for which marks are gathered, by their titles."""
        out = []
        for key, owner in self._library.mark_uses.chapters():
            place = self._library.find_place(key)
            entry_id = place.id_of(owner) if place is not None else None
            if place is not None and entry_id is not None:
                out += [Chapter(place.info, entry) for entry in place.rows([entry_id])]
        return sorted(out, key=lambda one: folded(one.entry.title))

    def text_of(self, one: FoundMark) -> str:
        """The text that a mark stands in."""
        entry = self._library.place(one.place.key).entry(one.entry.id)
        return (entry.body if entry is not None else None) or ""


def has_words(one: FoundMark, wanted: Sequence[str]) -> bool:
    """Whether each of some folded words begins a word of a mark or of its entry's title."""
    text = folded("\n".join((one.mark.exact, one.mark.comment, one.entry.title)))
    return all(re.search(rf"(?<!\w){re.escape(word)}", text) for word in wanted)


def groups_of(fields: Iterable[Field]) -> list[tuple[str, str]]:
    """By what marks can be put into groups besides entry, kind and day, as (key, name): what has few values."""
    return [(one.key, one.label) for one in fields if one.kind.has_spine or one.kind.is_linked]
