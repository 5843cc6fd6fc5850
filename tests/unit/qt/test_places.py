"""Places are set up, edited like a spreadsheet, looked at whole and thrown away, by mouse and keyboard."""

import shutil
import threading
from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QItemSelectionModel, QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QImage
from PyQt6.QtWidgets import QApplication, QDialog, QMenu, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from helpers import undo, undo_label
from wily_magpie.core.commands.entries import AddEntry, RemoveEntries, SetText
from wily_magpie.core.commands.fields import AddField
from wily_magpie.core.commands.files import TakeDropped
from wily_magpie.core.commands.places import ChangePlace
from wily_magpie.core.commands.views import KeepView
from wily_magpie.core.entries.field import FieldPlan, Settings
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import EnvironmentFailure
from wily_magpie.core.exchange import as_text as written
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places.api import Place, PlaceSettings
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.qt.dropped import from_mime
from wily_magpie.qt.editors.field_editor import FieldEditor
from wily_magpie.qt.front_door import FrontDoor
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.single_instance import LOOK_ONLY, NOTHING, SHOW, SingleInstance
from wily_magpie.qt.station_stack import READ, SOURCES
from wily_magpie.qt.stations.sources.station import SourcesStation

PATIENCE_MS = 15_000
CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def sources(session: Session) -> Place:
    """Five entries in Sources."""
    for number in range(5):
        values = {"status": "to read" if number % 2 else "read", "price": float(number), "site": f"Site {number}"}
        session.do(AddEntry("collection:1", f"Mill {number}", values))
    return session._library.place("Sources")


@pytest.fixture
def station(qtbot: QtBot, window: MainWindow, session: Session, sources: Place) -> SourcesStation:
    """The Sources station with them, by title."""
    window.go(SOURCES)
    made = window.stack.sources
    made.show_question(sources.key, "sortBy title")
    by_title = list(sources.listing(session.reader.entries.question(sources.key, "sortBy title")).ids)
    qtbot.waitUntil(lambda: list(made.table.table.listing.ids) == by_title, timeout=PATIENCE_MS)
    made.table.setFocus()
    return made


def at(station: SourcesStation, row: int, key: str) -> None:
    """Chooses a cell, whatever keys were last pressed elsewhere."""
    column = next(n for n, field in enumerate(station.table.table.columns) if field.key == key)
    selection = station.table.selectionModel()
    assert selection is not None
    index = station.table.table.index(row, column)
    selection.setCurrentIndex(index, QItemSelectionModel.SelectionFlag.ClearAndSelect)


def has_gap(station: SourcesStation, row: int) -> bool:
    """Whether the entry of a row breaks a rule of its place."""
    entry = station.table.table.entry_at(row)
    return entry is not None and entry.value("gaps") is not None


def values(session: Session, key: str) -> list[object]:
    """A field of all sources, by title."""
    place = session._library.place("Sources")
    ids = place.listing(session.reader.entries.question(place.key, "sortBy title")).ids
    return [row.value(key) for row in place.rows(list(ids))]


def focus() -> QWidget:
    widget = QApplication.focusWidget()
    assert widget is not None
    return widget


def copy(text: str) -> None:
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    clipboard.setText(text)


def copied() -> str:
    clipboard = QApplication.clipboard()
    assert clipboard is not None
    return clipboard.text()


def test_typing_replaces_a_cell_and_enter_and_tab_go_on(
    qtbot: QtBot, station: SourcesStation, session: Session
) -> None:
    at(station, 1, "site")
    qtbot.keyClicks(station.table, "W")
    qtbot.keyClicks(focus(), "ick")
    qtbot.keyClick(focus(), Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: values(session, "site")[1] == "Wick", timeout=PATIENCE_MS)
    assert (station.table.currentIndex().row(), station.table.key_at(station.table.currentIndex().column())) == (
        2,
        "site",
    )
    qtbot.keyClick(station.table, Qt.Key.Key_F2)
    qtbot.keyClick(focus(), Qt.Key.Key_End)
    qtbot.keyClicks(focus(), "!")
    qtbot.keyClick(focus(), Qt.Key.Key_Tab)
    qtbot.waitUntil(lambda: values(session, "site")[2] == "Site 2!", timeout=PATIENCE_MS)
    assert station.table.currentIndex().row() == 2
    assert station.table.key_at(station.table.currentIndex().column()) != "site"
    at(station, 3, "site")
    qtbot.keyClicks(station.table, "x")
    qtbot.keyClick(focus(), Qt.Key.Key_Escape)
    assert not station.table.is_editing()
    assert values(session, "site")[3] == "Site 3"


