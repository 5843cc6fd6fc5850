"""Commands that keep a collection in step with the notes of a folder."""

from collections.abc import Sequence
from dataclasses import field, replace

from wily_magpie.core.commands.command import UNWATCHED, Command, Progress, StepCommand
from wily_magpie.core.commands.marks import PutMark, RemoveMark
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.mark_merging import MarkChange
from wily_magpie.core.entries.step import BY_ITSELF
from wily_magpie.core.errors import BugError, FileChanging, MagpieError, UserError
from wily_magpie.core.faults import logger
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.mirror_store import Twin
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.queries.mirror import ASKED, LEFT, MADE, REMOVED, UNTOUCHED, Mirror, Pair

log = logger(__name__)


def mirror_of(library: Library, key: str, answer: str = "") -> Mirror | None:
    """What a notes folder is kept in step with; None for nothing."""
    notes = library.notes(key)
    said = notes.settings
    if not said.mirrors or library.find_place(said.mirrors) is None or notes.is_away:
        return None
    return Mirror(library, notes, said.mirrors, said.mirror_fields, said.mirror_path, answer)


@dataclass(frozen=True)
class KeepInStep(Command[Sequence[Pair]]):
    """Brings both sides in step; what was done, and what could not be put together.

    Attributes:
        ids: of entries; () for all.
        is_wanted: whether a person asked for it, so that it is his to undo.
        answer: what the person says of notes that lost what their entries have; see core.queries.mirror.
    """

    place: str
    ids: Sequence[int] = field(default_factory=tuple)
    is_wanted: bool = False
    answer: str = ""

    def label(self, library: Library) -> str:
        return f"Keep {library.place(self.place).name} in step"

    def perform(self, library: Library, progress: Progress) -> Sequence[Pair]:
        mirror = mirror_of(library, self.place, self.answer)
        if mirror is None:
            return ()
        pairs = mirror.pairs(self.ids or None)
        if any(not {ASKED, UNTOUCHED} & set(pair.what) for pair in pairs):
            with library.step(self.label(library), progress.close, origin="" if self.is_wanted else BY_ITSELF):
                for number, pair in enumerate(pairs):
                    progress.tick(number, len(pairs))
                    bring(library, mirror, pair)
        return pairs


@dataclass(frozen=True)
class MirrorInto(StepCommand[Sequence[Pair]]):
    """Keeps a collection in step with the notes of a folder from now on; "" for none: notes and entries stay as they are."""

    place: str
    collection: str
    fields: str = ""
    path: str = ""

    def label(self, library: Library) -> str:
        name = library.place(self.place).name
        if not self.collection:
            return f"Keep {name} in step with nothing"
        return f"Keep {library.place(self.collection).name} in step with {name}"

    def do(self, library: Library, progress: Progress) -> Sequence[Pair]:
        notes = library.notes(self.place)
        said = replace(notes.settings, mirrors=self.collection, mirror_fields=self.fields, mirror_path=self.path)
        library.change_place(self.place, said)
        return KeepInStep(self.place, is_wanted=True).perform(library, progress)


def bring(library: Library, mirror: Mirror, pair: Pair) -> None:
    """Does what is to be done with one entry and its note.

    Raises:
        MagpieError: it cannot be; the note is named.
    """
    try:
        done(library, mirror, pair)
    except FileChanging:  # the whole command is done once more
        raise
    except MagpieError as error:
        raise UserError(error.slug, f"{pair.path}: {error.message}", error.way_out) from error
    except Exception as error:
        log.exception("%s could not be kept in step", pair.path)
        raise BugError(
            "bug", f"{pair.path} could not be kept in step: {error!r}", "Please report it; nothing was changed."
        ) from error


def done(library: Library, mirror: Mirror, pair: Pair) -> None:
    """The same."""
    if {ASKED, UNTOUCHED} & set(pair.what):
        return
    notes, twin = mirror.notes, pair.twin
    if MADE in pair.what and twin is not None:
        made = notes.bring_back(pair.path, note_of(notes, pair).encode())
        twin = replace(twin, path=notes.index.path(made) or pair.path)
    elif REMOVED in pair.what:
        number = notes.index.id_of(pair.path)
        notes.remove([number] if number is not None else [])
    elif LEFT not in pair.what or pair.matter or pair.values or pair.marks:
        write(library, mirror, pair)
    keep_known(library, notes, pair.entry, twin)


def note_of(notes: NotesFolder, pair: Pair) -> str:
    """The text of a new note."""
    from wily_magpie.core.places.notes import note_file  # YAML is needed only where a file is written

    return note_file.compose(pair.matter, pair.text or "")


def write(library: Library, mirror: Mirror, pair: Pair) -> None:
    """Writes what each side gets from the other."""
    from wily_magpie.core.places.notes import note_file  # as above

    notes = mirror.notes
    if pair.matter or pair.text is not None:
        number = notes.index.id_of(pair.path) or notes.take_in(notes.path / pair.path)
        path, before, text = notes.whole_text(number)
        if pair.matter:
            text = note_file.set_values(note_file.parse(text), dict(pair.matter))
        if pair.text is not None:
            note = note_file.parse(text)
            head = text[: note.body_start]
            gap = note.newline if head.strip("\ufeff") else ""
            text = head + gap + pair.text.strip("\n").replace("\n", note.newline) + note.newline
        notes.rewrite(path, before, text)
    if pair.values or pair.body is not None:
        mirror.place.change(pair.entry, library.resolve(mirror.place, pair.values, pair.entry), pair.body)
    for change in pair.marks:
        mark(library, mirror, pair.entry, change)


def mark(library: Library, mirror: Mirror, entry_id: int, change: MarkChange) -> None:
    """Gives an entry a mark of its note, or takes one away that is gone there."""
    key = mirror.place.key
    if change.fresh is not None:
        PutMark(key, entry_id, change.fresh).do(library, UNWATCHED)
    elif change.old is not None:
        RemoveMark(key, entry_id, change.old).do(library, UNWATCHED)


def keep_known(library: Library, notes: NotesFolder, entry: int, twin: Twin | None) -> None:
    """Notes what both are now."""
    if twin is None:
        library.mirrors.drop(notes.key, entry)
    else:
        library.mirrors.put(notes.key, entry, twin)
