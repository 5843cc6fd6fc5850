"""A collection kept in step with notes: what would have to be done on either side so that both say the same.

Each entry is a note, told by an id in its front matter. What only one side changed since both were the same goes to the other;
what both changed is put together where that can be, and else left as it is on both sides, and said.
"""

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import field
from typing import TYPE_CHECKING

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field, find_field
from wily_magpie.core.entries.living_list import Shown, parted, read_shown
from wily_magpie.core.entries.mark import Mark, as_markdown, bare
from wily_magpie.core.entries.mark_merging import MarkChange, put_together, read_quotations
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.fields import Value
from wily_magpie.core.fields.base import Plain
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.mirror_store import Twin
from wily_magpie.core.places.notes.disk import fill_path, today
from wily_magpie.core.places.notes.facts import ENTRY_KEY
from wily_magpie.core.places.notes.merging import merge
from wily_magpie.core.query.nodes import Question

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.folder import NotesFolder
    from wily_magpie.core.places.notes.note_file import NoteFile

MARKS = re.compile(
    r"\n*<!-- marks -->\n(?P<held>(?:(?!<!-- marks -->).)*?)\n<!-- end of marks(?: [0-9a-f]{8})? -->\n*\Z", re.DOTALL
)
MARKS_BEGIN = "<!-- marks -->"
USUAL_PATH = "{collection}/{title}"
MADE, TO_NOTE, TO_ENTRY, REMOVED, LEFT = "made", "to the note", "to the entry", "removed", "left"
ASKED, UNTOUCHED = "asked", "untouched"
"""Nothing is done on either side: until a person says what; because nothing can be."""
FROM_ENTRY, FROM_NOTE = "from the entry", "from the note"
"""What a person says of a note that lost what its entry has: it is written again, or the entry loses it, too."""


@dataclass(frozen=True)
class Pair:
    """What is to be done with an entry and its note.

    Attributes:
        what: of the kinds above, those that apply; none where only what is known of both changes.
        matter: what the note gets in its front matter, by key; text: the note's new text, None where it stays.
        values, body, marks: what the entry gets.
        twin: what both are then; None where there is nothing to be known any more.
        told: what could not be put together, in words.
    """

    entry: int
    path: str
    title: str
    what: Sequence[str]
    matter: Mapping[str, Plain] = field(default_factory=dict)
    text: str | None = None
    values: Mapping[str, Value] = field(default_factory=dict)
    body: str | None = None
    marks: Sequence[MarkChange] = ()
    twin: Twin | None = None
    told: Sequence[str] = ()


@dataclass(frozen=True)
class Side:
    """What one side says: values as texts by the keys of fields, the text, the marks as quotations."""

    values: Mapping[str, str]
    body: str
    marks: str


