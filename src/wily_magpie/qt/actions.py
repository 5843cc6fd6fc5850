"""Every command of the window as one row: the menu and the command finder are made from them."""

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Command:
    """One command.

    Attributes:
        label: its name now; may change, as that of undo does.
        keys: its shortcuts, the first is the one shown.
        is_enabled: whether it can be had now.
        group: commands of one group stand together in the menu.
    """

    id: str
    label: Callable[[], str]
    act: Callable[[], object]
    keys: tuple[str, ...] = ()
    is_enabled: Callable[[], bool] = lambda: True
    group: str = ""
