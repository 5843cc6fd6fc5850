"""What every kind of field can do, and the relations that conditions are made of."""

import json
from abc import ABC, abstractmethod
from collections.abc import Mapping
from enum import StrEnum

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UnreadableValue

Value = str | float | bool | tuple[str, ...] | None
"""A value of any kind: text, date, amount, address and choice as str; choices, people, files and references as a tuple
of str; None is blank."""

Plain = str | float | int | bool | list[str] | None
"""The same in the terms of JSON and YAML."""

Sql = tuple[str, list[object]]
"""A fragment of SQL and the values of its question marks."""


to_json = json.JSONEncoder(ensure_ascii=False).encode
"""One writer for all values: `json.dumps` makes a new one each time."""


@dataclass(frozen=True)
class Option:
    """One option of a choice; colour is a name from the palette's spine colours, "" for none."""

    name: str
    colour: str = ""


class Relation(StrEnum):
    """How a condition holds a field against a value; the value of each is its wording in the sentence."""

    IS = "is"
    IS_NOT = "is not"
    HAS = "have"
    HAS_NOT = "do not have"
    HAS_ANY = "have any of"
    HAS_ALL = "have all of"
    HAS_NONE = "have none of"
    ONE_OF = "is one of"
    CONTAINS = "contains"
    CONTAINS_NOT = "does not contain"
    BEGINS = "begins with"
    SAME = "is the same as"
    BEFORE = "is before"
    AFTER = "is after"
    FROM = "is from"
    UNTIL = "is until"
    LAST = "is in the last"
    NEXT = "is in the next"
    OLDER = "is longer ago than"
    THIS = "is in"
    BETWEEN = "is between"
    HOLDS = "has a"
    HOLDS_NO = "has no"
    LESS = "is less than"
    MORE = "is more than"
    AT_LEAST = "is at least"
    AT_MOST = "is at most"
    EMPTY = "is empty"
    NOT_EMPTY = "is not empty"

    @property
    def wants_value(self) -> bool:
        """Whether a value stands beside it."""
        return self not in (Relation.EMPTY, Relation.NOT_EMPTY)

    @property
    def wants_period(self) -> bool:
        """Whether that value is a length of time."""
        return self in (Relation.LAST, Relation.NEXT, Relation.OLDER)

    @property
    def wants_many(self) -> bool:
        """Whether that value is a list."""
        return self in (Relation.HAS_ANY, Relation.HAS_ALL, Relation.HAS_NONE, Relation.ONE_OF)


BLANKNESS = (Relation.EMPTY, Relation.NOT_EMPTY)


