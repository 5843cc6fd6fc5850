"""An entry of a collection, or a note of a notes folder: the same shape for both."""

from collections.abc import Mapping
from dataclasses import field

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.fields import Value
from wily_magpie.core.fields.base import Plain


@dataclass(frozen=True)
class Entry:
    """What is kept in one row or one file.

    Attributes:
        place: key of its place.
        id: number within the library or the notes folder's index.
        title: its title, never blank.
        values: by field key, without the title; blank fields may be missing.
        body: Markdown; None where only the row was asked for.
        path: of a note, relative to its folder.
        fault: of a note, why its front matter cannot be read, or "".
    """

    place: str
    id: int
    title: str
    values: Mapping[str, Value]
    body: str | None = None
    path: str = ""
    fault: str = ""

    def value(self, key: str) -> Value:
        """The value of a field, the title included."""
        return self.title if key == "title" else self.values.get(key)


@dataclass(frozen=True)
class Draft:
    """An entry that is not kept yet."""

    title: str
    values: Mapping[str, Value] = field(default_factory=dict)
    body: str = ""
    canonical: str = ""
    """The canonical form of the page's address, by which it is recognised when it is met again."""
    path: str = ""
    """Of a note, where in its folder it is to be; "" as the folder has it."""
    folder: str = ""
    """Of a note, the folder that it is to lie in instead; "" for none."""
    matter: Mapping[str, Plain] = field(default_factory=dict)
    """Of a note, front matter by keys that the folder has no field of yet."""

    def in_folder(self, path: str) -> str:
        """Where a note of that path is to lie."""
        return f"{self.folder}/{path.rpartition('/')[2]}" if self.folder else path


def short(title: str, most: int = 48) -> str:
    """A title that fits into a menu."""
    return title if len(title) <= most else title[: most - 1].rstrip() + "…"


def with_files(entry: Entry | None, fresh: Mapping[str, tuple[str, ...]]) -> dict[str, Value]:
    """Files put behind those that an entry has already."""
    out: dict[str, Value] = {}
    for key, files in fresh.items():
        there = entry.value(key) if entry is not None else None
        out[key] = tuple(dict.fromkeys((*(there if isinstance(there, tuple) else ()), *files)))
    return out
