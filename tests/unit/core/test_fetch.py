"""Fetching from real servers on loopback: every way to fail is a sentence with a way out."""

import socket
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest

from wily_magpie.core.errors import PageFailure
from wily_magpie.core.pages.charset import decode
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.demo.server import StandInWeb

FAILURES = {
    "http://estuary-courier.example/2018/06/01/withdrawn": ("page-missing", "404"),
    "http://gauge-office.example/members": ("page-forbidden", "403"),
    "http://gauge-office.example/failed": ("server-failed", "500"),
    "http://gauge-office.example/levels.zip": ("not-a-page", "application/zip"),
    "http://short-links.example/loop": ("redirect-loop", "circle"),
    "http://silent.example/": ("no-answer", "does not answer"),
    "http://hangup.example/": ("broken-answer", "without a whole answer"),
    "http://nowhere.example/": ("no-host", "no host nowhere.example"),
}


@pytest.mark.parametrize("address", FAILURES)
def test_failures_are_told(fetcher: Fetcher, address: str) -> None:
    slug, said = FAILURES[address]
    with pytest.raises(PageFailure) as told:
        fetcher.page(address)
    assert told.value.slug == slug
    assert said in told.value.message
    assert told.value.way_out


def test_redirects_are_followed_to_the_end(fetcher: Fetcher) -> None:
    page = fetcher.page("http://short-links.example/t/heron")
    assert page.address.startswith("http://estuary-courier.example/2025/03/14/heron-mill-turns-again")
    assert page.asked == "http://short-links.example/t/heron"
    assert "Heron Mill" in page.html


def test_an_old_encoding_is_read(fetcher: Fetcher) -> None:
    assert "Gezeitenmühle" in fetcher.page("http://alte-muehlen.example/gezeitenmuehle.htm").html


def test_a_closed_port_refuses() -> None:
    with socket.socket() as spare:
        spare.bind(("127.0.0.1", 0))
        port = spare.getsockname()[1]
    with pytest.raises(PageFailure, match="refuses the connection"):
        Fetcher().page(f"http://127.0.0.1:{port}/")


def test_a_picture_must_be_one(fetcher: Fetcher) -> None:
    assert fetcher.picture("http://estuary-courier.example/pictures/heron-mill.svg", "").media_type == "image/svg+xml"
    with pytest.raises(PageFailure, match="not a picture"):
        fetcher.picture("http://estuarine-lexicon.example/tide-mill", "")


def test_the_stand_in_web_is_asked_as_a_proxy(web: StandInWeb, fetcher: Fetcher) -> None:
    web.log.clear()
    fetcher.page("http://estuarine-lexicon.example/tide-mill")
    assert web.log == [("GET", "http://estuarine-lexicon.example/tide-mill")]


class Trickster(BaseHTTPRequestHandler):
    """Answers as honest servers do not."""

    def do_GET(self) -> None:
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        if self.path == "/told":
            self.send_header("Content-Length", str(10**12))
        self.end_headers()
        self.wfile.write(b"x" * 5000)

    def log_message(self, format: str, *args: object) -> None:
        pass


@pytest.fixture
def trickster() -> Iterator[str]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), Trickster)
    thread = threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_address[1]}"
    server.shutdown()
    server.server_close()


@pytest.mark.parametrize("path", ["/told", "/untold"])
def test_no_more_is_taken_than_allowed(trickster: str, path: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wily_magpie.core.pages.page.LARGEST_PAGE_BYTES", 1000)
    with pytest.raises(PageFailure) as told:
        Fetcher().page(trickster + path)
    assert told.value.slug == "too-large"


def test_fetching_can_be_cancelled(trickster: str) -> None:
    with pytest.raises(PageFailure, match="cancelled"):
        Fetcher().page(f"{trickster}/untold", lambda: True)


@pytest.mark.parametrize(
    ("content", "told", "text"),
    [
        ("Mühle".encode("latin-1"), "iso-8859-1", "Mühle"),
        ("\ufeffMühle".encode(), "iso-8859-1", "Mühle"),
        (b'<meta charset="windows-1251">' + "мельница".encode("cp1251"), "", "мельница"),
        ("水車".encode("shift_jis"), "shift_jis", "水車"),
        ("Mühle".encode(), "no-such-charset", "Mühle"),
        (b"price \x80 9 \x93x\x94", "iso-8859-1", "price € 9 “x”"),
        ("Mühle".encode("utf-16"), "", "Mühle"),
        (b"", "", ""),
    ],
)
def test_bytes_become_text(content: bytes, told: str, text: str) -> None:
    assert decode(content, told).endswith(text)
