"""What every place can do; the rest of the program knows places by this alone."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

from wily_magpie.core.entries.entry import Draft, Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields import Value
from wily_magpie.core.query.nodes import Question


@dataclass(frozen=True)
class Group:
    """A run of entries with the same value: its value as shown, and how many they are."""

    name: str
    size: int


@dataclass(frozen=True)
class Listing:
    """The answer to a question: ids in order; groups, if asked for, follow one another in that order."""

    ids: Sequence[int]
    groups: tuple[Group, ...]
    total: int
    """How many entries the place has in all."""


@dataclass(frozen=True)
class PlaceSettings:
    """What a person has said of a place.

    Attributes:
        description: what belongs into it.
        title_pattern: what titles are made of, such as "{authors.family}, {published.year}"; "": titles are written.
        rules: when an entry is complete, each a line in the words of `places.rules`.
    """

    description: str = ""
    title_pattern: str = ""
    rules: tuple[str, ...] = ()
    name_pattern: str = ""
    """Of a notes folder: the path of a new note, such as "{year}/{title}"; "" for its title."""
    journal_pattern: str = ""
    """Of a notes folder: the path of a day's page; "" for the usual one."""
    journal_starter: str = ""
    """Of a notes folder: the path of a note that a new journal page begins as, or ""."""


class Place(Protocol):
    """A collection or a notes folder. Reading may be done from any thread."""

    @property
    def key(self) -> str:
        """Stable name, such as "collection:1" or "notes:2"."""

    @property
    def name(self) -> str:
        """What a person calls it."""

    @property
    def fields(self) -> tuple[Field, ...]:
        """Its fields in order, the title first."""

    @property
    def settings(self) -> PlaceSettings:
        """What a person has said of it."""

    def listing(self, question: Question) -> Listing:
        """The ids that answer a question."""

    def rows(self, ids: Sequence[int]) -> list[Entry]:
        """Entries without their bodies, in the order asked for; those that are gone are left out."""

    def entry(self, entry_id: int) -> Entry | None:
        """One whole entry."""

    def values_in_use(self, field: Field) -> list[str]:
        """Texts that a field has in some entries, of a reference what it could lead to; for completing, not all of many."""

    def known(self, canonical: str) -> Entry | None:
        """The entry last kept from a page of this canonical address."""

    def add(self, draft: Draft) -> int:
        """Keeps a new entry; its id."""

    def change(self, entry_id: int, values: Mapping[str, Value], body: str | None = None) -> None:
        """Sets fields (None: blank), and the body where one is given."""

    def remove(self, ids: Sequence[int]) -> None:
        """Puts entries into the trash."""
