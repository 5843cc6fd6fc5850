"""Commands that keep what was captured: slips, addresses for later, pictures."""

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import field, replace
from urllib.parse import unquote, urlsplit

from wily_magpie.core.commands.command import Command, Progress
from wily_magpie.core.commands.files import planned_files
from wily_magpie.core.commands.notes import begin_page
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Draft, Entry, short, with_files
from wily_magpie.core.entries.file_name import safe_name
from wily_magpie.core.entries.kept import KeepAs, Kept
from wily_magpie.core.entries.mark import alternative_of
from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.events import DraftsChanged, Event, ListsChanged, PicturesKept
from wily_magpie.core.fields import Value
from wily_magpie.core.pages.address import canonical, host_of
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.library import schema_changes
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.schema_changes import PlannedField
from wily_magpie.core.places.table import now
from wily_magpie.core.queries.filing import FilingQueries
from wily_magpie.core.queries.place_plans import plan_for
from wily_magpie.core.queries.slips import new_fields, played
from wily_magpie.core.templates.rules import SCREENSHOT
from wily_magpie.core.templates.slip import Slip, habit_of, in_order
from wily_magpie.core.templates.update import ChosenUpdate

SCREENSHOT_NAME = "what was visible.png"


@dataclass(frozen=True)
class KeepSlip(Command[Kept]):
    """Keeps a slip: as a new entry, or in the entry that is already kept from its page.

    Attributes:
        update: of a slip that is kept as an update, the changes that are made besides what the person did on it.
        is_seen: whether a person kept it; else a draft that somebody began on the same page goes on to wait.
        is_second: whether it is to be kept beside an entry that is there already.
    """

    slip: Slip
    keep_as: KeepAs = KeepAs.NEW
    update: ChosenUpdate | None = None
    is_seen: bool = True
    is_second: bool = False

    def label(self, _library: Library) -> str:
        words = {KeepAs.NEW: "Keep", KeepAs.ADDITION: "Add to", KeepAs.UPDATE: "Update"}
        return f"{words[self.keep_as]} “{short(self.slip.draft().title)}”"

    def perform(self, library: Library, progress: Progress) -> Kept:
        planned = planned_fields(library, library.place(self.slip.place), self.slip.new_keys)
        with library.step(self.label(library), progress.close):
            kept = self.do(library, planned)
        kept = replace(kept, step=library.history.noted)
        if self.keep_as is KeepAs.NEW and kept.status == "kept":
            with suppress(MagpieError):  # what is learned can be learned again
                FilingQueries(library).learn(self.slip, library.place(kept.place), kept.entry_id)
        return kept

    def do(self, library: Library, planned: Sequence[PlannedField]) -> Kept:
        """Changes the library, within the step.

        Args:
            planned: the fields that the collection gets.
        """
        slip, place = self.slip, library.place(self.slip.place)
        there = self.kept_meanwhile(place)
        if there is not None:
            return Kept(place.key, place.name, there.id, there.title, "known")
        for one in planned:
            schema_changes.add_field(library, one)
        place = library.place(self.slip.place)
        if self.is_seen:
            library.drafts.remove(slip.reading.page.address)
        if slip.is_place_chosen:
            usual = place.key if slip.template.writes not in (place.key, place.name) else None
            if habit := habit_of(slip.reading):
                library.settings.set(habit, usual)
        place.make_notes(slip.notes)
        entry_id, status = self.written(library, place)
        if slip.reading.page.html and self.keep_as is not KeepAs.ADDITION:
            library.blobs.keep_page(place, entry_id, slip.reading.page, slip.reading.canonical)
        for number, shot in enumerate(slip.shots, 1):
            place.attach(
                entry_id, None, [(f"{safe_name(slip.title)}, seen {number}.png", shot, slip.reading.page.address)]
            )
        owner = place.owner_of(entry_id)
        for mark in slip.removed if self.keep_as is not KeepAs.NEW else ():
            library.marks.remove(place.key, owner, mark)
        if slip.marks:
            library.marks.put(place.key, owner, slip.marks, in_order(slip.reading.content))
        return Kept(place.key, place.name, entry_id, slip.title, status)

    def kept_meanwhile(self, place: Place) -> Entry | None:
        """The entry that somebody else has kept from the page since the slip was filled.

        Raises:
            UserError: there is one, and a person is there to say what is to become of it.
        """
        way = self.slip.template.way
        is_part = way is not None and place.dry_run(way) is not None  # a line of a running note is no entry
        if is_part or self.keep_as is not KeepAs.NEW or self.is_second or self.slip.known is not None:
            return None
        address = self.slip.reading.canonical
        there = place.known(address) if address else None
        if there is not None and self.is_seen:
            raise UserError(
                "kept-already",
                f"“{short(there.title)}” was kept in {place.name} meanwhile, from the same page.",
                "Say below what is to become of your slip; nothing of it is lost.",
            )
        return there

    def tells(self) -> tuple[Event, ...]:
        return (DraftsChanged(),)

    def written(self, library: Library, place: Place) -> tuple[int, str]:
        """Writes it where it belongs: the number of the entry, and what was done."""
        slip, way = self.slip, self.slip.template.way
        if way is not None and place.dry_run(way) is not None:
            if not way.note:
                begin_page(library.notes(place.key))
            return place.write_into(way, self.as_part()), "kept"
        if self.keep_as is KeepAs.NEW or slip.known is None:
            return place.add(self.wanted(library, place)), "kept"
        self.change(library, place, slip.known)
        return slip.known.id, "added" if self.keep_as is KeepAs.ADDITION else "updated"

    def as_part(self) -> str:
        """What is written into a note."""
        draft, address, body = self.slip.draft(), self.slip.reading.page.address, self.slip.body.strip()
        if not address or address in body:
            return body or draft.title
        if "\n" not in body and body:  # such as an item of a list
            return f"{body} ([{host_of(address)}]({address}))"
        link = f"[{alternative_of(draft.title)}]({address})"
        return f"{body}\n\n{link}" if body else link

    def change(self, library: Library, place: Place, known: Entry) -> None:
        """Writes into the entry that is there what the person did on the slip, and of the page what was chosen."""
        slip, update = self.slip, self.update
        keys = {line.field.key for line in slip.lines if line.is_typed and not line.field.kind.holds_files}
        body = slip.body if slip.is_body_typed else None
        if self.keep_as is KeepAs.UPDATE and update is not None:
            for key, text in update.texts.items():
                slip = slip.with_text(key, text)
                keys.add(key)
            body = update.body if update.body is not None else body
        draft = slip.draft()
        there = {"title": draft.title, **draft.values}
        values = {key: there.get(key) for key in keys}
        if self.keep_as is KeepAs.UPDATE:
            values |= with_files(known, self.screenshots(library))
        matter = {key: value for key, value in draft.matter.items() if key in keys}
        values = {key: value for key, value in values.items() if key not in slip.new_keys}
        if not place.nature.is_in_files:
            values |= self.of_new_fields(draft)
        place.change(known.id, library.resolve(place, values), body)
        if matter and place.nature.is_in_files:
            place.add_matter(known.id, matter)

    def wanted(self, library: Library, place: Place) -> Draft:
        """The entry that it becomes, with the picture of what was visible."""
        draft = self.slip.draft()
        files = with_files(None, self.screenshots(library))
        if place.nature.is_in_files:
            return replace(draft, values=library.resolve(place, {**draft.values, **files}))
        values = {**draft.values, **self.of_new_fields(draft), **files}
        return replace(draft, values=library.resolve(place, values), matter={})

    def of_new_fields(self, draft: Draft) -> dict[str, Value]:
        """The values of fields that the collection gets with it."""
        kinds = {line.field.key: line.field.kind for line in self.slip.lines}
        return {key: kinds[key].from_plain(value) for key, value in draft.matter.items()}

    def screenshots(self, library: Library) -> dict[str, tuple[str, ...]]:
        """The stored picture of what was visible, for the fields that want it."""
        wanted = [line.field.key for line in self.slip.lines if line.field.kind.holds_files and line.text == SCREENSHOT]
        if not wanted or not self.slip.screenshot:
            return {}
        stored = library.blobs.keep_file(SCREENSHOT_NAME, self.slip.screenshot, self.slip.reading.page.address)
        return dict.fromkeys(wanted, (stored,))


