"""All marks in one list, driven by mouse and keyboard: looked through, gathered for a chapter, written into it, quoted."""

from dataclasses import replace
from pathlib import Path

import pytest
from PyQt6.QtCore import QByteArray, QMimeData, QPoint, QPointF, Qt
from PyQt6.QtGui import QDrag, QDropEvent, QGuiApplication, QMouseEvent
from PyQt6.QtWidgets import QApplication, QDialog, QMenu, QPlainTextEdit, QPushButton
from pytestqt.qtbot import QtBot

from driving import notice_button
from helpers import undo
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.marks import PutMark
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.queries.marks import BY_DAY, FoundMark, MarkScope
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.known import QUOTATION
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import READ, REVIEW, SOURCES
from wily_magpie.qt.stations.read.mark_list import MARKS_FORMAT, MarkList
from wily_magpie.qt.stations.read.marks_desk import NOTHING_GATHERED, MarksDesk
from wily_magpie.qt.stations.read.quotations import PatternPage

PATIENCE_MS = 15_000
LEFT = Qt.MouseButton.LeftButton
PLACE = "collection:1"
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def kept(session: Session) -> tuple[int, int, int]:
    """Two entries with marks, and a chapter."""
    weir = session.do(
        AddEntry(PLACE, "The weir", {"status": "read"}, "The weir was raised in 1298. Nobody knows by whom.")
    )
    bridge = session.do(AddEntry(PLACE, "The bridge", {}, "The bridge fell twice."))
    chapter = session.do(AddEntry(PLACE, "Chapter one", {}, "It begins."))
    session.do(PutMark(PLACE, weir, Mark("raised in 1298", "evidence", "by the charter?")))
    session.do(PutMark(PLACE, weir, Mark("by whom", "question")))
    session.do(PutMark(PLACE, bridge, Mark("fell twice", "evidence")))
    return weir, bridge, chapter


@pytest.fixture
def desk(window: MainWindow, kept: tuple[int, int, int], qtbot: QtBot) -> MarksDesk:
    """All marks of the library are shown."""
    window.goals.show_all_marks("", MarkScope())
    desk = window.stack.read.marks_desk
    qtbot.waitUntil(lambda: len(desk.list.marks.marks()) == 3, timeout=PATIENCE_MS)
    return desk


def rows(shown: MarkList) -> list[str]:
    """Heads of groups, and passages."""
    return [one.mark.exact if isinstance(one, FoundMark) else one for one in shown.marks.rows]


def choose(desk: MarksDesk, qtbot: QtBot, *passages: str) -> None:
    desk.list.clearSelection()
    for at, row in enumerate(rows(desk.list)):
        if row in passages:
            point = desk.list.visualRect(desk.list.marks.index(at)).center()
            qtbot.mouseClick(desk.list.viewport(), LEFT, CTRL, point)
    desk.list.setFocus()


def for_chapter(desk: MarksDesk, qtbot: QtBot, words: str) -> None:
    """Chooses the chapter by typing."""
    finder = desk.using.finder
    assert finder is not None
    qtbot.keyClicks(finder.line, words)
    qtbot.waitUntil(
        lambda: words in [item.text() for item in finder.list.findItems("", Qt.MatchFlag.MatchContains)],
        timeout=PATIENCE_MS,
    )
    qtbot.keyClick(finder.line, Qt.Key.Key_Return)


def drop(view: MarkList, numbers: list[int], at: QPoint) -> None:
    data = QMimeData()
    data.setData(MARKS_FORMAT, QByteArray(str(numbers).encode()))
    view.dropEvent(QDropEvent(QPointF(at), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier))


def test_marks_are_put_into_groups_and_narrowed(desk: MarksDesk, qtbot: QtBot) -> None:
    assert rows(desk.list) == ["The bridge: 1", "fell twice", "The weir: 2", "raised in 1298", "by whom"]
    desk.by.setCurrentText("kind")
    desk.by.activated.emit(desk.by.currentIndex())
    qtbot.waitUntil(lambda: rows(desk.list)[0] == "evidence: 2", timeout=PATIENCE_MS)
    desk.by.setCurrentText("status")
    desk.by.activated.emit(desk.by.currentIndex())
    qtbot.waitUntil(
        lambda: [row for row in rows(desk.list) if ":" in row] == ["read: 2", "without: 1"], timeout=PATIENCE_MS
    )
    qtbot.keyClicks(desk.words, "charter")
    qtbot.waitUntil(lambda: rows(desk.list) == ["read: 1", "raised in 1298"], timeout=PATIENCE_MS)
    assert desk.count.text() == "1 mark"
    qtbot.keyClicks(desk.words, "xyz")
    qtbot.waitUntil(lambda: rows(desk.list) == [] and "fits" in desk.list.hint, timeout=PATIENCE_MS)


