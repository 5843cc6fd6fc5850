"""`./magpie bench looks`: questions, groups, the first screen of each layout, scrolling, moving, search; over 100,000 entries.

Floors: the same statement by SQLite alone; for search `count(*)` and twelve times the lines around one hit.
"""

import random
import statistics
import tempfile
import time
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import apsw
from bench_places import ENTRIES, RUNS, WORDS, bare_connection, fill
from measure import by_turns, tell, timed
from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QApplication

from wily_magpie.core.entries.layout import Column, Layout, LayoutKind, Sum
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places.to_sql import today
from wily_magpie.core.queries.search import understood
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.application import make_application, make_window
from wily_magpie.qt.style.theme import THEME

if TYPE_CHECKING:
    from wily_magpie.qt.stations.sources.station import SourcesStation

FRAMES, COVERED = 90, 10_000
PLACE = "collection:1"
SCREENS = {
    LayoutKind.TABLE: "50 ms", LayoutKind.LIST: "50 ms", LayoutKind.CARDS: "150 ms", LayoutKind.LANES: "100 ms",
    LayoutKind.TIMELINE: "150 ms",
}  # fmt: skip


def bench_looks() -> None:
    """Prints the figures."""
    with tempfile.TemporaryDirectory() as inside:
        folder = Path(inside)
        fill(folder / "library")
        application = make_application()
        THEME.apply(application, "light")
        session = Session(folder / "library", Fetcher())
        bench_questions(session, bare_connection(folder / "library" / "library.sqlite"))
        settings = QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat)
        window = make_window(session, settings, lambda _a: None, [], person=PersonSettings(folder / "settings.toml"))
        window.begun.stop()  # the index of words is made below, and not beside what is measured
        window.resize(1280, 800)
        window.show()
        window.go(2)
        station = window.stack.sources
        wait_for(lambda: bool(station.table.table.listing.ids))
        bench_screens(session, station)
        bench_search(session)
        window.close()
        session.close()


def bench_questions(session: Session, bare: apsw.Connection) -> None:
    """Ids of eight kinds of question, and groups with sums."""
    place = session._library.place(PLACE)
    c = {field.key: f'"{field.column}"' for field in place.fields}
    tags = next(field.column for field in place.fields if field.key == "tags")
    day = today().isoformat()
    asked = {
        "status = read": f"{c['status']} = 'read'",
        "published within 1950/1960": f"{c['published']} >= '1950' AND {c['published']} <= '1960~'",
        'tags any "mill; oak"': (
            f"id IN (SELECT entry_id FROM multi_value WHERE column = '{tags}' AND value IN ('mill', 'oak'))"
        ),
        "not (status = read or kind = paper)": f"NOT coalesce({c['status']} = 'read' OR {c['kind']} = 'paper', 0)",
        "price within 10/20": f"{c['price']} >= 10 AND {c['price']} <= 20",
        "title =/begins oak": "instr(lower(title), 'oak') = 1",
        "description <>/contains mill": f"NOT coalesce({c['description']} LIKE '%mill%', 0)",
        "entry.changed within P1Y": f"modified >= '{day[:4]}'",
    }
    for text, clause in asked.items():
        question = session.reader.entries.question(PLACE, text)
        sql = f"SELECT group_concat(id) FROM (SELECT id FROM c1 WHERE {clause} ORDER BY id)"
        got = by_turns(RUNS, ours=timed(partial(place.listing, question)), bare=timed(partial(run_all, bare, [sql])))
        tell(f"ids of: {text}"[:44], got["ours"], got["bare"], "the bare SQL", "2 x")
    grouped = session.reader.entries.question(PLACE, "sortBy status/group published/group=decade title")
    wanted = {"price": Sum.SUM}
    year = f"substr({c['published']}, 1, 3)"
    floor = (
        f"SELECT group_concat(id) FROM (SELECT id FROM c1 ORDER BY {c['status']}, {year}, title_key, id)",
        f"SELECT {c['status']}, {year}, count(*), total({c['price']}) FROM c1 GROUP BY 1, 2",
        f"SELECT {c['status']}, count(*), total({c['price']}) FROM c1 GROUP BY 1",
        f"SELECT total({c['price']}) FROM c1",
    )

    def ours() -> None:
        place.listing(grouped)
        place.rows_table.sums(grouped, wanted)

    got = by_turns(RUNS, ours=timed(ours), bare=timed(partial(run_all, bare, list(floor))))
    tell("two levels of groups with sums", got["ours"], got["bare"], "the bare SQL", "2 x")


