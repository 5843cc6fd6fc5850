"""The Read station driven by mouse and keyboard: marks are set, changed, dragged and taken away, and quoted elsewhere."""

from collections.abc import Callable
from dataclasses import replace

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication, QTextCursor
from PyQt6.QtWidgets import QDoubleSpinBox, QPushButton, QTextEdit, QToolButton
from pytestqt.qtbot import QtBot

from helpers import undo
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.marks import PutMark
from wily_magpie.core.commands.places import ChangePlace
from wily_magpie.core.entries.hyphens import SOFT
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.places.api import Place
from wily_magpie.core.session.session import Session
from wily_magpie.qt.editors.mark_row import MarkRow
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.marked_text import Words, chosen_in, cursor_at
from wily_magpie.qt.page_html import sheet
from wily_magpie.qt.station_stack import READ
from wily_magpie.qt.stations.read.queue import STATUS_ROLE
from wily_magpie.qt.stations.read.side import FIELDS
from wily_magpie.qt.stations.read.station import ReadStation
from wily_magpie.qt.style.reading_look import ReadingLook
from wily_magpie.qt.style.tokens import DARK, UI_FONT

PATIENCE_MS = 15_000
LEFT = Qt.MouseButton.LeftButton
SHIFTED = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
BODY = """# The weir

The weir was raised in 1298. Nobody knows by whom.

> The mill stood *idle* for [a year](https://mills.example/idle).

The weir was raised in 1298, says the second charter. 🐦 The magpie sat on it.
"""


@pytest.fixture
def sources(session: Session) -> Place:
    """Two entries with texts, the first of a known address."""
    values = {"address": "https://mills.example/weir", "published": "1998"}
    session.do(AddEntry("collection:1", "The weir", values, BODY))
    session.do(AddEntry("collection:1", "The bridge", {}, "The bridge fell twice."))
    return session._library.place("Sources")


@pytest.fixture
def station(window: MainWindow, sources: Place, qtbot: QtBot) -> ReadStation:
    """The weir is open for reading."""
    window.resize(1280, 800)
    window.show()
    window.read_entry(sources.key, 1, [1, 2])
    station = window.stack.read
    qtbot.waitUntil(lambda: station.entry is not None and station.entry.title == "The weir", timeout=PATIENCE_MS)
    assert window.stack.currentIndex() == READ
    qtbot.waitUntil(lambda: not station.view.rest.isActive(), timeout=PATIENCE_MS)  # laid out for this size
    return station


@pytest.fixture
def marks(session: Session, sources: Place) -> Callable[[], list[tuple[str, str, str]]]:
    """Passage, kind and comment of the marks that are kept."""
    return lambda: [
        (one.exact, one.kind, one.comment) for one in session.reader.entries.marks_of(sources.key, [1]).get(1, ())
    ]


