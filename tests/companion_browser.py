"""A browser with the companion in it, the library that its pages go to, and what a person does with both."""

import contextlib
import os
import shutil
import signal
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Protocol
from urllib.parse import urlsplit

import pytest

from chromium import Chromium, wait_until
from firefox import Firefox
from wily_magpie.core.companion.browsers import Companion, find_browser, identities
from wily_magpie.core.companion.desk import CompanionDesk
from wily_magpie.core.companion.door import LONGEST_BASE, Door
from wily_magpie.core.companion.scheme import Visit
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.demo.server import StandInWeb

CHROMIUM, FIREFOX = "chromium", "firefox"
PROGRAMS = {CHROMIUM: "chromium", FIREFOX: "firefox-esr"}


class Browser(Protocol):
    """What tests do with one of either family."""

    name: str

    def open(self, address: str) -> None: ...
    def visit(self, address: str) -> None: ...
    def in_page(self, script: str) -> Any: ...
    def press(self) -> None: ...
    def in_slip(self, script: str) -> Any: ...
    def in_background(self, script: str) -> Any: ...
    def has_slip(self) -> bool: ...
    def close_slip(self) -> None: ...
    def close(self) -> None: ...


class Front:
    """Stands for the window: notes what it is to open."""

    def __init__(self) -> None:
        self.opened: list[object] = []

    def come_up(self) -> None:
        self.opened.append("up")

    def open_address(self, visit: Visit) -> None:
        self.opened.append(visit.address)

    def open_entry(self, place: str, entry_id: int) -> None:
        self.opened.append((place, entry_id))


class Home:
    """The home folder of a person who has installed the companion."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.library = folder, folder / "alone" / "books"
        folder.mkdir(exist_ok=True)
        (folder / "run").mkdir(mode=0o700)
        names = {
            "HOME": "",
            "XDG_RUNTIME_DIR": "run",
            "XDG_CONFIG_HOME": ".config",
            "XDG_DATA_HOME": "data",
            "XDG_STATE_HOME": "state",
        }
        self.environment = {name: str(folder / where) for name, where in names.items()}
        assert len(str(folder / "run")) <= LONGEST_BASE, "else its door would be where that of other tests is"
        self.profile = folder / "profile"
        with pytest.MonkeyPatch.context() as patch:
            self.enter(patch)
            self.companion = Companion()

    def enter(self, patch: pytest.MonkeyPatch) -> None:
        for name, where in self.environment.items():
            patch.setenv(name, where)

    def install(self, key: str) -> None:
        with pytest.MonkeyPatch.context() as patch:
            self.enter(patch)
            self.companion.install(self.library, [find_browser(key)], self.profile if key == CHROMIUM else None)

    def end_hosts(self) -> None:
        """Kills the hosts that go on, so that the next word of the browser starts another one."""
        for folder in Path("/proc").glob("[0-9]*"):
            with contextlib.suppress(OSError):
                words = folder.joinpath("cmdline").read_bytes().split(b"\0")
                is_alone = b"serve" in words and str(self.library).encode() in words
                if is_alone or str(self.companion.home / "relay.py").encode() in words:
                    os.kill(int(folder.name), signal.SIGKILL)

    def manifest(self, key: str) -> Path:
        with pytest.MonkeyPatch.context() as patch:
            self.enter(patch)
            return self.companion.manifest_of(find_browser(key))


def start(key: str, folder: Path, web: StandInWeb, **more: Any) -> tuple[Home, Browser]:
    """A browser in a home of its own."""
    if shutil.which(PROGRAMS[key]) is None:
        pytest.skip(f"{PROGRAMS[key]} is not installed here")
    home = Home(folder)
    home.install(key)
    environment = {**os.environ, **home.environment, **more.pop("environment", {})}
    chromium, firefox = identities()
    browser: Browser
    if key == CHROMIUM:
        flags = [] if more.get("is_headless") is False else ["--headless=new"]
        browser = Chromium(home.companion.extension, chromium, home.profile, environment, web.proxy, flags)
    else:
        browser = Firefox(home.companion.extension, firefox, home.profile, environment, web.proxy, **more)
    return home, browser


class Desk:
    """A browser with a library behind it whose window is open, as far as the browser can tell."""

    def __init__(self, home: Home, browser: Browser, folder: Path, fetcher: Fetcher) -> None:
        self.home, self.browser, self.front = home, browser, Front()
        self.session = Session(folder / "library", fetcher)
        self.desk = CompanionDesk(self.session, self.front)
        self.door: Door | None = None

    def open_door(self) -> None:
        with pytest.MonkeyPatch.context() as patch:
            self.home.enter(patch)
            self.door = Door(self.desk.answer)

    def close_door(self) -> None:
        if self.door is not None:
            self.door.close()
            self.door = None

    def close(self) -> None:
        self.close_door()
        self.desk.close(10)
        self.session.close()

    def slip(self) -> dict[str, Any]:
        """Presses the button and waits for the slip, or for why there is none."""
        self.browser.press()
        return self.shown()

    def shown(self) -> dict[str, Any]:
        told: dict[str, Any] = self.browser.in_slip(WHEN_SHOWN)
        return told

    def click(self, name: str) -> None:
        self.browser.in_slip(f"w.document.getElementById('{name}').click()")

    def after(self, text: str) -> str:
        """What the slip says once that says this."""
        told: str = self.browser.in_slip(WHEN_SAID.replace("TEXT", text))
        assert text in told, told
        return told

    def entries(self, session: Session | None = None) -> list[Entry]:
        asked = session or self.session
        place = asked._library.place("Sources")
        found = [place.entry(one) for one in place.listing(asked.reader.entries.question(place.key, "")).ids]
        return [one for one in found if one is not None]

    def kept(self) -> Entry:
        """The one entry that is kept, once it is."""
        return wait_until(self.entries, "the entry")[0]


WHEN_SHOWN = """await new Promise((go) => {
  const look = () => {
    const of = (id) => w.document.getElementById(id), said = of("help").hidden ? "" : of("help").textContent;
    if (of("slip").hidden && !said) return setTimeout(look, 20);
    go({ title: of("title").value, said, told: of("told").textContent, marks: of("mark-count").textContent, state: of("state").textContent,
         status: of("fields").querySelector("[data-key=status]")?.value ?? "", why: of("why").textContent });
  };
  look();
})"""
WHEN_SAID = """await new Promise((go) => {
  let left = 500;
  const look = () => {
    const said = w.document.body.innerText;
    if (said.includes("TEXT") || !left--) go(said); else setTimeout(look, 20);
  };
  look();
})"""


def desks(homes: Callable[[str], tuple[Home, Browser]], key: str, folder: Path, web: StandInWeb) -> Iterator[Desk]:
    """A desk with its door open, in a browser of the family."""
    home, browser = homes(key)
    route = lambda address: web.proxy if (urlsplit(address).hostname or "").endswith(".example") else None  # noqa: E731
    desk = Desk(home, browser, folder, Fetcher(route, silence_s=1.0))
    home.end_hosts()
    desk.open_door()
    yield desk
    browser.close_slip()
    desk.close()