def run_all(bare: apsw.Connection, statements: list[str]) -> None:
    """Runs statements by SQLite alone."""
    for one in statements:
        list(bare.execute(one))


def wait_for(test: object, most_s: float = 30.0) -> None:
    """Lets the window live until something holds."""
    end = time.perf_counter() + most_s
    while not test() and time.perf_counter() < end:  # type: ignore[operator]
        QApplication.processEvents()
        time.sleep(0.0005)


def bench_screens(session: Session, station: "SourcesStation") -> None:
    """From the choice of a layout until it is painted; scrolling; moving."""
    layout = session.overview.place(PLACE).layout
    other = replace(layout, kind=LayoutKind.LIST)
    for kind, aim in SCREENS.items():
        for told in ("first", "again"):
            took = []
            for _ in range(RUNS):
                show(station, other if kind is not LayoutKind.LIST else replace(layout, kind=LayoutKind.TABLE))
                if told == "first":  # as after a change of any entry
                    station.known.forget()
                    station.faces.timeline.spans = None
                begun = time.perf_counter()
                show(station, replace(layout, kind=kind))
                took.append(time.perf_counter() - begun)
            shown = f"{told} screen as {kind.value}"
            print(f"{shown:<36} {statistics.median(took) * 1000:9.1f} ms   aim: {aim}", flush=True)
    show(station, replace(layout, kind=LayoutKind.CARDS))
    cards = station.faces.cards
    bar, frames = cards.verticalScrollBar(), []
    for at in range(2 * FRAMES):  # the second time its covers are there
        if bar is not None:
            bar.setValue((at % FRAMES) * 60)
        begun = time.perf_counter()
        cards.surface.repaint()
        if at >= FRAMES:
            frames.append(time.perf_counter() - begun)
        wait_for(lambda: not cards.wanted and not cards.is_asking, 2.0)
    print(f"a frame of scrolling cards           {statistics.median(frames) * 1000:9.1f} ms, at most {max(frames) * 1000:.1f}"
          "   aim: 16.7 ms", flush=True)  # fmt: skip
    show(station, replace(layout, kind=LayoutKind.LANES, lane_by="status", columns=(Column("price", sum=Sum.SUM),)))
    lanes, rows, took = station.faces.lanes, station.table.table.window, []
    for number in range(RUNS):
        entry_id = station.table.table.listing.ids[number]
        name = "quoted" if lanes.columns[0].count else "read"
        before, begun = rows.number, time.perf_counter()
        station.table.choose(entry_id)
        station.faces.move([entry_id], name, None)
        wait_for(lambda before=before: rows.number > before)
        lanes.surface.repaint()
        took.append(time.perf_counter() - begun)
    print(f"an entry moved to another lane       {statistics.median(took) * 1000:9.1f} ms   aim: 50 ms", flush=True)


def show(station: "SourcesStation", layout: Layout) -> None:
    """Shows the place in a layout, and waits until it is painted."""
    state = station.state
    if state.place is not None:
        station.state = replace(state, place=replace(state.place, layout=layout))
    rows = station.table.table.window
    before = rows.number
    station.ask()
    wait_for(lambda: rows.number > before)
    face = station.page.stack.currentWidget()
    if layout.kind is LayoutKind.TIMELINE:
        wait_for(lambda: station.faces.timeline.spans is not None)
    if face is not None:
        face.grab()


def bench_search(session: Session) -> None:
    """The index, and the first twenty of what is found after each key."""
    chance = random.Random(3)
    library = session._library
    with library.database.writing() as connection:
        texts = (
            (" ".join(chance.choices(WORDS, k=90)) + f" word{chance.randrange(5000)}", one)
            for one in range(1, ENTRIES + 1)
        )
        connection.executemany("UPDATE content SET markdown = ? WHERE entry_id = ?", texts)
    begun = time.perf_counter()
    session.refresh_words()
    print(f"the index of {ENTRIES:,} documents      {time.perf_counter() - begun:9.1f} s", flush=True)
    store, search = library.words, session.reader.search
    for text in ("word17", "word", "mill word4", "mill tid", '"tide mill"'):
        wanted = understood(text, is_open=True)

        def one(wanted: object = wanted) -> None:
            search.find(wanted, 20)  # type: ignore[arg-type]

        def floor(wanted: object = wanted) -> None:
            store.count(wanted.match, "", ())  # type: ignore[attr-defined]

        total = store.count(wanted.match, "", ())
        got = by_turns(RUNS, ours=timed(one), bare=timed(floor))
        tell(f"first twenty of {total:,} for {text}", got["ours"], got["bare"], "count(*) alone", "8 x and 12 snippets")
