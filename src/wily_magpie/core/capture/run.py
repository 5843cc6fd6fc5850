"""One capture: address → page → slip → kept, step by step, each of which can be cancelled before the next begins.

A window takes the steps one at a time, with a person in between; a script has them all done by `whole`.
"""

import dataclasses
import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import field, replace
from html import escape
from pathlib import Path
from typing import Protocol, TypeVar
from urllib.parse import urljoin

from wily_magpie.core.commands.capture import FetchedPicture, KeepAddress, KeepPictures, KeepSlip
from wily_magpie.core.commands.command import UNWATCHED, Command, Progress
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.field import find_field
from wily_magpie.core.entries.kept import KeepAs, Kept
from wily_magpie.core.entries.mark import Mark, place_of
from wily_magpie.core.errors import PageFailure, UserError
from wily_magpie.core.pages import apart as pages
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.pages.pictures import addresses_in
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.settings.known import MOST_PICTURES, number_of
from wily_magpie.core.templates import apart as templates
from wily_magpie.core.templates.by_hand import ByHand, Typed
from wily_magpie.core.templates.rules import SCREENSHOT
from wily_magpie.core.templates.slip import NOTHING, Slip
from wily_magpie.core.templates.update import ChosenUpdate, PageUpdate, update_of

T = TypeVar("T")
NO_PICTURES: Mapping[str, FetchedPicture] = {}
MOST_PICTURE_BYTES = 200_000_000
"""Of all pictures of a page together, which are held until all are there."""


class Counter(Protocol):
    """What long work needs of a session: it asks, fetches, and has what it changes done."""

    folder: Path
    fetcher: Fetcher
    reader: Reader

    def do(self, command: Command[T], progress: Progress | None = None) -> T:
        """Does a command and waits for it."""

    def refresh_notes(self, key: str | None = None, progress: Progress = UNWATCHED) -> int:
        """Brings the indexes of notes folders in step with their files."""

    def back_up(self, to: Path, progress: Progress = UNWATCHED) -> int:
        """Copies the library into a folder and checks the copy."""


@dataclass(frozen=True)
class Wanted:
    """What is to be captured, and how.

    Attributes:
        template, place: instead of those that match; "" for these.
        values: (field, text) that are set on the slip; marks: passages that are marked.
        with_replies: whether a discussion is kept with all its replies.
        is_update: whether a page that is kept already is written into its entry again.
        is_lenient: whether values of fields that the place does not have are left out, rather than refused.
    """

    template: str = ""
    place: str = ""
    values: Sequence[tuple[str, str]] = ()
    marks: Sequence[Mark] = ()
    with_replies: bool = False
    is_update: bool = False
    is_lenient: bool = False


@dataclass(frozen=True)
class Captured:
    """How a capture ended.

    Attributes:
        slip: as it was kept, or would have been.
        failures: the sentences of pictures that could not be kept.
        left_out: what is said of values that were left out, or "".
    """

    slip: Slip
    kept: Kept
    failures: tuple[str, ...] = ()
    left_out: str = ""


