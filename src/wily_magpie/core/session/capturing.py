"""From a page to an entry: reading, slips, keeping them with their pictures; the part of a session that captures."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import TYPE_CHECKING
from urllib.parse import unquote, urlsplit

from wily_magpie.core.entries.entry import Draft, Entry, short, with_files
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import PageFailure, UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.pages.address import canonical, host_of
from wily_magpie.core.pages.page import Finding, Page, Reading
from wily_magpie.core.pages.pictures import addresses_in
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.session.events import PicturesKept
from wily_magpie.core.session.jobs import Job
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import SCREENSHOT
from wily_magpie.core.templates.slip import CHOSEN_BY_YOU, Slip, SlipField, fill, with_blocks
from wily_magpie.core.templates.template import NoteTarget, choose

if TYPE_CHECKING:
    from wily_magpie.core.session.session import Session

MOST_PICTURES = 40
SCREENSHOT_NAME = "what was visible.png"


@dataclass(frozen=True)
class Kept:
    """Where a capture went; status is "kept", "updated" or "known"."""

    place: str
    place_name: str
    entry_id: int
    title: str
    status: str


class Capturing:
    """See the module; what takes long is called in a job."""

    def __init__(self, session: "Session") -> None:
        self.session = session

    def prepare(self) -> None:
        """Loads what reading a page needs, so that it is there when the first page is; call it in a job."""
        import wily_magpie.core.pages.read
        import wily_magpie.core.templates.expressions  # noqa: F401

    def read(self, page: Page) -> Reading:
        """All that a page says; takes its time, so call it in a job."""
        from wily_magpie.core.pages.read import read_page  # the libraries that find content take a second to load

        return read_page(page)

    def slip(
        self,
        reading: Reading,
        template: str | None = None,
        place: str | None = None,
        before: Slip | None = None,
        marks: Sequence[Mark] = (),
        screenshot: bytes = b"",
    ) -> Slip:
        """The filled slip of a page, with the entry that is already kept from it, if any.

        Args:
            before: a slip of the same page; what was typed, marked and chosen on it stays.
        """
        slip = self.trial(reading, template, place, before, marks, screenshot)
        target = self.session.place(slip.place)
        if slip.template.way is not None and isinstance(target, NotesFolder):
            try:
                told = self.dry_run(target, slip.template.way)
            except UserError as error:
                told = [str(error)]
            return replace(slip, told=(*told, *self.notes_told(slip)))
        slip = replace(slip, told=tuple(self.notes_told(slip)))
        known = target.known(reading.canonical)
        return with_known(slip, known) if known else slip

    def again(self, slip: Slip, **changes: object) -> Slip:
        """The slip filled once more, with other marks or another chosen picture (see `RuleContext`)."""
        material = replace(slip.material, **changes)  # type: ignore[arg-type]
        return self.slip(slip.reading, slip.template.name, slip.place, replace(slip, material=material))

    def wants_screenshot(self) -> bool:
        """Whether any template has a field for a picture of what is visible."""
        rules = (rule for one in self.session.templates() for rule in one.fields.values())
        return any(rule.source == "picture" and rule.text == "screenshot" for rule in rules)

    def notes_told(self, slip: Slip) -> list[str]:
        """The notes that keeping it would make, in words."""
        target = self.session.place(slip.place)
        if not isinstance(target, NotesFolder):
            return []
        return [f"Makes the note “{title}”." for title in slip.notes if target.note_named(title) is None]

    def make_notes(self, slip: Slip, target: Place) -> None:
        """Makes the notes that a slip links to and that are not there, as part of the step under way."""
        if isinstance(target, NotesFolder):
            for title in slip.notes:
                if target.note_named(title) is None:
                    target.add(Draft(title))

    def dry_run(self, notes: NotesFolder, way: NoteTarget) -> list[str]:
        """What writing in a way would make."""
        noting = self.session.noting
        return noting.dry_run(notes.key, way.note, way.way) if way.note else noting.dry_run_journal(notes.key, way.way)

    def write(self, slip: Slip, notes: NotesFolder, way: NoteTarget) -> Kept:
        """Keeps a slip as a part of a note."""
        draft = slip.draft()
        address = slip.reading.page.address
        text = slip.body.strip() or (f"[{draft.title}]({address})" if address else draft.title)
        noting, key, page = self.session.noting, notes.key, slip.reading.page
        with self.session.library.step(f"Keep “{short(draft.title)}”"):
            self.make_notes(slip, notes)
            entry = noting.write(key, way.note, text, way.way) if way.note else noting.write_journal(key, text, way.way)
            if page.html:
                self.session.library.blobs.keep_page(key, entry.id, page, slip.reading.canonical)
            self.session.library.marks.put(key, entry.path, slip.marks)
        return Kept(key, notes.name, entry.id, draft.title, "kept")

    def trial(
        self,
        reading: Reading,
        template: str | None = None,
        place: str | None = None,
        before: Slip | None = None,
        marks: Sequence[Mark] = (),
        screenshot: bytes = b"",
    ) -> Slip:
        """The same from the page alone, whatever is kept."""
        if template is None:
            chosen, reason = choose(self.session.templates(), reading)
        else:
            chosen = self.session.template(template)
            is_same = before is not None and before.template.name == chosen.name
            reason = before.reason if before is not None and is_same else CHOSEN_BY_YOU
        target = self.session.place(place or chosen.writes or self.session.places()[0].key)
        screenshot = screenshot or (before.screenshot if before else b"")
        moment = datetime.now(UTC).strftime("%Y-%m-%dT%H:%MZ")
        material = RuleContext(
            reading,
            moment,
            target.name,
            tuple(marks) or (before.marks if before else ()),
            before.material.picture if before else "",
            bool(screenshot),
        )
        return replace(fill(chosen, reason, material, target.key, target.fields, before), screenshot=screenshot)

    def toggle_blocks(self, slip: Slip, numbers: Sequence[int], *, is_kept: bool) -> Slip:
        """The slip with some blocks of its page taken into the text, or out of it."""
        return with_blocks(slip, numbers, is_kept=is_kept)

    def keep(self, slip: Slip, *, update: bool = False) -> Kept:
        """Keeps a slip as a new entry, or, with update, in the entry that is already kept from its page."""
        draft = slip.draft()
        place = self.session.place(slip.place)
        if slip.template.way is not None and isinstance(place, NotesFolder):
            return self.write(slip, place, slip.template.way)
        with self.session.library.step(f"{'Update' if update else 'Keep'} “{short(draft.title)}”"):
            self.make_notes(slip, place)
            values = {**draft.values, **with_files(slip.known if update else None, self.screenshot_of(slip))}
            draft = replace(draft, values=self.session.library.resolve(place, values))
            if update and slip.known:
                entry_id, status = slip.known.id, "updated"
                place.change(entry_id, {"title": draft.title, **draft.values}, draft.body)
            else:
                entry_id, status = place.add(draft), "kept"
            page = slip.reading.page
            if page.html:
                self.session.library.blobs.keep_page(place.key, entry_id, page, slip.reading.canonical)
            self.session.marking.put_all(place, entry_id, slip.marks)
        self.session.changed(place, entry_id)
        return Kept(place.key, place.name, entry_id, draft.title, status)

    def screenshot_of(self, slip: Slip) -> dict[str, tuple[str, ...]]:
        """The stored picture of what was visible, for the fields that want it."""
        wanted = [line.field.key for line in slip.lines if line.field.kind.name == "files" and line.text == SCREENSHOT]
        if not wanted or not slip.screenshot:
            return {}
        stored = self.session.library.blobs.keep_file(SCREENSHOT_NAME, slip.screenshot, slip.reading.page.address)
        return dict.fromkeys(wanted, (stored,))

    def keep_address(self, address: str, title: str = "", place: str | None = None) -> Kept:
        """Keeps only an address, to be read later."""
        target = self.session.place(place) if place else self.session.places()[0]
        known = target.known(canonical(address))
        if known is not None:
            return Kept(target.key, target.name, known.id, known.title, "known")
        moment = datetime.now(UTC).strftime("%Y-%m-%dT%H:%MZ")
        fresh: dict[str, Value] = {"address": address, "status": "to read", "captured": moment}
        title = title or address
        with self.session.library.step(f"Keep “{short(title)}” for later"):
            entry_id = target.add(Draft(title, fresh, "", canonical(address)))
        self.session.changed(target, entry_id)
        return Kept(target.key, target.name, entry_id, title, "kept")

    def keep_pictures(self, slip: Slip, kept: Kept | None = None, job: Job | None = None) -> list[str]:
        """Fetches the pictures of a kept slip into the library, and its site's icon; the sentences of those that failed.

        Args:
            kept: where it went: files that are pictures of the page are put into it.
        """
        files = {
            one.field.key: one.text for one in slip.lines if one.field.kind.name == "files" and one.text != SCREENSHOT
        }
        shown = [line.text for line in slip.lines if line.field.key == "picture" and line.text] + addresses_in(
            slip.body
        )
        wanted = [*filter(None, files.values()), *(shown if slip.template.keeps_pictures else ())]
        wanted = list(dict.fromkeys(wanted))[:MOST_PICTURES]
        icon = slip.reading.best("icon")
        host = host_of(slip.reading.page.address)
        if icon and host and slip.template.keeps_pictures and not self.session.library.blobs.icon(host):
            wanted.append(icon)
        failures: list[str] = []
        for done, address in enumerate(wanted):
            if job:
                job.step(done, len(wanted))
            try:
                self.keep_picture(address, slip.reading.page.address, job)
            except PageFailure as error:
                if address != icon:
                    failures.append(str(error))
                continue
            if address == icon:
                self.session.library.blobs.keep_icon(host, icon)
        if kept is not None:
            self.attach(kept, {key: address for key, address in files.items() if address})
        self.session.publish(PicturesKept(slip.place))
        if failures and job:
            raise PageFailure(
                "pictures-missing",
                f"{len(failures)} of {len(wanted)} pictures of “{short(slip.title)}” could not be kept: {failures[0]}",
                "The text is kept.",
            )
        return failures

    def keep_picture(self, address: str, page: str, job: Job | None = None) -> None:
        """Fetches a picture into the library, if it is not there."""
        copies = self.session.library.blobs
        if copies.picture(address) is None:
            answer = self.session.fetcher.picture(address, page, job.is_cancelled if job else lambda: False)
            copies.keep_picture(address, answer.content, answer.media_type)

    def look_at_picture(self, address: str, page: str) -> bytes:
        """A picture of a page, to be looked at: as it was kept, else fetched; PageFailure where it cannot be had."""
        return self.session.picture(address) or self.session.fetcher.picture(address, page).content

    def attach(self, kept: Kept, files: Mapping[str, str]) -> None:
        """Puts pictures that were kept into fields of files, as one step."""
        copies = self.session.library.blobs
        place = self.session.place(kept.place)
        found = {key: copies.picture(address) for key, address in files.items()}
        stored = {
            key: (copies.keep_file(name_in(files[key]), content, files[key]),)
            for key, content in found.items()
            if content
        }
        values = with_files(place.entry(kept.entry_id), stored)
        if values:
            with self.session.library.step(f"Keep the pictures of “{short(kept.title)}”"):
                place.change(kept.entry_id, values)
            self.session.changed(place, kept.entry_id)


def name_in(address: str) -> str:
    """The name of the file at an address."""
    return unquote(urlsplit(address).path.rpartition("/")[2]) or "picture"


def with_known(slip: Slip, known: Entry) -> Slip:
    """The slip of a page that is kept already: what the entry says stays, what the page says is offered beside it."""

    def one(line: SlipField) -> SlipField:
        value = known.value(line.field.key)
        text = line.field.kind.show(value)
        if value is None or line.is_typed or text == line.text or line.field.kind.name == "files":
            return line
        offered = (Finding(line.field.key, line.text, line.origin),) if line.text and line.origin != "template" else ()
        return replace(line, text=text, origin="the kept entry", others=offered + line.others, problem="")

    return replace(slip, lines=tuple(map(one, slip.lines)), known=known, known_when=captured(known))


def captured(entry: Entry) -> str:
    """When an entry was captured, as shown; "" where it does not say."""
    value = entry.value("captured")
    return value[:10] if isinstance(value, str) else ""
