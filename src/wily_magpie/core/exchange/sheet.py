"""Tables of texts, whatever file they came from, and the kinds of field that their columns suggest."""

import re
from collections.abc import Sequence
from itertools import chain

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.fields import KINDS

GUESSED = ("yes/no", "number", "amount", "date", "address")
"""Tried in this order; a column is of the first kind that reads all its texts."""
MOST_OPTIONS, MOST_COLUMNS = 30, 500
MOSTLY = 0.8
"""The share of a column that must be dates; what the others say is kept as text, and told."""
TITLE_NAMES = ("title", "name", "titel", "titre", "título", "subject", "heading")


@dataclass(frozen=True)
class Sheet:
    """A table of texts.

    Attributes:
        names: of the columns, each different.
        rows: all as long as the names.
        faults: what was odd about the file, one sentence each.
    """

    names: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    faults: tuple[str, ...] = ()

    def column(self, number: int) -> list[str]:
        """The texts of a column that are not blank."""
        return [text for row in self.rows if (text := row[number].strip())]


def levelled(names: Sequence[str], rows: Sequence[Sequence[str]]) -> Sheet:
    """A sheet whose rows are all as long as its names; what was too long or nameless is told.

    Raises:
        UserError: it has more columns than a collection.
    """
    width = max([len(names), *map(len, rows)])
    if width > MOST_COLUMNS:
        raise UserError(
            "too-many-columns", f"The table has {width:,} columns, and {MOST_COLUMNS} at most are taken in.",
            "Leave out those that are not needed.",
        )  # fmt: skip
    faults = []
    if width > len(names):
        faults.append(
            f"{sum(len(row) > len(names) for row in rows)} rows have more cells than the first row has names."
        )
    out: list[str] = []
    taken: set[str] = set()
    for number in range(width):
        name = " ".join(names[number].split()) if number < len(names) else ""
        name = name or f"Column {number + 1}"
        numbered = (f"{name} {i}" for i in range(2, 10_000))
        out.append(next(one for one in chain([name], numbered) if one.casefold() not in taken))
        taken.add(out[-1].casefold())
    return Sheet(tuple(out), tuple((*row, *[""] * (width - len(row))) for row in rows), tuple(faults))


def guess_kinds(sheet: Sheet) -> tuple[str, ...]:
    """A kind for each column; "title" for the one that names the entries."""
    kinds = [guess_kind(name, sheet.column(number)) for number, name in enumerate(sheet.names)]
    named = [n for n, name in enumerate(sheet.names) if name.casefold() in TITLE_NAMES]
    texts = [n for n, kind in enumerate(kinds) if kind in ("text", "choice", "long text")]
    title = next(iter([*named, *texts]), 0)
    kinds[title] = "title"
    return tuple(kinds)


def guess_kind(name: str, texts: Sequence[str]) -> str:
    """The kind of field that a column's texts suggest."""
    if not texts:
        return "text"
    sample = texts[:2_000]
    for kind in GUESSED:
        if kind == "amount" and not any(re.search(r"[^\d\s.,'+-]", text) for text in sample):
            continue
        if (
            kind == "number"
            and re.search(r"\b(year|date|born|died|published)\b", name, re.IGNORECASE)
            and all(re.fullmatch(r"\d{4}", text) for text in sample)
        ):
            continue
        read = sum(is_read(kind, text) for text in sample)
        if read == len(sample) or (kind == "date" and read >= MOSTLY * len(sample) and read > 1):
            return kind  # a few "undated" make no other column of one of dates
    if re.search(r"\b(authors?|people|editors?|by|creators?)\b", name, re.IGNORECASE):
        return "people"
    if any("\n" in text or len(text) > 160 for text in sample):
        return "long text"
    parts = [part.strip() for text in sample for part in text.split(";")]
    if any(";" in text for text in sample) and len(set(parts)) <= max(MOST_OPTIONS, len(parts) // 3):
        return "choices"
    different = len(set(sample))
    return "choice" if different <= MOST_OPTIONS and different * 2 <= len(sample) else "text"


def is_read(kind: str, text: str) -> bool:
    """Whether a kind reads a text."""
    try:
        KINDS[kind].read(text)
    except UnreadableValue:
        return False
    return True
