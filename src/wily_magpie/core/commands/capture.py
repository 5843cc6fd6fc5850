"""Commands that keep what was captured: slips, addresses for later, pictures."""

from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from urllib.parse import unquote, urlsplit

from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Draft, short, with_files
from wily_magpie.core.entries.kept import Kept
from wily_magpie.core.events import Event, PicturesKept
from wily_magpie.core.fields import Value
from wily_magpie.core.pages.address import canonical
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.table import now
from wily_magpie.core.templates.rules import SCREENSHOT
from wily_magpie.core.templates.slip import Slip

SCREENSHOT_NAME = "what was visible.png"


@dataclass(frozen=True)
class KeepSlip(StepCommand[Kept]):
    """Keeps a slip as a new entry, or, with is_update, in the entry that is already kept from its page."""

    slip: Slip
    is_update: bool = False

    def label(self, _library: Library) -> str:
        return f"{'Update' if self.is_update else 'Keep'} “{short(self.slip.draft().title)}”"

    def do(self, library: Library, _progress: Progress) -> Kept:
        slip, place = self.slip, library.place(self.slip.place)
        place.make_notes(slip.notes)
        if slip.template.way is not None and place.dry_run(slip.template.way) is not None:
            entry_id, status = place.write_into(slip.template.way, self.as_part()), "kept"
        elif self.is_update and slip.known:
            entry_id, status = self.updated(library, place, slip.known.id), "updated"
        else:
            entry_id, status = place.add(self.wanted(library, place)), "kept"
        page = slip.reading.page
        if page.html:
            library.blobs.keep_page(place, entry_id, page, slip.reading.canonical)
        if slip.marks:
            library.marks.put(place.key, place.owner_of(entry_id), slip.marks)
        return Kept(place.key, place.name, entry_id, slip.title, status)

    def as_part(self) -> str:
        """What is written into a note."""
        draft, address = self.slip.draft(), self.slip.reading.page.address
        return self.slip.body.strip() or (f"[{draft.title}]({address})" if address else draft.title)

    def updated(self, library: Library, place: Place, entry_id: int) -> int:
        """Writes the slip into the entry that is there."""
        draft = self.wanted(library, place)
        place.change(entry_id, {"title": draft.title, **draft.values}, draft.body)
        return entry_id

    def wanted(self, library: Library, place: Place) -> Draft:
        """The entry that it becomes, with the picture of what was visible."""
        draft = self.slip.draft()
        files = with_files(self.slip.known if self.is_update else None, self.screenshots(library))
        return replace(draft, values=library.resolve(place, {**draft.values, **files}))

    def screenshots(self, library: Library) -> dict[str, tuple[str, ...]]:
        """The stored picture of what was visible, for the fields that want it."""
        wanted = [line.field.key for line in self.slip.lines if line.field.kind.holds_files and line.text == SCREENSHOT]
        if not wanted or not self.slip.screenshot:
            return {}
        stored = library.blobs.keep_file(SCREENSHOT_NAME, self.slip.screenshot, self.slip.reading.page.address)
        return dict.fromkeys(wanted, (stored,))


@dataclass(frozen=True)
class KeepAddress(StepCommand[Kept]):
    """Keeps only an address, to be read later; one that is there already is only told.

    Attributes:
        place: key; "" for the first one.
    """

    address: str
    title: str = ""
    place: str = ""

    def label(self, _library: Library) -> str:
        return f"Keep “{short(self.title or self.address)}” for later"

    def do(self, library: Library, _progress: Progress) -> Kept:
        target = library.place(self.place) if self.place else library.first_place()
        known = target.known(canonical(self.address))
        if known is not None:
            return Kept(target.key, target.name, known.id, known.title, "known")
        fresh: dict[str, Value] = {"address": self.address, "status": "to read", "captured": now()[:16] + "Z"}
        title = self.title or self.address
        entry_id = target.add(Draft(title, fresh, "", canonical(self.address)))
        return Kept(target.key, target.name, entry_id, title, "kept")


@dataclass(frozen=True)
class FetchedPicture:
    """A picture as it came."""

    address: str
    content: bytes
    media_type: str


@dataclass(frozen=True)
class KeepPictures(StepCommand[None]):
    """Keeps pictures that were fetched, the icon of a site, and pictures that belong into fields of files.

    Attributes:
        kept: where the slip went that they belong to.
        icon: (host, address) of a site's icon among them.
        files: address by the key of the field.
    """

    kept: Kept
    pictures: Sequence[FetchedPicture]
    icon: tuple[str, str] | None = None
    files: Mapping[str, str] = field(default_factory=dict)

    def label(self, _library: Library) -> str:
        return f"Keep the pictures of “{short(self.kept.title)}”"

    def do(self, library: Library, _progress: Progress) -> None:
        for one in self.pictures:
            library.blobs.keep_picture(one.address, one.content, one.media_type)
        if self.icon is not None:
            library.blobs.keep_icon(*self.icon)
        self.attach(library)

    def attach(self, library: Library) -> None:
        """Puts pictures into fields of files."""
        place = library.place(self.kept.place)
        found = {key: library.blobs.picture(address) for key, address in self.files.items() if address}
        stored = {
            key: (library.blobs.keep_file(name_in(self.files[key]), content, self.files[key]),)
            for key, content in found.items()
            if content
        }
        values = with_files(place.entry(self.kept.entry_id), stored)
        if values:
            place.change(self.kept.entry_id, values)

    def tells(self) -> tuple[Event, ...]:
        return (PicturesKept(self.kept.place),)


def name_in(address: str) -> str:
    """The name of the file at an address."""
    return unquote(urlsplit(address).path.rpartition("/")[2]) or "picture"
