"""Many threads at one library, two libraries in one process, long work beside short: nothing is lost, torn or mixed up."""

import itertools
import os
import re
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

import pytest

from helpers import undo
from wily_magpie.core.commands.command import Progress
from wily_magpie.core.commands.entries import AddEntry, RemoveEntries, SetText, SetValues
from wily_magpie.core.commands.fields import AddField, DeleteField
from wily_magpie.core.commands.places import NewCollection
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.errors import EnvironmentFailure, MagpieError, UserError
from wily_magpie.core.events import Changed, Event
from wily_magpie.core.exchange.sheet import levelled
from wily_magpie.core.exchange.tables import take_in
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places import history
from wily_magpie.core.places.history import StepRecord
from wily_magpie.core.places.starters import STARTERS
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.jobs import SHARE_S, Job, State
from wily_magpie.core.session.session import Session

PLACE = "collection:1"
THREADS, EACH = 6, 15
SOON_S = 20.0


def together(work: Callable[[int], object], count: int = THREADS) -> list[object]:
    """Does something on several threads that begin at the same time."""
    gate = threading.Barrier(count)

    def one(number: int) -> object:
        gate.wait(SOON_S)
        return work(number)

    with ThreadPoolExecutor(count) as threads:
        return [ended.result(SOON_S) for ended in [threads.submit(one, number) for number in range(count)]]


def titles(session: Session) -> list[str]:
    listing = session.reader.entries.listing(PLACE, Question())
    return sorted(entry.title for entry in session.reader.entries.rows(PLACE, listing.ids))


def test_changes_of_many_threads_are_all_there_each_a_step_of_its_own(session: Session) -> None:
    told: list[Event] = []
    session.subscribe(told.append)
    together(lambda thread: [session.do(AddEntry(PLACE, f"{thread}-{number}")) for number in range(EACH)])
    assert titles(session) == sorted(f"{thread}-{number}" for thread in range(THREADS) for number in range(EACH))
    steps = [event.step for event in told if isinstance(event, Changed)]
    assert len(steps) == THREADS * EACH
    assert [step.id for step in steps] == sorted(step.id for step in steps)  # told in the order in which they were done
    for step in reversed(steps):
        assert undo(session) == step.label
    assert titles(session) == []


def test_whoever_asks_sees_whole_steps_alone(session: Session) -> None:
    """Two fields are always changed together; nobody ever sees one of them changed."""
    entry = session.do(AddEntry(PLACE, "Mill", {"summary": "0", "notes": "0"}))
    session.do(AddField(PLACE, FieldPlan("other", "Other", "text")))
    session.do(SetValues(PLACE, {entry: {"summary": "0", "other": "0"}}))
    is_over = threading.Event()
    torn: list[tuple[object, object]] = []
    looks = itertools.count()

    def ask() -> None:
        while not is_over.is_set():
            (row,) = session.ask(lambda reader: reader.entries.rows(PLACE, [entry])).result(SOON_S)
            next(looks)
            if row.value("summary") != row.value("other"):
                torn.append((row.value("summary"), row.value("other")))

    askers = [threading.Thread(target=ask) for _ in range(3)]
    for one in askers:
        one.start()
    for number in range(60):
        session.do(SetValues(PLACE, {entry: {"summary": str(number), "other": str(number)}}))
    is_over.set()
    for one in askers:
        one.join(SOON_S)
    assert torn == []
    assert next(looks) > 3


def test_of_several_who_delete_the_same_one_has_done_it(session: Session) -> None:
    entry = session.do(AddEntry(PLACE, "Mill"))

    def delete(_thread: int) -> bool:
        try:
            session.do(RemoveEntries(PLACE, (entry,)))
        except UserError:
            return False
        return True

    assert sum(map(bool, together(delete))) == 1
    assert len(session.reader.entries.trash()) == 1


