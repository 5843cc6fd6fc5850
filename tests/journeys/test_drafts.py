"""Nothing that a person did on a slip is lost: other addresses, Back, Reload, closing, a crash; and nothing is asked twice."""

import os
import signal
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QImage, QMouseEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from conftest import HERON
from driving import PATIENCE_MS, notice_button, open_page, text_of, type_address
from helpers import undo_label
from wily_magpie.core.commands.capture import KeepSlip
from wily_magpie.core.commands.entries import AddEntry, ChangeEntry
from wily_magpie.core.commands.marks import PutMark
from wily_magpie.core.entries.kept import Kept
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.demo.server import StandInWeb
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import CAPTURE, SOURCES
from wily_magpie.qt.stations.capture.model import Phase

LEXICON = "http://estuarine-lexicon.example/tide-mill"
CONTROL = Qt.KeyboardModifier.ControlModifier


def type_summary(qtbot: QtBot, window: MainWindow, text: str = "Mine") -> None:
    card = window.stack.capture.card
    line = card.fields.enter("summary")
    assert line.editor.area is not None
    qtbot.keyClicks(line.editor.area, text)


def mark(window: MainWindow, words: str, kind: str = "idea") -> None:
    window.stack.capture.marking.add(kind, {"exact": words, "prefix": "", "suffix": "", "picture": ""})


def waits(qtbot: QtBot, session: Session, count: int = 1) -> None:
    qtbot.waitUntil(lambda: len(session.reader.drafts.waiting()) == count, timeout=PATIENCE_MS)


def wait_ready(qtbot: QtBot, window: MainWindow, address: str) -> None:
    station = window.stack.capture

    def is_there() -> bool:
        slip = station.card.slip
        return slip is not None and slip.reading.page.address == address and station.model.phase is Phase.READY

    qtbot.waitUntil(is_there, timeout=PATIENCE_MS)


def wait_settled(qtbot: QtBot, window: MainWindow) -> None:
    model = window.stack.capture.model
    qtbot.waitUntil(lambda: not model.is_updating and not model.changes, timeout=PATIENCE_MS)


def begin(qtbot: QtBot, window: MainWindow) -> None:
    """A slip that is touched: a summary, and a mark."""
    open_page(qtbot, window, HERON)
    type_summary(qtbot, window)
    mark(window, "the sluice was raised")
    wait_settled(qtbot, window)


def is_as_left(window: MainWindow) -> bool:
    card = window.stack.capture.card
    return (
        card.slip is not None
        and text_of(window, "summary") == "Mine"
        and [one.exact for one in card.slip.marks] == ["the sluice was raised"]
    )


def other_address(qtbot: QtBot, window: MainWindow) -> None:
    window.top.address.clear()
    type_address(qtbot, window, LEXICON)
    wait_ready(qtbot, window, LEXICON)
    window.top.address.clear()
    type_address(qtbot, window, HERON)


def back(qtbot: QtBot, window: MainWindow) -> None:
    window.stack.capture.open(LEXICON)
    wait_ready(qtbot, window, LEXICON)
    qtbot.mouseClick(window.stack.capture.back, Qt.MouseButton.LeftButton)


def reload(qtbot: QtBot, window: MainWindow) -> None:
    number = window.stack.capture.model.number
    qtbot.mouseClick(window.stack.capture.reload, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.stack.capture.model.number > number, timeout=PATIENCE_MS)


def other_station(qtbot: QtBot, window: MainWindow) -> None:
    window.go(SOURCES)
    window.go(CAPTURE)


def other_place(qtbot: QtBot, window: MainWindow) -> None:
    box = window.stack.capture.card.head.place
    for key in ("notes:1", "collection:1"):
        box.pick(key)
        qtbot.waitUntil(lambda key=key: window.stack.capture.card.slip.place == key, timeout=PATIENCE_MS)  # type: ignore[misc, union-attr]
        wait_settled(qtbot, window)


def other_template(qtbot: QtBot, window: MainWindow) -> None:
    box = window.stack.capture.card.head.template
    for name in ("Video", "Article"):
        box.pick(name)
        wait_settled(qtbot, window)


