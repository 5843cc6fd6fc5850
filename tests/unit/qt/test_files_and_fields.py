"""Files of an entry, marks of an entry, sample pages and the fields of templates, by mouse and keyboard."""

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QImage
from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog, QPushButton
from pytestqt.qtbot import QtBot

from conftest import HERON
from helpers import undo
from wily_magpie.core.commands.capture import KeepSlip
from wily_magpie.core.commands.entries import AddEntry, SetBody, SetText
from wily_magpie.core.commands.marks import PutMark
from wily_magpie.core.commands.templates import SaveTemplate
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.rules import Rule
from wily_magpie.qt.dropped import from_mime
from wily_magpie.qt.editors.files_editor import FilesEditor
from wily_magpie.qt.editors.mark_row import MarkRow
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import SOURCES, TEMPLATES
from wily_magpie.qt.stations.sources.whole_entry import WholeEntryPage

PATIENCE_MS = 15_000
LEFT = Qt.MouseButton.LeftButton


def opened_whole(qtbot: QtBot, window: MainWindow, entry_id: int) -> WholeEntryPage:
    """The only source, opened over the whole width."""
    window.go(SOURCES)
    station = window.stack.sources
    station.show_question("collection:1", "sortBy title")
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 1, timeout=PATIENCE_MS)
    station.table.choose(entry_id)
    station.pages.open_chosen_whole()
    whole = station.pages.whole
    qtbot.waitUntil(lambda: whole.entry is not None and whole.entry.id == entry_id, timeout=PATIENCE_MS)
    return whole


