"""What stands in a living list: rows as ordinary Markdown (CommonMark, tables of GFM)."""

import re
from collections.abc import Sequence
from urllib.parse import quote, urlsplit

from wily_magpie.core.dataclass import dataclass

SPECIAL = re.compile(r"[\\`*_\[\]#|~$!]")
EMPTY = "*Nothing here just now.*"


@dataclass(frozen=True)
class Row:
    """An entry in a list.

    Attributes:
        title: Markdown, with where it leads to. cells: of the other fields, Markdown. picture: where it lies, or "".
    """

    title: str
    cells: Sequence[str] = ()
    picture: str = ""


@dataclass(frozen=True)
class RowGroup:
    """Rows below one heading; "" for none.

    Attributes:
        level: 0, or 1 within another group. size: how many entries they are, of which not all need be shown.
    """

    name: str
    rows: Sequence[Row]
    level: int = 0
    size: int = 0


@dataclass(frozen=True)
class Rows:
    """An answer, ready to be written.

    Attributes:
        heads: names of the fields that are shown, the title's first. told: of those, the ones with a name of their own.
        count: how many entries answer. of: the place, Markdown.
    """

    heads: Sequence[str]
    told: frozenset[str]
    groups: Sequence[RowGroup]
    count: int
    of: str

    @property
    def shown(self) -> int:
        """How many rows are shown."""
        return sum(len(group.rows) for group in self.groups)


def plain(text: str) -> str:
    """A text of one line with nothing in it that Markdown or HTML would take for more than letters."""
    line = " ".join(text.replace("\0", "").split())
    line = line.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
    return SPECIAL.sub(lambda found: f"\\{found[0]}", line)


def link(text: str, target: str) -> str:
    """A link of CommonMark; the target is no longer than its signs need."""
    return f"[{plain(text)}]({destination(target)})"


def destination(target: str) -> str:
    """A path or address as the destination of a link: signs that would end it or a cell are written as their numbers."""
    return (
        quote(target, safe="/:?#@!$&'*+,;=%-._~")
        .replace("*", "%2A")
        .replace("_", "%5F" if "://" not in target else "_")
    )


def web_link(address: str) -> str:
    """A link to an address of the web, called by its host."""
    host = (urlsplit(address).hostname or address).removeprefix("www.")
    return link(host, address)


def brackets(name: str, text: str) -> str:
    """A link in double brackets, which have no way to escape; a name that they cannot hold gives a link of CommonMark."""
    if re.search(r"[\[\]|#^\n]", name):
        return link(text, f"{name}.md")
    shown = " ".join(re.sub(r"[\[\]|\n]", " ", text).split())
    shown = shown.replace("<", "&lt;")
    return f"[[{name}]]" if not shown or shown == name.rpartition("/")[2] else f"[[{name}|{shown}]]"


def written(rows: Rows, shape: str) -> str:
    """The rows in one of the shapes of lists."""
    if shape == "count":
        return as_count(rows)
    if not rows.count:
        return EMPTY
    parts = []
    for group in rows.groups:
        if group.name:
            parts.append(heading(group))
        if group.rows:
            parts.append(SHAPED[shape](rows, group.rows))
    if rows.shown < rows.count and not any(group.name for group in rows.groups):
        parts.append(f"*{rows.shown} of {rows.count}*")
    return "\n\n".join(parts)


def heading(group: RowGroup) -> str:
    """A group's heading; no heading of the note, whose sections it would change."""
    mark = "**" if group.level == 0 else "*"
    shown = len(group.rows)
    many = f"{shown} of {group.size}" if 0 < shown < group.size else str(group.size)
    return f"{mark}{plain(group.name)}{mark} ({many})"


def as_list(rows: Rows, some: Sequence[Row]) -> str:
    """One line an entry; values of fields with a name of their own stand behind it."""
    return "\n".join(f"- {' · '.join([row.title, *(cell for cell in lines(rows, row) if cell)])}" for row in some)


def lines(rows: Rows, row: Row) -> list[str]:
    """The other fields of a row, in words."""
    pairs = zip(rows.heads[1:], row.cells, strict=True)
    return [f"{plain(head)} {cell}" if cell and head in rows.told else cell for head, cell in pairs]


def as_table(rows: Rows, some: Sequence[Row]) -> str:
    """A table with a column a field."""
    return table(rows.heads, [[row.title, *row.cells] for row in some])


def as_cards(rows: Rows, some: Sequence[Row]) -> str:
    """A table of pictures, each beside what belongs to it."""
    pictures = [f"![]({destination(row.picture)})" if row.picture else "" for row in some]
    return table(
        ["", *rows.heads], [[picture, row.title, *row.cells] for picture, row in zip(pictures, some, strict=True)]
    )


def table(heads: Sequence[str], rows: Sequence[Sequence[str]]) -> str:
    """A table of GFM."""
    lines = [line([plain(head) for head in heads]), line(["---"] * len(heads))]
    return "\n".join([*lines, *(line([in_cell(cell) for cell in row]) for row in rows)])


def in_cell(cell: str) -> str:
    """Markdown as it stands in a cell, which a bar would end."""
    return re.sub(r"(?<!\\)\|", r"\\|", cell)


def line(cells: Sequence[str]) -> str:
    """A line of a table."""
    return f"| {' | '.join(cells)} |"


def as_count(rows: Rows) -> str:
    """How many they are, of each group too."""
    groups = [f"{'  ' * group.level}- {plain(group.name or '(blank)')}: {group.size}" for group in rows.groups]
    total = f"**{rows.count}** in {rows.of}"
    is_grouped = any(group.name for group in rows.groups)
    return "\n".join([total, "", *groups]) if is_grouped else total


SHAPED = {"list": as_list, "table": as_table, "cards": as_cards}
