"""A step: one change that can be undone, as it stands in the list of steps."""

from pathlib import Path

from wily_magpie.core.dataclass import dataclass


@dataclass(frozen=True)
class Step:
    """See the module.

    Attributes:
        at: when, as ISO 8601.
        origin: who did it: "window", "shell".
        state: 0 done, 1 undone, 2 passed over.
    """

    id: int
    label: str
    at: str
    origin: str
    state: int = 0


@dataclass(frozen=True)
class Moved:
    """A step that was undone or done again.

    Attributes:
        paths: of the files that were written.
        left: what could not be taken back and was left as it is, in words.
    """

    step: Step
    paths: tuple[Path, ...]
    left: tuple[str, ...] = ()
