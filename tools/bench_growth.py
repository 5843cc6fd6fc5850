"""How the memory of the program grows over many captures: of the shell, which captures a list of pages, and of the window.

Both are programs of their own, over a server on loopback that makes pages up. What each process holds itself is told after a
first part, which fills its caches, and at the end; children (the reader of pages, the web engine's processes) are not counted.
"""

import json
import os
import subprocess
import sys
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

PICTURE = "<svg xmlns='http://www.w3.org/2000/svg' width='90' height='90'><text>{}</text></svg>"
SAID = "The mill turns with the tide, and the miller waits for it twice a day. "
FILLING_SHARE = 0.3
"""The share of the captures after which the memory is told for the first time."""


class Site(BaseHTTPRequestHandler):
    """Pages of one kind, each with two pictures."""

    def do_GET(self) -> None:
        name = self.path.rpartition("/")[2]
        if self.path.endswith(".svg"):
            body, kind = PICTURE.format(name).encode(), "image/svg+xml"
        else:
            texts = "".join(f"<p>{name}-{at}: {SAID * 6}</p>" for at in range(12))
            shown = "".join(f"<figure><img src='/i/{name}{at}.svg' width=400 height=300></figure>" for at in "ab")
            body = f"<!doctype html><title>Page {name}</title><article><h1>Page {name}</h1>{texts}{shown}</article>".encode()
            kind = "text/html"
        self.send_response(200)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *_: object) -> None:
        pass


@contextmanager
def serving() -> Iterator[str]:
    """The address of the server."""
    server = ThreadingHTTPServer(("127.0.0.1", 0), Site)
    server.daemon_threads = True
    thread = threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}/p/"
    server.shutdown()
    server.server_close()


def held_mb(pid: int) -> float:
    """The memory that a process holds of its own, in MB."""
    lines = Path(f"/proc/{pid}/smaps_rollup").read_text("ascii").splitlines()
    return sum(int(line.split()[1]) for line in lines if line.startswith(("Private_Dirty:", "Private_Clean:"))) / 1024


def shell_growth(count: int) -> tuple[float, float]:
    """What a shell that captures so many pages holds after a first part, and at the end, in MB."""
    with serving() as address, tempfile.TemporaryDirectory() as folder:
        words = [sys.executable, "-m", "wily_magpie", "capture", "--library", f"{folder}/library"]
        words += [f"{address}{number}" for number in range(count)]
        at_first = at_last = 0.0
        with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as process:
            for number, line in enumerate(process.stdout or (), 1):
                if json.loads(line)["status"] != "kept":
                    raise SystemExit(f"a page was not kept: {line}")
                if number == round(count * FILLING_SHARE):
                    at_first = held_mb(process.pid)
                if number == count - 1:
                    at_last = held_mb(process.pid)
        return at_first, at_last


def window_growth(count: int) -> tuple[float, float]:
    """The same of a window, in which each page is opened and kept."""
    with serving() as address, tempfile.TemporaryDirectory() as folder:
        words = [sys.executable, __file__, folder, address, str(count)]
        ended = subprocess.run(words, capture_output=True, text=True, check=False)
        first, last = json.loads(ended.stdout.splitlines()[-1])
        return float(first), float(last)


def drive(folder: Path, address: str, count: int) -> None:
    """Drives a window of its own; prints what it holds as JSON."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    if os.geteuid() == 0:
        os.environ["QTWEBENGINE_DISABLE_SANDBOX"] = "1"
    from PyQt6.QtCore import QSettings, QTimer
    from PyQt6.QtTest import QTest

    from wily_magpie.core.pages.fetch import Fetcher
    from wily_magpie.core.session.session import Session
    from wily_magpie.qt.application import make_application, make_window

    application = make_application()
    session = Session(folder / "library", Fetcher())
    settings = QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat)
    window = make_window(session, settings, lambda _address: None, [])
    window.resize(1280, 800)
    window.show()
    window.go(0)
    capture = window.stack.capture

    def wait(what: str, is_there: object) -> None:
        for _ in range(4_000):
            if is_there():  # type: ignore[operator]
                return
            QTest.qWait(10)  # type: ignore[call-arg, arg-type]
        raise SystemExit(f"waited in vain for {what}")

    first = 0.0
    for number in range(count):
        page = f"{address}{number}"
        capture.open(page)
        wait(page, lambda page=page: capture.card.slip is not None and capture.card.slip.reading.page.address == page)
        capture.card.foot.keep.click()
        wait("keeping", lambda: capture.card.slip is not None and capture.card.slip.known is not None)
        if number == round(count * FILLING_SHARE):
            first = held_mb(os.getpid())
    sys.stdout.write(json.dumps([first, held_mb(os.getpid())]) + "\n")
    sys.stdout.flush()
    QTimer.singleShot(0, application.quit)
    os._exit(0)


def bench_growth(count: int = 500) -> None:
    """Prints both."""
    for name, measured in (("shell", shell_growth), ("window", window_growth)):
        first, last = measured(count)
        rest = count * (1 - FILLING_SHARE)
        each = (last - first) * 1000 / rest
        print(
            f"memory of the {name}, {count} captures{first:>12.0f} MB, at the end {last:.0f} MB: {each:.0f} kB a capture   aim: flat"
        )


if __name__ == "__main__":
    if len(sys.argv) > 2:
        drive(Path(sys.argv[1]), sys.argv[2], int(sys.argv[3]))
    else:
        bench_growth(int(sys.argv[1]) if len(sys.argv) > 1 else 500)
