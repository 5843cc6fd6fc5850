"""Entries as text for elsewhere: cells, a Markdown table, a citation line; and cells from elsewhere."""

import csv
import io
from collections.abc import Iterable, Iterator, Sequence

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields.people import given_first

AUTHOR_KEYS, DATE_KEYS = ("authors", "people", "by", "makers"), ("published", "made", "date")
HOST_KEYS, PLACE_KEYS = ("journal", "site", "publisher"), ("volume", "issue", "pages")
MOST_NAMES = 3


def to_cells(rows: Sequence[Sequence[str]]) -> str:
    """Rows as spreadsheets take them from the clipboard: tabs between cells, quotes around what holds a tab or line end."""
    out = io.StringIO()
    csv.writer(out, dialect="excel-tab", lineterminator="\n").writerows(rows)
    return out.getvalue()


def from_cells(text: str) -> list[list[str]]:
    """Rows of cells as spreadsheets put them into the clipboard."""
    rows = list(
        csv.reader(io.StringIO(text.replace("\r\n", "\n").replace("\r", "\n"), newline=""), dialect="excel-tab")
    )
    while rows and not any(rows[-1]):
        rows.pop()
    return rows


def markdown_lines(fields: Sequence[Field], entries: Iterable[Entry]) -> Iterator[str]:
    """A table of GitHub's Markdown, line by line."""

    def cell(text: str) -> str:
        return " ".join(text.split()).replace("\\", "\\\\").replace("|", "\\|")

    yield "| " + " | ".join(cell(field.label) for field in fields) + " |\n"
    yield "|" + "|".join(" ---: " if field.kind.right_aligned else " --- " for field in fields) + "|\n"
    for entry in entries:
        yield "| " + " | ".join(cell(field.shown(entry.value(field.key))) for field in fields) + " |\n"


def citation(fields: Sequence[Field], entry: Entry) -> str:
    """A line that tells where something is from: people (date). Title. Journal 3 (2), 14–20. Address."""
    by_key = {field.key: field for field in fields}

    def first(keys: Sequence[str]) -> str:
        return next((by_key[key].shown(entry.value(key)) for key in keys if key in by_key and entry.value(key)), "")

    people = next((entry.value(key) for key in AUTHOR_KEYS if entry.value(key)), ())
    names = [people[0], *map(given_first, people[1:])] if isinstance(people, tuple) and people else []
    if len(names) > MOST_NAMES:
        names = [names[0], "others"]
    who = names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}" if names else ""
    when = first(DATE_KEYS)[:10]
    volume, issue, pages = (first([key]) for key in PLACE_KEYS)
    host = " ".join(filter(None, (first(HOST_KEYS), volume, f"({issue})" if issue else "")))
    doi = entry.value("doi")
    address = f"https://doi.org/{doi}" if isinstance(doi, str) else first(("address",))
    opening = f"{who} ({when})" if who and when else who or (f"({when})" if when else "")
    parts = [opening, entry.title, f"{host}, {pages}" if host and pages else host, address]
    return ". ".join(part.rstrip(".") for part in parts if part) + ("" if address else ".")
