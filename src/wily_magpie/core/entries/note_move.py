"""What a move of a note would do."""

from wily_magpie.core.dataclass import dataclass


@dataclass(frozen=True)
class Move:
    """What a move would do.

    Attributes:
        old, new: paths from the folder on.
        changes: (path of a note, how many links in it are rewritten); the moved note may be among them.
    """

    old: str
    new: str
    changes: tuple[tuple[str, int], ...]
