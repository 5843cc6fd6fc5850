"""Addresses in a text or a file: lines, CSV, bookmarks (Netscape), OPML 2.0, `.url` and `.desktop` files."""

import configparser
import csv
import os
import re
import stat
import time
from collections.abc import Callable, Iterable, Sequence
from io import StringIO
from pathlib import Path

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.pages.address import canonical, from_typed, looks_like_address

LARGEST_BYTES, MOST_ADDRESSES = 50_000_000, 20_000
PIECE_BYTES, WRITER_WAIT_S = 65_536, 5.0
"""How much of a pipe is read at once at first, and how long somebody is waited for who writes into it."""
INSIDE = re.compile(r"https?://[^\s<>\"'`]+", re.IGNORECASE)
LINK_HEADS = ("[internetshortcut]", "[desktop entry]")
CLOSING = {")": "(", "]": "[", "}": "{"}
Named = tuple[str, str]
"""An address as it stands there, and its title or ""."""


@dataclass(frozen=True)
class UnderstoodList:
    """What was understood of a text.

    Attributes:
        addresses: each once, in their order, with the title that stood there.
        doubles: how many more were in it that are the same page as one of these; others: lines that are no address.
        beyond: how many more it had than a list takes.
    """

    addresses: tuple[Named, ...] = ()
    doubles: int = 0
    others: tuple[str, ...] = ()
    beyond: int = 0

    @property
    def told_beyond(self) -> str:
        """What is said of those that a list does not take, or ""."""
        if not self.beyond:
            return ""
        return (
            f"A list takes {MOST_ADDRESSES:,} addresses: the {self.beyond:,} behind them are left out. "
            "Give these in a list of their own."
        )


def joined(lists: Sequence[UnderstoodList]) -> UnderstoodList:
    """Several of them as one, each address once."""
    kept: dict[str, Named] = {}
    doubles, beyond = (sum(getattr(one, name) for one in lists) for name in ("doubles", "beyond"))
    for address, title in (named for one in lists for named in one.addresses):
        doubles += address in kept
        if address not in kept and len(kept) >= MOST_ADDRESSES:
            beyond += 1
        else:
            kept.setdefault(address, (address, title))
    return UnderstoodList(tuple(kept.values()), doubles, tuple(line for one in lists for line in one.others), beyond)


def addresses_in_text(text: str) -> UnderstoodList:
    """The addresses of a text, whatever form it has."""
    found, others = [], []
    for line in text.splitlines():
        bare = line.strip()
        if not bare or bare.startswith("#"):
            continue
        if looks_like_address(bare):
            found.append((bare, ""))
            continue
        inside = [(trimmed(one), "") for one in INSIDE.findall(bare)]
        found += inside
        if not inside:
            others.append(bare)
    return understood(found, others)


def read_bounded(path: Path) -> bytes:
    """What stands in a file, or comes out of a pipe.

    Raises:
        EnvironmentFailure: it cannot be read.
        UserError: it is too large; no more than that is read of what has no end.
    """
    try:
        with open(path, "rb", opener=without_waiting) as file:
            begun = first_of_pipe(file.fileno())
            os.set_blocking(file.fileno(), True)
            content = begun + file.read(LARGEST_BYTES + 1)
    except OSError as error:
        raise EnvironmentFailure("list-unreadable", f"{path} cannot be read: {error.strerror}.") from error
    return within_bounds(content, path.name)


def without_waiting(path: str, flags: int) -> int:
    """Opens a file or a pipe at once, whether somebody writes into that or not."""
    return os.open(path, flags | os.O_NONBLOCK)


def first_of_pipe(file: int) -> bytes:
    """The first bytes of a pipe, for whose writer is waited a while; nothing of a file, or where somebody will still write."""
    until_s = time.monotonic() + WRITER_WAIT_S
    while stat.S_ISFIFO(os.fstat(file).st_mode):
        try:
            begun = os.read(file, PIECE_BYTES)
        except BlockingIOError:  # there is a writer, who has not written yet
            break
        if begun or time.monotonic() > until_s:
            return begun
        time.sleep(0.05)
    return b""


def within_bounds(content: bytes, name: str) -> bytes:
    """What was read, unless it is more than a list may have.

    Raises:
        UserError: it is.
    """
    if len(content) > LARGEST_BYTES:
        raise UserError("list-too-large", f"{name} is larger than {LARGEST_BYTES // 1_000_000} MB.", "Split it.")
    return content


