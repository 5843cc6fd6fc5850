"""Qt's classes made whole before other threads meet them.

The bindings make what a class has besides its methods, such as its enumerations, when it is first asked for anything. Two
threads that ask at the same time make two of each, of which Qt takes only the later one: what the other thread holds is
refused then, in the midst of anything. So all are asked for once on the interface's thread, a few at a time, before pictures
are decoded and modules loaded elsewhere.
"""

from collections.abc import Iterator

from PyQt6 import QtCore, QtGui, QtWidgets


def made_whole() -> Iterator[type]:
    """Each class once it is whole; those that are already take no time."""
    for module in (QtCore, QtGui, QtWidgets):
        for one in list(vars(module).values()):
            if isinstance(one, type):
                getattr(one, "__name__")  # noqa: B009 - any attribute does it
                yield one
