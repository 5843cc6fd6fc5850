"""What of a Markdown text is no code, and links in double brackets, as many folders of notes have them: [[name#part|text]]."""

import re
from collections.abc import Iterator
from io import StringIO
from urllib.parse import quote

FENCE = re.compile(r" {0,3}(`{3,}|~{3,})")
CODE = re.compile(r"(`+)(?!`)(.+?)(?<!`)\1(?!`)")
DOUBLE = re.compile(r"(!?)\[\[([^\[\]|#\n]*?)(#[^\[\]|\n]*?)?(?:\\?\|([^\[\]\n]*))?\]\]")
"""Its groups: "!" of a picture, name, fragment, text. In a table, the bar has a backslash before it."""
PICTURES = (".png", ".jpg", ".jpeg", ".gif", ".webp", ".svg", ".bmp", ".avif")
SIZE = re.compile(r"\d+(x\d+)?")
"""What stands in the place of a text where it is how large a picture is to be."""


def plain_lines(body: str) -> Iterator[tuple[int, str]]:
    """(start, line) of all lines that are not code."""
    at = 0
    fence = ""
    has_fences = "```" in body or "~~~" in body
    for line in StringIO(body, newline=""):  # of CommonMark: ended by a line feed, a carriage return or both
        found = FENCE.match(line) if has_fences else None
        if fence:
            if found and found[1][0] == fence[0] and len(found[1]) >= len(fence) and not line[found.end() :].strip():
                fence = ""
        elif found:
            fence = found[1]
        else:
            yield at, line
        at += len(line)


def with_plain_links(text: str) -> str:
    """The text with its double brackets as links of CommonMark to notes beside it, and as pictures; code stays as it is."""
    out, at = [], 0
    for start, line in plain_lines(text):
        out += [text[at:start], relinked(line)]
        at = start + len(line)
    return "".join([*out, text[at:]])


def relinked(line: str) -> str:
    """One line of it."""
    if "[[" not in line:
        return line
    out, at = [], 0
    for code in CODE.finditer(line) if "`" in line else ():
        out += [DOUBLE.sub(as_link, line[at : code.start()]), code[0]]
        at = code.end()
    return "".join([*out, DOUBLE.sub(as_link, line[at:])])


def as_link(found: re.Match[str]) -> str:
    """Double brackets as a link of CommonMark."""
    name = found[2].strip()
    if not name:
        return found[0]
    if found[1] and name.casefold().endswith(PICTURES):
        told = (found[4] or "").strip()
        return f"![{'' if SIZE.fullmatch(told) else told or name}]({quote(name)})"
    path = name if name.casefold().endswith((".md", ".markdown")) else f"{name}.md"
    return f"[{(found[4] or name).strip()}]({quote(path)}{found[3] or ''})"
