"""Clipboard and drops with real keys and a real mouse, on a screen of its own with a window manager, between two programs."""

import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from chromium import wait_until
from conftest import HERON
from journeys.screen_window import COLOUR
from screen import Screen
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.demo.server import StandInWeb

CHILD = Path(__file__).parent / "screen_window.py"
TIDE = "http://estuarine-lexicon.example/tide-mill"
TITLE, LIST = "Wily Magpie", "Capture a list"


class Desk:
    """A screen with the program's window and another one."""

    def __init__(self, screen: Screen, folder: Path, web: StandInWeb, session: Session) -> None:
        self.screen, self.folder, self.web, self.session = screen, folder, web, session
        self.children: list[subprocess.Popen[bytes]] = []

    def start(self, *words: object) -> None:
        """Starts one of the windows."""
        screen = {"DISPLAY": self.screen.display, "QT_QPA_PLATFORM": "xcb"}
        surroundings = {**os.environ, **screen, "QTWEBENGINE_DISABLE_SANDBOX": "1"}
        self.children.append(subprocess.Popen([sys.executable, CHILD, *map(str, words)], env=surroundings))

    def window(self, title: str) -> str:
        """The number of a window with a title, once it is there."""
        return wait_until(lambda: self.screen.do("search", "--onlyvisible", "--name", title).split(), title)[-1]

    def open(self, *addresses: str) -> None:
        """Opens both windows; the addresses lie in the clipboard."""
        self.start("window", self.session.folder, self.web.proxy, self.folder)
        self.window(TITLE)
        self.start("other", *addresses)
        self.other = self.screen.find(COLOUR, at_least=5_000)
        self.screen.do("windowactivate", "--sync", self.window(TITLE))

    def titles(self) -> set[str]:
        """Of what is kept."""
        reader = self.session.reader.entries
        ids = reader.listing("collection:1", Question()).ids
        return {one.title for one in reader.rows("collection:1", ids)}


@pytest.fixture
def desk(tmp_path: Path, web: StandInWeb, session: Session) -> Iterator[Desk]:
    if not all(map(shutil.which, ("Xvfb", "openbox", "xdotool"))):
        pytest.skip("there is no Xvfb, openbox or xdotool here")
    with Screen("1400x860x24") as screen:
        made = Desk(screen, tmp_path, web, session)
        yield made
        for child in made.children:
            child.terminate()
            child.wait()


def test_addresses_in_the_clipboard_of_another_program_become_a_list(desk: Desk) -> None:
    desk.open(HERON, TIDE)
    desk.screen.do("key", "ctrl+shift+v")
    desk.screen.do("windowactivate", "--sync", desk.window(LIST), "key", "Return")
    wait_until(lambda: len(desk.titles()) == 2, "both pages")
    assert "Heron Mill turns again after ninety years" in desk.titles()


def test_links_dragged_from_another_program_become_a_list(desk: Desk) -> None:
    desk.open(HERON, TIDE)
    x, y = desk.other
    desk.screen.do("mousemove", x, y, "mousedown", 1)
    for at in (30, 200, 500, 700, 720):
        desk.screen.do("mousemove", x + at, y + at // 3, "sleep", 0.05)
    desk.screen.do("mouseup", 1)
    desk.screen.do("windowactivate", "--sync", desk.window(LIST), "key", "Return")
    wait_until(lambda: len(desk.titles()) == 2, "both pages")
