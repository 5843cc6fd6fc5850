"""What every place can do; the rest of the program knows places by this alone."""

from abc import ABC, abstractmethod
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import field
from typing import TYPE_CHECKING, ClassVar, Protocol

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Draft, Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.happening import Happening
from wily_magpie.core.entries.insert_position import NoteTarget
from wily_magpie.core.entries.layout import USUAL_LAYOUT, Layout, Sum
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import KINDS, Value
from wily_magpie.core.fields.base import Plain
from wily_magpie.core.query.askable import askable
from wily_magpie.core.query.nodes import Question

if TYPE_CHECKING:
    from array import array

NEWEST_FIRST = "captured"
"""The key of the field by which a place is usually looked at, the newest entry first."""
MADE_KINDS = tuple(name for name in KINDS if name != "gaps")
"""The kinds of field that a person can make."""
NOTE_KINDS = tuple(name for name in MADE_KINDS if name not in ("reference", "summary", "files"))
"""Those that front matter can hold."""


@dataclass(frozen=True)
class Group:
    """A run of entries with the same value.

    Attributes:
        name: the value as shown; "" for blank ones.
        size: how many entries they are.
        level: 0, or 1 within another group.
        rows: how many entries follow its heading before the next one; none where groups within it do.
        sums: what stands at the foot of columns, by key.
    """

    name: str
    size: int
    level: int = 0
    rows: int = 0
    sums: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Listing:
    """The answer to a question: ids in order; groups, if asked for, follow one another in that order."""

    ids: Sequence[int]
    groups: tuple[Group, ...]
    total: int
    """How many entries the place has in all."""
    count: int = -1
    """How many entries answer, where some stand in several groups; -1: as many as there are ids."""

    @property
    def size(self) -> int:
        """How many entries answer."""
        return self.count if self.count >= 0 else len(self.ids)


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
    pictures_folder: str = ""
    """Of a notes folder: the folder for the pictures of a note, such as "Pictures/{year}"; "" for the usual one."""
    other_encoding: str = ""
    """Of a notes folder: how notes are read, and written, that are no UTF-8; "" for not at all."""
    is_filled: bool = True
    """Of a notes folder: whether its living lists are kept filled by themselves."""
    mirrors: str = ""
    """Of a notes folder: the key of the collection that it is kept in step with, or ""."""
    mirror_fields: str = ""
    """The fields of that, with what they are called in the notes: "status, chapter as Part"; "" for all that can be."""
    mirror_path: str = ""
    """The path of a note that is made for an entry; "" for "{collection}/{title}"."""
    roles: tuple[str, ...] = ()
    """What its fields are taken for when a page is kept, as a person said it: "source=address"; see `entries.roles`."""
    links_lead_out: bool = False
    """Of a notes folder: whether the person wants links that lead out of it to be written through."""


@dataclass(frozen=True)
class Nature:
    """What sort of place it is, as far as others have to know.

    Attributes:
        noun: what people call such a place; heading: what stands above all of them; icon: its picture.
        field_kinds: the kinds of field that a person can give it.
        is_in_files: whether its entries are files of a person's own, with paths and links, that stay when it is deleted.
        has_made_titles: whether titles can be made of other fields.
        is_referred_to: whether references can lead to its entries.
    """

    noun: str
    heading: str
    icon: str
    field_kinds: tuple[str, ...]
    is_in_files: bool
    has_made_titles: bool
    is_referred_to: bool


COLLECTION = Nature("collection", "COLLECTIONS", "table", MADE_KINDS, False, True, True)
NOTES_FOLDER = Nature("notes folder", "NOTES FOLDERS", "folder", NOTE_KINDS, True, False, False)


@dataclass(frozen=True)
class PlaceInfo:
    """A place as plain data: what is shown of it, and nothing that could change it.

    Attributes:
        key: stable name, such as "collection:1" or "notes:2".
        name: what a person calls it.
        fields: in order, the title first.
        layout: how it is looked at where no view is open.
        path: of a notes folder, where it lies; "" of others.
        is_away: whether that is not there just now; what is known of its notes is shown all the same.
        is_strange: whether this person has not set that up: it is away until he says that it is to be used.
        beyond: fields of what its references lead to, which can be asked for.
    """

    key: str
    name: str
    fields: tuple[Field, ...]
    settings: PlaceSettings
    nature: Nature
    layout: Layout = USUAL_LAYOUT
    path: str = ""
    is_away: bool = False
    is_strange: bool = False
    beyond: tuple[Field, ...] = ()

    @property
    def askable(self) -> tuple[Field, ...]:
        """All that questions may name."""
        return askable(self.fields, self.beyond)

    @property
    def main_address(self) -> Field | None:
        """The field that says which page an entry came from."""
        return first_of(self.fields, lambda field: field.kind.is_address)

    def has(self, key: str) -> bool:
        """Whether it has a field of that key."""
        return any(field.key == key for field in self.fields)


