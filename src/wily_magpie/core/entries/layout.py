"""How a view, or a place without a view, is looked at: data of the view itself, recorded and undone with it."""

import json
from collections.abc import Sequence
from dataclasses import asdict, replace
from enum import StrEnum
from typing import Any

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields.base import FieldKind

NARROWEST, WIDEST = 3, 200
"""Of a column, in characters."""


class LayoutKind(StrEnum):
    """What the entries are shown as."""

    TABLE = "table"
    CARDS = "cards"
    LANES = "lanes"
    LIST = "list"
    TIMELINE = "time line"


class Sum(StrEnum):
    """What stands at the foot of a column."""

    COUNT = "count"
    FILLED = "how many are filled"
    DISTINCT = "how many different"
    SUM = "sum"
    MEAN = "mean"
    LEAST = "least"
    GREATEST = "greatest"
    EARLIEST = "earliest"
    LATEST = "latest"

    def fits(self, kind: FieldKind) -> bool:
        """Whether it says something of values of a kind."""
        if self in (Sum.SUM, Sum.MEAN, Sum.LEAST, Sum.GREATEST):
            return kind.is_sized
        return kind.is_dated if self in (Sum.EARLIEST, Sum.LATEST) else True


@dataclass(frozen=True)
class Column:
    """How one field is shown.

    Attributes:
        name: its heading here; "" for the field's own label.
        width: in characters; 0: as its kind has it.
        is_shown: None: as the field itself says.
        sum: what stands at its foot, or None.
    """

    key: str
    name: str = ""
    width: int = 0
    is_shown: bool | None = None
    sum: Sum | None = None


@dataclass(frozen=True)
class Layout:
    """See the module.

    Attributes:
        columns: in order; fields that are not among them follow in the order of the place.
        pinned: how many of the first columns shown stay when one scrolls sideways.
    """

    kind: LayoutKind = LayoutKind.TABLE
    columns: tuple[Column, ...] = ()
    pinned: int = 0

    def column(self, key: str) -> Column:
        """How a field is shown."""
        return next((column for column in self.columns if column.key == key), Column(key))

    def is_shown(self, one: Field) -> bool:
        """Whether a field has a column: as the person said, else as its kind suggests."""
        said = self.column(one.key).is_shown
        if said is not None:
            return said
        return one.kind.is_short and not one.settings.is_hidden and not one.kind.is_of_rules

    def of(self, fields: Sequence[Field]) -> list[Field]:
        """The fields shown, in order."""
        known = {one.key: one for one in fields}
        named = [column.key for column in self.columns if column.key in known]
        rest = [one.key for one in fields if one.key not in named]
        return [known[key] for key in [*named, *rest] if self.is_shown(known[key])]

    def heading(self, one: Field) -> str:
        """What stands above a column."""
        return self.column(one.key).name or one.label

    def with_column(self, key: str, fields: Sequence[Field], **changes: Any) -> "Layout":
        """The same with one column changed; all fields have a place of their own from then on.

        Args:
            changes: by their names in Column.
        """
        whole = self.whole(fields)
        return replace(
            whole, columns=tuple(replace(one, **changes) if one.key == key else one for one in whole.columns)
        )

    def with_order(self, keys: Sequence[str], fields: Sequence[Field]) -> "Layout":
        """The same with the columns shown in another order; those that are not shown keep their places behind them."""
        by_key = {column.key: column for column in self.whole(fields).columns}
        rest = [key for key in by_key if key not in keys]
        return replace(self, columns=tuple(by_key[key] for key in [*keys, *rest] if key in by_key))

    def whole(self, fields: Sequence[Field]) -> "Layout":
        """The same with a column for every field."""
        there = {column.key for column in self.columns}
        return replace(self, columns=(*self.columns, *(Column(one.key) for one in fields if one.key not in there)))


USUAL_LAYOUT = Layout()


def to_plain(layout: Layout) -> dict[str, Any]:
    """In the terms of JSON; what is as usual is left out."""
    usual = asdict(Column(""))
    columns = [
        {name: value for name, value in asdict(column).items() if name == "key" or value != usual[name]}
        for column in layout.columns
    ]
    whole = {"kind": str(layout.kind), "columns": columns, "pinned": layout.pinned}
    return {name: value for name, value in whole.items() if value not in ([], 0) and (name, value) != ("kind", "table")}


def from_plain(raw: object) -> Layout:
    """From JSON; what is none, or what a later version may have added, is passed over."""
    if not isinstance(raw, dict):
        return USUAL_LAYOUT
    columns = raw.get("columns")
    read = tuple(map(read_column, columns)) if isinstance(columns, list) else ()
    pinned = raw.get("pinned")
    known = {column.key: column for column in reversed(read) if column.key}
    return Layout(
        next((kind for kind in LayoutKind if kind == raw.get("kind")), LayoutKind.TABLE),
        tuple(reversed(known.values())),
        pinned if isinstance(pinned, int) and 0 <= pinned < WIDEST else 0,
    )


def read_column(raw: object) -> Column:
    """One column from JSON; without a key where it is none."""
    if not isinstance(raw, dict) or not isinstance(raw.get("key"), str):
        return Column("")
    width, shown = raw.get("width"), raw.get("is_shown")
    return Column(
        raw["key"],
        str(raw.get("name") or "")[:WIDEST],
        min(max(width, NARROWEST), WIDEST) if isinstance(width, int) and width > 0 else 0,
        shown if isinstance(shown, bool) else None,
        next((one for one in Sum if one == raw.get("sum")), None),
    )


def read_layout(text: str) -> Layout:
    """From its text in the library."""
    try:
        return from_plain(json.loads(text))
    except ValueError:
        return USUAL_LAYOUT


def write_layout(layout: Layout) -> str:
    """Its text in the library."""
    return json.dumps(to_plain(layout), ensure_ascii=False)
