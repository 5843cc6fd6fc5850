"""The kinds of field: each one object that knows every direction (SQL column, read, show, sort, YAML, conditions)."""

from wily_magpie.core.fields.address import ADDRESS
from wily_magpie.core.fields.amount import AMOUNT
from wily_magpie.core.fields.base import FieldKind, Option, Relation, Value
from wily_magpie.core.fields.choice import CHOICE, CHOICES
from wily_magpie.core.fields.date import DATE
from wily_magpie.core.fields.duration import DURATION
from wily_magpie.core.fields.files import FILES
from wily_magpie.core.fields.number import NUMBER
from wily_magpie.core.fields.people import PEOPLE
from wily_magpie.core.fields.reference import REFERENCE, Link
from wily_magpie.core.fields.summary import SUMMARY
from wily_magpie.core.fields.text import GAPS, LONG_TEXT, TEXT
from wily_magpie.core.fields.yes_no import YES_NO

KINDS: dict[str, FieldKind] = {
    kind.name: kind
    for kind in (
        TEXT, LONG_TEXT, NUMBER, AMOUNT, DURATION, DATE, YES_NO, CHOICE, CHOICES, ADDRESS, PEOPLE, FILES, REFERENCE, SUMMARY, GAPS
    )
}  # fmt: skip
"""By their names. Gaps belong to no field that a person makes."""

__all__ = [
    "ADDRESS",
    "AMOUNT",
    "CHOICE",
    "CHOICES",
    "DATE",
    "DURATION",
    "FILES",
    "GAPS",
    "KINDS",
    "LONG_TEXT",
    "NUMBER",
    "PEOPLE",
    "REFERENCE",
    "SUMMARY",
    "TEXT",
    "YES_NO",
    "FieldKind",
    "Link",
    "Option",
    "Relation",
    "Value",
]
