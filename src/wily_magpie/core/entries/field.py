"""A field of a place."""

from collections.abc import Iterable
from dataclasses import dataclass
from difflib import get_close_matches

from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import KINDS, FieldKind, Option


@dataclass(frozen=True)
class Field:
    """A typed column of a collection, or a key of a notes folder's front matter.

    Attributes:
        key: stable name in queries, templates and files; never changes.
        label: what a person sees; may change.
        kind: one of KINDS.
        column: its SQL column; never changes.
        options: of a choice, in their order.
    """

    key: str
    label: str
    kind: FieldKind
    column: str
    options: tuple[Option, ...] = ()

    def option(self, name: str) -> Option | None:
        """The option of that name."""
        return next((option for option in self.options if option.name == name), None)


TITLE = Field("title", "Title", KINDS["text"], "title")
"""Every place has a title, in a column of its own."""


def find_field(fields: Iterable[Field], name: str) -> Field:
    """The field of that key or label.

    Raises:
        UserError: there is none; the nearest name is told.
    """
    known = list(fields)
    wanted = name.casefold().strip()
    for field in known:
        if wanted in (field.key.casefold(), field.label.casefold()):
            return field
    near = get_close_matches(wanted, [field.key for field in known], n=1, cutoff=0.5)
    hint = f"Did you mean “{near[0]}”?" if near else "There are: " + ", ".join(field.key for field in known) + "."
    raise UserError("unknown-field", f"There is no field “{name}” here.", hint)
