"""Where in a note something is written."""

from typing import Literal

from wily_magpie.core.dataclass import dataclass

Spot = Literal["top", "end"]


@dataclass(frozen=True)
class InsertPosition:
    """Where in a note something is written.

    Attributes:
        heading: the text of the heading below which; "" for the whole note.
        at: at the top or the end of the note or section.
        level: of a heading that is made where there is none, 1 to 6; None: it must be there.
    """

    heading: str = ""
    at: Spot = "end"
    level: int | None = None


AT_THE_END = InsertPosition()


@dataclass(frozen=True)
class NoteTarget:
    """Where in a notes folder a capture is written, instead of into a note of its own.

    Attributes:
        note: path of a note; "" for the journal page of the day.
        way: where in it.
    """

    note: str
    way: InsertPosition