@pytest.mark.parametrize("leave", [other_address, back, reload, other_station, other_place, other_template])
def test_a_touched_slip_comes_back_as_it_was(
    qtbot: QtBot,
    window: MainWindow,
    session: Session,
    notes_path: Path,
    leave: Callable[[QtBot, MainWindow], None],
) -> None:
    session.look_around(is_own=True)
    begin(qtbot, window)
    leave(qtbot, window)
    wait_ready(qtbot, window, HERON)
    qtbot.waitUntil(lambda: is_as_left(window), timeout=PATIENCE_MS)
    if leave in (other_address, back):
        assert window.stack.capture.card.head.draft_strip.isVisible()
    waits(qtbot, session)
    qtbot.keyClick(window, Qt.Key.Key_Return, CONTROL)
    waits(qtbot, session, 0)
    place = session._library.place("Sources")
    entry = place.entry(place.listing(Question()).ids[0])
    assert entry is not None
    assert entry.value("summary") == "Mine"
    assert [one.exact for one in session.reader.entries.marks(place.key, entry.id)] == ["the sluice was raised"]


@pytest.mark.parametrize(
    "act",
    [
        lambda window: mark(window, "the sluice was raised"),
        lambda window: window.stack.capture.model.choose_place("notes:1"),
        lambda window: window.stack.capture._on_blocks(window.stack.capture.card.slip, [2], False),
    ],
    ids=["a mark on the page", "another place", "a block left out"],
)
def test_what_was_done_without_typing_is_written_down_too(
    qtbot: QtBot, window: MainWindow, session: Session, notes_path: Path, act: Callable[[MainWindow], None]
) -> None:
    open_page(qtbot, window, HERON)
    qtbot.waitUntil(lambda: window.bridge.overview.find_place("notes:1") is not None, timeout=PATIENCE_MS)
    wait_settled(qtbot, window)
    act(window)
    waits(qtbot, session)


