"""What every kind of field can do, and the relations that conditions are made of."""

from abc import ABC, abstractmethod
from dataclasses import dataclass
from enum import StrEnum
from typing import ClassVar

Value = str | float | bool | tuple[str, ...] | None
"""A value of any kind: text, date, address and choice as str; choices and people as a tuple; None is blank."""

Plain = str | float | int | bool | list[str] | None
"""The same in the terms of JSON and YAML."""


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
    CONTAINS = "contains"
    BEFORE = "is before"
    AFTER = "is after"
    FROM = "is from"
    UNTIL = "is until"
    LAST_DAYS = "is in the last"
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


BLANKNESS = (Relation.EMPTY, Relation.NOT_EMPTY)


class FieldKind(ABC):
    """One kind of field. Kinds have no state: what differs between fields is passed in."""

    name: ClassVar[str]
    column_type: ClassVar[str] = "TEXT"
    """The type of its SQL column in a STRICT table."""
    relations: ClassVar[tuple[Relation, ...]]
    """The conditions it offers, the most common first."""
    right_aligned: ClassVar[bool] = False
    is_many: ClassVar[bool] = False
    """Whether a value is a tuple, stored as a JSON array and indexed value by value."""

    @abstractmethod
    def read(self, text: str) -> Value:
        """The value that a person's text means; None for a blank text.

        Raises:
            UnreadableValue: the text means none.
        """

    def show(self, value: Value) -> str:
        """The value as text; `read` of it gives the value again."""
        return "" if value is None else str(value)

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
            return self.read("; ".join(str(one) for one in plain))
        return self.read(str(plain))
