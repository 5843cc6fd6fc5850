"""Ways of writing into a note: at its top, at its end, or below a heading at its top or end.

A heading's section ends where the next heading of the same or a higher level begins. What stands in the note stays as it is,
but for blank lines where the new text is put in.
"""

import re

from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.entries.note_text import plain_lines
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.notes.outline import Heading, outline


def find_heading(body: str, text: str) -> Heading | None:
    """The first heading of that text, in any case."""
    wanted = " ".join(text.strip("# ").split()).casefold()
    return next((one for one in outline(body).headings if " ".join(one.text.split()).casefold() == wanted), None)


def insert(body: str, text: str, way: InsertPosition, newline: str = "\n") -> str:
    """A body with a text written into it.

    Raises:
        UserError: the heading is not there and is not to be made.
    """
    text = text.strip("\r\n").replace("\r\n", "\n").replace("\r", "\n")
    heading = find_heading(body, way.heading) if way.heading.strip() else None
    if way.heading.strip():
        text = lowered(text, heading.level if heading is not None else way.level or 1)
    text = text.replace("\n", newline)
    if not way.heading.strip():
        if way.at == "end":
            return put(body, len(body.rstrip()), text, newline)
        return put(body, len(body) - len(body.lstrip("\r\n")), text, newline)
    if heading is None:
        if way.level is None:
            raise UserError(
                "no-heading", f"There is no heading “{way.heading}” in this note.", "Choose another, or let it be made."
            )
        made = f"{'#' * way.level} {' '.join(way.heading.strip('# ').split())}"
        return put(body, len(body.rstrip()), f"{made}{newline}{newline}{text}", newline)
    if way.at == "top":
        return put(body, heading.end, text, newline)
    later = (one for one in outline(body).headings if one.start > heading.start and one.level <= heading.level)
    stop = next((one.start for one in later), len(body))
    return put(body, max(heading.end, len(body[:stop].rstrip())), text, newline)


ATX = re.compile(r"( {0,3})(#{1,6})([ \t]|$)")
UNDERLINED = re.compile(r" {0,3}(=+|-+)[ \t]*$")
DEEPEST = 6


def lowered(text: str, above: int) -> str:
    """A text whose headings fit below a heading of some level: the highest comes one below it, all others as far below.

    Levels end at six, as those of CommonMark do.
    """
    plain = dict(plain_lines(text))
    lines = [(line, at in plain) for at, line in with_places(text)]
    levels = [level for at in range(len(lines)) if (level := level_at(lines, at))]
    by = above + 1 - min(levels, default=above + 1)
    if by <= 0:
        return text
    out: list[str] = []
    at = 0
    while at < len(lines):
        line, level = lines[at][0], level_at(lines, at)
        bare = line.rstrip("\r\n")
        if not level:
            out.append(line)
        elif lines[at][1] and ATX.match(line):
            out.append(f"{'#' * min(DEEPEST, level + by)}{line.lstrip(' ').lstrip('#')}")
        else:  # underlined: written with signs, since there are underlines for two levels only
            out.append(f"{'#' * min(DEEPEST, level + by)} {bare.strip()}{line[len(bare) :]}")
            at += 1
        at += 1
    return "".join(out)


def with_places(text: str) -> list[tuple[int, str]]:
    """(start, line) of all lines."""
    out, at = [], 0
    for line in text.splitlines(keepends=True):
        out.append((at, line))
        at += len(line)
    return out


def level_at(lines: list[tuple[str, bool]], at: int) -> int:
    """The level of the heading that begins at a line, 0 where none does.

    Args:
        lines: each with whether it is no code.
    """
    line, is_plain = lines[at]
    if not is_plain:
        return 0
    found = ATX.match(line)
    if found:
        return len(found[2])
    below = lines[at + 1] if at + 1 < len(lines) else ("", False)
    is_paragraph = bool(line.strip()) and not line.startswith(("    ", "\t", ">", "-", "*", "+", "|"))
    under = UNDERLINED.match(below[0]) if below[1] and is_paragraph else None
    if under is None or (
        at > 0 and lines[at - 1][0].strip()
    ):  # a paragraph of several lines is rarely meant as a heading
        return 0
    return 1 if under[1].startswith("=") else 2


def put(body: str, at: int, text: str, newline: str) -> str:
    """A text put in as a paragraph of its own; list items join a list that stands right before or behind it."""
    before, after = body[:at], body[at:].lstrip("\r\n")
    if before.strip():  # else only the blank lines below the front matter, which stay
        before = before.rstrip()
        above = before.rsplit("\n", 1)[-1]
        before += newline if joins(above, text.split("\n", 1)[0]) else newline * 2
    is_list = bool(after) and joins(text.rsplit("\n", 1)[-1], after.split("\n", 1)[0])
    return f"{before}{text}{newline if is_list or not after else newline * 2}{after}"


def joins(above: str, below: str) -> bool:
    """Whether two lines are items of one list."""
    marks = ("- ", "* ", "+ ")
    return above.lstrip().startswith(marks) and below.lstrip().startswith(marks)
