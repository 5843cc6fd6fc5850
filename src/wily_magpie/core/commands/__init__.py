"""Everything that changes a library: one class a change, plain data until a session does it.

The modules can also be had from here by name, as in `commands.views.KeepView(...)`: each is loaded when it is first named,
so that a window that has changed nothing yet has loaded none of them.
"""

from importlib import import_module
from types import ModuleType
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wily_magpie.core.commands import drafts, entries, files, history, lists, views

__all__ = ["drafts", "entries", "files", "history", "lists", "views"]


def __getattr__(name: str) -> ModuleType:
    if name not in __all__:
        raise AttributeError(f"There is no module {name!r} of commands that is loaded late.")
    return import_module(f"{__name__}.{name}")
