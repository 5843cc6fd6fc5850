"""The guard of the interface's thread, and the log of our own faults."""

import logging
import threading
import types
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from wily_magpie.core import faults
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.guard import GUARD, InterfaceWaits
from wily_magpie.core.session.session import Session

PACKAGE = "guarded_by_a_test"


def in_the_package(act: Callable[[], object]) -> object:
    """Calls something from a module of the guarded package."""
    module = types.ModuleType(f"{PACKAGE}.module")
    exec("def call(act):\n    return act()", module.__dict__)
    return module.call(act)


@pytest.fixture
def guard() -> Iterator[None]:
    """Switched on for this thread and that package."""
    GUARD.watch(PACKAGE)
    yield
    GUARD.lift()


@pytest.mark.usefixtures("guard")
def test_a_database_or_a_disk_is_not_waited_for(session: Session, tmp_path: Path) -> None:
    path = tmp_path / "a.txt"
    path.write_text("text")
    waits: list[Callable[[], object]] = [
        lambda: session._library.database.one("SELECT 1"),
        session.reader.entries.places,
        path.read_text,
        lambda: path.write_text("other"),
        lambda: list(tmp_path.iterdir()),
        lambda: path.rename(tmp_path / "b.txt"),
        (tmp_path / "new").mkdir,
        path.unlink,
    ]
    for act in waits:
        with pytest.raises(InterfaceWaits):
            in_the_package(act)
    assert path.read_text() == "text"


@pytest.mark.usefixtures("guard")
def test_others_and_other_threads_may_wait(session: Session, tmp_path: Path) -> None:
    session.do(AddEntry("collection:1", "The mill"))
    told: list[object] = []
    thread = threading.Thread(target=lambda: told.append(in_the_package(lambda: (tmp_path / "a").write_text("x"))))
    thread.start()
    thread.join()
    assert told == [1]


@pytest.mark.usefixtures("guard")
def test_what_goes_to_another_lane_is_no_waiting(session: Session) -> None:
    future = in_the_package(lambda: session.submit(AddEntry("collection:1", "The mill")))
    assert future.result() == 1  # type: ignore[attr-defined]


def test_switched_off_it_guards_nothing(tmp_path: Path) -> None:
    GUARD.lift()
    assert in_the_package(lambda: (tmp_path / "a").write_text("x")) == 1


def test_our_faults_are_written_down_and_the_log_stays_small(tmp_path: Path) -> None:
    path = tmp_path / "state" / "faults.log"
    handler = faults.start_log(path)
    assert handler is not None
    log = logging.getLogger("wily_magpie.tests")
    log.propagate = False
    log.addHandler(handler)
    try:
        for number in range(150):
            log.error("fault %s %s", number, "x" * 20_000)
    finally:
        logging.getLogger("wily_magpie").removeHandler(handler)
        log.removeHandler(handler)
        handler.close()
    assert "fault 149" in path.read_text()
    assert sum(one.stat().st_size for one in path.parent.iterdir()) < 3_100_000
