"""The companion's host where no window is open: the program itself, on the pipes that the browser has made."""

import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from wily_magpie.core.companion.desk import CompanionDesk
from wily_magpie.core.companion.scheme import Visit
from wily_magpie.core.companion.wire import frame, read_frame
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.session.session import Session

PICTURES_S = 60.0
"""How long pictures are still fetched once the browser has hung up."""


class StartsWindow:
    """Opens a window for what is to be seen in one.

    Attributes:
        started: the windows, which go on without this process.
    """

    def __init__(self, library: Path) -> None:
        self.library = library
        self.started: list[subprocess.Popen[bytes]] = []

    def come_up(self) -> None:
        """Starts it."""
        self.start()

    def open_address(self, visit: Visit) -> None:
        """Starts it with an address; the slip's draft is there."""
        self.start(*(["--words", visit.words] if visit.words else []), visit.address)

    def open_entry(self, place: str, entry_id: int) -> None:
        """Starts it with an entry."""
        self.start("--entry", f"{place}/{entry_id}")

    def start(self, *words: str) -> None:
        """Starts the program beside this one."""
        own = {name: value for name, value in os.environ.items() if not name.startswith("MOZ_")}
        started = subprocess.Popen(  # noqa: S603 - our own program
            [sys.executable, "-m", "wily_magpie", "--library", str(self.library), *words],
            stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
            start_new_session=True, env=own,
        )  # fmt: skip
        self.started.append(started)


def serve(open_session: Callable[[], Session], folder: Path, heard: Callable[[str, str], None]) -> int:
    """Answers until the browser hangs up; the library is opened once the first message is there."""
    message = read_frame(sys.stdin.buffer.read)
    if message is None:
        return 0
    try:
        session = open_session()
    except MagpieError as error:
        refused = {"id": message.get("id") if isinstance(message, dict) else None, "ok": False}
        answer({**refused, "error": error.slug, "message": str(error)})
        return 1
    desk = CompanionDesk(session, StartsWindow(folder), heard=heard)
    try:
        while message is not None:
            answer(desk.answer(message))
            message = read_frame(sys.stdin.buffer.read)
    finally:
        desk.close(PICTURES_S)
        session.close()
    return 0


def answer(message: dict[str, object]) -> None:
    """Writes an answer to the browser."""
    sys.stdout.buffer.write(frame(message))
    sys.stdout.buffer.flush()
