"""E-mails (RFC 5322 with MIME, RFC 2045 to 2049): sender, date, subject, body, pictures, and what is attached.

Pictures of the body, which name each other by `cid:`, get addresses of RFC 2392 that tell of which message they are:
`mid:MESSAGE/CONTENT`. By these they are shown and kept as pictures of the web are by theirs.
"""

import email
import email.parser
import email.policy
import hashlib
import html
import re
from collections.abc import Iterator
from email.message import EmailMessage, MIMEPart
from email.utils import parseaddr, parsedate_to_datetime
from typing import Any
from urllib.parse import quote, unquote

from wily_magpie.core.pages.boilerplate import tells_of_mailing
from wily_magpie.core.pages.files.document import Document, paragraphs, said_size
from wily_magpie.core.pages.page import EnclosedFile

WRAPPED = 55
"""Letters of a line from which its end is that of the line and not of what it says."""
SIGNATURE = re.compile(r"^-- ?$")
BY_CONTENT_ID = re.compile(r"""(\bsrc\s*=\s*["']?)cid:([^"'\s>]+)""", re.IGNORECASE)
BROKEN = (ValueError, LookupError, AttributeError, TypeError, RecursionError)
"""What the library raises where it meets a broken message."""
LONGEST_FIELD = 10_000
"""Letters of a header field that are looked at: the parser takes the square of their number."""
MOST_PARTS = 500
"""Parts of a message that are looked at; none that a person wrote has more."""
LONE_ADDRESS = re.compile(r"^\s*<?https?://\S+\s*$", re.IGNORECASE)
TOO_DEEP = "This is an e-mail whose parts lie too deep in each other to be read; the file itself is kept."


def document_of(content: bytes) -> Document:
    """What an e-mail says; a broken one gives what can be read of it."""
    message = parsed(content)
    subject = header(message, "subject")
    files = files_of(message, content)
    attached = [attachment(one) for one in files if not one.address]
    data: dict[str, Any] = {"@type": "EmailMessage", "headline": subject}
    data["sender"] = [person(address) for address in addresses(message, "from")]
    data["toRecipient"] = [person(address) for address in [*addresses(message, "to"), *addresses(message, "cc")]]
    data["dateSent"] = sent(message)
    data["messageAttachment"] = attached
    data["keywords"] = header(message, "keywords")
    count = len(attached)
    told = f" with {count} attached {'file' if count == 1 else 'files'}" if count else ""
    is_whole = message.is_multipart() or message.get_content_maintype() != "multipart"
    body = body_of(message) if is_whole else ""
    return Document(
        subject,
        BY_CONTENT_ID.sub(lambda found: found[1] + mid(content, message, unquote(found[2])), body) + listed(attached),
        data,
        f"This is an e-mail{told} rather than a web page; it is kept as it is." if is_whole else TOO_DEEP,
        identity_of(message),
        header(message, "content-language"),
    )


def parsed(content: bytes) -> EmailMessage:
    """A message; of one whose parts lie too deep in each other for Python's parser, its header alone."""
    try:
        message = email.message_from_bytes(content, policy=email.policy.default)
    except RecursionError:
        message = email.parser.BytesHeaderParser(policy=email.policy.default).parsebytes(content)
    assert isinstance(message, EmailMessage)  # noqa: S101 - the policy makes them
    return message


def identity_of(message: EmailMessage) -> str:
    """By which a message is known again, or ""."""
    identity = header(message, "message-id").strip("<> ")
    return f"mid:{identity}" if identity else ""


def mid(content: bytes, message: EmailMessage, content_id: str) -> str:
    """The address of a part of a message (RFC 2392); one without an identity gets that of its bytes."""
    of = identity_of(message).removeprefix("mid:") or hashlib.sha256(content).hexdigest()
    return f"mid:{quote(of, safe='@')}/{quote(content_id, safe='@')}"


def files_in(content: bytes) -> list[EnclosedFile]:
    """The files that came with a message."""
    return files_of(parsed(content), content)


def files_of(message: EmailMessage, content: bytes) -> list[EnclosedFile]:
    """Pictures that the body shows, and what is attached; a part that is broken is left away."""
    shown = {unquote(found[2]) for found in BY_CONTENT_ID.finditer(body_of(message))}
    out: list[EnclosedFile] = []
    for number, part in enumerate(parts_of(message), 1):
        content_id = header(part, "content-id").strip("<> ")
        is_shown = content_id in shown and part.get_content_maintype() == "image"
        inside = bytes_of(part)
        if inside is None or not (is_shown or part.get_content_disposition() == "attachment" or name_in(part)):
            continue
        name = name_in(part) or f"unnamed {number}.{part.get_content_subtype()}"
        address = mid(content, message, content_id) if is_shown else ""
        out.append(EnclosedFile(name, part.get_content_type(), inside, address))
    return out


def parts_of(message: EmailMessage) -> Iterator[EmailMessage]:
    """The parts of a message that hold something, in order; a message within it is one of them, whole."""
    waiting: list[Any] = [message]
    for _ in range(MOST_PARTS):
        if not waiting:
            return
        part = waiting.pop(0)
        is_forwarded = part is not message and part.get_content_maintype() == "message"
        if part.is_multipart() and not is_forwarded:
            waiting[:0] = [one for one in part.get_payload() if isinstance(one, EmailMessage)]
        elif part is not message or name_in(part):
            yield part


