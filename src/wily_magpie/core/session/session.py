"""The session: one open library, and everything that an interface may ask of it or have it do."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.entries.entry import Draft, Entry, short
from wily_magpie.core.entries.field import Field, find_field
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places.api import Listing, Place
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question, Words
from wily_magpie.core.session.arranging import Arranging
from wily_magpie.core.session.capturing import Capturing
from wily_magpie.core.session.dropping import Dropping
from wily_magpie.core.session.events import (
    EntriesChanged,
    Event,
    HistoryChanged,
    JobChanged,
    PlacesChanged,
    TemplatesChanged,
)
from wily_magpie.core.session.exchange import Exchange
from wily_magpie.core.session.field_uses import FieldUses
from wily_magpie.core.session.jobs import Job, Jobs
from wily_magpie.core.session.marking import Marking
from wily_magpie.core.session.noting import Noting
from wily_magpie.core.session.seed import seed
from wily_magpie.core.session.templating import Templating
from wily_magpie.core.templates.open_form import from_json
from wily_magpie.core.templates.template import Template

if TYPE_CHECKING:
    from wily_magpie.core.places.entry_history import Event as EntryEvent
    from wily_magpie.core.places.library.keeping_safe import Fault


class Session:
    """Reading may be done from any thread; changes publish events on the thread that makes them.

    Args:
        folder: the library's; made where there is none.
        seed: puts what a new library begins with into it.
        is_read_only: only looks.
    """

    def __init__(
        self,
        folder: Path,
        fetcher: Fetcher,
        seed: Callable[[Library], None] = seed,
        *,
        is_read_only: bool = False,
    ) -> None:
        self.library = Library(folder, is_read_only=is_read_only)
        self.fetcher = fetcher
        self.listeners: list[Callable[[Event], None]] = []
        self.jobs = Jobs(lambda number: self.publish(JobChanged(number)))
        self.capturing = Capturing(self)
        self.arranging = Arranging(self)
        self.noting = Noting(self)
        self.dropping = Dropping(self)
        self.templating = Templating(self)
        self.exchange = Exchange(self)
        self.marking = Marking(self)
        self.field_uses = FieldUses(self)
        if self.library.is_new:
            seed(self.library)

    def check(self, job: Job | None = None) -> "list[Fault]":
        """What is wrong with the library; takes its time."""
        from wily_magpie.core.places.library.keeping_safe import check  # what is not needed at start is loaded later

        return list(check(self.library, job.step if job else None))

    def back_up(self, to: Path, job: Job | None = None) -> int:
        """BlobStore the library into a folder and checks the copy; how many files it has."""
        from wily_magpie.core.places.library.keeping_safe import back_up  # as above

        return back_up(self.library, to, job.step if job else None)

    def close(self) -> None:
        """Stops the jobs and closes the library."""
        self.jobs.close()
        self.library.close()

    def subscribe(self, listener: Callable[[Event], None]) -> None:
        """Has every later event told to a function, on whichever thread it happens."""
        self.listeners.append(listener)

    def publish(self, *events: Event) -> None:
        """Tells events."""
        for event in events:
            for listener in self.listeners:
                listener(event)

    # asking

    def places(self) -> list[Place]:
        """Collections, then notes folders."""
        return self.library.places()

    def place(self, name: str) -> Place:
        """The place of that key or name; UserError where there is none."""
        return self.library.place(name)

    def is_notes(self, place: str) -> bool:
        """Whether a place is a notes folder."""
        return place.startswith("notes:")

    def views(self, place: str | None = None) -> list[View]:
        """The views of a place, or all."""
        return self.library.views(place)

    def question(self, place: str, text: str) -> Question:
        """A written question, understood for a place; BadQuery where it has a fault."""
        return cql.parse(text, self.place(place).fields)

    def listing(self, place: str, question: Question) -> Listing:
        """The answer to a question."""
        return self.place(place).listing(question)

    def search(self, words: str, most: int = 200) -> list[Entry]:
        """Entries of all places in which all the words stand; those with them in the title first."""
        found: list[Entry] = []
        for place in self.places():
            ids = place.listing(Question(Words(words))).ids
            found += place.rows(list(ids[-most:])[::-1])
        folded = [word.casefold() for word in words.split()]
        found.sort(key=lambda entry: not all(word in entry.title.casefold() for word in folded))
        return found[:most]

    def refresh_notes(self, key: str | None = None, job: Job | None = None) -> int:
        """Brings the index of notes folders in step with their files; how many files had changed."""
        changed = 0
        for notes in self.library.notes_folders():
            if key in (None, notes.key):
                count = notes.refresh(job.step if job else None)
                changed += count
                if count:
                    self.publish(EntriesChanged(notes.key))
        return changed

    def templates(self) -> list[Template]:
        """The templates in the order in which they are tried."""
        return [from_json(text) for _, text in self.library.templates.texts()]

    def template_names(self) -> list[str]:
        """Their names alone, in that order."""
        return [name for name, _ in self.library.templates.texts()]

    def template(self, name: str) -> Template:
        """The template of that name; UserError where there is none."""
        templates = self.templates()
        for template in templates:
            if template.name.casefold() == name.casefold():
                return template
        there = ", ".join(template.name for template in templates)
        raise UserError("unknown-template", f"There is no template “{name}”.", f"There are: {there}.")

    def icon_of(self, entry: Entry) -> bytes | None:
        """The icon of the site that an entry came from, where it was kept."""
        address = entry.value("address")
        return self.library.blobs.icon(host_of(address)) if isinstance(address, str) else None

    def picture(self, address: str, beside: Entry | None = None) -> bytes | None:
        """A kept picture by its address; of a note also a file of its folder, by its path from the note on."""
        kept = self.library.blobs.picture(address)
        if kept is None and beside is not None and beside.path and "://" not in address:
            place = self.place(beside.place)
            if isinstance(place, NotesFolder):
                return place.file_beside(beside.path, address)
        return kept

    # changing

    def add_entry(self, place: str, title: str, values: Mapping[str, Value] | None = None) -> int:
        """A new entry made by hand."""
        target = self.place(place)
        with self.library.step(f"New entry “{short(title)}”"):
            wanted = self.library.resolve(target, {**self.library.defaults(target), **(values or {})})
            entry_id = target.add(Draft(title, wanted))
        self.changed(target, entry_id)
        return entry_id

    def set_text(self, place: str, ids: Sequence[int], key: str, text: str) -> str:
        """Sets a field of entries to what a person wrote, as one step; a warning, or "".

        Raises:
            UnreadableValue: it is no value of the field's kind.
        """
        target = self.place(place)
        field = find_field(target.fields, key)
        value, warning = typed(target, field, text)
        self.set_values(target.key, {entry_id: {field.key: value} for entry_id in ids}, f"Change {field.label.lower()}")
        return warning

    def set_values(self, place: str, changes: Mapping[int, Mapping[str, Value]], label: str) -> None:
        """Sets fields of entries, each its own, as one step."""
        target = self.place(place)
        ids = list(changes)
        of = f"of {len(ids)} entries" if len(ids) > 1 else f"of “{short(self.title_of(target, ids[0]))}”"
        with self.library.step(f"{label} {of}"):
            same = next(iter(changes.values()))
            if isinstance(target, Collection) and len(ids) > 1 and all(one == same for one in changes.values()):
                target.change_all(ids, self.library.resolve(target, same))
            else:
                for entry_id, values in changes.items():
                    target.change(entry_id, self.library.resolve(target, values, entry_id))
        self.changed(target, *ids)

    def set_texts(
        self, place: str, changes: Sequence[tuple[int | None, Mapping[str, str]]], label: str
    ) -> tuple[list[int], list[str]]:
        """Sets many cells to what a person wrote, as one step: (the entries, what a person should know).

        What cannot be read is left as it was, and told.

        Args:
            changes: (entry id or None for a new entry, text by field key).
        """
        target = self.place(place)
        fields = {field.key: field for field in target.fields}
        told: list[str] = []
        ids: list[int] = []
        with self.library.step(label):
            for entry_id, texts in changes:
                values: dict[str, Value] = {}
                for key, text in texts.items():
                    try:
                        values[key], warning = typed(target, fields[key], text)
                        told += [warning] if warning else []
                    except UserError as error:
                        told.append(error.message)
                if entry_id is None:
                    wanted = {**self.library.defaults(target), **values}
                    title = str(wanted.pop("title", None) or "New entry")
                    ids.append(target.add(Draft(title, self.library.resolve(target, wanted))))
                else:
                    target.change(entry_id, self.library.resolve(target, values, entry_id))
                    ids.append(entry_id)
        self.changed(target, *ids)
        return ids, told

    def set_body(self, place: str, entry_id: int, body: str, opened: str | None = None) -> str:
        """Sets the text of an entry; what a person should know of it, or "".

        Args:
            opened: what the text was when it was opened, so that what another program wrote meanwhile is not lost.
        """
        target = self.place(place)
        said = ""
        with self.library.step(f"Change the text of “{short(self.title_of(target, entry_id))}”"):
            if isinstance(target, NotesFolder) and opened is not None:
                said = target.change_body(entry_id, body, opened)
            else:
                target.change(entry_id, {}, body)
        self.changed(target, entry_id)
        return said

    def remove_entries(self, place: str, ids: Sequence[int]) -> None:
        """Takes entries out; undo brings them back."""
        target = self.place(place)
        what = f"{len(ids)} entries" if len(ids) > 1 else f"“{short(self.title_of(target, ids[0]))}”"
        with self.library.step(f"Delete {what}"):
            target.remove(ids)
        self.changed(target, *ids)

    def history_of(self, place: str, entry_id: int) -> "list[EntryEvent]":
        """What happened to an entry, the latest first; takes its time."""
        from wily_magpie.core.places.entry_history import history_of  # as above

        return history_of(self.library.history, self.place(place), entry_id)

    def bring_back_state(self, place: str, entry_id: int, event: "EntryEvent") -> None:
        """Makes an entry what it was before an event."""
        target = self.place(place)
        title = short(self.title_of(target, entry_id))
        with self.library.step(f"Bring back “{title}” as it was before {event.at[:16].replace('T', ' ')}"):
            known = [field.key for field in target.fields if field.is_writable]
            is_whole = isinstance(target, Collection)  # of a note, only what its own keys were is known
            wanted = {key: event.values.get(key) for key in known if is_whole or key in event.values}
            target.change(entry_id, self.library.resolve(target, wanted), event.body)
        self.changed(target, entry_id)

    def keep_view(self, place: str, name: str, question: Question, view_id: int | None = None) -> int:
        """Keeps a question as a view, or changes the view of that id; its id."""
        with self.library.step(f"Keep view “{name}”"):
            number = self.library.keep_view(place, name, cql.write(question), view_id)
        self.publish(PlacesChanged(), HistoryChanged())
        return number

    def rename_view(self, view: View, name: str) -> None:
        """Gives a view another name."""
        with self.library.step(f"Rename view “{view.name}”"):
            self.library.keep_view(view.place, name, view.question, view.id)
        self.publish(PlacesChanged(), HistoryChanged())

    def delete_view(self, view: View) -> None:
        """Takes a view out; the entries stay."""
        with self.library.step(f"Delete view “{view.name}”"):
            self.library.delete_view(view.id)
        self.publish(PlacesChanged(), HistoryChanged())

    def add_notes_folder(self, path: Path) -> Place:
        """Takes a folder of Markdown files in as it is."""
        path = path.expanduser().absolute()
        if not path.is_dir():
            raise UserError("notes-gone", f"{path} is not a folder.", "Choose one that is there.")
        if any(Path(notes.path) == path for notes in self.library.notes_folders()):
            raise UserError(
                "notes-known", f"{path} is a notes folder of this library already.", "It stands among the places."
            )
        notes = self.library.add_notes_folder(path.name or str(path), path, ())
        self.publish(PlacesChanged(), HistoryChanged())
        return notes

    # undo

    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self.library.history.undo_label()

    def redo_label(self) -> str | None:
        """What redo would do again."""
        return self.library.history.redo_label()

    def undo(self) -> str | None:
        """Takes the last step back; its label."""
        return self.after_move(self.library.history.undo())

    def redo(self) -> str | None:
        """Does the step undone last again; its label."""
        return self.after_move(self.library.history.redo())

    def after_move(self, moved: tuple[str, list[Path]] | None) -> str | None:
        """Tells everybody that anything may have changed."""
        if moved is None:
            return None
        label, files = moved
        if files:
            self.refresh_notes()
        entries = [EntriesChanged(place.key) for place in self.places()]
        self.publish(PlacesChanged(), TemplatesChanged(), *entries, HistoryChanged())
        return label

    # within

    def changed(self, before: Place, *ids: int) -> None:
        """Tells that entries of a place changed; of places that refer to these, any may show something else now.

        Args:
            before: the place as it was asked for before the change, which may have given its fields new options.
        """
        fields = self.place(before.key).fields
        if fields != before.fields:
            self.publish(PlacesChanged())
        others = {field.settings.target for field in fields if field.kind.name == "reference"} - {before.key}
        self.publish(EntriesChanged(before.key, ids), *(EntriesChanged(one) for one in others), HistoryChanged())

    @staticmethod
    def title_of(place: Place, entry_id: int) -> str:
        found = place.rows([entry_id])
        if not found:
            raise UserError("entry-gone", "This entry is no longer there.", "Undo may bring it back.")
        return found[0].title


def typed(place: Place, field: Field, text: str) -> tuple[Value, str]:
    """The value of what a person typed into a field, and a warning or "".

    Raises:
        UnreadableValue: it is none; the field is named.
        UserError: the field cannot be written, or a title would be blank.
    """
    if not field.is_writable:
        raise UserError("worked-out", f"{field.label} is worked out from other fields.", "Change those instead.")
    if field.key == "title" and place.settings.title_pattern:
        raise UserError(
            "title-made", "Titles are made from other fields here.", "Change those, or the title's pattern."
        )
    try:
        value, warning = field.kind.take(text)
    except UnreadableValue as error:
        raise UnreadableValue(error.slug, f"{field.label}: {error.message}", error.way_out) from error
    if field.key == "title" and value is None:
        raise UserError("no-title", "A title cannot be blank.", "Write one.")
    return value, warning
