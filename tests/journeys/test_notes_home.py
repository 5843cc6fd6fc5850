"""Notes as a home: a view is put into a note, today's page is opened and written into, links are completed, folders filter."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, Qt
from PyQt6.QtGui import QColor, QImage, QTextCursor
from PyQt6.QtWidgets import QDialog, QPushButton, QToolButton
from pytestqt.qtbot import QtBot

from driving import note_id, notes_station
from wily_magpie.core.commands.entries import AddEntry, SetText
from wily_magpie.core.query import cql
from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.stations.sources.day_page import today
from wily_magpie.qt.stations.sources.list_form import ListDialog
from wily_magpie.qt.stations.sources.mirror_form import MirrorDialog
from wily_magpie.qt.stations.sources.note_commands import FolderDialog
from wily_magpie.qt.stations.sources.station import SourcesStation
from wily_magpie.qt.stations.sources.whole_entry import BOTH, PAGE, TEXT, WholeEntryPage

PATIENCE_MS = 15_000
MILL = "# Wheel\n\nSee [[sea]] and [[pnd]].\n"
SEA = "---\nstatus: open\n---\nIt ebbs.\n"


@pytest.fixture
def station(qtbot: QtBot, window: MainWindow, session: Session, notes_path: Path) -> SourcesStation:
    """The Sources station with a notes folder."""
    (notes_path / "Coast").mkdir()
    (notes_path / "mill.md").write_text(MILL)
    (notes_path / "Coast" / "sea.md").write_text(SEA)
    return notes_station(qtbot, window, session)


def opened(qtbot: QtBot, window: MainWindow, session: Session, path: str) -> WholeEntryPage:
    wanted = note_id(session, path)
    window.show_note(session.place("Notebook").key, wanted)
    whole = window.stack.sources.pages.whole
    qtbot.waitUntil(
        lambda: whole.entry is not None and whole.entry.id == wanted and whole.side.entry == whole.entry,
        timeout=PATIENCE_MS,
    )
    return whole


def click(qtbot: QtBot, inside: object, text: str) -> None:
    """Clicks a button by its text."""
    button = next(one for one in inside.findChildren(QToolButton) if one.text().startswith(text))  # type: ignore[attr-defined]
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)


def test_a_view_is_put_into_a_note_and_kept_filled(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session, notes_path: Path
) -> None:
    session.keep_lists_filled()
    sources = session.place("Sources").key
    mill = session.do(AddEntry(sources, "Heron Mill", {"status": "to read"}))
    window.show_question(sources, 'status = "to read" sortBy title')
    qtbot.waitUntil(lambda: station.key == sources and station.table.table.rowCount() == 1, timeout=PATIENCE_MS)
    window.commands.bound["list-into-note"].run()
    dialog = station.findChild(ListDialog)
    assert dialog is not None
    assert (dialog.place.currentData(), dialog.asked.where.text(), dialog.asked.sort.text()) == (
        "Sources",
        'status = "to read"',
        "title",
    )
    cross = next(one for one in dialog.asked.sentence.findChildren(QPushButton) if one.objectName() == "cross")
    assert dialog.asked.sentence.isVisible()
    qtbot.mouseClick(cross, Qt.MouseButton.LeftButton)
    assert (dialog.asked.where.text(), dialog.asked.sort.text(), dialog.form().where) == ("", "title", "")
    dialog.asked.sentence.go_back()
    assert dialog.asked.where.text() == 'status = "to read"'
    dialog.place.setCurrentIndex(dialog.place.findData("all"))
    assert not dialog.asked.sentence.isVisible(), "over all places there are no fields to make a sentence of"
    dialog.place.setCurrentIndex(dialog.place.findData("Sources"))
    assert dialog.asked.sentence.isVisible()
    dialog.asked.where.setText("nofield = 1")
    assert not dialog.asked.sentence.isVisible()
    qtbot.waitUntil(lambda: "nofield" in dialog.told.text() and not dialog.do.isEnabled(), timeout=PATIENCE_MS)  # type: ignore[union-attr]
    dialog.asked.where.setText('status = "to read"')
    dialog.shape.setCurrentIndex(dialog.shape.findData("list"))
    qtbot.waitUntil(lambda: "Heron Mill" in dialog.preview.toPlainText(), timeout=PATIENCE_MS)
    qtbot.mouseClick(dialog.do, Qt.MouseButton.LeftButton)
    path = notes_path / "Home.md"
    qtbot.waitUntil(lambda: path.exists() and "Heron Mill" in path.read_text(), timeout=PATIENCE_MS)
    session.do(SetText(sources, (mill,), "status", "read"))
    qtbot.waitUntil(lambda: "Nothing here" in path.read_text(), timeout=PATIENCE_MS)

    whole = opened(qtbot, window, session, "Home.md")
    click(qtbot, whole.side, "Sources: status")
    change = whole.findChild(ListDialog)
    assert change is not None
    change.asked.where.setText("status == read")
    qtbot.waitUntil(lambda: "Heron Mill" in change.preview.toPlainText(), timeout=PATIENCE_MS)
    qtbot.mouseClick(change.do, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Heron Mill" in path.read_text(), timeout=PATIENCE_MS)

    whole.body.moveCursor(QTextCursor.MoveOperation.End)
    stood = whole.body.textCursor().position()
    session.do(AddEntry(sources, "Wick Mill", {"status": "read"}))
    qtbot.waitUntil(lambda: "Wick Mill" in whole.body.text(), timeout=PATIENCE_MS)
    assert whole.body.textCursor().position() == stood, "one goes on where one is"

    path.write_text(path.read_text().replace("Heron", "My own"))
    session.refresh_notes()
    qtbot.waitUntil(lambda: "written into by hand" in " ".join(said(whole)), timeout=PATIENCE_MS)
    click(qtbot, whole.side, "Keep it below")
    qtbot.waitUntil(lambda: "My own" in path.read_text() and "Heron Mill" in path.read_text(), timeout=PATIENCE_MS)


def said(whole: WholeEntryPage) -> list[str]:
    from PyQt6.QtWidgets import QLabel

    return [one.text() for one in whole.side.findChildren(QLabel)]


def test_todays_page_is_opened_made_and_written_into(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session, notes_path: Path
) -> None:
    qtbot.keyClick(window, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    day = station.pages.day
    qtbot.waitUntil(lambda: day.entry is not None, timeout=PATIENCE_MS)
    path = notes_path / "Journal" / f"{today().isoformat()}.md"
    assert path.exists()
    qtbot.keyClicks(day.text, "Low water at nine.")
    day.heading.setText("Seen")
    qtbot.keyClick(day.text, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: "Low water" in day.view.toPlainText(), timeout=PATIENCE_MS)
    assert path.read_text().endswith("## Seen\n\nLow water at nine.\n")
    assert day.text.text() == ""
    click(qtbot, day, "Yesterday")
    qtbot.waitUntil(lambda: day.none.isVisible() and day.make.isVisible(), timeout=PATIENCE_MS)
    qtbot.mouseClick(day.make, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: day.entry is not None and day.view.isVisible(), timeout=PATIENCE_MS)
    written = [date for date, button in day.calendar.buttons.items() if button.property("written")]
    assert day.day in written


def test_an_editor_that_goes_on(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session, notes_path: Path
) -> None:
    whole = opened(qtbot, window, session, "mill.md")
    body = whole.body
    body.setFocus()
    body.moveCursor(QTextCursor.MoveOperation.End)
    qtbot.keyClick(body, Qt.Key.Key_Return)
    qtbot.keyClicks(body, "- one")
    for text in ("two", ""):
        qtbot.keyClick(body, Qt.Key.Key_Return)
        qtbot.keyClicks(body, text)
    assert body.text().endswith("- one\n- two\n- ")
    qtbot.keyClick(body, Qt.Key.Key_Return)
    assert body.text().endswith("- two\n")
    qtbot.keyClicks(body, "|a|b|")
    body.insertPlainText("\n|-|-|")
    qtbot.keyClick(body, Qt.Key.Key_Return)
    qtbot.keyClicks(body, "long cell")
    qtbot.keyClick(body, Qt.Key.Key_Tab)
    assert body.text().endswith("| a         | b   |\n| --------- | --- |\n| long cell |     |")
    body.moveCursor(QTextCursor.MoveOperation.End)
    qtbot.keyClicks(body, "  [[se")
    popup = body.completer.popup()
    assert popup is not None
    qtbot.waitUntil(popup.isVisible, timeout=PATIENCE_MS)
    qtbot.keyClick(popup, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: body.text().endswith("[[sea]]"), timeout=PATIENCE_MS)
    image = QImage(4, 4, QImage.Format.Format_RGB32)
    image.fill(QColor("red"))
    mime = QMimeData()
    mime.setImageData(image)
    body.insertFromMimeData(mime)
    qtbot.waitUntil(lambda: body.text().endswith("![picture.png](Files/picture.png)"), timeout=PATIENCE_MS)
    assert (notes_path / "Files" / "picture.png").exists()
    assert not whole.count.text().startswith("0")
    for face, shows in ((PAGE, (False, True)), (TEXT, (True, False)), (BOTH, (True, True))):
        qtbot.mouseClick(whole.faces[face], Qt.MouseButton.LeftButton)
        assert (whole.text_box.isVisible(), whole.preview.isVisible()) == shows


def test_links_here_and_broken_ones(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session, notes_path: Path
) -> None:
    whole = opened(qtbot, window, session, "Coast/sea.md")
    assert "See [[sea]] and [[pnd]]." in said(whole)
    click(qtbot, whole.side, "mill")
    qtbot.waitUntil(lambda: whole.side.entry is not None and whole.side.entry.path == "mill.md", timeout=PATIENCE_MS)
    click(qtbot, whole.side, "Make it")
    qtbot.waitUntil((notes_path / "pnd.md").exists, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: "Links that lead nowhere: 1" not in said(whole), timeout=PATIENCE_MS)


def test_all_links_are_reached_where_very_many_lead_here(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session, notes_path: Path
) -> None:
    for number in range(60):
        (notes_path / f"tide {number:02}.md").write_text(f"Tide {number:02} of [[sea]].\n")
    session.refresh_notes(session.place("Notebook").key)
    whole = opened(qtbot, window, session, "Coast/sea.md")
    assert "What links here: 61" in said(whole)
    assert ("40 of each are shown." in said(whole), "Tide 59 of [[sea]]." in said(whole)) == (True, False)
    click(qtbot, whole.side, "Show more")
    qtbot.waitUntil(lambda: "Tide 59 of [[sea]]." in said(whole), timeout=PATIENCE_MS)
    assert "of each are shown" not in said(whole)


def test_folders_filter_and_take_notes(
    qtbot: QtBot,
    window: MainWindow,
    station: SourcesStation,
    session: Session,
    notes_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    tree = station.left.folders
    qtbot.waitUntil(lambda: tree.isVisible() and tree.topLevelItemCount() == 1, timeout=PATIENCE_MS)
    coast = tree.topLevelItem(0).child(0)  # type: ignore[union-attr]
    assert coast is not None
    tree.setCurrentItem(coast)
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 1, timeout=PATIENCE_MS)
    assert "note.path =/begins" in cql.write(station.question)
    tree.setCurrentItem(tree.topLevelItem(0))
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 2, timeout=PATIENCE_MS)

    def answer(dialog: FolderDialog) -> int:
        qtbot.waitUntil(lambda: "Coast/mill.md" in dialog.told.text(), timeout=PATIENCE_MS)
        assert dialog.do is not None
        assert dialog.do.isEnabled()
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(FolderDialog, "exec", answer)
    tree.move_asked.emit("", (note_id(session, "mill.md"),), "Coast")
    qtbot.waitUntil((notes_path / "Coast" / "mill.md").exists, timeout=PATIENCE_MS)


def test_a_collection_is_kept_in_step_after_a_look(
    qtbot: QtBot,
    window: MainWindow,
    station: SourcesStation,
    session: Session,
    notes_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    sources = session.place("Sources").key
    session.do(AddEntry(sources, "Heron Mill", {"status": "read"}))

    def answer(dialog: MirrorDialog) -> int:
        assert dialog.do is not None
        assert not dialog.do.isEnabled()
        dialog.of.setCurrentIndex(dialog.of.findData(sources))
        dialog.fields.setText("title, nofield")
        qtbot.waitUntil(lambda: "nofield" in dialog.told.text(), timeout=PATIENCE_MS)
        dialog.fields.setText("title, status")
        qtbot.waitUntil(lambda: "1 notes will be made" in dialog.told.text(), timeout=PATIENCE_MS)
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(MirrorDialog, "exec", answer)
    window.commands.bound["mirror"].run()
    path = notes_path / "Sources" / "Heron Mill.md"
    qtbot.waitUntil(path.exists, timeout=PATIENCE_MS)
    assert "status: read\n" in path.read_text()


def test_an_address_of_an_entry_opens_it(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session
) -> None:
    window.open_outside("wily-magpie:open?place=Notebook&note=Coast%2Fsea.md")
    whole = station.pages.whole
    qtbot.waitUntil(lambda: whole.entry is not None and whole.entry.path == "Coast/sea.md", timeout=PATIENCE_MS)
    window.open_outside("wily-magpie:open?place=Nowhere&entry=1")
    qtbot.waitUntil(lambda: "not here" in window.notice.text.text(), timeout=PATIENCE_MS)
