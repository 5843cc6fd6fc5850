"""References to entries of a collection, and summaries over what they lead to.

A reference is kept once, as a row of the table `link`, whichever end it is written from; both ends are worked out from it
and so never out of step.
"""

import json
from typing import Self

from wily_magpie.core.fields.base import BLANKNESS, MANY_RELATIONS, NAME_SIGNS, PARTS, FieldKind, Value, as_line
from wily_magpie.core.patterns import pattern


class Link(str):
    """The title of an entry that is referred to, with its id; a plain str stands for an entry still to be found or made."""

    __slots__ = ("id",)
    id: int

    def __new__(cls, title: str, entry_id: int) -> Self:
        """A link to an entry of that title."""
        made = super().__new__(cls, title)
        made.id = entry_id
        return made


IN_MARKS = r'"(?:[^"]|"")*"'
QUOTED, PIECE = pattern(IN_MARKS), pattern(rf"\s*{IN_MARKS}\s*(?=;|$)|[^;]+")


def quoted(title: str) -> str:
    """A title as it stands in a list: in quotation marks where its own would be read otherwise."""
    return '"' + title.replace('"', '""') + '"' if ";" in title or title.startswith('"') else title


class Reference(FieldKind):
    """Entries of the same or another collection, by their titles; several have semicolons between them.

    A title with a semicolon of its own stands in quotation marks.
    """

    name = "reference"
    is_told = is_linked = is_fixed = is_completed = True
    column_type = ""
    signs = NAME_SIGNS
    relations = (*MANY_RELATIONS, *PARTS, *BLANKNESS)
    group_steps = ("",)
    is_many = True
    is_worded = False

    def read(self, text: str) -> Value:
        pieces = (found[0].strip() for found in PIECE.finditer(text.replace("\n", ";")))
        names = (as_line(piece[1:-1].replace('""', '"') if QUOTED.fullmatch(piece) else piece) for piece in pieces)
        return tuple(name for name in names if name) or None  # two entries may have the same title

    def show(self, value: Value) -> str:
        return "; ".join(map(quoted, value)) if isinstance(value, tuple) else ""

    def from_plain(self, plain: object) -> Value:
        return super().from_plain([quoted(str(title)) for title in plain] if isinstance(plain, list) else plain)

    def from_column(self, stored: object) -> Value:
        """From a JSON array of [title, id]."""
        pairs = json.loads(str(stored or "[]"))
        return tuple(Link(str(title), int(number)) for title, number in pairs) or None


REFERENCE = Reference()
