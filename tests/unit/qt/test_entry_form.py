"""The form of an entry: rows are made when they are shown, and what is typed is never taken away."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLineEdit
from pytestqt.qtbot import QtBot

from wily_magpie.core.commands.entries import AddEntry, SetText, SetValues
from wily_magpie.core.commands.fields import AddField, ChangeField, DeleteField
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.fields import Option
from wily_magpie.core.session.session import Session
from wily_magpie.qt.entry_form import EntryForm
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import SOURCES

PLACE = "collection:1"
PATIENCE_MS = 10_000


@pytest.fixture
def form(qtbot: QtBot, window: MainWindow, session: Session) -> EntryForm:
    """The form of an entry with a status and a summary, beside the table."""
    session.do(AddField(PLACE, FieldPlan("word", "Word", "choice", (Option("one"), Option("two")))))
    session.do(AddEntry(PLACE, "Heron Mill", {"status": "to read", "summary": "It turns."}))
    window.go(SOURCES)
    panel = window.stack.sources.panel
    qtbot.waitUntil(lambda: panel.entry is not None and "summary" in panel.form.editors, timeout=PATIENCE_MS)
    return panel.form


def line_of(form: EntryForm, key: str) -> QLineEdit:
    editor = form.editors[key]
    line = editor.line or (editor.combo.lineEdit() if editor.combo is not None else None)
    assert line is not None
    return line


def entry_id(form: EntryForm) -> int:
    assert form.entry is not None
    return form.entry.id


def test_only_what_is_filled_is_made_until_more_is_asked_for(qtbot: QtBot, form: EntryForm) -> None:
    assert "word" not in form.editors
    assert "status" in form.editors
    made = len(form.editors)
    assert form.more.text().startswith("+ ")
    qtbot.mouseClick(form.more, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(form.rows["word"].isVisible, timeout=PATIENCE_MS)
    assert len(form.editors) > made
    assert form.editors["word"].text() == ""
    qtbot.waitUntil(lambda: not form.coming, timeout=PATIENCE_MS)
    qtbot.mouseClick(form.more, Qt.MouseButton.LeftButton)
    assert not form.rows["word"].isVisible()
    qtbot.waitUntil(form.rows["summary"].isVisible, timeout=PATIENCE_MS)


def test_rows_stand_in_the_order_of_the_fields_whenever_they_are_made(qtbot: QtBot, form: EntryForm) -> None:
    qtbot.mouseClick(form.more, Qt.MouseButton.LeftButton)
    shown = [field.key for field in form.fields if field.key in form.rows]
    tops = [form.rows[key].mapTo(form, form.rows[key].rect().topLeft()).y() for key in shown]
    qtbot.waitUntil(
        lambda: (
            tops == sorted(tops) or [form.rows[key].y() for key in shown] == sorted(form.rows[key].y() for key in shown)
        ),
        timeout=PATIENCE_MS,
    )


def test_a_field_that_is_asked_for_by_name_is_made_and_entered(qtbot: QtBot, form: EntryForm, session: Session) -> None:
    form.show_field("word")
    qtbot.waitUntil(form.rows["word"].isVisible, timeout=PATIENCE_MS)
    line = line_of(form, "word")
    qtbot.keyClicks(line, "two")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    number = entry_id(form)
    qtbot.waitUntil(lambda: session.reader.entries.rows(PLACE, [number])[0].value("word") == "two", timeout=PATIENCE_MS)


def test_what_is_typed_stays_while_the_entry_is_changed_elsewhere(
    qtbot: QtBot, form: EntryForm, session: Session
) -> None:
    qtbot.mouseClick(form.more, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not form.coming, timeout=PATIENCE_MS)
    area = form.editors["summary"].area
    assert area is not None
    area.setFocus()
    area.selectAll()
    qtbot.keyClicks(area, "Half a sen")
    session.do(SetText(PLACE, (entry_id(form),), "status", "read"))
    qtbot.waitUntil(lambda: form.editors["status"].text() == "read", timeout=PATIENCE_MS)
    assert form.editors["summary"].text() == "Half a sen"


def test_a_blank_field_that_is_filled_elsewhere_is_shown_with_the_next_look(
    qtbot: QtBot, form: EntryForm, session: Session, window: MainWindow
) -> None:
    number = entry_id(form)
    session.do(SetValues(PLACE, {number: {"word": "one"}}))
    other = session.do(AddEntry(PLACE, "Wick Mill"))
    panel = window.stack.sources.panel
    panel.show_entry(PLACE, other)
    qtbot.waitUntil(lambda: form.entry is not None and form.entry.id == other, timeout=PATIENCE_MS)
    panel.show_entry(PLACE, number)
    qtbot.waitUntil(lambda: "word" in form.editors and form.editors["word"].text() == "one", timeout=PATIENCE_MS)
    qtbot.waitUntil(form.rows["word"].isVisible, timeout=PATIENCE_MS)


def test_an_option_that_a_capture_brings_takes_no_editor_away_but_its_own(
    qtbot: QtBot, form: EntryForm, session: Session
) -> None:
    before, area = dict(form.editors), form.editors["summary"].area
    assert area is not None
    qtbot.keyClicks(area, "Half a sen")
    other = session.do(AddEntry(PLACE, "Wick Mill"))
    session.do(SetText(PLACE, (other,), "tags", "ferry"))
    qtbot.waitUntil(lambda: any(one.key == "tags" and one.options for one in form.fields), timeout=PATIENCE_MS)
    form.make_rows(PATIENCE_MS)
    assert {key for key in before if form.editors[key] is not before[key]} <= {"tags"}
    assert "Half a sen" in form.editors["summary"].text()


def test_a_field_that_is_renamed_while_it_is_typed_in_is_renamed_when_that_is_done(
    qtbot: QtBot, form: EntryForm, session: Session
) -> None:
    form.show_field("published")
    line = line_of(form, "published")
    qtbot.keyClicks(line, "1987")
    typed = line.text()
    session.do(ChangeField(PLACE, "published", {"label": "Year"}))
    qtbot.waitUntil(lambda: "Year" in {field.label for field in form.fields}, timeout=PATIENCE_MS)
    assert line_of(form, "published") is line
    assert line.text() == typed
    assert form.made_of["published"].label != "Year"
    qtbot.keyClick(line, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: form.made_of["published"].label == "Year", timeout=PATIENCE_MS)
    form.make_rows(PATIENCE_MS)
    assert line_of(form, "published").text() == typed


def test_fields_that_are_renamed_and_deleted_go_along(qtbot: QtBot, form: EntryForm, session: Session) -> None:
    session.do(ChangeField(PLACE, "summary", {"label": "In short"}))
    qtbot.waitUntil(
        lambda: "In short" in {field.label for field in form.fields} and "summary" in form.editors, timeout=PATIENCE_MS
    )
    assert form.editors["summary"].text() == "It turns."
    session.do(DeleteField(PLACE, "summary"))
    qtbot.waitUntil(lambda: "summary" not in form.rows, timeout=PATIENCE_MS)
    assert "status" in form.editors
