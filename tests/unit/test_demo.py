"""The stand-in web as a server, its pages and pictures, and the demo library made from them."""

import re
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import httpcore
import pytest
from lxml import etree

from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.history import Undo
from wily_magpie.core.errors import UserError
from wily_magpie.core.network import reach
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.demo.library import make_demo
from wily_magpie.demo.pictures import draw
from wily_magpie.demo.server import StandInWeb
from wily_magpie.demo.web import page_for, samples, sources


@pytest.mark.parametrize("address", list(sources()))
def test_every_page_answers_with_its_pictures(address: str) -> None:
    page = page_for(address)
    assert page
    assert page.status == 200
    text = page.content.decode("latin-1")
    for name in set(re.findall(r"/pictures/([\w-]+)\.svg", text)):
        picture = draw(f"{name}.svg")
        assert picture, f"{address} shows {name}"
        assert etree.fromstring(picture).tag.endswith("svg")


def test_there_are_enough_pages_and_awkward_ones() -> None:
    assert len(sources()) >= 16
    assert len({source.host for source in sources().values()}) >= 12
    assert all(address.startswith("http://") for _, address in samples())
    largest = max(len(page.content) for address in sources() if (page := page_for(address)))
    assert largest > 2_000_000


def test_unknown_hosts_and_pages() -> None:
    assert page_for("http://nowhere.example/") is None
    missing = page_for("http://estuary-courier.example/nothing")
    assert missing
    assert missing.status == 404
    front = page_for("http://www.estuary-courier.example/")
    assert front
    assert b"Heron Mill" in front.content


class Elsewhere(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        self.send_response(200)
        self.send_header("Content-Length", "4")
        self.end_headers()
        self.wfile.write(b"real")

    def log_message(self, format: str, *args: object) -> None:
        pass


@pytest.fixture
def elsewhere() -> Iterator[int]:
    running = ThreadingHTTPServer(("127.0.0.1", 0), Elsewhere)
    threading.Thread(target=running.serve_forever, args=(0.05,), daemon=True).start()
    yield running.server_address[1]
    running.shutdown()
    running.server_close()


def test_the_proxy_gives_nobody_a_way_to_this_machine(elsewhere: int) -> None:
    web = StandInWeb()
    with httpcore.HTTPProxy(web.proxy) as client:
        assert client.request("GET", f"http://127.0.0.1:{elsewhere}/").status == 502
        assert client.request("GET", f"http://localhost:{elsewhere}/").status == 502
        with pytest.raises(httpcore.ProxyError):
            client.request("GET", f"https://127.0.0.1:{elsewhere}/")
    web.close()


def test_other_addresses_are_passed_on(elsewhere: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(reach, "is_local", lambda _host: False)  # this test's real web is on this machine
    web = StandInWeb()
    with httpcore.HTTPProxy(web.proxy) as client:
        assert client.request("GET", f"http://127.0.0.1:{elsewhere}/").content == b"real"
    web.close()
    closed = StandInWeb(passes_on=False)
    with httpcore.HTTPProxy(closed.proxy) as client:
        assert client.request("GET", f"http://127.0.0.1:{elsewhere}/").status == 502
    closed.close()


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Session]:
    web = StandInWeb(passes_on=False)
    fetcher = Fetcher(lambda _address: web.proxy)
    folder = tmp_path_factory.mktemp("demo") / "library"
    make_demo(folder, fetcher)
    session = Session(folder, fetcher)
    yield session
    session.close()
    web.close()


def test_the_demo_library_has_something_for_every_screen(demo: Session) -> None:
    entries = demo.reader.entries
    totals = {place.name: entries.listing(place.key, Question()).total for place in demo.overview.places}
    assert set(totals) == {"Sources", "Chapters", "People", "Objects", "Notebook"}
    assert sum(totals.values()) >= 40
    assert demo.overview.undo is None
    for view in demo.overview.views:
        assert entries.listing(view.place, entries.question(view.place, view.question)).ids, view.name


def test_the_demo_library_is_made_once_and_anew_when_asked(demo: Session) -> None:
    make_demo(demo.folder, demo.fetcher)
    demo.do(AddEntry(demo.place("People").key, "Somebody new"))
    make_demo(demo.folder, demo.fetcher)
    assert "Somebody new" in [entry.title for entry in demo.reader.entries.search("somebody").entries]
    demo.do(Undo())


def test_reset_touches_demo_libraries_only(tmp_path: Path, fetcher: Fetcher) -> None:
    (tmp_path / "precious.txt").write_text("x")
    with pytest.raises(UserError, match="not the demo library"):
        make_demo(tmp_path, fetcher, reset=True)
    assert (tmp_path / "precious.txt").exists()