def addresses_of(text: str, name: str = "") -> UnderstoodList:
    """The addresses of a text in the form that its name, or its beginning, tells."""
    head, ending = text[:2_000].casefold(), name.casefold().rpartition(".")[2]
    form = next((act for test, act in FORMS if test(head, ending)), None)
    if form is None:
        return addresses_in_text(text)
    return understood(form(text), [])


def understood(found: Iterable[Named], others: Iterable[str]) -> UnderstoodList:
    """Each page once; what is no address of the web is told."""
    kept: dict[str, Named] = {}
    doubles, beyond, strange = 0, 0, list(others)
    for given, title in found:
        try:
            address = from_typed(given)
        except UserError:
            strange.append(given)
            continue
        key = canonical(address)
        doubles += key in kept
        if key not in kept and len(kept) >= MOST_ADDRESSES:
            beyond += 1
        elif key not in kept:
            kept[key] = (address, " ".join(title.split()))
    return UnderstoodList(tuple(kept.values()), doubles, tuple(strange), beyond)


def trimmed(address: str) -> str:
    """An address in a sentence, without the signs that end it; a bracket that it opened itself stays."""
    while address and (address[-1] in ".,;:!?*_" or (address[-1] in CLOSING and CLOSING[address[-1]] not in address)):
        address = address[:-1]
    return address


def in_bookmarks(text: str) -> list[Named]:
    """Bookmarks as browsers write them: `<A HREF="…">title</A>`."""
    from wily_magpie.core.pages import tree  # only such files need it

    return [
        (address, str(one.text_content()))
        for one in tree.parse(text).iter("a")
        if re.match(r"https?:", address := str(one.get("href") or ""), re.IGNORECASE)
    ]


def in_opml(text: str) -> list[Named]:
    """An outline: the page of each of its lines, else its feed."""
    from lxml import etree  # as above

    parser = etree.XMLParser(resolve_entities=False, no_network=True, recover=True, huge_tree=False)
    try:
        root = etree.fromstring(text.encode(errors="replace"), parser)
    except etree.XMLSyntaxError:  # not even the beginning of one
        return []
    out = []
    for one in root.iter("outline") if root is not None else ():
        address = one.get("htmlUrl") or one.get("url") or one.get("xmlUrl") or ""
        if address:
            out.append((str(address), str(one.get("title") or one.get("text") or "")))
    return out


def in_link_file(text: str) -> list[Named]:
    """A `.url` or `.desktop` file: the line URL of its first section."""
    parser = configparser.ConfigParser(interpolation=None, strict=False, delimiters=("=",))
    try:
        parser.read_string(text)
    except configparser.Error:
        return []
    return [
        (parser[name]["url"], parser[name].get("name", "")) for name in parser.sections() if parser[name].get("url")
    ]


def in_csv(text: str) -> list[Named]:
    """A table: the column that holds most addresses, and the one that is headed by the word title or name."""
    first = text.lstrip().split("\n", 1)[0]
    separator = max(",;\t|", key=first.count)
    try:
        rows = [row for row in csv.reader(StringIO(text, newline=""), delimiter=separator) if any(row)]
    except csv.Error:  # a field without end
        rows = []
    width = max(map(len, rows), default=0)
    counts = [sum(len(row) > at and looks_like_address(row[at]) for row in rows) for at in range(width)]
    if not any(counts):  # no table, or one with a quotation mark that is never closed
        return [(trimmed(one), "") for one in INSIDE.findall(text)]
    column = counts.index(max(counts))
    heads = [one.strip().casefold() for one in rows[0]]
    title = next((at for at, head in enumerate(heads) if head in ("title", "name", "titel")), None)
    has_head = len(rows[0]) > column and not looks_like_address(rows[0][column])
    return [
        (row[column], row[title] if title is not None and len(row) > title else "")
        for row in rows[int(has_head) :]
        if len(row) > column and row[column].strip()
    ]


Form = Callable[[str], list[Named]]
FORMS: tuple[tuple[Callable[[str, str], bool], Form], ...] = (
    (lambda head, ending: "<!doctype netscape-bookmark" in head or ending in ("html", "htm"), in_bookmarks),
    (lambda head, ending: "<opml" in head or ending == "opml", in_opml),
    (lambda head, ending: ending in ("url", "desktop") or head.lstrip().startswith(LINK_HEADS), in_link_file),
    (lambda _head, ending: ending in ("csv", "tsv"), in_csv),
)  # fmt: skip
