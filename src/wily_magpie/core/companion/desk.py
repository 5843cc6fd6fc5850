"""Where the companion is served: it hands a page over, is told the slip, says what is changed on it, and has it kept.

One desk a process, for all connections; it may be used from any of their threads. Whatever comes is held against
`messages`, and what a page says is treated as everywhere: it is read in a process apart and shown as plain text.
"""

import base64
import binascii
import dataclasses
import json
import logging
import secrets
import threading
from collections import OrderedDict
from collections.abc import Callable, Mapping
from concurrent import futures
from contextlib import suppress
from dataclasses import field, replace
from pathlib import Path
from typing import Any, Protocol

from wily_magpie import __version__
from wily_magpie.core.capture.run import CaptureRun, missing_pictures
from wily_magpie.core.commands.capture import FetchedPicture
from wily_magpie.core.commands.drafts import SaveDraft
from wily_magpie.core.commands.history import Undo
from wily_magpie.core.commands.marks import PutMark, RemoveMark
from wily_magpie.core.companion.messages import MESSAGES, WHOLES, checked, sound
from wily_magpie.core.companion.scheme import Visit
from wily_magpie.core.companion.told import LONGEST_TEXT, kinds_told, marks_told, slip_told
from wily_magpie.core.companion.wire import HEAD, LARGEST_OUT
from wily_magpie.core.entries.kept import KeepAs, Kept
from wily_magpie.core.entries.mark import Mark, with_mark
from wily_magpie.core.errors import BugError, MagpieError, UserError
from wily_magpie.core.events import KeptOutside, PicturesMissing
from wily_magpie.core.pages.address import canonical, from_typed
from wily_magpie.core.pages.fetch import LARGEST_PICTURE_BYTES
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.session.jobs import Job
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.by_hand import ByHand, marks_in
from wily_magpie.core.templates.slip import Slip

MOST_OPEN, MOST_GATHERINGS, MOST_CHARACTERS = 8, 4, 90_000_000
PICTURES_WAIT_S = 20.0
"""How long the companion may take to hand over pictures, until those that are missing are fetched."""
KEEP_AS = {"new": KeepAs.NEW, "add": KeepAs.ADDITION, "update": KeepAs.UPDATE}
log = logging.getLogger(__name__)


class Front(Protocol):
    """What the program has in front of the person: its window, or a way to start one."""

    def come_up(self) -> None:
        """Shows itself."""

    def open_address(self, visit: Visit) -> None:
        """Opens the slip of an address, with the words of its page that were chosen marked."""

    def open_entry(self, place: str, entry_id: int) -> None:
        """Shows an entry."""


@dataclasses.dataclass(eq=False)
class OpenPage:
    """A page that was handed over, with its slip as it is by now.

    Attributes:
        large: what the person did on it before that is too large for a message; it stays here meanwhile.
    """

    slip: Slip
    large: ByHand = field(default_factory=ByHand)
    kept: Kept | None = None
    timer: threading.Timer | None = None


@dataclasses.dataclass
class Gathering:
    """What comes in pieces, as far as it is there."""

    count: int
    pieces: list[str] = field(default_factory=list)
    size: int = 0


