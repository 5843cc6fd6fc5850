"""The window's parts, as a person sees and drives them."""

from collections.abc import Callable, Sequence
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt, QUrl
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QApplication, QInputDialog, QMenu, QPushButton, QWidget
from pytestqt.modeltest import ModelTester
from pytestqt.qtbot import QtBot

from helpers import undo_label
from wily_magpie.core.capture.run import Counter
from wily_magpie.core.commands.entries import AddEntry, SetBody, SetText
from wily_magpie.core.commands.places import AddNotesFolder, ChangePlace
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.rendering import Rendered, to_safe_html
from wily_magpie.core.errors import EnvironmentFailure
from wily_magpie.core.fields import KINDS, Option, Relation
from wily_magpie.core.places.api import Place, PlaceSettings
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.jobs import Job
from wily_magpie.core.session.session import Session
from wily_magpie.qt.application import make_window
from wily_magpie.qt.editors.field_editor import FieldEditor
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.models.entry_table import COLOUR_ROLE, EntryTable
from wily_magpie.qt.over_text import NoteView
from wily_magpie.qt.reading import ReadingView, Shown
from wily_magpie.qt.station_stack import READ, REVIEW, SOURCES
from wily_magpie.qt.stations.sources.chooser import ConditionChooser
from wily_magpie.qt.stations.sources.sentence import Line
from wily_magpie.qt.style.tokens import DARK, LIGHT, Colours

PATIENCE_MS = 15_000


@pytest.fixture
def sources(session: Session) -> Place:
    """Five entries in Sources."""
    for number, status in enumerate(["to read", "read", "to read", None, "read"]):
        session.do(
            AddEntry(
                "collection:1",
                f"Mill {number}",
                {
                    "status": status,
                    "price": float(number),
                    "tags": ("law",) if number < 2 else None,
                    "published": f"19{number}0",
                },
            )
        )
    return session._library.place("Sources")


changes: list[tuple[int, str, str]] = []
errors: list[object] = []


def table_of(place: Place, text: str) -> EntryTable:
    """The model over a written question; changes and complaints go into lists."""
    changes.clear()
    errors.clear()

    def fetch(ids: Sequence[int], take: Callable[[list[Entry]], None]) -> None:
        take(place.rows(ids))

    table = EntryTable(fetch, lambda entry_id, key, typed: changes.append((entry_id, key, typed)), errors.append)
    question = cql.parse(text, place.fields)
    table.show(place.info, place.fields[:8], place.listing(question))
    for row in range(table.rowCount()):  # what is looked at is fetched, and is there at the next look
        table.index(row, 0).data()
    return table


@pytest.mark.parametrize("text", ["", "sortBy status/group title", "title = nothing"])
def test_the_model_keeps_qts_rules(qapp: QApplication, qtmodeltester: ModelTester, sources: Place, text: str) -> None:
    qtmodeltester.check(table_of(sources, text))


def test_groups_have_headings_between_their_rows(qapp: QApplication, sources: Place) -> None:
    table = table_of(sources, "sortBy status/group title")
    shown = [table.index(row, 0).data() for row in range(table.rowCount())]
    assert shown == [
        "▾ to read  ·  2",
        "Mill 0",
        "Mill 2",
        "▾ read  ·  2",
        "Mill 1",
        "Mill 4",
        "▾ blank  ·  1",
        "Mill 3",
    ]
    assert table.id_at(0) is None
    for row in (1, 2, 4, 5, 7):
        assert table.row_of(table.id_at(row) or 0) == row
    assert table.row_of(999) is None


def test_cells_show_their_kinds(qapp: QApplication, sources: Place) -> None:
    table = table_of(sources, "sortBy title")
    column = {field.key: place for place, field in enumerate(table.columns)}
    assert table.index(0, column["status"]).data(COLOUR_ROLE) == "brass"
    assert table.index(3, column["status"]).data(COLOUR_ROLE) is None
    assert table.index(0, column["published"]).data() == "1900"
    assert table.headerData(0, Qt.Orientation.Horizontal) == "Title"