@dataclass(frozen=True)
class KeepAddress(Command[Kept]):
    """Keeps only an address, to be read later; one that is there already is only told.

    Attributes:
        place: key; "" for the first one. A collection without a field for addresses gets one.
    """

    address: str
    title: str = ""
    place: str = ""

    def label(self, _library: Library) -> str:
        return f"Keep “{short(self.title or self.address)}” for later"

    def perform(self, library: Library, progress: Progress) -> Kept:
        target = library.place(self.place) if self.place else library.first_place()
        planned = planned_fields(library, target, [one.key for one in new_fields(target, ())])
        with library.step(self.label(library), progress.close):
            kept = self.do(library, target.key, planned)
        return replace(kept, step=library.history.noted)

    def do(self, library: Library, key: str, planned: Sequence[PlannedField]) -> Kept:
        """Changes the library, within the step."""
        target = library.place(key)
        known = target.known(canonical(self.address))
        if known is not None:
            return Kept(target.key, target.name, known.id, known.title, "known")
        for one in planned:
            schema_changes.add_field(library, one)
        target = library.place(key)
        title = self.title or self.address
        entry_id = target.add(self.draft(library, target, title))
        library.lists.add_later(self.address, title)
        return Kept(target.key, target.name, entry_id, title, "kept")

    def draft(self, library: Library, target: Place, title: str) -> Draft:
        """The entry that it becomes: its address, its status and its moment, in the fields that are taken for these."""
        fresh = {"address": self.address, "status": "to read", "captured": now()[:16] + "Z"}
        roles = played(target)
        values: dict[str, Value] = {}
        for one in target.fields:
            text = fresh.get(roles.get(one.key, one.key), "")
            if text and one.is_writable:
                values[one.key] = one.kind.take(text)[0]
        matter = {one.key: fresh[one.key] for one in new_fields(target, ()) if one.key in fresh}
        return Draft(title, library.resolve(target, values), "", canonical(self.address), matter=matter)

    def tells(self) -> tuple[Event, ...]:
        return (ListsChanged(),)


