"""Drafts: slips that were touched and are not kept yet, each with its page. They are no steps, and nothing of them is undone."""

import json
import zlib

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.waiting import WaitingDraft
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.stored_json import read_texts
from wily_magpie.core.places.table import now

TOLD = ("address", "way", "asked", "media_type", "notice", "identity")


@dataclass(frozen=True)
class StoredDraft:
    """A whole draft.

    Attributes:
        by_hand: JSON of what the person did.
        screenshot: PNG, or nothing.
    """

    title: str
    by_hand: str
    page: Page
    screenshot: bytes = b""


class DraftStore:
    """The table of that name; one draft an address."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def all(self) -> list[WaitingDraft]:
        """Those that wait, the one touched last first."""
        rows = self.database.rows(
            "SELECT address, title, touched FROM draft WHERE NOT dropped ORDER BY touched DESC, id DESC"
        )
        return [WaitingDraft(*map(str, row)) for row in rows]

    def find(self, address: str) -> StoredDraft | None:
        """The draft of a page; None where none waits."""
        rows = self.database.rows(
            "SELECT title, by_hand, page, content, screenshot FROM draft WHERE address = ? AND NOT dropped",
            (key_of(address),),
        )
        if not rows:
            return None
        title, by_hand, told, content, screenshot = rows[0]
        about = read_texts(told)
        whole = zlib.decompress(content if isinstance(content, bytes) else b"")
        is_file = about.pop("is_file", "") == "yes"
        html = about.pop("html", "") if is_file else whole.decode("utf-8", "surrogatepass")
        page = Page(html=html, file=whole if is_file else b"", **{name: about.get(name, "") for name in TOLD})
        return StoredDraft(str(title), str(by_hand), page, screenshot if isinstance(screenshot, bytes) else b"")

    def put(self, draft: StoredDraft) -> None:
        """Writes a draft down; of one whose page is there already, only what was done on it."""
        page, address = draft.page, key_of(draft.page.address)
        about = {name: str(getattr(page, name)) for name in TOLD}
        if page.file:
            about |= {"is_file": "yes", "html": page.html}
        content = page.file or page.html.encode("utf-8", "surrogatepass")
        known = self.database.one("SELECT page FROM draft WHERE address = ?", (address,))
        told = json.dumps({**about, "checksum": str(zlib.crc32(content))}, ensure_ascii=False)
        with self.database.writing() as connection:
            if known == told:
                connection.execute(
                    "UPDATE draft SET title = ?, touched = ?, by_hand = ?, dropped = 0 WHERE address = ?",
                    (draft.title, now(), draft.by_hand, address),
                )
                return
            connection.execute("DELETE FROM draft WHERE address = ?", (address,))
            connection.execute(
                "INSERT INTO draft (address, title, touched, by_hand, page, content, screenshot)"
                " VALUES (?, ?, ?, ?, ?, ?, ?)",
                (address, draft.title, now(), draft.by_hand, told, zlib.compress(content), draft.screenshot),
            )

    def set_dropped(self, address: str, *, is_dropped: bool) -> None:
        """Drops a draft, which can still be brought back; or brings it back."""
        with self.database.writing() as connection:
            connection.execute("UPDATE draft SET dropped = ? WHERE address = ?", (int(is_dropped), key_of(address)))

    def remove(self, address: str) -> None:
        """Forgets the draft of a page: it is kept, or nothing is done on it any more."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM draft WHERE address = ?", (key_of(address),))

    def sweep(self) -> None:
        """Forgets those that were dropped."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM draft WHERE dropped")


def key_of(address: str) -> str:
    """An address as drafts are known by it: without its fragment, unless that is a route."""
    before, sign, fragment = address.partition("#")
    return address if fragment.startswith(("!", "/")) else before if sign else address
