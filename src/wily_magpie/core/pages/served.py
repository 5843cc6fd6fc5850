"""What the process that reads pages answers; see `apart`, which asks."""

import base64
from collections.abc import Callable, Mapping
from dataclasses import fields
from typing import Any

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.files import mail, recognise
from wily_magpie.core.pages.markdown import to_markdown
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.pages.read import read_page


def values(one: Any) -> list[Any]:
    """The values of a dataclass, in order."""
    return [getattr(one, field.name) for field in fields(one)]


def written(page: Page | None) -> list[Any] | None:
    """A page in what JSON has."""
    if page is None:
        return None
    return [base64.b64encode(one).decode() if isinstance(one, bytes) else one for one in values(page)]


def read(page: Page) -> dict[str, Any]:
    """What a page says."""
    reading: Reading = read_page(page)
    content = reading.content
    return {
        "page": None if reading.page is page else written(reading.page),
        "findings": [values(one) for one in reading.findings],
        "content": [content.html, content.markdown, content.text, [values(one) for one in content.blocks]],
        "canonical": reading.canonical,
        "data": reading.data,
        "notice": reading.notice,
        "pictures": [values(one) for one in reading.pictures],
    }


def recognise_page(given: recognise.Given) -> list[Any] | None:
    """The page that a file is, or that stands for it; None for what can only be kept by its address."""
    return written(recognise.page_of(given))


def markdown(html: str, address: str) -> list[Any]:
    """A whole file as Markdown, and whether it has more tags than are read."""
    given = tree.bounded(html)
    root = tree.parse_exactly(given)
    body = root.find(".//body")
    return [to_markdown(root if body is None else body, address, is_exact=True), given != html]


def mail_files(content: bytes) -> list[list[str]]:
    """The files that came with an e-mail: name, media type, contents (base64), address or ""."""
    return [
        [one.name, one.media_type, base64.b64encode(one.content).decode(), one.address]
        for one in mail.files_in(content)
    ]


ANSWERS: Mapping[str, Callable[..., Any]] = {
    "read": read, "page_of": recognise_page, "markdown": markdown, "mail_files": mail_files,
}  # fmt: skip