def files(*paths: Path) -> QMimeData:
    """Files as they come from a file manager."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    return data


@pytest.fixture
def picture(tmp_path: Path) -> Path:
    """A small picture on the disk."""
    path = tmp_path / "wheel.png"
    image = QImage(40, 20, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.darkCyan)
    image.save(str(path))
    return path


def test_files_are_dropped_chosen_opened_taken_out_and_missed(
    qtbot: QtBot, window: MainWindow, session: Session, picture: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    entry_id = session.do(AddEntry("collection:1", "The wheel", {}))
    form = opened_whole(qtbot, window, entry_id).form
    more = next(one for one in form.findChildren(QPushButton) if "more field" in one.text())
    qtbot.mouseClick(more, LEFT)
    qtbot.waitUntil(lambda: bool(form.findChildren(FilesEditor)), timeout=PATIENCE_MS)

    def editor() -> FilesEditor:
        return form.findChildren(FilesEditor)[0]

    def names() -> list[str]:
        return [item.text() for row in range(editor().list.count()) if (item := editor().list.item(row)) is not None]

    def stored() -> tuple[str, ...]:
        entry = session._library.place("Sources").entry(entry_id)
        found = entry.value("files") if entry is not None else None
        return found if isinstance(found, tuple) else ()

    data = files(picture)
    copy, none = Qt.DropAction.CopyAction, Qt.KeyboardModifier.NoModifier
    editor().dropEvent(QDropEvent(QPointF(5, 5), copy, data, LEFT, none))
    qtbot.waitUntil(lambda: names() == ["wheel.png"], timeout=PATIENCE_MS)
    letter = picture.with_name("letter.txt")
    letter.write_text("Ebb at four.")
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(letter)], ""))
    editor().ask()
    qtbot.waitUntil(lambda: names() == ["wheel.png", "letter.txt"], timeout=PATIENCE_MS)
    opened: list[str] = []
    editor().opened.connect(lambda _path, name: opened.append(name))
    monkeypatch.setattr("PyQt6.QtGui.QDesktopServices.openUrl", lambda _url: True)
    first = editor().list.item(0)
    assert first is not None
    assert not first.icon().isNull()
    editor().list.itemActivated.emit(first)
    assert opened == ["wheel.png"]
    editor().list.setCurrentRow(0)
    qtbot.keyClick(editor(), Qt.Key.Key_Delete)
    qtbot.waitUntil(lambda: names() == ["letter.txt"], timeout=PATIENCE_MS)
    undo(session)
    qtbot.waitUntil(lambda: names() == ["wheel.png", "letter.txt"], timeout=PATIENCE_MS)
    path = session._library.blobs.file_path(stored()[1])
    assert path is not None
    path.unlink()
    session.do(SetText("collection:1", [entry_id], "site", "Wick"))
    qtbot.waitUntil(lambda: names() == ["wheel.png", "letter.txt — missing"], timeout=PATIENCE_MS)
    lost = editor().list.item(1)
    assert lost is not None
    editor().list.itemActivated.emit(lost)
    assert opened == ["wheel.png"], "what is missing is not opened"


def test_marks_of_an_entry_are_commented_found_and_taken_away(
    qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    entry_id = session.do(AddEntry("collection:1", "The wheel", {}))
    session.do(SetBody("collection:1", entry_id, "The pond.\n\nThe wheel turns with the ebb.\n", ""))
    session.do(PutMark("collection:1", entry_id, Mark("turns with the ebb", "evidence", "", "The wheel ", ".")))
    whole = opened_whole(qtbot, window, entry_id)
    qtbot.waitUntil(
        lambda: whole.marks.head.text() == "Marks: 1" and bool(whole.findChildren(MarkRow)), timeout=PATIENCE_MS
    )
    qtbot.waitUntil(lambda: "turns with" in whole.preview.toPlainText(), timeout=PATIENCE_MS)
    (row,) = whole.findChildren(MarkRow)
    qtbot.mouseClick(row.passage, LEFT)
    assert whole.preview.textCursor().selectedText() == "turns with the ebb"
    row.comment.setFocus()
    qtbot.keyClicks(row.comment, "Slowly?")
    qtbot.keyClick(row.comment, Qt.Key.Key_Return)

    def comments() -> list[str]:
        return [mark.comment for mark in session.reader.entries.marks("collection:1", entry_id)]

    qtbot.waitUntil(lambda: comments() == ["Slowly?"], timeout=PATIENCE_MS)

    def shown() -> list[MarkRow]:
        return [one for one in whole.findChildren(MarkRow) if one.mark.comment == "Slowly?"]

    qtbot.waitUntil(lambda: len(shown()) == 1, timeout=PATIENCE_MS)
    shown()[0].removed.emit(shown()[0].mark)
    qtbot.waitUntil(lambda: whole.marks.head.text() == "No marks yet", timeout=PATIENCE_MS)
    undo(session)
    qtbot.waitUntil(lambda: whole.marks.head.text() == "Marks: 1", timeout=PATIENCE_MS)
    undo(session)
    assert comments() == [""]


def test_a_view_is_named_kept_and_changed(
    qtbot: QtBot, window: MainWindow, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    session.do(AddEntry("collection:1", "The wheel", {}))
    window.go(SOURCES)
    station = window.stack.sources
    station.show_question("collection:1", "title = wheel")
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("  ", True))
    before = len(session.reader.entries.views())
    station.views.ask_name()
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("Wheels", True))
    station.views.ask_name()

    def kept() -> list[str]:
        return [one.question for one in session.reader.entries.views() if one.name == "Wheels"]

    qtbot.waitUntil(lambda: kept() == ["title = wheel"], timeout=PATIENCE_MS)
    assert len(session.reader.entries.views()) == before + 1, "a view needs a name"
    qtbot.waitUntil(lambda: station.state.view is not None and station.state.view.name == "Wheels", timeout=PATIENCE_MS)
    station.sentence.tell(session.reader.entries.question("collection:1", "title = pond"))
    qtbot.waitUntil(station.page.keep_changes.isVisible, timeout=PATIENCE_MS)
    station.views.keep_changes()
    qtbot.waitUntil(lambda: kept() == ["title = pond"], timeout=PATIENCE_MS)
    undo(session)
    assert kept() == ["title = wheel"]


def test_samples_come_from_addresses_files_and_kept_pages(
    qtbot: QtBot, window: MainWindow, session: Session, tmp_path: Path
) -> None:
    reading = read_page(session.fetcher.page(HERON))
    session.do(KeepSlip(session.reader.slips.slip(reading)))
    window.go(TEMPLATES)
    station = window.stack.templates
    bench = station.bench
    qtbot.waitUntil(lambda: bench.template is not None, timeout=PATIENCE_MS)
    station.open("Article")
    qtbot.waitUntil(lambda: bench.template is not None and bench.template.name == "Article", timeout=PATIENCE_MS)

    def count() -> int:
        return len(session._library.templates.samples("Article"))

    assert not bench.sample_commands.add_typed("http://estuary-courier.example/ not an address")
    assert "not" in window.notice.text.text()
    file = tmp_path / "page.html"
    file.write_text("<html><head><title>A mill of mine</title></head><body><p>Some words of it.</p></body></html>")
    bench.sample_commands.take_dropped(from_mime(files(file)))
    qtbot.waitUntil(lambda: count() == 1, timeout=PATIENCE_MS)
    bench.sample_commands.fill_menu(bench.menu)
    qtbot.waitUntil(lambda: bool(bench.menu.actions()), timeout=PATIENCE_MS)
    actions = [one for one in bench.menu.actions() if one.text().startswith("Heron Mill")]
    actions[0].trigger()
    qtbot.waitUntil(lambda: count() == 2, timeout=PATIENCE_MS)
    titles = [row.title for row in session._library.templates.samples("Article")]
    assert titles == ["A mill of mine", "Heron Mill turns again after ninety years"]


def test_fields_of_templates_are_renamed_added_and_taken_out(
    qtbot: QtBot, window: MainWindow, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    paper = session.reader.templates.template("Paper")
    more = {name: Rule("finding", (name,)) for name in ("doi", "license")}
    session.do(SaveTemplate(replace(paper, fields={**paper.fields, **more}), "Paper"))
    window.go(TEMPLATES)
    window.stack.templates.open_fields()
    page = window.stack.templates.fields

    def labels() -> dict[str, str]:
        return {field.key: field.label for field in session.place("Sources").fields}

    def choose(key: str) -> None:
        page.table.selectRow(next(at for at, use in enumerate(page.uses) if use.key == key))

    qtbot.waitUntil(lambda: any(use.key == "doi" for use in page.uses), timeout=PATIENCE_MS)
    choose("doi")
    assert (page.add.isVisibleTo(page), page.remove.text()) == (True, "Remove its rules")
    qtbot.mouseClick(page.add, LEFT)
    qtbot.waitUntil(lambda: any(use.key == "doi" and use.is_there for use in page.uses), timeout=PATIENCE_MS)
    assert "doi" in labels()
    choose("site")
    assert not page.remove.isEnabled(), "templates fill it"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a, **_k: ("Outlet", True))
    qtbot.mouseClick(page.rename, LEFT)
    qtbot.waitUntil(lambda: "Outlet" in labels().values(), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: any(use.label == "Outlet" for use in page.uses), timeout=PATIENCE_MS)
    choose("licence" if any(use.key == "licence" for use in page.uses) else "license")
    lost = page.chosen()
    assert lost is not None
    assert not lost.is_there
    qtbot.mouseClick(page.remove, LEFT)
    qtbot.waitUntil(lambda: not any(use.key == lost.key for use in page.uses), timeout=PATIENCE_MS)
    assert not any(
        lost.key in template.fields for template in session.reader.templates.templates() if template.writes == "Sources"
    )
    unused = next(use for use in page.uses if use.is_there and not use.templates)
    choose(unused.key)
    qtbot.mouseClick(page.remove, LEFT)
    qtbot.waitUntil(lambda: unused.key not in labels(), timeout=PATIENCE_MS)
    undo(session)
    assert unused.key in labels()
    assert QApplication.activeModalWidget() is None


def test_marks_are_seen_where_one_reads_with_their_comments_beside_them(
    qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    entry_id = session.do(AddEntry("collection:1", "The wheel", {}))
    text = "The mill 🌊 turns.\n\nThe mill stands.\n\n" + "More of it. " * 200 + "\n\nThe ebb is slow.\n"
    session.do(SetBody("collection:1", entry_id, text, ""))
    for mark in (
        Mark("The mill", "question", "Which one?", "turns. ", " stands"),
        Mark("ebb\nis", "evidence", "Since when?"),
        Mark("a flood", "idea", "Not in this text."),
    ):
        session.do(PutMark("collection:1", entry_id, mark))
    window.resize(1280, 800)
    window.read_entry("collection:1", entry_id, [entry_id])
    view = window.stack.read.view
    qtbot.waitUntil(lambda: len(view.marks) == 3, timeout=PATIENCE_MS)
    shown = view.extraSelections()
    assert [one.cursor.selectedText() for one in shown] == ["The mill", "ebb is"]
    assert shown[0].cursor.block().text() == "The mill stands."
    assert shown[0].format.underlineStyle() != shown[1].format.underlineStyle()
    notes = [note for _, note in view.marked.notes]
    qtbot.waitUntil(lambda: all(note.isVisible() for note in notes), timeout=PATIENCE_MS)
    assert [note.text() for note in notes] == ["Which one?", "Since when?"]
    assert notes[0].y() == view.cursorRect(view.marked.notes[0][0]).top()
    before = notes[0].y()
    qtbot.keyClick(view, Qt.Key.Key_PageDown)
    assert notes[0].y() < before, "comments go along with the text"
    undo(session)
    qtbot.waitUntil(lambda: len(view.marks) == 2, timeout=PATIENCE_MS)
    window.resize(760, 800)
    qtbot.waitUntil(lambda: not view.marked.margin.isVisible(), timeout=PATIENCE_MS)
