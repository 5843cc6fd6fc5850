"""`./magpie bench waits`: the longest time for which the interface's thread was busy while something large goes on.

A beat is sent to the window's event loop every few milliseconds from a thread beside it; how late the latest one was
answered is how long a person's click or key would have waited. Beside it stands for how long the interface's thread itself was
at work between two beats: the rest of a wait is other threads' turns, and halts of the machine.
"""

import random
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from measure import Halts, web_apart
from PyQt6.QtCore import QObject, QSettings, pyqtSignal
from PyQt6.QtWidgets import QApplication

from wily_magpie.core.capture.run import CaptureRun, Wanted
from wily_magpie.core.commands.entries import SetText
from wily_magpie.core.commands.history import Undo
from wily_magpie.core.commands.places import AddNotesFolder
from wily_magpie.core.exchange.sheet import levelled
from wily_magpie.core.exchange.tables import take_in
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.application import make_application, make_window
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import SOURCES
from wily_magpie.qt.style.theme import THEME

ROWS, BULK, CELLS, NOTES = 60_000, 1_000, 10_000, 50_000
BEAT_S, SETTLE_S = 0.005, 2.0
PAGE = "http://estuary-courier.example/2025/03/14/heron-mill-turns-again"
WORDS = "mill tide pond sluice miller quay stone ebb flood law charter oak wheel dam barge flour toll creek".split()


class Watch(QObject):
    """How late the event loop answers, and how long its thread worked meanwhile."""

    beat = pyqtSignal(float)

    def __init__(self) -> None:
        super().__init__()
        self.late: list[float] = []
        self.worked, self.before = 0.0, time.thread_time()
        self.is_over = threading.Event()
        self.beat.connect(self.answer)

    def answer(self, sent: float) -> None:
        """A beat has arrived."""
        now = time.thread_time()
        self.worked, self.before = max(self.worked, now - self.before), now
        self.late.append(time.perf_counter() - sent)

    def run(self) -> None:
        """Sends beats, each when the one before was answered; of when it was due, since this thread may be kept from it too."""
        count, due = 0, time.perf_counter() + BEAT_S
        while not self.is_over.wait(BEAT_S):
            if len(self.late) >= count:
                count += 1
                self.beat.emit(due)
            due = time.perf_counter() + BEAT_S


@contextmanager
def watched(what: str) -> Iterator[None]:
    """Tells the longest wait of what is done within."""
    watch, halts = Watch(), Halts()
    beside = threading.Thread(target=watch.run)
    begun = time.perf_counter()
    beside.start()
    yield
    took = time.perf_counter() - begun
    watch.is_over.set()
    beside.join()
    QApplication.processEvents()
    late = sorted(watch.late)
    usual = late[len(late) // 2]
    print(
        f"the window's longest wait: {what:<34} {late[-1] * 1000:7.1f} ms   of {took:6.1f} s, usually {usual * 1000:.1f} ms"
        f"   aim: 50 ms; itself at work for up to {watch.worked * 1000:.1f} ms;"
        f" this machine halted a process that only waits for up to {halts.end() * 1000:.1f} ms",
        flush=True,
    )


def live_until(ended: "Future[Any]", rest_s: float = 0.4) -> None:
    """Lets the window live until something is done, and a little longer."""
    end: float | None = None
    while end is None or time.perf_counter() < end:
        QApplication.processEvents()
        if ended.done() and end is None:
            end = time.perf_counter() + rest_s
        time.sleep(0.0005)
    ended.result()


def beside(work: Callable[[], object]) -> "Future[Any]":
    """Does something on a thread of its own."""
    out: Future[Any] = Future()

    def run() -> None:
        try:
            out.set_result(work())
        except Exception as error:  # noqa: BLE001 - it is raised where the result is asked for
            out.set_exception(error)

    threading.Thread(target=run).start()
    return out


def write_notes(folder: Path) -> None:
    """A folder of notes."""
    chance = random.Random(11)
    for number in range(NOTES):
        path = folder / f"{number % 200:03}" / f"note {number}.md"
        path.parent.mkdir(parents=True, exist_ok=True)
        body = " ".join(chance.choices(WORDS, k=200))
        path.write_text(f"---\ntitle: Note {number}\nstatus: open\n---\n\n# Heading\n\n{body}\n", "utf-8")


def bench_waits() -> None:
    """Prints the figures."""
    sys.setrecursionlimit(5_000)
    with tempfile.TemporaryDirectory() as inside, web_apart() as proxy:
        folder = Path(inside)
        application = make_application()
        THEME.apply(application, "light")
        session = Session(folder / "library", Fetcher(lambda _address: proxy))
        settings = QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat)
        person = PersonSettings(folder / "settings.toml")
        window = make_window(session, settings, lambda _address: proxy, [], person=person)
        window.show()
        window.resize(1280, 800)
        window.go(SOURCES)
        live_until(beside(lambda: time.sleep(SETTLE_S)))  # a person sees the window before doing anything
        bench_all(folder, session, window)
        window.close()
        session.close()


def bench_all(folder: Path, session: Session, window: MainWindow) -> None:
    """One after another, in a window that shows what is changed."""
    run = CaptureRun(session)
    with watched("a capture"):
        live_until(beside(lambda: run.whole(run.page(PAGE), Wanted())))
    rows = tuple((f"Mill {n} of the {WORDS[n % len(WORDS)]}", WORDS[n % 7], str(n)) for n in range(ROWS))
    sheet = levelled(("Title", "Word", "Number"), rows)
    with watched(f"an import of {ROWS:,} rows"):
        job = session.start("Take in", lambda job: take_in(session, sheet, ("title", "text", "number"), "Mills", job))
        live_until(job.future)
    place = session.place("Mills")
    window.stack.sources.open_place(place.key)
    live_until(session.ask(lambda reader: reader.entries.listing(place.key, Question())), 1.0)
    ids = session.reader.entries.listing(place.key, Question()).ids
    with watched(f"a bulk edit of {BULK:,}"):
        live_until(session.submit(SetText(place.key, ids[:BULK], "word", "another")))
    live_until(session.submit(SetText(place.key, ids[:CELLS], "word", "a third")))
    with watched(f"undo of {CELLS:,} cells"):
        live_until(session.submit(Undo()))
    sources = window.stack.sources
    with watched(f"all {ROWS:,} rows chosen and copied"):
        sources.table.selectAll()
        sources.cells.copy_cells()
        live_until(beside(lambda: time.sleep(SETTLE_S)))
    with watched("a change while all are chosen"):
        live_until(session.submit(SetText(place.key, ids[:1], "word", "a fourth")), SETTLE_S)
    sources.table.clearSelection()
    write_notes(folder / "Notes")
    with watched(f"indexing {NOTES:,} notes"):
        session.do(AddNotesFolder(folder / "Notes"))
        live_until(session.index_notes())