def span(station: ReadStation, words: str, nth: int = 0) -> tuple[QPoint, QPoint]:
    """Where some words begin and end in the view."""
    text, at = Words(station.view).text, -1
    for _ in range(nth + 1):
        at = text.index(words, at + 1)
    ends = []
    for position in (at, at + len(words)):
        cursor = QTextCursor(station.view.document())
        cursor.setPosition(len(text[:position].encode("utf-16-le")) // 2)
        ends.append(station.view.cursorRect(cursor).center())
    return ends[0], ends[1]


def drag(station: ReadStation, qtbot: QtBot, start: QPoint, end: QPoint) -> None:
    """From a point of the text to another one, held down."""
    port = station.view.viewport()
    qtbot.mousePress(port, LEFT, pos=start)
    for at in (start + (end - start) / 2, end):
        qtbot.mouseMove(port, at)
    qtbot.mouseRelease(port, LEFT, pos=end)


def choose(station: ReadStation, qtbot: QtBot, words: str, nth: int = 0) -> None:
    drag(station, qtbot, *span(station, words, nth))


def click(station: ReadStation, qtbot: QtBot, words: str, nth: int = 0) -> None:
    start, _ = span(station, words, nth)
    qtbot.mouseClick(station.view.viewport(), LEFT, pos=start + QPoint(12, 0))


def test_marks_by_mouse(
    station: ReadStation, qtbot: QtBot, marks: Callable[[], list[tuple[str, str, str]]], session: Session
) -> None:
    """Words are chosen, marked with a kind of the strip, commented, made another kind, and taken away again."""
    strip = station.marking.strip
    choose(station, qtbot, "raised in 1298", nth=1)
    assert strip.isVisible()
    assert strip.geometry().bottom() < station.view.height()
    assert strip.remove.isHidden()
    qtbot.mouseClick(strip.buttons()[1], LEFT)
    qtbot.waitUntil(lambda: marks() == [("raised in 1298", "quotation", "")], timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: len(station.view.marked.placed) == 1, timeout=PATIENCE_MS)
    second = Words(station.view).text.rindex("raised in 1298")
    assert station.view.marked.placed[0][1].selectionStart() == second  # the second of them, which was the one chosen
    assert strip.isHidden()

    click(station, qtbot, "raised in 1298", nth=1)
    assert strip.isVisible()
    assert strip.buttons()[1].isChecked()
    assert strip.remove.isVisible()
    strip.comment.setFocus()
    qtbot.keyClicks(strip.comment, "by whom?")
    qtbot.keyClick(strip.comment, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: marks() == [("raised in 1298", "quotation", "by whom?")], timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: station.view.marked.placed[0][0].comment == "by whom?", timeout=PATIENCE_MS)

    click(station, qtbot, "raised in 1298", nth=1)
    qtbot.mouseClick(strip.buttons()[2], LEFT)
    qtbot.waitUntil(lambda: marks() == [("raised in 1298", "question", "by whom?")], timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: station.view.marked.placed[0][0].kind == "question", timeout=PATIENCE_MS)

    click(station, qtbot, "raised in 1298", nth=1)
    qtbot.mouseClick(strip.remove, LEFT)
    qtbot.waitUntil(lambda: marks() == [], timeout=PATIENCE_MS)
    undo(session)
    qtbot.waitUntil(lambda: marks() == [("raised in 1298", "question", "by whom?")], timeout=PATIENCE_MS)


def test_an_end_is_dragged(
    station: ReadStation, qtbot: QtBot, marks: Callable[[], list[tuple[str, str, str]]], session: Session
) -> None:
    """The open mark is taken by an end and made longer, with its comment; undone in one step."""
    choose(station, qtbot, "Nobody knows")
    qtbot.keyClicks(station.marking.strip.comment, "hm")
    qtbot.keyClick(station.marking.strip.comment, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: len(station.view.marked.placed) == 1, timeout=PATIENCE_MS)
    click(station, qtbot, "Nobody knows")
    assert station.marking.open is not None
    drag(station, qtbot, span(station, "Nobody knows")[1], span(station, "by whom")[1])
    qtbot.waitUntil(lambda: marks() == [("Nobody knows by whom", "evidence", "hm")], timeout=PATIENCE_MS)
    undo(session)
    qtbot.waitUntil(lambda: marks() == [("Nobody knows", "evidence", "hm")], timeout=PATIENCE_MS)


def test_marks_by_keyboard(station: ReadStation, qtbot: QtBot, marks: Callable[[], list[tuple[str, str, str]]]) -> None:
    """F7 gives a text cursor behind the facts; Shift and the arrows choose, a number marks, Delete takes away."""
    station.view.setFocus()
    station.desk.commands.bound["text-cursor"].run()
    at = station.view.textCursor()
    assert at.position() >= station.view.head_end() > 0
    for _ in range(8):
        qtbot.keyClick(station.view, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(station.view, Qt.Key.Key_4)
    qtbot.waitUntil(lambda: marks() == [("The weir", "idea", "")], timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: len(station.view.marked.placed) == 1, timeout=PATIENCE_MS)
    qtbot.keyClick(station.view, Qt.Key.Key_Left)
    qtbot.keyClick(station.view, Qt.Key.Key_Return)
    assert station.marking.open is not None
    assert station.window().focusWidget() is station.marking.strip.comment  # type: ignore[union-attr]
    qtbot.keyClick(station.marking.strip.comment, Qt.Key.Key_Escape)
    assert station.marking.strip.isHidden()
    qtbot.keyClick(station.view, Qt.Key.Key_Return)
    qtbot.keyClick(station.view, Qt.Key.Key_Delete)
    qtbot.waitUntil(lambda: marks() == [], timeout=PATIENCE_MS)


def test_a_typed_comment_is_not_lost(
    station: ReadStation, qtbot: QtBot, marks: Callable[[], list[tuple[str, str, str]]]
) -> None:
    """One goes on to the next entry without Return: the comment stands at the words it was typed for."""
    choose(station, qtbot, "The magpie sat")
    qtbot.keyClicks(station.marking.strip.comment, "on what?")
    station.turn(1)
    qtbot.waitUntil(lambda: marks() == [("The magpie sat", "evidence", "on what?")], timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: station.entry is not None and station.entry.title == "The bridge", timeout=PATIENCE_MS)
    assert station.marking.strip.isHidden()


def test_a_comment_is_kept_when_the_window_closes(
    station: ReadStation, qtbot: QtBot, marks: Callable[[], list[tuple[str, str, str]]], window: MainWindow
) -> None:
    choose(station, qtbot, "The magpie sat")
    qtbot.keyClicks(station.marking.strip.comment, "on what?")
    window.close()
    qtbot.waitUntil(lambda: marks() == [("The magpie sat", "evidence", "on what?")], timeout=PATIENCE_MS)


def test_the_facts_above_are_not_marked(
    station: ReadStation, qtbot: QtBot, marks: Callable[[], list[tuple[str, str, str]]], window: MainWindow
) -> None:
    """The title is a field of the entry, and no part of its text; it is said."""
    choose(station, qtbot, "The weir")
    qtbot.keyClick(station.view, Qt.Key.Key_1)
    assert "Only the kept text" in window.notice.text.text()
    assert marks() == []


def test_quoted_elsewhere(station: ReadStation, qtbot: QtBot) -> None:
    """What is chosen is copied with its source, as Markdown and as rich text."""
    choose(station, qtbot, "Nobody knows")
    station.desk.commands.bound["copy-quotation"].run()
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    source = "— [The weir](<https://mills.example/weir>) (1998) [@weir1998, § 1]"
    qtbot.waitUntil(lambda: clipboard.text() == f"> Nobody knows\n\n{source}\n", timeout=PATIENCE_MS)
    data = clipboard.mimeData()
    assert data is not None
    assert "<blockquote>Nobody knows</blockquote>" in data.html()
    assert '<a href="https://mills.example/weir">The weir</a>' in data.html()


def test_a_lost_mark_is_told(station: ReadStation, session: Session, sources: Place, qtbot: QtBot) -> None:
    """A mark whose words do not stand in the text any more is kept, and said."""
    session.do(PutMark(sources.key, 1, Mark("words that were struck out", comment="keep me")))
    qtbot.waitUntil(station.bar.lost.isVisible, timeout=PATIENCE_MS)
    assert station.bar.lost.text() == "1 mark lost its place"
    assert "words that were struck out" in station.bar.lost.toolTip()
    assert "keep me" in station.bar.lost.toolTip()
    station.desk.commands.bound["marks-list"].run()
    assert station.side.isVisible()
    assert station.bar.marks.text() == "Marks: 1"

    def rows() -> list[MarkRow]:
        return [one for one in station.side.marks.findChildren(MarkRow) if one.isVisible()]

    qtbot.waitUntil(lambda: len(rows()) == 1, timeout=PATIENCE_MS)
    (row,) = rows()
    assert row.comment.text() == "keep me"
    row.comment.setFocus()
    row.comment.selectAll()
    qtbot.keyClicks(row.comment, "still mine")
    qtbot.keyClick(row.comment, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "still mine" in station.bar.lost.toolTip(), timeout=PATIENCE_MS)


def statuses(session: Session, place: Place) -> dict[int, object]:
    return {one.id: one.value("status") for one in session.reader.entries.rows(place.key, [1, 2])}


def titles(station: ReadStation) -> list[str]:
    model = station.queue.model
    return [str(model.index(row).data()) for row in range(model.rowCount())]


def test_a_queue_is_read(
    station: ReadStation, session: Session, sources: Place, qtbot: QtBot, window: MainWindow
) -> None:
    """Done sets the status and leads on, Leave aside likewise; the queue shows it, and it can be taken back."""
    qtbot.waitUntil(lambda: titles(station) == ["The weir", "The bridge"], timeout=PATIENCE_MS)
    assert station.queue.told.text() == "Queue: 1 more"
    qtbot.mouseClick(station.queue.buttons[0], LEFT)
    qtbot.waitUntil(lambda: station.entry is not None and station.entry.title == "The bridge", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: statuses(session, sources)[1] == "read", timeout=PATIENCE_MS)
    model = station.queue.model
    qtbot.waitUntil(lambda: model.index(0).data(STATUS_ROLE) == "read", timeout=PATIENCE_MS)
    qtbot.keyClick(station.view, Qt.Key.Key_D, SHIFTED)
    qtbot.waitUntil(lambda: "That was the last of the queue" in window.notice.text.text(), timeout=PATIENCE_MS)
    assert statuses(session, sources) == {1: "read", 2: "left aside"}
    undo(session)
    qtbot.waitUntil(lambda: model.index(1).data(STATUS_ROLE) != "left aside", timeout=PATIENCE_MS)
    assert statuses(session, sources)[1] == "read"


def test_not_now_and_folded(station: ReadStation, qtbot: QtBot, window: MainWindow) -> None:
    """Not now puts the entry to the end, which can be taken back; the queue folds away, and stays so."""
    station.desk.commands.bound["not-now"].run()
    qtbot.waitUntil(lambda: station.entry is not None and station.entry.title == "The bridge", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: titles(station) == ["The bridge", "The weir"], timeout=PATIENCE_MS)
    first = station.queue.list.visualRect(station.queue.model.index(1)).center()
    qtbot.mouseClick(station.queue.list.viewport(), LEFT, pos=first)
    qtbot.waitUntil(lambda: station.entry is not None and station.entry.title == "The weir", timeout=PATIENCE_MS)
    station.desk.commands.bound["not-now"].run()
    assert "last of the queue already" in window.notice.text.text()
    station.desk.commands.bound["fold-queue"].run()
    assert station.queue.isHidden()
    station.turn(-1)
    qtbot.waitUntil(lambda: station.entry is not None and station.entry.title == "The bridge", timeout=PATIENCE_MS)
    assert station.queue.isHidden()
    station.desk.commands.bound["fold-queue"].run()
    assert station.queue.isVisible()


def test_a_status_that_is_not_there(
    station: ReadStation, qtbot: QtBot, session: Session, sources: Place, window: MainWindow
) -> None:
    """The person's word for Done is none of this place: nothing is set, one stays, and the way out is offered."""
    station.desk.person.set("done_status", "finished")
    station.desk.commands.bound["done"].run()
    assert "has no status “finished”: nothing was set" in window.notice.text.text()
    assert statuses(session, sources)[1] is None
    assert station.entry is not None
    assert station.entry.title == "The weir"


def test_letters_hold_at_once_and_are_kept(
    station: ReadStation, qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    """What is set in the panel is seen at once, at the place where one is, and stands in the person's file."""
    before = station.view.text_width()
    qtbot.mouseClick(station.bar.look, LEFT)
    panel = station.look_panel
    assert panel.isVisible()
    for name, value in (("reading_size_pt", 10.0), ("reading_measure", 40)):
        spin = panel.inputs[name]
        assert isinstance(spin, QDoubleSpinBox)
        spin.setValue(value)
    for name, at in (("reading_face", Qt.Key.Key_Down), ("reading_ground", Qt.Key.Key_End)):
        qtbot.keyClick(panel.inputs[name], at)
    qtbot.waitUntil(lambda: station.view.look.ground == "dark", timeout=PATIENCE_MS)
    assert (station.view.look.size_pt, station.view.look.measure, station.view.look.face) == (10, 40, UI_FONT)
    assert station.view.text_width() < before / 1.5
    assert DARK.ink in sheet(station.view.look)
    assert 'reading_ground = "dark"' in window.person.path.read_text()
    station.desk.commands.bound["larger-letters"].run()
    qtbot.waitUntil(lambda: station.view.look.size_pt == 10.5, timeout=PATIENCE_MS)
    qtbot.mouseClick(panel.usual, LEFT)
    qtbot.waitUntil(lambda: station.view.look == ReadingLook(), timeout=PATIENCE_MS)
    assert station.view.text_width() == before
    station.desk.commands.bound["larger-letters"].run()
    window.close()  # before what was set has rested
    session.lanes.close()
    assert "reading_size_pt" in window.person.path.read_text()


def test_how_long_and_how_far(station: ReadStation, session: Session, qtbot: QtBot) -> None:
    """Minutes to read, and how much of it was seen; the whole screen and back."""
    session.do(AddEntry("collection:1", "Long", {}, "The weir holds the water. " * 2_000))
    station.open(station.place, 3, [1, 2, 3])
    qtbot.waitUntil(lambda: station.bar.far.text().startswith("43 min to read"), timeout=PATIENCE_MS)
    bar = station.view.verticalScrollBar()
    assert bar is not None
    bar.setValue(bar.maximum())
    assert station.bar.far.text() == "43 min to read, 100% seen"


def test_one_goes_on_where_one_stopped(
    station: ReadStation, session: Session, qtbot: QtBot, window: MainWindow
) -> None:
    """Also at another width and with other letters, also after the entry was left in haste, and not after a search."""
    body = "\n\n".join(f"Paragraph {number} tells of weir {number}, and of its water." for number in range(400))
    body = body.replace("Paragraph 50 ", "## The ebb\n\nParagraph 50 ").replace(
        "Paragraph 90 ", "### Its turn\n\nParagraph 90 "
    )
    session.do(AddEntry("collection:1", "Long", {}, body))
    station.open(station.place, 3, [1, 2, 3])
    qtbot.waitUntil(lambda: station.entry is not None and station.entry.id == 3, timeout=PATIENCE_MS)

    def top() -> str:
        return station.view.cursorForPosition(QPoint(20, 8)).block().text()

    station.view.go_to(Words(station.view).text.index("Paragraph 217 ") - station.view.head_end())
    assert top().startswith("Paragraph 217 ")
    station.open(station.place, 2, [1, 2, 3])  # at once, before it was noted
    qtbot.waitUntil(lambda: station.entry is not None and station.entry.id == 2, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: session.reader.entries.stopped_at(station.place, 3) > 0, timeout=PATIENCE_MS)
    station.view.take_look(ReadingLook(size_pt=20, measure=30))
    station.open(station.place, 3, [1, 2, 3])
    qtbot.waitUntil(lambda: station.entry is not None and station.entry.id == 3, timeout=PATIENCE_MS)
    assert top().startswith("Paragraph 217 ")
    station.bar.fill_headings()
    assert [one.text() for one in station.bar.headings_menu.actions()] == ["The ebb", "\u2003Its turn"]
    station.bar.headings_menu.actions()[1].trigger()
    assert top() == "Its turn"
    bar = station.view.verticalScrollBar()
    assert bar is not None
    bar.setValue(0)
    qtbot.waitUntil(lambda: session.reader.entries.stopped_at(station.place, 3) == 0, timeout=PATIENCE_MS)


def test_fields_are_changed_beside_the_text(
    station: ReadStation, session: Session, sources: Place, qtbot: QtBot
) -> None:
    """One key opens the fields, the tags under the keyboard; what is written there is kept, and the text stays where it is."""
    station.desk.commands.bound["fields-beside"].run()
    tags = station.side.form.editors["tags"]
    assert station.window().focusWidget() is not None  # type: ignore[union-attr]
    qtbot.waitUntil(tags.isVisible, timeout=PATIENCE_MS)
    assert tags.isAncestorOf(station.window().focusWidget())  # type: ignore[union-attr]
    assert tags.line is not None
    qtbot.keyClicks(tags.line, "law; ebb")
    qtbot.keyClick(tags.line, Qt.Key.Key_Return)
    qtbot.waitUntil(
        lambda: session.reader.entries.rows(sources.key, [1])[0].value("tags") == ("law", "ebb"), timeout=PATIENCE_MS
    )
    station.desk.commands.bound["fields-beside"].run()
    assert station.side.isHidden()


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.text(st.characters(blacklist_categories=["Cs"]), min_size=1, max_size=24), st.data())
def test_any_run_is_found_again(qtbot: QtBot, text: str, data: st.DataObject) -> None:
    """A mark set on any run of any text, also one that stands there several times, is found at its place."""
    view = QTextEdit()
    qtbot.addWidget(view)
    view.setPlainText(f"{text} {text}\n{text}")
    words = Words(view)
    whole = words.text
    assume(whole)
    start = data.draw(st.integers(0, len(whole) - 1))
    run = slice(start, data.draw(st.integers(start + 1, len(whole))))
    view.setTextCursor(words.chosen(run.start, run.stop))
    mark = chosen_in(view)
    if mark is None:
        assert not whole[run].strip()
        return
    found = cursor_at(Words(view), mark)
    assert found is not None
    begin = run.start + len(whole[run]) - len(whole[run].lstrip())
    assert words.index(found.selectionStart()) == begin
    assert found.selectedText().replace(SOFT, "").split() == whole[run].split()


def long_text() -> str:
    """Of four parts, with a word in the first and the last alone."""
    paragraph = "The mill turns twice a day, and has done so for as long as anybody can say. " * 8
    sections = [f"## Section {number}\n\n" + f"{paragraph}\n\n" * 70 for number in range(4)]
    return f"A heron stands.\n\n{''.join(sections)}## The end\n\nThe last heron flew, **slowly**, away."


@pytest.fixture
def long(station: ReadStation, session: Session, qtbot: QtBot) -> ReadStation:
    """A long text is open, in its first part."""
    session.do(AddEntry("collection:1", "Long", {}, long_text()))
    station.open(station.place, 3, [1, 2, 3])
    qtbot.waitUntil(lambda: station.entry is not None and station.entry.id == 3, timeout=PATIENCE_MS)
    assert len(station.text.read.text) == 4
    return station


def in_part(station: ReadStation, part: int) -> Callable[[], bool]:
    return lambda: station.text.read.part == part


def test_a_long_text_is_read_in_parts(long: ReadStation, session: Session, qtbot: QtBot) -> None:
    """Nothing is cut; Space at the end goes on; where one stopped is known over all parts."""
    assert long.text.bar.told.text() == "Part 1 of 4: Section 0"
    bar = long.view.verticalScrollBar()
    assert bar is not None
    bar.setValue(bar.maximum())
    assert "25% seen" in long.bar.far.text()
    qtbot.keyClick(long.view, Qt.Key.Key_Space)
    qtbot.waitUntil(in_part(long, 1), timeout=PATIENCE_MS)
    assert bar.value() == 0
    long.desk.commands.bound["next-part"].run()
    qtbot.waitUntil(in_part(long, 2), timeout=PATIENCE_MS)
    bar.setValue(bar.maximum() // 2)
    long.note_stop()
    qtbot.waitUntil(lambda: session.reader.entries.stopped_at(long.place, 3) > 100_000, timeout=PATIENCE_MS)
    long.open(long.place, 1, [1, 2, 3])
    qtbot.waitUntil(lambda: long.entry is not None and long.entry.id == 1, timeout=PATIENCE_MS)
    assert long.text.bar.isHidden()
    long.open(long.place, 3, [1, 2, 3])
    qtbot.waitUntil(lambda: long.entry is not None and long.entry.id == 3, timeout=PATIENCE_MS)
    assert long.text.read.part == 2
    assert bar.value() > bar.maximum() // 3


def test_what_is_found_in_another_part(long: ReadStation, qtbot: QtBot) -> None:
    long.finding.open()
    qtbot.keyClicks(long.finding.line, "heron")
    qtbot.waitUntil(lambda: long.finding.told.text() == "1 of 2", timeout=PATIENCE_MS)
    qtbot.keyClick(long.finding.line, Qt.Key.Key_Return)
    qtbot.waitUntil(in_part(long, 3), timeout=PATIENCE_MS)
    assert long.view.textCursor().selectedText() == "heron"
    assert long.finding.told.text() == "2 of 2"
    long.finding.go(1)  # round the end
    qtbot.waitUntil(lambda: long.text.read.part == 0 and long.finding.told.text() == "1 of 2", timeout=PATIENCE_MS)


def test_marks_and_headings_of_other_parts(long: ReadStation, session: Session, qtbot: QtBot) -> None:
    session.do(PutMark(long.place, 3, Mark("flew, slowly, away", "idea")))
    qtbot.waitUntil(lambda: long.bar.marks.text() == "Marks: 1", timeout=PATIENCE_MS)
    assert long.bar.lost.isHidden()
    long.desk.commands.bound["marks-list"].run()
    (row,) = long.side.marks.findChildren(MarkRow)
    row.pointed.emit(row.mark)
    qtbot.waitUntil(lambda: long.view.textCursor().selectedText() == "flew, slowly, away", timeout=PATIENCE_MS)
    names = [words for _, words, _ in long.text.headings()]
    assert names == ["Section 0", "Section 1", "Section 2", "Section 3", "The end"]
    long.text.headings()[1][2]()
    qtbot.waitUntil(in_part(long, 1), timeout=PATIENCE_MS)


def test_a_lost_mark_is_put_where_it_may_stand_now(
    station: ReadStation,
    session: Session,
    sources: Place,
    marks: Callable[[], list[tuple[str, str, str]]],
    qtbot: QtBot,
) -> None:
    session.do(PutMark(sources.key, 1, Mark("The dam was raised in 1298", "idea", "keep me")))
    station.desk.commands.bound["marks-list"].run()

    def put() -> QToolButton | None:
        return next(
            (
                one
                for one in station.side.marks.findChildren(QToolButton)
                if one.text() == "Put it there" and one.isVisible()
            ),
            None,
        )

    qtbot.waitUntil(lambda: put() is not None, timeout=PATIENCE_MS)
    button = put()
    assert button is not None
    qtbot.mouseClick(button, LEFT)
    qtbot.waitUntil(lambda: marks() == [("The weir was raised in 1298", "idea", "keep me")], timeout=PATIENCE_MS)
    qtbot.waitUntil(station.bar.lost.isHidden, timeout=PATIENCE_MS)


def test_done_asks_for_what_the_rules_want(
    station: ReadStation, window: MainWindow, session: Session, sources: Place, qtbot: QtBot
) -> None:
    settings = replace(session.reader.entries.place(sources.key).settings, rules=("if status is read: summary",))
    session.do(ChangePlace(sources.key, settings))
    qtbot.waitUntil(lambda: bool(station.whole and station.whole.place.settings.rules), timeout=PATIENCE_MS)
    station.desk.commands.bound["done"].run()
    qtbot.waitUntil(
        lambda: "want more of it: if status is read: summary" in window.notice.text.text(), timeout=PATIENCE_MS
    )
    assert station.entry is not None
    qtbot.waitUntil(
        lambda: station.entry is not None and station.entry.id == 2, timeout=PATIENCE_MS
    )  # it is not forced

    def fill() -> QPushButton | None:
        buttons = window.notice.findChildren(QPushButton)
        return next((one for one in buttons if one.text() == "Fill it in" and one.isVisible()), None)

    qtbot.waitUntil(lambda: fill() is not None, timeout=PATIENCE_MS)
    button = fill()
    assert button is not None
    qtbot.mouseClick(button, LEFT)
    qtbot.waitUntil(
        lambda: station.entry is not None and station.entry.id == 1 and station.side.is_shown(FIELDS),
        timeout=PATIENCE_MS,
    )
    assert station.side.form.editors["summary"].isVisible()


def test_comments_stand_below_the_text_in_a_narrow_window(
    station: ReadStation, session: Session, window: MainWindow, qtbot: QtBot
) -> None:
    session.do(PutMark(station.place, 1, Mark("Nobody knows", "question", "Somebody does.")))
    below = station.text.comments
    window.setFixedSize(1500, 800)
    qtbot.waitUntil(station.view.marked.margin.isVisible, timeout=PATIENCE_MS)
    qtbot.waitUntil(below.isHidden, timeout=PATIENCE_MS)  # there is room beside the text
    window.setFixedSize(800, 700)
    qtbot.waitUntil(below.isVisible, timeout=PATIENCE_MS)
    item = below.item(0)
    assert item is not None
    assert item.text() == "Somebody does.\n“Nobody knows” (question)"
    qtbot.mouseClick(below.viewport(), LEFT, pos=below.visualItemRect(item).center())
    assert station.view.textCursor().selectedText() == "Nobody knows"


def test_words_are_followed_while_they_are_spoken(station: ReadStation, qtbot: QtBot) -> None:
    """With an engine of Qt that says nothing, but in time."""
    from PyQt6.QtTextToSpeech import QTextToSpeech

    if "mock" not in QTextToSpeech.availableEngines():
        pytest.skip("Qt has no engine here that says nothing")
    choose(station, qtbot, "Nobody knows")
    station.text.engines = ["mock"]
    said: list[str] = []
    station.desk.commands.bound["speak"].run()
    voice = station.text.speaking.voice
    assert voice is not None
    voice.sayingWord.connect(lambda word, *_rest: said.append(word))
    qtbot.waitUntil(lambda: len(said) > 1, timeout=PATIENCE_MS)
    assert said[0] != "The"
    (shown,) = station.view.marked.found
    assert shown.cursor.selectedText() in station.view.toPlainText()
    assert shown.cursor.selectedText().strip() in said
    station.desk.commands.bound["speak"].run()
    assert station.view.marked.found == ()
