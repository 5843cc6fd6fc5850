"""Names that are not there yet: which of the names that somebody writes would be made, and which ones they are near to."""

from collections.abc import Sequence

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import FieldKind

MOST_KNOWN = 1_900
"""Where so many names are known, others may be there that are not among them."""
NEAR = 0.8


@dataclass(frozen=True)
class NewName:
    """A name that is not there yet.

    Attributes:
        near: the one that it is nearest to, or "".
    """

    name: str
    near: str = ""

    def said(self) -> str:
        """In words."""
        return f"new: {self.name}{f'; did you mean {self.near}?' if self.near else ''}"


def new_names(kind: FieldKind, text: str, known: Sequence[str]) -> list[NewName]:
    """The names in a text that nothing has yet; none where it cannot be known."""
    if not known or len(known) >= MOST_KNOWN:
        return []
    try:
        value = kind.read(text)
    except UnreadableValue:
        return []
    names = value if isinstance(value, tuple) else (value,) if isinstance(value, str) else ()
    from difflib import get_close_matches  # here, since it takes long to load

    folded = {name.casefold(): name for name in known}
    out = []
    for name in map(str, names):
        if name.casefold() not in folded:
            near = get_close_matches(name.casefold(), folded, 1, NEAR)
            out.append(NewName(name, folded[near[0]] if near else ""))
    return out