class CompanionDesk:
    """See the module.

    Args:
        front: of the person who sits there.
        heard: told which browser it is, once it says so.
    """

    def __init__(
        self, session: Session, front: Front, heard: Callable[[str, str], None] = lambda _browser, _version: None
    ) -> None:
        self.session, self.front, self.heard = session, front, heard
        self.library = library_name(session.folder)
        self.lock, self.keeping = threading.Lock(), threading.Lock()
        self.pages: OrderedDict[str, OpenPage] = OrderedDict()
        self.gatherings: OrderedDict[str, Gathering] = OrderedDict()
        self.browser = ""
        self.waiting: list[OpenPage] = []
        """Pages whose pictures the companion may still hand over."""
        self.fetching: list[Job] = []
        self.answers: Mapping[str, Callable[[dict[str, Any]], dict[str, Any]]] = {
            "hello": self.hello, "piece": self.piece, "fetch": self.fetch, "fill": self.fill, "keep": self.keep,
            "later": self.later, "known": self.known, "mark": self.mark, "undo": self.undo, "open": self.open,
            "entry": self.entry, "show": self.show, "visit": self.visit,
        }  # fmt: skip
        self.wholes: Mapping[str, Callable[[dict[str, Any]], dict[str, Any]]] = {
            "page": self.page, "pictures": self.pictures,
        }  # fmt: skip

    def answer(self, message: object) -> dict[str, Any]:
        """What is answered; never raises."""
        number = message.get("id") if isinstance(message, dict) else None
        number = number if isinstance(number, int) else None
        try:
            given = checked(message, MESSAGES, "what")
            answer = {"id": number, "ok": True, **self.answers[given["what"]](given)}
            return answer if is_small(answer) else too_large(number)
        except MagpieError as error:
            return {"id": number, "ok": False, "error": error.slug, "message": str(error)}
        except Exception:
            log.exception("the companion's question failed")
            fault = BugError("bug", "This failed by a fault of the program's own.", "It is written down in its log.")
            return {"id": number, "ok": False, "error": fault.slug, "message": str(fault)}

    def close(self, patience_s: float = 0.0) -> None:
        """Fetches the pictures that are still waited for; waits for all of them as long as one has patience."""
        with self.lock:
            waiting = list(self.waiting)
        for one in waiting:
            self.fetch_pictures(one, {})
        futures.wait([job.future for job in self.fetching], patience_s)

    # what it is told first

    def hello(self, given: dict[str, Any]) -> dict[str, Any]:
        """Who is there."""
        self.browser = given["browser"]
        self.heard(given["browser"], given["version"])
        overview = self.session.overview
        return {
            "version": __version__,
            "library": self.library,
            "kinds": kinds_told(overview),
            "wants_screenshot": self.session.reader.templates.wants_screenshot(),
        }

    # a page

    def piece(self, given: dict[str, Any]) -> dict[str, Any]:
        """A piece of what is larger than a message; with the last one the whole is answered."""
        with self.lock:
            text = self.gathered(given)
        if text is None:
            return {}
        try:
            whole = json.loads(text)
        except (ValueError, RecursionError) as error:
            raise UserError("companion-refused", "The pieces that came make no message.") from error
        told = checked(whole, WHOLES, "kind")
        return self.wholes[told["kind"]](told)

    def gathered(self, given: dict[str, Any]) -> str | None:
        """All pieces together, where this is the last one.

        Raises:
            UserError: it is not the one that is next, or they are too many.
        """
        name, index = given["of"], given["index"]
        if index == 0:
            self.gatherings[name] = Gathering(given["count"])
            while len(self.gatherings) > MOST_GATHERINGS:
                self.gatherings.popitem(last=False)
        one = self.gatherings.get(name)
        size = sum(other.size for other in self.gatherings.values()) + len(given["text"])
        if one is None or index != len(one.pieces) or given["count"] != one.count or size > MOST_CHARACTERS:
            self.gatherings.pop(name, None)
            raise UserError("companion-refused", "The pieces of a page came out of order, or are too many.")
        one.pieces.append(given["text"])
        one.size += len(given["text"])
        if len(one.pieces) < one.count:
            return None
        return str(sound("".join(self.gatherings.pop(name).pieces)))

    def page(self, given: dict[str, Any]) -> dict[str, Any]:
        """A page as the person sees it: its slip, with what was done on it before."""
        address = from_typed(given["address"])
        page = Page(address, given["html"], "rendered")
        fresh = marks_in(given["marks"])
        return self.opened(page, fresh, given["picture"] or "", picture_in(given["screenshot"] or ""))

    def fetch(self, given: dict[str, Any]) -> dict[str, Any]:
        """A page that a link leads to, which nobody has open."""
        run = CaptureRun(self.session)
        return self.opened(run.page(from_typed(given["address"]), by=from_typed(given["by"])))

    def opened(
        self, page: Page, fresh: tuple[Mark, ...] = (), picture: str = "", screenshot: bytes = b""
    ) -> dict[str, Any]:
        """The slip of a page, under a name of its own."""
        run, reader = CaptureRun(self.session), self.session.reader
        reading, draft = run.reading(page), reader.drafts.find(page.address)
        hand = draft.hand if draft is not None else ByHand()
        marks = hand.marks
        for mark in fresh:
            marks = with_mark(marks, mark)
        hand = replace(hand, marks=marks, picture=picture or hand.picture)
        slip = self.filled(reading, hand, screenshot)
        name = secrets.token_hex(8)
        with self.lock:
            self.pages[name] = OpenPage(slip, large_of(hand))
            while len(self.pages) > MOST_OPEN:
                self.forget_oldest()
        if fresh or picture:
            self.save_draft(slip)
        return {"capture": name, "is_draft": draft is not None, **self.told(slip)}

    def forget_oldest(self) -> None:
        """One page too many is open; pictures that are waited for are fetched all the same."""
        self.pages.popitem(last=False)

    def filled(self, reading: Reading, hand: ByHand, screenshot: bytes) -> Slip:
        """A filled slip; a template and a place that are gone by now are said."""
        self.session.refresh_notes()
        return self.session.reader.slips.restored(reading, hand, screenshot)

    def told(self, slip: Slip) -> dict[str, Any]:
        """A slip as the companion shows it."""
        entries = self.session.reader.entries
        there = {one.key for one in entries.place(slip.place).fields}

        def names_for(key: str) -> list[str]:
            return entries.names_for(slip.place, key) if key in there else []

        return slip_told(slip, self.session.overview, self.library, names_for)

    def open_page(self, name: str) -> OpenPage:
        """A page that was handed over.

        Raises:
            UserError: it is forgotten by now; the companion hands it over again.
        """
        with self.lock:
            found = self.pages.get(name)
        if found is None:
            raise UserError("capture-gone", "This page has to be handed over again.")
        return found

    def with_hand(self, given: dict[str, Any]) -> tuple[OpenPage, Slip]:
        """The slip of a page with what the person has done on it by now."""
        page = self.open_page(given["capture"])
        told = ByHand.from_plain(given["hand"])
        values = {**page.large.values, **told.values}
        hand = replace(told, values=values, body=page.large.body, shots=page.slip.shots)
        slip = self.filled(page.slip.reading, hand, page.slip.screenshot)
        words = (given["words"] or "").strip()
        if words and not slip.body.startswith(words):
            slip = slip.with_typed(replace(hand, body=f"{words}\n\n{slip.body}".strip()))
        return page, slip

    def fill(self, given: dict[str, Any]) -> dict[str, Any]:
        """Something was done on a slip: it is filled anew, and a draft."""
        page, slip = self.with_hand(given)
        page.slip = slip
        self.save_draft(slip)
        return self.told(slip)

    def save_draft(self, slip: Slip) -> None:
        """Nothing that was done in the browser is lost with it."""
        self.session.do(SaveDraft(slip))

    # keeping

    def keep(self, given: dict[str, Any]) -> dict[str, Any]:
        """Keeps a slip; which of its pictures the companion may hand over."""
        if given["as"] not in KEEP_AS:
            raise UserError("companion-refused", f"“{given['as'][:20]}” is no way to keep a page.")
        run = CaptureRun(self.session)
        with self.keeping:  # a key that is pressed twice keeps a page once
            page, slip = self.with_hand(given)
            slip.draft()  # says what it lacks before anything is done
            if given["as"] == "new" and slip.known is not None and page.slip.known is None:
                raise UserError("kept-already", "This page is kept already.", "Choose what is to become of it.")
            kept = run.keep(slip, KEEP_AS[given["as"]])
            page.slip, page.kept = slip, kept
        entries = self.session.reader.entries
        wants = [one for one in run.wanted_pictures(slip)[0] if entries.picture(one) is None]
        self.wait_for_pictures(page)
        self.session.publish(KeptOutside(kept, self.browser))
        return {"kept": kept_told(kept), "library": self.library, "wants": wants}

    def pictures(self, given: dict[str, Any]) -> dict[str, Any]:
        """Pictures of a kept page, as the browser has them; the others are fetched."""
        page = self.open_page(given["capture"])
        there: dict[str, FetchedPicture] = {}
        for one in given["pictures"]:
            picture = handed_picture(one)
            if picture is not None:
                there[picture.address] = picture
        self.fetch_pictures(page, there)
        return {"taken": len(there)}

    def wait_for_pictures(self, page: OpenPage) -> None:
        """Gives the companion a while to hand over the pictures of a page that is kept."""
        page.timer = threading.Timer(PICTURES_WAIT_S, self.fetch_late, (page,))
        page.timer.daemon = True
        with self.lock:
            self.waiting.append(page)
        page.timer.start()

    def fetch_late(self, page: OpenPage) -> None:
        """Nobody has handed the pictures over: they are fetched, unless the library was closed meanwhile."""
        with suppress(RuntimeError):  # what executors raise that are shut down
            self.fetch_pictures(page, {})

    def fetch_pictures(self, page: OpenPage, there: Mapping[str, FetchedPicture]) -> None:
        """Keeps the pictures of a page, in the tray; once, whoever comes first."""
        with self.lock:
            if page not in self.waiting or page.kept is None or page.timer is None:
                return
            self.waiting.remove(page)
            page.timer.cancel()
            self.fetching = [job for job in self.fetching if not job.is_over]
        slip, kept = page.slip, page.kept

        def work(job: Job) -> None:
            failures = CaptureRun(self.session, job, job.is_cancelled).pictures(slip, kept, there)
            if failures:
                self.session.publish(PicturesMissing(missing_pictures(slip, failures)))

        self.fetching.append(self.session.start(f"Pictures of “{kept.title}”", work))

    def later(self, given: dict[str, Any]) -> dict[str, Any]:
        """Keeps an address alone."""
        run = CaptureRun(self.session)
        kept = run.keep_address(from_typed(given["address"]), given["title"] or "", given["place"] or "")
        self.session.publish(KeptOutside(kept, self.browser))
        return {"kept": kept_told(kept), "library": self.library}

    def undo(self, given: dict[str, Any]) -> dict[str, Any]:
        """Takes back what was kept."""
        moved = self.session.do(Undo(given["step"]))
        return {"undone": moved.step.label if moved is not None else ""}

    # what is there already

    def known(self, given: dict[str, Any]) -> dict[str, Any]:
        """What is kept from an address, and its marks."""
        reader = self.session.reader
        found = reader.slips.known_anywhere(canonical(given["address"]))
        marks = reader.entries.marks(found[0].place, found[0].entry.id) if found else ()
        known = [[one.place_name, one.entry.title, one.when, one.place, one.entry.id] for one in found]
        return {"known": known, "marks": marks_told(marks), "kinds": kinds_told(self.session.overview)}

    def mark(self, given: dict[str, Any]) -> dict[str, Any]:
        """Marks go into the entry that is kept from an address.

        Raises:
            UserError: nothing is kept from it.
        """
        found = self.session.reader.slips.known_anywhere(canonical(given["address"]))
        if not found:
            raise UserError("not-known", "Nothing is kept from this page yet.", "Keep it.")
        place, entry_id = found[0].place, found[0].entry.id
        for mark in marks_in(given["remove"]):
            self.session.do(RemoveMark(place, entry_id, mark))
        for mark in marks_in(given["put"]):
            self.session.do(PutMark(place, entry_id, mark))
        return {"marks": marks_told(self.session.reader.entries.marks(place, entry_id))}

    # the window

    def open(self, given: dict[str, Any]) -> dict[str, Any]:
        """Opens an address with its slip, or its draft, in the window."""
        self.front.open_address(Visit(from_typed(given["address"])))
        return {}

    def entry(self, given: dict[str, Any]) -> dict[str, Any]:
        """Shows an entry in the window."""
        self.front.open_entry(given["place"], given["entry"])
        return {}

    def show(self, _given: dict[str, Any]) -> dict[str, Any]:
        """Brings the window up."""
        self.front.come_up()
        return {}

    def visit(self, given: dict[str, Any]) -> dict[str, Any]:
        """Opens what another start of the program was given."""
        address, words = from_typed(given["address"]), given["words"] or ""
        self.front.open_address(Visit(address, words, is_typed=given["is_typed"]))
        return {}


