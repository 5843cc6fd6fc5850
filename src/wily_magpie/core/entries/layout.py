"""How a view, or a place without a view, is looked at: data of the view itself, recorded and undone with it."""

import json
from collections.abc import Sequence
from dataclasses import asdict, replace
from enum import StrEnum
from itertools import islice
from typing import Any

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields.base import FieldKind

NARROWEST, WIDEST = 3, 200
"""Of a column, in characters."""
NARROWEST_CARD_PX, WIDEST_CARD_PX = 140, 480
USUAL_SHOWN = 3


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
class Lane:
    """What a person has said of one lane; those of whom nothing is said stand where their option does.

    Attributes:
        name: its value; "" is that of blank ones.
        limit: how many entries should stand in it at most, which is only shown; 0: any number.
    """

    name: str
    limit: int = 0
    is_folded: bool = False


@dataclass(frozen=True)
class Layout:
    """See the module.

    Attributes:
        columns: in order; fields that are not among them follow in the order of the place.
        pinned: how many of the first columns shown stay when one scrolls sideways.
        shown: keys of the fields that stand on cards, in lanes and in a list besides the title; empty: the usual ones.
        cover: the key of the field whose picture is the cover; "": it is found by itself.
        card_px: how wide a card is.
        lane_by: the key of the field whose values are the lanes; "": the status, else the first that can be.
        lanes: those of which something is said, in the order of the person.
        by_hand: ids of entries that a person has put into an order; others follow in that of the question.
        symbol: the name of the icon that stands before the view in the list of places; "" for none.
        time_by, rows_by: of a time line, the keys of the field of its dates, and of that whose values are its rows.
    """

    kind: LayoutKind = LayoutKind.TABLE
    columns: tuple[Column, ...] = ()
    pinned: int = 0
    shown: tuple[str, ...] = ()
    cover: str = ""
    is_cover_left: bool = False
    card_px: int = 220
    lane_by: str = ""
    lanes: tuple[Lane, ...] = ()
    by_hand: tuple[int, ...] = ()
    time_by: str = ""
    rows_by: str = ""
    symbol: str = ""

    def shown_fields(self, fields: Sequence[Field]) -> list[Field]:
        """What stands on a card besides title and status."""
        known = {one.key: one for one in fields}
        said = [known[key] for key in self.shown if key in known]
        usual = (
            one for one in fields[1:] if one.kind.is_told and not one.kind.has_spine and not one.settings.is_hidden
        )
        return said or list(islice(usual, USUAL_SHOWN))

    def lane_field(self, fields: Sequence[Field]) -> Field | None:
        """The field whose values are the lanes; None where no field can be."""
        able = [one for one in fields if one.can_be_lanes]
        wanted = (self.lane_by, "status")
        return next((one for key in wanted for one in able if one.key == key), None) or next(iter(able), None)

    def time_field(self, fields: Sequence[Field]) -> Field | None:
        """The field of the dates of a time line: what is said, else that of publication, else the first; None where none is."""
        able = [one for one in fields if one.kind.is_dated and one.is_stored]
        wanted = (self.time_by, "published")
        return next((one for key in wanted for one in able if one.key == key), None) or next(iter(able), None)

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
    usual, whole = asdict(USUAL_LAYOUT), asdict(layout)
    whole["columns"] = [unusual(column, Column("")) for column in layout.columns]
    whole["lanes"] = [{**unusual(lane, Lane("")), "name": lane.name} for lane in layout.lanes]
    plain = {name: list(value) if isinstance(value, tuple) else value for name, value in whole.items()}
    return {
        name: str(value) if name == "kind" else value for name, value in plain.items() if value not in (usual[name], [])
    }


def unusual(one: Column | Lane, usual: Column | Lane) -> dict[str, Any]:
    """What of it is not as usual, by name."""
    there = asdict(usual)
    return {name: value for name, value in asdict(one).items() if name == "key" or value != there[name]}


def from_plain(raw: object) -> Layout:
    """From JSON; what is none, or what a later version may have added, is passed over."""
    if not isinstance(raw, dict):
        return USUAL_LAYOUT
    columns, lanes, pinned, width = (raw.get(name) for name in ("columns", "lanes", "pinned", "card_px"))
    read = tuple(map(read_column, columns)) if isinstance(columns, list) else ()
    known = {column.key: column for column in reversed(read) if column.key}
    said = {
        name: raw[name]
        for name in ("cover", "lane_by", "time_by", "rows_by", "symbol")
        if isinstance(raw.get(name), str)
    }
    return Layout(
        next((kind for kind in LayoutKind if kind == raw.get("kind")), LayoutKind.TABLE),
        tuple(reversed(known.values())),
        pinned if isinstance(pinned, int) and 0 <= pinned < WIDEST else 0,
        tuple(one for one in listed(raw, "shown") if isinstance(one, str)),
        is_cover_left=raw.get("is_cover_left") is True,
        card_px=min(max(width, NARROWEST_CARD_PX), WIDEST_CARD_PX) if isinstance(width, int) else USUAL_LAYOUT.card_px,
        lanes=tuple(lane for one in lanes if (lane := read_lane(one)) is not None) if isinstance(lanes, list) else (),
        by_hand=tuple(one for one in listed(raw, "by_hand") if isinstance(one, int)),
        **said,
    )


def listed(raw: dict[str, Any], name: str) -> list[Any]:
    """A list from JSON; an empty one where it is none."""
    value = raw.get(name)
    return value if isinstance(value, list) else []


def read_lane(raw: object) -> Lane | None:
    """One lane from JSON; None where it is none."""
    if not isinstance(raw, dict) or not isinstance(raw.get("name"), str):
        return None
    limit = raw.get("limit")
    return Lane(raw["name"], limit if isinstance(limit, int) and limit > 0 else 0, raw.get("is_folded") is True)


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
