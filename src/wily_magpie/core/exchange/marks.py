"""Marks of entries for elsewhere: as Markdown, as JSON Lines, and as annotations of the W3C's Web Annotation Data Model."""

import json
import uuid
from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.mark import Mark, alternative_of, as_markdown
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.places.atomic import write_bytes
from wily_magpie.core.queries.reader import Reader

CHUNK = 500
OURS = uuid.UUID("5d8d3c39-6a29-4c3b-9f0e-3d1f2a7b9c55")
"""The name space of the identifiers of annotations: the same mark has the same one each time."""


@dataclass(frozen=True)
class MarkedEntry:
    """An entry with its marks.

    Attributes:
        address: of the page that it was kept from, or "".
    """

    place: str
    entry: Entry
    address: str
    marks: tuple[Mark, ...]


def marked(reader: Reader, place: PlaceInfo, ids: Sequence[int]) -> Iterator[MarkedEntry]:
    """Those of some entries that have marks, in their order."""
    main = place.main_address
    for start in range(0, len(ids), CHUNK):
        rows = reader.entries.rows(place.key, ids[start : start + CHUNK])
        marks = reader.entries.marks_of(place.key, [entry.id for entry in rows])
        for entry in rows:
            address = entry.value(main.key) if main is not None else None
            if marks.get(entry.id):
                yield MarkedEntry(place.name, entry, address if isinstance(address, str) else "", marks[entry.id])


def markdown(entries: Iterable[MarkedEntry]) -> Iterator[str]:
    """A heading an entry, with where it is from, and its marks as quotations with their comments."""
    for one in entries:
        title = " ".join(one.entry.title.split())
        where = f"[{alternative_of(title)}]({one.address})\n\n" if one.address else ""
        yield f"## {title}\n\n{where}{as_markdown(one.marks)}\n\n"


def json_lines(entries: Iterable[MarkedEntry]) -> Iterator[str]:
    """An object a mark."""
    for one in entries:
        head = {"place": one.place, "entry": one.entry.id, "title": one.entry.title, "address": one.address}
        path = {"path": one.entry.path} if one.entry.path else {}
        for mark in one.marks:
            yield json.dumps({**head, **path, **mark.to_plain()}, ensure_ascii=False) + "\n"


def annotations(entries: Iterable[MarkedEntry]) -> Iterator[str]:
    """An AnnotationPage of the W3C's Web Annotation Data Model (2017)."""
    head = '{\n"@context": "http://www.w3.org/ns/anno.jsonld",\n"type": "AnnotationPage",\n"items": [\n'
    is_first = True
    for one in entries:
        for mark in one.marks:
            yield head if is_first else ",\n"
            yield json.dumps(annotation(one, mark), ensure_ascii=False)
            is_first = False
    yield f"{head}]\n}}\n" if is_first else "\n]\n}\n"


def annotation(one: MarkedEntry, mark: Mark) -> dict[str, object]:
    """A mark as an annotation: what is marked, its kind as a tag, and the reader's comment."""
    source = one.address or f"urn:wily-magpie:{one.place}:{one.entry.path or one.entry.id}"
    bodies: list[dict[str, str]] = [{"type": "TextualBody", "value": mark.kind, "purpose": "tagging"}]
    if mark.comment:
        bodies.append({"type": "TextualBody", "value": mark.comment, "format": "text/plain", "purpose": "commenting"})
    quote = {"type": "TextQuoteSelector", "exact": mark.exact}
    quote |= {name: text for name, text in (("prefix", mark.prefix), ("suffix", mark.suffix)) if text}
    target: dict[str, object] = (
        {"source": mark.picture, "scope": source, "type": "Image"}
        if mark.picture
        else {"source": source, "selector": quote}
    )
    return {
        "id": f"urn:uuid:{uuid.uuid5(OURS, json.dumps([source, *mark.place], ensure_ascii=False))}",
        "type": "Annotation",
        "motivation": "commenting" if mark.comment else "highlighting",
        "body": bodies,
        "target": target,
    }


FORMATS: dict[str, tuple[str, str, Callable[[Iterable[MarkedEntry]], Iterator[str]]]] = {
    "markdown": ("Markdown", "*.md", markdown),
    "jsonl": ("JSON Lines", "*.jsonl", json_lines),
    "annotations": ("Web annotations (W3C)", "*.jsonld", annotations),
}
"""Label, file names and writer of each format."""


def write_file(reader: Reader, place: PlaceInfo, ids: Sequence[int], form: str, path: Path) -> int:
    """Writes the marks of some entries into a file; how many there are."""
    found = list(marked(reader, place, ids))
    write_bytes(path, "".join(FORMATS[form][2](found)).encode())
    return sum(len(one.marks) for one in found)
