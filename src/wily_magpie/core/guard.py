"""A guard that finds out where a thread that must never wait (the interface's) asks a database or touches a file.

It is off unless `watch` switches it on, which the tests do, and the demo where it is told to. What counts is whose call it is:
a frame of the guarded package on the guarded thread. So a test may look into a library itself, on the same thread.
"""

import sys
import threading
from pathlib import Path
from types import FrameType

LOADING = "importlib"
OWN = (sys.prefix, sys.base_prefix, str(Path(__file__).parent.parent), "/proc/", "/dev/")
"""What is part of the program, such as its fonts, or no disk at all."""
FILE_EVENTS = frozenset(
    ("open", "os.listdir", "os.scandir", "os.mkdir", "os.rename", "os.remove", "os.link", "os.symlink")
)


class InterfaceWaits(Exception):
    """The guarded thread was about to wait for a database or a disk. No error of a person's: nobody catches it."""


class Guard:
    """What is watched: a thread, and the package whose calls on it count."""

    def __init__(self) -> None:
        self.thread = 0
        self.package = ""
        self.is_hooked = False

    def watch(self, package: str) -> None:
        """Watches the calling thread for calls that come from a package."""
        self.thread, self.package = threading.get_ident(), package
        if not self.is_hooked:
            self.is_hooked = True
            sys.addaudithook(self._on_event)  # such a hook stays for the life of the process

    def lift(self) -> None:
        """Watches nothing any more."""
        self.thread = 0

    def check(self, what: str) -> None:
        """Called before anything is waited for.

        Raises:
            InterfaceWaits: the guarded package does it on the guarded thread.
        """
        if threading.get_ident() == self.thread and self.is_caller(sys._getframe(1)):  # noqa: SLF001 - the documented way
            raise InterfaceWaits(what)

    def is_caller(self, frame: FrameType | None) -> bool:
        """Whether the guarded package is among the callers, and is not merely loading a module."""
        is_inside = False
        while frame is not None:
            name = str(frame.f_globals.get("__name__", ""))
            if name.startswith(LOADING):
                return False
            is_inside |= name.startswith(self.package)
            frame = frame.f_back
        return is_inside

    def _on_event(self, event: str, arguments: tuple[object, ...]) -> None:
        if self.thread and event in FILE_EVENTS and not str(arguments[0]).startswith(OWN):
            self.check(f"{event} {arguments[:1]}")


GUARD = Guard()
"""The one of this process."""