def test_a_field_that_goes_while_others_write_into_it(session: Session) -> None:
    """Each either wrote before it went, or is told that it is gone."""
    session.do(AddField(PLACE, FieldPlan("word", "Word", "text")))
    entries = [session.do(AddEntry(PLACE, f"Mill {number}")) for number in range(THREADS)]
    said: list[str] = []

    def work(thread: int) -> None:
        if thread == THREADS - 1:
            session.do(DeleteField(PLACE, "word"))
            return
        try:
            for number in range(EACH):
                session.do(SetText(PLACE, (entries[thread],), "word", str(number)))
        except MagpieError as error:
            said.append(error.message)

    together(work)
    assert all("word" in one for one in said)
    assert "word" not in {field.key for field in session.overview.place(PLACE).fields}
    while (label := undo(session)) and not label.startswith("Delete field"):
        pass
    field = next(one for one in session.overview.place(PLACE).fields if one.key == "word")
    answer = session.reader.entries.listing(PLACE, cql.parse('word <> ""', (field,)))
    assert answer.total == THREADS


@pytest.fixture
def two(tmp_path: Path, fetcher: Fetcher) -> Iterator[tuple[Session, Session]]:
    sessions = Session(tmp_path / "one", fetcher), Session(tmp_path / "other", fetcher)
    yield sessions
    for one in sessions:
        one.close()


def test_two_libraries_of_one_process_have_nothing_in_common(two: tuple[Session, Session]) -> None:
    told: list[list[Event]] = [[], []]
    for one, events in zip(two, told, strict=True):
        one.subscribe(events.append)

    def work(thread: int) -> None:
        mine = two[thread % 2]
        for number in range(EACH):
            mine.do(AddEntry(PLACE, f"{thread}-{number}"))

    together(work)
    for at, one in enumerate(two):
        assert titles(one) == sorted(f"{t}-{n}" for t in range(at, THREADS, 2) for n in range(EACH))
        assert len([event for event in told[at] if isinstance(event, Changed)]) == EACH * THREADS // 2
    two[0].do(NewCollection("Alone", STARTERS[0]))
    assert "Alone" not in {place.name for place in two[1].overview.places}
    assert undo(two[1]) is not None
    assert titles(two[0]) == sorted(f"{t}-{n}" for t in range(0, THREADS, 2) for n in range(EACH))


def test_a_long_work_keeps_nobody_waiting(session: Session) -> None:
    """A job that goes on until it is told to end: questions and changes are done meanwhile."""
    goes_on, may_end = threading.Event(), threading.Event()

    def work(job: Job) -> str:
        while not may_end.is_set():
            job.tick(1, 2)
            goes_on.set()
        return "ended"

    jobs = [session.start("Long", work) for _ in range(3)]
    assert goes_on.wait(SOON_S)
    entry = session.submit(AddEntry(PLACE, "Mill")).result(SOON_S)
    found = session.ask(lambda reader: reader.entries.listing(PLACE, Question())).result(SOON_S)
    assert list(found.ids) == [entry]
    assert [job.state for job in jobs] == [State.RUNNING] * 3
    may_end.set()
    assert [job.future.result(SOON_S) for job in jobs] == ["ended"] * 3