class FieldKind(ABC):
    """One kind of field. Kinds have no state: what differs between fields is passed in."""

    name: str
    column_type: str = "TEXT"
    """The type of its SQL column in a STRICT table; "" where it has none and is worked out."""
    signs: Mapping[str, Relation]
    """What each sign of a written question means for it; the first of those with the same meaning is written."""
    relations: tuple[Relation, ...]
    """The conditions it offers, the most common first."""
    right_aligned: bool = False
    is_many: bool = False
    """Whether a value is a tuple, stored as a JSON array and indexed value by value."""
    is_nested: bool = False
    """Of many: whether a value is met by those below it, as "craft" is by "craft/mill"."""
    is_short: bool = True
    """Whether its values make a column of a table that can be read at a glance."""
    is_sized: bool = False
    """Whether its values have an order of size, so that "smallest first" says something."""
    is_worded: bool = True
    """Whether full-text search looks into it."""
    is_linked: bool = False
    """Whether its values are other entries, seen from both ends."""
    has_options: bool = False
    """Whether its values are options of a list, which a new name joins."""
    has_spine: bool = False
    """Whether a value is one option, shown with its colour."""
    holds_files: bool = False
    """Whether its values are files of the library."""
    is_address: bool = False
    """Whether its values are addresses of the web."""
    is_dated: bool = False
    """Whether its values are moments: the latest is what one looks for first."""
    is_people: bool = False
    """Whether its values are names of people."""
    is_long: bool = False
    """Whether its values are texts of many lines."""
    has_precision: bool = False
    """Whether its values are numbers that a field may show with fixed decimals."""
    has_unit: bool = False
    """Whether its values are numbers with a unit."""
    is_of_rules: bool = False
    """Whether its values say which rules of its place an entry breaks."""
    is_summary: bool = False
    """Whether its values are worked out over a reference."""
    is_duration: bool = False
    """Whether its values are lengths of time."""
    is_number: bool = False
    """Whether its values are plain numbers."""
    group_steps: tuple[str, ...] = ()
    """How a table may be grouped by it: "" for value by value, else month, year, decade, century, letter, or the width of a
    range of numbers; the usual one first. Empty: not at all."""
    is_completed: bool = False
    """Whether what others have written is offered while one writes."""
    is_told: bool = False
    """Whether its values tell entries apart in a few letters, so that a short table shows them."""
    is_fixed: bool = False
    """Whether no field can be made of it, or it of another, by converting values."""
    fixed_texts: tuple[str, ...] = ()
    """The only texts that its values have."""
    order_words: tuple[str, str] = ("A to Z by", "Z to A by")
    """How its order is said, upwards and downwards."""

    @property
    def is_grouping(self) -> bool:
        """Whether a table may be grouped by it."""
        return bool(self.group_steps)

    def is_called(self, word: str) -> bool:
        """Whether a person means it by a word."""
        return word in (self.name, f"{self.name}s")

    @abstractmethod
    def read(self, text: str) -> Value:
        """The value that a text means; None for a blank text.

        Raises:
            UnreadableValue: the text means none.
        """

    def take(self, text: str) -> tuple[Value, str]:
        """The value of what a person typed, and a warning or "": more is taken from a person than from a page.

        Raises:
            UnreadableValue: it cannot be kept in such a field at all.
        """
        return self.read(text), ""

    def doubt(self, value: Value) -> str:
        """Why a value that was kept is no good one of this kind, or ""."""
        return ""

    def show(self, value: Value) -> str:
        """The value as text; `read` of it gives the value again."""
        return "" if value is None else str(value)

    def looked_at(self, value: Value) -> str:
        """The value as it is looked at, where that is not what is edited."""
        return self.show(value)

    def to_plain(self, value: Value) -> Plain:
        """For JSON and YAML."""
        return list(value) if isinstance(value, tuple) else value

    def from_plain(self, plain: object) -> Value:
        """From JSON and YAML, whatever their own idea of the type was.

        Raises:
            UnreadableValue: it is no value of this kind.
        """
        if plain is None:
            return None
        if isinstance(plain, list):
            return self.read("; ".join(map(str, plain)) + (";" if self.is_many else ""))  # they are parted already
        return self.read(str(plain))

    def read_in(self, text: str, _language: str) -> Value:
        """The value of a text that stands in a language (BCP 47; "" where it is not known).

        Raises:
            UnreadableValue: it is no value of this kind, or nobody can know which.
        """
        return self.read(text)

    def read_declared(self, text: str, language: str) -> Value:
        """The value of a text that a page in a language declares for programs, by the standard of that.

        Raises:
            UnreadableValue: as above.
        """
        return self.read_in(text, language)

    def from_page(self, plain: object, language: str, *, is_declared: bool = False) -> Value:
        """From what a page in a language says.

        Args:
            is_declared: whether it is declared for programs, rather than shown to people.

        Raises:
            UnreadableValue: as above.
        """
        if not isinstance(plain, str) or not plain.strip():
            return self.from_plain(plain)
        return self.read_declared(plain, language) if is_declared else self.read_in(plain, language)

    def to_column(self, value: Value) -> object:
        """A value as SQLite keeps it."""
        return to_json(value) if isinstance(value, tuple) else value

    def from_column(self, stored: object) -> Value:
        """The value that SQLite kept."""
        if stored is None or not self.is_many:
            return None if stored is None else str(stored)
        try:
            return tuple(map(str, json.loads(str(stored))))
        except (ValueError, TypeError):  # damaged: shown as it stands
            return (str(stored),)

    def sort_sql(self, column: str) -> str:
        """What a column is sorted by."""
        return f"{column} COLLATE NOCASE"

    def compare(self, relation: Relation, column: str, value: Value) -> Sql:
        """A comparison with a value that `read` gave; EMPTY, HAS and CONTAINS are not asked here."""
        return f"{column} {COMPARISONS[relation]} ?", [value]


COMPARISONS = {
    Relation.IS: "=",
    Relation.IS_NOT: "IS NOT",
    Relation.LESS: "<",
    Relation.MORE: ">",
    Relation.AT_LEAST: ">=",
    Relation.AT_MOST: "<=",
}
SAME = {"=": Relation.IS, "==": Relation.IS, "<>": Relation.IS_NOT}
ALIKE = {"=/field": Relation.SAME}
CONTAINED = {"=": Relation.CONTAINS, "<>/contains": Relation.CONTAINS_NOT}
BEGUN = {"=/begins": Relation.BEGINS}
ADDRESS_SIGNS = {**CONTAINED, "==": Relation.IS, **BEGUN, **ALIKE}
TEXT_SIGNS = {**CONTAINED, "==": Relation.IS, "<>": Relation.IS_NOT, "any": Relation.ONE_OF, **BEGUN, **ALIKE}
CHOICE_SIGNS = {**SAME, "any": Relation.ONE_OF, **ALIKE}
SEVERAL = {"any": Relation.HAS_ANY, "all": Relation.HAS_ALL, "<>/any": Relation.HAS_NONE}
NAME_SIGNS = {"==": Relation.HAS, "<>": Relation.HAS_NOT, **CONTAINED, **SEVERAL}
MANY_SIGNS = {"=": Relation.HAS, "==": Relation.HAS, "<>": Relation.HAS_NOT, **SEVERAL, **ALIKE}
SIZE_SIGNS = {
    **SAME, "<": Relation.LESS, ">": Relation.MORE, "<=": Relation.AT_MOST, ">=": Relation.AT_LEAST,
    "within": Relation.BETWEEN, **ALIKE,
}  # fmt: skip
SIZES = (Relation.LESS, Relation.MORE, Relation.AT_LEAST, Relation.AT_MOST, Relation.BETWEEN)
MANY_RELATIONS = (Relation.HAS, Relation.HAS_NOT, Relation.HAS_ANY, Relation.HAS_ALL, Relation.HAS_NONE)
PARTS = (Relation.CONTAINS, Relation.CONTAINS_NOT)


def as_line(text: str) -> str:
    """A text on one line, without what no column may hold."""
    return " ".join(text.replace("\0", "").split())


class WorkedOut(FieldKind):
    """A kind whose values nobody writes."""

    column_type = ""
    is_worded = False

    def read(self, text: str) -> Value:
        if not text.strip():
            return None
        raise UnreadableValue("worked-out", "This field is worked out from others.", "Change those instead.")