def test_a_choice_is_edited_with_its_options(qtbot: QtBot, station: SourcesStation, session: Session) -> None:
    at(station, 0, "status")
    qtbot.keyClick(station.table, Qt.Key.Key_Return)
    qtbot.keyClicks(focus(), "quoted")
    qtbot.keyClick(focus(), Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: values(session, "status")[0] == "quoted", timeout=PATIENCE_MS)


def test_what_is_being_typed_is_not_taken_away_by_news(qtbot: QtBot, station: SourcesStation, session: Session) -> None:
    at(station, 1, "site")
    qtbot.keyClicks(station.table, "W")
    session.do(AddEntry("collection:1", "Aa first"))
    qtbot.wait(300)
    assert station.table.is_editing()
    assert station.table.table.rowCount() == 5
    qtbot.keyClicks(focus(), "ick")
    qtbot.keyClick(focus(), Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 6, timeout=PATIENCE_MS)
    after = [None, "Site 0", "Wick", "Site 2", "Site 3", "Site 4"]
    qtbot.waitUntil(lambda: values(session, "site") == after, timeout=PATIENCE_MS)


def test_cells_are_filled_down_blanked_and_undone_as_one_step(
    qtbot: QtBot, station: SourcesStation, session: Session
) -> None:
    at(station, 0, "site")
    for _ in range(3):
        qtbot.keyClick(station.table, Qt.Key.Key_Down, SHIFT)
    qtbot.keyClick(station.table, Qt.Key.Key_D, CONTROL)
    qtbot.waitUntil(lambda: values(session, "site") == ["Site 0"] * 4 + ["Site 4"], timeout=PATIENCE_MS)
    qtbot.keyClick(station.table, Qt.Key.Key_Delete)
    qtbot.waitUntil(lambda: values(session, "site") == [None] * 4 + ["Site 4"], timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: undo_label(session) == "Blank 4 cells", timeout=PATIENCE_MS)
    undo(session)
    undo(session)
    assert values(session, "site") == [f"Site {n}" for n in range(5)]


def test_cells_go_to_a_spreadsheet_and_come_back_with_new_rows(
    qtbot: QtBot, window: MainWindow, station: SourcesStation, session: Session
) -> None:
    at(station, 0, "title")
    qtbot.keyClick(station.table, Qt.Key.Key_Down, SHIFT)
    copy("")
    qtbot.keyClick(station.table, Qt.Key.Key_C, CONTROL)
    qtbot.waitUntil(lambda: written.from_cells(copied()) == [["Mill 0"], ["Mill 1"]], timeout=PATIENCE_MS)
    at(station, 4, "title")
    copy('Mill 4\tquoted\n"Two\nlines"\tread\nMill 6\tnew\n')
    qtbot.keyClick(station.table, Qt.Key.Key_V, CONTROL)
    qtbot.waitUntil(lambda: len(values(session, "title")) == 7, timeout=PATIENCE_MS)
    assert values(session, "title")[4:] == ["Mill 4", "Mill 6", "Two lines"]
    assert values(session, "status")[4:] == ["quoted", "new", "read"]
    qtbot.waitUntil(lambda: undo_label(session) == "Paste 3 rows", timeout=PATIENCE_MS)
    at(station, 0, "price")
    copy("7\ncheap")
    station.cells.paste()
    notice = window.notice.text
    qtbot.waitUntil(lambda: "“cheap” is not a number" in notice.text(), timeout=PATIENCE_MS)
    assert values(session, "price")[:2] == [7.0, 1.0]