def test_a_draft_waits_in_the_tray_is_dropped_and_brought_back(
    qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    begin(qtbot, window)
    waits(qtbot, session)
    qtbot.waitUntil(lambda: window.tray.text() == "1 begun", timeout=PATIENCE_MS)
    window.stack.capture.open(LEXICON)
    wait_ready(qtbot, window, LEXICON)
    qtbot.mouseClick(window.tray, Qt.MouseButton.LeftButton)
    buttons = {one.text() or one.accessibleName(): one for one in window.tray.panel.findChildren(QPushButton)}
    qtbot.mouseClick(buttons["Go on"], Qt.MouseButton.LeftButton)
    wait_ready(qtbot, window, HERON)
    assert is_as_left(window)
    window.tray.drop(window.tray.drafts[0])
    waits(qtbot, session, 0)
    qtbot.waitUntil(window.notice.isVisible, timeout=PATIENCE_MS)
    qtbot.mouseClick(notice_button(window, "Bring it back"), Qt.MouseButton.LeftButton)
    waits(qtbot, session)


def test_a_draft_of_a_page_that_is_gone_is_shown_all_the_same(
    qtbot: QtBot, window: MainWindow, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    begin(qtbot, window)
    waits(qtbot, session)
    window.stack.capture.open(LEXICON)
    wait_ready(qtbot, window, LEXICON)
    station = window.stack.capture
    assert station.view is not None
    monkeypatch.setattr(station.view.gate, "proxy_for", lambda _address: "http://127.0.0.1:9")
    station.open(HERON)
    qtbot.waitUntil(lambda: station.card.slip is not None, timeout=PATIENCE_MS)
    assert is_as_left(window)


def test_closing_the_window_keeps_the_draft(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    open_page(qtbot, window, HERON)
    type_summary(qtbot, window)
    window.close()
    waits(qtbot, session)


def test_beginning_anew_can_be_taken_back(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    begin(qtbot, window)
    other_address(qtbot, window)
    wait_ready(qtbot, window, HERON)
    qtbot.mouseClick(window.stack.capture.card.head.draft_strip.button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: text_of(window, "summary") == "", timeout=PATIENCE_MS)
    wait_settled(qtbot, window)
    qtbot.mouseClick(notice_button(window, "Bring it back"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: is_as_left(window), timeout=PATIENCE_MS)


def test_a_crash_keeps_the_draft(
    qtbot: QtBot, window: MainWindow, session: Session, web: StandInWeb, tmp_path: Path
) -> None:
    code = (Path(__file__).parent / "draft_window.py").as_posix()
    child = subprocess.Popen(
        [sys.executable, code, str(session.folder), web.proxy, HERON, str(tmp_path)],
        stdout=subprocess.PIPE, env={**os.environ}, text=True,
    )  # fmt: skip
    assert child.stdout is not None
    assert child.stdout.readline().strip() == "typed"
    waits(qtbot, session)
    os.kill(child.pid, signal.SIGKILL)
    child.wait()
    child.stdout.close()
    qtbot.waitUntil(lambda: window.tray.text() == "1 begun", timeout=PATIENCE_MS)
    open_page(qtbot, window, HERON)
    assert text_of(window, "summary") == "Typed before the end"


def test_undo_of_keeping_gives_the_slip_back(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    begin(qtbot, window)
    qtbot.keyClick(window, Qt.Key.Key_Return, CONTROL)
    qtbot.waitUntil(lambda: window.stack.capture.card.slip.known is not None, timeout=PATIENCE_MS)  # type: ignore[union-attr]
    wait_settled(qtbot, window)
    assert window.stack.capture.card.foot.keep.text() == "Add to it"
    window.undo()
    qtbot.waitUntil(lambda: window.stack.capture.card.slip.known is None, timeout=PATIENCE_MS)  # type: ignore[union-attr]
    qtbot.waitUntil(lambda: is_as_left(window), timeout=PATIENCE_MS)


def test_keeping_before_the_slip_is_ready_waits_and_keeps(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    type_address(qtbot, window, HERON)
    qtbot.keyClick(window, Qt.Key.Key_Return, CONTROL)
    assert window.stack.capture.card.slip is None
    assert "kept as soon as" in window.stack.capture.state.text()
    qtbot.waitUntil(lambda: (undo_label(session) or "").startswith("Keep “Heron Mill"), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: window.stack.capture.state.text() == "", timeout=PATIENCE_MS)


def test_a_page_to_be_kept_that_is_left_before_it_came_is_kept_for_later(
    qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    type_address(qtbot, window, HERON)
    qtbot.keyClick(window, Qt.Key.Key_Return, CONTROL)
    type_address(qtbot, window, LEXICON)
    reader = session.reader.entries

    def kept() -> list[str]:
        return [reader.entry("collection:1", one).title for one in reader.listing("collection:1", Question()).ids]  # type: ignore[union-attr]

    qtbot.waitUntil(lambda: kept() == [HERON], timeout=PATIENCE_MS)


def test_the_next_address_is_typed_over_the_last_and_is_not_typed_over_by_the_page(
    qtbot: QtBot, window: MainWindow
) -> None:
    type_address(qtbot, window, HERON)
    line = window.top.address
    assert line.selectedText() == line.text()
    qtbot.keyClicks(line, "mill wheels")
    window.stack.address_changed.emit(f"{HERON}?part=2")  # the page has gone on meanwhile
    assert line.text() == "mill wheels"


def known_page(session: Session) -> Kept:
    slip = session.reader.slips.slip(read_page(session.fetcher.page(HERON)))
    kept = session.do(KeepSlip(slip))
    session.do(PutMark(kept.place, kept.entry_id, Mark("the sluice was raised", "question")))
    entry = session.reader.entries.entry(kept.place, kept.entry_id)
    assert entry is not None
    session.do(ChangeEntry(kept.place, kept.entry_id, {"title": "As I call it"}, f"My own.\n\n{entry.body}"))
    return kept


def test_a_kept_page_shows_its_entry_and_is_added_to(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    kept = known_page(session)
    open_page(qtbot, window, HERON)
    card = window.stack.capture.card
    assert card.text.body.text().startswith("My own.")
    assert [one.exact for one in card.marks.marks] == ["the sluice was raised"]
    mark(window, "Then one paddle dipped")
    wait_settled(qtbot, window)
    qtbot.mouseClick(card.foot.keep, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: (undo_label(session) or "").startswith("Add to"), timeout=PATIENCE_MS)
    entry = session.reader.entries.entry(kept.place, kept.entry_id)
    assert entry is not None
    assert (entry.title, (entry.body or "")[:7]) == ("As I call it", "My own.")
    marks = session.reader.entries.marks(kept.place, kept.entry_id)
    assert [one.exact for one in marks] == ["the sluice was raised", "Then one paddle dipped"]


def test_an_update_is_chosen_by_ticks(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    kept = known_page(session)
    open_page(qtbot, window, HERON)
    card = window.stack.capture.card
    qtbot.mouseClick(card.foot.update_entry, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: card.stack.currentWidget() is card.changes, timeout=PATIENCE_MS)
    ticks = {tick.text(): tick for tick in card.changes.ticks}
    assert {name: tick.isChecked() for name, tick in ticks.items()} == {
        "Title: changed": False,
        "Text: gone from the page": False,
    }
    ticks["Title: changed"].setChecked(True)
    qtbot.mouseClick(card.changes.apply, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: (undo_label(session) or "").startswith("Update"), timeout=PATIENCE_MS)
    entry = session.reader.entries.entry(kept.place, kept.entry_id)
    assert entry is not None
    assert (entry.title, (entry.body or "")[:7]) == ("Heron Mill turns again after ninety years", "My own.")
    qtbot.waitUntil(card.foot.isVisible, timeout=PATIENCE_MS)


def test_keep_in_is_filtered_by_typing_and_never_runs_into_an_action(
    qtbot: QtBot, window: MainWindow, session: Session, notes_path: Path
) -> None:
    session.look_around(is_own=True)
    open_page(qtbot, window, HERON)
    box = window.stack.capture.card.head.place
    line = box.lineEdit()
    assert line is not None
    line.setFocus()
    line.selectAll()
    qtbot.keyClicks(line, "teboo")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.stack.capture.card.slip.place == "notes:1", timeout=PATIENCE_MS)  # type: ignore[union-attr]
    for _ in range(6):
        qtbot.keyClick(box, Qt.Key.Key_Down)
    assert QApplication.activeModalWidget() is None
    line.selectAll()
    qtbot.keyClicks(line, "no such place")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert "There is no place “no such place”" in window.stack.capture.card.foot.problem.text()
    assert line.text() in ("Notebook", "Sources")


def live_widget(window: MainWindow) -> QWidget:
    view = window.stack.capture.view
    assert view is not None
    target = view.view.focusProxy()
    assert target is not None
    return target


def place_of_words(qtbot: QtBot, window: MainWindow, words: str, *, is_chosen: bool = False) -> QPoint:
    """Where in the live page some words stand; they are chosen, if wanted."""
    view = window.stack.capture.view
    assert view is not None
    script = f"""(() => {{
      const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
      for (let node = walker.nextNode(); node; node = walker.nextNode()) {{
        const at = node.data.indexOf({words!r});
        if (at < 0) continue;
        const range = document.createRange();
        range.setStart(node, at); range.setEnd(node, at + {len(words)});
        node.parentElement.scrollIntoView();
        if ({str(is_chosen).lower()}) {{ getSelection().removeAllRanges(); getSelection().addRange(range); }}
        const box = range.getClientRects()[0];
        return `${{Math.round(box.x + 4)}} ${{Math.round(box.y + box.height / 2)}}`;
      }}
    }})()"""
    found: list[str] = []
    view.page.runJavaScript(script, 1, lambda answer: found.append(str(answer)))
    qtbot.waitUntil(lambda: bool(found), timeout=PATIENCE_MS)
    return QPoint(*map(int, found[0].split()))


def test_sentences_and_pictures_are_marked_by_mouse_and_keys(qtbot: QtBot, window: MainWindow) -> None:
    open_page(qtbot, window, HERON)
    station = window.stack.capture
    card = station.card
    qtbot.keyClick(window, Qt.Key.Key_F8)
    assert station.marking.is_on
    at = place_of_words(qtbot, window, "Then one paddle")
    qtbot.mouseClick(live_widget(window), Qt.MouseButton.LeftButton, pos=at)
    qtbot.waitUntil(lambda: len(card.marks.marks) == 1, timeout=PATIENCE_MS)
    first = card.marks.marks[0]
    assert first.exact.startswith("Then one paddle dipped")
    assert first.exact.endswith("began to cheer.")
    assert first.prefix.endswith(" ")

    assert station.view is not None
    told: list[object] = []
    station.view.ask_marking("turn(true)")
    station.view.page.runJavaScript("document.querySelector('figure img').scrollIntoView()", 1, told.append)
    qtbot.waitUntil(lambda: bool(told), timeout=PATIENCE_MS)
    target = live_widget(window)
    for _ in range(12):  # from block to block, to the picture
        qtbot.keyClick(target, Qt.Key.Key_Up)
    for _ in range(30):
        qtbot.keyClick(target, Qt.Key.Key_Down)
        qtbot.keyClick(target, Qt.Key.Key_4)
        qtbot.wait(60)
        if any(one.picture for one in card.marks.marks):
            break
    picture = next(one for one in card.marks.marks if one.picture)
    assert picture.picture.endswith("/pictures/heron-mill.svg")
    assert picture.kind == "idea"
    wait_settled(qtbot, window)
    order = [one.exact[:8] for one in card.marks.marks]
    assert order.index(picture.exact[:8]) < order.index("Then one"), "in the order of the page"
    qtbot.keyClick(target, Qt.Key.Key_Escape)
    assert not station.marking.is_on


PICTURE_AT = """(() => { const one = document.querySelector('figure img'); one.scrollIntoView({ block: 'center' });
  const box = one.getBoundingClientRect(); return [box.x + box.width / 2, box.y + box.height / 2]; })()"""
MIDDLE_AT = """(() => { const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  for (let node = walk.nextNode(); node; node = walk.nextNode()) {
    const at = node.data.indexOf('Then one paddle'); if (at < 0) continue;
    node.parentElement.scrollIntoView({ block: 'center' });
    const range = document.createRange(); const out = [];
    for (const letter of [at + 2, at + 11]) { range.setStart(node, letter); range.setEnd(node, letter + 1);
      const box = range.getBoundingClientRect(); out.push(box.x + 1, box.y + box.height / 2); }
    return out; } })()"""


def asked(qtbot: QtBot, window: MainWindow, script: str) -> list[int]:
    told: list[list[float]] = []
    assert window.stack.capture.view
    window.stack.capture.view.page.runJavaScript(script, 1, told.append)
    qtbot.waitUntil(lambda: bool(told), timeout=PATIENCE_MS)
    return [round(one) for one in told[0]]


def test_a_picture_is_marked_after_a_sentence_and_letters_after_a_key_are_its_comment(
    qtbot: QtBot, window: MainWindow
) -> None:
    open_page(qtbot, window, HERON)
    card = window.stack.capture.card
    qtbot.keyClick(window, Qt.Key.Key_F8)
    qtbot.mouseClick(
        live_widget(window), Qt.MouseButton.LeftButton, pos=place_of_words(qtbot, window, "Then one paddle")
    )
    qtbot.waitUntil(lambda: len(card.marks.marks) == 1, timeout=PATIENCE_MS)
    wait_settled(qtbot, window)
    x, y = asked(qtbot, window, PICTURE_AT)
    qtbot.mouseClick(live_widget(window), Qt.MouseButton.LeftButton, pos=QPoint(x, y))
    qtbot.waitUntil(lambda: any(one.picture for one in card.marks.marks), timeout=PATIENCE_MS)
    wait_settled(qtbot, window)
    qtbot.keyClick(live_widget(window), Qt.Key.Key_Down)
    qtbot.keyClick(live_widget(window), Qt.Key.Key_3)
    qtbot.waitUntil(lambda: len(card.marks.marks) == 3, timeout=PATIENCE_MS)
    qtbot.keyClicks(live_widget(window), "s")
    qtbot.waitUntil(lambda: isinstance(window.focusWidget(), QLineEdit), timeout=PATIENCE_MS)
    line = window.focusWidget()
    assert isinstance(line, QLineEdit)
    qtbot.keyClicks(line, "o it is")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: any(one.comment == "so it is" for one in card.marks.marks), timeout=PATIENCE_MS)


def drag(target: QWidget, held: Qt.KeyboardModifier, *points: QPointF) -> None:
    kinds = [QEvent.Type.MouseButtonPress, *[QEvent.Type.MouseMove] * (len(points) - 1), QEvent.Type.MouseButtonRelease]
    for kind, point in zip(kinds, (*points, points[-1]), strict=True):
        button = Qt.MouseButton.NoButton if kind is QEvent.Type.MouseMove else Qt.MouseButton.LeftButton
        down = Qt.MouseButton.NoButton if kind is QEvent.Type.MouseButtonRelease else Qt.MouseButton.LeftButton
        QApplication.sendEvent(target, QMouseEvent(kind, point, target.mapToGlobal(point), button, down, held))


def test_a_mark_never_ends_within_a_word_unless_it_is_dragged_with_care(qtbot: QtBot, window: MainWindow) -> None:
    open_page(qtbot, window, HERON)
    card, target = window.stack.capture.card, live_widget(window)
    qtbot.keyClick(window, Qt.Key.Key_F8)
    x, y, to_x, to_y = asked(qtbot, window, MIDDLE_AT)
    for held, words in (
        (Qt.KeyboardModifier.NoModifier, "one paddle"),
        (Qt.KeyboardModifier.AltModifier, "one pa"),
    ):
        drag(target, held, QPointF(x, y), QPointF((x + to_x) / 2, y), QPointF(to_x, to_y))
        qtbot.waitUntil(
            lambda words=words: any(one.exact.endswith(words) for one in card.marks.marks),  # type: ignore[misc]
            timeout=PATIENCE_MS,
        )
        wait_settled(qtbot, window)


def test_a_text_cursor_marks_words_and_what_was_marked_is_taken_back(qtbot: QtBot, window: MainWindow) -> None:
    open_page(qtbot, window, LEXICON)
    station = window.stack.capture
    card = station.card
    qtbot.keyClick(window, Qt.Key.Key_F8)
    target = live_widget(window)
    qtbot.keyClick(target, Qt.Key.Key_Down)
    qtbot.keyClick(target, Qt.Key.Key_Down)
    qtbot.keyClick(target, Qt.Key.Key_F7)
    for _ in range(3):
        qtbot.keyClick(target, Qt.Key.Key_Right, CONTROL | Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(target, Qt.Key.Key_2)
    qtbot.waitUntil(lambda: len(card.marks.marks) == 1, timeout=PATIENCE_MS)
    assert card.marks.marks[0].kind == "quotation"
    assert 1 <= len(card.marks.marks[0].exact.split()) <= 4
    wait_settled(qtbot, window)
    card.marks.taken_back.emit()
    qtbot.waitUntil(lambda: card.marks.marks == (), timeout=PATIENCE_MS)


def test_a_right_click_has_our_own_menu(qtbot: QtBot, window: MainWindow) -> None:
    open_page(qtbot, window, HERON)
    station = window.stack.capture
    at = place_of_words(qtbot, window, "About sixty people", is_chosen=True)
    target = live_widget(window)
    qtbot.mouseClick(target, Qt.MouseButton.RightButton, pos=at)
    qtbot.waitUntil(lambda: station.menu.shown is not None, timeout=PATIENCE_MS)
    menu = station.menu.shown
    assert menu is not None
    names = [action.text() for action in menu.actions()]
    assert "Mark as evidence" in names
    assert not any("ave page" in name or "iew source" in name for name in names)
    fields = next(action.menu() for action in menu.actions() if action.text().startswith("Take “"))
    assert fields is not None
    site = next(action for action in fields.actions() if action.text() == "Site")
    site.trigger()
    menu.close()
    assert text_of(window, "site") == "About sixty people"
    assert station.card.slip is not None


def test_a_name_that_is_not_there_yet_is_told_before_it_is_made(
    qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    session.do(AddEntry("collection:1", "The ebb", {"authors": ("Strick, Wenna",)}))
    open_page(qtbot, window, LEXICON)
    line = window.stack.capture.card.fields.enter("authors")
    assert line.editor.line is not None
    qtbot.waitUntil(lambda: line.editor.known == ["Strick, Wenna"], timeout=PATIENCE_MS)
    line.editor.line.selectAll()
    qtbot.keyClicks(line.editor.line, "Wenna Strik")
    assert line.editor.told.text() == "new: Strik, Wenna; did you mean Strick, Wenna?"
    assert line.editor.told.isVisible()
    line.editor.line.selectAll()
    qtbot.keyClicks(line.editor.line, "Wenna Strick")
    assert not line.editor.told.isVisible()


def test_a_place_is_made_for_a_page_with_proposed_fields(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    open_page(qtbot, window, HERON)
    card = window.stack.capture.card
    qtbot.mouseClick(card.head.new_place, Qt.MouseButton.LeftButton)
    page = window.stack.capture.making.page
    ticked = [plan.key for (plan, _), (tick, _) in zip(page.plans, page.lines, strict=True) if tick.isChecked()]
    assert {"address", "authors", "published"} <= set(ticked)
    page.name.setText("Heron papers")
    qtbot.mouseClick(page.done_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: card.head.place.currentText() == "Heron papers", timeout=PATIENCE_MS)
    assert undo_label(session) == "New collection Heron papers"
    fields = {field.key: field.kind.name for field in session.place("Heron papers").fields}
    assert (fields["authors"], fields["published"]) == ("people", "date")


def test_all_that_the_page_says_goes_into_the_field_one_was_in(qtbot: QtBot, window: MainWindow) -> None:
    open_page(qtbot, window, HERON)
    card = window.stack.capture.card
    card.fields.enter("summary")
    qtbot.mouseClick(card.fields.drawer, Qt.MouseButton.LeftButton)
    findings = card.text.findings
    qtbot.keyClicks(findings.search, "language")
    qtbot.keyClick(findings.list, Qt.Key.Key_Return)
    assert text_of(window, "summary") == "en"
    assert card.lines["summary"].letters.text() != "you", "it came from the page"


def test_pictures_of_the_page_are_taken_and_kept(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    open_page(qtbot, window, HERON)
    station = window.stack.capture
    assert station.view is not None
    station.shots.take_visible()
    wait_settled(qtbot, window)
    station.shots.take_whole()
    qtbot.waitUntil(lambda: len(station.card.slip.shots) == 2, timeout=PATIENCE_MS)  # type: ignore[union-attr]
    station.shots.take_part()
    target = live_widget(window)
    qtbot.mousePress(target, Qt.MouseButton.LeftButton, pos=QPoint(50, 60))
    qtbot.mouseMove(target, QPoint(250, 160))
    qtbot.mouseRelease(target, Qt.MouseButton.LeftButton, pos=QPoint(250, 160))
    qtbot.waitUntil(lambda: len(station.card.slip.shots) == 3, timeout=PATIENCE_MS)  # type: ignore[union-attr]
    assert station.card.slip is not None
    visible, whole, part = (QImage.fromData(shot) for shot in station.card.slip.shots)
    assert whole.height() > visible.height()
    assert whole.width() == visible.width()
    assert (part.width(), part.height()) == (201, 101)
    assert "3 pictures of the page" in station.card.foot.makes.text()
    qtbot.keyClick(window, Qt.Key.Key_Return, CONTROL)
    qtbot.waitUntil(lambda: station.card.slip.known is not None, timeout=PATIENCE_MS)  # type: ignore[union-attr]
    files = station.card.slip.known.value("files")  # type: ignore[union-attr]
    assert isinstance(files, tuple)
    assert len(files) == 3