def large_of(hand: ByHand) -> ByHand:
    """What of that which a person did is not told to the companion, since it may be larger than a message: the text, long values."""
    values = {key: one for key, one in hand.values.items() if len(one.text) > LONGEST_TEXT}
    return ByHand(values=values, body=hand.body)


def is_small(answer: Mapping[str, Any]) -> bool:
    """Whether a browser takes an answer."""
    return len(json.dumps(answer)) < LARGEST_OUT - HEAD.size


def too_large(number: int | None) -> dict[str, Any]:
    """What is answered instead of what no browser takes."""
    said = "The slip of this page is too large for the browser. Open it in the window; nothing of it is lost."
    return {"id": number, "ok": False, "error": "companion-too-large", "message": said}


def library_name(folder: Path) -> str:
    """What is said of a library that is not the usual one, "" of that."""
    return "" if folder.name == "library" else folder.name


def kept_told(kept: Kept) -> dict[str, Any]:
    """Where something went."""
    return {
        "place": kept.place, "place_name": kept.place_name, "entry": kept.entry_id, "title": kept.title,
        "status": kept.status, "step": kept.step,
    }  # fmt: skip


def picture_in(address: str) -> bytes:
    """The contents of a `data:` address of a PNG (RFC 2397); nothing where it is none."""
    head, _, body = address.partition(",")
    if head != "data:image/png;base64":
        return b""
    try:
        return base64.b64decode(body, validate=True)
    except binascii.Error:
        return b""


def handed_picture(one: object) -> FetchedPicture | None:
    """A picture as the companion hands it over; None where it is none."""
    if not isinstance(one, dict) or not all(isinstance(one.get(key), str) for key in ("address", "type", "data")):
        return None
    if not one["type"].startswith("image/") or len(one["data"]) > LARGEST_PICTURE_BYTES * 4 // 3 + 4:
        return None
    try:
        content = base64.b64decode(one["data"], validate=True)
    except binascii.Error:
        return None
    return FetchedPicture(one["address"], content, one["type"].partition(";")[0].casefold()) if content else None
