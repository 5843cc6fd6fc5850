"""`./magpie bench places`: a collection of 100,000 entries with 15 fields, and a folder of 50,000 notes.

The floors are what was measured for them: the same statement by SQLite alone, or the bytes of the files read once.
"""

import json
import os
import random
import resource
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import apsw
from measure import by_turns, tell, timed

if TYPE_CHECKING:
    from wily_magpie.core.session.session import Session

ENTRIES, NOTES, BULK = 100_000, 50_000, 1_000
RUNS, SLOW_RUNS = 9, 3
WORDS = "mill tide pond sluice miller quay stone ebb flood law charter oak wheel dam barge flour toll creek".split()


def used_mb() -> float:
    """The memory that this process has now, in MB."""
    pages = int(Path("/proc/self/statm").read_text("ascii").split()[1])
    return pages * resource.getpagesize() / 1e6


def fill(folder: Path) -> None:
    """A library with the entries."""
    from wily_magpie.core.pages.fetch import Fetcher
    from wily_magpie.core.session.session import Session

    chance = random.Random(7)
    session = Session(folder, Fetcher())
    library = session._library
    place = library.place("Sources")
    columns = {field.key: field.column for field in place.fields}
    keys = (
        "status",
        "kind",
        "authors",
        "published",
        "site",
        "tags",
        "address",
        "description",
        "language",
        "price",
        "captured",
    )
    names = ", ".join(columns[key] for key in keys)
    rows = []
    for number in range(1, ENTRIES + 1):
        title = f"{chance.choice(WORDS)} {number} of the {chance.choice(WORDS)}"
        day = f"{chance.randint(1900, 2025)}-{chance.randint(1, 12):02}-{chance.randint(1, 28):02}"
        rows.append(
            (
                number, title, title, day, chance.choice(["to read", "read", "quoted"]), chance.choice(["article", "paper"]),
                json.dumps([f"Pell, {chance.choice(WORDS)}"]), day, chance.choice(WORDS),
                json.dumps(chance.sample(WORDS, 2)), f"http://{chance.choice(WORDS)}.example/{number}",
                " ".join(chance.choices(WORDS, k=12)), "en", float(chance.randint(1, 90)), day,
            )
        )  # fmt: skip
    with library.database.writing() as connection:
        connection.executemany(
            f"INSERT INTO c1 (id, title, title_key, modified, {names}) VALUES (?, ?, ?, ?, {', '.join('?' * len(keys))})",
            rows,
        )
        connection.executemany("INSERT INTO content VALUES (?, 1, '')", [(number,) for number in range(1, ENTRIES + 1)])
    session.close()


def bare_connection(path: Path) -> apsw.Connection:
    """SQLite alone, as careful as ours."""
    bare = apsw.Connection(str(path))
    bare.set_busy_timeout(5_000)
    for pragma in ("cache_size = -65536", "synchronous = FULL"):
        list(bare.execute(f"PRAGMA {pragma}"))
    return bare


def forget_files(files: list[Path]) -> None:
    """Has the system read these files from the disk again."""
    os.sync()
    for path in files:
        opened = os.open(path, os.O_RDONLY)
        os.posix_fadvise(opened, 0, 0, os.POSIX_FADV_DONTNEED)
        os.close(opened)


def bench_places() -> None:
    with tempfile.TemporaryDirectory() as folder:
        bench_collection(Path(folder) / "library")
    with tempfile.TemporaryDirectory() as folder:
        bench_notes(Path(folder))