def test_rows_are_copied_as_markdown_and_as_citations(
    qtbot: QtBot, station: SourcesStation, session: Session, sources: Place
) -> None:
    first = sources.listing(Question()).ids[0]
    session.do(SetText(sources.key, [first], "title", "A | B"))
    session.do(SetText(sources.key, [first], "authors", "Ada Penhallow and Tom Varley"))
    session.do(SetText(sources.key, [first], "published", "1926-03"))
    entry = session._library.place("Sources").rows([first])[0]
    assert written.citation(sources.fields, entry) == "Penhallow, Ada and Tom Varley (1926-03). A | B. Site 0."
    shown = station.table.table
    qtbot.waitUntil(lambda: "A | B" in str(shown.index(0, 0).data()), timeout=PATIENCE_MS)
    at(station, 0, "title")
    copy("")
    station.cells.copy_as("markdown")
    qtbot.waitUntil(lambda: copied() != "", timeout=PATIENCE_MS)
    lines = copied().splitlines()
    assert lines[0].startswith("| Title | Status |")
    assert lines[2].startswith("| A \\| B | read |")
    station.cells.copy_as("citations")
    qtbot.waitUntil(lambda: copied().endswith("."), timeout=PATIENCE_MS)


def test_a_field_is_set_for_many_at_once(
    qtbot: QtBot, station: SourcesStation, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    station.table.selectAll()
    field = next(field for field in station.table.table.columns if field.key == "status")

    def answer(dialog: QDialog) -> int:
        editor = dialog.findChild(FieldEditor)
        assert editor is not None
        qtbot.keyClicks(editor.focusProxy(), "quoted")
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(QDialog, "exec", answer)
    station.cells.set_for_all(field)
    qtbot.waitUntil(lambda: values(session, "status") == ["quoted"] * 5, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: undo_label(session) == "Change status of 5 entries", timeout=PATIENCE_MS)


def test_columns_are_moved_hidden_pinned_and_remembered(qtbot: QtBot, station: SourcesStation) -> None:
    keys = [field.key for field in station.table.table.columns]
    header = station.table.horizontalHeader()
    assert header is not None
    header.moveSection(keys.index("price"), 1)
    qtbot.waitUntil(lambda: [f.key for f in station.table.table.columns][:2] == ["title", "price"], timeout=PATIENCE_MS)
    at(station, 0, "status")
    menu = station.cells.menu()
    inner = next(action.menu() for action in menu.actions() if action.text() == "Columns")
    assert isinstance(inner, QMenu)
    next(action for action in inner.actions() if action.text() == "Hide Status").trigger()
    qtbot.waitUntil(lambda: "status" not in [f.key for f in station.table.table.columns], timeout=PATIENCE_MS)
    layout, fields = station.state_now().layout, station.place.fields if station.place else ()
    layout = layout.with_column("address", fields, is_shown=True)
    layout = layout.with_column("price", fields, width=30)
    station.arrange(replace(layout, pinned=2))
    qtbot.waitUntil(station.table.pinned.isVisible, timeout=PATIENCE_MS)
    assert "address" in [f.key for f in station.table.table.columns]
    width = station.table.columnWidth(1)
    assert station.table.characters(width) == 30
    bar, header = station.table.horizontalScrollBar(), station.table.pinned.horizontalHeader()
    assert bar is not None
    assert header is not None
    bar.setValue(bar.maximum())
    assert station.table.pinned.columnAt(3) == 0
    pinned = station.table.pinned
    assert pinned.width() == station.table.columnWidth(0) + width + 2 * pinned.frameWidth()
    station.open_place(station.place.key if station.place else "")
    qtbot.waitUntil(lambda: station.table.table.columns[1].key == "price", timeout=PATIENCE_MS)


def drop(station: SourcesStation, data: QMimeData, row: int | None = None) -> None:
    """Drops something onto the table, or onto a row of it."""
    index = station.table.table.index(row, 0) if row is not None else None
    place = station.table.visualRect(index).center() if index is not None else QPoint(5, station.table.height() - 60)
    actions, buttons = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    event = QDropEvent(QPointF(place), actions, data, buttons, Qt.KeyboardModifier.NoModifier)
    station.table.dropEvent(event)


def test_links_files_pictures_and_text_are_dropped(
    qtbot: QtBot, station: SourcesStation, session: Session, tmp_path: Path
) -> None:
    link = QMimeData()
    link.setUrls([QUrl("http://wick.example/mill")])
    link.setText("http://wick.example/mill")
    drop(station, link)
    qtbot.waitUntil(lambda: "http://wick.example/mill" in values(session, "address"), timeout=PATIENCE_MS)
    path = tmp_path / "plan of the mill.txt"
    path.write_text("plan")
    file = QMimeData()
    file.setUrls([QUrl.fromLocalFile(str(path))])
    at(station, 2, "title")
    drop(station, file, 2)
    qtbot.waitUntil(lambda: any(values(session, "files")), timeout=PATIENCE_MS)
    stored = next(str(value[0]) for value in values(session, "files") if isinstance(value, tuple) and value)
    kept = session._library.blobs.file_path(stored)
    assert kept is not None
    assert kept.read_text() == "plan"
    assert session._library.database.one("SELECT origin FROM file") == path.as_uri()
    words = QMimeData()
    words.setHtml("<h2>Ebb</h2><p>The <b>tide</b> turns.</p>")
    words.setText("Ebb\nThe tide turns.")
    drop(station, words)
    qtbot.waitUntil(lambda: "Ebb" in values(session, "title"), timeout=PATIENCE_MS)
    picture = QMimeData()
    picture.setImageData(QImage(4, 4, QImage.Format.Format_RGB32))
    drop(station, picture)
    qtbot.waitUntil(lambda: "Picture" in values(session, "title"), timeout=PATIENCE_MS)
    place = session._library.place("Sources")
    ebb = next(row for row in place.rows(list(place.listing(Question()).ids)) if row.title == "Ebb")
    assert (place.entry(ebb.id) or ebb).body == "## Ebb\n\nThe **tide** turns."
    nothing = from_mime(QMimeData())
    assert (nothing.addresses, nothing.files, nothing.text) == ((), (), "")


def test_a_file_dropped_on_a_note_lies_beside_it(session: Session, notes_path: Path, tmp_path: Path) -> None:
    (notes_path / "a.md").write_text("text\n")
    session.refresh_notes()
    place = session._library.place("Notebook")
    path = tmp_path / "a plan.png"
    path.write_bytes(b"png")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    session.do(TakeDropped(place.key, from_mime(data), place.listing(Question()).ids[0]))
    assert (notes_path / "a.md").read_text() == "text\n\n![a plan.png](Files/a%20plan.png)\n"
    assert (notes_path / "Files" / "a plan.png").read_bytes() == b"png"
    undo(session)
    assert (notes_path / "a.md").read_text() == "text\n"
    assert not (notes_path / "Files" / "a plan.png").exists()


def test_gaps_are_seen_at_once_and_empty_by_themselves(qtbot: QtBot, station: SourcesStation, session: Session) -> None:
    qtbot.waitUntil(lambda: has_gap(station, 0), timeout=PATIENCE_MS)
    gaps = next(item for item in station.places.findItems("Gaps", Qt.MatchFlag.MatchRecursive))
    station.places.setCurrentItem(gaps)
    qtbot.waitUntil(lambda: station.state.view is not None and station.table.table.rowCount() == 5, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: "address or files must be there" in station.panel.form.gap.text(), timeout=PATIENCE_MS)
    ids = list(station.table.table.listing.ids)
    session.do(SetText("collection:1", ids[:4], "address", "http://wick.example/"))
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 1, timeout=PATIENCE_MS)
    session.do(SetText("collection:1", ids[4:], "address", "http://wick.example/"))
    qtbot.waitUntil(lambda: station.page.stack.currentIndex() == 1, timeout=PATIENCE_MS)


