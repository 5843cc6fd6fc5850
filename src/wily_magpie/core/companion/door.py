"""The door of a window: a socket at which other starts of the program and the companion's host reach it.

It is a socket of this machine's file system, in a folder that only its owner may enter, with the mode 0600; who comes is asked
of the kernel, and nobody but the same user is let in. Nothing listens on the network.
"""

import contextlib
import logging
import os
import socket
import stat
import struct
import threading
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from wily_magpie.core.companion.scheme import Visit
from wily_magpie.core.companion.wire import frame, read_frame
from wily_magpie.core.errors import EnvironmentFailure, MagpieError
from wily_magpie.core.places.library.premises import WINDOW

LONGEST_BASE = 72
"""Bytes of the folder in which that of the sockets lies: a socket's whole path may have 108. The relay reckons with the same."""
MOST_CALLERS, WAITING = 32, 16
PEER = struct.Struct("3i")
log = logging.getLogger(__name__)


def doors_folder() -> Path:
    """Where the sockets of all windows lie: under XDG_RUNTIME_DIR, else under /tmp; made, and ours alone.

    Raises:
        EnvironmentFailure: it cannot be made, or belongs to somebody else.
    """
    base = os.environ.get("XDG_RUNTIME_DIR", "")
    if not Path(base).is_dir() or not base or len(os.fsencode(base)) > LONGEST_BASE:
        base = f"/tmp/wily-magpie-{os.getuid()}"  # noqa: S108 - checked below
    folder = Path(base) / "wily-magpie"
    with contextlib.suppress(OSError):
        folder.parent.mkdir(mode=0o700, exist_ok=True)
        folder.mkdir(mode=0o700, exist_ok=True)
        told = folder.lstat()
        if stat.S_ISDIR(told.st_mode) and told.st_uid == os.getuid():
            folder.chmod(0o700)
            return folder
    raise EnvironmentFailure(
        "no-door", "There is no folder for the socket by which the browser reaches this window.",
        "Set XDG_RUNTIME_DIR to a folder of yours.",
    )  # fmt: skip


class Door:
    """Listens, answers each caller on a thread of its own, and is closed with the window.

    Args:
        answer: gives the answer to a message; called on the caller's thread.
    """

    def __init__(self, answer: Callable[[object], dict[str, Any]]) -> None:
        self.answer = answer
        self.path = doors_folder() / f"window-{os.getpid()}.sock"
        self.path.unlink(missing_ok=True)
        self.socket = socket.socket(socket.AF_UNIX)
        self.socket.bind(str(self.path))
        self.path.chmod(0o600)
        self.socket.listen(WAITING)
        self.callers: set[socket.socket] = set()
        self.lock = threading.Lock()
        threading.Thread(target=self.wait, name="door", daemon=True).start()

    def wait(self) -> None:
        """Lets callers in until it is closed."""
        while True:
            try:
                caller, _ = self.socket.accept()
            except OSError:
                return
            with self.lock:
                may_come = len(self.callers) < MOST_CALLERS and user_of(caller) == os.getuid()
                if may_come:
                    self.callers.add(caller)
            if may_come:
                threading.Thread(target=self.serve, args=(caller,), name="caller", daemon=True).start()
            else:
                caller.close()

    def serve(self, caller: socket.socket) -> None:
        """Answers one caller as long as it asks."""
        try:
            while (message := read_frame(partial(exactly, caller))) is not None:
                caller.sendall(frame(self.answer(message)))
        except OSError:
            pass  # it went away
        except MagpieError as error:
            log.warning("a caller at the door was sent away: %s", error)
        finally:
            with self.lock:
                self.callers.discard(caller)
            caller.close()

    def close(self) -> None:
        """Lets nobody in any more."""
        with contextlib.suppress(OSError):
            self.socket.shutdown(socket.SHUT_RDWR)
        self.socket.close()
        self.path.unlink(missing_ok=True)
        with self.lock:
            for caller in self.callers:
                with contextlib.suppress(OSError):
                    caller.shutdown(socket.SHUT_RDWR)


def user_of(caller: socket.socket) -> int:
    """The number of the user at the other end, as the kernel says."""
    _, user, _ = PEER.unpack(caller.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, PEER.size))
    return int(user)


def exactly(connection: socket.socket, count: int) -> bytes:
    """So many bytes; fewer where the other end has closed."""
    parts = bytearray()
    while len(parts) < count:
        part = connection.recv(min(count - len(parts), 1 << 20))
        if not part:
            break
        parts += part
    return bytes(parts)


def call(path: str, message: object, patience_s: float = 1.5) -> dict[str, Any] | None:
    """Asks at a door; None where nobody answers."""
    if not path:
        return None
    with socket.socket(socket.AF_UNIX) as connection:
        connection.settimeout(patience_s)
        try:
            connection.connect(path)
            connection.sendall(frame(message))
            answer = read_frame(partial(exactly, connection))
        except (OSError, MagpieError):
            return None
    return answer if isinstance(answer, dict) else None


def visit_window(folder: Path, visit: Visit | None, entry: str | None) -> bool:
    """Has the window of a library open an address or an entry; whether there is one that does."""
    lock = folder / WINDOW
    path = lock.read_text("utf-8", "replace").strip() if lock.is_file() else ""
    if visit is not None:
        message: dict[str, object] = {"what": "visit", "address": visit.address, "words": visit.words}
        message["is_typed"] = visit.is_typed
    else:
        place, _, number = (entry or "").rpartition("/")
        message = {"what": "entry", "place": place, "entry": int(number) if number.isdigit() else -1}
    answer = call(path, message)
    return answer is not None and bool(answer.get("ok"))
