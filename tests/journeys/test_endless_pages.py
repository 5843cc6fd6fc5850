"""Pages that never end, hang, grow or hide what we ask for: the slip is filled or the reason said, and the next page opens."""

import os
import threading
import time
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from wily_magpie.core.entries.mark import Mark
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import CAPTURE
from wily_magpie.qt.web.renderer import RendererWatch, memory_of

PATIENCE_MS = 40_000
TEXT = (
    "<h1>{}</h1><p>The tide turns twice a day, and so do those who live by it, whatever the clock in the hall says.</p>"
)
PAGES = {
    "fine": "<title>Fine</title>" + TEXT.format("Fine"),
    "clobbered": "<title>Clobbered</title><form name=body></form><img name=readyState><img name=addEventListener>"
    "<div id=magpieQuiet>x</div><a id=magpieLooks></a><img name=createRange><img name=createTreeWalker>" + TEXT.format("Clobbered"),
    "reloads": "<title>Reloads</title>" + TEXT.format("Reloads") + "<script>setTimeout(() => location.reload(), 60)</script>",
    "waits": "<title>Waits</title>" + TEXT.format("Waits") + "<a href='/fine'>on</a><img src='/never'>",
    "loading": "<title>A mill</title><header>The Courier</header><main id=root><p>Loading …</p></main>",
    "hangs": "<title>Hangs</title>" + TEXT.format("Hangs") + "<script>for (;;) {}</script>",
}  # fmt: skip


class Handler(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        name = self.path.strip("/")
        if name == "never":
            STOPPED.wait(60)
            return
        content = PAGES.get(name, "").encode()
        self.send_response(200 if content else 404)
        self.send_header("Content-Type", "text/html; charset=utf-8")
        self.send_header("Content-Length", str(len(content)))
        self.end_headers()
        self.wfile.write(content)

    def log_message(self, format: str, *args: object) -> None:
        pass


STOPPED = threading.Event()


@pytest.fixture(scope="module")
def server() -> Iterator[str]:
    STOPPED.clear()
    running = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    running.daemon_threads = True
    threading.Thread(target=running.serve_forever, args=(0.05,), daemon=True).start()
    yield f"http://127.0.0.1:{running.server_address[1]}"
    STOPPED.set()
    running.shutdown()
    running.server_close()


def open_it(qtbot: QtBot, window: MainWindow, address: str) -> None:
    """Opens an address, with short bounds, and waits for its slip or its failure."""
    capture = window.stack.capture
    capture.open(address)
    view = capture.view
    assert view is not None
    view.silence_ms, view.longest_load_ms, view.answer_ms = 2_000, 2_500, 1_500
    view.bound.start(view.longest_load_ms)
    qtbot.waitUntil(
        lambda: capture.address == address and (capture.card.slip is not None or capture.stack.currentIndex() == 2),
        timeout=PATIENCE_MS,
    )


def title(window: MainWindow) -> str:
    slip = window.stack.capture.card.slip
    return slip.title if slip is not None else ""


@pytest.mark.parametrize("name", ["clobbered", "reloads", "waits"])
def test_the_slip_is_filled_from_what_is_there(qtbot: QtBot, window: MainWindow, server: str, name: str) -> None:
    open_it(qtbot, window, f"{server}/{name}")
    qtbot.waitUntil(lambda: title(window) == name.capitalize(), timeout=PATIENCE_MS)
    open_it(qtbot, window, f"{server}/fine")
    qtbot.waitUntil(lambda: title(window) == "Fine", timeout=PATIENCE_MS)


def test_a_page_that_waits_for_ever_says_that_it_was_stopped(qtbot: QtBot, window: MainWindow, server: str) -> None:
    open_it(qtbot, window, f"{server}/waits")
    qtbot.waitUntil(lambda: title(window) == "Waits", timeout=PATIENCE_MS)
    assert "never finished loading" in window.stack.capture.card.foot.problem.text()


def test_a_page_that_says_it_is_loading_is_told_as_thin_and_read_again(
    qtbot: QtBot, window: MainWindow, server: str
) -> None:
    window.go(CAPTURE)
    open_it(qtbot, window, f"{server}/loading")
    capture = window.stack.capture
    qtbot.waitUntil(lambda: capture.card.slip is not None, timeout=PATIENCE_MS)
    assert "still says that it is loading" in capture.card.foot.problem.text()
    assert capture.card.foot.again.isVisible()
    before = capture.reading
    qtbot.mouseClick(capture.card.foot.again, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: capture.reading is not None and capture.reading is not before, timeout=PATIENCE_MS)
    open_it(qtbot, window, f"{server}/fine")
    qtbot.waitUntil(lambda: title(window) == "Fine", timeout=PATIENCE_MS)
    assert not capture.card.foot.again.isVisible()


def test_a_link_of_a_page_that_was_stopped_leads_on(qtbot: QtBot, window: MainWindow, server: str) -> None:
    open_it(qtbot, window, f"{server}/waits")
    qtbot.waitUntil(lambda: title(window) == "Waits", timeout=PATIENCE_MS)
    view = window.stack.capture.view
    assert view is not None
    view.page.runJavaScript("document.querySelector('a').click()", 1, lambda _none: None)
    qtbot.waitUntil(lambda: title(window) == "Fine", timeout=PATIENCE_MS)


def test_a_page_that_hangs_is_ended_and_another_of_its_host_opens(
    qtbot: QtBot, window: MainWindow, server: str
) -> None:
    open_it(qtbot, window, f"{server}/hangs")
    capture = window.stack.capture
    qtbot.waitUntil(lambda: "It hangs" in capture.failure.heading.text(), timeout=PATIENCE_MS)
    open_it(qtbot, window, f"{server}/fine")
    qtbot.waitUntil(lambda: title(window) == "Fine", timeout=PATIENCE_MS)


def test_marks_are_shown_in_a_page_that_hides_what_a_document_has(
    qtbot: QtBot, window: MainWindow, server: str
) -> None:
    open_it(qtbot, window, f"{server}/clobbered")
    qtbot.waitUntil(lambda: title(window) == "Clobbered", timeout=PATIENCE_MS)
    view = window.stack.capture.view
    assert view is not None
    view.show_marks([(Mark("turns twice a day"), "background: yellow", "outline: 1px solid")])
    told: list[object] = []
    qtbot.waitUntil(
        lambda: (
            view.page.runJavaScript("[...CSS.highlights.keys()].length", 1, told.append)
            or QApplication.processEvents()
            or told[-1:] == [1]
        ),
        timeout=PATIENCE_MS,
    )


def test_a_process_that_grows_is_ended(qtbot: QtBot) -> None:
    child = os.fork()
    if child == 0:
        held = bytearray(80_000_000)
        for at in range(0, len(held), 4096):
            held[at] = 1
        time.sleep(60)
        os._exit(0)
    watch = RendererWatch(most_bytes=60_000_000)
    try:
        watch.look_at(child)
        _, status = os.waitpid(child, 0)
        assert os.WIFSIGNALED(status)
        qtbot.waitUntil(lambda: "of memory" in watch.reason)
        assert memory_of(child) == 0
    finally:
        watch.close()
