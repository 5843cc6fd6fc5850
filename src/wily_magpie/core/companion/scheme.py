"""Addresses of the scheme `wily-magpie:`, by which other browsers, and bookmarklets in them, hand an address over.

    wily-magpie:keep?url=ADDRESS&title=TITLE&words=WORDS
    wily-magpie:open?place=NAME&entry=NUMBER, or &note=PATH

Any page can make the person's browser call one, so that it opens a slip at most, and never one of this machine or the local network;
or shows an entry that is kept already, as living lists lead to them.
"""

from urllib.parse import parse_qs, urlsplit

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UserError
from wily_magpie.core.network import reach
from wily_magpie.core.pages.address import from_typed

SCHEME, MOST_WORDS, LONGEST = "wily-magpie", 20_000, 140_000


@dataclass(frozen=True)
class Visit:
    """An address that the program was started with, and words of its page that were chosen there.

    Attributes:
        is_typed: whether the person wrote it, who may go anywhere.
    """

    address: str
    words: str = ""
    is_typed: bool = True


def is_of_scheme(text: str) -> bool:
    """Whether a text is an address of that scheme."""
    return text[: len(SCHEME) + 1].casefold() == f"{SCHEME}:"


@dataclass(frozen=True)
class EntryCall:
    """An entry that is to be shown: of a place, by its number, or a note by its path."""

    place: str
    entry: int = 0
    note: str = ""


def entry_call(text: str) -> EntryCall | None:
    """The entry that an address of the scheme leads to; None where it asks for something else."""
    try:
        parts = urlsplit(text[:LONGEST])
        given = {key: values[0] for key, values in parse_qs(parts.query, max_num_fields=20).items()}
    except ValueError:
        return None
    act = (parts.netloc or parts.path).strip("/")
    number, note = given.get("entry", ""), given.get("note", "")
    if (
        not is_of_scheme(text)
        or act != "open"
        or not given.get("place")
        or not (note or (number.isascii() and number.isdigit()))
    ):
        return None
    return EntryCall(given["place"], int(number[:15] or "0"), note)


def visit_of(text: str) -> Visit:
    """What an address of the scheme asks for.

    Raises:
        UserError: nothing that is done by it.
    """
    if entry_call(text) is not None:
        return Visit(text, is_typed=False)
    try:
        parts = urlsplit(text[:LONGEST])
        given = parse_qs(parts.query, max_num_fields=20)
    except ValueError:
        parts, given = urlsplit(""), {}
    act = (parts.netloc or parts.path).strip("/")
    address = next(iter(given.get("url", [])), "")
    if act != "keep" or not address:
        raise UserError(
            "bad-call",
            f"“{text[:80]}” asks for nothing that is done.",
            "It is written like wily-magpie:keep?url=ADDRESS, or wily-magpie:open?place=NAME&entry=NUMBER.",
        )
    address = from_typed(address)
    host = urlsplit(address).hostname or ""
    if reach.is_local(host):
        raise UserError(
            "bad-call", f"{host} is of this machine or the local network, and may not be opened by a call from outside.",
            "Type the address yourself if it is meant.",
        )  # fmt: skip
    return Visit(address, next(iter(given.get("words", [])), "")[:MOST_WORDS].strip(), is_typed=False)
