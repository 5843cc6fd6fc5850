"""PDF files (ISO 32000): what they say of themselves, and their text as far as it is text."""

import io
import re
from contextlib import suppress
from itertools import islice
from typing import TYPE_CHECKING, Any

from wily_magpie.core.pages.budget import Budget
from wily_magpie.core.pages.files.document import Document, paragraphs

if TYPE_CHECKING:
    from pypdf import PdfReader

MOST_PAGES = 300
LONGEST_S = 8.0
"""Seconds of the processor for its text."""
NO_TITLE = re.compile(
    r"^(untitled|microsoft word\b.*|powerpoint\b.*|slide \d+|.*\.(docx?|odt|indd|qxd|tex|dvi|pdf))$", re.IGNORECASE
)
DOI = re.compile(r"\b10\.\d{4,9}/[^\s\"<>]+[^\s\"<>.,;)]")
LONE_LINE = 0.5
"""The share up to which a line is one by itself: a title, a heading."""
SHORT_LINE = 0.75
"""The share of the longest line up to which a line that ends a sentence ends its paragraph."""


def document_of(content: bytes) -> Document:
    """What a PDF says; one that is locked or broken gives only what it is."""
    import logging

    from pypdf import PdfReader  # seldom needed

    logging.getLogger("pypdf").setLevel(logging.CRITICAL)
    data: dict[str, Any] = {}
    texts: list[str] = []
    pages, is_whole = 0, False

    def read() -> None:
        nonlocal data, pages, is_whole, texts
        reader = PdfReader(io.BytesIO(content))
        pages = len(reader.pages)
        data = told_of(reader)
        for page in islice(reader.pages, MOST_PAGES):
            texts += joined(page.extract_text())
        is_whole = pages <= MOST_PAGES

    with suppress(Exception):  # a broken file: what was read of it until then is kept
        Budget(LONGEST_S).within(read, 1.0)
    doi = DOI.search(" ".join(texts[:8]))
    kind = "ScholarlyArticle" if doi else "DigitalDocument"
    title = str(data.get("headline") or "")
    data = {"@type": kind, **data, **({"identifier": f"doi:{doi[0]}"} if doi else {})}
    return Document(title, paragraphs(texts), data, notice_of(pages, texts, is_whole=is_whole))


def told_of(reader: "PdfReader") -> dict[str, Any]:
    """What the file says of itself, as properties of schema.org; a part that is broken is left away."""
    out: dict[str, Any] = {}
    told = reader.metadata
    if told is None:
        return out
    with suppress(Exception):
        title = str(told.title or "").strip()
        out["headline"] = "" if NO_TITLE.match(title) else title
    with suppress(Exception):
        out["author"] = str(told.author or "")
        out["keywords"] = str(told.get("/Keywords") or "")
    with suppress(Exception):
        out["dateCreated"] = told.creation_date.isoformat(timespec="minutes") if told.creation_date else ""
    return out


def notice_of(pages: int, texts: list[str], *, is_whole: bool) -> str:
    """What a person should know of it."""
    many = f" of {pages} page{'s' if pages != 1 else ''}" if pages else ""
    if not texts:
        return f"This is a PDF{many} whose text cannot be read; the file itself is kept."
    part = "" if is_whole else " Only a part of its text could be read."
    return f"This is a PDF{many} rather than a web page; the file itself is kept too.{part}"


def joined(text: str) -> list[str]:
    """Paragraphs of the text of one page, whose lines end where the column ended."""
    lines = [line.strip() for line in text.split("\n")]
    longest = max((len(line) for line in lines), default=0)
    out: list[str] = []
    run = ""
    for line in lines:
        if not line:
            out.append(run)
            run = ""
        elif run.endswith("-") and line[:1].islower():
            run = run[:-1] + line
        else:
            run = f"{run} {line}".strip()
        is_short = len(line) < SHORT_LINE * longest and re.search(r"[.!?:]”?$", line)
        if line and (is_short or len(line) < LONE_LINE * longest):
            out.append(run)
            run = ""
    return [one for one in [*out, run] if one]
