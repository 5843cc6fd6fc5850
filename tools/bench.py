"""`./magpie bench [NAME…]`: how fast it is, as ratios against a floor measured in the same run.

start    from the command to a usable window, against a bare PyQt6 window with the same imports of Qt
slips    twelve pages kept one after another by keyboard, against the live page until it is quiet
companion  from the key in a browser until a page is kept, with and without a window; the start of the host
lists    200 addresses by a list, against fetching them alone; how long the window was busy
filing   what is proposed from what was filed before: how often it is right, how well its certainty is calibrated
shell    words of the shell, in time of the processor, against a Python that only loads SQLite
waits    the longest time for which the window was busy, during a capture, bulk changes, an import, indexing
extract  reading a page, against trafilatura alone on the same pages; with --scorer also how well real pages are read,
         beside the libraries, and how well HTML becomes Markdown: the scorer and its pages are not part of the
         repository: PAGES=FOLDER ./magpie bench extract --scorer FOLDER
places   100,000 entries and 50,000 notes: opened, shown, edited, undone, indexed, against SQLite and the files alone
notes    50,000 notes with 200 living lists: opened, and a field changed until all are written, against the files alone
read     texts of 10,000, 100,000, 1,000,000 words: first screen, marking, all hits, against a bare text browser
templates  a slip of 20 fields and a row of the bench for 20 samples, against the expressions in plain Jinja
view     a view of 100,000 entries with a filter and a sort, and its first screen, against the bare SQL

Every figure is the median of several runs, ours and the floor's by turns; the spread is the middle half of ours.
"""

import argparse
import json
import os
import random
import resource
import statistics
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from bench_companion import bench_companion, bench_lists
from bench_filing import bench_filing
from bench_hostile import bench_hostile
from bench_looks import bench_looks
from bench_notes import bench_notes
from bench_places import bench_places
from bench_read import bench_read
from bench_slips import bench_slips
from bench_templates import bench_templates
from bench_waits import bench_waits
from measure import by_turns, tell, timed

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
if os.geteuid() == 0:  # Chromium's sandbox refuses to run as root
    os.environ["QTWEBENGINE_DISABLE_SANDBOX"] = "1"

ENTRIES, FIRST = 100_000, 100
START_RUNS, SHELL_RUNS, VIEW_RUNS, EXTRACT_RUNS = 15, 9, 15, 3
QT_IMPORTS = "from PyQt6 import QtCore, QtGui, QtNetwork, QtWidgets"
BARE = f"""
import time; begun = time.perf_counter()
{QT_IMPORTS}
QtCore.QCoreApplication.setAttribute(QtCore.Qt.ApplicationAttribute.AA_ShareOpenGLContexts)
application = QtWidgets.QApplication(["bare"])
window = QtWidgets.QMainWindow()
window.setCentralWidget(QtWidgets.QTableView())
window.resize(1280, 800)
window.show()
application.processEvents()
window.grab()
print(time.perf_counter() - begun)
"""
OURS = f"""
import time; begun = time.perf_counter()
from wily_magpie.__main__ import make_ready
make_ready()
{QT_IMPORTS}
import sys
from pathlib import Path
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.application import make_application, make_window
from wily_magpie.qt.style.theme import THEME
application = make_application()
settings = QtCore.QSettings(sys.argv[1] + "/settings.ini", QtCore.QSettings.Format.IniFormat)
THEME.apply(application, "light")
session = Session(Path(sys.argv[1]), Fetcher())
window = make_window(session, settings, lambda _: None, [], person=PersonSettings(Path(sys.argv[1]) / "settings.toml"))
window.show()
while window.stack.sources.table.table.rowCount() == 0 or not window.updatesEnabled():
    application.processEvents(QtCore.QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
window.grab()
print(time.perf_counter() - begun)
assert not [name for name in sys.modules if "WebEngine" in name], "the web engine was loaded at start"
window.close(); session.close()
"""


