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


def convert(field: Field, kind: str, value: Value) -> Value:
    """A value in another kind; UnreadableValue where it has no meaning there."""
    new = KINDS[kind]
    if new.is_many and isinstance(value, tuple):
        return new.from_plain(list(value))
    return new.read(field.kind.show(value))
