"""Whole journeys through the real window: the live page, the slip, the table, the files; by mouse and by keyboard alone."""

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QToolButton, QWidget
from pytestqt.qtbot import QtBot

from conftest import HERON
from driving import PATIENCE_MS, notice_button, open_page, text_of, type_address
from helpers import undo_label
from wily_magpie.core.commands.capture import KeepSlip
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import READ, SOURCES
from wily_magpie.qt.stations.capture.model import Phase


def shown_titles(window: MainWindow) -> list[str]:
    table = window.stack.sources.table.table
    rows = [table.entry_at(row) for row in range(table.rowCount())]
    return [entry.title for entry in rows if entry is not None]


def focus_of(window: MainWindow) -> QWidget:
    widget = QApplication.focusWidget()
    assert widget is not None
    return widget


def test_address_slip_edit_keep_view_undo(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    window.stack.sources.show_question("collection:1", 'tags = restoration and status = "to read"')
    open_page(qtbot, window, HERON)
    assert text_of(window, "title") == "Heron Mill turns again after ninety years"
    assert text_of(window, "authors") == "Penhallow, Ada; Varley, Tom"
    assert window.stack.capture.card.lines["authors"].origin.text() == "from structured data NewsArticle.author"
    assert "## Two tides a day" in window.stack.capture.card.text.body.text()
    assert "mudlark" not in window.stack.capture.card.text.body.text()

    summary = window.stack.capture.card.lines["summary"].editor.area
    assert summary is not None
    qtbot.keyClicks(summary, "In my own words")
    qtbot.mouseClick(window.stack.capture.card.foot.keep, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(window.notice.isVisible, timeout=PATIENCE_MS)
    assert "is kept in Sources" in window.notice.text.text()
    qtbot.waitUntil(lambda: "Heron Mill turns again after ninety years" in shown_titles(window), timeout=PATIENCE_MS)

    qtbot.mouseClick(notice_button(window, "Open"), Qt.MouseButton.LeftButton)
    assert window.stack.currentIndex() == SOURCES
    qtbot.waitUntil(lambda: window.stack.sources.panel.entry is not None)
    assert window.stack.sources.panel.editors["summary"].text() == "In my own words"
    assert window.stack.sources.page.count.text() == "1 of 1 entries"

    qtbot.waitUntil(lambda: all(job.is_over for job in session.jobs.all.values()), timeout=PATIENCE_MS)
    assert session.reader.entries.picture("http://estuary-courier.example/pictures/heron-mill.svg")
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: shown_titles(window) == [], timeout=PATIENCE_MS)
    undone = "Undone: Keep “Heron Mill turns again after ninety years”"
    qtbot.waitUntil(lambda: window.notice.text.text() == undone, timeout=PATIENCE_MS)
    qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: len(shown_titles(window)) == 1, timeout=PATIENCE_MS)


def test_the_same_by_keyboard_alone(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    open_page(qtbot, window, HERON)
    card = window.stack.capture.card
    assert card.isAncestorOf(focus_of(window)), "the slip is where one types next"
    qtbot.keyClick(focus_of(window), Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: undo_label(session) is not None, timeout=PATIENCE_MS)
    qtbot.keyClick(window, Qt.Key.Key_3, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: len(shown_titles(window)) == 1, timeout=PATIENCE_MS)
    table = window.stack.sources.table
    qtbot.waitUntil(lambda: QApplication.focusWidget() is table, timeout=PATIENCE_MS)
    qtbot.keyClick(table, Qt.Key.Key_Space)
    assert window.stack.currentIndex() == READ
    qtbot.waitUntil(lambda: "Two tides a day" in window.stack.read.view.toPlainText(), timeout=PATIENCE_MS)
    assert focus_of(window) is window.stack.read.view
    qtbot.keyClick(window, Qt.Key.Key_3, Qt.KeyboardModifier.ControlModifier)
    table.setCurrentIndex(table.table.index(0, 0))
    qtbot.keyClick(table, Qt.Key.Key_F2)
    editor = focus_of(window)
    qtbot.keyClicks(editor, "Heron Mill")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: shown_titles(window) == ["Heron Mill"], timeout=PATIENCE_MS)
    qtbot.keyClick(table, Qt.Key.Key_Delete, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: shown_titles(window) == [], timeout=PATIENCE_MS)
    for _ in range(3):
        qtbot.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: undo_label(session) is None, timeout=PATIENCE_MS)