def bench_start() -> None:
    from wily_magpie.core.commands.entries import AddEntry
    from wily_magpie.core.pages.fetch import Fetcher
    from wily_magpie.core.session.session import Session

    with tempfile.TemporaryDirectory() as folder:
        session = Session(Path(folder), Fetcher())
        for number in range(40):
            session.do(AddEntry("collection:1", f"Mill {number}", {"status": "to read"}))
        session.close()

        def run(code: str) -> Callable[[], float]:
            command = [sys.executable, "-c", code, folder]
            # as on a person's machine: compiled code is kept from the first start on
            environment = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}

            def one() -> float:
                ended = subprocess.run(command, capture_output=True, text=True, check=True, env=environment)
                return float(ended.stdout.split()[-1])

            return one

        got = by_turns(START_RUNS, ours=run(OURS), bare=run(BARE))
    tell("start to a usable window", got["ours"], got["bare"], "a bare window", "< 2.5 x, better 1.5 x")


def bench_extract() -> None:
    import trafilatura

    from wily_magpie.core.pages.page import Page
    from wily_magpie.core.pages.read import read_page
    from wily_magpie.demo.web import page_for, sources

    pages = {}
    for address in sources():
        page = page_for(address)
        if page and len(page.content) < 500_000:
            pages[address] = page.content.decode("utf-8", "replace")

    def ours() -> None:
        for address, html in pages.items():
            read_page(Page(address, html, "file"))

    def library() -> None:
        for address, html in pages.items():
            trafilatura.extract(html, url=address, output_format="json", with_metadata=True)

    got = by_turns(EXTRACT_RUNS, ours=timed(ours), library=timed(library))
    per_page = {name: [seconds / len(pages) for seconds in all_seconds] for name, all_seconds in got.items()}
    tell(f"reading a page ({len(pages)} pages)", per_page["ours"], per_page["library"], "trafilatura alone")


def bench_view() -> None:
    import apsw

    from wily_magpie.core.pages.fetch import Fetcher
    from wily_magpie.core.session.session import Session
    from wily_magpie.qt.application import make_application
    from wily_magpie.qt.stations.sources.table import EntryTableView
    from wily_magpie.qt.style.theme import THEME

    chance = random.Random(7)
    with tempfile.TemporaryDirectory() as folder:
        session = Session(Path(folder), Fetcher())
        library = session._library
        place = library.place("Sources")
        columns = {field.key: field.column for field in place.fields}
        rows = []
        for number in range(ENTRIES):
            title, tags = (
                f"Mill {number} of the estuary",
                json.dumps(chance.sample(["law", "oak", "ebb", "tide", "pond"], 2)),
            )
            day = f"{chance.randint(1900, 2025)}-{chance.randint(1, 12):02}-{chance.randint(1, 28):02}"
            status = chance.choice(["to read", "read", "reading", "quoted"])
            rows.append((number + 1, title, title.casefold(), day, status, day, tags))
        with library.database.writing() as connection:
            connection.executemany(
                f"INSERT INTO c1 (id, title, title_key, modified, {columns['status']}, {columns['published']},"
                f" {columns['tags']}) VALUES (?, ?, ?, ?, ?, ?, ?)",
                rows,
            )
        question = session.reader.entries.question(
            place.key, 'status = "to read" and published > 1950 sortBy published/descending'
        )
        bare = apsw.Connection(str(Path(folder) / "library.sqlite"))
        list(bare.execute("PRAGMA cache_size = -65536"))
        where = f"{columns['status']} = 'to read' AND {columns['published']} > '1950~'"
        ids_sql = f"SELECT id FROM c1 WHERE {where} ORDER BY {columns['published']} DESC"
        shown = ", ".join(field.column for field in place.fields[:8])

        def bare_screen() -> None:
            ids = [row[0] for row in bare.execute(ids_sql)]
            wanted = json.dumps(ids[:30])
            list(bare.execute(f"SELECT id, {shown} FROM c1 WHERE id IN (SELECT value FROM json_each(?))", (wanted,)))

        application = make_application()
        THEME.apply(application, "light")
        view = EntryTableView(lambda ids, take: take(place.rows(ids)), lambda *_: None, lambda _error: None)
        view.resize(900, 760)
        view.show()

        def our_screen() -> None:
            listing = place.listing(question)
            view.show_listing(place.info, place.fields[:8], listing, place.rows(listing.ids[:FIRST]), 0, place.layout)
            view.set_widths()
            view.grab()

        got = by_turns(
            VIEW_RUNS,
            ids=timed(lambda: place.listing(question)),
            bare_ids=timed(lambda: [row[0] for row in bare.execute(ids_sql)]),
            screen=timed(our_screen),
            bare_screen=timed(bare_screen),
        )
        count = len(place.listing(question).ids)
        tell(f"a view's ids ({count:,} of {ENTRIES:,})", got["ids"], got["bare_ids"], "the bare SQL", "< 2 x")
        tell("its first screen, painted", got["screen"], got["bare_screen"], "the bare SQL")
        bare.close()
        session.close()


