"""From one kind of field to another: what a change would do."""

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields import KINDS, Value


@dataclass(frozen=True)
class Conversion:
    """What a change of kind would do.

    Attributes:
        converted: (text before, text after) of the first few values that convert.
        lost: the first few texts that do not; they would be kept in a text field of their own.
    """

    field: Field
    kind: str
    total: int
    count_converted: int
    count_lost: int
    converted: tuple[tuple[str, str], ...]
    lost: tuple[str, ...]

    @property
    def rest_label(self) -> str:
        """The name of the text field that would take what does not convert."""
        return f"{self.field.label} (as {self.field.kind.name})"


FROM_FIXED = ("text", "long text", "choice", "choices", "people", "number", "amount", "date", "duration")
"""What references and summaries may become: their values as they are shown."""
WHY_NOT = {
    "files": "Files are no texts, and a text is no file.",
    "summary": "A summary is worked out over a reference; nobody can write its values.",
    "reference": "Choose the collection that it is to lead to.",
    "gaps": "Gaps are worked out from the rules of the place.",
}


@dataclass(frozen=True)
class ReferenceConversion:
    """What making a field a reference would do.

    Attributes:
        total: how many entries have a value. found, made: titles of entries that there are, and of those that would be made.
    """

    field: Field
    target: str
    total: int
    found: tuple[str, ...]
    made: tuple[str, ...]


def convert(field: Field, kind: str, value: Value) -> Value:
    """A value in another kind; UnreadableValue where it has no meaning there."""
    new = KINDS[kind]
    if new.is_many and isinstance(value, tuple):
        return new.from_plain(list(value))
    return new.read(field.kind.show(value))