@dataclasses.dataclass
class CaptureRun:
    """One of them, over a session's counter.

    Attributes:
        progress: is told how far it is; raises where the capture was cancelled.
        is_cancelled: asked in between, while something is fetched.
    """

    counter: Counter
    progress: Progress = field(default_factory=Progress)
    is_cancelled: Callable[[], bool] = lambda: False

    @staticmethod
    def prepare() -> None:
        """Starts what reading a page needs, so that it is there when the first page is."""
        pages.WORKER.prepare()
        templates.WORKER.prepare()

    @staticmethod
    def check(expression: str, of: str) -> UserError | None:
        """What is wrong with an expression of a field."""
        try:
            templates.check(expression, of)
        except UserError as error:
            return error
        return None

    def page(self, given: str, *, by: str = "") -> Page:
        """Address → page, by HTTP; or the page in a file of this disk. PageFailure where it cannot be had."""
        from wily_magpie.core.pages.open_file import page_at  # not needed at start

        self.progress.tick(0, 4)
        if given.startswith(("http://", "https://")):
            return self.counter.fetcher.page(given, self.is_cancelled, by=by)
        return page_at(Path(given))

    @staticmethod
    def snippet(text: str, html: str, source: str) -> Page:
        """The page of a piece of text that was copied from somewhere.

        Args:
            html: the same as HTML, or ""; source: the address of the page that it comes from, or "".
        """
        from wily_magpie.core.entries.dropped import title_in  # seldom needed

        title = escape(title_in(text) if text.strip() else "A piece of text")
        inside = html or "".join(f"<p>{escape(part)}</p>" for part in text.split("\n\n") if part.strip())
        identity = f"sha256:{hashlib.sha256((text or html).encode('utf-8', 'replace')).hexdigest()}"
        whole = f"<!doctype html><title>{title}</title><article>{inside}</article>"
        return Page(source, whole, "file", identity="" if source else identity)

    def reading(self, page: Page, *, with_replies: bool = False) -> Reading:
        """Page → all that it says; takes its time."""
        self.progress.tick(1, 4)
        reading = pages.read_page(page)
        return reading.with_posts() if with_replies else reading

    def slip(
        self,
        reading: Reading,
        template: str = "",
        place: str = "",
        hand: ByHand = NOTHING,
        screenshot: bytes = b"",
        *,
        is_habit: bool = False,
    ) -> Slip:
        """What it says → the filled slip, with the entry that is already kept from the page, if any (see `SlipQueries`)."""
        self.progress.tick(2, 4)
        self.counter.refresh_notes()
        return self.counter.reader.slips.slip(reading, template, place, hand, screenshot, is_habit=is_habit)

    def update_of(self, slip: Slip) -> PageUpdate:
        """What of a page would replace what of the entry that is kept from it already."""
        if slip.known is None:
            raise UserError("not-known", "Nothing is kept from this page yet.", "Keep it.")
        reader = self.counter.reader
        kept = reader.templates.kept_page(slip.known, slip.reading.canonical)
        before = reader.slips.of_page(slip, self.reading(kept)) if kept is not None else None
        return update_of(slip, reader.slips.of_page(slip), before)

    def keep(
        self, slip: Slip, keep_as: KeepAs = KeepAs.NEW, update: ChosenUpdate | None = None, *, is_seen: bool = True
    ) -> Kept:
        """The slip, which a person has seen or not, → an entry; an update that nobody chose from takes over what is proposed."""
        if keep_as is KeepAs.UPDATE and update is None:
            found = self.update_of(slip)
            update = ChosenUpdate(found, found.proposed)
        is_second = keep_as is KeepAs.NEW and slip.known is not None
        if is_second:
            slip = self.counter.reader.slips.second(slip)
        self.progress.tick(3, 4)
        return self.counter.do(KeepSlip(slip, keep_as, update, is_seen, is_second))

    def keep_address(self, address: str, title: str = "", place: str = "") -> Kept:
        """An address alone, to be read later.

        Args:
            place: key; "" for the first one.
        """
        return self.counter.do(KeepAddress(address, title, place))

    def look_at_picture(self, address: str, page: str, of: Page | None = None) -> bytes:
        """A picture of a page, to be looked at: as it was kept, else fetched; PageFailure where it cannot be had.

        Args:
            page: its address; of: the page itself, which may have brought it along.
        """
        kept = self.counter.reader.entries.picture(address)
        if kept is None and of is not None:
            kept = next((one.content for one in pages.mail_files(of) if one.address == address), None)
        return kept or self.fetched(address, page).content

    def whole(self, page: Page, wanted: Wanted) -> Captured:
        """All of it, without a person in between; a page that is kept already is left alone unless it is to be updated."""
        done = self.whole_of(self.reading(page, with_replies=wanted.with_replies), wanted)
        if done.kept.status == "known":
            return done
        return replace(done, failures=tuple(self.pictures(done.slip, done.kept)))

    def whole_of(self, reading: Reading, wanted: Wanted) -> Captured:
        """The same of a page that is read, but for its pictures."""
        need_passages(wanted.marks, reading)
        hand = ByHand(marks=tuple(wanted.marks))
        slip = self.slip(reading, wanted.template, wanted.place, hand)
        place = self.counter.reader.entries.place(slip.place)
        values, strange = {}, []
        for key, text in wanted.values:
            try:
                values[named(slip, place, key)] = Typed(text)
            except UserError:
                if not wanted.is_lenient:
                    raise
                strange.append(key)
        if values:
            there = {line.field.key for line in slip.lines}
            hand = replace(hand, values=values, new_keys=tuple(key for key in values if key not in there))
            slip = self.slip(reading, wanted.template, wanted.place or place.key, hand)
        left_out = f"{place.name} has no field {', '.join(strange)}." if strange else ""
        if (slip.known or slip.holding) and not wanted.is_update:
            entry_id, title = (slip.known.id, slip.known.title) if slip.known else (0, slip.title)
            kept = Kept(place.key, place.name, entry_id, title, "known")
        else:
            kept = self.keep(slip, KeepAs.UPDATE if slip.known else KeepAs.NEW, is_seen=False)
        return Captured(slip, kept, (), left_out)

    def pictures(self, slip: Slip, kept: Kept, there: Mapping[str, FetchedPicture] = NO_PICTURES) -> list[str]:
        """Fetches the pictures of a kept slip, and its site's icon, and keeps them together; the sentences of failures.

        Args:
            there: pictures that need not be fetched, by their addresses.
        """
        wanted, icon, files = self.wanted_pictures(slip)
        enclosed = pages.mail_files(slip.reading.page)
        there = {**there, **{one.address: FetchedPicture(one.address, one.content, one.media_type) for one in enclosed}}
        attached = [(one.name, one.content, slip.reading.page.address) for one in enclosed if not one.address]
        place = self.counter.reader.entries.place(kept.place)
        fetched: list[FetchedPicture] = []
        failures: list[str] = []
        size = 0
        known = self.counter.reader.entries.picture
        for done, address in enumerate(wanted):
            self.progress.tick(done, len(wanted))
            if known(address) is not None and not place.nature.is_in_files:
                continue
            try:
                picture = there.get(address) or self.fetched(address, slip.reading.page.address)
            except PageFailure as error:
                failures += [str(error)] if address != icon else []
                continue
            size += len(picture.content)
            if size > MOST_PICTURE_BYTES:
                failures.append(f"The pictures are larger than {MOST_PICTURE_BYTES // 1_000_000} MB together.")
                break
            fetched.append(picture)
        host = host_of(slip.reading.page.address)
        has_icon = bool(icon) and (known(icon) is not None or any(one.address == icon for one in fetched))
        attached = attached if kept.status == "kept" else []
        has_new = KeepPictures(kept, fetched, (host, icon) if has_icon else None, files, attached)
        self.counter.do(has_new, self.progress)
        return failures

    def fetched(self, address: str, page: str) -> FetchedPicture:
        """A picture of a page, by HTTP; PageFailure where it cannot be had."""
        if address.startswith("mid:"):
            raise PageFailure(
                "no-picture", "The e-mail names a picture that it did not bring along.", "The rest of it is kept."
            )
        answer = self.counter.fetcher.picture(address, page, self.is_cancelled)
        return FetchedPicture(address, answer.content, answer.media_type)

    def wanted_pictures(self, slip: Slip) -> tuple[list[str], str, Mapping[str, Sequence[str]]]:
        """(addresses to be fetched, the icon's among them or "", those that go into fields of files, by key)."""
        files = {
            line.field.key: addresses_of(line.text)
            for line in slip.lines
            if line.field.kind.holds_files and line.text and line.text != SCREENSHOT
        }
        lead = [line.text for line in slip.lines if line.field.key == "picture" and line.text]
        marked = [mark.picture for mark in slip.marks if mark.picture]
        shown = [*lead, *marked, *addresses_in(slip.body)] if slip.template.keeps_pictures else marked
        most = round(number_of(MOST_PICTURES, self.counter.reader.settings()))
        wanted = list(dict.fromkeys([*(one for many in files.values() for one in many), *shown]))[:most]
        icon = self.icon_of(slip) if slip.template.keeps_pictures else ""
        return [*wanted, *([icon] if icon and icon not in wanted else [])], icon, files

    def icon_of(self, slip: Slip) -> str:
        """The address of the icon of a slip's site: the one that the page names, else the usual one; "" where it is kept."""
        host = host_of(slip.reading.page.address)
        if not host or self.counter.reader.entries.has_icon(host):
            return ""
        address = slip.reading.page.address
        return slip.reading.best("icon") or urljoin(address, "/favicon.ico")