def test_a_mark_opens_at_its_place_and_one_comes_back(
    desk: MarksDesk, window: MainWindow, qtbot: QtBot, kept: tuple[int, int, int]
) -> None:
    at = rows(desk.list).index("by whom")
    qtbot.mouseClick(desk.list.viewport(), LEFT, pos=desk.list.visualRect(desk.list.marks.index(at)).center())
    qtbot.keyClick(desk.list, Qt.Key.Key_Return)
    read = window.stack.read
    qtbot.waitUntil(lambda: read.shows_text and read.view.textCursor().selectedText() == "by whom", timeout=PATIENCE_MS)
    assert read.entry is not None
    assert read.entry.id == kept[0]
    qtbot.mouseClick(read.bar.to_marks, LEFT)
    qtbot.waitUntil(lambda: not read.shows_text and len(desk.list.marks.marks()) == 3, timeout=PATIENCE_MS)


def test_gathered_for_a_chapter_in_its_order_and_written_into_it(
    desk: MarksDesk, session: Session, qtbot: QtBot, kept: tuple[int, int, int]
) -> None:
    choose(desk, qtbot, "raised in 1298", "fell twice")
    desk.desk.commands.bound["add-to-chapter"].run()  # which asks for the chapter first
    qtbot.waitUntil(lambda: desk.using.finder is not None and desk.using.finder.isVisible(), timeout=PATIENCE_MS)
    for_chapter(desk, qtbot, "Chapter one")
    qtbot.waitUntil(lambda: rows(desk.gathered) == ["fell twice", "raised in 1298"], timeout=PATIENCE_MS)

    whom = next(one.number for one in desk.list.marks.marks() if one.mark.exact == "by whom")
    top = desk.gathered.visualRect(desk.gathered.marks.index(0)).topLeft()
    drop(desk.gathered, [whom], top + QPoint(10, 2))
    qtbot.waitUntil(lambda: rows(desk.gathered) == ["by whom", "fell twice", "raised in 1298"], timeout=PATIENCE_MS)
    desk.gathered.setFocus()
    desk.gathered.choose([whom])
    qtbot.keyClick(desk.gathered, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    qtbot.waitUntil(lambda: rows(desk.gathered) == ["fell twice", "by whom", "raised in 1298"], timeout=PATIENCE_MS)
    qtbot.keyClick(desk.gathered, Qt.Key.Key_Delete)
    qtbot.waitUntil(lambda: rows(desk.gathered) == ["fell twice", "raised in 1298"], timeout=PATIENCE_MS)

    qtbot.mouseClick(desk.write, LEFT)

    def body() -> str:
        entry = session.reader.entries.entry(PLACE, kept[2])
        return (entry.body if entry is not None else None) or ""

    qtbot.waitUntil(lambda: "> fell twice" in body(), timeout=PATIENCE_MS)
    assert body().startswith(
        "It begins.\n\n> fell twice\n\n— The bridge [@bridge, § 1]\n\n> raised in 1298\n\nby the charter?"
    )
    desk.used.setCurrentText("not used yet")
    desk.used.activated.emit(desk.used.currentIndex())
    qtbot.waitUntil(lambda: rows(desk.list) == ["The weir: 1", "by whom"], timeout=PATIENCE_MS)
    undo(session)
    assert body() == "It begins."


def test_a_chapter_that_is_asked_for_by_a_drop(desk: MarksDesk, qtbot: QtBot) -> None:
    drop(desk.gathered, [desk.list.marks.marks()[0].number], QPoint(40, 200))
    qtbot.waitUntil(lambda: desk.using.finder is not None and desk.using.finder.isVisible(), timeout=PATIENCE_MS)
    for_chapter(desk, qtbot, "Chapter one")
    qtbot.waitUntil(lambda: rows(desk.gathered) == ["fell twice"], timeout=PATIENCE_MS)
    qtbot.mouseClick(desk.choose, LEFT)
    qtbot.waitUntil(lambda: bool(desk.using.finder and desk.using.finder.isVisible()), timeout=PATIENCE_MS)
    for_chapter(desk, qtbot, "The weir")
    qtbot.waitUntil(lambda: desk.gathered.hint == NOTHING_GATHERED, timeout=PATIENCE_MS)


def test_copied_marks_are_used(desk: MarksDesk, session: Session, qtbot: QtBot) -> None:
    choose(desk, qtbot, "by whom", "fell twice")
    desk.desk.commands.bound["copy-quotation"].run()
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    text = "> fell twice\n\n— The bridge [@bridge, § 1]\n\n> by whom\n\n— The weir [@weir, § 1]\n"
    qtbot.waitUntil(lambda: clipboard.text() == text, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: len(session.reader.marks.found(MarkScope(is_used=True))) == 2, timeout=PATIENCE_MS)
    desk.desk.commands.bound["copy-plain"].run()
    plain = "“fell twice”\n— The bridge, § 1\n\n“by whom”\n— The weir, § 1\n"
    qtbot.waitUntil(lambda: clipboard.text() == plain, timeout=PATIENCE_MS)


class Drags:
    """What is dragged out of lists by the mouse, as another program would get it."""

    def __init__(self, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
        self.qtbot, self.data = qtbot, list[QMimeData]()
        self.held = Qt.MouseButton.LeftButton
        monkeypatch.setattr(QApplication, "mouseButtons", lambda: self.held)
        monkeypatch.setattr(QDrag, "setMimeData", lambda _drag, data: self.data.append(data))
        monkeypatch.setattr(QDrag, "exec", lambda _drag, _action: Qt.DropAction.CopyAction)

    def out_of(self, marks: MarkList, row: int) -> None:
        """Presses the button on a row and draws it away in one go."""
        at, port = marks.visualRect(marks.marks.index(row)).center(), marks.viewport()
        assert port is not None
        self.qtbot.mousePress(port, LEFT, pos=at)
        for by in (20, 60):
            point = QPointF(at + QPoint(by, 4))
            moved = QMouseEvent(
                QMouseEvent.Type.MouseMove, point, port.mapToGlobal(point), LEFT, LEFT, Qt.KeyboardModifier.NoModifier
            )
            QApplication.sendEvent(port, moved)
        self.qtbot.mouseRelease(port, LEFT, pos=at)


@pytest.fixture
def drags(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Drags:
    return Drags(qtbot, monkeypatch)


def test_what_is_dragged_is_what_the_mouse_holds(desk: MarksDesk, session: Session, qtbot: QtBot, drags: Drags) -> None:
    shown = rows(desk.list)
    choose(desk, qtbot, "fell twice")
    drags.out_of(desk.list, shown.index("by whom"))
    qtbot.waitUntil(lambda: len(drags.data) == 1, timeout=PATIENCE_MS)
    assert drags.data[0].text() == "> by whom\n\n— The weir [@weir, § 1]\n"
    assert "<blockquote>" in drags.data[0].html()
    qtbot.waitUntil(lambda: len(session.reader.marks.found(MarkScope(is_used=True))) == 1, timeout=PATIENCE_MS)
    choose(desk, qtbot, "by whom")
    twice = next(one.number for one in desk.list.marks.marks() if one.mark.exact == "fell twice")
    drop(desk.gathered, [twice], QPoint(40, 200))
    qtbot.waitUntil(lambda: desk.using.finder is not None and desk.using.finder.isVisible(), timeout=PATIENCE_MS)
    for_chapter(desk, qtbot, "Chapter one")
    qtbot.waitUntil(lambda: rows(desk.gathered) == ["fell twice"], timeout=PATIENCE_MS)
    drags.out_of(desk.gathered, 0)
    qtbot.waitUntil(lambda: len(drags.data) == 2, timeout=PATIENCE_MS)
    assert drags.data[1].text() == "> fell twice\n\n— The bridge [@bridge, § 1]\n"


def test_what_was_let_go_too_soon_can_be_copied(
    desk: MarksDesk, window: MainWindow, qtbot: QtBot, drags: Drags
) -> None:
    drags.held = Qt.MouseButton.NoButton
    drags.out_of(desk.list, rows(desk.list).index("by whom"))
    qtbot.waitUntil(lambda: "let go before the quotation was made" in window.notice.text.text(), timeout=PATIENCE_MS)
    qtbot.mouseClick(notice_button(window, "Copy instead"), LEFT)
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    qtbot.waitUntil(lambda: clipboard.text().startswith("> by whom"), timeout=PATIENCE_MS)
    assert not drags.data


def test_a_note_is_made_of_a_mark_in_the_text(
    window: MainWindow, session: Session, qtbot: QtBot, kept: tuple[int, int, int], notes_path: Path
) -> None:
    window.read_entry(PLACE, kept[0], ())
    read = window.stack.read
    qtbot.waitUntil(lambda: read.entry is not None and bool(read.view.marks), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: any(one.name == "Notebook" for one in window.desk.overview.places), timeout=PATIENCE_MS)
    read.marking.open = Mark("by whom", "question")
    window.commands.bound["note-from-marks"].run()
    qtbot.waitUntil(
        lambda: (notes_path / "By whom.md").exists() or (notes_path / "by whom.md").exists(), timeout=PATIENCE_MS
    )
    (note,) = notes_path.glob("*.md")
    assert note.read_text("utf-8").endswith("> by whom\n\n— The weir [@weir, § 1]\n")
    window.commands.bound["marks-to-journal"].run()
    qtbot.waitUntil(lambda: len(list(notes_path.rglob("*.md"))) == 2, timeout=PATIENCE_MS)
    (page,) = [one for one in notes_path.rglob("*.md") if one != note]
    qtbot.waitUntil(lambda: "> by whom" in page.read_text("utf-8"), timeout=PATIENCE_MS)


def test_how_marks_are_quoted_is_tried_while_it_is_typed(desk: MarksDesk, qtbot: QtBot) -> None:
    choose(desk, qtbot, "by whom")
    desk.open_pattern()
    page = desk.findChild(PatternPage)
    assert isinstance(page, QDialog)
    tried = page.findChildren(QPlainTextEdit)[1]
    qtbot.keyClicks(page.text, "{{ wods }}")
    qtbot.waitUntil(lambda: "words" in page.told.text() and not page.keep.isEnabled(), timeout=PATIENCE_MS)
    page.text.clear()
    qtbot.keyClicks(page.text, "{{ words }} {{ cite }}")
    qtbot.waitUntil(lambda: tried.toPlainText() == "by whom [@weir, § 1]", timeout=PATIENCE_MS)
    qtbot.mouseClick(page.keep, LEFT)
    qtbot.waitUntil(lambda: desk.desk.person.value(QUOTATION) == "{{ words }} {{ cite }}", timeout=PATIENCE_MS)


def test_what_was_never_used_is_a_figure_of_review(desk: MarksDesk, window: MainWindow, qtbot: QtBot) -> None:
    window.go(REVIEW)
    review = window.stack.review

    def door() -> QPushButton | None:
        return next(
            (
                one
                for one in review.findChildren(QPushButton)
                if one.accessibleName().endswith("never used") and one.isVisible()
            ),
            None,
        )

    qtbot.waitUntil(lambda: (one := door()) is not None and one.text() == "3", timeout=PATIENCE_MS)
    found = door()
    assert found is not None
    qtbot.mouseClick(found, LEFT)
    qtbot.waitUntil(
        lambda: window.stack.currentIndex() == READ and desk.used.currentText() == "not used yet", timeout=PATIENCE_MS
    )


def test_marks_of_what_is_shown_in_sources(
    desk: MarksDesk, window: MainWindow, qtbot: QtBot, kept: tuple[int, int, int]
) -> None:
    window.show_question(PLACE, 'title = "The bridge"')
    table = window.stack.sources.table.table
    qtbot.waitUntil(lambda: list(table.listing.ids) == [kept[1]], timeout=PATIENCE_MS)
    assert window.stack.currentIndex() == SOURCES
    window.commands.bound["marks-desk"].run()
    qtbot.waitUntil(lambda: rows(desk.list) == ["The bridge: 1", "fell twice"], timeout=PATIENCE_MS)
    assert desk.of.currentText() == "Sources: what is shown"


def test_a_right_click_offers_what_can_be_done(desk: MarksDesk, qtbot: QtBot) -> None:
    choose(desk, qtbot, "by whom")
    at = desk.list.visualRect(desk.list.marks.index(rows(desk.list).index("by whom"))).center()
    desk.list.customContextMenuRequested.emit(at)
    menu = desk.list.findChild(QMenu)
    assert menu is not None
    names = [action.text().partition("\t")[0] for action in menu.actions()]
    assert names == [
        "Show at its place",
        "Copy as quotation",
        "Copy as plain text with the source",
        "Add the mark to a chapter",
        "New note from the mark",
        "Write the mark into today's page",
    ]
    menu.actions()[0].trigger()
    read = desk.desk.commands  # it leads to the text
    qtbot.waitUntil(read.bound["find-in-text"].is_enabled, timeout=PATIENCE_MS)


def test_days_have_the_latest_first(desk: MarksDesk, qtbot: QtBot) -> None:
    desk.by.setCurrentText("day")
    desk.by.activated.emit(desk.by.currentIndex())
    qtbot.waitUntil(lambda: rows(desk.list)[0].endswith(": 3"), timeout=PATIENCE_MS)
    old = [replace(one, made="2020-01-02T03:04Z") for one in desk.list.marks.marks()[:1]]
    desk.list.marks.show([*old, *desk.list.marks.marks()[1:]], BY_DAY)
    assert [row for row in rows(desk.list) if ":" in row][-1] == "2020-01-02: 1"