class Mirror:
    """Of one notes folder that is kept in step with a collection.

    Args:
        answer: what a person says of notes that are asked about: one of the two above, "" for nothing yet.

    Attributes:
        shown: its fields, with what they are called in the notes.
    """

    def __init__(
        self,
        library: Library,
        notes: "NotesFolder",
        collection: str,
        fields: str = "",
        path: str = "",
        answer: str = "",
    ) -> None:
        self.answer = answer
        self.library, self.notes, self.place = library, notes, library.place(collection)
        self.path = path or USUAL_PATH
        wanted = [read_shown(one) for one in parted(fields)]
        self.shown = [(self.field(one), one.name or one.key) for one in wanted] or usual_fields(self.place)

    def field(self, shown: Shown) -> Field:
        """A field that is named."""
        return find_field(self.place.fields, shown.key)

    def pairs(self, ids: Collection[int] | None = None) -> list[Pair]:
        """What is to be done with some entries, or all; those of which nothing is to be done are left out."""
        twins = self.library.mirrors.of(self.notes.key)
        every = set(self.place.listing(Question()).ids)
        wanted = sorted((every | twins.keys()) if ids is None else set(ids) & (every | twins.keys()))
        claims = self.claims()
        found: list[Pair | None] = []
        for number in wanted:
            twin, paths = twins.get(number), claims.get(number, [])
            there = twin.path if twin is not None and twin.path in paths else next(iter(paths), None)
            found.append(self.sound_pair(number, twin, there))
            found += [self.copied(number, str(there), path) for path in paths if path != there]
        return [one for one in found if one is not None]

    def sound_pair(self, number: int, twin: Twin | None, there: str | None) -> Pair | None:
        """What is to be done with one entry; where that cannot be told, why."""
        path = there or (twin.path if twin is not None else "")
        try:
            return self.pair(number, twin, there)
        except MagpieError as error:
            return Pair(number, path, path, (UNTOUCHED,), told=(f"{path}: {error}",))

    def claims(self) -> dict[int, list[str]]:
        """Where notes lie that say which entry they are, in the order of their paths; several where one was copied."""
        known = next((one for one in self.notes.fields if one.key == ENTRY_KEY), None)
        if known is None:
            return {}
        ids, (said,) = self.notes.rows_table.columns(Question(), [known])
        files = self.notes.index.files_of(list(ids))
        out: dict[int, list[str]] = {}
        for number, text in zip(ids, said, strict=True):
            place, _, entry = text.rpartition("/")
            if place == self.place.key and entry.isdigit():
                out.setdefault(int(entry), []).append(files[number][0])
        return {number: sorted(paths) for number, paths in out.items()}

    def copied(self, number: int, own: str, path: str) -> Pair:
        """A note that says it is an entry that another note is already: it was copied, and is left alone."""
        told = (
            f"{path} says that it is the same entry as {own}: it is left alone. "
            f"Take its line “{ENTRY_KEY}” out to make it a note of its own."
        )
        return Pair(number, path, path, (UNTOUCHED,), told=(told,))

    def entries_of(self, note_ids: Collection[int]) -> set[int]:
        """The entries whose notes these are, or were."""
        paths = {path for path, _ in self.notes.index.files_of(list(note_ids)).values()}
        known = {number for number, twin in self.library.mirrors.of(self.notes.key).items() if twin.path in paths}
        return known | {number for number, there in self.claims().items() if paths & set(there)}

    def pair(self, number: int, twin: Twin | None, there: str | None) -> Pair | None:
        """What is to be done with one entry."""
        entry = self.place.entry(number)
        path = there or (twin.path if twin is not None else "")
        note = self.notes.files.read(path) if path and (self.notes.path / path).exists() else None
        if entry is None:
            return self.gone(number, twin, path, note)
        ours = self.ours(entry)
        if note is None and twin is not None:
            return None if not twin.path else Pair(number, "", entry.title, (LEFT,), twin=Twin("", {}, "", ""))
        if note is None:
            return self.made(entry, ours)
        if note.fault:
            return (
                Pair(number, path, entry.title, (LEFT,), twin=twin, told=(f"{path}: {note.fault}",)) if twin else None
            )
        known = twin or Twin(path, ours.values, ours.body, ours.marks)
        told = self.lost(note, known, ours)
        if told and not self.answer:
            return Pair(number, path, entry.title, (ASKED,), told=(f"{path} {told}",))
        if told and self.answer == FROM_ENTRY:
            return self.written_again(entry, path, ours)
        return self.merged(entry, path, note, ours, known)

    def lost(self, note: "NoteFile", twin: Twin, ours: Side) -> str:
        """What a note lost that would blank its entry, as the end of a sentence; "" for nothing.

        An editor that failed, a full disk, a synchronisation that was cut: a short file is no wish.
        """
        if MARKS_BEGIN in ours.marks:
            return f"cannot hold its marks: one of them has the words {MARKS_BEGIN}."
        if not note.text.strip("\ufeff\r\n\t "):
            return "is empty now."
        if note.matter.get(ENTRY_KEY) is None:
            return f"does not say any more which entry it is: its line “{ENTRY_KEY}” is gone."
        if twin.body and ours.body and not parts_of(note.body)[0]:
            return "has no text any more."
        return ""

    def written_again(self, entry: Entry, path: str, ours: Side) -> Pair:
        """A note gets all that its entry says."""
        whole = with_marks(ours.body, ours.marks)
        twin = Twin(path, ours.values, ours.body, ours.marks)
        return Pair(entry.id, path, entry.title, (TO_NOTE,), self.matter_of(entry), whole, twin=twin)

    def matter_of(self, entry: Entry) -> dict[str, Plain]:
        """The front matter of an entry's note."""
        own: dict[str, Plain] = {ENTRY_KEY: f"{self.place.key}/{entry.id}"}
        return own | {name: one.kind.to_plain(entry.value(one.key)) for one, name in self.shown}

    def ours(self, entry: Entry) -> Side:
        """What an entry says."""
        values = {one.key: one.kind.show(entry.value(one.key)) for one, _ in self.shown}
        return Side(
            values,
            (entry.body or "").replace("\r\n", "\n").replace("\r", "\n").strip("\n"),
            as_markdown(self.marks_of(entry)),
        )

    def marks_of(self, entry: Entry) -> tuple[Mark, ...]:
        """The marks of an entry."""
        return self.library.marks.of(self.place.key, self.place.owner_of(entry.id))

    def made(self, entry: Entry, ours: Side) -> Pair:
        """A note that is made."""
        pattern = self.path.replace("{collection}", self.place.name)
        path = fill_path(pattern, entry.title, today())
        twin = Twin(path, ours.values, ours.body, ours.marks)
        return Pair(
            entry.id, path, entry.title, (MADE,), self.matter_of(entry), with_marks(ours.body, ours.marks), twin=twin
        )

    def gone(self, number: int, twin: Twin | None, path: str, note: "NoteFile | None") -> Pair | None:
        """The entry is gone: its note goes too, unless somebody wrote into it since."""
        if twin is None:
            return None
        if note is None or not path:
            return Pair(number, path, path, ())
        base = Side(twin.values, twin.body, twin.marks)
        same = self.theirs(note, base)[0]
        is_marked_so = read_quotations(same.marks) == read_quotations(twin.marks)
        if (same.values, same.body) == (twin.values, twin.body) and is_marked_so:
            return Pair(number, path, path, (REMOVED,))
        return Pair(
            number, path, path, (LEFT,), told=(f"The entry of {path} is gone; its note was changed since, and stays.",)
        )

    def theirs(self, note: "NoteFile", base: Side) -> tuple[Side, list[str], dict[str, Value]]:
        """What a note says; what of it cannot be read, in words; its values."""
        body, marks = parts_of(note.body)
        values: dict[str, str] = {}
        typed: dict[str, Value] = {}
        told = []
        for one, name in self.shown:
            try:
                typed[one.key] = one.kind.from_plain(note.matter.get(name))
                values[one.key] = one.kind.show(typed[one.key])
            except MagpieError as error:
                told.append(f"{name}: {error.message}")
                values[one.key] = base.values.get(one.key, "")
        return Side(values, body, base.marks if marks is None else marks), told, typed

    def merged(self, entry: Entry, path: str, note: "NoteFile", ours: Side, twin: Twin) -> Pair | None:
        """Both sides put together."""
        theirs, told, typed = self.theirs(note, Side(twin.values, twin.body, twin.marks))
        matter: dict[str, Plain] = {}
        if note.matter.get(ENTRY_KEY) is None:
            matter[ENTRY_KEY] = f"{self.place.key}/{entry.id}"
        values: dict[str, Value] = {}
        known: dict[str, str] = {}
        for one, name in self.shown:
            base, own, other = twin.values.get(one.key, ""), ours.values[one.key], theirs.values[one.key]
            known[one.key] = own
            if own == other:
                continue
            if one.key == "title" and not other:
                told.append(
                    f"{name} is blank in the note; the entry keeps “{own}”. Write one there, or the same again."
                )
                known[one.key] = base
            elif other == base:
                matter[name] = one.kind.to_plain(entry.value(one.key))
            elif own == base and one.is_writable:
                values[one.key], known[one.key] = typed[one.key], other
            else:
                told.append(f"{name} is “{own}” in the entry and “{other}” in the note.")
                known[one.key] = base
        text = merge(twin.body, ours.body, theirs.body) if ours.body != theirs.body else ours.body
        if text is None:
            told.append("The text was changed in the same lines on both sides; it stays as it is on either.")
        new_body = text if text is not None and text != ours.body else None
        marked = put_together(twin.marks, self.marks_of(entry), theirs.marks, bare(ours.body if text is None else text))
        told += marked.told
        marks = theirs.marks if marked.told else as_markdown(tuple(marked.marks))
        whole = None
        if text is not None and (text != theirs.body or marks_wanted(note.body, marks)):
            whole = with_marks(text, marks)
        marks_now = twin.marks if marked.told or text is None else marks  # not so yet where the note stays as it is
        twin_now = Twin(path, known, twin.body if text is None else text, marks_now)
        what = [
            *([TO_NOTE] if matter or whole is not None else []),
            *([TO_ENTRY] if values or new_body is not None or marked.changes else []),
        ]
        if not what and twin_now == twin and not told:
            return None
        return Pair(
            entry.id,
            path,
            entry.title,
            what or ([LEFT] if told else []),
            matter,
            whole,
            values,
            new_body,
            marked.changes,
            twin_now,
            told,
        )


def usual_fields(place: Place) -> list[tuple[Field, str]]:
    """All fields that a person sets and front matter can hold."""
    return [
        (one, one.key) for one in place.fields if one.key == "title" or (one.is_writable and not one.kind.holds_files)
    ]


def parts_of(body: str) -> tuple[str, str | None]:
    """The text of a note, and the marks that stand below it; None where they were taken out."""
    plain = body.replace("\r\n", "\n").replace("\r", "\n")
    found = MARKS.search(plain)
    if found is None:
        return plain.strip("\n"), None
    return plain[: found.start()].strip("\n"), found["held"].strip("\n")


def marks_wanted(body: str, marks: str) -> bool:
    """Whether a note says other marks than it is to have; how they are written there is left to who wrote them."""
    there = parts_of(body)[1]
    return bool(marks) if there is None else read_quotations(there) != read_quotations(marks)


def with_marks(text: str, marks: str) -> str:
    """A text with marks below it; where its own words look like these, marks stand below also where there are none."""
    if not marks and MARKS.search(text) is None:
        return text
    held = f"\n{marks}\n" if marks else ""
    return f"{text}\n\n{MARKS_BEGIN}\n{held}\n<!-- end of marks -->".lstrip("\n")
