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
import time
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
MOST_CALLERS, WAITING, BUSY = 32, 64, float("inf")
PEER = struct.Struct("3i")
log = logging.getLogger(__name__)


def doors_folder() -> Path:
    """Where the sockets of all windows lie: under XDG_RUNTIME_DIR, else under /tmp; made, and ours alone.

    Raises:
        EnvironmentFailure: it cannot be made, or belongs to somebody else.
    """
    base = os.environ.get("XDG_RUNTIME_DIR", "")
    if not is_ours(base) or len(os.fsencode(base)) > LONGEST_BASE:
        base = f"/tmp/wily-magpie-{os.getuid()}"  # noqa: S108 - checked below
    folder = Path(base) / "wily-magpie"
    with contextlib.suppress(OSError):
        folder.parent.mkdir(mode=0o700, exist_ok=True)
        if is_ours(str(folder.parent)):
            folder.mkdir(mode=0o700, exist_ok=True)
            if is_ours(str(folder)):
                folder.chmod(0o700)
                return folder
    raise EnvironmentFailure(
        "no-door",
        f"The folder {folder.parent}, in which the browser and other starts of the program reach this window, is not yours alone.",
        "Set XDG_RUNTIME_DIR to a folder of yours.",
    )


def is_ours(folder: str) -> bool:
    """Whether a folder is one, no link, of this user, into which nobody else may write."""
    try:
        told = os.lstat(folder)
    except (OSError, ValueError):
        return False
    return stat.S_ISDIR(told.st_mode) and told.st_uid == os.getuid() and not told.st_mode & 0o022


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
        self.callers: dict[socket.socket, float] = {}
        """Who is there, and when each was last heard; of those that are being answered, never."""
        self.lock = threading.Lock()
        threading.Thread(target=self.wait, name="door", daemon=True).start()

    def wait(self) -> None:
        """Lets callers in until it is closed."""
        while True:
            try:
                caller, _ = self.socket.accept()
            except OSError:
                return
            if user_of(caller) == os.getuid() and self.has_room():
                with self.lock:
                    self.callers[caller] = time.monotonic()
                threading.Thread(target=self.serve, args=(caller,), name="caller", daemon=True).start()
            else:
                caller.close()

    def has_room(self) -> bool:
        """Whether one more may come; whoever has said nothing for the longest time goes for it."""
        with self.lock:
            if len(self.callers) < MOST_CALLERS:
                return True
            idle = min(self.callers, key=self.callers.__getitem__)
            if self.callers[idle] == BUSY:
                return False
            del self.callers[idle]
        with contextlib.suppress(OSError):
            idle.shutdown(socket.SHUT_RDWR)
        return True

    def heard(self, caller: socket.socket, when_s: float) -> None:
        """Notes when a caller was heard last, if it was not sent away meanwhile."""
        with self.lock:
            if caller in self.callers:
                self.callers[caller] = when_s

    def serve(self, caller: socket.socket) -> None:
        """Answers one caller as long as it asks."""
        try:
            while (message := read_frame(partial(exactly, caller))) is not None:
                self.heard(caller, BUSY)
                answer = frame(self.answer(message))
                self.heard(caller, time.monotonic())
                caller.sendall(answer)
        except OSError:
            pass  # it went away
        except MagpieError as error:
            log.warning("a caller at the door was sent away: %s", error)
        finally:
            with self.lock:
                self.callers.pop(caller, None)
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
            connect(connection, path, patience_s)
            if user_of(connection) != os.getuid():  # somebody else listens there
                return None
            connection.sendall(frame(message))
            answer = read_frame(partial(exactly, connection))
        except (OSError, MagpieError):
            return None
    return answer if isinstance(answer, dict) else None


def connect(connection: socket.socket, path: str, patience_s: float) -> None:
    """Connects to a door; where many wait before it, again and again for a while.

    Raises:
        OSError: nobody is there, or the queue does not move.
    """
    until_s = time.monotonic() + patience_s
    while True:
        try:
            connection.connect(path)
        except BlockingIOError:  # the queue is full
            if time.monotonic() > until_s:
                raise
            time.sleep(0.01)
        else:
            return


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
