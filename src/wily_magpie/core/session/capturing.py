"""From a page to an entry: reading, slips, keeping them with their pictures; the part of a session that captures."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import TYPE_CHECKING

from wily_magpie.core.entries.entry import Draft, Entry, short
from wily_magpie.core.errors import PageFailure, UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.pages.address import canonical
from wily_magpie.core.pages.page import Finding, Page, Reading
from wily_magpie.core.pages.pictures import addresses_in
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.session.events import PicturesKept
from wily_magpie.core.session.jobs import Job
from wily_magpie.core.templates.slip import CHOSEN_BY_YOU, Slip, SlipField, fill, with_blocks
from wily_magpie.core.templates.template import NoteWay, choose

if TYPE_CHECKING:
    from wily_magpie.core.session.session import Session

MOST_PICTURES = 40


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
        self, reading: Reading, template: str | None = None, place: str | None = None, before: Slip | None = None
    ) -> Slip:
        """The filled slip of a page, with the entry that is already kept from it, if any."""
        slip = self.trial(reading, template, place, before)
        target = self.session.place(slip.place)
        if slip.template.way is not None and isinstance(target, NotesFolder):
            try:
                return replace(slip, told=tuple(self.foretell(target, slip.template.way)))
            except UserError as error:
                return replace(slip, told=(str(error),))
        known = target.known(reading.canonical)
        return with_known(slip, known) if known else slip

    def foretell(self, notes: NotesFolder, way: NoteWay) -> list[str]:
        """What writing in a way would make."""
        noting = self.session.noting
        return (
            noting.foretell(notes.key, way.note, way.way) if way.note else noting.foretell_journal(notes.key, way.way)
        )

    def write(self, slip: Slip, notes: NotesFolder, way: NoteWay) -> Kept:
        """Keeps a slip as a part of a note."""
        draft = slip.draft()
        address = slip.reading.page.address
        text = slip.body.strip() or (f"[{draft.title}]({address})" if address else draft.title)
        noting, key, page = self.session.noting, notes.key, slip.reading.page
        with self.session.library.step(f"Keep “{short(draft.title)}”"):
            entry = noting.write(key, way.note, text, way.way) if way.note else noting.write_journal(key, text, way.way)
            if page.html:
                self.session.library.copies.keep_page(key, entry.id, page, slip.reading.canonical)
        return Kept(key, notes.name, entry.id, draft.title, "kept")

    def trial(
        self, reading: Reading, template: str | None = None, place: str | None = None, before: Slip | None = None
    ) -> Slip:
        """The same from the page alone, whatever is kept."""
        if template is None:
            chosen, reason = choose(self.session.templates(), reading)
        else:
            chosen, reason = self.session.template(template), CHOSEN_BY_YOU
        target = self.session.place(place or chosen.writes or self.session.places()[0].key)
        moment = datetime.now(UTC).strftime("%Y-%m-%dT%H:%MZ")
        return fill(chosen, reason, reading, target.key, target.fields, moment, before)

    def toggle_blocks(self, slip: Slip, numbers: Sequence[int], *, is_kept: bool) -> Slip:
        """The slip with some blocks of its page taken into the text, or out of it."""
        return with_blocks(slip, numbers, is_kept=is_kept, now=datetime.now(UTC).strftime("%Y-%m-%dT%H:%MZ"))

    def keep(self, slip: Slip, *, update: bool = False) -> Kept:
        """Keeps a slip as a new entry, or, with update, in the entry that is already kept from its page."""
        draft = slip.draft()
        place = self.session.place(slip.place)
        if slip.template.way is not None and isinstance(place, NotesFolder):
            return self.write(slip, place, slip.template.way)
        with self.session.library.step(f"{'Update' if update else 'Keep'} “{short(draft.title)}”"):
            draft = replace(draft, values=self.session.library.resolve(place, draft.values))
            if update and slip.known:
                entry_id, status = slip.known.id, "updated"
                place.change(entry_id, {"title": draft.title, **draft.values}, draft.body)
            else:
                entry_id, status = place.add(draft), "kept"
            page = slip.reading.page
            if page.html:
                self.session.library.copies.keep_page(place.key, entry_id, page, slip.reading.canonical)
        self.session.changed(place, entry_id)
        return Kept(place.key, place.name, entry_id, draft.title, status)

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

    def keep_pictures(self, slip: Slip, job: Job | None = None) -> list[str]:
        """Fetches the pictures of a kept slip into the library; the sentences of those that failed."""
        wanted = [line.text for line in slip.lines if line.field.key == "picture" and line.text]
        wanted = list(dict.fromkeys([*wanted, *addresses_in(slip.body)]))[:MOST_PICTURES]
        failures: list[str] = []
        for done, address in enumerate(wanted):
            if job:
                job.step(done, len(wanted))
            if self.session.library.copies.picture(address) is None:
                try:
                    answer = self.session.fetcher.picture(address, job.is_cancelled if job else lambda: False)
                    self.session.library.copies.keep_picture(address, answer.content, answer.media_type)
                except PageFailure as error:
                    failures.append(str(error))
        self.session.publish(PicturesKept(slip.place))
        if failures and job:
            raise PageFailure(
                "pictures-missing",
                f"{len(failures)} of {len(wanted)} pictures of “{short(slip.title)}” could not be kept: {failures[0]}",
                "The text is kept.",
            )
        return failures


def with_known(slip: Slip, known: Entry) -> Slip:
    """The slip of a page that is kept already: what the entry says stays, what the page says is offered beside it."""

    def one(line: SlipField) -> SlipField:
        value = known.value(line.field.key)
        text = line.field.kind.show(value)
        if value is None or line.is_typed or text == line.text:
            return line
        offered = (Finding(line.field.key, line.text, line.origin),) if line.text and line.origin != "template" else ()
        return replace(line, text=text, origin="the kept entry", others=offered + line.others, problem="")

    return replace(slip, lines=tuple(map(one, slip.lines)), known=known, known_when=captured(known))


def captured(entry: Entry) -> str:
    """When an entry was captured, as shown; "" where it does not say."""
    value = entry.value("captured")
    return value[:10] if isinstance(value, str) else ""
