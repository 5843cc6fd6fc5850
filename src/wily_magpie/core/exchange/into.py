"""A table from a file into a place that is there: which column becomes which field, and which rows are there already."""

from collections.abc import Mapping, Sequence
from typing import Protocol

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.exchange.sheet import TITLE_NAMES, Sheet
from wily_magpie.core.pages.address import canonical
from wily_magpie.core.places.api import Listing, PlaceInfo
from wily_magpie.core.query.nodes import Question

LEFT_OUT = ""
ROWS_A_TIME = 2_000


class Entries(Protocol):
    """What is asked of the entries that are there."""

    def listing(self, place: str, question: Question) -> Listing:
        """The answer to a question."""

    def rows(self, place: str, ids: Sequence[int]) -> list[Entry]:
        """Entries without their bodies."""


@dataclass(frozen=True)
class Arrival:
    """What a table would bring into a place.

    Attributes:
        rows: of each new entry, its texts by field key.
        doubles: titles of rows that are there already, by their address or their title, or twice in the table.
    """

    rows: tuple[Mapping[str, str], ...]
    doubles: tuple[str, ...]


def matched(sheet: Sheet, place: PlaceInfo) -> list[str]:
    """The key of a field for each column, by its name; LEFT_OUT where no field is called so. Each field is taken once."""
    taken: set[str] = set()
    out = []
    for name in sheet.names:
        word = name.casefold().strip()
        found = next((one for one in place.fields if is_meant(one, word) and one.key not in taken), None)
        out.append(found.key if found is not None else LEFT_OUT)
        taken.add(out[-1])
    return out


def is_meant(field: Field, word: str) -> bool:
    """Whether a column of a name is this field."""
    if field.key == "title":
        return word in TITLE_NAMES
    return field.is_writable and not field.kind.holds_files and word in (field.key.casefold(), field.label.casefold())


def arrival(entries: Entries, place: PlaceInfo, sheet: Sheet, keys: Sequence[str]) -> Arrival:
    """What the rows would become.

    Args:
        keys: of each column's field; LEFT_OUT for those that are left out.
    """
    main = place.main_address
    titles, addresses = known(entries, place, main)
    rows, doubles = [], []
    for cells in sheet.rows:
        texts = {key: cell.strip() for key, cell in zip(keys, cells, strict=True) if key != LEFT_OUT and cell.strip()}
        if not texts:
            continue
        title = " ".join(texts.get("title", "").split())
        address = canonical(texts[main.key]) if main is not None and main.key in texts else ""
        is_there = address in addresses if address else title.casefold() in titles
        if is_there:
            doubles.append(title or texts.get(main.key if main is not None else "", ""))
            continue
        if address:
            addresses.add(address)
        if title:
            titles.add(title.casefold())
        rows.append(texts)
    return Arrival(tuple(rows), tuple(doubles))


def known(entries: Entries, place: PlaceInfo, main: Field | None) -> tuple[set[str], set[str]]:
    """The titles and the addresses that are there."""
    ids = entries.listing(place.key, Question()).ids
    titles, addresses = set[str](), set[str]()
    for at in range(0, len(ids), ROWS_A_TIME):
        for entry in entries.rows(place.key, ids[at : at + ROWS_A_TIME]):
            titles.add(entry.title.casefold())
            address = entry.value(main.key) if main is not None else None
            if isinstance(address, str):
                addresses.add(canonical(address))
    return titles, addresses - {""}
