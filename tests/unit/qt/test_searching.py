"""Looking for words: while they are typed, on the page of what was found, in the text that is read."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QListWidget, QPushButton
from pytestqt.qtbot import QtBot

from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import READ, SOURCES

PATIENCE_MS = 15_000


@pytest.fixture
def kept(session: Session) -> Session:
    """Three entries with words."""
    for title, kind, body in (
        ("The tide mill", "article", "The ebb turns it. A mill of the ebb, and no other mill."),
        ("A pond", "paper", "Behind the mill lies a pond."),
        ("Herons", "paper", "They stand in the reeds."),
    ):
        session.do(AddEntry("collection:1", title, {"kind": kind}, body))
    session.refresh_words()
    return session


def texts(of: QListWidget) -> list[str]:
    return [item.text() for row in range(of.count()) if (item := of.item(row)) is not None]


def test_words_are_looked_for_while_they_are_typed(qtbot: QtBot, window: MainWindow, kept: Session) -> None:
    line = window.top.address
    line.setFocus()
    qtbot.keyClicks(line, "mil")
    qtbot.waitUntil(lambda: window.goals.drop is not None and window.goals.drop.isVisible(), timeout=PATIENCE_MS)
    drop = window.goals.drop
    assert drop is not None
    assert texts(drop.list) == [
        "The tide mill\nSources",
        "A pond\nSources",
    ]
    assert drop.foot.text().startswith("2 found")
    qtbot.keyClick(line, Qt.Key.Key_Down)
    qtbot.keyClick(line, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.stack.read.entry is not None, timeout=PATIENCE_MS)
    assert window.stack.currentIndex() == READ
    assert not drop.isVisible()


def test_places_and_commands_stand_in_the_same_list(qtbot: QtBot, window: MainWindow, kept: Session) -> None:
    line = window.top.address
    line.setFocus()
    qtbot.keyClicks(line, "sourc")
    qtbot.waitUntil(lambda: window.goals.drop is not None and window.goals.drop.isVisible(), timeout=PATIENCE_MS)
    drop = window.goals.drop
    assert drop is not None
    assert texts(drop.list)[0] == "Sources\ncollection"
    qtbot.keyClick(line, Qt.Key.Key_Escape)
    assert not drop.isVisible()
    assert line.text() == "sourc", "what is typed stays"


def test_the_page_is_narrowed_and_is_there_again_as_it_was(qtbot: QtBot, window: MainWindow, kept: Session) -> None:
    line = window.top.address
    line.setFocus()
    qtbot.keyClicks(line, "mill")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    results = window.stack.sources.results
    qtbot.waitUntil(lambda: results.list.count() == 2, timeout=PATIENCE_MS)
    paper = next(one for one in results.findChildren(QPushButton) if one.text().startswith("paper"))
    qtbot.mouseClick(paper, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: results.list.count() == 1, timeout=PATIENCE_MS)
    qtbot.keyClick(results.list, Qt.Key.Key_Return)
    read = window.stack.read
    qtbot.waitUntil(lambda: read.entry is not None and read.entry.title == "A pond", timeout=PATIENCE_MS)
    qtbot.keyClick(window, Qt.Key.Key_Home, Qt.KeyboardModifier.AltModifier)
    assert window.stack.currentIndex() == SOURCES
    assert (results.list.count(), results.narrowed) == (1, {"kind": "paper"})
    qtbot.mouseClick(results.keep, Qt.MouseButton.LeftButton)
    station = window.stack.sources
    qtbot.waitUntil(lambda: len(station.table.table.listing.ids) == 1, timeout=PATIENCE_MS)
    assert station.sentence.text.text() == "cql.anywhere = mill and kind = paper"


def test_hits_are_marked_in_the_text_and_gone_through(qtbot: QtBot, window: MainWindow, kept: Session) -> None:
    ids = kept.reader.entries.listing("collection:1", kept.reader.entries.question("collection:1", "tide")).ids
    window.read_entry("collection:1", ids[0], ids)
    read = window.stack.read
    qtbot.waitUntil(lambda: read.entry is not None and "ebb" in read.view.toPlainText(), timeout=PATIENCE_MS)
    qtbot.keyClick(window, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    bar = read.finding
    qtbot.keyClicks(bar.line, "mill")
    assert bar.told.text() == "1 of 3"
    assert len(read.view.extraSelections()) == 3
    qtbot.keyClick(window, Qt.Key.Key_F3)
    assert bar.told.text() == "2 of 3"
    qtbot.keyClick(window, Qt.Key.Key_F3, Qt.KeyboardModifier.ShiftModifier)
    assert read.view.textCursor().selectedText() == "mill"
    bar.line.clear()
    qtbot.keyClicks(bar.line, "he")
    before = len(bar.hits)
    bar.whole.setChecked(True)
    assert before == 4
    assert bar.told.text() == "not here"
    read.view.show_again()  # as after another size of the window
    bar.whole.setChecked(False)
    assert len(read.view.extraSelections()) == 4
    qtbot.keyClick(bar.line, Qt.Key.Key_Escape)
    assert read.view.extraSelections() == []
    assert read.view.hasFocus()