@dataclass(frozen=True)
class FieldConversion:
    """A change of a field's kind, worked out.

    Attributes:
        outcomes: of each value the entry's id, what it is, and what it becomes; None: it does not convert.
        number, rest: the numbers of the new field and of the text field for what does not convert (None: all converts).
        rest_key, rest_label: what that one is called.
    """

    field: Field
    kind: str
    outcomes: Sequence[tuple[int, Value, Value]]
    number: int = 0
    rest: int | None = None
    rest_key: str = ""
    rest_label: str = ""


def first_of(fields: Sequence[Field], test: Callable[[Field], bool]) -> Field | None:
    """The first field that a test holds of."""
    return next((field for field in fields if test(field)), None)


@dataclass(frozen=True)
class Glimpse:
    """What is seen of the text of an entry without opening it.

    Attributes:
        text: its beginning, as Markdown. length: of the whole, in characters.
        picture: from its first picture on, as Markdown; "" where it has none.
    """

    text: str
    length: int
    picture: str = ""


class RowsTable(Protocol):
    """What layouts ask of the rows of a place."""

    def first(self, question: Question, most: int) -> tuple[Sequence[int], int]:
        """The first entries that answer a question without groups, and how many answer: quicker than all in order."""

    def meets(self, question: Question, ids: Collection[int]) -> bool:
        """Whether any of some entries answers a question."""

    def sums(self, question: Question, wanted: Mapping[str, Sum]) -> dict[tuple[str, ...], dict[str, str]]:
        """What stands at the foot of columns, by their keys: for all that answer under (), for each group under its names."""

    def glimpses(self, ids: Sequence[int]) -> dict[int, Glimpse]:
        """What is seen of the texts of entries."""

    def columns(self, question: Question, fields: Sequence[Field]) -> "tuple[array[int], list[list[str]]]":
        """The entries that answer a question, and of each field what it has in each of them, as it is stored; "" where it is blank.

        Those that have nothing in the first field are left out.
        """


