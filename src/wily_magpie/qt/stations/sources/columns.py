"""Which columns a table shows, in which order and how wide; remembered for each place and view."""

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field, replace

from PyQt6.QtCore import QSettings

from wily_magpie.core.entries.field import Field


@dataclass(frozen=True)
class Columns:
    """A person's choice; what it does not name is as it usually is.

    Attributes:
        order: field keys, those that are not named come behind.
        hidden, shown: keys that were hidden, and such as are shown though they usually are not.
        widths: in pixels, by key.
        pinned: how many columns stay where they are when the others are scrolled.
    """

    order: tuple[str, ...] = ()
    hidden: tuple[str, ...] = ()
    shown: tuple[str, ...] = ()
    widths: dict[str, int] = field(default_factory=dict)
    pinned: int = 0

    def is_shown(self, one: Field) -> bool:
        """Whether a field has a column."""
        usual = one.kind.is_short and not one.settings.is_hidden and one.key != "gaps" and not one.settings.is_given
        return one.key == "title" or (usual and one.key not in self.hidden) or one.key in self.shown

    def of(self, fields: Sequence[Field]) -> list[Field]:
        """The fields that have columns, in order."""
        known = {one.key: one for one in fields}
        ordered = [known[key] for key in self.order if key in known]
        return [one for one in [*ordered, *(one for one in fields if one.key not in self.order)] if self.is_shown(one)]

    def with_order(self, keys: Sequence[str]) -> "Columns":
        """The same in another order."""
        return replace(self, order=tuple(keys))

    def with_shown(self, key: str, *, is_shown: bool) -> "Columns":
        """The same with a column shown or hidden."""
        hidden = [one for one in self.hidden if one != key]
        shown = [one for one in self.shown if one != key]
        (shown if is_shown else hidden).append(key)
        return replace(self, hidden=tuple(hidden), shown=tuple(shown))


def load(settings: QSettings, name: str) -> Columns:
    """What was remembered under a name."""
    try:
        kept = json.loads(str(settings.value(f"columns/{name}", "{}")))
        lists = {key: tuple(map(str, kept.get(key, ()))) for key in ("order", "hidden", "shown")}
        widths = {str(key): int(width) for key, width in kept.get("widths", {}).items()}
        return Columns(**lists, widths=widths, pinned=int(kept.get("pinned", 0)))
    except (ValueError, TypeError, AttributeError):
        return Columns()


def keep(settings: QSettings, name: str, columns: Columns) -> None:
    """Remembers it."""
    settings.setValue(f"columns/{name}", json.dumps(asdict(columns)))
