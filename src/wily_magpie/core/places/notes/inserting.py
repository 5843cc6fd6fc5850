"""Ways of writing into a note: at its top, at its end, or below a heading at its top or end.

A heading's section ends where the next heading of the same or a higher level begins. What stands in the note stays as it is,
but for blank lines where the new text is put in.
"""

from wily_magpie.core.entries.insert_position import InsertPosition
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
    text = text.strip("\r\n").replace("\r\n", "\n").replace("\n", newline)
    if not way.heading.strip():
        if way.at == "end":
            return put(body, len(body.rstrip()), text, newline)
        return put(body, len(body) - len(body.lstrip("\r\n")), text, newline)
    heading = find_heading(body, way.heading)
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
