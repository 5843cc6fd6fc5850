"""Tables of data as GFM tables; tables that only lay out a page are no tables here."""

import re
from dataclasses import replace

from wily_magpie.core.pages.markdown.inline import Setting, inline
from wily_magpie.core.pages.tree import BLOCK_TAGS, Element

RULES = {"left": ":--", "right": "--:", "center": ":-:"}
MOST_COLUMNS = 60
HEAVY = frozenset("table ul ol pre blockquote h1 h2 h3 h4 h5 h6 hr form".split())


def is_simple_table(element: Element) -> bool:
    """Whether each of its cells fits into a line: none holds a list, code, a heading or another table."""
    has_cells = any(True for _ in element.iter("td", "th"))
    return has_cells and not any(
        inner.tag in HEAVY for inner in element.iterdescendants() if isinstance(inner.tag, str)
    )


def is_lone_column(element: Element) -> bool:
    """Whether it has no header and one cell a row, for which Markdown has no table."""
    rows = list(element.iter("tr"))
    is_plain = not any(
        inner.tag in HEAVY - {"pre"} for inner in element.iterdescendants() if isinstance(inner.tag, str)
    )
    return is_plain and bool(rows) and all([cell.tag for cell in row] == ["td"] for row in rows)


def table(element: Element, setting: Setting) -> list[str]:
    """The table, after its caption; the header is blank where the page has none."""
    groups = element.iter("tr", "thead", "tbody", "tfoot")  # some write cells straight into a head
    rows = [row for row in groups if any(cell.tag in ("td", "th") for cell in row)]
    grid = [[cell_text(cell, setting) for cell in cells[:MOST_COLUMNS]] for cells in spread(rows)]
    if not grid:
        return []
    width = min(MOST_COLUMNS, max(len(row) for row in grid))
    grid = [(row + [""] * width)[:width] for row in grid]
    first = rows[0]
    parent = first.getparent()
    has_header = all(cell.tag == "th" for cell in first if isinstance(cell.tag, str)) or (
        parent is not None and parent.tag == "thead"
    )
    header = grid.pop(0) if has_header else [""] * width
    rules = [RULES.get(one, "---") for one in alignments(rows, width)]
    lines = [f"| {' | '.join(header)} |", f"| {' | '.join(rules)} |", *(f"| {' | '.join(row)} |" for row in grid)]
    caption = next(iter(element.iter("caption")), None)
    out = [inline([caption], setting)] if caption is not None else []
    return [*filter(None, out), "\n".join(lines)]


def spread(rows: list[Element]) -> list[list[Element | None]]:
    """The cells by row and column; a cell over several columns or rows leaves blank ones (None) beside and below it."""
    out: list[list[Element | None]] = []
    taken: dict[tuple[int, int], bool] = {}
    for y, row in enumerate(rows):
        line: list[Element | None] = []
        for cell in row:
            if cell.tag not in ("td", "th"):
                continue
            while taken.get((y, len(line))):
                line.append(None)
            across, down = span(cell, "colspan"), span(cell, "rowspan")
            x = len(line)
            line += [cell, *([None] * (across - 1))]
            for below in range(1, down):
                for beside in range(across):
                    taken[y + below, x + beside] = True
        out.append(line)
    return out


def span(cell: Element, name: str) -> int:
    """Over how many columns or rows a cell goes."""
    value = (cell.get(name) or "1").strip()
    return max(1, min(MOST_COLUMNS, int(value))) if value.isdigit() and len(value) < 5 else 1


def cell_text(cell: Element | None, setting: Setting) -> str:
    """A cell's contents in one line; its paragraphs are parted by line breaks."""
    if cell is None:
        return ""
    inner = replace(setting, in_cell=True)
    parts: list[str] = []
    run: list[Element | str] = [cell.text or ""]
    for child in [*cell, None]:
        if child is None or (isinstance(child.tag, str) and child.tag in BLOCK_TAGS):
            parts.append(inline(run, inner))
            run = []
            if child is not None:
                parts.append(inline([child], inner))
        else:
            run.append(child)
        if child is not None and child.tail:
            run.append(child.tail)
    return "<br>".join(filter(None, parts)).replace("\n", " ")


def alignments(rows: list[Element], width: int) -> list[str]:
    """left, right, center or "" by column, as the first cell that tells says."""
    out = [""] * width
    for cells in spread(rows):
        for x, cell in enumerate(cells[:width]):
            if cell is not None and not out[x]:
                style = re.search(r"text-align:\s*(\w+)", cell.get("style") or "")
                told = (cell.get("align") or (style[1] if style else "")).casefold()
                out[x] = told if told in RULES else ""
    return out
