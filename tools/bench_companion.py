"""`./magpie bench companion` and `./magpie bench lists`.

companion: from the key in a real Chromium until a page is kept, with a window open and without one, against the way there and back
alone; the start of the host, against a bare Python.
lists: 200 addresses of the made-up web, against fetching the same addresses one after another; how long the window was busy.
"""

import os
import subprocess
import sys
import tempfile
import time
from concurrent.futures import Future
from pathlib import Path
from urllib.parse import urlsplit

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))  # the browser that tests drive

from bench_waits import SETTLE_S, beside, live_until, watched
from measure import tell, web_apart
from PyQt6.QtCore import QSettings

from companion_browser import CHROMIUM, WHEN_SHOWN, Front, start
from wily_magpie.core.commands.history import Undo
from wily_magpie.core.commands.lists import MakeList
from wily_magpie.core.companion.desk import CompanionDesk
from wily_magpie.core.companion.door import Door
from wily_magpie.core.errors import PageFailure
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.demo.server import StandInWeb
from wily_magpie.qt.application import make_application, make_window
from wily_magpie.qt.style.theme import THEME

PAGE = "http://estuary-courier.example/2025/03/14/heron-mill-turns-again"
RUNS, MANY = 9, 200
KEY = """(async () => { const tab = (await chrome.tabs.query({active: true, lastFocusedWindow: true}))[0], begun = performance.now();
const slip = await take(tab); await keep(tab.id, {capture: slip.capture, hand: slip.hand, as: "new"});
return (performance.now() - begun) / 1000; })()"""
ASK = """(async () => { const begun = performance.now(); await ask({what: "known", address: "http://nowhere.example/"});
return (performance.now() - begun) / 1000; })()"""
LISTED = (
    "http://estuarine-lexicon.example/tide-mill", "http://slow-letters.example/essays/the-mill-at-night",
    "http://shio-notes.example/suisha", "http://nahr-review.example/tawahin", "http://low-water-radio.example/episodes/17",
    "http://county-record-office.example/finding-aids/d-114", "http://estuary-courier.example/2025/09/01/the-ferry-in-winter",
    "http://tidal-studies.example/article/13/2/11", "http://millwrights-board.example/thread/311", PAGE,
)  # fmt: skip


def bench_companion() -> None:
    """The companion in a browser."""
    web = StandInWeb(passes_on=False)
    with tempfile.TemporaryDirectory() as folder:
        home, browser = start(CHROMIUM, Path(folder) / "home", web)
        os.environ["XDG_RUNTIME_DIR"] = home.environment["XDG_RUNTIME_DIR"]
        session = Session(Path(folder) / "library", Fetcher(lambda _address: web.proxy))
        desk = CompanionDesk(session, Front())
        try:
            bare = [seconds([sys.executable, "-IS", "-c", ""]) for _ in range(RUNS)]
            browser.open(PAGE)
            alone = []
            for _ in range(RUNS):
                home.end_hosts()
                browser.press()
                browser.in_slip(WHEN_SHOWN)
                browser.close_slip()
                home.end_hosts()
                alone.append(browser.in_background(KEY))
            home.end_hosts()
            door = Door(desk.answer)
            hosts = [home.companion.tried()[1] for _ in range(RUNS)]
            browser.press()
            browser.in_slip(WHEN_SHOWN)
            browser.close_slip()
            there, way = [], []
            for _ in range(RUNS):
                there.append(browser.in_background(KEY))
                way.append(browser.in_background(ASK))
                session.do(Undo())
            tell("host: start until it answers", hosts, bare, "a bare Python")
            tell("key until kept, window open", there, way, "the way there and back", "under 1 s")
            tell("key until kept, no window", alone, way, "the way there and back", "under 2 s")
            door.close()
        finally:
            browser.close()
            desk.close(30)
            session.close()
            web.close()


def seconds(words: list[str]) -> float:
    """How long a program takes."""
    begun = time.perf_counter()
    subprocess.run(words, check=True)
    return time.perf_counter() - begun


def bench_lists() -> None:
    """A list in the window."""
    application = make_application()
    THEME.apply(application, "light")
    addresses = [f"{LISTED[at % len(LISTED)]}?n={at}" for at in range(MANY)]
    with tempfile.TemporaryDirectory() as folder, web_apart() as proxy:
        fetcher = Fetcher(lambda _address: proxy)
        session = Session(Path(folder) / "library", fetcher)
        settings = QSettings(folder + "/settings.ini", QSettings.Format.IniFormat)
        route = lambda address: proxy if (urlsplit(address).hostname or "").endswith(".example") else None  # noqa: E731
        window = make_window(session, settings, route, [], person=PersonSettings(Path(folder) / "settings.toml"))
        window.show()
        live_until(beside(lambda: time.sleep(SETTLE_S)))  # a person sees the window before giving it a list
        begun = time.perf_counter()
        for address in addresses:
            try:
                fetcher.page(address)
            except PageFailure:
                continue
        floor = time.perf_counter() - begun
        number = session.do(MakeList("200 addresses", [(one, "") for one in addresses]))
        done: Future[int] = Future()
        begun = time.perf_counter()
        with watched("a list of 200 addresses"):
            window.bridge.start_list(number, done.set_result)
            live_until(done)
        ours = time.perf_counter() - begun
        tell(f"{MANY} addresses, {MANY / ours:.1f} a second", [ours], [floor], "fetching them alone", "5 a second")
        whole = session.reader.lists.find(number)
        print(whole.in_words if whole is not None else "")
        window.close()
        session.close()
