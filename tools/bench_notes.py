"""`./magpie bench notes`: 50,000 notes with 200 living lists: opened, and one field changed until all that it touches are written."""

import os
import random
import tempfile
import time
from pathlib import Path

from measure import tell, timed

from wily_magpie.core.commands.entries import SetText
from wily_magpie.core.commands.places import AddNotesFolder
from wily_magpie.core.events import Changed, Event
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places.atomic import write_bytes
from wily_magpie.core.session.session import Session

NOTES, LISTS, RUNS = 50_000, 200, 7
WORDS = "mill tide pond sluice miller quay stone ebb flood law charter oak wheel dam barge flour toll creek".split()
PATIENCE_S = 300


def bench_notes() -> None:
    """See the module."""
    with tempfile.TemporaryDirectory() as folder:
        notes = made(Path(folder) / "Notes")
        session = Session(Path(folder) / "library", Fetcher())
        place = session.do(AddNotesFolder(notes))
        files = sorted(notes.rglob("*.md"))
        floor = timed(lambda: [path.read_bytes() for path in files])()
        cold = timed(lambda: session.refresh_notes(place.key))()
        tell(f"open {NOTES:,} notes for the first time", [cold], [floor], "reading their bytes")
        names = timed(lambda: [entry.stat() for inner, _, _ in os.walk(notes) for entry in os.scandir(inner)])
        again = [timed(lambda: session.refresh_notes(place.key))() for _ in range(RUNS)]
        tell("open them again", again, [names() for _ in range(RUNS)], "names and times alone")
        begun = time.perf_counter()
        session.keep_lists_filled()
        rest(session)
        lists = sorted(notes.glob("Lists/*.md"))
        copies = Path(folder) / "copies"
        copies.mkdir()
        writing = timed(lambda: copied(lists, copies))
        tell(
            f"fill {LISTS} lists for the first time", [time.perf_counter() - begun], [writing()], "writing these files"
        )
        for touched, field in (("all", "status"), ("a tenth of the", "rating")):
            change(session, place.key, lists, copies, touched, field)
        stamps = {path: path.stat().st_mtime_ns for path in lists}
        asking = timed(lambda: look_at_all(session))
        tell("look at all, nothing changed", [asking() for _ in range(3)], [writing()], "writing these files")
        print(
            f"{'written where nothing changed':<34} {sum(path.stat().st_mtime_ns != at for path, at in stamps.items())}"
        )
        session.close()


def made(notes: Path) -> Path:
    """The folder; of ten lists nine ask and show the status: five of one shelf, four of all; one the rating alone."""
    chance = random.Random(17)
    for number in range(NOTES):
        path = notes / f"{number % 200:03}" / f"note {number}.md"
        if number < 200:
            path.parent.mkdir(parents=True)
        body = "\n\n".join(" ".join(chance.choices(WORDS, k=60)) for _ in range(5))
        matter = f"title: Note {number}\nstatus: {chance.choice(['open', 'done'])}\n"
        matter += f"rating: {chance.randint(1, 5)}\nshelf: s{number % 200}\n"
        path.write_text(
            f"---\n{matter}---\n\n# Heading\n\n{body}\n\nSee [[note {chance.randrange(NOTES)}]] #ebb\n", "utf-8"
        )
    (notes / "Lists").mkdir()
    for number in range(LISTS):
        asks = (
            f"status = open and shelf == s{number}" if number % 2 else f"status = open and rating <= {number % 5 + 1}"
        )
        asks = asks if number % 10 else "rating >= 3"
        shows = "status" if number % 10 else "rating"
        said = f'where="{asks}" sort="shelf, title" show="title, shelf, {shows}" as="table" most="50"'
        (notes / "Lists" / f"list {number}.md").write_text(
            f"# List {number}\n\n<!-- list {said} -->\n<!-- end of list -->\n", "utf-8"
        )
    return notes


def copied(paths: list[Path], to: Path) -> None:
    """Writes files again elsewhere, as the program writes."""
    for path in paths:
        write_bytes(to / path.name, path.read_bytes())


def rest(session: Session) -> None:
    """Waits until all lists are filled."""
    session.lanes.indexer.submit(lambda: None).result(PATIENCE_S)
    if session.filling is not None:
        session.filling.idle.wait(PATIENCE_S)


def look_at_all(session: Session) -> None:
    """Has all lists looked at."""
    if session.filling is not None:
        session.filling.look_at_all()
    rest(session)


def change(session: Session, key: str, lists: list[Path], copies: Path, touched: str, field: str) -> None:
    """One field of a note that stands first in the lists, until all are written."""
    number = session.reader.notes.id_of(key, "000/note 0.md") or 0
    taken, floor, waits = [], [], []
    written: set[str] = set()
    session.subscribe(lambda event: hear(event, written))
    for turn in range(RUNS):
        written.clear()
        value = ("open", "done")[turn % 2] if field == "status" else ("4", "1")[turn % 2]
        begun = time.perf_counter()
        session.do(SetText(key, [number], field, value))
        asked = time.perf_counter()
        session.ask(lambda reader: reader.entries.rows(key, [number])).result(PATIENCE_S)
        waits.append(time.perf_counter() - asked)
        rest(session)
        taken.append(time.perf_counter() - begun)
        begun = time.perf_counter()
        copied(lists[: max(1, len(written))], copies)
        floor.append(time.perf_counter() - begun)
    tell(f"a field changed that {touched} lists ask", taken, floor, f"writing {len(written)} files", "2 s")
    tell("a question meanwhile", waits, floor, "the same")


def hear(event: Event, written: set[str]) -> None:
    """Notes which steps filled lists."""
    if isinstance(event, Changed) and event.step.is_filling:
        written.update(str(one) for ids in event.entries.values() for one in ids)
