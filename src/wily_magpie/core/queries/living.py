"""Living lists: where they are, what a note's text would be with all of them filled, which of them a change touches."""

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries import living_list, living_rows
from wily_magpie.core.entries.field import TITLE
from wily_magpie.core.entries.living_list import EVERYWHERE, ListForm, LivingList, lists_in
from wily_magpie.core.entries.step import Step
from wily_magpie.core.errors import BadQuery, MagpieError, UserError
from wily_magpie.core.events import Changed
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.atomic import read_bytes
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.notes.outline import Heading, outline
from wily_magpie.core.queries.living_answers import Answering, Known, field_called
from wily_magpie.core.query import cql
from wily_magpie.core.query.askable import CHANGED, HOLDINGS
from wily_magpie.core.query.nodes import And, AtLeast, Condition, Node, Not, Or, Words

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.folder import NotesFolder

FILLED, DIFFERENT, EDITED, FAULTY, OFF, STOPPED = "filled", "different", "edited", "faulty", "off", "stopped"
"""What a list is: as it should be; other rows than it should have; written into by hand; it cannot be filled; not kept filled
by itself; stopped, since its last filling was undone."""
LEAVE, BESIDE, OVER = "leave", "beside", "over"
"""What becomes of what was written into a list by hand: it stays, and the list too; it is kept below the list; it goes."""
ANY = "*"


@dataclass(frozen=True)
class ListState:
    """A list of a note, and how it is.

    Attributes:
        path: of the note. line: of its first comment in the note's text. told: what is to be said of it, or "".
        under: the heading that it stands below, or "".
    """

    path: str
    line: int
    said: str
    key: str
    state: str
    told: str = ""
    under: str = ""


@dataclass(frozen=True)
class FilledNote:
    """A note's file before and after all its lists are filled; the same where nothing is to be done."""

    path: str
    before: bytes
    after: bytes
    states: Sequence[ListState] = ()


@dataclass(frozen=True)
class Asked:
    """How lists are to be filled.

    Attributes:
        edits: what becomes of what was written into them by hand.
        is_wanted: whether a person asks for it, so that also those are filled that are stopped.
        is_each: whether those are meant, too, that are not to be kept filled.
    """

    edits: str = LEAVE
    is_wanted: bool = False
    is_each: bool = False


MOST_LISTS = 200
TOO_MANY = f"A note has no more than {MOST_LISTS} lists filled; this one is left as it is."
UNASKED = Asked()
"""By itself."""