def test_a_cell_that_is_refused_is_told_and_stays(qtbot: QtBot, window: MainWindow, sources: Place) -> None:
    window.go(SOURCES)
    window.stack.sources.show_question(sources.key, "sortBy title")
    table = window.stack.sources.table.table
    qtbot.waitUntil(lambda: table.rowCount() == 5 and table.index(0, 0).data() == "Mill 0", timeout=PATIENCE_MS)
    column = next(place for place, field in enumerate(table.columns) if field.key == "price")
    table.setData(table.index(0, column), "cheap")
    qtbot.waitUntil(lambda: "is not a number" in window.notice.text.text(), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: table.index(0, column).data() == "0", timeout=PATIENCE_MS)
    table.setData(table.index(0, 0), "Other")
    qtbot.waitUntil(lambda: table.index(0, 0).data() == "Mill 1", timeout=PATIENCE_MS)


@pytest.mark.parametrize("name", [name for name in KINDS if name not in ("files", "summary", "gaps")])
def test_every_kind_has_an_editor_that_gives_back_its_text(qtbot: QtBot, name: str) -> None:
    options = (Option("to read", "brass"), Option("read"))
    text = {"choice": "read", "yes/no": "yes", "date": "1926-03-12", "number": "12.5", "people": "Pell, Isaac"}.get(
        name, "law"
    )
    editor = FieldEditor(Field("key", "Label", KINDS[name], "f1", options))
    qtbot.addWidget(editor)
    finished: list[str] = []
    editor.finished.connect(lambda: finished.append(editor.text()))
    editor.set_text(text)
    assert editor.text() == text
    editor.finish()
    assert finished == []
    editor.show()
    if editor.line is not None:
        editor.line.selectAll()
        qtbot.keyClicks(editor.line, "other")
        qtbot.keyClick(editor.line, Qt.Key.Key_Return)
        assert finished == ["other"]
    inner = editor.focusProxy()
    assert inner is not None
    assert inner.accessibleName() == "Label"


def rendered(text: str) -> Shown:
    """A text whose pictures were not kept."""
    return Shown(Rendered(text, to_safe_html(text)))


def test_only_the_library_gives_pictures_and_nothing_runs(qtbot: QtBot) -> None:
    view = ReadingView()
    qtbot.addWidget(view)
    view.show_text(
        rendered(
            "![A wheel](http://mills.example/p.png)\n\n<script>alert(1)</script><img src='file:///etc/passwd'>\n\n"
            "<iframe src='http://mills.example'></iframe><form><input></form>\n\n"
            "[x](javascript:run(1)) [y](file:///etc/passwd)"
        )
    )
    assert "[picture not kept: A wheel]" in view.toPlainText()
    assert "alert" not in view.toHtml()
    assert 'href="file:' not in view.toHtml()
    assert 'href="javascript:' not in view.toHtml()
    assert 'src="' not in view.toHtml()


@pytest.mark.parametrize(
    "hostile",
    ["<script>x</script>", "<b onclick=x>b</b>", "<style>*{}</style>", "<a href='data:text/html,x'>a</a>", "<svg onload=x>",
     "<base href='http://evil.example/'>", "<link rel=stylesheet href=//evil.example>", "<object data=x>", "<img src=x onerror=y>",
     "<div style='background:url(http://evil.example/x)'>", "<meta http-equiv=refresh content=0>"],
)  # fmt: skip
def test_kept_text_is_sanitised(hostile: str) -> None:
    safe = to_safe_html(f"before {hostile} after\n\n{hostile}")
    assert not any(
        word in safe for word in ("script", "onclick", "onload", "onerror", "style", "data:", "evil", "<object")
    )
    assert "before" in safe