def test_a_page_goes_into_a_notes_folder(qtbot: QtBot, window: MainWindow, session: Session, notes_path: Path) -> None:
    window.bridge.places_changed.emit()
    open_page(qtbot, window, HERON)
    place = window.stack.capture.card.head.place
    qtbot.waitUntil(lambda: place.findText("Notebook") >= 0, timeout=PATIENCE_MS)
    place.setCurrentIndex(place.findText("Notebook"))
    place.activated.emit(place.currentIndex())
    qtbot.keyClick(window, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    path = notes_path / "Heron Mill turns again after ninety years.md"
    qtbot.waitUntil(path.exists, timeout=PATIENCE_MS)
    text = path.read_text("utf-8")
    assert text.startswith("---\ntitle: Heron Mill turns again after ninety years\n")
    assert "status: to read\n" in text
    assert f"address: {HERON}\n" in text
    qtbot.waitUntil(lambda: session._library.place("notes:1").listing(Question()).total == 1, timeout=PATIENCE_MS)
    window.stack.sources.open_place("notes:1")
    qtbot.waitUntil(lambda: len(shown_titles(window)) == 1, timeout=PATIENCE_MS)
    window.undo()
    qtbot.waitUntil(lambda: shown_titles(window) == [], timeout=PATIENCE_MS)
    assert not path.exists()


def test_a_page_that_is_kept_already_says_so(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    session.do(
        KeepSlip(session.reader.slips.slip(read_page(session.fetcher.page(HERON))).with_text("title", "As I call it"))
    )
    open_page(qtbot, window, "http://short-links.example/t/heron")
    card = window.stack.capture.card
    assert card.head.known_strip.isVisible()
    assert "Kept already on" in card.head.known_strip.text.text()
    assert "As I call it" in card.head.known_strip.text.text()
    assert (card.foot.keep.text(), text_of(window, "title")) == ("Add to it", "As I call it")
    qtbot.mouseClick(card.foot.keep_second, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: session._library.place("Sources").listing(Question()).total == 2, timeout=PATIENCE_MS)
    qtbot.mouseClick(card.head.known_strip.button, Qt.MouseButton.LeftButton)
    assert window.stack.currentIndex() == SOURCES


def test_text_that_comes_late_is_on_the_slip(qtbot: QtBot, window: MainWindow) -> None:
    open_page(qtbot, window, "http://slow-letters.example/essays/the-mill-at-night")
    body = window.stack.capture.card.text.body
    qtbot.waitUntil(lambda: len(body.text()) > 300, timeout=PATIENCE_MS)


@pytest.mark.parametrize(
    ("address", "notice", "title"),
    [
        ("http://gauge-office.example/levels.csv", "a table of values", "levels.csv"),
        ("http://gauge-office.example/readme.txt", "a text file", "readme.txt"),
        ("http://gauge-office.example/stations.json", "a file of JSON", "Stations of the Ostrel"),
        ("http://saltmarsh-museum.example/pictures/tide-gates.svg", "a picture (SVG", "tide-gates.svg"),
        ("http://tidal-studies.example/article/14/1/3.pdf", "a PDF of 1 page", "Mills between two seas"),
    ],
)
def test_a_file_gets_a_slip_too(
    qtbot: QtBot, window: MainWindow, address: str, notice: str, title: str, session: Session
) -> None:
    open_page(qtbot, window, address)
    card = window.stack.capture.card
    assert card.slip is not None
    assert notice in card.slip.reading.notice
    assert card.slip.title == title
    assert card.slip.reading.page.file
    assert card.foot.about_file.isVisible()
    assert not card.foot.problem.isVisible()
    if address.endswith("csv"):  # what the engine does not show itself
        shown = window.stack.capture.file.text
        qtbot.waitUntil(lambda: "level_m" in shown.toPlainText(), timeout=PATIENCE_MS)
    qtbot.mouseClick(card.foot.keep, Qt.MouseButton.LeftButton)
    pages = session._library.folder / "pages"
    qtbot.waitUntil(lambda: any(".html" not in path.name for path in pages.iterdir()), timeout=PATIENCE_MS)


def test_replies_are_taken_in_by_one_click(qtbot: QtBot, window: MainWindow) -> None:
    open_page(qtbot, window, "http://millwrights-board.example/thread/298")
    text = window.stack.capture.card.text
    assert "Beeswax" not in text.body.text()
    assert text.posts.text() == "Take in 3 replies"
    qtbot.mouseClick(text.posts, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "> **pintle**, 2023-10-01 21:02" in text.body.text(), timeout=PATIENCE_MS)
    assert "> > **saltwife**" in text.body.text()
    qtbot.mouseClick(text.posts, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Beeswax" not in text.body.text(), timeout=PATIENCE_MS)
    assert "mutton tallow" in text.body.text()


FAILURES = {
    "http://estuary-courier.example/2018/06/01/withdrawn": "There is no page at",
    "http://gauge-office.example/failed": "failed (it answered 500)",
    "http://gauge-office.example/members": "is not open to us",
    "http://gauge-office.example/levels.zip": "is not a web page but application/zip",
    "http://short-links.example/loop": "round in a circle",
    "http://hangup.example/": "without a whole answer",
    "http://nowhere.example/": "There is no host",
    "http://127.0.0.1:8631/": "refuses the connection",
    "http://short-links.example/inside": "into the local network",
    "http://silent.example/": "does not answer",
}


@pytest.mark.parametrize("address", FAILURES)
def test_a_bad_address_is_a_sentence_with_a_way_out(
    qtbot: QtBot, window: MainWindow, session: Session, address: str
) -> None:
    type_address(qtbot, window, "http://estuarine-lexicon.example/tide-mill")
    qtbot.waitUntil(lambda: window.stack.capture.card.slip is not None, timeout=PATIENCE_MS)
    assert window.stack.capture.view
    if "silent" in address:  # a machine that is halted for as long must not make the others silent
        window.stack.capture.view.silence_ms = 1_500
    window.top.address.clear()
    type_address(qtbot, window, address)
    qtbot.waitUntil(lambda: FAILURES[address] in window.stack.capture.failure.heading.text(), timeout=PATIENCE_MS)
    assert window.stack.capture.stack.currentIndex() == 2
    assert window.stack.capture.failure.text.text()
    assert window.stack.capture.card.slip is None
    qtbot.mouseClick(window.stack.capture.card.foot.later, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: session._library.place("Sources").listing(Question()).total == 1, timeout=PATIENCE_MS)


def test_words_in_the_address_line_are_looked_for(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    session.do(AddEntry("collection:1", "The ebb at Wick"))
    type_address(qtbot, window, "ebb wick")
    assert window.stack.currentIndex() == SOURCES
    results = window.stack.sources.results
    qtbot.waitUntil(lambda: results.list.count() == 1, timeout=PATIENCE_MS)
    assert "One entry has “ebb wick”" in results.heading.text()
    qtbot.keyClick(results.list, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.stack.read.entry is not None, timeout=PATIENCE_MS)
    assert window.stack.currentIndex() == READ


def test_a_slip_that_cannot_be_kept_says_why_at_its_field(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    open_page(qtbot, window, HERON)
    dated = window.stack.capture.card.lines["published"]
    assert dated.editor.line is not None
    dated.editor.line.selectAll()
    qtbot.keyClicks(dated.editor.line, "last spring")
    assert "it is kept as text" in dated.origin.text()
    line = window.stack.capture.card.lines["price"].editor.line
    assert line is not None
    qtbot.keyClicks(line, "soon")
    qtbot.keyClick(window, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert "Price: “soon” is not a number" in window.stack.capture.card.foot.problem.text()
    assert line.property("problem")
    assert undo_label(session) is None


def test_another_value_of_the_page_is_one_click_away(qtbot: QtBot, window: MainWindow) -> None:
    open_page(qtbot, window, HERON)
    line = window.stack.capture.card.lines["site"]
    line.editor.setFocus()
    qtbot.waitUntil(line.details.isVisible)
    other = line.others.itemAt(0)
    assert other is not None
    button = other.widget()
    assert isinstance(button, QToolButton)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert line.editor.text() == "estuary-courier.example"
    assert line.origin.text() == "address" or "address" in line.origin.text()


def test_what_is_typed_while_the_page_is_read_again_stays(qtbot: QtBot, window: MainWindow) -> None:
    open_page(qtbot, window, HERON)
    capture = window.stack.capture
    body = capture.card.text.body
    assert capture.view
    capture.view.arrived.connect(lambda _page: body.insertPlainText("Mine. "))  # after the station has begun to read
    before = capture.reading
    qtbot.mouseClick(capture.read_again, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: capture.reading is not before and capture.model.phase is Phase.READY, timeout=PATIENCE_MS)
    assert body.text().startswith("Mine. ")
    slip = capture.card.current()
    assert slip
    assert slip.body == body.text()
    assert slip.is_body_typed


def test_blocks_are_taken_in_and_out_with_a_click_or_the_space_bar(
    qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    open_page(qtbot, window, HERON)
    text = window.stack.capture.card.text
    texts = [text.blocks.item(row).text() for row in range(text.blocks.count())]  # type: ignore[union-attr]
    comment = next(row for row, shown in enumerate(texts) if "Good to see the wheel" in shown)
    assert texts[comment].startswith("left out, comments")
    rect = text.blocks.visualItemRect(text.blocks.item(comment))
    text.blocks.scrollToItem(text.blocks.item(comment))
    rect = text.blocks.visualItemRect(text.blocks.item(comment))
    viewport = text.blocks.viewport()
    assert viewport is not None
    qtbot.mouseClick(viewport, Qt.MouseButton.LeftButton, pos=rect.center())
    assert "Good to see the wheel" in text.body.text()
    lead = next(row for row, shown in enumerate(texts) if shown.startswith("kept: For the first time"))
    text.blocks.setCurrentRow(lead)
    qtbot.keyClick(text.blocks, Qt.Key.Key_Space)
    assert "For the first time since 1934" not in text.body.text()
    assert "## Two tides a day" in text.body.text()
    qtbot.keyClick(window, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: undo_label(session) is not None, timeout=PATIENCE_MS)
    place = session._library.place("Sources")
    entry = place.entry(place.listing(Question()).ids[0])
    assert entry
    assert entry.body
    assert "Good to see the wheel" in entry.body
    assert "For the first time since 1934" not in entry.body


def test_a_text_file_is_read_as_well(qtbot: QtBot, window: MainWindow) -> None:
    open_page(qtbot, window, "http://gauge-office.example/readme.txt")
    assert text_of(window, "title") == "readme.txt"
    assert "metres above chart datum" in window.stack.capture.card.text.body.text()
    assert "text file" in window.stack.capture.card.foot.problem.text()


def test_root_is_told_that_the_live_page_does_not_run(
    qtbot: QtBot, window: MainWindow, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("os.geteuid", lambda: 0)
    monkeypatch.delenv("QTWEBENGINE_DISABLE_SANDBOX", raising=False)
    type_address(qtbot, window, HERON)
    assert "does not run for root" in window.stack.capture.failure.heading.text()
    assert "wily-magpie capture" in window.stack.capture.failure.text.text()
    qtbot.mouseClick(window.stack.capture.card.foot.later, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: session._library.place("Sources").listing(Question()).total == 1, timeout=PATIENCE_MS)