def body_of(place: Place, entry_id: int) -> str:
    entry = place.entry(entry_id)
    assert entry is not None
    return entry.body or ""


def test_an_entry_opens_whole_and_its_history_brings_back(
    qtbot: QtBot, station: SourcesStation, session: Session
) -> None:
    at(station, 0, "title")
    entry_id = station.table.table.id_at(0) or 0
    session.do(SetText("collection:1", [entry_id], "site", "Wick"))
    station.pages.open_chosen_whole()
    whole = station.pages.whole
    qtbot.waitUntil(lambda: whole.events.count() == 2 and whole.entry is not None, timeout=PATIENCE_MS)
    whole.body.selectAll()
    qtbot.keyClicks(whole.body, "The tide")
    whole.body.selectAll()
    whole.wrap("**", "**")
    qtbot.waitUntil(lambda: whole.preview.toPlainText().strip() == "The tide", timeout=PATIENCE_MS)
    station.turn(1)
    qtbot.waitUntil(lambda: whole.entry is not None and whole.entry.title == "Mill 1", timeout=PATIENCE_MS)
    place = session._library.place("Sources")
    qtbot.waitUntil(lambda: body_of(place, entry_id) == "**The tide**", timeout=PATIENCE_MS)
    station.turn(-1)

    def buttons() -> list[QPushButton]:
        there = whole.findChildren(QPushButton)
        return [one for one in there if one.text() == "Bring back what was before" and one.isVisible()]

    qtbot.waitUntil(lambda: whole.events.count() == 3 and len(buttons()) == 2, timeout=PATIENCE_MS)
    qtbot.mouseClick(buttons()[1], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: values(session, "site")[0] == "Site 0", timeout=PATIENCE_MS)
    assert body_of(place, entry_id) == ""
    undo(session)
    assert values(session, "site")[0] == "Wick"
    qtbot.keyClick(station.window(), Qt.Key.Key_F4)
    assert station.pages.currentWidget() is station.page


