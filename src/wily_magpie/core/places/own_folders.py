"""The folders that this person, on this machine, has set up for a library: a step of it writes nowhere else.

A library that somebody else has made names notes folders and has steps of its own; what it names is looked at first. What the
person has set up stands in a file in the library, signed with the machine's own number (machine-id(5), which asks for just that:
a keyed hash, since the number itself is confidential). Somebody else cannot make such a file; a copy on the same machine keeps it.
"""

import hashlib
import hmac
import json
import os
from collections.abc import Iterable
from contextlib import suppress
from pathlib import Path

from wily_magpie.core.errors import EnvironmentFailure
from wily_magpie.core.places.atomic import read_bytes, write_bytes

FILE = "own-folders.json"
MACHINE = Path("/etc/machine-id")


class OwnFolders:
    """Of one library.

    Args:
        library: its folder.
    """

    def __init__(self, library: Path) -> None:
        self.library = library
        self.known: frozenset[Path] = frozenset()

    def allow(self, paths: Iterable[Path]) -> None:
        """The person has set these up; where that cannot be written down, it holds as long as the library is open."""
        self.known = self.read() | self.known | {path.resolve() for path in paths}
        names = sorted(map(str, self.known))
        told = {"folders": names, "signed": self.signature(names)}
        with suppress(OSError, EnvironmentFailure):
            write_bytes(self.library / FILE, json.dumps(told, ensure_ascii=False, indent=2).encode())

    def has(self, path: Path) -> bool:
        """Whether a notes folder is one of them."""
        wanted = path.resolve()
        if wanted not in self.known:
            self.known |= self.read()  # another process may have taken it in
        return wanted in self.known

    def holds(self, path: Path) -> bool:
        """Whether a step may write a file: it lies in one of them, wherever links on its way lead."""
        wanted = path.resolve()
        return any(wanted.is_relative_to(one) for one in self.known | self.read())

    def read(self) -> frozenset[Path]:
        """What is written down; nothing where that was written elsewhere, or by somebody else."""
        with suppress(ValueError, KeyError, TypeError, EnvironmentFailure, OSError):
            told = json.loads((read_bytes(self.library / FILE) or b"").decode())
            names = [str(one) for one in told["folders"]]
            if hmac.compare_digest(self.signature(names), str(told["signed"])):
                return frozenset(map(Path, names))
        return frozenset()

    def signature(self, names: Iterable[str]) -> str:
        """By which it is known that they were written down here; where the machine has no number, for this very folder."""
        number = ""
        with suppress(OSError):
            number = MACHINE.read_text("ascii", "replace").strip()
        key = number or f"{self.library.stat().st_dev} {self.library.stat().st_ino}"
        told = json.dumps([os.getuid(), *names])
        return hmac.new(
            f"wily-magpie {key}".encode(), told.encode("utf-8", "surrogatepass"), hashlib.sha256
        ).hexdigest()


def links_in(folder: Path) -> set[Path]:
    """Where the links in a folder lead, at any depth."""
    return {path.resolve() for path in folder.rglob("*") if path.is_symlink()}
