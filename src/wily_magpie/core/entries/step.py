"""A step: one change that can be undone, as it stands in the list of steps."""

from pathlib import Path

from wily_magpie.core.dataclass import dataclass

BY_ITSELF = "lists"
"""Who keeps living lists filled: nobody's undo means such a step, unless it is chosen from the list of steps."""
FILLING = "Fill the lists"
"""How steps that fill living lists are called, at their beginning."""


@dataclass(frozen=True)
class Step:
    """See the module.

    Attributes:
        at: when, as ISO 8601.
        origin: who did it: "window", "shell", or BY_ITSELF.
        state: 0 done, 1 undone, 2 passed over.
    """

    id: int
    label: str
    at: str
    origin: str
    state: int = 0

    @property
    def is_filling(self) -> bool:
        """Whether it filled living lists."""
        return self.label.startswith(FILLING)


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
