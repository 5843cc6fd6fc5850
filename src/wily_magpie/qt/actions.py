"""Every command of the window as one row: the menu and the command finder are made from them."""

from collections.abc import Callable
from dataclasses import dataclass


def always() -> bool:
    """For a command that can always be had."""
    return True


@dataclass(frozen=True)
class Command:
    """One command.

    Attributes:
        keys: its shortcuts, the first is the one shown.
        is_enabled: whether it can be had now.
        group: commands of one group stand together in the menu.
        name_now: its name at this moment, for one whose name changes, as that of undo does.
    """

    id: str
    name: str
    act: Callable[[], object]
    keys: tuple[str, ...] = ()
    is_enabled: Callable[[], bool] = always
    group: str = ""
    name_now: Callable[[], str] | None = None

    @property
    def label(self) -> str:
        """Its name as it is to be shown."""
        return self.name_now() if self.name_now is not None else self.name
