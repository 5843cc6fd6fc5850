"""E-mails (RFC 5322 with MIME, RFC 2045 to 2049): sender, date, subject, body, and the names of what is attached."""

import email
import email.policy
import html
import re
from email.message import EmailMessage, MIMEPart
from email.utils import parseaddr, parsedate_to_datetime
from typing import Any

from wily_magpie.core.pages.files.document import Document, paragraphs, said_size

WRAPPED = 55
"""Letters of a line from which its end is that of the line and not of what it says."""
SIGNATURE = re.compile(r"^-- ?$")


def looks_like_mail(content: bytes) -> bool:
    """Whether bytes begin with the header of a message: two of its fields, one of them that of the sender."""
    head = content[:20_000].lstrip(b"\xef\xbb\xbf\r\n").split(b"\n\n")[0].split(b"\r\n\r\n")[0]
    names = {found.lower() for found in re.findall(rb"^([A-Za-z-]+):", head, re.MULTILINE)}
    return b"from" in names and bool(names & {b"date", b"subject", b"to", b"message-id", b"received"})


def document_of(content: bytes) -> Document:
    """What an e-mail says; a broken one gives what can be read of it."""
    message = email.message_from_bytes(content, policy=email.policy.default)
    assert isinstance(message, EmailMessage)  # noqa: S101 - the policy makes them
    subject = header(message, "subject")
    attached = [part for part in message.iter_attachments() if isinstance(part, EmailMessage)]
    data: dict[str, Any] = {"@type": "EmailMessage", "headline": subject}
    data["sender"] = [person(address) for address in addresses(message, "from")]
    data["toRecipient"] = [person(address) for address in [*addresses(message, "to"), *addresses(message, "cc")]]
    data["dateSent"] = sent(message)
    data["messageAttachment"] = [attachment(part) for part in attached]
    data["keywords"] = header(message, "keywords")
    identity = header(message, "message-id").strip("<> ")
    count = len(attached)
    files = f" with {count} attached {'file' if count == 1 else 'files'}" if count else ""
    return Document(
        subject,
        body_of(message) + listed(data["messageAttachment"]),
        data,
        f"This is an e-mail{files} rather than a web page; it is kept as it is.",
        f"mid:{identity}" if identity else "",
        header(message, "content-language"),
    )


def header(message: EmailMessage, name: str) -> str:
    """A header field decoded (RFC 2047) on one line; "" where it is missing or broken."""
    try:
        return " ".join(str(message.get(name) or "").split())
    except (ValueError, LookupError, IndexError, AttributeError):  # what the parser meets in broken headers
        return ""


def addresses(message: EmailMessage, name: str) -> list[tuple[str, str]]:
    """(name, address) of the people in a header field."""
    try:
        found = message.get(name)
        people = [(one.display_name, one.addr_spec) for one in getattr(found, "addresses", ())]
    except (ValueError, LookupError, IndexError, AttributeError):
        people = []
    return people or [parseaddr(one) for one in header(message, name).split(",") if one.strip()]


def person(address: tuple[str, str]) -> dict[str, str]:
    """Somebody as structured data; without a name, the address names them."""
    return {"@type": "Person", "name": address[0] or address[1], "email": address[1]}


def sent(message: EmailMessage) -> str:
    """When it was sent, with its zone (ISO 8601), or ""."""
    try:
        return parsedate_to_datetime(header(message, "date")).isoformat(timespec="minutes")
    except (ValueError, TypeError, IndexError):
        return ""


def attachment(part: EmailMessage) -> dict[str, str]:
    """The name, type and size of an attached file."""
    try:
        content = part.get_payload(decode=True)
    except (ValueError, LookupError):
        content = None
    size = len(content) if isinstance(content, bytes) else 0
    name = part.get_filename() or f"unnamed.{part.get_content_subtype()}"
    return {
        "@type": "MediaObject",
        "name": name,
        "encodingFormat": part.get_content_type(),
        "contentSize": said_size(size),
    }


def listed(files: list[dict[str, str]]) -> str:
    """The attached files as a list."""
    rows = "".join(
        f"<li>{html.escape(f['name'])} ({html.escape(f['encodingFormat'])}, {f['contentSize']})</li>" for f in files
    )
    return f"<h2>Attached</h2><ul>{rows}</ul>" if rows else ""


def body_of(message: EmailMessage) -> str:
    """The body as HTML: its HTML part where it has one, else its plain text."""
    part = message.get_body(("html", "plain"))
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
    except (LookupError, ValueError, KeyError, AttributeError):
        content = part.get_payload(decode=True)
        return content.decode("utf-8", "replace") if isinstance(content, bytes) else ""


def plain_to_html(text: str, *, is_flowed: bool) -> str:
    """A plain text as paragraphs, what it answers to as quotations within each other, its signature apart."""
    out: list[str] = []
    depth, run = 0, [""]

    def flush() -> None:
        """Ends a paragraph."""
        out.append(paragraphs([run[0].strip()]))
        run[0] = ""

    for raw in text.replace("\r\n", "\n").split("\n"):
        marks = re.match(r"^(?:> ?)*", raw)
        deep = marks[0].count(">") if marks else 0
        line = raw[marks.end() :] if marks else raw
        if deep != depth:
            flush()
            out.append("<blockquote>" * (deep - depth) if deep > depth else "</blockquote>" * (depth - deep))
            depth = deep
        if not line.strip():
            flush()
        elif SIGNATURE.match(line):
            flush()
            out.append("<hr>")
        else:
            goes_on = line.endswith(" ") if is_flowed else len(line) >= WRAPPED
            run[0] += line.rstrip() + (" " if goes_on else "\n")
    flush()
    return "".join(out) + "</blockquote>" * depth
