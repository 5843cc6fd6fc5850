"""A screen of its own, with a window manager: real keys and clicks, and what is to be seen."""

import contextlib
import os
import struct
import subprocess
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

Box = tuple[int, int, int, int]
HEAD = struct.Struct(">25I")
"""Of a window dump (XWD), which Xvfb keeps of its screen in a file."""


class Screen:
    """Xvfb with openbox: without a window manager one family of browsers takes a click into its popup for one beside it."""

    def __init__(self, size: str = "1100x900x24") -> None:
        self.folder = tempfile.TemporaryDirectory(prefix="screen")
        told, telling = os.pipe()
        self.server = subprocess.Popen(
            ["Xvfb", "-displayfd", str(telling), "-screen", "0", size, "-nolisten", "tcp", "-noreset",
             "-fbdir", self.folder.name],
            pass_fds=[telling], stderr=subprocess.DEVNULL,
        )  # fmt: skip
        os.close(telling)
        with os.fdopen(told) as answer:
            self.display = f":{answer.readline().strip()}"
        self.manager = self.managed()

    def managed(self, patience_s: float = 20) -> subprocess.Popen[bytes]:
        """The window manager, once it manages; started again where it came before the screen let anybody in."""
        end, surroundings = time.monotonic() + patience_s, {**os.environ, "DISPLAY": self.display}
        while time.monotonic() < end:
            manager = subprocess.Popen(
                ["openbox"], env=surroundings, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
            )
            while manager.poll() is None and time.monotonic() < end:
                if self.do("get_desktop"):
                    return manager
                time.sleep(0.05)
        raise AssertionError("the window manager did not start")

    def __enter__(self) -> "Screen":
        return self

    def __exit__(
        self, _kind: type[BaseException] | None, _error: BaseException | None, _trace: TracebackType | None
    ) -> None:
        for process in (self.manager, self.server):
            process.terminate()
            process.wait()
        self.folder.cleanup()

    def do(self, *words: object) -> str:
        """Has xdotool do something."""
        told = subprocess.run(
            ["xdotool", *map(str, words)],
            env={**os.environ, "DISPLAY": self.display},
            capture_output=True,
            text=True,
            check=False,
        )
        return told.stdout.strip()

    def seen(self) -> tuple[int, int, list[bytes]]:
        """Width, height, and the lines of what is to be seen, four bytes a pixel: blue, green, red, nothing."""
        dump = (Path(self.folder.name) / "Xvfb_screen0").read_bytes()
        head = HEAD.unpack_from(dump)
        begin, width, height, line = head[0] + head[19] * 12, head[4], head[5], head[12]
        return width, height, [dump[begin + at * line : begin + at * line + width * 4] for at in range(height)]

    def menu_line(self, at: tuple[int, int], colour: tuple[int, int, int]) -> tuple[int, int]:
        """Opens the menu of a page and finds its line with a colour; again where something else was closed by the click."""
        for _ in range(5):
            self.click((at[0], at[1] - 60))
            self.click(at, 3)
            with contextlib.suppress(AssertionError):
                return self.find(colour, (at[0] - 60, at[1] - 400, 1100, 900), 20, patience_s=2.5)
            self.do("key", "Escape")
        raise AssertionError("there is no such line")

    def find(
        self, colour: tuple[int, int, int], box: Box | None = None, at_least: int = 12, patience_s: float = 20
    ) -> tuple[int, int]:
        """The middle of what has a colour, once it is to be seen."""
        wanted, end = bytes(reversed(colour)), time.monotonic() + patience_s
        while time.monotonic() < end:
            width, height, lines = self.seen()
            left, top, right, bottom = box or (0, 0, width, height)
            spots = [(x, y) for y in range(top, bottom) for x in places(lines[y], wanted) if left <= x < right]
            if len(spots) >= at_least:
                across, down = sorted(x for x, _ in spots), sorted(y for _, y in spots)
                return across[len(spots) // 2], down[len(spots) // 2]
            time.sleep(0.05)
        raise AssertionError(f"nothing of the colour {colour} is to be seen")

    def press_until(self, at: tuple[int, int], key: str, is_done: Callable[[], bool]) -> None:
        """Clicks into a page and presses a key; again where the window was not ready to hear it."""
        for _ in range(8):
            self.click(at)
            self.do("key", key)
            end = time.monotonic() + 2.5
            while time.monotonic() < end:
                if is_done():
                    return
                time.sleep(0.05)
        raise AssertionError(f"{key} did nothing")

    def click_until(self, find: Callable[[], tuple[int, int]], is_done: Callable[[], bool]) -> None:
        """Clicks on what is found; again where the window was not ready for it."""
        for _ in range(6):
            self.click(find())
            end = time.monotonic() + 4
            while time.monotonic() < end:
                if is_done():
                    return
                time.sleep(0.05)
        raise AssertionError("the click did nothing")

    def click(self, at: tuple[int, int], button: int = 1) -> None:
        """Goes there with the mouse and clicks."""
        self.do("mousemove", at[0] - 3, at[1] - 2, "mousemove", *at, "click", button)


def places(line: bytes, wanted: bytes) -> list[int]:
    """Where pixels of a colour are in a line."""
    out, at = [], line.find(wanted)
    while at >= 0:
        if at % 4 == 0:
            out.append(at // 4)
        at = line.find(wanted, at + 1)
    return out
