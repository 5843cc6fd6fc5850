"""Files of text: JSON (RFC 8259), tables of values (RFC 4180), Markdown, and what is only text."""

import csv
import html
import io
import json
import re
from collections.abc import Mapping
from typing import Any

from wily_magpie.core.pages.files.document import Document

MOST_ROWS = 500
LONGEST_JSON = 400_000
"""Characters of JSON that are shown; a longer file is kept whole and shown in part."""


def json_document(text: str) -> Document | None:
    """What a file of JSON says; None where it is none. An object of JSON-LD tells of itself."""
    try:
        value = json.loads(text)
    except (ValueError, RecursionError):
        return None
    if not isinstance(value, dict | list):
        return None
    try:
        shown = json.dumps(value, ensure_ascii=False, indent=2)
    except RecursionError:
        shown = text
    is_whole = len(shown) <= LONGEST_JSON
    data: Mapping[str, Any] = value if isinstance(value, dict) and value.get("@type") else {}
    first = value if isinstance(value, dict) else {}
    title = next((str(first[key]) for key in ("title", "name", "headline") if isinstance(first.get(key), str)), "")
    body = f'<pre><code class="language-json">{html.escape(shown[:LONGEST_JSON])}</code></pre>'
    rest = "" if is_whole else " It is shown in part."
    return Document(
        title, body, data, f"This is a file of JSON rather than a web page; the file itself is kept too.{rest}"
    )


def table_document(text: str, delimiter: str) -> Document:
    """A table of values."""
    lines = csv.reader(io.StringIO(text), delimiter=delimiter)
    rows: list[list[str]] = []
    count = 0
    try:
        for row in lines:
            count += 1
            if len(rows) <= MOST_ROWS:
                rows.append(row)
    except csv.Error:
        return text_document(text)
    head, body = rows[:1], rows[1:]
    cells = "".join(f"<th>{html.escape(cell)}</th>" for row in head for cell in row)
    lines_of = "".join("<tr>" + "".join(f"<td>{html.escape(cell)}</td>" for cell in row) + "</tr>" for row in body)
    part = f" The first {MOST_ROWS} of its {count - 1:,} rows are shown." if count > len(rows) else ""
    return Document(
        "",
        f"<table><thead><tr>{cells}</tr></thead><tbody>{lines_of}</tbody></table>",
        {"@type": "Dataset"},
        f"This is a table of values rather than a web page; the file itself is kept too.{part}",
    )


def markdown_document(text: str) -> Document:
    """A text in Markdown; HTML within it is shown as text."""
    from markdown_it import MarkdownIt  # seldom needed

    plain = re.sub(r"\A---\n.*?\n---\n", "", text, count=1, flags=re.DOTALL)
    body = MarkdownIt("commonmark", {"html": False}).enable(["table", "strikethrough"]).render(plain)
    heading = re.search(r"<h1>(.*?)</h1>", body)
    title = html.unescape(re.sub(r"<[^>]+>", "", heading[1])) if heading else ""
    return Document(title, body, {}, "This is a text in Markdown rather than a web page; it is kept as it is.")


def text_document(text: str) -> Document:
    """A plain text, as it is."""
    notice = (
        "This is a text file rather than a web page; it is kept as it is." if text.strip() else "This file is empty."
    )
    return Document("", f"<pre>{html.escape(text)}</pre>", {}, notice)