def bench_real_pages(scorer: Path) -> None:
    if not (scorer / "score.py").is_file():
        sys.exit(f"bench: there is no score.py in {scorer}")
    ours = str(Path(sys.executable).parent / "wily-magpie")
    score = [sys.executable, "score.py", "trafilatura", "readability-lxml", "--command", f"{ours} extract"]
    subprocess.run(score, cwd=scorer, check=False)
    round_trip = [sys.executable, "markdown_roundtrip.py", "--command", f"{ours} markdown"]
    subprocess.run(round_trip, cwd=scorer, check=False)


def bench_shell() -> None:
    from wily_magpie.core.pages.fetch import Fetcher
    from wily_magpie.core.session.session import Session

    with tempfile.TemporaryDirectory() as folder:
        Session(Path(folder), Fetcher()).close()
        program = str(Path(sys.executable).parent / "wily-magpie")
        bare = processor_time([sys.executable, "-c", "import apsw"])
        words = {"--help": [], "places": ["--library", folder], "find": ["--library", folder]}
        given = {"find": ["status = read", "--in", "Sources"]}
        works = {name: processor_time([program, name, *given.get(name, []), *more]) for name, more in words.items()}
        got = by_turns(SHELL_RUNS, bare=bare, **works)
    for name in words:
        more_ms = (statistics.median(got[name]) - statistics.median(got["bare"])) * 1000
        tell(f"wily-magpie {name}, processor", got[name], got["bare"], "import apsw", "150 ms more")
        print(f"{'':<34} {more_ms:9.1f} ms more than it", flush=True)


def processor_time(command: list[str]) -> Callable[[], float]:
    """Runs a command, telling the seconds of the processor that it took."""
    environment = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}

    def run() -> float:
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        subprocess.run(command, capture_output=True, check=True, env=environment)
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime

    return run


BENCHES = {
    "start": bench_start, "slips": bench_slips, "companion": bench_companion, "lists": bench_lists, "filing": bench_filing,
    "shell": bench_shell, "waits": bench_waits, "extract": bench_extract, "view": bench_view,
    "places": bench_places, "notes": bench_notes, "looks": bench_looks, "read": bench_read, "templates": bench_templates,
    "hostile": bench_hostile,
}  # fmt: skip


def main() -> int:
    parser = argparse.ArgumentParser(
        prog="./magpie bench", description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("names", nargs="*", choices=[[], *BENCHES], metavar="NAME", help=", ".join(BENCHES))
    parser.add_argument("--scorer", type=Path, metavar="FOLDER", help="where score.py is, for extract on real pages")
    args = parser.parse_args()
    for name in args.names or BENCHES:
        BENCHES[name]()
        if name == "extract" and args.scorer:
            bench_real_pages(args.scorer)
    return 0


if __name__ == "__main__":
    sys.exit(main())
