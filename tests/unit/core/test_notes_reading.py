"""A folder of very many notes: it is told how far it is while it is read, what is there is shown, and a stop loses nothing."""

import threading
from collections.abc import Callable
from pathlib import Path

import pytest

from helpers import add_notes, count_as_many, undo
from wily_magpie.core.commands.places import DeletePlace
from wily_magpie.core.events import Event, NotesComing, NotesRead
from wily_magpie.core.places.notes import files
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.filling import Filling
from wily_magpie.core.session.jobs import State
from wily_magpie.core.session.session import Session

COUNT = 60


@pytest.fixture
def many(session: Session, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> NotesFolder:
    count_as_many(monkeypatch, COUNT // 2, 10)
    folder = tmp_path / "Many"
    folder.mkdir()
    for number in range(COUNT):
        (folder / f"{number}.md").write_text(f"---\nmood: {number}\n---\nText {number}\n", "utf-8")
    return add_notes(session, "Many", folder)


def heard(session: Session, also: Callable[[Event], None] = lambda _event: None) -> list[Event]:
    out: list[Event] = []
    session.subscribe(out.append)
    session.subscribe(also)
    return out


def rows_of(session: Session, place: NotesFolder) -> int:
    return len(session.reader.entries.listing(place.key, Question()).ids)


def test_it_is_told_how_far_it_is_and_what_is_read_is_there(session: Session, many: NotesFolder) -> None:
    there: list[tuple[int, int]] = []
    fields: list[bool] = []

    def look(event: Event) -> None:
        if isinstance(event, NotesComing):
            there.append((event.done, rows_of(session, many)))
            shown = session.overview.place(many.key).fields
            fields.append(any(field.key == "mood" for field in shown))

    events = heard(session, look)
    session.index_notes(many.key).result()
    assert there[0][0] == 0
    assert there[-1] == (COUNT, COUNT)
    assert all(rows >= done - 10 for done, rows in there), "they come in batch by batch"
    assert not fields[0]
    assert all(fields[3:]), "their fields come with the first of them"
    assert [event for event in events if isinstance(event, NotesRead)] == [NotesRead(many.key)]
    (job,) = session.jobs.all.values()
    assert (job.label, job.state, job.done) == ("Reading the notes of Many", State.DONE, COUNT)


def test_few_are_no_job(session: Session, many: NotesFolder) -> None:
    session.refresh_notes(many.key)
    (many.path / "0.md").write_text("Another text\n", "utf-8")
    events = heard(session)
    assert session.index_notes(many.key).result() == 1
    assert not session.jobs.all
    assert not [event for event in events if isinstance(event, NotesComing)]


def test_it_can_be_stopped_and_goes_on_where_it_was(session: Session, many: NotesFolder) -> None:
    def stop(event: Event) -> None:
        if isinstance(event, NotesComing) and event.done == COUNT // 2:
            next(iter(session.jobs.all.values())).cancel()

    events = heard(session, stop)
    session.index_notes(many.key).result()
    (job,) = session.jobs.all.values()
    assert job.state == State.CANCELLED
    told = [event for event in events if isinstance(event, NotesComing)][-1]
    assert told.done < told.total, "nobody is told that all are there"
    read = rows_of(session, many)
    assert 0 < read < COUNT
    assert session.notes.is_half_read(), "lists would hold half of them"
    session.do(DeletePlace(many.key))
    assert not session.notes.is_half_read(), "no list waits for what is gone"
    undo(session)
    assert session.refresh_notes(many.key) == COUNT - read
    assert not session.notes.is_half_read()


def test_lists_wait_until_a_folder_is_read(
    session: Session, many: NotesFolder, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    home = tmp_path / "Home"
    home.mkdir()
    note = home / "home.md"
    note.write_text('<!-- list in="Many" as="count" -->\n<!-- end of list -->\n', "utf-8")
    add_notes(session, "Home", home).refresh()
    taken, goes_on, seen = files.NoteFiles.taken, threading.Event(), threading.Event()

    def slowly(self: files.NoteFiles, path: str, stamp: tuple[int, int]) -> object:
        if path == f"{COUNT - 1}.md":
            seen.set()
            goes_on.wait(20)
        return taken(self, path, stamp)

    class Waits(threading.Event):
        """Lets the reading go on once it was waited for several times."""

        count = 0

        def wait(self, timeout: float | None = None) -> bool:
            self.count += 1
            if self.count == 4:
                goes_on.set()
            return super().wait(timeout)

    monkeypatch.setattr(files.NoteFiles, "taken", slowly)
    read = session.index_notes(many.key)
    assert seen.wait(20)
    filling, half_read = Filling(session), list[bool]()
    fill = filling.fill

    def watched() -> None:
        half_read.append(session.notes.is_half_read())
        fill()

    monkeypatch.setattr(filling, "ended", Waits())
    monkeypatch.setattr(filling, "fill", watched)
    filling.start()
    read.result()
    assert filling.idle.wait(20)
    filling.close()
    assert half_read
    assert not any(half_read)
    assert str(COUNT) in note.read_text("utf-8")


def test_notes_are_read_while_search_is_being_brought_in_step(
    session: Session, many: NotesFolder, monkeypatch: pytest.MonkeyPatch
) -> None:
    begun, goes_on = threading.Event(), threading.Event()

    def slowly(*_given: object) -> None:
        begun.set()
        goes_on.wait(20)

    monkeypatch.setattr(session.reader.search, "refresh", slowly)
    words = session.index_entries()
    assert begun.wait(20)
    try:
        session.index_notes(many.key).result(10)
        assert rows_of(session, many) == COUNT
    finally:
        goes_on.set()
    words.result(20)