def addresses_of(text: str) -> list[str]:
    """The addresses in a line of files."""
    return [one.rstrip(";") for one in text.split() if "://" in one]


def named(slip: Slip, place: PlaceInfo, name: str) -> str:
    """The key of the field that a script names; in a notes folder it may be a new one.

    Raises:
        UserError: a collection has no such field.
    """
    lines = [line.field for line in slip.lines]
    if place.nature.is_in_files and all(
        name.casefold() not in (one.key.casefold(), one.label.casefold()) for one in lines
    ):
        return name
    return find_field(lines if place.nature.is_in_files else place.fields, name).key


def need_passages(marks: Sequence[Mark], reading: Reading) -> None:
    """Whether all words that are to be marked stand in the page, in what is left out of its text too.

    Raises:
        UserError: some do not; nothing is kept.
    """
    content = reading.content
    said = "\n".join([content.text, *(block.text for block in content.blocks if not block.is_kept)])
    for mark in marks:
        if place_of(mark, said) is None:
            raise UserError(
                "mark-missing", f"The page does not have the words “{short(mark.exact)}” that are to be marked.",
                "Give them as they stand in it: wily-magpie extract shows its text.",
            )  # fmt: skip


def missing_pictures(slip: Slip, failures: Sequence[str]) -> PageFailure:
    """What is told of pictures that could not be kept."""
    many = f"{len(failures)} pictures" if len(failures) != 1 else "One picture"
    return PageFailure(
        "pictures-missing",
        f"{many} of “{short(slip.title)}” could not be kept: {failures[0]}",
        "The text is kept.",
    )
