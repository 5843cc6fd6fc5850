"""The picture of the companion's slip in real browsers of both families, over the demo library."""

import os
import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))  # the browser and the screen that tests drive

from PyQt6.QtGui import QImage, QPainter

from companion_browser import CHROMIUM, FIREFOX, WHEN_SHOWN, start
from screen import Screen
from wily_magpie.core.companion.desk import CompanionDesk
from wily_magpie.core.companion.door import Door
from wily_magpie.core.companion.scheme import Visit
from wily_magpie.core.session.session import Session
from wily_magpie.demo.server import StandInWeb

PAGE = "http://slow-letters.example/essays/the-mill-at-night"
CHOOSE = """new Promise((go) => {
  const look = () => {
    const found = document.querySelectorAll("p")[1];
    if (!found) return setTimeout(look, 50);
    getSelection().selectAllChildren(found);
    go(1);
  };
  setTimeout(look, 1500);
})"""
"""Chooses a passage, once the page's script has brought it."""
SIZE = "1000x800x24"


class Nobody:
    """Stands for the window."""

    def come_up(self) -> None:
        """Nothing comes up."""

    def open_address(self, visit: Visit) -> None:
        """Nothing is opened."""

    def open_entry(self, place: str, entry_id: int) -> None:
        """Nothing is opened."""


def shoot_both(session: Session, to: Path) -> None:
    """Saves both side by side."""
    both = [shot(session, key) for key in (CHROMIUM, FIREFOX)]
    whole = QImage(sum(one.width() for one in both), both[0].height(), QImage.Format.Format_RGB32)
    painter = QPainter(whole)
    for number, one in enumerate(both):
        painter.drawImage(number * one.width(), 0, one)
    painter.end()
    whole.save(str(to))
    sys.stdout.write(f"{to}\n")


def shot(session: Session, key: str) -> QImage:
    """Opens a page in a browser and presses the button: what is to be seen."""
    web = StandInWeb(passes_on=False)
    with tempfile.TemporaryDirectory() as folder, Screen(SIZE) as screen:
        home, browser = start(
            key, Path(folder) / "home", web, is_headless=False, environment={"DISPLAY": screen.display}
        )
        os.environ.update({name: home.environment[name] for name in ("XDG_RUNTIME_DIR",)})
        desk = CompanionDesk(session, Nobody())
        door = Door(desk.answer)
        try:
            browser.open(PAGE)
            browser.in_page(CHOOSE)
            browser.press()
            browser.in_slip(WHEN_SHOWN)
            browser.in_slip("await new Promise((go) => setTimeout(go, 800))")
            width, height, lines = screen.seen()
            return QImage(b"".join(lines), width, height, width * 4, QImage.Format.Format_RGB32).copy()
        finally:
            browser.close()
            door.close()
            desk.close()
            web.close()
