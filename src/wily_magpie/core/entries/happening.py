"""What happened to one entry: one step that touched it."""

from collections.abc import Mapping
from dataclasses import field

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields import Value


@dataclass(frozen=True)
class FieldChange:
    """One change of one field; body: its field is None."""

    field: Field | None
    before: str
    after: str


@dataclass(frozen=True)
class Happening:
    """One step that touched the entry.

    Attributes:
        values, body: what the entry was before it; of a step that made the entry, empty.
    """

    step: int
    label: str
    at: str
    changes: tuple[FieldChange, ...]
    values: Mapping[str, Value] = field(default_factory=dict)
    body: str = ""
    is_beginning: bool = False