def name_in(part: EmailMessage) -> str:
    """The name of the file that a part is; "" where it is none, or the name is broken."""
    try:
        name = str(part.get_filename() or "")
    except BROKEN:
        return ""
    if not name and part.get_content_maintype() == "message":
        inner = part.get_payload()
        subject = header(inner[0], "subject") if isinstance(inner, list) and isinstance(inner[0], EmailMessage) else ""
        return f"{subject or 'message'}.eml"
    return name.replace("\\", "/").rpartition("/")[2]


def bytes_of(part: EmailMessage) -> bytes | None:
    """What a part holds; None where it cannot be decoded."""
    try:
        if part.get_content_maintype() == "message":
            inner = part.get_payload()
            return inner[0].as_bytes() if isinstance(inner, list) and isinstance(inner[0], EmailMessage) else None
        content = part.get_payload(decode=True)
    except BROKEN:
        return None
    return content if isinstance(content, bytes) else None


def field(message: EmailMessage, name: str) -> Any:
    """A header field as the library understands it, of its first letters; None where it is missing or broken."""
    raw = next((value for key, value in message.raw_items() if key.casefold() == name), None)
    try:
        return None if raw is None else message.policy.header_fetch_parse(name, raw[:LONGEST_FIELD])
    except BROKEN:
        return None


def header(message: EmailMessage, name: str) -> str:
    """A header field decoded (RFC 2047) on one line; "" where it is missing or broken."""
    try:
        return " ".join(str(field(message, name) or "").split())
    except BROKEN:
        return ""


def addresses(message: EmailMessage, name: str) -> list[tuple[str, str]]:
    """(name, address) of the people in a header field."""
    try:
        found = field(message, name)
        people = [(one.display_name, one.addr_spec) for one in getattr(found, "addresses", ())]
    except BROKEN:
        people = []
    return people or [parseaddr(one) for one in header(message, name).split(",") if one.strip()]


def person(address: tuple[str, str]) -> dict[str, str]:
    """Somebody as structured data; without a name, the address names them."""
    return {"@type": "Person", "name": address[0] or address[1], "email": address[1]}


def sent(message: EmailMessage) -> str:
    """When it was sent, with its zone (ISO 8601), or ""."""
    try:
        return parsedate_to_datetime(header(message, "date")).isoformat(timespec="minutes")
    except BROKEN:
        return ""


def attachment(file: EnclosedFile) -> dict[str, str]:
    """The name, type and size of an attached file."""
    return {
        "@type": "MediaObject",
        "name": file.name,
        "encodingFormat": file.media_type,
        "contentSize": said_size(len(file.content)),
    }


def listed(files: list[dict[str, str]]) -> str:
    """The attached files as a list."""
    rows = "".join(
        f"<li>{html.escape(f['name'])} ({html.escape(f['encodingFormat'])}, {f['contentSize']})</li>" for f in files
    )
    return f"<h2>Attached</h2><ul>{rows}</ul>" if rows else ""


def body_of(message: EmailMessage) -> str:
    """The body as HTML: its HTML part where it has one, else its plain text."""
    try:
        part = message.get_body(("html", "plain"))
    except BROKEN:
        part = None
    if part is None:
        return ""
    text = text_of(part)
    if part.get_content_subtype() == "html":
        inner = re.search(r"<body[^>]*>(.*?)(</body>|$)", text, re.IGNORECASE | re.DOTALL)
        return f"<div>{inner[1] if inner else text}</div>"
    is_flowed = "flowed" in str(part.get_param("format") or "")
    return plain_to_html(text, is_flowed=is_flowed)


def text_of(part: MIMEPart) -> str:
    """The text of a part, whatever it says of its charset."""
    try:
        return str(part.get_content())
    except BROKEN:
        content = part.get_payload(decode=True)
        return content.decode("utf-8", "replace") if isinstance(content, bytes) else ""


def plain_to_html(text: str, *, is_flowed: bool) -> str:
    """A plain text as paragraphs, what it answers to as quotations within each other, its signature apart."""
    out: list[str] = []
    depth, run, is_of_mailing = 0, [""], False

    def flush() -> None:
        """Ends a paragraph."""
        out.append(paragraphs([run[0].strip()]))
        run[0] = ""

    for raw in text.replace("\r\n", "\n").split("\n"):
        marks = re.match(r"^(?:> ?)*", raw)
        deep = marks[0].count(">") if marks else 0
        line = raw[marks.end() :] if marks else raw
        if is_of_mailing and not LONE_ADDRESS.match(line):
            flush()
            is_of_mailing = False
        if deep != depth:
            flush()
            out.append("<blockquote>" * (deep - depth) if deep > depth else "</blockquote>" * (depth - deep))
            depth = deep
        if not line.strip():
            flush()
        elif not depth and tells_of_mailing(line):  # apart from what it follows, to be left out
            flush()
            run[0] += line + "\n"
            is_of_mailing = True
            continue
        elif SIGNATURE.match(line):
            flush()
            out.append("<hr>")
        else:
            goes_on = line.endswith(" ") if is_flowed else len(line) >= WRAPPED
            run[0] += line.rstrip() + (" " if goes_on else "\n")
    flush()
    return "".join(out) + "</blockquote>" * depth