def test_a_footnote_is_shown_at_its_place(qtbot: QtBot) -> None:
    view = ReadingView()
    qtbot.addWidget(view)
    view.resize(500, 200)
    view.show()
    told: list[str] = []
    view.followed.connect(told.append)
    view.show_text(rendered("Said[^1] here.\n\n" + "words\n\n" * 60 + "[^1]: The note.\n"))
    bar = view.verticalScrollBar()
    assert bar is not None
    view.anchorClicked.emit(QUrl("#fn1"))
    note = view.findChild(NoteView)
    assert note is not None
    assert note.isVisible()
    assert note.text.toPlainText().strip() == "The note."
    assert bar.value() == 0
    note.close()
    bar.setValue(bar.maximum())
    view.anchorClicked.emit(QUrl("#fnref1"))  # from the notes at the end one goes back to the text
    qtbot.waitUntil(lambda: bar.value() < 100)
    assert told == []
    view.anchorClicked.emit(QUrl("https://mills.example/#fn1"))
    assert told == ["https://mills.example/#fn1"]


def luminance(colour: str) -> float:
    """Relative luminance (WCAG 2.2)."""
    parts = [
        c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4
        for c in QColor(colour).getRgbF()[:3]
        if c is not None
    ]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


@pytest.mark.parametrize("colours", [LIGHT, DARK])
@pytest.mark.parametrize("name", ["ink", "slate", "petrol", "brass", "alarm", "moss"])
def test_every_text_colour_can_be_read(colours: Colours, name: str) -> None:
    text = luminance(getattr(colours, name))
    for ground in (colours.ground, colours.card):
        light, dark = max(text, luminance(ground)), min(text, luminance(ground))
        assert (light + 0.05) / (dark + 0.05) >= 4.5


def chosen_action(menu: QMenu, text: str) -> None:
    next(action for action in menu.actions() if action.text() == text).trigger()


def test_the_sentence_filters_sorts_and_groups(qtbot: QtBot, window: MainWindow, sources: Place) -> None:
    station, sentence = window.stack.sources, window.stack.sources.sentence
    station.open_place(sources.key)
    qtbot.waitUntil(lambda: station.page.count.text() == "5 of 5 entries", timeout=PATIENCE_MS)
    qtbot.keyClick(window, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: QApplication.activePopupWidget() is not None)
    menu = QApplication.activePopupWidget()
    assert isinstance(menu, QMenu)
    menu.hide()
    chosen_action(menu, "Status")
    chooser = sentence.chooser
    assert isinstance(chooser, ConditionChooser)
    chooser.options.setCurrentText("read")
    qtbot.mouseClick(chooser.apply, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: station.page.count.text() == "2 of 5 entries", timeout=PATIENCE_MS)
    assert words_of(sentence.words).startswith("Sources where status is read × + and + or")

    verb = next(button for button in buttons_of(sentence.words) if button.text() == "is")
    qtbot.mouseClick(verb, Qt.MouseButton.LeftButton)
    assert sentence.chooser is not chooser
    assert isinstance(sentence.chooser, ConditionChooser)
    sentence.chooser.relation.setCurrentIndex(sentence.chooser.relation.findData(Relation.IS_NOT))
    sentence.chooser.accept_value()
    qtbot.waitUntil(lambda: station.page.count.text() == "3 of 5 entries", timeout=PATIENCE_MS)

    qtbot.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    assert sentence.text.text() == "status <> read sortBy captured/descending"
    sentence.text.setText("price > 1 and tags = law")
    qtbot.keyClick(sentence.text, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: station.page.count.text() == "0 of 5 entries", timeout=PATIENCE_MS)
    assert "No entry answers this question" in station.page.empty.text()
    sentence.text.setText("prize > 1")
    qtbot.keyClick(sentence.text, Qt.Key.Key_Return)
    assert "Did you mean “price”?" in sentence.problem.text()
    assert station.page.count.text() == "0 of 5 entries"
    sentence.text.setText("sortBy status/group price/descending")
    qtbot.keyClick(sentence.text, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: station.table.table.heads == [0, 3, 6], timeout=PATIENCE_MS)
    assert "grouped by status" in words_of(sentence.words)


def buttons_of(words: QWidget) -> list[QPushButton]:
    return [button for button in words.findChildren(QPushButton) if button.isVisibleTo(words)]


