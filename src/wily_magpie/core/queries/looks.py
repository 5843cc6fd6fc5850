"""What layouts show of entries besides their fields: covers, how texts begin, where they lie in time."""

import math
import mimetypes
import re
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field, find_field
from wily_magpie.core.entries.mark import bare
from wily_magpie.core.fields import Value
from wily_magpie.core.fields.date_span import span_of
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.places.api import Glimpse, Place
from wily_magpie.core.places.atomic import sha256_of
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.query.nodes import Question

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

LONGEST_WORDS = 240
SIGNS_A_MINUTE, IDEOGRAPHS_A_MINUTE = 1_400, 500
"""About 230 words of six signs; of scripts without spaces between words, signs."""
UNSPACED = re.compile("[\u0e00-\u0e7f\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af]")
PICTURE = re.compile(r"!\[[^\]]*\]\(\s*<?([^\s)>]+)|!\[\[([^\]|]+)")
Shrink = Callable[[bytes], bytes]
"""Makes a picture as small as it is shown; nothing where it is none."""


@dataclass(frozen=True)
class Cover:
    """What stands for an entry on a card.

    Attributes:
        picture: as small as it is shown; b"" where there is none, then the words stand there.
        is_icon: whether that is only the icon of its site.
        words: how its text begins.
    """

    picture: bytes = b""
    is_icon: bool = False
    words: str = ""


@dataclass(frozen=True)
class Beginning:
    """How a text begins, and how many minutes it takes to read; 0 where there is none."""

    words: str
    minutes: int


@dataclass(frozen=True)
class Spans:
    """Where entries lie in time.

    Attributes:
        ids: of the entries, those that begin first first.
        begins, ends: in years, as long as ids: 1926.0 to 1927.0.
        rows: the number of the row that each stands in, among names; "" is the name of the blank one.
    """

    ids: Sequence[int]
    begins: "NDArray[np.float64]"
    ends: "NDArray[np.float64]"
    rows: "NDArray[np.int32]"
    names: Sequence[str]


NO_SPAN = (math.nan, math.nan)
"""Of a date that is kept as text."""


