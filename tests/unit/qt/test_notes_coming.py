"""A folder of very many notes in the window: it is said that they are being read, and those that are there are shown."""

import threading
from concurrent.futures import wait
from itertools import count
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from driving import notice_button
from helpers import count_as_many
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.mirror import KeepInStep, MirrorInto
from wily_magpie.core.events import OutOfStep
from wily_magpie.core.places import own_folders
from wily_magpie.core.places.notes import files
from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import REVIEW, SOURCES
from wily_magpie.qt.strange_folders import ask_about_folders

PATIENCE_MS = 15_000
COUNT = 60


@pytest.mark.parametrize("is_at_once", [False, True])
def test_it_is_never_said_that_there_are_none_while_they_are_read(
    qtbot: QtBot,
    window: MainWindow,
    session: Session,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    *,
    is_at_once: bool,
) -> None:
    """Args: is_at_once: whether an answer is there as soon as it is asked for."""
    if is_at_once:
        ask = session.ask
        monkeypatch.setattr(session, "ask", lambda query: next(iter(wait([ask(query)]).done)))
    count_as_many(monkeypatch, COUNT // 2, 5)
    folder = tmp_path / "Many"
    folder.mkdir()
    for number in range(COUNT):
        (folder / f"{number:02}.md").write_text(f"Text {number}\n", "utf-8")
    gates, order = {0: threading.Event(), COUNT // 2: threading.Event()}, count()
    taken = files.NoteFiles.taken

    def held(self: files.NoteFiles, path: str, stamp: tuple[int, int]) -> object:
        gate = gates.get(next(order))
        if gate is not None:
            gate.wait(20)
        return taken(self, path, stamp)

    monkeypatch.setattr(files.NoteFiles, "taken", held)
    window.go(SOURCES)
    station, said = window.stack.sources, set[str]()
    page = station.page
    station.answered.connect(lambda: said.add(page.empty.text() if page.stack.currentWidget() is page.empty else ""))
    station.notes.take_folder(folder)
    qtbot.waitUntil(lambda: "Its notes are being read: 0 of 60." in page.empty.text(), timeout=PATIENCE_MS)
    gates[0].set()
    qtbot.waitUntil(lambda: station.table.table.rowCount() > 0, timeout=PATIENCE_MS)
    assert page.coming.text().endswith(f"of {COUNT} notes are read")
    assert [job.label for job in window.bridge.jobs()] == ["Reading the notes of Many"]
    station.search("text")
    heading = station.results.heading
    qtbot.waitUntil(lambda: f"of {COUNT} notes are read so far." in heading.text(), timeout=PATIENCE_MS)
    window.go(REVIEW)
    review = window.stack.review
    review.place.setCurrentIndex(review.place.findText("Many"))
    review.place.activated.emit(review.place.currentIndex())
    assert review.missing.text().endswith(f"of {COUNT} notes are read so far.")
    window.go(SOURCES)
    station.pages.show_page(page)
    gates[COUNT // 2].set()
    qtbot.waitUntil(lambda: station.table.table.rowCount() == COUNT, timeout=PATIENCE_MS)
    qtbot.waitUntil(page.coming.isHidden, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: review.missing.text() == "", timeout=PATIENCE_MS)
    assert not [one for one in said if "no Markdown files" in one]


def test_an_empty_folder_is_said_to_be_one(qtbot: QtBot, window: MainWindow, tmp_path: Path) -> None:
    window.go(SOURCES)
    station = window.stack.sources
    (tmp_path / "None").mkdir()
    station.notes.take_folder(tmp_path / "None")
    qtbot.waitUntil(lambda: "There are no Markdown files" in station.page.empty.text(), timeout=PATIENCE_MS)


def test_a_folder_that_was_not_set_up_here_is_asked_about_and_used_by_a_click(
    qtbot: QtBot, window: MainWindow, session: Session, notes_path: Path
) -> None:
    (notes_path / "mill.md").write_text("A mill.")
    (session.folder / own_folders.FILE).unlink()
    session._library.own_folders.known = frozenset()
    session.look_around(is_own=True)
    qtbot.waitUntil(lambda: any(one.is_strange for one in window.bridge.overview.places), timeout=PATIENCE_MS)
    place = session.place("Notebook").key
    window.go(SOURCES)
    window.stack.sources.show_question(place, "")
    ask_about_folders(window.desk)
    assert "have not set up here" in window.notice.text.text()
    qtbot.mouseClick(notice_button(window, "Use it"), Qt.MouseButton.LeftButton)
    table = window.stack.sources.table.table
    qtbot.waitUntil(lambda: table.rowCount() == 1, timeout=PATIENCE_MS)
    assert not session.place("Notebook").is_strange


def test_what_becomes_of_an_emptied_note_is_asked_and_done_by_a_click(
    qtbot: QtBot, window: MainWindow, session: Session, notes_path: Path
) -> None:
    place = session.place("Notebook").key
    number = session.do(AddEntry("collection:1", "Heron Mill", {}, "One."))
    session.do(MirrorInto(place, "collection:1"))
    path = notes_path / "Sources" / "Heron Mill.md"
    before = path.read_text()
    path.write_text("")
    session.refresh_notes(place)
    (pair,) = session.do(KeepInStep(place))
    window.bridge.out_of_step.emit(OutOfStep(place, pair.path, number, pair.told[0], is_asked=True))
    assert "is empty now. The entry is as it was." in window.notice.text.text()
    qtbot.mouseClick(notice_button(window, "Write it again from the entry"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: path.read_text() == before, timeout=PATIENCE_MS)
