"""Files that a person gives: lists of addresses, e-mails, mailboxes (mbox, RFC 4155), folders of e-mails (Maildir), other files.

The e-mails of a mailbox are copied out of it first, so that nothing depends on it any more.
"""

import hashlib
import mailbox
from collections.abc import Iterator, Sequence
from pathlib import Path

from wily_magpie.core.errors import EnvironmentFailure
from wily_magpie.core.exchange.addresses import MOST_ADDRESSES, Named, UnderstoodList, addresses_in_file

LISTS = (".txt", ".md", ".csv", ".tsv", ".html", ".htm", ".opml", ".url", ".desktop")
"""Endings of files that may hold addresses; what holds none, or one alone amid text, is a file to be read."""
ALWAYS_LISTS = (".opml", ".url", ".desktop")
MAILDIR = ("cur", "new")


def understood_files(paths: Sequence[Path]) -> UnderstoodList:
    """What is to be captured of some files: addresses, and paths of files that are read themselves.

    Raises:
        EnvironmentFailure: none of them can be read.
    """
    found: dict[str, Named] = {}
    doubles = 0
    others: list[str] = []
    for path in paths:
        for address, title in one_given(path, others):
            doubles += address in found
            if len(found) < MOST_ADDRESSES:
                found.setdefault(address, (address, title))
    if not found and not others:
        raise EnvironmentFailure(
            "list-unreadable",
            f"There is nothing in {paths[0].name} that could be captured.",
            "Give a list of addresses.",
        )
    return UnderstoodList(tuple(found.values()), doubles, tuple(others))


def one_given(path: Path, others: list[str]) -> Iterator[Named]:
    """What one file or folder gives.

    Args:
        others: gets what is no address.
    """
    if path.is_dir():
        yield from in_folder(path)
    elif path.suffix.casefold() == ".mbox" or is_mbox(path):
        yield from in_mbox(path)
    elif path.suffix.casefold() in LISTS and (listed := addresses_in_file(path)) and is_list(path, listed):
        others += listed.others
        yield from listed.addresses
    else:
        yield str(path), path.name


def is_list(path: Path, listed: UnderstoodList) -> bool:
    """Whether a file is a list of addresses rather than a text, or a page that was saved."""
    if path.suffix.casefold() in ALWAYS_LISTS:
        return bool(listed.addresses)
    if path.suffix.casefold() in (".html", ".htm"):
        with path.open("rb") as file:
            return b"netscape-bookmark" in file.read(2_000).lower()
    return len(listed.addresses) > len(listed.others)


def in_folder(folder: Path) -> Iterator[Named]:
    """The e-mails of a folder: a Maildir, or one with files of e-mails, at any depth."""
    for path in sorted(folder.rglob("*")):
        is_mail = path.suffix.casefold() == ".eml" or path.parent.name in MAILDIR
        if is_mail and path.is_file() and not path.is_symlink():
            yield str(path), path.name


def is_mbox(path: Path) -> bool:
    """Whether a file begins as a mailbox does."""
    try:
        with path.open("rb") as file:
            return path.suffix.casefold() in ("", ".mbox") and file.read(5) == b"From "
    except OSError:
        return False


def in_mbox(path: Path) -> Iterator[Named]:
    """The e-mails of a mailbox, each copied into a file of its own."""
    import platformdirs  # where files live (XDG base directories)

    box = mailbox.mbox(str(path), create=False)
    name = hashlib.sha256(str(path.absolute()).encode()).hexdigest()[:16]
    folder = Path(platformdirs.user_cache_dir("wily-magpie")) / "mail" / name
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for key in box.iterkeys():
            content = box.get_bytes(key)
            out = folder / f"{hashlib.sha256(content).hexdigest()[:24]}.eml"
            if not out.exists():
                out.write_bytes(content)
            yield str(out), str(box.get_message(key).get("Subject", "")) or out.name
    except OSError as error:
        raise EnvironmentFailure("list-unreadable", f"{path} cannot be read: {error}.") from error
    finally:
        box.close()
