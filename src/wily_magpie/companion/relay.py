"""The companion's host: passes messages of the browser on to the window's door; without a window it becomes the program.

Started by the browser for each connection, with nothing loaded that is not needed: `companion install` puts it in its place,
with a file beside it that says how the program is started. It runs with the rights of the person, and opens no port.
"""

import os
import socket
import stat
import sys

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Callable

UP, DOWN = 8 << 20, 1 << 20
"""Bytes of a message from the browser, and of an answer."""
LONGEST_BASE = 72
"""Bytes of the folder in which that of the sockets lies, whose whole paths may have 108 (see core/companion/door.py)."""
MINE = ("chrome-extension://@CHROMIUM_ID@/", "@FIREFOX_ID@")
PROGRAM = ["@PYTHON@", "-I", "-m", "wily_magpie", "companion", "serve", *"@LIBRARY@".split("\0")]
STRANGE = ("MOZ_", "GOOGLE_", "LD_", "PYTHON", "NSS_", "CHROME_")
"""What the browser puts into its environment for itself."""


def exactly(read: "Callable[[int], bytes]", count: int) -> bytes | None:
    """So many bytes; None at the end."""
    parts = bytearray()
    while len(parts) < count:
        part = read(min(count - len(parts), 1 << 20))
        if not part:
            return None
        parts += part
    return bytes(parts)


def frame(read: "Callable[[int], bytes]", limit: int) -> bytes | None:
    """The next message with its head, as it is; None at the end."""
    head = exactly(read, 4)
    if head is None:
        return None
    size = int.from_bytes(head, sys.byteorder)
    if size > limit:
        raise SystemExit(f"a message of {size} bytes is too large")
    body = exactly(read, size)
    return None if body is None else head + body


def is_ours(folder: str) -> bool:
    """Whether a folder is one, no link, of this user, into which nobody else may write."""
    try:
        told = os.lstat(folder)
    except (OSError, ValueError):
        return False
    return stat.S_ISDIR(told.st_mode) and told.st_uid == os.getuid() and not told.st_mode & 0o022


def doors() -> list[str]:
    """The sockets of windows, the one opened last first; in the folder that is ours alone."""
    base = os.environ.get("XDG_RUNTIME_DIR", "")
    if not is_ours(base) or len(os.fsencode(base)) > LONGEST_BASE:  # as a window does
        base = f"/tmp/wily-magpie-{os.getuid()}"
    folder = os.path.join(base, "wily-magpie")
    if not is_ours(base) or not is_ours(folder):
        return []
    try:
        out = [os.path.join(folder, name) for name in os.listdir(folder) if name.endswith(".sock")]
    except OSError:
        return []
    return sorted(out, key=lambda path: -os.lstat(path).st_mtime)


def window() -> socket.socket | None:
    """A connection to the window; None where there is none."""
    for path in doors():
        connection = socket.socket(socket.AF_UNIX)
        try:
            connection.connect(path)
        except OSError:
            connection.close()
            continue
        user = int.from_bytes(connection.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, 12)[4:8], sys.byteorder)
        if user == os.getuid():
            return connection
        connection.close()
    return None


def main() -> None:
    """Passes messages on until one of both hangs up."""
    if not set(sys.argv[1:]) & set(MINE):
        raise SystemExit("this is for the companion alone")
    connection = window()
    if connection is None:  # nothing is read yet, so nothing is lost
        own = {name: value for name, value in os.environ.items() if not name.startswith(STRANGE)}
        os.execve(PROGRAM[0], [word for word in PROGRAM if word], own)
    while (message := frame(lambda count: os.read(0, count), UP)) is not None:
        connection.sendall(message)
        answer = frame(connection.recv, DOWN)
        if answer is None:
            raise SystemExit("the window was closed")
        out = memoryview(answer)
        while out:
            out = out[os.write(1, out) :]


if __name__ == "__main__":
    main()