def planned_fields(library: Library, place: Place, keys: Sequence[str]) -> list[PlannedField]:
    """The fields that a collection lacks; their columns are made here, before the step."""
    if place.nature.is_in_files:
        return []
    there = {one.key for one in place.fields}
    return [schema_changes.plan_field(library, place.key, plan_for(key)) for key in keys if key not in there]


@dataclass(frozen=True)
class FetchedPicture:
    """A picture as it came."""

    address: str
    content: bytes
    media_type: str


@dataclass(frozen=True)
class KeepPictures(Command[None]):
    """Keeps pictures that were fetched, the icon of a site, and pictures that belong into fields of files.

    What it changes is part of the step that kept the slip, and taken back with it, unless others came since.

    Attributes:
        kept: where the slip went that they belong to.
        icon: (host, address) of a site's icon among them.
        files: addresses by the key of the field.
        attached: (name, contents, origin) of files that came with the page; a collection without a field for them gets one.
    """

    kept: Kept
    pictures: Sequence[FetchedPicture]
    icon: tuple[str, str] | None = None
    files: Mapping[str, Sequence[str]] = field(default_factory=dict)
    attached: Sequence[tuple[str, bytes, str]] = ()

    def label(self, _library: Library) -> str:
        return f"Keep the pictures of “{short(self.kept.title)}”"

    def perform(self, library: Library, progress: Progress) -> None:
        planned = planned_files(library, library.place(self.kept.place)) if self.attached else ()
        with library.step(self.label(library), progress.close, joins=self.kept.step):
            for one in planned:
                schema_changes.add_field(library, one)
            self.do(library)

    def do(self, library: Library) -> None:
        """Changes the library, within the step."""
        place = library.place(self.kept.place)
        beside = {one.address: (one.content, one.media_type) for one in self.pictures}
        laid = place.lay_pictures(self.kept.entry_id, beside)
        for one in self.pictures:
            if one.address not in laid:
                library.blobs.keep_picture(one.address, one.content, one.media_type)
        if self.icon is not None:
            library.blobs.keep_icon(*self.icon)
        self.attach(library, place)
        if self.attached:
            place.attach(self.kept.entry_id, None, self.attached)

    def attach(self, library: Library, place: Place) -> None:
        """Puts pictures into fields of files."""
        there = {one.address: one.content for one in self.pictures}
        stored: dict[str, tuple[str, ...]] = {}
        for key, addresses in self.files.items():
            found = [(one, there.get(one) or library.blobs.picture(one)) for one in addresses]
            stored[key] = tuple(
                library.blobs.keep_file(name_in(one), content, one) for one, content in found if content is not None
            )
        values = with_files(place.entry(self.kept.entry_id), {key: files for key, files in stored.items() if files})
        if values:
            place.change(self.kept.entry_id, values)

    def tells(self) -> tuple[Event, ...]:
        return (PicturesKept(self.kept.place),)


def name_in(address: str) -> str:
    """The name of the file at an address."""
    return unquote(urlsplit(address).path.rpartition("/")[2]) or "picture"