class LookQueries:
    """See the module."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def covers(self, place: str, ids: Sequence[int], key: str, size_px: int, shrink: Shrink) -> dict[int, Cover]:
        """What stands for entries on cards. Nothing is asked of the web: only what is kept is shown.

        Args:
            key: of the field whose picture it is to be; "": a file, a picture field, the lead picture, the first of the text.
            size_px: how large it is shown, by which the small one is known again.
        """
        target = self._library.place(place)
        glimpses = target.rows_table.glimpses(ids)
        blank = Glimpse("", 0)
        return {
            entry.id: self.cover(target, entry, glimpses.get(entry.id, blank), key, size_px, shrink)
            for entry in target.rows(ids)
        }

    def cover(self, place: Place, entry: Entry, glimpse: Glimpse, key: str, size_px: int, shrink: Shrink) -> Cover:
        """What stands for one entry."""
        words = beginning_of(glimpse, entry.title).words or str(entry.value("description") or "")
        for find in self.candidates(place, entry, glimpse, key):
            found = find()
            small = self.small(found, size_px, shrink) if found is not None else b""
            if small:
                return Cover(small, words=words)
        icon = self.icon(entry) if not words and not key else None
        small = self.small(icon, size_px, shrink) if icon is not None else b""
        return Cover(small, bool(small), words)

    def candidates(
        self, place: Place, entry: Entry, glimpse: Glimpse, key: str
    ) -> list[Callable[[], "Path | bytes | None"]]:
        """Ways to a cover, the best first."""
        fields = [one for one in place.fields if not key or one.key == key]
        files = [one for field in fields if field.kind.holds_files for one in pictures_of(entry.value(field.key))]
        own = [
            str(entry.value(one.key))
            for one in fields
            if (one.key == "picture" or (key and one.kind.is_address)) and entry.value(one.key)
        ]
        found = PICTURE.search(glimpse.picture) if not key else None
        first = [(found[1] or found[2]).strip()] if found else []
        blobs = self._library.blobs
        return [
            *(lambda one=one: blobs.file_path(one) for one in files),
            *(lambda one=one: self.picture(one, entry) for one in (*own, *first)),
        ]

    def picture(self, address: str, entry: Entry) -> "Path | bytes | None":
        """A kept picture by its address; of a note also a file of its folder."""
        kept = self._library.blobs.picture_path(address)
        if kept is None and entry.path and "://" not in address:
            return self._library.notes(entry.place).file_beside(entry.path, address)
        return kept

    def icon(self, entry: Entry) -> "bytes | None":
        """The icon of the site that an entry came from."""
        address = entry.value("address")
        return self._library.blobs.icon(host_of(address)) if isinstance(address, str) else None

    def small(self, found: "Path | bytes", size_px: int, shrink: Shrink) -> bytes:
        """A picture made small, from the index where it was made before; b"" where it is no picture."""
        name = found.name if isinstance(found, Path) else sha256_of(found)
        kept = self._library.context.index_folder / "covers" / name[:2] / f"{name}-{size_px}"
        with suppress(OSError):
            return kept.read_bytes()
        try:
            small = shrink(found.read_bytes() if isinstance(found, Path) else found)
        except OSError:
            return b""
        with suppress(OSError):  # a library that may not be written to
            kept.parent.mkdir(parents=True, exist_ok=True)
            kept.write_bytes(small)
        return small

    def beginnings(self, place: str, ids: Sequence[int]) -> dict[int, Beginning]:
        """How texts begin, and how long they take to read."""
        found = self._library.place(place).rows_table.glimpses(ids)
        return {number: beginning_of(glimpse) for number, glimpse in found.items()}

    def spans(self, place: str, question: Question, key: str, rows_by: str = "") -> Spans:
        """Where the entries that answer a question lie in time; those that do not are left out.

        Args:
            key, rows_by: of the field of dates, and of that whose values are the rows; "" for one row.
        """
        import numpy as np  # loaded for a time line alone

        target = self._library.place(place)
        wanted = [find_field(target.fields, key), *([find_field(target.fields, rows_by)] if rows_by else [])]
        ids, (dates, *stored) = target.rows_table.columns(question, wanted)
        row_of, names = rows_named(target, wanted[1], stored[0]) if rows_by else ({}, [""])
        code_of = {text: code for code, text in enumerate(set(dates))}  # many entries share a date
        spans = np.array([span_of(text) or NO_SPAN for text in code_of], np.float64).reshape(-1, 2)
        ends = spans[np.fromiter(map(code_of.__getitem__, dates), np.int32, len(dates))]
        rows = np.zeros(len(ids), np.int32)
        if rows_by:
            rows = np.fromiter(map(row_of.__getitem__, stored[0]), np.int32, len(ids))
        known = ~np.isnan(ends[:, 0])
        numbers, begins, lasts, rows = np.asarray(ids, np.int64)[known], ends[known, 0], ends[known, 1], rows[known]
        order = np.lexsort((lasts, begins))
        return Spans(numbers[order].tolist(), begins[order], lasts[order], rows[order], names)


def rows_named(target: Place, field: Field, stored: Sequence[str]) -> tuple[dict[str, int], list[str]]:
    """The number of the row of each stored value, and the names of the rows: in the order of the field's options, then by name."""
    shown = {one: row_name(target, field.key, one) if one else "" for one in set(stored)}
    there = set(shown.values()) - {""}
    usual = [option.name for option in field.options if option.name in there]
    names = [*usual, *sorted(there - set(usual), key=str.casefold), ""]
    numbers = {name: number for number, name in enumerate(names)}
    return {one: numbers[name] for one, name in shown.items()}, names


def row_name(place: Place, key: str, stored: str) -> str:
    """The name of a row from its stored value; of several values the first."""
    kind = find_field(place.fields, key).kind
    value = kind.from_column(stored)
    return str(value[0]) if isinstance(value, tuple) and value else kind.show(value)


def first_picture(place: Place, entry: Entry, glimpse: Glimpse) -> str:
    """Where the picture of an entry is, as it is written there: of its own field, or the first of its text; "" for none."""
    own = entry.value("picture") if any(one.key == "picture" for one in place.fields) else None
    found = PICTURE.search(glimpse.picture)
    return str(own) if own else (found[1] or found[2]).strip() if found else ""


def pictures_of(value: Value) -> list[str]:
    """Those of the stored files of a field that are pictures."""
    files = value if isinstance(value, tuple) else ()
    return [one for one in files if (mimetypes.guess_type(one)[0] or "").startswith("image/")]


def beginning_of(glimpse: Glimpse, title: str = "") -> Beginning:
    """How a text begins, without its marks of Markdown, and without the title where it begins with that."""
    words = " ".join(bare(PICTURE.sub("", glimpse.text)).split())
    while title and words.startswith(title):
        words = words.removeprefix(title).lstrip(" .:–-")
    is_unspaced = len(UNSPACED.findall(words)) * 3 > len(words)
    pace = IDEOGRAPHS_A_MINUTE if is_unspaced else SIGNS_A_MINUTE
    minutes = max(1, round(glimpse.length / pace)) if words else 0
    cut = (
        words
        if len(words) <= LONGEST_WORDS
        else f"{words[:LONGEST_WORDS].rpartition(' ')[0] or words[:LONGEST_WORDS]} …"
    )
    return Beginning(cut, minutes)