class LivingQueries:
    """See the module."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self.answers: dict[tuple[str, str], frozenset[int]] = {}
        """All that answered, of lists over one place that are not too many, by their folder and first comment."""

    def notes_with_lists(self, place: str | None = None) -> dict[str, list[str]]:
        """The paths of notes with lists, by the keys of their folders."""
        return {
            notes.key: list(dict.fromkeys(path for path, _ in notes.index.lists()))
            for notes in self._library.notes_folders()
            if place in (None, notes.key) and not notes.is_away
        }

    def notes_asking(self, key: str) -> dict[str, list[str]]:
        """The paths of notes with a list over a place, by the keys of their folders."""
        return self.touched(Changed(Step(0, "", "", ""), False, {key: frozenset()}))

    def states(self, place: str, paths: Iterable[str]) -> list[ListState]:
        """How the lists of notes are."""
        return [one for path in paths for one in self.filled(place, path).states]

    def filled(self, place: str, path: str, asked: Asked = UNASKED, known: Known | None = None) -> FilledNote:
        """A note with its lists filled; nothing is written.

        Args:
            known: answers that were had just now, for several notes that ask the same.
        """
        notes = self._library.notes(place)
        before = read_bytes(notes.path / path)
        if before is None:
            return FilledNote(path, b"", b"")
        from wily_magpie.core.places.notes import note_file
        from wily_magpie.core.places.notes.encoding import decode, encode

        found = decode(before, notes.settings.other_encoding)
        if found.fault:
            return FilledNote(path, before, before)
        note = note_file.parse(found.text)
        filling = NoteFilling(self._library, notes, path, asked, {} if known is None else known)
        body = filling.all(note.body, note.newline)
        self.answers.update({(notes.key, said): ids for said, ids in filling.answers.items()})
        if body == note.body:
            return FilledNote(path, before, before, filling.states)
        return FilledNote(
            path, before, encode(found.text[: note.body_start] + body, found.encoding, path), filling.states
        )

    def preview(self, place: str, path: str, form: ListForm) -> str:
        """What a list would hold in a note; UserError where it cannot be filled."""
        notes = self._library.notes(place)
        return Answering(self._library, notes, path, {}).rows(form)

    def touched(self, change: Changed) -> dict[str, list[str]]:
        """The paths of notes whose lists a change may have made others, by the keys of their folders."""
        out: dict[str, list[str]] = {}
        for notes in self._library.notes_folders():
            if notes.is_away or not notes.settings.is_filled:
                continue
            seen: dict[str, bool] = {}
            lists = notes.index.lists()
            own = self.own_notes(notes, change)
            if own:
                out[notes.key] = [path for path, _ in lists if path in own]
            for path, said in lists:
                if said not in seen:
                    seen[said] = self.is_touched(notes, said, change)
                if seen[said]:
                    out.setdefault(notes.key, []).append(path)
        return {key: list(dict.fromkeys(paths)) for key, paths in out.items()}

    def own_notes(self, notes: "NotesFolder", change: Changed) -> frozenset[str]:
        """The notes themselves that a change was in: their lists may be others, or new."""
        if notes.key not in change.entries:
            return frozenset()
        ids = change.entries[notes.key]
        return frozenset(
            notes.index.paths() if not ids else (path for path, _ in notes.index.files_of(list(ids)).values())
        )

    def is_touched(self, notes: "NotesFolder", said: str, change: Changed) -> bool:
        """Whether a change may have made what a list holds another."""
        if not change.is_small:
            return True
        try:
            form = living_list.read_form(said)
        except ValueError:
            return False
        if not form.is_filled:
            return False
        if form.place == EVERYWHERE:
            return True
        place = self._library.find_place(form.place) if form.place else notes
        if place is None or place.key not in change.entries:
            return False
        fields = change.fields.get(place.key, frozenset())
        if "body" in fields or not change.entries[place.key] or not fields:
            return True  # of a note, it is not known which of its fields; of a new entry, all
        try:
            keys = needed(form, place)
            return (ANY in keys or bool(keys & fields)) and self.may_answer(notes, said, form, place, change)
        except MagpieError:
            return True  # its fault may be another one now

    def may_answer(self, notes: "NotesFolder", said: str, form: ListForm, place: Place, change: Changed) -> bool:
        """Whether an entry that changed is among those that answer a list, or was."""
        changed, before = change.entries[place.key], self.answers.get((notes.key, said))
        if before is None:
            return True
        return bool(before & changed) or place.rows_table.meets(cql.parse(form.question, place.askable), changed)


def needed(form: ListForm, place: Place) -> set[str]:
    """The keys of the fields of which a list shows or asks anything."""
    question = cql.parse(form.question, place.askable)
    keys = {field_called(place, one.key).key for one in form.shown}
    if form.shape == "cards":
        keys.add(ANY)  # of its picture, which can be any of many
    keys |= {one.field.key for one in question.sort} | {one.field.key for one in question.groups}
    if question.filter is not None:
        keys |= keys_of(question.filter)
    return keys | {TITLE.key}


def keys_of(node: Node) -> set[str]:
    """The fields of a filter; ANY where it could be any of them."""
    match node:
        case Words():
            return {ANY}
        case Condition(field) | AtLeast(field, _):
            known = field.through.key if field.through is not None else field.key
            return {ANY} if known in (HOLDINGS.key, CHANGED.key) or field.computed_sql else {known}
        case Not(part):
            return keys_of(part)
        case And(parts) | Or(parts):
            return set().union(*map(keys_of, parts))


class NoteFilling:
    """Fills the lists of a note.

    Attributes:
        states: how each of them is, as far as they were looked at.
    """

    def __init__(self, library: Library, notes: "NotesFolder", path: str, asked: Asked, known: Known) -> None:
        self.library, self.notes, self.path, self.asked = library, notes, path, asked
        self.answering = Answering(library, notes, path, known)
        self.stopped = library.list_stops.of(notes.key, path) if not asked.is_wanted else frozenset()
        self.states: list[ListState] = []
        self.headings: Sequence[Heading] = ()
        self.answers: dict[str, frozenset[int]] = {}

    def all(self, body: str, newline: str) -> str:
        """The text of the note with its lists filled."""
        lists = lists_in(body)
        self.headings = outline(body).headings if lists else ()
        for one in reversed(lists[MOST_LISTS:]):
            self.said(body, one, FAULTY, TOO_MANY)
        for one in reversed(lists[:MOST_LISTS]):  # from the end on, so that places before it stay right
            body = self.one(body, one, newline)
        self.states.reverse()
        return body

    def one(self, body: str, one: LivingList, newline: str) -> str:
        """The text with one list filled, or as it is where that may not be."""
        form, held = one.form, one.held(body)
        if one.close_end == one.end:
            return self.said(body, one, FAULTY, one.fault)
        is_off = not form.is_filled or (not self.notes.settings.is_filled and not self.asked.is_wanted)
        if is_off and not self.asked.is_each:
            return self.said(body, one, OFF, "It is not kept filled by itself.")
        if one.key in self.stopped:
            return self.said(body, one, STOPPED, "Its last filling was undone; it is filled again when you ask for it.")
        try:
            if one.fault:
                raise UserError("bad-list", one.fault, "Mend its first comment.")
            rows, fault = self.answering.rows(form), ""
            if self.answering.answered is not None:
                self.answers[one.said] = self.answering.answered
        except MagpieError as error:
            fault = told(error, form)
            rows = living_list.with_fault(held, fault)
        is_edited = one.is_edited(body) and held != rows
        if is_edited and fault:
            self.said(body, one, FAULTY, fault)
            return living_list.filled(body, one, rows, newline, is_own=False)
        if is_edited and self.asked.edits == LEAVE:
            return self.said(body, one, EDITED, "Somebody wrote into it by hand, so it is left as it is.")
        after = living_list.filled(body, one, rows, newline)
        if is_edited and self.asked.edits == BESIDE:
            after = kept_below(after, one, rows, held, newline)
        self.said(body, one, FAULTY if fault else FILLED if after == body else DIFFERENT, fault)
        return after

    def said(self, body: str, one: LivingList, state: str, told: str = "") -> str:
        """Notes how a list is."""
        under = next((head.text for head in reversed(self.headings) if head.start < one.start), "")
        self.states.append(ListState(self.path, one.line, one.said, one.key, state, told, under))
        return body


def kept_below(text: str, one: LivingList, rows: str, held: str, newline: str) -> str:
    """A text in which what was written into a list by hand stands below it."""
    close = text.index(living_list.end_comment(rows), one.start)
    end = text.index("-->", close) + 3
    below = f"\n\n*This stood in the list above:*\n\n{living_list.without_fault(held)}\n"
    return text[:end] + below.replace("\n", newline) + text[end:]


def told(error: MagpieError, form: ListForm) -> str:
    """What is wrong with a list's question, in Markdown, with where that is."""
    place = ""
    if isinstance(error, BadQuery):
        part = "where" if error.position <= len(form.where) else "sort or group"
        place = f" ({part}, sign {error.position + 1})" if part == "where" else f" ({part})"
    return living_rows.plain(f"{error.message}{place} {error.way_out}".strip())
