"""Files that a person gives: lists of addresses, e-mails, mailboxes (mbox, RFC 4155), folders of e-mails (Maildir), other files.

What a file is, its beginning tells, whatever it is called. The e-mails of a mailbox are copied out of it first, so that
nothing depends on it any more.
"""

import hashlib
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from email import policy
from email.parser import BytesHeaderParser
from itertools import groupby
from pathlib import Path
from tempfile import NamedTemporaryFile

from wily_magpie.core.entries.dropped import Dropped
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.exchange.addresses import LARGEST_BYTES, Named, UnderstoodList, addresses_of, joined, read_bounded
from wily_magpie.core.pages.files.beginnings import (
    HEAD_BYTES,
    HEADER_LINE,
    MAILBOX_LINE,
    is_address_list,
    is_mailbox,
    looks_like_mail,
)

LISTS = (".txt", ".md", ".csv", ".tsv", ".html", ".htm", ".opml", ".url", ".desktop", "")
"""Endings of files that may hold addresses; what holds none, or one alone amid text, is a file to be read."""
QUOTED_LINE = re.compile(rb">+From ")
MOST_FILES = 20_000
"""Of a folder."""


def understood_files(paths: Sequence[Path]) -> UnderstoodList:
    """What is to be captured of some files: addresses, and paths of files that are read themselves.

    Raises:
        EnvironmentFailure: none of them can be read.
        UserError: there is nothing in them that could be captured.
    """
    found = joined([one_given(path) for path in paths])
    if not found.addresses and not found.others:
        raise UserError(
            "nothing-to-capture",
            f"There is nothing in {paths[0].name} that could be captured.",
            "Give a list of addresses, a mailbox, a folder of e-mails, or files that can be read.",
        )
    return found


def understood_input(content: bytes) -> UnderstoodList:
    """The same of what comes without a name, from standard input or a pipe."""
    if is_mailbox(content[:HEAD_BYTES]) or looks_like_mail(content[:HEAD_BYTES]):
        return one_given(kept_copy("input", [content]))
    return addresses_of(content.decode("utf-8-sig", "replace"))


def one_given(path: Path) -> UnderstoodList:
    """What one file or folder gives.

    Raises:
        EnvironmentFailure: it cannot be read.
        UserError: it is too large for a list of addresses.
    """
    head = head_of(path)
    if holds_mails(path, head) or not may_be_list(path, head) or path.stat().st_size > LARGEST_BYTES:
        return mails_of(path, head)
    found = listed(path)
    is_list = is_address_list(head) or len(found.addresses) > len(found.others)
    return found if is_list else UnderstoodList(((str(path), path.name),))


def listed(path: Path) -> UnderstoodList:
    """What a list gives: the addresses in it, or e-mails where it holds these.

    Raises:
        EnvironmentFailure: it cannot be read.
        UserError: it is too large.
    """
    head = head_of(path)
    if holds_mails(path, head):
        return mails_of(path, head)
    content = read_bounded(path)
    return addresses_of(content.decode("utf-8-sig", "replace"), path.name) if head else understood_input(content)


def holds_mails(path: Path, head: bytes) -> bool:
    """Whether it is a folder, a mailbox or an e-mail."""
    return path.is_dir() or is_mailbox(head) or looks_like_mail(head)


def mails_of(path: Path, head: bytes) -> UnderstoodList:
    """The e-mails of a folder or a mailbox; else the file as it is."""
    if path.is_dir():
        return UnderstoodList(tuple(in_folder(path)))
    return UnderstoodList(tuple(in_mailbox(path)) if is_mailbox(head) else ((str(path), path.name),))


def holds_several(path: Path) -> bool:
    """Whether a file or folder is no page of its own, but holds e-mails or addresses."""
    if path.is_dir():
        return True
    head = head_of(path) if path.is_file() else b""
    return is_mailbox(head) or is_address_list(head)


def sorted_out(given: Dropped, *, is_onto_entry: bool) -> tuple[Dropped, tuple[Path, ...]]:
    """What was dropped on a place, parted: what is kept as it is, and files and folders that are read for what is in them.

    A file that holds one address counts as that address. An e-mail that is dropped on an entry belongs to it as it is.

    Raises:
        EnvironmentFailure: a file cannot be read.
    """
    addresses, files, read = list(given.addresses), [], []
    for path in given.files:
        head = head_of(path) if not path.is_dir() else b""
        if path.is_dir() or is_mailbox(head) or (looks_like_mail(head) and not is_onto_entry):
            read.append(path)
        elif is_address_list(head):
            listed = one_given(path).addresses
            addresses += listed if len(listed) == 1 else []
            read += [path] if len(listed) != 1 else []
        else:
            files.append(path)
    return replace(given, addresses=tuple(addresses), files=tuple(files)), tuple(read)