def test_a_field_that_was_blank_is_shown_once_it_has_a_value(
    qtbot: QtBot, station: SourcesStation, session: Session
) -> None:
    form = station.panel.form
    at(station, 0, "title")
    qtbot.waitUntil(lambda: form.entry is not None and "title" in station.panel.editors, timeout=PATIENCE_MS)
    assert "description" in form.rows
    assert form.rows["description"].isHidden()
    many = form.more.text()
    session.do(SetText("collection:1", [station.table.table.listing.ids[0]], "description", "A mill"))
    qtbot.waitUntil(lambda: not form.rows["description"].isHidden(), timeout=PATIENCE_MS)
    assert station.panel.editors["description"].text() == "A mill"
    assert form.more.text() != many
    session.do(SetText("collection:1", [station.table.table.listing.ids[0]], "description", ""))
    qtbot.waitUntil(lambda: station.panel.editors["description"].text() == "", timeout=PATIENCE_MS)
    assert not form.rows["description"].isHidden(), "nobody loses the field that he has just emptied"


def test_what_changed_while_an_entry_was_being_fetched_is_shown(
    qtbot: QtBot, station: SourcesStation, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    entries, goes_on, fetched = session.reader.entries, threading.Event(), threading.Event()
    whole = entries.whole

    def slowly(place: str, entry_id: int) -> object:
        found = whole(place, entry_id)
        if not fetched.is_set():
            fetched.set()
            goes_on.wait(20)
        return found

    monkeypatch.setattr(entries, "whole", slowly)
    at(station, 3, "title")
    qtbot.waitUntil(fetched.is_set, timeout=PATIENCE_MS)
    session.do(SetText("collection:1", [station.table.table.listing.ids[3]], "site", "Another site"))
    table, editors = station.table.table, station.panel.form.editors
    qtbot.waitUntil(
        lambda: "Another site" in [table.cell(3, one)[0] for one in range(table.columnCount())], timeout=PATIENCE_MS
    )
    goes_on.set()
    qtbot.waitUntil(lambda: "site" in editors and editors["site"].text() == "Another site", timeout=PATIENCE_MS)


def test_references_are_followed_from_the_panel(qtbot: QtBot, station: SourcesStation, session: Session) -> None:
    session.do(AddField("collection:1", FieldPlan("", "See also", "reference", (), Settings(target="collection:1"))))
    ids = list(station.table.table.listing.ids)
    session.do(SetText("collection:1", [ids[0]], "see_also", "Mill 3"))
    at(station, 0, "title")
    qtbot.waitUntil(lambda: station.panel.form.doors.get("see_also") is not None, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: station.panel.form.doors["see_also"].count() == 1, timeout=PATIENCE_MS)
    item = station.panel.form.doors["see_also"].itemAt(0)
    assert item is not None
    door = item.widget()
    assert isinstance(door, QPushButton)
    qtbot.mouseClick(door, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(
        lambda: station.panel.entry is not None and station.panel.entry.title == "Mill 3", timeout=PATIENCE_MS
    )


def test_what_is_deleted_lies_in_the_trash_and_comes_back(
    qtbot: QtBot, station: SourcesStation, session: Session
) -> None:
    at(station, 0, "title")
    qtbot.keyClick(station.table, Qt.Key.Key_Delete, CONTROL)
    qtbot.waitUntil(lambda: station.table.table.rowCount() == 4, timeout=PATIENCE_MS)
    station.pages.open_trash()
    trash = station.pages.trash
    qtbot.waitUntil(lambda: trash.table.rowCount() == 1, timeout=PATIENCE_MS)
    qtbot.mouseClick(trash.back, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: trash.table.rowCount() == 0, timeout=PATIENCE_MS)
    assert values(session, "title")[0] == "Mill 0"
    session.do(RemoveEntries("collection:1", [station.table.table.id_at(1) or 0]))
    qtbot.waitUntil(lambda: trash.table.rowCount() == 1, timeout=PATIENCE_MS)
    qtbot.mouseClick(trash.empty, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: session._library.trash.all() == [], timeout=PATIENCE_MS)
    undo(session)
    assert len(session._library.trash.all()) == 1


def test_a_collection_is_made_from_a_starter_and_set_up(
    qtbot: QtBot, station: SourcesStation, session: Session
) -> None:
    station.pages.open_new_place()
    page = station.pages.new_place
    page.starters.setCurrentRow(1)
    assert page.name.text() == "Papers"
    page.name.selectAll()
    qtbot.keyClicks(page.name, "Readings")
    qtbot.mouseClick(page.make, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: station.place is not None and station.place.name == "Readings", timeout=PATIENCE_MS)
    station.pages.open_setup()
    setup, card = station.pages.setup, station.pages.setup.field_card
    qtbot.mouseClick(setup.add, Qt.MouseButton.LeftButton)
    qtbot.keyClicks(card.name, "Depth")
    card.kind.setCurrentText("amount")
    qtbot.mouseClick(card.add, Qt.MouseButton.LeftButton)

    def labels() -> list[str]:
        return [field.label for field in session.place("Readings").fields]

    qtbot.waitUntil(lambda: labels()[-2] == "Depth" and setup.chosen() == "depth", timeout=PATIENCE_MS)
    card.name.selectAll()
    qtbot.keyClicks(card.name, "Draught")
    qtbot.keyClick(card.name, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: labels()[-2] == "Draught", timeout=PATIENCE_MS)
    setup.move_field(-1)
    qtbot.waitUntil(lambda: labels()[-3] == "Draught", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: setup.chosen() == "depth", timeout=PATIENCE_MS)
    setup.delete_field()
    qtbot.waitUntil(lambda: "Draught" not in labels(), timeout=PATIENCE_MS)
    undo(session)
    qtbot.waitUntil(lambda: setup.keys().count("depth") == 1, timeout=PATIENCE_MS)
    setup.list.setCurrentRow(0)
    rules = setup.place_card.rules
    rules.setFocus()
    rules.selectAll()
    qtbot.keyClicks(rules, "moon must be there")
    setup.place_card.keep()
    qtbot.waitUntil(lambda: "no field “moon”" in setup.place_card.told.text(), timeout=PATIENCE_MS)
    rules.setFocus()
    rules.selectAll()
    qtbot.keyClicks(rules, "draught must be there")
    setup.place_card.keep()
    wanted = ("draught must be there",)
    qtbot.waitUntil(lambda: session.place("Readings").settings.rules == wanted, timeout=PATIENCE_MS)


def test_a_change_of_kind_is_shown_before_it_is_done(qtbot: QtBot, station: SourcesStation, session: Session) -> None:
    ids = list(station.table.table.listing.ids)
    session.do(SetText("collection:1", ids[:2], "site", "12"))
    station.pages.open_setup("collection:1", "site")
    card = station.pages.setup.field_card
    qtbot.waitUntil(lambda: station.pages.setup.chosen() == "site" and card.isVisible(), timeout=PATIENCE_MS)
    card.kind.setCurrentText("number")
    card.kind.activated.emit(card.kind.currentIndex())
    qtbot.waitUntil(card.preview.isVisible, timeout=PATIENCE_MS)
    assert "Of 5 values, 2 become values of the kind number" in card.preview_text.text()
    assert "3 do not; they are kept in a field “Site (as text)”" in card.preview_text.text()
    qtbot.mouseClick(card.leave, Qt.MouseButton.LeftButton)
    assert card.kind.currentText() == "text"
    card.kind.setCurrentText("number")
    card.kind.activated.emit(card.kind.currentIndex())
    qtbot.waitUntil(card.preview.isVisible, timeout=PATIENCE_MS)
    qtbot.mouseClick(card.convert, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: values(session, "site")[:2] == [12.0, 12.0], timeout=PATIENCE_MS)
    assert values(session, "site_as_text")[2:] == ["Site 2", "Site 3", "Site 4"]


def test_options_are_edited_in_a_list_and_applied_at_once(
    qtbot: QtBot, station: SourcesStation, session: Session
) -> None:
    station.pages.open_setup("collection:1", "status")
    editor = station.pages.setup.field_card.options
    qtbot.waitUntil(lambda: editor.table.rowCount() > 3 and not editor.apply.isEnabled(), timeout=PATIENCE_MS)
    item = editor.table.item(0, 0)
    assert item is not None
    item.setText("to see")
    assert "“to read” becomes “to see”" in editor.told.text()
    editor.table.setCurrentCell(3, 0)
    editor.delete()
    assert "“read” is blanked where it stands" in editor.told.text()
    qtbot.mouseClick(editor.apply, Qt.MouseButton.LeftButton)
    after = [None, "to see", None, "to see", None]
    qtbot.waitUntil(lambda: values(session, "status") == after, timeout=PATIENCE_MS)


def test_a_table_is_dropped_looked_at_and_taken_in(
    qtbot: QtBot, station: SourcesStation, session: Session, tmp_path: Path
) -> None:
    path = tmp_path / "mills.csv"
    path.write_text("Name,Built,Wheels\nHeron,1811,2\nWick,1868,many\n", "utf-8")
    station.pages.open_new_place()
    page = station.pages.new_place
    page.open_file(path)
    qtbot.waitUntil(lambda: page.sheet is not None, timeout=PATIENCE_MS)
    assert page.kinds() == ["title", "number", "text"]
    page.combos[1].setCurrentIndex(page.combos[1].findData("date"))
    page.combos[2].setCurrentIndex(page.combos[2].findData("number"))
    page.look()
    qtbot.waitUntil(lambda: "1 cells are of no such kind" in page.told.text(), timeout=PATIENCE_MS)
    assert page.make.text() == "Take in 2 rows"
    qtbot.mouseClick(page.make, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: station.place is not None and station.place.name == "mills", timeout=PATIENCE_MS)
    place = session._library.place("mills")
    rows = place.rows(list(place.listing(session.reader.entries.question(place.key, "sortBy title")).ids))
    assert [(row.title, row.value("built"), row.value("wheels"), row.value("wheels_as_text")) for row in rows] == [
        ("Heron", "1811", 2.0, None),
        ("Wick", "1868", None, "many"),
    ]


def test_space_reads(qtbot: QtBot, window: MainWindow, station: SourcesStation) -> None:
    at(station, 0, "title")
    qtbot.keyClick(station.table, Qt.Key.Key_Space)
    assert window.stack.currentIndex() == READ


def test_a_second_window_says_so_and_brings_up_the_first(qtbot: QtBot, session: Session, tmp_path: Path) -> None:
    first, shown = SingleInstance(tmp_path / "library"), []
    assert first.is_free
    front = FrontDoor(session)
    front.shown.connect(lambda: shown.append(1))
    first.tell(front.listen())
    second = SingleInstance(tmp_path / "library")
    assert second.is_taken
    box = second.question()
    assert {button.property("answer") for button in box.buttons()} == {SHOW, LOOK_ONLY, NOTHING}
    assert second.bring_up()
    qtbot.waitUntil(lambda: shown == [1], timeout=PATIENCE_MS)
    second.close()
    front.close()
    first.close()
    third = SingleInstance(tmp_path / "library")
    assert third.is_free
    third.close()


def test_a_library_can_be_looked_at_only(session: Session, sources: Place) -> None:
    looking = Session(session._library.folder, Fetcher(), is_read_only=True)
    place = looking._library.place("Sources")
    assert len(place.listing(Question()).ids) == 5
    with pytest.raises(EnvironmentFailure, match="may not be written to"):
        looking.do(AddEntry(place.key, "Mill"))
    with pytest.raises(EnvironmentFailure, match="may not be written to"):
        looking.do(ChangePlace(place.key, PlaceSettings()))
    assert looking.reader.check() == []
    looking.close()


def test_a_library_that_is_only_looked_at_gets_a_missing_index_elsewhere(session: Session, notes_path: Path) -> None:
    (notes_path / "a.md").write_text("# Ebb\n")
    folder = session._library.folder
    session.close()
    shutil.rmtree(folder / "index")
    looking = Session(folder, Fetcher(), is_read_only=True)
    looking.refresh_notes()
    assert looking._library.place("Notebook").listing(Question()).total == 1
    assert not (folder / "index").exists()
    spare = looking._library.notes("Notebook").index.file
    assert spare.exists()
    looking.close()
    assert not spare.exists()


def test_what_is_being_typed_stays_when_another_program_writes(
    qtbot: QtBot, notes_path: Path, window: MainWindow, station: SourcesStation, session: Session
) -> None:
    path = notes_path / "a.md"
    path.write_text("---\nstatus: open\n---\n\none\n\ntwo\n\nthree\n")
    session.refresh_notes()
    session.look_around()
    qtbot.waitUntil(lambda: window.bridge.overview.find_place("Notebook") is not None, timeout=PATIENCE_MS)
    station.open_place(session._library.place("Notebook").key)
    qtbot.waitUntil(lambda: station.panel.entry is not None and station.panel.entry.title == "a", timeout=PATIENCE_MS)
    panel = station.panel
    panel.body.setFocus()
    qtbot.keyClicks(panel.body, "My ")
    assert panel.body.text() == "My one\n\ntwo\n\nthree"
    path.write_text("---\nstatus: done\n---\n\none\n\ntwo\n\nTHREE\n")
    qtbot.waitUntil(lambda: panel.editors["status"].text() == "done", timeout=PATIENCE_MS)
    assert panel.body.text() == "My one\n\ntwo\n\nthree"
    station.table.setFocus()
    qtbot.waitUntil(
        lambda: path.read_text() == "---\nstatus: done\n---\n\nMy one\n\ntwo\n\nTHREE\n", timeout=PATIENCE_MS
    )
    qtbot.waitUntil(lambda: panel.body.text() == "My one\n\ntwo\n\nTHREE", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: "both changes are kept" in window.notice.text.text(), timeout=PATIENCE_MS)
    panel.form.show_field("published")
    line = panel.editors["published"].line
    assert line is not None
    qtbot.keyClicks(line, "18")
    path.write_text("---\nstatus: again\n---\n\nx\n")
    qtbot.waitUntil(lambda: panel.editors["status"].text() == "again", timeout=PATIENCE_MS)
    assert line.text() == "18"


def test_a_text_is_kept_when_another_entry_is_shown(qtbot: QtBot, station: SourcesStation, session: Session) -> None:
    first, second = list(station.table.table.listing.ids)[:2]
    station.panel.show_entry("collection:1", first)
    qtbot.waitUntil(lambda: station.panel.entry is not None and station.panel.entry.id == first, timeout=PATIENCE_MS)
    station.panel.body.selectAll()
    qtbot.keyClicks(station.panel.body, "Half a sentence")
    station.panel.show_entry("collection:1", second)
    qtbot.waitUntil(lambda: station.panel.body.text() == "", timeout=PATIENCE_MS)
    place = session._library.place("Sources")
    qtbot.waitUntil(lambda: body_of(place, first) == "Half a sentence", timeout=PATIENCE_MS)


def test_views_are_copied_ordered_and_given_a_symbol(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    for name in ("One", "Two"):
        session.do(KeepView("collection:1", name, Question()))
    window.go(SOURCES)
    station = window.stack.sources

    def names() -> list[str]:
        return [view.name for view in session.overview.views_of("collection:1") if view.name[:3] in ("One", "Two")]

    def view(name: str) -> View:
        return next(one for one in session.overview.views_of("collection:1") if one.name == name)

    station.open_view(view("One"))
    qtbot.waitUntil(lambda: station.places.chosen_view() is not None, timeout=PATIENCE_MS)
    station.places.setFocus()
    qtbot.keyClick(
        station.places, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    )
    qtbot.waitUntil(lambda: names() == ["One", "One 2", "Two"], timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: station.state.view is not None and station.state.view.name == "One 2", timeout=PATIENCE_MS)
    qtbot.keyClick(
        station.places, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    )
    qtbot.waitUntil(lambda: names() == ["One", "Two", "One 2"], timeout=PATIENCE_MS)
    assert undo(session) == "Order the views of Sources"
    station.views.set_symbol(view("Two"), "flag")
    qtbot.waitUntil(lambda: view("Two").layout.symbol == "flag", timeout=PATIENCE_MS)
