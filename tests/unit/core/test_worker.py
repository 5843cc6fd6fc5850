"""The process apart: what it answers, what ends it, and that the next question is answered all the same."""

import os
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest

from wily_magpie.core.errors import BugError, PageFailure, UserError
from wily_magpie.core.guard import GUARD, InterfaceWaits
from wily_magpie.core.pages import apart
from wily_magpie.core.pages.page import Content, Page, Reading
from wily_magpie.core.templates import apart as expressions
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.worker.process import Broken, Ended, Limits, Worker


@pytest.fixture
def worker(monkeypatch: pytest.MonkeyPatch) -> Iterator[Worker]:
    monkeypatch.setenv("PYTHONPATH", str(Path(__file__).parent))
    made = Worker("worker_answers", Limits(seconds=1, megabytes=300))
    yield made
    made.close()


def test_one_process_answers_many_questions_from_many_threads(worker: Worker) -> None:
    pid = worker.ask("pid")
    assert pid != os.getpid()
    found: list[int] = []
    threads = [threading.Thread(target=lambda n=n: found.append(worker.ask("add", n, 1))) for n in range(20)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    assert sorted(found) == list(range(1, 21))
    assert worker.ask("add", "x" * 5_000_000, "y") == "x" * 5_000_000 + "y"
    assert worker.ask("add", "\ud800", "\0") == "\ud800\0"
    assert worker.ask("pid") == pid


@pytest.mark.parametrize(
    ("name", "why"),
    [
        ("spin", "takes too long"),
        ("spin in C", "takes too long"),
        ("grow", "needs too much memory"),
        ("leave", "needs too much memory"),
        ("crash", "breaks what should read it"),
    ],
)
def test_what_takes_too_much_costs_itself(worker: Worker, name: str, why: str) -> None:
    with pytest.raises(Ended, match=why):
        worker.ask(name)
    assert worker.ask("add", 1, 2) == 3


def test_what_is_told_to_people_arrives_and_faults_of_ours_too(worker: Worker) -> None:
    pid = worker.ask("pid")
    with pytest.raises(UserError, match="Try another") as told:
        worker.ask("refuse", "This cannot be.")
    assert (told.value.slug, told.value.message) == ("no", "This cannot be.")
    with pytest.raises(Broken, match="TypeError"):
        worker.ask("add", 1, "x")
    with pytest.raises(Broken, match="not JSON serializable"):
        worker.ask("set")
    assert worker.ask("pid") == pid


def test_what_libraries_print_is_no_answer_and_no_file_is_written(worker: Worker, tmp_path: Path) -> None:
    assert worker.ask("chatter") == "said"
    with pytest.raises(Broken, match="File too large"):
        worker.ask("write", str(tmp_path / "a.txt"))


def test_a_process_that_holds_much_memory_is_not_asked_again(worker: Worker) -> None:
    small = worker.ask("hold", 10)
    assert worker.ask("hold", 10) == small
    assert worker.ask("hold", 180) == small
    assert worker.ask("pid") != small


def test_nobody_waits_for_it_on_the_interfaces_thread(worker: Worker) -> None:
    GUARD.watch(__name__)
    try:
        with pytest.raises(InterfaceWaits):
            worker.ask("pid")
    finally:
        GUARD.lift()


def test_a_page_that_breaks_its_reader_is_said_and_the_next_is_read(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(apart, "WORKER", Worker("wily_magpie.core.pages.served", Limits(seconds=10, megabytes=250)))
    page = Page("https://mills.example/a", f"<html><body><p>{'word ' * 12_000_000}</p></body></html>", "fetched")
    try:
        with pytest.raises(PageFailure, match="too much memory") as told:
            apart.read_page(page)
        assert told.value.way_out
        small = Page(
            "https://mills.example/b", "<html><head><title>Mill</title></head><body><p>x</p></body></html>", "fetched"
        )
        assert apart.read_page(small).best("title") == "Mill"
    finally:
        apart.WORKER.close()


def test_a_fault_of_ours_costs_one_page_and_one_expression(monkeypatch: pytest.MonkeyPatch, worker: Worker) -> None:
    def fail(*_: object) -> None:
        raise Broken("Traceback")

    monkeypatch.setattr(worker, "ask", fail)
    monkeypatch.setattr(apart, "WORKER", worker)
    monkeypatch.setattr(expressions, "WORKER", worker)
    with pytest.raises(BugError, match=r"mills\.example/a failed"):
        apart.read_page(Page("https://mills.example/a", "", "fetched"))
    reading = Reading(Page("", "", "file"), (), Content("", "", ""), "")
    with pytest.raises(UserError, match="fails by a fault of ours"):
        expressions.evaluate("page.title", RuleContext(reading, ""))
