"""Importers: what takes in a file. Each knows its files, looks at one without changing anything, and reads it row by row."""

import csv
import io
import json
from abc import ABC, abstractmethod
from collections.abc import Iterator
from pathlib import Path

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UserError
from wily_magpie.core.exchange.sheet import MOST_COLUMNS, Sheet, guess_kinds, levelled
from wily_magpie.core.pages.charset import decode
from wily_magpie.core.places.atomic import read_bytes

LARGEST_BYTES, HEAD_CHARACTERS = 200_000_000, 4_000


@dataclass(frozen=True)
class Preview:
    """What a file would bring in.

    Attributes:
        kinds: of field, one a column; losses: what could not be taken as it stands, a sentence each.
    """

    sheet: Sheet
    kinds: tuple[str, ...]
    losses: tuple[str, ...]


class Importer(ABC):
    """Takes in files of one format.

    Attributes:
        name: stable; label: as people see it; patterns: of file names.
    """

    name: str
    label: str
    patterns: tuple[str, ...]

    def knows(self, name: str, head: str) -> bool:
        """Whether a file is of this format, by its name or the first of its text."""
        return any(Path(name.casefold()).match(pattern) for pattern in self.patterns) or self.sniff(head)

    @abstractmethod
    def sniff(self, head: str) -> bool:
        """Whether the first of a text looks like this format, whatever the file is called."""

    @abstractmethod
    def read(self, text: str, name: str) -> Sheet:
        """The table in a text.

        Raises:
            UserError: it is none.
        """

    def rows(self, text: str, name: str) -> Iterator[tuple[str, ...]]:
        """Its rows, one after another."""
        yield from self.read(text, name).rows

    def preview(self, text: str, name: str) -> Preview:
        """What it would bring in; nothing is changed."""
        sheet = self.read(text, name)
        return Preview(sheet, guess_kinds(sheet), sheet.faults)


class JsonImporter(Importer):
    """An array of objects, or an object a line; the keys are the columns."""

    name, label, patterns = "json", "JSON, JSON Lines", ("*.json", "*.jsonl", "*.ndjson")

    def sniff(self, head: str) -> bool:
        return head.lstrip()[:1] in ("[", "{")

    def read(self, text: str, name: str) -> Sheet:
        return from_json(text, name)


class DelimitedImporter(Importer):
    """Lines of cells, parted by tabs, semicolons or commas (RFC 4180); what is nothing else is tried as this."""

    name, label, patterns = "delimited", "CSV, TSV", ("*.csv", "*.tsv", "*.txt")

    def sniff(self, head: str) -> bool:
        return bool(head.strip())

    def read(self, text: str, name: str) -> Sheet:
        return from_text(text, name)


IMPORTERS: tuple[Importer, ...] = (JsonImporter(), DelimitedImporter())
"""All of them, in the order in which a file is offered to them."""


def preview(path: Path) -> Preview:
    """What a file would bring in, by the first importer that knows it.

    Raises:
        UserError: it is no table, or too large.
    """
    content = read_bytes(path)
    if content is None:
        raise UserError("no-file", f"There is no file {path}.", "Check its name and place.")
    if len(content) > LARGEST_BYTES:
        raise UserError("file-too-large", f"{path.name} is larger than 200 MB.", "Take it in parts.")
    text = decode(content, "").removeprefix("\ufeff")
    head = text[:HEAD_CHARACTERS]
    importer = next((one for one in IMPORTERS if one.knows(path.name, head)), IMPORTERS[-1])
    return importer.preview(text, path.name)


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
    if len(names) > MOST_COLUMNS:
        return levelled(names, [])  # which says that they are too many, before there is a row for each
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
