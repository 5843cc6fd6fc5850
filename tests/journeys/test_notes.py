"""A notes folder from day to day: notes are opened whole, moved with their links, written into by journal, merged."""

from pathlib import Path
from typing import TypeVar

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QComboBox, QDialog, QLineEdit, QPlainTextEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import SOURCES
from wily_magpie.qt.stations.sources.note_commands import SayFirst
from wily_magpie.qt.stations.sources.station import SourcesStation
from wily_magpie.qt.stations.sources.whole_entry import WholeEntry

PATIENCE_MS = 15_000
W = TypeVar("W", bound=QWidget)
MILL = "---\ntitle: The mill\n---\n\n# Wheel\n\nIt turns.\n\n# Pond\n\nSee [[sea]] and [the sea](Places/sea.md#ebb).\n"
SEA = "---\ntitle: The sea\nstatus: open\n---\n\nBack to [the mill](../mill.md), and to [the web](http://tide.example/).\n"


@pytest.fixture
def station(qtbot: QtBot, window: MainWindow, session: Session, notes_path: Path) -> SourcesStation:
    """The Sources station with two notes that lead to each other."""
    (notes_path / "Places").mkdir()
    (notes_path / "mill.md").write_text(MILL)
    (notes_path / "Places" / "sea.md").write_text(SEA)
    place = session.place("Notebook")
    session.refresh_notes(place.key)
    window.go(SOURCES)
    made = window.stack.sources
    made.show_question(place.key, "sortBy title")
    qtbot.waitUntil(lambda: made.table.table.rowCount() == 2, timeout=PATIENCE_MS)
    return made


def note(session: Session, path: str) -> int:
    return session.noting.folder("Notebook").index.id_of(path) or 0


def opened_whole(station: SourcesStation, session: Session, path: str) -> WholeEntry:
    station.table.choose(note(session, path))
    station.middle.open_chosen_whole()
    return station.middle.whole


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
        for text in ("Places/sea.md", "../sea.md", "mill.md", "Coast/ebb.md"):
            line.clear()
            qtbot.keyClicks(line, text)
            said.append((dialog.told.text(), bool(dialog.do and dialog.do.isEnabled())))
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(QDialog, "exec", answer)
    station.table.choose(note(session, "Places/sea.md"))
    station.notes.ask_move_chosen()
    assert [is_possible for _, is_possible in said] == [False, False, False, True]
    assert "is no path" in said[1][0]
    assert "mill.md" in said[2][0]
    assert said[3][0] == "Places/sea.md becomes Coast/ebb.md. 2 links follow, in mill.md."
    moved = (notes_path / "mill.md").read_text()
    assert moved == MILL.replace("[[sea]]", "[[ebb]]").replace("Places/sea.md#ebb", "Coast/ebb.md#ebb")
    assert (notes_path / "Coast" / "ebb.md").read_text() == SEA
    assert not (notes_path / "Places" / "sea.md").exists()
    assert "2 links followed" in window.notice.text.text()
    qtbot.mouseClick(window.notice.findChildren(QPushButton)[0], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: (notes_path / "mill.md").read_text() == MILL, timeout=PATIENCE_MS)
    assert (notes_path / "Places" / "sea.md").read_text() == SEA


def test_entries_of_a_collection_have_no_path(window: MainWindow, station: SourcesStation, session: Session) -> None:
    entry_id = session.add_entry("collection:1", "A visit", {})
    station.open_place("collection:1")
    station.notes.ask_move(entry_id)
    assert "Only notes have a path" in window.notice.text.text()


def test_the_journal_is_written_below_a_heading_that_is_made(
    qtbot: QtBot, station: SourcesStation, session: Session, notes_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    said: list[str] = []
    can_do: list[bool] = []

    def answer(dialog: SayFirst) -> int:
        qtbot.keyClicks(child(dialog, QPlainTextEdit), "Ebb at four.")
        qtbot.keyClicks(child(dialog, QLineEdit, "Below the heading"), "Tides")
        said.append(dialog.told.text())
        can_do.append(bool(dialog.do and dialog.do.isEnabled()))
        child(dialog, QCheckBox).click()
        child(dialog, QComboBox, "Where").setCurrentIndex(1)
        said.append(dialog.told.text())
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(QDialog, "exec", answer)
    station.notes.ask_journal()
    (page,) = (notes_path / "Journal").glob("*.md")
    assert page.read_text() == "## Tides\n\nEbb at four.\n"
    assert said[0] == "There is no heading “Tides” in this note. Choose another, or let it be made."
    assert said[1].startswith(f"The note Journal/{page.name} will be made.")
    station.notes.ask_journal()
    assert page.read_text().count("Ebb at four.") == 2
    assert page.read_text().count("## Tides") == 1
    assert can_do == [False, True]


def test_a_note_opened_whole_leads_to_its_headings_and_links(
    qtbot: QtBot, station: SourcesStation, session: Session, window: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    whole = opened_whole(station, session, "mill.md")
    doors = [one for one in whole.findChildren(QPushButton) if one.toolTip() == "Go there in the text"]
    assert [door.text() for door in doors] == ["Wheel", "Pond"]
    qtbot.mouseClick(doors[1], Qt.MouseButton.LeftButton)
    assert whole.body.textCursor().block().text() == "# Pond"
    qtbot.waitUntil(lambda: whole.refers_head.text() == "What refers here: 1", timeout=PATIENCE_MS)
    (door,) = [one for one in whole.findChildren(QPushButton) if one.text() == "The sea"]
    outside: list[str] = []
    monkeypatch.setattr(whole.desk, "open_outside", outside.append)
    whole.follow("http://tide.example/")
    whole.follow("Places/sea.md")
    assert (outside, whole.title.text()) == (["http://tide.example/"], "The sea")
    whole.follow("../mill.md")
    assert whole.title.text() == "The mill"
    qtbot.mouseClick(door, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(
        lambda: station.panel.entry is not None and station.panel.entry.title == "The sea", timeout=PATIENCE_MS
    )


def test_the_toolbar_writes_markdown(qtbot: QtBot, station: SourcesStation, session: Session, notes_path: Path) -> None:
    whole = opened_whole(station, session, "Places/sea.md")
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
    assert not station.middle.is_open("whole")
    qtbot.waitUntil(
        lambda: (notes_path / "Places" / "sea.md").read_text().endswith("---\n\n**ebb**\n"), timeout=PATIENCE_MS
    )
    assert (notes_path / "Places" / "sea.md").read_text().startswith(SEA.split("\n\nBack", maxsplit=1)[0])


def test_what_another_program_writes_meanwhile_is_merged_or_kept_beside(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session, notes_path: Path
) -> None:
    path = notes_path / "mill.md"
    whole = opened_whole(station, session, "mill.md")
    assert whole.body.find("turns")
    qtbot.keyClicks(whole.body, "turns again")
    path.write_text(MILL.replace("# Pond", "# The pond"))
    whole.keep_text()
    assert path.read_text() == MILL.replace("# Pond", "# The pond").replace("It turns.", "It turns again.")
    assert "both changes are kept" in window.notice.text.text()
    whole.show_entry(session.place("Notebook").key, note(session, "mill.md"))
    assert whole.body.find("turns again")
    qtbot.keyClicks(whole.body, "stands")
    path.write_text(path.read_text().replace("turns again", "has gone"))
    whole.keep_text()
    assert "It has gone." in path.read_text()
    assert "It stands." in (notes_path / "mill (mine).md").read_text()


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
    assert sum(place.name.startswith("Theirs") for place in session.places()) == 1
