"""Exporters: entries as text for elsewhere. Each writes piece by piece, so that any number of entries can go out."""

import csv
import io
import json
from abc import ABC, abstractmethod
from collections.abc import Iterable, Iterator, Sequence
from itertools import islice

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.exchange import as_text
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.queries.reader import Reader

CONTRACT = ("id", "path", "place", "note", "body", "marks")
"""Keys of JSON that mean the same whatever fields a place has."""


MARKS_TOGETHER = 500


class Exporter(ABC):
    """Writes entries in one format.

    Attributes:
        name: stable, as the shell has it; label: as people see it; patterns: of file names.
    """

    name: str
    label: str
    patterns: tuple[str, ...]

    @abstractmethod
    def write(self, fields: Sequence[Field], entries: Iterable[Entry]) -> Iterator[str]:
        """The text, piece by piece."""


class JsonLines(Exporter):
    """An object a line, with all fields by their keys; blank ones are null."""

    name, label, patterns = "json", "JSON Lines", ("*.jsonl",)

    def write(self, fields: Sequence[Field], entries: Iterable[Entry]) -> Iterator[str]:
        for entry in entries:
            yield json.dumps(as_object(fields, entry), ensure_ascii=False) + "\n"


def with_marks(reader: Reader, place: PlaceInfo, entries: Iterable[Entry]) -> Iterator[str]:
    """The same as JSON Lines, each with the marks of its entry."""
    for some in batched(entries, MARKS_TOGETHER):
        marks = reader.entries.marks_of(place.key, [entry.id for entry in some])
        for entry in some:
            plain = {**as_object(place.fields, entry), "marks": [mark.to_plain() for mark in marks.get(entry.id, ())]}
            yield json.dumps(plain, ensure_ascii=False) + "\n"


def batched(entries: Iterable[Entry], size: int) -> Iterator[list[Entry]]:
    """Entries in lists of some size."""
    rest = iter(entries)
    while some := list(islice(rest, size)):
        yield some


def as_object(fields: Sequence[Field], entry: Entry) -> dict[str, object]:
    """An entry in plain terms; fields whose keys are words of ours stand apart, under "note"."""
    values = {field.key: field.kind.to_plain(entry.value(field.key)) for field in fields}
    hidden = {key: values.pop(key) for key in CONTRACT if key in values}
    own = {"id": entry.id, **({"path": entry.path} if entry.path else {}), **values}
    return {**own, **({"note": hidden} if hidden else {})}


class Csv(Exporter):
    """RFC 4180, with the keys as first row."""

    name, label, patterns = "csv", "CSV", ("*.csv",)

    def write(self, fields: Sequence[Field], entries: Iterable[Entry]) -> Iterator[str]:
        yield line(columns_of(fields))
        for entry in entries:
            yield line([str(entry.id), *(field.kind.show(entry.value(field.key)) for field in fields)])


def columns_of(fields: Sequence[Field]) -> list[str]:
    """The names of columns, no two the same: a key of front matter that another column has stands as "note.id"."""
    names = ["id"]
    for field in fields:
        name = field.key
        while name.casefold() in (one.casefold() for one in names):
            name = f"note.{name}"
        names.append(name)
    return names


def line(cells: Sequence[str]) -> str:
    """One row of CSV."""
    out = io.StringIO()
    csv.writer(out).writerow(cells)
    return out.getvalue()


class MarkdownTable(Exporter):
    """A table of GitHub's Markdown."""

    name, label, patterns = "markdown", "Markdown table", ("*.md",)

    def write(self, fields: Sequence[Field], entries: Iterable[Entry]) -> Iterator[str]:
        yield from as_text.markdown_lines(fields, entries)


class Citations(Exporter):
    """A line an entry that tells where it is from."""

    name, label, patterns = "citations", "citation lines", ("*.txt",)

    def write(self, fields: Sequence[Field], entries: Iterable[Entry]) -> Iterator[str]:
        for entry in entries:
            yield as_text.citation(fields, entry) + "\n"


EXPORTERS: dict[str, Exporter] = {one.name: one for one in (JsonLines(), Csv(), MarkdownTable(), Citations())}
"""All of them, by their names."""
