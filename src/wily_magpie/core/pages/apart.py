"""Pages and files read in a process apart, so that no page takes more than its share or breaks more than that process."""

import base64
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wily_magpie.core.errors import BugError, PageFailure
from wily_magpie.core.pages.page import Block, Content, EnclosedFile, Finding, Page, Picture, Reading
from wily_magpie.core.worker.process import Broken, Ended, Limits, Worker

if TYPE_CHECKING:
    from wily_magpie.core.pages.files.recognise import Given

LIMITS = Limits(seconds=10, megabytes=1_000)
WORKER = Worker("wily_magpie.core.pages.served", LIMITS)
A_FILE = b"-"
"""Stands for a file where only whether there is one is asked."""


def read_page(page: Page) -> Reading:
    """All that a page says; takes up to a second for a long one.

    Raises:
        PageFailure: it takes too long or needs too much memory.
        BugError: it failed by a fault of ours, which is in the log.
    """
    told = asked("read", page.address, replace(page, file=A_FILE if page.file else b""))
    html, markdown, text, blocks = told["content"]
    return Reading(
        page if told["page"] is None else page_from(told["page"]),
        tuple(Finding(*one) for one in told["findings"]),
        Content(html, markdown, text, tuple(Block(*one) for one in blocks)),
        told["canonical"],
        told["data"],
        told["notice"],
        tuple(Picture(*one) for one in told["pictures"]),
    )


def page_of(given: "Given") -> Page | None:
    """The page that stands for a file, or the page that it is; None for what can only be kept by its address.

    Raises:
        PageFailure: it takes too long or needs too much memory.
    """
    told = asked("page_of", given.address or given.name, given)
    return None if told is None else page_from(told)


def mail_files(page: Page) -> list[EnclosedFile]:
    """The files that came with an e-mail: pictures of its body, and what is attached; none of any other page.

    Raises:
        PageFailure: it takes too long or needs too much memory.
    """
    if page.media_type != "message/rfc822" or not page.file:
        return []
    told = asked("mail_files", page.address or "the e-mail", page.file)
    return [EnclosedFile(name, kind, base64.b64decode(content), address) for name, kind, content, address in told]


def whole_markdown(html: str, address: str) -> tuple[str, bool]:
    """A whole file of HTML as Markdown, and whether it has more tags than are read.

    Raises:
        PageFailure: it takes too long or needs too much memory.
    """
    text, is_cut = asked("markdown", address or "the file", html, address)
    return text, is_cut


def page_from(told: list[Any]) -> Page:
    """A page as the process tells it."""
    page = Page(*told)
    return replace(page, file=base64.b64decode(page.file))


def asked(name: str, what: str, *given: object) -> Any:
    """What the process answers."""
    try:
        return WORKER.ask(name, *given)
    except Broken as error:
        raise BugError("bug", f"Reading {what} failed: it is our own fault.", "Please report it.") from error
    except Ended as error:
        raise PageFailure(
            "page-unreadable", f"Reading {what} {error}.", "Keep its address alone, or a part of it saved as a file."
        ) from error