def bench_collection(folder: Path) -> None:
    from wily_magpie.core.pages.fetch import Fetcher
    from wily_magpie.core.session.session import Session
    from wily_magpie.qt.application import make_application
    from wily_magpie.qt.stations.sources.table import EntryTableView
    from wily_magpie.qt.style.theme import THEME

    fill(folder)
    before_mb = used_mb()

    def open_ours() -> None:
        Session(folder, Fetcher()).close()

    def open_bare() -> None:
        connection = apsw.Connection(str(folder / "library.sqlite"))
        list(connection.execute("SELECT count(*) FROM collection"))
        connection.close()

    got = by_turns(RUNS, ours=timed(open_ours), bare=timed(open_bare))
    tell(f"open {ENTRIES:,} entries", got["ours"], got["bare"], "SQLite opens the file")
    session = Session(folder, Fetcher())
    place = session._library.place("Sources")
    question = session.reader.entries.question(place.key, "sortBy title")
    bare = bare_connection(folder / "library.sqlite")
    application = make_application()
    THEME.apply(application, "light")
    view = EntryTableView(lambda ids, take: take(place.rows(ids)), lambda *_: None, lambda _error: None)
    view.resize(900, 760)
    view.show()
    columns = list(place.fields[:8])
    shown = ", ".join(f'"{field.column}"' for field in columns)
    floor_sql = "SELECT group_concat(id) FROM (SELECT id FROM c1 ORDER BY title_key, id)"

    def bare_ids() -> list[int]:
        return list(map(int, str(next(iter(bare.execute(floor_sql)))[0]).split(",")))

    def window_of(ids: list[int]) -> None:
        list(
            bare.execute(f"SELECT id, {shown} FROM c1 WHERE id IN (SELECT value FROM json_each(?))", (json.dumps(ids),))
        )

    def first_screen() -> None:
        listing = place.listing(question)
        view.show_listing(place.info, columns, listing, place.rows(listing.ids[:100]), 0, place.layout)
        view.set_widths()
        view.grab()

    got = by_turns(RUNS, ours=timed(first_screen), bare=timed(lambda: window_of(bare_ids()[:100])))
    tell("first screen by title, painted", got["ours"], got["bare"], "ids and 100 rows by SQL", "< 50 ms")
    everything = bare_ids()

    def to_the_middle() -> None:
        view.table.window.chunks.clear()
        view.scrollTo(view.table.index(ENTRIES // 2, 0))
        view.grab()
        view.scrollToTop()

    middle = everything[ENTRIES // 2 : ENTRIES // 2 + 100]
    got = by_turns(RUNS, ours=timed(to_the_middle), bare=timed(lambda: window_of(middle)))
    tell("scroll to the middle, painted", got["ours"], got["bare"], "100 rows by SQL")
    bench_changes(session, place.key, bare, everything)
    print(f"{'memory for all of that':<34} {used_mb() - before_mb:9.0f} MB more than with the library made", flush=True)
    bare.close()
    session.close()


def bench_changes(session: "Session", key_of_place: str, bare: apsw.Connection, everything: list[int]) -> None:
    """Edits, undo and a new field."""
    from wily_magpie.core.commands.entries import SetText
    from wily_magpie.core.commands.fields import AddField
    from wily_magpie.core.commands.history import Undo
    from wily_magpie.core.entries.field import FieldPlan

    place = session.place(key_of_place)
    columns = place.fields
    numbers = iter(range(10**9))

    def bare_edit(ids: list[int]) -> None:
        bare.execute("BEGIN IMMEDIATE")
        sql = f"UPDATE c1 SET {columns[5].column} = ? WHERE id IN (SELECT value FROM json_each(?))"
        bare.execute(sql, (f"bare {next(numbers)}", json.dumps(ids)))
        bare.execute("COMMIT")

    key = columns[5].key
    one, bulk = everything[:1], everything[:BULK]
    edit_one = timed(lambda: session.do(SetText(place.key, one, key, f"ours {next(numbers)}")))
    got = by_turns(RUNS, ours=edit_one, bare=timed(lambda: bare_edit(one)))
    tell("edit one value", got["ours"], got["bare"], "the UPDATE alone")
    edit_many = timed(lambda: session.do(SetText(place.key, bulk, key, f"ours {next(numbers)}")))
    got = by_turns(RUNS, ours=edit_many, bare=timed(lambda: bare_edit(bulk)))
    tell(f"set {BULK:,} values at once", got["ours"], got["bare"], "the UPDATE alone", "< 3 x")

    def undo_bulk() -> float:
        session.do(SetText(place.key, bulk, key, f"ours {next(numbers)}"))
        return timed(lambda: session.do(Undo()))()

    got = by_turns(RUNS, ours=undo_bulk, bare=timed(lambda: bare_edit(bulk)))
    tell("undo that", got["ours"], got["bare"], "the UPDATE alone", "< 3 x")

    def add_field() -> float:
        took = timed(lambda: session.do(AddField(place.key, FieldPlan("", f"More {next(numbers)}", "text"))))()
        session.do(Undo())
        return took

    def bare_field() -> None:
        bare.execute(f"ALTER TABLE c1 ADD COLUMN bare{next(numbers)} TEXT")

    got = by_turns(SLOW_RUNS, ours=add_field, bare=timed(bare_field))
    tell("add a field", got["ours"], got["bare"], "ADD COLUMN alone")


def bench_notes(folder: Path) -> None:
    from wily_magpie.core.commands.entries import SetText
    from wily_magpie.core.pages.fetch import Fetcher
    from wily_magpie.core.session.session import Session

    chance = random.Random(11)
    notes = folder / "Notes"
    for number in range(NOTES):
        path = notes / f"{number % 200:03}" / f"note {number}.md"
        if number < 200:
            path.parent.mkdir(parents=True)
        body = "\n\n".join(" ".join(chance.choices(WORDS, k=60)) for _ in range(5))
        matter = f"title: Note {number}\nstatus: {chance.choice(['open', 'done'])}\ntags: [{', '.join(chance.sample(WORDS, 2))}]\n"
        matter += f"published: {chance.randint(1900, 2025)}-03\nrating: {chance.randint(1, 5)}\n"
        path.write_text(
            f"---\n{matter}---\n\n# Heading\n\n{body}\n\nSee [[note {chance.randrange(NOTES)}]] #ebb\n", "utf-8"
        )
    files = sorted(notes.rglob("*.md"))

    def read_bytes() -> None:
        for path in files:
            path.read_bytes()

    def scan() -> None:
        for inner, _, names in os.walk(notes):
            for name in names:
                Path(inner, name).stat()

    before_mb = used_mb()
    session = Session(folder / "library", Fetcher())
    place = session._library.add_notes_folder("Notes", notes, ())
    forget_files(files)
    floor = timed(read_bytes)()
    forget_files(files)
    cold = timed(lambda: session.refresh_notes(place.key))()
    tell(f"index {NOTES:,} notes cold", [cold], [floor], "reading their bytes", "< 6 x")
    got = by_turns(SLOW_RUNS, ours=timed(lambda: session.refresh_notes(place.key)), bare=timed(scan))
    tell("look again, nothing changed", got["ours"], got["bare"], "names and times alone", "< 2 x")
    entry_id = place.index.id_of("000/note 0.md") or 0
    numbers = iter(range(10**9))
    path = notes / "000" / "note 0.md"

    def bare_edit() -> None:
        from wily_magpie.core.places.atomic import write_bytes

        write_bytes(path, path.read_bytes())

    edit: Callable[[], float] = timed(lambda: session.do(SetText(place.key, [entry_id], "status", f"s{next(numbers)}")))
    got = by_turns(RUNS, ours=edit, bare=timed(bare_edit))
    tell("edit one key of a note", got["ours"], got["bare"], "the file replaced whole")
    ids = timed(
        lambda: place.listing(session.reader.entries.question(place.key, "status = open sortBy published/descending"))
    )
    bare = apsw.Connection(str(place.index.file))
    column = {field.key: field.column for field in place.fields}
    sql = (
        f"SELECT group_concat(id) FROM (SELECT id FROM notes WHERE {column['status']} = 'open'"
        f" ORDER BY {column['published']} DESC NULLS LAST, id)"
    )
    got = by_turns(RUNS, ours=ids, bare=timed(lambda: list(bare.execute(sql))))
    tell("a question over the notes", got["ours"], got["bare"], "the bare SQL", "< 2 x")
    print(f"{'memory for all of that':<34} {used_mb() - before_mb:9.0f} MB", flush=True)
    bare.close()
    session.close()
