"""Pages that mean no good, in the real web engine: what they ask of this machine is not answered."""

from collections.abc import Iterator

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from loopback import Server
from wily_magpie.core.commands.entries import AddEntry, SetBody
from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow

PATIENCE_MS = 30_000


@pytest.fixture
def private() -> Iterator[Server]:
    """Something of the person's own on this machine."""
    server = Server("secret")
    yield server
    server.close()


@pytest.fixture
def hostile(private: Server) -> Iterator[Server]:
    inside = f"http://127.0.0.1:{private.port}"
    server = Server(
        f"""<title>Come closer</title><h1>Come closer</h1><p>A page with enough words to be read as a page of some length.</p>
        <img src="{inside}/picture.png"><iframe src="{inside}/frame"></iframe><link rel="stylesheet" href="{inside}/style.css">
        <script>
          alert("stop"); confirm("stop"); prompt("stop");
          fetch("{inside}/fetched").catch(() => 0);
          new Image().src = "{inside}/image-by-script";
          try {{ new WebSocket("ws://127.0.0.1:{private.port}/socket"); }} catch (e) {{}}
          window.open("{inside}/window");
          navigator.geolocation.getCurrentPosition(() => document.title = "found", () => 0);
          document.body.dataset.bridge = typeof qt + typeof magpieQuiet;
        </script>"""
    )
    yield server
    server.close()


def test_a_page_reaches_nothing_else_on_this_machine(
    qtbot: QtBot, window: MainWindow, hostile: Server, private: Server, session: Session
) -> None:
    capture = window.stack.capture
    capture.open(f"127.0.0.1:{hostile.port}/")
    qtbot.waitUntil(lambda: capture.card.slip is not None, timeout=PATIENCE_MS)
    assert hostile.asked[0] == "/"
    assert private.asked == []
    assert QApplication.activeModalWidget() is None, "no dialog of the page stands before the window"
    slip = capture.card.slip
    assert slip
    assert slip.title == "Come closer"
    assert 'data-bridge="undefinedundefined"' in slip.reading.page.html, "our scripts are not the page's to call"


def test_what_a_page_wants_saved_is_not(qtbot: QtBot, window: MainWindow) -> None:
    server = Server("MZ", "application/x-msdownload")
    window.stack.capture.open(f"127.0.0.1:{server.port}/../../setup.exe")
    qtbot.waitUntil(lambda: window.stack.capture.stack.currentIndex() == 2, timeout=PATIENCE_MS)
    assert "is not a web page but application/x-msdownload" in window.stack.capture.failure.heading.text()
    server.close()


@pytest.mark.parametrize(
    "typed", ["file:///etc/passwd", "javascript:alert(1)", "data:text/html,x", "ftp://mills.example/"]
)
def test_only_addresses_of_the_web_are_opened(window: MainWindow, typed: str) -> None:
    window.stack.capture.open(typed)
    assert "not an address of the web" in window.notice.text.text()
    assert window.stack.capture.view is None


def test_a_kept_page_asks_nothing_when_it_is_read(
    qtbot: QtBot, window: MainWindow, session: Session, private: Server
) -> None:
    body = (
        f"![pixel](http://127.0.0.1:{private.port}/p.png)\n\n<img src='http://127.0.0.1:{private.port}/q.png'>\n\ntext"
    )
    entry = session.do(AddEntry("collection:1", "Kept"))
    session.do(SetBody("collection:1", entry, body))
    window.read_entry("collection:1", entry, ())
    qtbot.waitUntil(lambda: "text" in window.stack.read.view.toPlainText(), timeout=PATIENCE_MS)
    qtbot.wait(300)  # what is asked for is asked at once
    assert private.asked == []