class Place(ABC):
    """A collection or a notes folder. Reading may be done from any thread; whoever changes something is inside a step."""

    nature: ClassVar[Nature]
    knows_whole_states: ClassVar[bool]
    """Whether what happened to an entry tells all that it was; of a note only what its own keys were is known."""
    key: str
    name: str
    number: int
    settings: PlaceSettings

    @property
    @abstractmethod
    def fields(self) -> tuple[Field, ...]:
        """Its fields in order, the title first."""

    @property
    def info(self) -> PlaceInfo:
        """The place as plain data."""
        return PlaceInfo(
            self.key, self.name, self.fields, self.settings, self.nature, self.layout, self.folder, self.is_away,
            self.is_strange, self.beyond,
        )  # fmt: skip

    @property
    def beyond(self) -> tuple[Field, ...]:
        """Fields of what its references lead to, as far as they can be asked for."""
        return ()

    @property
    def askable(self) -> tuple[Field, ...]:
        """All that questions may name."""
        return askable(self.fields, self.beyond)

    @property
    @abstractmethod
    def layout(self) -> Layout:
        """How it is looked at where no view is open."""

    @property
    def folder(self) -> str:
        """Of a notes folder, where it lies; "" of others."""
        return ""

    @property
    def is_away(self) -> bool:
        """Whether it lies where nothing is just now."""
        return False

    @property
    def is_strange(self) -> bool:
        """Whether it names a folder that this person has not set up."""
        return False

    # asking

    @abstractmethod
    def listing(self, question: Question) -> Listing:
        """The ids that answer a question."""

    @property
    @abstractmethod
    def rows_table(self) -> RowsTable:
        """What is asked of its rows for layouts."""

    @abstractmethod
    def rows(self, ids: Sequence[int]) -> list[Entry]:
        """Entries without their bodies, in the order asked for; those that are gone are left out."""

    @abstractmethod
    def entry(self, entry_id: int) -> Entry | None:
        """One whole entry."""

    @abstractmethod
    def values_in_use(self, field: Field) -> list[str]:
        """Texts that a field has in some entries, of a reference what it could lead to; for completing, not all of many."""

    @abstractmethod
    def signatures(self, ids: Sequence[int] | None = None) -> dict[int, str]:
        """What is another text whenever an entry was changed, by its id; of some entries, or of all."""

    @abstractmethod
    def known(self, canonical: str) -> Entry | None:
        """The entry last kept from a page of this canonical address."""

    @abstractmethod
    def owner_of(self, entry_id: int) -> str:
        """By what an entry's marks know it."""

    @abstractmethod
    def id_of(self, owner: str) -> int | None:
        """The id of the entry that marks know so; None where it is gone."""

    @abstractmethod
    def page_owner(self, entry_id: int) -> int | None:
        """By what kept pages know an entry; None where they do not."""

    @abstractmethod
    def is_declared(self, field: Field) -> bool:
        """Whether a field has a row of its own; those that were found in the files of notes have none."""

    @abstractmethod
    def history_of(self, entry_id: int) -> list[Happening]:
        """What happened to an entry, the latest first. Reads all steps, which takes its time."""

    @abstractmethod
    def referring_here(self, entry_id: int) -> list[tuple[str, int, str, str]]:
        """What refers to an entry, as (key of its place, id, title, by what)."""

    def refresh(self, _tick: Callable[[int, int], None] | None = None) -> int:
        """Brings what is known in step with files that others may have changed; how many they were."""
        return 0

    def dry_run(self, _target: NoteTarget | None) -> list[str] | None:
        """What writing a capture into a part of a note would make, in words; None where a capture is an entry of its own.

        Raises:
            UserError: it cannot be written there.
        """
        return None

    def holds_address(self, _target: NoteTarget, _address: str) -> str:
        """The path of the note that a capture would be written into, where that has its address already; else ""."""
        return ""

    def missing_notes(self, _titles: Sequence[str]) -> list[str]:
        """Those of some titles that no note has, where titles stand for notes."""
        return []

    def title_of(self, entry_id: int) -> str:
        """The title of an entry.

        Raises:
            UserError: it is gone.
        """
        found = self.rows([entry_id])
        if not found:
            raise UserError("entry-gone", "This entry is no longer there.", "Undo may bring it back.")
        return found[0].title

    # changing

    @abstractmethod
    def add(self, draft: Draft) -> int:
        """Keeps a new entry; its id."""

    @abstractmethod
    def change(self, entry_id: int, values: Mapping[str, Value], body: str | None = None) -> None:
        """Sets fields (None: blank), and the body where one is given."""

    def add_matter(self, _entry_id: int, _matter: Mapping[str, Plain]) -> None:  # noqa: B027 - most have fields for all
        """Of a note, sets front matter by keys that no field has yet."""

    def lay_pictures(self, _entry_id: int, _pictures: Mapping[str, tuple[bytes, str]]) -> frozenset[str]:
        """Of a note, lays the pictures beside it that its text shows, and has the text lead to them; their addresses.

        Args:
            pictures: contents and media type by the address that the text knows each by.
        """
        return frozenset()

    def change_all(self, ids: Sequence[int], values: Mapping[str, Value]) -> None:
        """Sets the same fields of many entries."""
        for entry_id in ids:
            self.change(entry_id, values)

    def change_body(self, entry_id: int, body: str, _opened: str) -> str:
        """Sets the body of an entry that was opened with another one; what a person should know of it, or ""."""
        self.change(entry_id, {}, body)
        return ""

    @abstractmethod
    def remove(self, ids: Sequence[int]) -> None:
        """Puts entries into the trash."""

    @abstractmethod
    def restore(self, trash_id: int) -> None:
        """Takes something of this place back out of the trash."""

    @abstractmethod
    def attach(self, entry_id: int, field: Field | None, files: Sequence[tuple[str, bytes, str]]) -> None:
        """Keeps files with an entry.

        Args:
            field: of a collection, the field of files; None for its first one.
            files: name, contents, and where each came from.
        """

    def entitle_all(self) -> None:  # noqa: B027 - most places have nothing to do
        """Gives all entries the titles that the place's pattern makes, where it has one."""

    def make_notes(self, titles: Sequence[str]) -> None:
        """Makes the notes of some titles that are not there, where titles stand for notes."""
        for title in self.missing_notes(titles):
            self.add(Draft(title))

    def write_into(self, _target: NoteTarget, _text: str) -> int:
        """Writes a text into a part of a note; the note's id.

        Raises:
            UserError: there are no notes here.
        """
        raise UserError("no-notes", f"{self.name} is no notes folder.", "Name a notes folder.")

    # its fields

    @abstractmethod
    def prepare_column(self, number: int, kind: str) -> None:
        """Gives a new field its column, before the step begins: a step records rows, not tables."""

    @abstractmethod
    def follow_columns(self) -> None:
        """Lets full text follow all columns that the place ever had."""

    @abstractmethod
    def drop_field(self, field: Field) -> None:
        """Takes a field's values out, or the field out of sight where the values are in a person's own files."""

    @abstractmethod
    def convert(self, conversion: FieldConversion) -> None:
        """Makes a field one of another kind."""

    def close(self) -> None:  # noqa: B027 - as above
        """Lets go of what it holds open."""
