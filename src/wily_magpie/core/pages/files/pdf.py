"""PDF files (ISO 32000): what they say of themselves, and their text as far as it is text."""

import io
import re
import time
from typing import Any

from wily_magpie.core.pages.files.document import Document, paragraphs

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
    from pypdf.errors import PyPdfError

    logging.getLogger("pypdf").setLevel(logging.CRITICAL)
    data: dict[str, Any] = {}
    texts: list[str] = []
    pages, title, is_whole = 0, "", True
    begun = time.thread_time()
    try:
        reader = PdfReader(io.BytesIO(content))
        pages = len(reader.pages)
        told = reader.metadata
        title = str(told.title or "").strip() if told else ""
        title = "" if NO_TITLE.match(title) else title
        if told:
            data = {"author": str(told.author or ""), "keywords": str(told.get("/Keywords") or ""), "headline": title}
            data["dateCreated"] = told.creation_date.isoformat(timespec="minutes") if told.creation_date else ""
        for number, page in enumerate(reader.pages):
            if number >= MOST_PAGES or time.thread_time() - begun > LONGEST_S:
                is_whole = False
                break
            texts += joined(page.extract_text())
    except (PyPdfError, ValueError, KeyError, TypeError, AttributeError, IndexError, RecursionError, OverflowError):
        is_whole = False  # whatever a broken file makes of the reader: what was read so far is kept
    doi = DOI.search(" ".join(texts[:8]))
    kind = "ScholarlyArticle" if doi else "DigitalDocument"
    data = {"@type": kind, **data, **({"identifier": f"doi:{doi[0]}"} if doi else {})}
    return Document(title, paragraphs(texts), data, notice_of(pages, texts, is_whole=is_whole))


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
