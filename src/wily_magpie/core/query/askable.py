"""What can be asked for besides the fields of a place: when an entry was changed, what it has, the fields of what it refers to."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields import KINDS, Relation, Value
from wily_magpie.core.fields.base import FieldKind


class Holdings(FieldKind):
    """What an entry may have that is no field of its own."""

    name = "holdings"
    column_type = ""
    is_fixed = True
    is_worded = False
    fixed_texts = ("file", "picture", "mark", "comment", "gap", "fault")
    signs: Mapping[str, Relation] = {"=": Relation.HOLDS, "<>": Relation.HOLDS_NO}
    relations = (Relation.HOLDS, Relation.HOLDS_NO)

    def read(self, text: str) -> Value:
        word = text.strip().casefold()
        if word not in self.fixed_texts:
            known = ", ".join(self.fixed_texts)
            raise UnreadableValue("no-holding", f"“{text.strip()}” is nothing that an entry has.", f"Known: {known}.")
        return word


HOLDINGS = Field("entry.has", "Entry", Holdings(), "")
CHANGED = Field("entry.changed", "Changed", KINDS["date"], "modified")


def askable(fields: Sequence[Field], beyond: Sequence[Field] = ()) -> tuple[Field, ...]:
    """All that can be asked of a place with these fields.

    Args:
        beyond: fields of what its references lead to, see `beyond_of`.
    """
    return (*fields, CHANGED, HOLDINGS, *beyond)


def beyond_of(reference: Field, fields: Sequence[Field]) -> list[Field]:
    """The fields of what a reference leads to, as far as they can be asked for one step along."""
    return [
        replace(
            one, key=f"{reference.key}.{one.key}", label=f"{reference.label}’s {one.label.lower()}", through=reference
        )
        for one in fields
        if one.is_stored and not one.kind.is_linked
    ]
