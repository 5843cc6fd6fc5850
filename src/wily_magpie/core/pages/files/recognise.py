"""What a file is, by its first bytes, its media type and its name; and the page that stands for it."""

import hashlib
import html
from collections.abc import Callable
from dataclasses import replace
from urllib.parse import unquote, urlsplit

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.pages.charset import decode
from wily_magpie.core.pages.files import mail, pdf, texts
from wily_magpie.core.pages.files.beginnings import looks_like_mail
from wily_magpie.core.pages.files.document import Document, said_size
from wily_magpie.core.pages.page import Page

HTML_TYPES = ("text/html", "application/xhtml+xml", "application/xml", "text/xml")
BY_NAME = {
    "eml": "message/rfc822", "pdf": "application/pdf", "json": "application/json", "jsonld": "application/ld+json",
    "geojson": "application/json", "csv": "text/csv", "tsv": "text/tab-separated-values", "md": "text/markdown",
    "markdown": "text/markdown", "txt": "text/plain", "png": "image/png", "jpg": "image/jpeg", "jpeg": "image/jpeg",
    "gif": "image/gif", "webp": "image/webp", "svg": "image/svg+xml", "html": "text/html", "htm": "text/html",
    "xhtml": "application/xhtml+xml",
}  # fmt: skip
"""Media types by the ends of names."""
BY_BYTES = (
    (b"%PDF-", "application/pdf"), (b"\x89PNG\r\n", "image/png"), (b"\xff\xd8\xff", "image/jpeg"),
    (b"GIF8", "image/gif"), (b"RIFF", "image/webp"),
)  # fmt: skip
VAGUE = ("", "application/octet-stream", "binary/octet-stream", "text/plain")
"""Media types that servers also give to what they do not know."""


@dataclass(frozen=True)
class Given:
    """A file as it came.

    Attributes:
        content: all of it.
        media_type: as the server told it, or "".
        charset: likewise.
        name: the last part of its path or address.
        address: where it was found, "" for a file of unknown origin.
        way: "fetched" or "file".
    """

    content: bytes
    media_type: str = ""
    charset: str = ""
    name: str = ""
    address: str = ""
    way: str = "file"
    asked: str = ""


def media_type_of(given: Given) -> str:
    """What it is: by its first bytes where they tell, else as told, else by its name; "" where nothing tells."""
    told = given.media_type.casefold()
    for start, media_type in BY_BYTES:
        if given.content.startswith(start):
            return media_type
    named = BY_NAME.get(given.name.rpartition(".")[2].casefold(), "") if "." in given.name else ""
    if told not in VAGUE:
        return told
    if named in ("", "text/plain") and looks_like_mail(given.content):
        return "message/rfc822"
    if named:
        return named
    return told if told == "text/plain" else ""


def is_readable(media_type: str) -> bool:
    """Whether something of a kind can be read, as far as its media type tells."""
    told = media_type.casefold()
    is_known = told in VAGUE or told in HTML_TYPES or told in BINARY or told in TEXTUAL
    return is_known or told.startswith("image/") or told.endswith("json")


def page_of(given: Given) -> Page | None:
    """The page that stands for a file, or the page that it is; None for what can only be kept by its address."""
    media_type = media_type_of(given)
    if media_type in HTML_TYPES or (not media_type and b"\0" not in given.content[:4096]):
        return Page(given.address, decode(given.content, given.charset), given.way, given.asked)
    document = read(given, media_type)
    if document is None:
        return None
    whole = replace(document, title=document.title or given.name or given.address)
    identity = document.identity or f"sha256:{hashlib.sha256(given.content).hexdigest()}"
    return Page(
        given.address, whole.html(), given.way, given.asked,
        file=given.content, media_type=media_type, notice=document.notice, identity="" if given.address else identity,
    )  # fmt: skip


def read(given: Given, media_type: str) -> Document | None:
    """What a file that is no page says; None where nothing can be read of its kind."""
    if media_type.startswith("image/"):
        return picture_document(given, media_type)
    if media_type in BINARY:
        return BINARY[media_type](given.content)
    if media_type.endswith(("json", "+json")):
        text = decode(given.content, given.charset)
        return texts.json_document(text) or texts.text_document(text)
    if media_type in TEXTUAL:
        return TEXTUAL[media_type](decode(given.content, given.charset))
    return None


def picture_document(given: Given, media_type: str) -> Document:
    """A picture that stands alone."""
    source = f'<img src="{html.escape(given.address)}" alt="{html.escape(given.name)}">' if given.address else ""
    ending = given.name.rpartition(".")[2]
    kind = media_type.removeprefix("image/").removesuffix("+xml") if "*" not in media_type else ending or "picture"
    data = {"@type": "Photograph", "name": given.name, "image": given.address}
    told = ", ".join(filter(None, [kind.upper(), said_size(len(given.content)) if given.content else ""]))
    return Document(
        given.name, f"<figure>{source}</figure>", data, f"This is a picture ({told}) rather than a web page."
    )


def name_of(address: str) -> str:
    """The last part of an address's path."""
    try:
        return unquote(urlsplit(address).path.rsplit("/", 1)[-1])
    except ValueError:
        return ""


BINARY: dict[str, Callable[[bytes], Document]] = {
    "application/pdf": pdf.document_of,
    "message/rfc822": mail.document_of,
}
TEXTUAL: dict[str, Callable[[str], Document]] = {
    "text/csv": lambda text: texts.table_document(text, ","),
    "text/tab-separated-values": lambda text: texts.table_document(text, "\t"),
    "text/markdown": texts.markdown_document,
    "text/plain": texts.text_document,
}