def test_a_job_gives_way_at_its_steps(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    slept: list[float] = []
    clock = itertools.count(0.0, SHARE_S / 2)
    job = Job(1, "Count", lambda _job: None, lambda _job: None)
    monkeypatch.setattr(time, "perf_counter", lambda: next(clock))
    monkeypatch.setattr(time, "sleep", slept.append)
    for number in range(12):
        job.tick(number, 12)
    monkeypatch.undo()
    assert 2 < len(slept) < 12
    assert session.overview.places


def test_a_large_step_is_taken_back_piece_by_piece(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    """Between the pieces other threads have their turns; SQLite does all of it by one call, which keeps Python's lock."""
    rows = tuple((f"Mill {number}", str(number)) for number in range(5_000))
    take_in(session, levelled(("Title", "Number"), rows), ("title", "number"), "Mills", Progress())
    place = session.place("Mills")
    ids = session.reader.entries.listing(place.key, Question()).ids
    session.do(SetText(place.key, ids, "number", "7"))
    pieces, piecewise = list[int](), history.piecewise

    def counted(changes: bytes) -> Callable[[int], bytes]:
        read = piecewise(changes)

        def one(most: int) -> bytes:
            pieces.append(most)
            return read(most)

        return one

    monkeypatch.setattr(history, "piecewise", counted)
    undo(session)
    assert len(pieces) > 50
    assert session.reader.entries.rows(place.key, [ids[0]])[0].value("number") == int(rows[0][1])


def test_rows_come_in_while_others_are_written_and_both_are_whole(session: Session) -> None:
    rows = tuple((f"Row {number}", str(number)) for number in range(2_000))
    sheet = levelled(("Title", "Number"), rows)
    job = session.start("Take in", lambda job: take_in(session, sheet, ("title", "number"), "Rows", job))
    written = 0
    while not job.future.done():
        session.do(AddEntry(PLACE, f"Meanwhile {written}"))
        written += 1
    place, told = job.future.result(SOON_S)
    assert told == []
    assert len(titles(session)) == written > 0
    listing = session.reader.entries.listing(place.key, Question())
    assert listing.total == 2_000
    total = sum(float(str(one.value("number"))) for one in session.reader.entries.rows(place.key, listing.ids))
    assert total == sum(range(2_000))


def test_what_waits_is_done_before_the_library_is_closed(tmp_path: Path, fetcher: Fetcher) -> None:
    session = Session(tmp_path / "library", fetcher)
    waiting: list[Future[int]] = [session.submit(AddEntry(PLACE, f"Mill {number}")) for number in range(30)]
    session.close()
    assert all(one.done() for one in waiting)
    again = Session(tmp_path / "library", fetcher)
    try:
        assert len(titles(again)) == 30
    finally:
        again.close()


def test_steps_that_another_session_clears_up_meanwhile_are_told_all_the_same(
    session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    other = Session(session._library.folder, Fetcher())
    told: list[Event] = []
    session.subscribe(told.append)
    for number in range(3):
        other.do(AddEntry(PLACE, f"Mill {number}"))
    history = session._library.history
    read, cleared = history.record, iter([other._library.history.forget])

    def record(number: int) -> StepRecord:
        next(cleared, lambda: None)()
        return read(number)

    monkeypatch.setattr(history, "record", record)
    session.look_around()
    assert [event.step.label for event in told if isinstance(event, Changed)] == [
        f"New entry “Mill {n}”" for n in range(3)
    ]
    other.close()


@pytest.mark.parametrize("times", [1, 3, 50])
def test_what_another_program_writes_in_the_last_moment_is_not_lost(
    session: Session, notes_path: Path, monkeypatch: pytest.MonkeyPatch, times: int
) -> None:
    """It writes after the note was read and before it is replaced, so many times."""
    path = notes_path / "mill.md"
    path.write_text("---\ntitle: Mill\nstatus: to read\n---\n\nText.\n")
    session.refresh_notes()
    place = session.place("Notebook").key
    number = session._library.notes(place).index.id_of("mill.md") or 0
    writes = itertools.count(1)
    fsync = os.fsync

    def slow(file: int) -> None:
        fsync(file)
        if (count := next(writes)) <= times:
            path.write_text(path.read_text() + f"Line {count}.\n")

    monkeypatch.setattr("wily_magpie.core.places.atomic.os.fsync", slow)
    if times > 10:
        with pytest.raises(EnvironmentFailure, match="being written by another program"):
            session.do(SetText(place, (number,), "status", "read"))
    else:
        session.do(SetText(place, (number,), "status", "read"))
        assert "status: read\n" in path.read_text()
    lines = re.findall(r"Line (\d+)", path.read_text())
    assert lines == [str(one) for one in range(1, len(lines) + 1)]
    assert len(lines) >= min(times, 5)
    assert not list(notes_path.glob(".*"))
