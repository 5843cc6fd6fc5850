"""Standard modules, loaded without what they have loaded along and seldom use: a window is there the sooner."""

import sys
from importlib import import_module
from types import ModuleType


class Late(ModuleType):
    """Stands for a module until something of it is asked for."""

    def __getattr__(self, name: str) -> object:
        return getattr(import_module(self.__name__), name)


def loaded(name: str, *, later: str) -> ModuleType:
    """A module, with a stand-in for another one that it has loaded along; itself alone where either is there already.

    The stand-in is known to that module alone: whoever else loads the other one gets it as it is.
    """
    if not {name, later}.isdisjoint(sys.modules):
        return import_module(name)
    sys.modules[later] = Late(later)
    try:
        return import_module(name)
    finally:
        del sys.modules[later]
