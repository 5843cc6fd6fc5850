"""What is asked for again and again: what was asked last is what is shown, in whatever order the answers come."""

from collections.abc import Callable, Iterator
from pathlib import Path
from threading import Event

import pytest
from pytestqt.qtbot import QtBot

from driving import PATIENCE_MS
from wily_magpie.core.commands.entries import AddEntry, SetText
from wily_magpie.core.commands.lists import MakeList, NoteItems
from wily_magpie.core.commands.templates import SaveTemplate
from wily_magpie.core.entries.capture_list import ItemState, ListItem
from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.queries.lists import ListQueries
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.template import Template
from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.list_pages import ListPage
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import TEMPLATES
from wily_magpie.qt.stations.templates import model, station

WAIT_S, PLACE = 20, "collection:1"


@pytest.fixture
def bridge(session: Session) -> Iterator[Bridge]:
    made = Bridge(session)
    yield made
    made.close()


@pytest.mark.parametrize("way", ["ask", "work"])
def test_an_answer_that_comes_after_a_later_one_is_passed_over(qtbot: QtBot, bridge: Bridge, way: str) -> None:
    asking, gate = LastAsked(bridge), Event()
    ask: Callable[..., None] = getattr(asking, way)
    told: list[object] = []
    ask(lambda _reader: gate.wait(WAIT_S) and "first", told.append)
    ask(lambda _reader: "second", told.append)
    qtbot.waitUntil(lambda: told == ["second"], timeout=PATIENCE_MS)
    gate.set()
    bridge.ask(lambda _reader: gate.wait(WAIT_S) and "behind all", told.append)
    qtbot.waitUntil(lambda: "behind all" in told, timeout=PATIENCE_MS)
    assert told == ["second", "behind all"]


def test_what_failed_is_told_only_of_what_was_asked_last(qtbot: QtBot, bridge: Bridge) -> None:
    asking, gate = LastAsked(bridge), Event()
    said: list[str] = []
    bridge.complain = lambda error: said.append(error.message)

    def fail(what: str) -> Callable[[Reader], str]:
        def query(_reader: Reader) -> str:
            gate.wait(WAIT_S)  # an answer that is there at once is told at once, before the next is asked
            raise UserError("no", what)

        return query

    asking.ask(fail("first"), said.append)
    asking.ask(fail("second"), said.append)
    gate.set()
    qtbot.waitUntil(lambda: said == ["second"], timeout=PATIENCE_MS)
    asking.ask(fail("third"), said.append, lambda error: said.append(f"{error.message}, said beside it"))
    qtbot.waitUntil(lambda: said == ["second", "third, said beside it"], timeout=PATIENCE_MS)
    gate.clear()
    asking.ask(fail("not wanted any more"), said.append)
    asking.forget()
    gate.set()
    bridge.ask(fail("behind all"), said.append)
    qtbot.waitUntil(lambda: said[-1] == "behind all", timeout=PATIENCE_MS)
    assert len(said) == 3


def test_files_are_written_in_the_order_in_which_it_was_asked_for(
    qtbot: QtBot, session: Session, bridge: Bridge, tmp_path: Path
) -> None:
    path, gate = tmp_path / "said", Event()
    failed: list[MagpieError] = []

    def write(text: str) -> None:
        if text == "first":
            gate.wait(WAIT_S)
        path.write_text(text)

    def refuse() -> None:
        raise UserError("no", "It cannot be.")

    for text in ("first", "second"):
        bridge.write(lambda text=text: write(text))  # type: ignore[misc]
    bridge.write(refuse, None, failed.append)
    gate.set()
    qtbot.waitUntil(lambda: bool(failed), timeout=PATIENCE_MS)
    assert path.read_text() == "second"
    bridge.write(lambda: write("while the window closes"))
    bridge.close()
    session.lanes.close()
    assert path.read_text() == "while the window closes"


def test_what_is_told_of_a_change_takes_back_that_change_alone(qtbot: QtBot, session: Session, bridge: Bridge) -> None:
    (first, second) = (session.do(AddEntry(PLACE, title, {})) for title in ("The weir", "The dam"))
    steps: list[tuple[str, int]] = []

    def change(text: str) -> None:
        bridge.do(SetText(PLACE, [first], "title", text), lambda _warning: steps.append((text, bridge.last_step)))

    for text in ("Weir", "Weir", "The old weir"):  # the second changes nothing
        change(text)
    bridge.do(SetText(PLACE, [second], "title", "Dam"))
    qtbot.waitUntil(lambda: len(steps) == 3, timeout=PATIENCE_MS)
    labels = {step.id: step.label for step in session.reader.steps()}
    assert [(text, labels.get(step, "")) for text, step in steps] == [
        ("Weir", "Change title of “The weir”"), ("Weir", ""), ("The old weir", "Change title of “Weir”"),
    ]  # fmt: skip
    assert bridge.last_step == 0


def test_a_template_is_shown_as_it_is_now_though_it_was_asked_for_before(
    qtbot: QtBot, window: MainWindow, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    session.do(SaveTemplate(Template("Mine", "Sources")))
    window.go(TEMPLATES)
    shown = window.stack.templates
    qtbot.waitUntil(lambda: "Mine" in shown.list.names(), timeout=PATIENCE_MS)
    shown.open("Mine")
    qtbot.waitUntil(lambda: shown.template is not None and shown.template.name == "Mine", timeout=PATIENCE_MS)
    gate, held = Event(), iter([True])

    def slow(reader: Reader) -> model.KnownTemplates:
        known = model.look(reader)
        if next(held, False):  # it has looked, and its answer comes late
            gate.wait(WAIT_S)
        return known

    monkeypatch.setattr(station, "look", slow)
    shown.fill()
    session.do(SaveTemplate(Template("Mine", "Sources", tags=("tide",)), "Mine"))
    qtbot.waitUntil(lambda: shown.template is not None and shown.template.tags == ("tide",), timeout=PATIENCE_MS)
    answers: list[str] = []
    gate.set()
    window.bridge.ask(lambda _reader: "behind all", answers.append)
    qtbot.waitUntil(lambda: bool(answers), timeout=PATIENCE_MS)
    assert shown.template is not None
    assert shown.template.tags == ("tide",)


def test_what_becomes_of_an_address_is_not_written_over_by_what_was_asked_before(
    qtbot: QtBot, window: MainWindow, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    number = session.do(MakeList("Mills", [("http://mill.example/1", ""), ("http://mill.example/2", "")]))
    gate, items = Event(), ListQueries.items

    def slow(self: ListQueries, number: int) -> list[ListItem]:
        found = items(self, number)
        gate.wait(WAIT_S)
        return found

    monkeypatch.setattr(ListQueries, "items", slow)
    window.lists.open(number)
    page = window.lists.page
    assert isinstance(page, ListPage)
    failed = ListItem(2, "http://mill.example/2", "", ItemState.FAILED, "It is not there.")
    session.do(NoteItems(number, [failed]))
    qtbot.waitUntil(lambda: page.told_since == {2: failed}, timeout=PATIENCE_MS)
    gate.set()
    qtbot.waitUntil(lambda: page.table.rowCount() == 2, timeout=PATIENCE_MS)
    said = page.table.item(1, 2)
    assert said is not None
    assert said.text() == "It is not there."
    page.close()