def words_of(words: QWidget) -> str:
    """The sentence as one reads it."""
    lines = [one for one in words.findChildren(Line) if one.isVisibleTo(words)]
    widgets = [line.flow.itemAt(at).widget() for line in lines for at in range(line.flow.count())]  # type: ignore[union-attr]
    return " ".join(str(one.property("text")) for one in widgets if one is not None)


def test_a_chooser_says_what_is_no_value(qtbot: QtBot, window: MainWindow, sources: Place) -> None:
    field = next(field for field in sources.fields if field.key == "published")
    chooser = ConditionChooser(field, None, window)
    qtbot.addWidget(chooser)
    chooser.relation.setCurrentIndex(chooser.relation.findData(Relation.AFTER))
    qtbot.keyClicks(chooser.line, "soon")
    chooser.accept_value()
    assert "is not a date" in chooser.problem.text()
    chooser.line.setText("12 March 1926")
    chooser.accept_value()
    assert chooser.condition
    assert chooser.condition.relation is Relation.AFTER


def test_views_are_kept_renamed_and_deleted(
    qtbot: QtBot, window: MainWindow, sources: Place, monkeypatch: pytest.MonkeyPatch, session: Session
) -> None:
    station, places = window.stack.sources, window.stack.sources.places
    station.show_question(sources.key, "price > 1")

    def questions() -> dict[str, str]:
        return {view.name: view.question for view in session.reader.entries.views(sources.key)}

    station.views.make("Dear ones")
    qtbot.waitUntil(lambda: questions().get("Dear ones") == "price > 1", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: (one := places.chosen_view()) is not None and one.name == "Dear ones", timeout=PATIENCE_MS)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_args, **_more: ("Dear", True))
    window.commands.bound["rename-view"].run()
    qtbot.waitUntil(lambda: "Dear" in questions(), timeout=PATIENCE_MS)
    station.sentence.tell(cql.parse("price > 2", sources.fields))
    qtbot.waitUntil(station.page.keep_changes.isVisible, timeout=PATIENCE_MS)
    qtbot.mouseClick(station.page.keep_changes, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: questions().get("Dear") == "price > 2", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: places.chosen_view() is not None, timeout=PATIENCE_MS)
    window.commands.bound["delete-view"].run()
    qtbot.waitUntil(lambda: "Dear" not in questions(), timeout=PATIENCE_MS)
    window.undo()
    qtbot.waitUntil(lambda: "Dear" in questions(), timeout=PATIENCE_MS)


def test_the_chosen_entry_can_be_corrected_beside_the_table(
    qtbot: QtBot, window: MainWindow, sources: Place, session: Session
) -> None:
    station = window.stack.sources
    station.show_question(sources.key, "sortBy title")
    qtbot.waitUntil(lambda: station.panel.entry is not None, timeout=PATIENCE_MS)
    qtbot.mouseClick(station.panel.form.more, Qt.MouseButton.LeftButton)
    editor = station.panel.editors["summary"].area
    assert editor is not None
    editor.setFocus()
    qtbot.keyClicks(editor, "Short.")
    station.table.setFocus()
    entry = station.panel.entry
    assert entry
    qtbot.waitUntil(lambda: sources.rows([entry.id])[0].value("summary") == "Short.", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: undo_label(session) == "Change summary of “Mill 0”", timeout=PATIENCE_MS)
    line = station.panel.editors["price"].line
    assert line is not None
    line.selectAll()
    qtbot.keyClicks(line, "whenever")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert "is not a number" in window.notice.text.text()
    assert line.property("problem")
    body = station.panel.body
    body.setFocus()
    qtbot.keyClicks(body, "Its text")
    window.go(READ)
    qtbot.waitUntil(lambda: body_of(sources, entry.id) == "Its text", timeout=PATIENCE_MS)


def body_of(place: Place, entry_id: int) -> str:
    entry = place.entry(entry_id)
    assert entry
    return entry.body or ""


