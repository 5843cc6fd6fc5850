"""A sign-in on the live page lasts for the sites that the person chose, and for no others; a closed page can be worked with."""

import stat
from collections.abc import Callable, Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from threading import Thread

import pytest
from PyQt6.QtCore import QSettings, Qt
from pytestqt.qtbot import QtBot

from driving import PATIENCE_MS, type_address
from wily_magpie.core.capture.sign_ins import FILE, read_sign_ins, read_sites, site_of
from wily_magpie.core.commands.settings import SetSetting
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.application import make_window
from wily_magpie.qt.main_window import MainWindow

TEXT = "<p>The pond fills at the flood, and the mill stands still until the ebb has run for an hour.</p>" * 4


class Members(BaseHTTPRequestHandler):
    """A site whose page is open to those who have signed in."""

    def do_GET(self) -> None:
        is_in = "key=open" in (self.headers.get("Cookie") or "")
        self.send_response(200 if is_in or self.path == "/sign-in" else 403)
        if self.path == "/sign-in":
            self.send_header("Set-Cookie", "key=open; Path=/")
        self.send_header("Content-Type", "text/html")
        self.end_headers()
        title = "Members only" if is_in else "Please sign in"
        link = "" if is_in else '<a href="/sign-in">sign in</a>'
        self.wfile.write(f"<title>{title}</title><h1>{title}</h1>{link}{TEXT}".encode())

    def log_message(self, *_parts: object) -> None:
        """Silent."""


@pytest.fixture
def members() -> Iterator[str]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), Members)
    Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()


def wait_title(qtbot: QtBot, window: MainWindow, title: str) -> None:
    card = window.stack.capture.card
    qtbot.waitUntil(lambda: card.slip is not None and card.slip.title == title, timeout=PATIENCE_MS)


def test_a_sign_in_lasts_for_a_chosen_site(
    qtbot: QtBot, window: MainWindow, session: Session, members: str, route: Callable[[str], str | None], tmp_path: Path
) -> None:
    type_address(qtbot, window, f"{members}/sign-in")
    wait_title(qtbot, window, "Please sign in")
    window.top.address.clear()
    type_address(qtbot, window, f"{members}/page")
    wait_title(qtbot, window, "Members only")
    path = session.folder / FILE
    assert not path.exists(), "nothing lasts unasked"
    window.stack.capture.signing.turn(members)
    qtbot.waitUntil(lambda: path.exists() and "key" in path.read_text("utf-8"), timeout=PATIENCE_MS)
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    session.do(SetSetting("signed_in_sites", "mills.example\n127.0.0.1"))
    signing = window.stack.capture.signing
    qtbot.waitUntil(lambda: signing.is_kept("http://login.mills.example/"), timeout=PATIENCE_MS)
    signing.turn("http://login.mills.example/")  # which is a part of a site that is named
    qtbot.waitUntil(lambda: signing.sites == ("127.0.0.1",), timeout=PATIENCE_MS)
    window.close()
    again = make_window(
        session, QSettings(str(tmp_path / "again.ini"), QSettings.Format.IniFormat), route, [],
        person=PersonSettings(tmp_path / "again.toml"),
    )  # fmt: skip
    again.show()
    again.go(0)
    again.stack.capture.live_view()
    qtbot.waitUntil(lambda: any(again.stack.capture.signing.kept.cookies.values()), timeout=PATIENCE_MS)
    again.stack.capture.open(f"{members}/page")
    wait_title(qtbot, again, "Members only")
    session.do(SetSetting("signed_in_sites", ""))
    qtbot.waitUntil(lambda: not path.exists(), timeout=PATIENCE_MS)
    again.close()
    again.deleteLater()


def test_a_closed_page_is_worked_with_in_itself(qtbot: QtBot, window: MainWindow, members: str) -> None:
    type_address(qtbot, window, f"{members}/page")
    station = window.stack.capture
    qtbot.waitUntil(station.failure.show_page.isVisible, timeout=PATIENCE_MS)
    qtbot.mouseClick(station.failure.show_page, Qt.MouseButton.LeftButton)
    wait_title(qtbot, window, "Please sign in")
    assert station.view is not None
    station.view.page.runJavaScript("document.querySelector('a').click()")
    qtbot.waitUntil(lambda: station.address.endswith("/sign-in"), timeout=PATIENCE_MS)
    window.top.address.clear()
    type_address(qtbot, window, f"{members}/page")
    wait_title(qtbot, window, "Members only")


@pytest.mark.parametrize("stored", ["{", "[]", '{"mills.example": 7}', ""])
def test_a_damaged_file_keeps_nobody_signed_in(tmp_path: Path, stored: str) -> None:
    (tmp_path / FILE).write_text(stored)
    assert read_sign_ins(tmp_path) == {}


def test_sites_are_read_a_line_each_and_hold_for_the_hosts_below_them() -> None:
    assert read_sites("www.Mills.example\n\n shore.example. \nmills.example") == ("mills.example", "shore.example")
    assert site_of(".login.mills.example", ["mills.example"]) == "mills.example"
    assert site_of("windmills.example", ["mills.example"]) == ""
