"""A notes folder from day to day: notes are opened whole, moved with their links, written into by journal, merged."""

from pathlib import Path
from typing import TypeVar

import pytest
from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QTextCursor
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QToolButton,
    QWidget,
)
from pytestqt.qtbot import QtBot

from driving import note_id, notes_station
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.stations.sources.say_first import SayFirst
from wily_magpie.qt.stations.sources.station import SourcesStation
from wily_magpie.qt.stations.sources.whole_entry import WholeEntryPage

PATIENCE_MS = 15_000
W = TypeVar("W", bound=QWidget)
PLACES = ("Places/sea.md", "../sea.md", "mill.md", "Coast/ebb.md")
WORDS = ("Write the new path", "is no path", "mill.md", "becomes Coast/ebb.md")
"""What is said of each."""
MILL = "---\ntitle: The mill\n---\n\n# Wheel\n\nIt turns.\n\n# Pond\n\nSee [[sea]] and [the sea](Places/sea.md#ebb).\n"
SEA = "---\ntitle: The sea\nstatus: open\n---\n\nBack to [the mill](../mill.md), and to [the web](http://tide.example/).\n"


@pytest.fixture
def station(qtbot: QtBot, window: MainWindow, session: Session, notes_path: Path) -> SourcesStation:
    """The Sources station with two notes that lead to each other."""
    (notes_path / "Places").mkdir()
    (notes_path / "mill.md").write_text(MILL)
    (notes_path / "Places" / "sea.md").write_text(SEA)
    return notes_station(qtbot, window, session)


def opened_whole(qtbot: QtBot, station: SourcesStation, session: Session, path: str) -> WholeEntryPage:
    wanted = note_id(session, path)
    station.table.choose(wanted)
    station.pages.open_chosen_whole()
    whole = station.pages.whole
    qtbot.waitUntil(lambda: whole.entry is not None and whole.entry.id == wanted, timeout=PATIENCE_MS)
    return whole


def child(dialog: QDialog, kind: type[W], name: str = "") -> W:
    return next(one for one in dialog.findChildren(kind) if not name or one.accessibleName() == name)