def test_no_text_changes_by_being_shown(qtbot: QtBot, window: MainWindow, sources: Place, session: Session) -> None:
    text = "Il dit\u00a0: \u00ab\u00a0oui\u00a0\u00bb\r\net\u2028non"
    entry_id = sources.listing(Question()).ids[0]
    session.do(SetText(sources.key, [entry_id], "summary", text))
    session.do(SetBody(sources.key, entry_id, text))
    panel = window.stack.sources.panel
    panel.show_entry(sources.key, entry_id)
    qtbot.waitUntil(lambda: "summary" in panel.editors and panel.entry is not None, timeout=PATIENCE_MS)
    before = (text, text.replace("\r\n", "\n"), undo_label(session))
    window.go(SOURCES)
    area = panel.editors["summary"].area
    assert area is not None
    for editor in (panel.body, area, panel.body):
        editor.setFocus()
    entry = sources.entry(entry_id)
    assert entry
    assert (entry.body, entry.value("summary"), undo_label(session)) == before
    panel.body.setFocus()
    qtbot.keyClick(panel.body, Qt.Key.Key_End, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClicks(panel.body, "!")
    assert panel.body.text() == before[1] + "!"


def test_an_entry_is_added_by_hand(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    window.go(SOURCES)
    qtbot.waitUntil(lambda: "Nothing is kept here yet" in window.stack.sources.page.empty.text(), timeout=PATIENCE_MS)
    qtbot.keyClick(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    panel = window.stack.sources.panel
    qtbot.waitUntil(lambda: "title" in panel.editors and panel.editors["title"].line is not None, timeout=PATIENCE_MS)
    focused = panel.editors["title"].line
    qtbot.waitUntil(lambda: QApplication.focusWidget() is focused, timeout=PATIENCE_MS)
    qtbot.keyClicks(focused, "Interview with Wenna")
    qtbot.keyClick(focused, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: undo_label(session) == "Change title of “New entry”", timeout=PATIENCE_MS)


def test_reading_goes_from_entry_to_entry_and_sets_the_status(qtbot: QtBot, window: MainWindow, sources: Place) -> None:
    window.stack.sources.show_question(sources.key, "sortBy title")
    qtbot.waitUntil(lambda: window.stack.sources.table.table.rowCount() == 5, timeout=PATIENCE_MS)
    window.stack.sources.table.setFocus()
    qtbot.keyClick(window.stack.sources.table, Qt.Key.Key_Space)
    read = window.stack.read
    qtbot.waitUntil(lambda: read.bar.where.text() == "1 of 5", timeout=PATIENCE_MS)
    qtbot.keyClick(read.view, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    qtbot.waitUntil(lambda: read.entry is not None and read.entry.title == "Mill 1", timeout=PATIENCE_MS)
    read.bar.status.setCurrentText("quoted")
    read.bar.status.activated.emit(read.bar.status.currentIndex())
    qtbot.waitUntil(lambda: read.entry is not None and read.entry.value("status") == "quoted", timeout=PATIENCE_MS)
    assert "No text is kept here yet" in read.view.toPlainText()


def test_the_command_finder_lists_and_does_everything(qtbot: QtBot, window: MainWindow) -> None:
    qtbot.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    finder = window.goals.finder
    labels = [item.text() for row in range(finder.list.count()) if (item := finder.list.item(row)) is not None]
    assert {command.label for command in window.commands.all() if command.act.id != "find"} <= set(labels)
    assert "Sources" in labels, "places stand among them"
    qtbot.keyClicks(finder.line, "go rev")
    assert finder.list.count() == 1
    qtbot.keyClick(finder.line, Qt.Key.Key_Return)
    assert window.stack.currentIndex() == REVIEW


def test_review_figures_are_doors(qtbot: QtBot, window: MainWindow, sources: Place, session: Session) -> None:
    window.go(REVIEW)
    session.do(ChangePlace(sources.key, PlaceSettings(rules=("status must be there", "price must be there"))))
    door = "Show the 1 entries: What is missing, status must be there"
    qtbot.waitUntil(
        lambda: any(b.accessibleName() == door for b in window.stack.review.findChildren(QPushButton)),
        timeout=PATIENCE_MS,
    )
    button = next(b for b in window.stack.review.findChildren(QPushButton) if b.accessibleName() == door)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert window.stack.currentIndex() == SOURCES
    qtbot.waitUntil(lambda: window.stack.sources.page.count.text() == "1 of 5 entries", timeout=PATIENCE_MS)


def test_the_tray_shows_what_failed_and_tries_again(qtbot: QtBot, window: MainWindow) -> None:
    tries: list[int] = []

    def work(_counter: Counter, _job: Job) -> None:
        tries.append(1)
        if len(tries) == 1:
            raise EnvironmentFailure("disk-full", "The disk is full.", "Free some space.")

    window.bridge.start("Keeping", work)
    qtbot.waitUntil(lambda: window.tray.text() == "1 failed", timeout=PATIENCE_MS)
    qtbot.mouseClick(window.tray, Qt.MouseButton.LeftButton)
    button = next(b for b in window.tray.panel.findChildren(QPushButton) if b.text() == "Try again")
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.tray.text() == "Tray", timeout=PATIENCE_MS)
    window.tray.panel.hide()
    assert len(tries) == 2


def test_the_window_comes_back_as_it_was(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    window.go(REVIEW)
    window.stack.sources.splitter.setSizes([300, 700, 400])
    before = window.stack.sources.splitter.sizes()
    window.close()
    again = make_window(session, window.settings, lambda _address: None, [], person=window.person)
    qtbot.addWidget(again)
    again.show()
    again.resize(window.size())  # the screen of these tests is smaller than the window
    assert again.stack.currentIndex() == REVIEW
    again.go(SOURCES)
    qtbot.waitUntil(lambda: again.stack.sources.splitter.width() > 600)
    assert abs(again.stack.sources.splitter.sizes()[0] - before[0]) < 20
    assert window.settings.value("window") is not None
    again.close()


@pytest.mark.parametrize("look", ["dark", "light"])
def test_the_look_can_be_changed_while_the_window_is_open(window: MainWindow, look: str) -> None:
    window.set_look(look)
    image = window.grab(window.top.rect()).toImage()
    ground = image.pixelColor(QPoint(3, 20))
    assert ground == QColor((DARK if look == "dark" else LIGHT).ground)
    window.set_look("light")


def test_every_control_has_a_name(window: MainWindow) -> None:
    """A screen reader says something for whatever can get the focus."""
    nameless = [
        widget
        for widget in window.findChildren(QWidget)
        if widget.focusPolicy() & Qt.FocusPolicy.TabFocus
        and not widget.objectName().startswith("qt_")
        and not (
            widget.accessibleName()
            or str(widget.property("text") or "")
            or str(widget.property("placeholderText") or "")
        )
        and widget.focusProxy() is None
        and type(widget).__name__
        not in ("QScrollArea", "QWidget", "QStackedWidget", "QLabel", "ReadingView", "QListView")
    ]
    assert nameless == []


def test_a_notes_folder_is_added_and_watched(
    qtbot: QtBot, window: MainWindow, tmp_path: Path, session: Session
) -> None:
    folder = tmp_path / "My notes"
    folder.mkdir()
    (folder / "One.md").write_text("---\nstatus: open\n---\ntext\n")
    place = session.do(AddNotesFolder(folder))
    qtbot.waitUntil(lambda: window.bridge.overview.find_place(place.key) is not None, timeout=PATIENCE_MS)
    window.stack.sources.open_place(place.key)
    qtbot.waitUntil(lambda: window.stack.sources.page.count.text() == "1 of 1 entries", timeout=PATIENCE_MS)
    (folder / "Two.md").write_text("more")
    window.stack.sources.open_place(place.key)
    qtbot.waitUntil(lambda: window.stack.sources.page.count.text() == "2 of 2 entries", timeout=PATIENCE_MS)
