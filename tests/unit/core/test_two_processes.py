"""Several processes on one library: nothing that one of them was told is kept is lost by another, and they hear each other."""

import random
import threading
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from helpers import redo, undo, undo_label
from processes import Child, Work
from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.commands.entries import AddEntry, SetText
from wily_magpie.core.commands.fields import AddField, DeleteField
from wily_magpie.core.commands.files import AttachFiles
from wily_magpie.core.commands.notes import WriteNote
from wily_magpie.core.commands.places import AddNotesFolder
from wily_magpie.core.commands.upkeep import Sweep
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.events import Changed, Event, OverviewChanged
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session

MANY, PAIRS, KILLS = 40, 12, 25
LONGEST_S = 30


def opened(folder: Path, origin: str = "window") -> Session:
    return Session(folder, Fetcher(), origin=origin)


def titles(session: Session) -> set[str]:
    place = session._library.place("Sources")
    return {row.title for row in place.rows(list(place.listing(Question()).ids))}


def lines(folder: Path) -> set[str]:
    found: set[str] = set()
    for path in folder.glob("*.md"):
        found |= {line for line in path.read_text("utf-8").splitlines() if line.startswith("line")}
    return found


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A library with a notes folder."""
    (tmp_path / "Notes").mkdir()
    session = opened(tmp_path / "library")
    session.do(AddNotesFolder(tmp_path / "Notes"))
    session.close()
    return tmp_path / "library"


def shell_at_work(folder: Path, name: str) -> Work:
    """What a shell does: for each thing a session of its own."""

    def work(done: Callable[[int], object]) -> None:
        for number in range(MANY):
            session = opened(folder, "shell")
            notes = session._library.notes("Notes")
            if number % 2:
                session.do(WriteNote(notes.key, "shared.md", f"line {name} {number}"))
            else:
                session.do(AddEntry("collection:1", f"{name} {number}"))
            session.close()
            done(number)

    return work


def window_at_work(session: Session, notes: str, is_over: threading.Event) -> tuple[set[str], set[str]]:
    """What a window does, with steps taken back and done again: what it was told is kept, as titles and lines."""
    kept, written = set(), set()
    number = 0
    while not is_over.is_set():
        number += 1
        session.do(AddEntry("collection:1", f"window {number}"))
        kept.add(f"window {number}")
        session.do(WriteNote(notes, f"own {number % 5}.md", f"line window {number}"))
        written.add(f"line window {number}")
        if number % 3 == 0:
            undo(session)
            redo(session)
    return kept, written


def test_two_shells_and_a_window_lose_nothing(folder: Path) -> None:
    children = {name: Child(shell_at_work(folder, name)) for name in ("left", "right")}
    session = opened(folder)
    for child in children.values():
        child.go()
    is_over = threading.Event()
    told: list[tuple[set[str], set[str]]] = []
    notes = session._library.notes("Notes")
    window = threading.Thread(target=lambda: told.append(window_at_work(session, notes.key, is_over)))
    window.start()
    done = {name: child.ended() for name, child in children.items()}
    is_over.set()
    window.join()
    assert all(len(numbers) == MANY for numbers in done.values())
    ((kept, written),) = told
    assert kept
    for name, numbers in done.items():
        kept |= {f"{name} {number}" for number in numbers if number % 2 == 0}
        written |= {f"line {name} {number}" for number in numbers if number % 2}
    assert kept - titles(session) == set()
    assert written - lines(notes.path) == set()
    assert session.reader.check() == []
    session.close()


def test_one_of_two_is_killed_and_the_other_loses_nothing(folder: Path) -> None:
    chance = random.Random(5)
    children = [Child(shell_at_work(folder, f"shell {turn}")) for turn in range(KILLS)]
    session = opened(folder)
    notes = session._library.notes("Notes")
    is_over = threading.Event()
    told: list[tuple[set[str], set[str]]] = []
    window = threading.Thread(target=lambda: told.append(window_at_work(session, notes.key, is_over)))
    window.start()
    acknowledged: set[str] = set()
    for turn, child in enumerate(children):
        done = child.go().kill(chance.uniform(0.02, 0.3))
        acknowledged |= {f"shell {turn} {number}" for number in done if number % 2 == 0}
    is_over.set()
    window.join()
    ((kept, written),) = told
    assert (kept | acknowledged) - titles(session) == set()
    assert written - lines(notes.path) == set()
    session.close()
    again = opened(folder)
    assert (kept | acknowledged) - titles(again) == set()
    assert again.reader.check() == []
    assert not list(folder.glob("unfinished-*"))
    again.close()


def test_a_sweep_leaves_what_another_is_just_keeping(folder: Path, tmp_path: Path) -> None:
    path = tmp_path / "plan.txt"

    def sweep(done: Callable[[int], object]) -> None:
        for number in range(MANY):
            other = opened(folder, "shell")
            other.do(Sweep())
            other.close()
            done(number)

    child = Child(sweep)
    session = opened(folder)
    session.do(AddField("collection:1", FieldPlan("plans", "Plans", "files")))
    entry_id = session.do(AddEntry("collection:1", "The mill"))
    child.go()
    is_over = threading.Event()

    def wait() -> None:
        child.ended()
        is_over.set()

    waiting = threading.Thread(target=wait)
    waiting.start()
    count = 0
    while not is_over.is_set():
        count += 1
        path.write_text(f"plan {count}")
        session.do(AttachFiles("collection:1", entry_id, "plans", [path]))
    waiting.join()
    entry = session._library.place("Sources").entry(entry_id)
    assert entry is not None
    stored = entry.value("plans")
    assert isinstance(stored, tuple)
    assert len(stored) == count
    assert all(session._library.blobs.file_path(one) is not None for one in stored)
    session.close()


def test_two_make_the_same_new_library_at_once(tmp_path: Path) -> None:
    for pair in range(PAIRS):
        folder = tmp_path / str(pair)

        def make(done: Callable[[int], object], folder: Path = folder) -> None:
            session = opened(folder, "shell")
            session.do(AddEntry("collection:1", "The mill"))
            session.close()
            done(1)

        children = [Child(make), Child(make)]
        for child in children:
            child.go()
        assert [child.ended() for child in children] == [[1], [1]]
        session = opened(folder)
        assert [place.name for place in session.overview.places] == ["Sources"]
        assert session._library.place("Sources").listing(Question()).total == 2
        session.close()


class Ear:
    """Hears a session, and waits for what it wants to hear."""

    def __init__(self, session: Session) -> None:
        self.heard: list[tuple[float, Event]] = []
        self.news = threading.Condition()
        session.subscribe(self.hear)

    def hear(self, event: Event) -> None:
        with self.news:
            self.heard.append((time.monotonic(), event))
            self.news.notify_all()

    def wait_for(self, is_wanted: Callable[[Event], bool]) -> tuple[float, Event]:
        """The first event of that sort, and when it came."""
        with self.news:
            assert self.news.wait_for(lambda: any(is_wanted(one) for _, one in self.heard), LONGEST_S)
        return next(one for one in self.heard if is_wanted(one[1]))


def test_a_change_by_another_process_is_heard_within_a_second(folder: Path) -> None:
    def add(done: Callable[[int], object]) -> None:
        other = opened(folder, "shell")
        other.do(AddEntry("collection:1", "By the shell", {"status": "read"}))
        done(time.monotonic_ns())
        other.close()

    child = Child(add)
    session = opened(folder)
    session.hear_neighbours()
    ear = Ear(session)
    (committed,) = child.go().ended()
    when, event = ear.wait_for(lambda one: isinstance(one, Changed))
    assert isinstance(event, Changed)
    assert when - committed / 1e9 < 1
    assert (event.is_own, event.step.origin, event.step.label) == (False, "shell", "New entry “By the shell”")
    assert set(event.entries) == {"collection:1"}
    (entry_id,) = event.entries["collection:1"]
    assert session.reader.entries.rows("collection:1", [entry_id])[0].title == "By the shell"
    session.close()


def test_fields_made_by_another_process_can_be_asked_for_at_once(folder: Path) -> None:
    def add(_done: Callable[[int], object]) -> None:
        other = opened(folder, "shell")
        other.do(AddField("collection:1", FieldPlan("depth", "Depth", "number")))
        other.do(AddEntry("collection:1", "A pond", {"depth": 3.0}))
        other.close()

    child = Child(add)
    session = opened(folder)
    session.hear_neighbours()
    ear = Ear(session)
    child.go().ended()
    ear.wait_for(
        lambda one: isinstance(one, OverviewChanged) and any(f.key == "depth" for f in one.overview.places[0].fields)
    )
    question = session.reader.entries.question("collection:1", "depth > 2")
    assert session.reader.entries.listing("collection:1", question).total == 1
    session.close()


def test_undo_names_and_takes_back_its_own_steps_alone(folder: Path) -> None:
    def add(_done: Callable[[int], object]) -> None:
        other = opened(folder, "shell")
        other.do(AddEntry("collection:1", "Theirs"))
        other.close()

    first, second = Child(add), Child(add)
    session = opened(folder)
    session.do(AddEntry("collection:1", "Mine"))
    first.go().ended()
    session.look_around()
    assert undo_label(session) == "New entry “Mine”"
    assert undo(session) == "New entry “Mine”"
    assert titles(session) == {"Theirs"}
    second.go().ended()
    assert redo(session) == "New entry “Mine”", "what another process does forgets nothing that can be done again"
    assert titles(session) == {"Mine", "Theirs"}
    labels = [(step.label, step.origin) for step in session.reader.steps()]
    assert ("New entry “Theirs”", "shell") in labels
    session.close()


def test_what_is_gone_meanwhile_is_refused_and_said(folder: Path) -> None:
    def remove(_done: Callable[[int], object]) -> None:
        other = opened(folder, "shell")
        other.do(DeleteField("collection:1", "site"))
        other.close()

    child = Child(remove)
    session = opened(folder)
    entry_id = session.do(AddEntry("collection:1", "The mill", {"site": "Wick"}))
    child.go().ended()
    with pytest.raises(MagpieError, match="site"):
        session.do(SetText("collection:1", [entry_id], "site", "Heron"))
    session.close()


class Lingering(StepCommand[None]):
    """A step that stays open for a while."""

    def label(self, _library: Library) -> str:
        return "Linger"

    def do(self, library: Library, _progress: Progress) -> None:
        library.place("collection:1").change(1, {"site": "Wick"})
        time.sleep(0.3)


def test_a_library_is_opened_while_another_process_is_in_the_middle_of_a_step(folder: Path) -> None:
    def linger(done: Callable[[int], object]) -> None:
        other = opened(folder, "shell")
        done(1)
        other.do(Lingering())
        done(2)
        other.close()

    child = Child(linger)
    session = opened(folder)
    session.do(AddEntry("collection:1", "The mill"))
    child.go()
    for _ in range(20):  # what recovery and sweeping do at opening leaves the other's step alone
        another = opened(folder, "shell")
        another.do(Sweep())
        another.close()
    assert child.ended() == [1, 2]
    session.look_around()
    assert session.reader.entries.rows("collection:1", [1])[0].value("site") == "Wick"
    session.close()
