"""Writing Markdown by hand: lists go on, tables are put in order, links are completed."""

import re
from collections.abc import Sequence
from unicodedata import east_asian_width

from wily_magpie.core.dataclass import dataclass

ITEM = re.compile(
    r"(?P<indent>[ \t]*)(?P<mark>[-*+]|(?P<number>\d{1,9})(?P<end>[.)]))(?P<gap>[ \t]+)(?P<task>\[[ xX]\][ \t]+)?"
)
QUOTED = re.compile(r"(?P<mark>(?:[ \t]*>[ \t]?)+)")
ROW = re.compile(r"[ \t]*\|.*")
RULE = re.compile(r":?-+:?")
LINK_BEGUN = re.compile(r"\[\[(?P<name>[^\[\]|#\n]*)$|(?<!!)\]\((?P<path>[^()\n]*)$")
WIDE = ("W", "F")


@dataclass(frozen=True)
class GoingOn:
    """How a line goes on below: with some signs; or it held nothing but these, and the list ends there."""

    prefix: str
    is_end: bool = False


def going_on(line: str) -> GoingOn | None:
    """How the next line begins behind an item of a list or a quotation; None behind any other line."""
    item = ITEM.match(line)
    if item is not None:
        mark = item["mark"] if item["number"] is None else f"{int(item['number']) + 1}{item['end']}"
        prefix = f"{item['indent']}{mark}{item['gap']}{'[ ] ' if item['task'] else ''}"
        return GoingOn(prefix, is_end=not line[item.end() :].strip())
    quoted = QUOTED.match(line)
    return GoingOn(quoted["mark"], is_end=not line[quoted.end() :].strip()) if quoted is not None else None


def is_row(line: str) -> bool:
    """Whether a line is one of a table that begins with a bar."""
    return ROW.fullmatch(line) is not None


def cells_of(row: str) -> list[str]:
    """The cells of a row; a bar behind a backslash parts none."""
    bare = row.strip().removeprefix("|")
    bare = bare[:-1] if bare.endswith("|") and not bare.endswith("\\|") else bare
    return [cell.strip() for cell in re.split(r"(?<!\\)\|", bare)]


def width_of(text: str) -> int:
    """How many letters of even width a text takes."""
    return sum(2 if east_asian_width(sign) in WIDE else 1 for sign in text)


def tidied(rows: Sequence[str]) -> list[str]:
    """The rows of a table with bars below one another; what cells hold stays."""
    cells = [cells_of(row) for row in rows]
    count = max(map(len, cells))
    full = [[*row, *[""] * (count - len(row))] for row in cells]
    rules = [all(RULE.fullmatch(cell) for cell in row if cell) and any(row) for row in full]
    widths = [
        max([3, *(width_of(row[at]) for row, is_rule in zip(full, rules, strict=True) if not is_rule)])
        for at in range(count)
    ]
    out = []
    for row, is_rule in zip(full, rules, strict=True):
        if is_rule:
            shown = [ruled(cell, width) for cell, width in zip(row, widths, strict=True)]
        else:
            shown = [cell + " " * (width - width_of(cell)) for cell, width in zip(row, widths, strict=True)]
        out.append(f"| {' | '.join(shown)} |")
    return out


def ruled(cell: str, width: int) -> str:
    """A cell of the line below the heads, with the colons that say how its column is aligned."""
    left, right = cell.startswith(":"), cell.endswith(":") and len(cell) > 1
    return f"{':' if left else ''}{'-' * (width - left - right)}{':' if right else ''}"


def link_begun(before: str) -> tuple[str, str] | None:
    """("brackets" or "path", what is typed of it) where a link is being written at the end of a text; else None."""
    found = LINK_BEGUN.search(before)
    if found is None:
        return None
    return ("brackets", found["name"]) if found["name"] is not None else ("path", found["path"])
