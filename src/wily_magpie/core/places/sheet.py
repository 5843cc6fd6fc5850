"""Tables from files (CSV, TSV, JSON, JSON Lines): read as texts, with the kinds of field that they suggest."""

import csv
import io
import json
import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.fields import KINDS
from wily_magpie.core.pages.charset import decode
from wily_magpie.core.places.atomic import read_bytes

GUESSED = ("yes/no", "number", "amount", "date", "address")
"""Tried in this order; a column is of the first kind that reads all its texts."""
LARGEST_BYTES = 200_000_000
MOST_OPTIONS = 30
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


def read_sheet(path: Path) -> Sheet:
    """Reads such a file.

    Raises:
        UserError: it is no table, or too large.
    """
    content = read_bytes(path)
    if content is None:
        raise UserError("no-file", f"There is no file {path}.", "Check its name and place.")
    if len(content) > LARGEST_BYTES:
        raise UserError("file-too-large", f"{path.name} is larger than 200 MB.", "Take it in parts.")
    text = decode(content, "").removeprefix("\ufeff")
    if path.suffix.casefold() in (".json", ".jsonl", ".ndjson") or text.lstrip()[:1] in ("[", "{"):
        return from_json(text, path.name)
    return from_text(text, path.name)


def from_text(text: str, name: str = "The text") -> Sheet:
    """From lines of cells, parted by tabs, semicolons or commas (RFC 4180)."""
    first = text.lstrip("\n").split("\n", 1)[0]
    separator = max("\t;,", key=first.count)
    try:
        rows = [
            row for row in csv.reader(io.StringIO(text, newline=""), delimiter=separator) if any(map(str.strip, row))
        ]
    except csv.Error as error:
        raise UserError(
            "no-table", f"{name} is no table: {error}.", "Save it as CSV with a first row of names."
        ) from error
    if not rows:
        raise UserError("no-table", f"{name} holds nothing.", "It needs a first row of names.")
    return levelled(rows[0], rows[1:])


def from_json(text: str, name: str) -> Sheet:
    """From an array of objects, or an object a line; the keys are the columns."""
    try:
        loaded = json.loads(text)
        objects = loaded if isinstance(loaded, list) else [loaded]
    except (ValueError, RecursionError):
        try:
            objects = [json.loads(line) for line in text.splitlines() if line.strip()]
        except (ValueError, RecursionError) as error:
            raise UserError("no-table", f"{name} is not JSON: {error}.", "Mend it in a text editor.") from error
    if not objects or not all(isinstance(one, dict) for one in objects):
        raise UserError("no-table", f"{name} is no list of objects.", "It needs an array of objects, or one a line.")
    names = list(dict.fromkeys(key for one in objects for key in one))
    return levelled(names, [[as_text(one.get(key)) for key in names] for one in objects])


def as_text(value: object) -> str:
    """A value of JSON as a person would write it."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return "; ".join(map(as_text, value))
    return json.dumps(value, ensure_ascii=False) if isinstance(value, dict) else str(value)


def levelled(names: Sequence[str], rows: Sequence[Sequence[str]]) -> Sheet:
    """A sheet whose rows are all as long as its names; what was too long or nameless is told."""
    width = max([len(names), *map(len, rows)])
    faults = []
    if width > len(names):
        faults.append(
            f"{sum(len(row) > len(names) for row in rows)} rows have more cells than the first row has names."
        )
    out: list[str] = []
    for number in range(width):
        name = " ".join(names[number].split()) if number < len(names) else ""
        name = name or f"Column {number + 1}"
        taken = {one.casefold() for one in out}
        out.append(next(n for n in [name, *(f"{name} {i}" for i in range(2, 10_000))] if n.casefold() not in taken))
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
        if all(is_read(kind, text) for text in sample):
            return kind
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
