"""The kinds of field: each one object that knows every direction (SQL column, read, show, YAML, conditions)."""

from wily_magpie.core.fields.address import ADDRESS
from wily_magpie.core.fields.base import FieldKind, Option, Relation, Value
from wily_magpie.core.fields.choice import CHOICE, CHOICES
from wily_magpie.core.fields.date import DATE
from wily_magpie.core.fields.number import NUMBER
from wily_magpie.core.fields.people import PEOPLE
from wily_magpie.core.fields.text import LONG_TEXT, TEXT
from wily_magpie.core.fields.yes_no import YES_NO

KINDS: dict[str, FieldKind] = {
    kind.name: kind for kind in (TEXT, LONG_TEXT, NUMBER, DATE, YES_NO, CHOICE, CHOICES, ADDRESS, PEOPLE)
}

__all__ = [
    "ADDRESS",
    "CHOICE",
    "CHOICES",
    "DATE",
    "KINDS",
    "LONG_TEXT",
    "NUMBER",
    "PEOPLE",
    "TEXT",
    "YES_NO",
    "FieldKind",
    "Option",
    "Relation",
    "Value",
]