def head_of(path: Path) -> bytes:
    """The beginning of a file; nothing of a pipe, whose beginning cannot be read twice.

    Raises:
        EnvironmentFailure: it cannot be read.
    """
    try:
        if not path.exists():
            raise EnvironmentFailure("list-unreadable", f"There is no file {path}.", "Check its name and place.")
        if not path.is_file():
            return b""
        with path.open("rb") as file:
            return file.read(HEAD_BYTES)
    except OSError as error:
        raise EnvironmentFailure("list-unreadable", f"{path} cannot be read: {error.strerror}.") from error


def may_be_list(path: Path, head: bytes) -> bool:
    """Whether a file may hold addresses to be captured rather than being a text, or a page that was saved."""
    is_page = path.suffix.casefold() in (".html", ".htm") or b"<html" in head[:2_000].lower()
    return is_address_list(head) or (not is_page and path.suffix.casefold() in LISTS and b"\0" not in head)


def in_folder(folder: Path) -> Iterator[Named]:
    """What can be read of a folder, at any depth: e-mails and mailboxes, each by its content, and other files by their names.

    Raises:
        UserError: it has more files than a list.
    """
    from wily_magpie.core.pages.files.recognise import BY_NAME  # the reader's room is not loaded with this one

    paths = sorted(path for path in folder.rglob("*") if is_shown_file(path, folder))
    if len(paths) > MOST_FILES:
        raise UserError(
            "list-too-large", f"{folder} has more than {MOST_FILES:,} files.", "Give the folders in it one by one."
        )
    for path in paths:
        head = head_of(path)
        if is_mailbox(head):
            yield from in_mailbox(path)
        elif looks_like_mail(head) or path.suffix.casefold().removeprefix(".") in BY_NAME:
            yield str(path), path.name


def is_shown_file(path: Path, folder: Path) -> bool:
    """Whether a file of a folder is one that people see there: no link, nothing hidden."""
    inside = path.relative_to(folder).parts
    return not any(part.startswith(".") for part in inside) and path.is_file() and not path.is_symlink()


def in_mailbox(path: Path) -> Iterator[Named]:
    """The e-mails of a mailbox, each copied into a file of its own.

    Raises:
        EnvironmentFailure: it cannot be read, or the copies cannot be written.
    """
    try:
        for _, lines in groupby(numbered_lines(path), key=lambda one: one[0]):
            copy = kept_copy(str(path.absolute()), (line for _, line in lines))
            yield str(copy), subject_of(head_of(copy)) or copy.name
    except OSError as error:
        raise EnvironmentFailure("list-unreadable", f"{path} cannot be read: {error}.") from error


def numbered_lines(path: Path) -> Iterator[tuple[int, bytes]]:
    """The lines of a mailbox as they were before they were put into it (mboxrd), each with the number of its message.

    A line that begins with "From " begins another message where a blank line stands before it and a header behind it; else it is
    text that whoever wrote the mailbox did not quote.
    """
    number, separator, is_after_blank = 0, b"", True
    with path.open("rb") as file:
        for line in file:
            if separator and HEADER_LINE.match(line):
                number += 1
            elif separator:
                yield number, separator
            separator = line if is_after_blank and MAILBOX_LINE.match(line) else b""
            is_after_blank = not line.strip()
            if not separator and number:
                yield number, line[1:] if QUOTED_LINE.match(line) else line


def subject_of(content: bytes) -> str:
    """The subject of a message, as a title; "" where it has none that can be read."""
    try:
        return " ".join(
            str(BytesHeaderParser(policy=policy.default).parsebytes(content[:HEAD_BYTES])["subject"] or "").split()
        )
    except (ValueError, LookupError, AttributeError, TypeError, RecursionError):  # what it meets in broken headers
        return ""


def kept_copy(source: str, lines: Iterable[bytes]) -> Path:
    """A copy of a message that came in a mailbox or a pipe, which only this person may read; named by its contents.

    Raises:
        EnvironmentFailure: it cannot be written.
    """
    import platformdirs  # where files live (XDG base directories)

    name = hashlib.sha256(source.encode("utf-8", "surrogateescape")).hexdigest()[:16]
    folder = Path(platformdirs.user_cache_dir("wily-magpie")) / "mail" / name
    digest = hashlib.sha256()
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        with NamedTemporaryFile(dir=folder, delete=False) as file:
            for line in lines:
                file.write(line)
                digest.update(line)
        path = folder / f"{digest.hexdigest()[:24]}.eml"
        Path(file.name).replace(path)
    except OSError as error:
        raise EnvironmentFailure(
            "list-unreadable", f"A copy of an e-mail cannot be written: {error}.", "Make room on the disk."
        ) from error
    return path
