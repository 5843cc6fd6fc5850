"""What a note's body holds besides words: headings, tags, links; found in one pass that skips code.

Positions are indices into the body's text. Links are those of CommonMark with a path, `[text](file.md)`, and the double
brackets that many folders of notes use, `[[file|text]]`.
"""

import re
from collections.abc import Iterator
from typing import NamedTuple
from urllib.parse import quote, unquote

from wily_magpie.core.entries.note_text import CODE, DOUBLE, plain_lines

HEADING = re.compile(r" {0,3}(#{1,6})(?:[ \t]+(.*?))?(?:[ \t]+#+)?[ \t]*")
TELLING = ("#", "](", "[[")
"""What a line has that holds any of it."""
TAG = re.compile(r"(?<![\w/#&\[(])#([^\W\d_][\w/-]*\w|[^\W\d_])")
LINK = re.compile(
    r"(?<!!)\[(?P<text>[^\[\]]*)\]\((?P<target><[^<>\n]+>|[^()\s]+(?:\([^()\s]*\)[^()\s]*)*)(?:\s+\"[^\"]*\")?\)"
)
PICTURE = re.compile(r"!\[[^\[\]]*\]\((<[^<>\n]+>|[^()\s]+(?:\([^()\s]*\)[^()\s]*)*)(?:\s+\"[^\"]*\")?\)")


class Heading(NamedTuple):
    """A heading of a note; start is where its line begins, end where the next line does."""

    level: int
    text: str
    start: int
    end: int


class NoteLink(NamedTuple):
    """A link to a file; start and end enclose the path alone.

    Attributes:
        target: the path as it is meant (unescaped), without fragment; "" for a link within the note.
        is_double: whether it stands in double brackets.
    """

    target: str
    start: int
    end: int
    is_double: bool


class Outline(NamedTuple):
    """All of them, in order."""

    headings: tuple[Heading, ...]
    tags: tuple[str, ...]
    links: tuple[NoteLink, ...]


def outline(body: str) -> Outline:
    """Headings, tags and links of a body."""
    headings: list[Heading] = []
    tags: dict[str, None] = {}
    links: list[NoteLink] = []
    for start, line in told_lines(body):
        bare = line.rstrip("\r\n")
        if "#" in bare:
            found = HEADING.fullmatch(bare)
            if found:
                headings.append(Heading(len(found[1]), (found[2] or "").strip(), start, start + len(line)))
                bare = bare.replace("#", " ", len(found[1]))
        bare = CODE.sub(blanked, bare) if "`" in bare else bare
        links += sorted(links_in(bare, start), key=lambda link: link.start)
        if "#" in bare:
            if "[" in bare:
                bare = LINK.sub(blanked, DOUBLE.sub(blanked, bare))
            tags.update(dict.fromkeys(TAG.findall(re.sub(r"https?://\S+", "", bare) if "://" in bare else bare)))
    return Outline(tuple(headings), tuple(tags), tuple(links))


def told_lines(body: str) -> Iterator[tuple[int, str]]:
    """(start, line) of the lines outside code that can hold any of it; looked for at once where there are no fences to be counted."""
    if ("`" in body and "```" in body) or "\r" in body or ("~" in body and "~~~" in body):
        yield from ((start, line) for start, line in plain_lines(body) if any(sign in line for sign in TELLING))
        return
    signs = TELLING if "[" in body else TELLING[:1]
    end, ahead = 0, [body.find(sign) for sign in signs]
    while True:
        ahead = [body.find(sign, end) if 0 <= at < end else at for sign, at in zip(signs, ahead, strict=True)]
        nearest = [at for at in ahead if at >= 0]
        if not nearest:
            return
        at = min(nearest)
        start, end = body.rfind("\n", 0, at) + 1, body.find("\n", at) + 1 or len(body)
        yield start, body[start:end]


def blanked(found: re.Match[str]) -> str:
    """Spaces where something was found."""
    return " " * len(found[0])


def links_in(line: str, start: int) -> Iterator[NoteLink]:
    """The links to files in a line that begins at some place."""
    if "](" in line:
        for pattern, group in ((LINK, "target"), (PICTURE, 1)):
            for found in pattern.finditer(line):
                raw = found[group]
                begin = start + found.start(group)
                if raw.startswith("<"):
                    raw, begin = raw[1:-1], begin + 1
                path = raw.partition("#")[0]
                if path and not re.match(r"[a-z][a-z0-9+.-]*:|//|/", path, re.IGNORECASE):
                    yield NoteLink(unquote(path), begin, begin + len(path), is_double=False)
    if "[[" in line:
        for found in DOUBLE.finditer(line):
            if found[2].strip():
                yield NoteLink(found[2].strip(), start + found.start(2), start + found.end(2), is_double=True)


def written(link: NoteLink, path: str) -> str:
    """A path as it stands in a link of the same form."""
    if link.is_double:
        return path
    return quote(path, safe="/()!$&'*+,;=:@~-._" if path.count("(") == path.count(")") else "/!$&'*+,;=:@~-._")


def names_of(path: str) -> set[str]:
    """What may stand in double brackets for a path, folded: the path or the name alone, with or without its ending."""
    bare = path.rpartition(".")[0]
    return {one.casefold() for one in (path, bare, path.rpartition("/")[2], bare.rpartition("/")[2])}
