"""What a file is, by how it begins, whatever it is called: an e-mail, a mailbox, a list of addresses."""

import re

HEAD_BYTES = 20_000
"""As much as is looked at."""
MAILBOX_LINE = re.compile(rb"From \S")
HEADER_LINE = re.compile(rb"[!-9;-~]+:")
OF_MAILS = frozenset((b"date", b"subject", b"to", b"message-id", b"received"))
ADDRESS_LISTS = ("<!doctype netscape-bookmark", "<opml", "[internetshortcut]", "[desktop entry]")
"""Bookmarks, outlines (before which a line of XML may stand), link files of two desktops."""


def looks_like_mail(content: bytes) -> bool:
    """Whether bytes begin with the header of a message: two of its fields, one of them that of the sender."""
    head = content[:HEAD_BYTES].lstrip(b"\xef\xbb\xbf\r\n").split(b"\n\n")[0].split(b"\r\n\r\n")[0]
    names = {found.lower() for found in re.findall(rb"^([A-Za-z-]+):", head, re.MULTILINE)}
    return b"from" in names and bool(names & OF_MAILS)


def is_mailbox(head: bytes) -> bool:
    """Whether a file begins as a mailbox does: with a line of its own for the first message, and a header behind it."""
    first, _, rest = head.removeprefix(b"\xef\xbb\xbf").lstrip(b"\r\n").partition(b"\n")
    return bool(MAILBOX_LINE.match(first) and HEADER_LINE.match(rest))


def is_address_list(head: bytes) -> bool:
    """Whether a file begins as those do that hold nothing but addresses."""
    text = head[:2_000].decode("utf-8-sig", "replace").casefold().lstrip()
    return text.startswith(ADDRESS_LISTS) or (text.startswith("<?xml") and "<opml" in text)