def test_a_note_is_moved_and_what_will_follow_is_said_first(
    qtbot: QtBot,
    window: MainWindow,
    station: SourcesStation,
    session: Session,
    notes_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    said: list[tuple[str, bool]] = []

    def answer(dialog: SayFirst) -> int:
        line = child(dialog, QLineEdit, "New path")
        assert line.selectedText() == "sea"
        for text in PLACES:
            line.clear()
            qtbot.keyClicks(line, text)
            qtbot.waitUntil(lambda: WORDS[len(said)] in dialog.told.text(), timeout=PATIENCE_MS)
            said.append((dialog.told.text(), bool(dialog.do and dialog.do.isEnabled())))
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(QDialog, "exec", answer)
    station.table.choose(note_id(session, "Places/sea.md"))
    station.ask_move_chosen()
    qtbot.waitUntil((notes_path / "Coast" / "ebb.md").exists, timeout=PATIENCE_MS)
    assert [is_possible for _, is_possible in said] == [False, False, False, True]
    assert "is no path" in said[1][0]
    assert "mill.md" in said[2][0]
    assert said[3][0] == "Places/sea.md becomes Coast/ebb.md. 2 links follow, in mill.md."
    moved = (notes_path / "mill.md").read_text()
    assert moved == MILL.replace("[[sea]]", "[[ebb]]").replace("Places/sea.md#ebb", "Coast/ebb.md#ebb")
    assert (notes_path / "Coast" / "ebb.md").read_text() == SEA
    assert not (notes_path / "Places" / "sea.md").exists()
    qtbot.waitUntil(lambda: "2 links followed" in window.notice.text.text(), timeout=PATIENCE_MS)
    qtbot.mouseClick(window.notice.findChildren(QPushButton)[0], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: (notes_path / "mill.md").read_text() == MILL, timeout=PATIENCE_MS)
    qtbot.waitUntil((notes_path / "Places" / "sea.md").exists, timeout=PATIENCE_MS)
    assert (notes_path / "Places" / "sea.md").read_text() == SEA


def test_entries_of_a_collection_have_no_path(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session
) -> None:
    entry_id = session.do(AddEntry("collection:1", "A visit", {}))
    station.open_place("collection:1")
    station.notes.ask_move(entry_id)
    qtbot.waitUntil(lambda: "Only notes have a path" in window.notice.text.text(), timeout=PATIENCE_MS)


def test_the_journal_is_written_below_a_heading_that_is_made(
    qtbot: QtBot, station: SourcesStation, session: Session, notes_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    said: list[str] = []
    can_do: list[bool] = []

    def answer(dialog: SayFirst) -> int:
        qtbot.keyClicks(child(dialog, QPlainTextEdit), "Ebb at four.")
        qtbot.keyClicks(child(dialog, QLineEdit, "Below the heading"), "Tides")
        wanted = "the text is added to it" if said else "There is no heading"
        qtbot.waitUntil(lambda: wanted in dialog.told.text(), timeout=PATIENCE_MS)
        said.append(dialog.told.text())
        can_do.append(bool(dialog.do and dialog.do.isEnabled()))
        child(dialog, QCheckBox).click()
        child(dialog, QComboBox, "Where").setCurrentIndex(1)
        qtbot.waitUntil(lambda: bool(dialog.do and dialog.do.isEnabled()), timeout=PATIENCE_MS)
        said.append(dialog.told.text())
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(QDialog, "exec", answer)
    station.notes.ask_journal()
    qtbot.waitUntil(lambda: bool(list((notes_path / "Journal").glob("*.md"))), timeout=PATIENCE_MS)
    (page,) = (notes_path / "Journal").glob("*.md")
    assert page.read_text() == "## Tides\n\nEbb at four.\n"
    assert said[0] == "There is no heading “Tides” in this note. Choose another, or let it be made."
    assert said[1].startswith(f"The note Journal/{page.name} will be made.")
    station.notes.ask_journal()
    qtbot.waitUntil(lambda: page.read_text().count("Ebb at four.") == 2, timeout=PATIENCE_MS)
    assert page.read_text().count("## Tides") == 1
    assert can_do == [False, True]


def references(whole: WholeEntryPage) -> list[QToolButton]:
    return [one for one in whole.side.findChildren(QToolButton) if one.text() == "The sea"]


def test_a_note_opened_whole_leads_to_its_headings_and_links(
    qtbot: QtBot, station: SourcesStation, session: Session, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    whole = opened_whole(qtbot, station, session, "mill.md")

    def headings() -> list[QPushButton]:
        return [one for one in whole.findChildren(QPushButton) if one.toolTip() == "Go there in the text"]

    qtbot.waitUntil(lambda: [one.text() for one in headings()] == ["Wheel", "Pond"], timeout=PATIENCE_MS)
    doors = headings()
    qtbot.mouseClick(doors[1], Qt.MouseButton.LeftButton)
    assert whole.body.textCursor().block().text() == "# Pond"
    qtbot.waitUntil(
        lambda: "What links here: 1" in [one.text() for one in whole.side.findChildren(QLabel)], timeout=PATIENCE_MS
    )
    outside: list[str] = []

    def opened(url: QUrl) -> bool:
        outside.append(url.toString())
        return True

    monkeypatch.setattr("PyQt6.QtGui.QDesktopServices.openUrl", opened)
    whole.follow("http://tide.example/")
    qtbot.waitUntil(lambda: outside == ["http://tide.example/"], timeout=PATIENCE_MS)
    whole.follow("Places/sea.md")
    qtbot.waitUntil(lambda: whole.title.text() == "The sea", timeout=PATIENCE_MS)
    whole.follow("../mill.md")
    qtbot.waitUntil(lambda: whole.title.text() == "The mill", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: bool(references(whole)), timeout=PATIENCE_MS)
    (door,) = references(whole)
    qtbot.mouseClick(door, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: whole.title.text() == "The sea", timeout=PATIENCE_MS)


def test_the_toolbar_writes_markdown(qtbot: QtBot, station: SourcesStation, session: Session, notes_path: Path) -> None:
    whole = opened_whole(qtbot, station, session, "Places/sea.md")
    tools = {one.toolTip().split("\n")[0]: one for one in whole.findChildren(QWidget) if one.toolTip()}
    whole.body.setPlainText("one\ntwo")
    whole.body.selectAll()
    tools["List"].click()  # type: ignore[attr-defined]
    assert whole.body.text() == "- one\n- two"
    whole.body.setPlainText("")
    tools["Strong"].click()  # type: ignore[attr-defined]
    qtbot.keyClicks(whole.body, "ebb")
    assert whole.body.text() == "**ebb**"
    qtbot.keyClick(whole.body, Qt.Key.Key_Escape)
    assert not station.pages.is_open("whole")
    qtbot.waitUntil(
        lambda: (notes_path / "Places" / "sea.md").read_text().endswith("---\n\n**ebb**\n"), timeout=PATIENCE_MS
    )
    assert (notes_path / "Places" / "sea.md").read_text().startswith(SEA.split("\n\nBack", maxsplit=1)[0])


def test_what_another_program_writes_meanwhile_is_merged_or_kept_beside(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session, notes_path: Path
) -> None:
    path = notes_path / "mill.md"
    whole = opened_whole(qtbot, station, session, "mill.md")
    assert whole.body.find("turns")
    qtbot.keyClicks(whole.body, "turns again")
    path.write_text(MILL.replace("# Pond", "# The pond"))
    whole.keep_text()
    both = MILL.replace("# Pond", "# The pond").replace("It turns.", "It turns again.")
    qtbot.waitUntil(lambda: path.read_text() == both, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: "both changes are kept" in window.notice.text.text(), timeout=PATIENCE_MS)
    whole.show_entry(session._library.place("Notebook").key, note_id(session, "mill.md"))
    qtbot.waitUntil(
        lambda: "# The pond" in whole.body.text() and "turns again" in whole.body.text(), timeout=PATIENCE_MS
    )
    whole.body.moveCursor(QTextCursor.MoveOperation.Start)
    assert whole.body.find("turns again")
    qtbot.keyClicks(whole.body, "stands")
    path.write_text(path.read_text().replace("turns again", "has gone"))
    whole.keep_text()
    mine = notes_path / "mill (mine).md"
    qtbot.waitUntil(lambda: mine.exists() and "It stands." in mine.read_text(), timeout=PATIENCE_MS)
    assert "It has gone." in path.read_text()


def test_a_folder_is_chosen_and_taken_in_as_it_is(
    qtbot: QtBot, station: SourcesStation, session: Session, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "Theirs"
    folder.mkdir()
    (folder / "a.md").write_text(SEA)
    monkeypatch.setattr("PyQt6.QtWidgets.QFileDialog.getExistingDirectory", lambda *_: str(folder))
    station.notes.ask_folder()
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 1, timeout=PATIENCE_MS)
    assert station.place is not None
    assert (station.place.name, (folder / "a.md").read_text()) == ("Theirs", SEA)
    station.notes.ask_folder()
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 1, timeout=PATIENCE_MS)
    assert sum(place.name.startswith("Theirs") for place in session._library.places()) == 1
