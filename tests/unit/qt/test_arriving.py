"""What comes into the window from outside: lists, pieces of text, e-mails, files; and what another start of the program hands over."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from conftest import HERON
from driving import PATIENCE_MS, open_page
from wily_magpie.core.commands.capture import KeepAddress
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.fields import AddField
from wily_magpie.core.commands.lists import MakeList
from wily_magpie.core.companion.door import visit_window
from wily_magpie.core.companion.scheme import Visit
from wily_magpie.core.entries.capture_list import ItemState
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.fields import Option, Value
from wily_magpie.core.guard import GUARD
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.qt.application import open_door
from wily_magpie.qt.companion_part import CompanionPart
from wily_magpie.qt.list_pages import ListPage, ListStartPage
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.single_instance import SingleInstance
from wily_magpie.qt.station_stack import CAPTURE, SOURCES

LEXICON = "http://estuarine-lexicon.example/tide-mill"
MAIL = (
    "From: Ada Penhallow <ada@mills.example>\nTo: tom@mills.example\nSubject: The fair\nDate: Mon, 2 Mar 2026 10:00:00 +0000\n"
    "Message-ID: <1@mills.example>\n\nThe pond is full, Tom, and the ebb will be early on the day of the fair.\n"
)


def copy(text: str) -> None:
    clipboard = QApplication.clipboard()
    assert clipboard
    clipboard.setText(text)


def start_page(qtbot: QtBot, window: MainWindow, said: str) -> ListStartPage:
    """The page of a list that has not begun, once it says what is kept already."""
    qtbot.waitUntil(lambda: isinstance(getattr(window.lists, "page", None), ListStartPage), timeout=PATIENCE_MS)
    page = window.lists.page
    assert isinstance(page, ListStartPage)
    qtbot.waitUntil(lambda: page.told.text() == said, timeout=PATIENCE_MS)
    return page


def drop(window: MainWindow, *paths: Path) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    button, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.dropEvent(QDropEvent(QPointF(300, 300), Qt.DropAction.CopyAction, data, button, none))


def test_several_addresses_in_the_address_line_are_a_list(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    session.do(AddEntry("collection:1", "Known", {"address": LEXICON}))
    copy(f"{HERON}\n{LEXICON}\nhttp://estuary-courier.example/2018/06/01/withdrawn\nnot one\n{HERON}#again\n")
    qtbot.keyClick(window, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClick(window.top.address, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    said = "3 addresses, 1 kept already, 1 more that stand there twice, 1 that is no address."
    page = start_page(qtbot, window, said)
    assert page.start.text() == "Capture these 2"
    page.other.setText("nonsense")
    qtbot.mouseClick(page.start, Qt.MouseButton.LeftButton)
    assert "chapter = " in page.problem.text()
    page.other.setText("")
    page.tags.setText("mills")
    qtbot.mouseClick(page.start, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "1 kept, 1 known, 1 failed" in window.notice.text.text(), timeout=PATIENCE_MS)
    (there,) = session.reader.lists.all()
    assert [one.state for one in session.reader.lists.items(there.id)] == [
        ItemState.KEPT,
        ItemState.KNOWN,
        ItemState.FAILED,
    ]
    window.tray.open()
    assert "3 addresses from a text" in [one.label for one in window.tray.lists]
    window.tray.panel.open_list(there)
    shown = window.lists.page
    assert isinstance(shown, ListPage)
    qtbot.waitUntil(lambda: shown.table.rowCount() == 3 and shown.table.item(2, 1) is not None, timeout=PATIENCE_MS)
    assert [shown.table.item(row, 1).text() for row in range(3)] == ["kept", "known", "failed"]  # type: ignore[union-attr]
    shown.open_row(0, 0)
    assert window.stack.currentIndex() == SOURCES


def test_a_piece_of_text_becomes_a_slip_without_an_address(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    copy(
        "The herons of the mill pond\n\nThere are now more of them than there were sacks in a good week.\n\nSo Pell wrote in 1931."
    )
    window.go(CAPTURE)
    window.setFocus()
    qtbot.keyClick(window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    card = window.stack.capture.card
    qtbot.waitUntil(lambda: card.slip is not None, timeout=PATIENCE_MS)
    assert card.slip
    assert card.slip.title == "The herons of the mill pond"
    assert "sacks in a good week" in card.slip.body
    window.stack.capture.card.ask_to_keep()
    place = session._library.place("Sources")
    qtbot.waitUntil(lambda: len(place.listing(Question()).ids) == 1, timeout=PATIENCE_MS)
    copy("")
    qtbot.keyClick(window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: "nothing in the clipboard" in window.notice.text.text(), timeout=PATIENCE_MS)


def test_one_address_from_the_clipboard_is_opened_from_every_station(qtbot: QtBot, window: MainWindow) -> None:
    window.go(SOURCES)
    copy(HERON)
    qtbot.keyClick(window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert window.stack.currentIndex() == CAPTURE
    qtbot.waitUntil(lambda: window.stack.capture.card.slip is not None, timeout=PATIENCE_MS)
    assert window.stack.capture.address == HERON


def test_an_e_mail_that_is_dropped_is_read(qtbot: QtBot, window: MainWindow, session: Session, tmp_path: Path) -> None:
    (tmp_path / "fair.eml").write_text(MAIL)
    window.go(SOURCES)
    drop(window, tmp_path / "fair.eml")
    card = window.stack.capture.card
    qtbot.waitUntil(lambda: card.slip is not None, timeout=PATIENCE_MS)
    assert card.slip
    assert card.slip.title == "The fair"
    assert "the ebb will be early" in card.slip.body
    window.go(SOURCES)
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / "fair.eml"))])
    from wily_magpie.qt.dropped import from_mime

    window.stack.sources.show_question("collection:1", "")
    window.stack.sources.cells.take(from_mime(data), None)
    place = session._library.place("Sources")
    qtbot.waitUntil(lambda: len(place.listing(Question()).ids) == 1, timeout=PATIENCE_MS)
    entry = place.entry(place.listing(Question()).ids[0])
    assert entry
    assert (entry.title, entry.value("authors"), str(entry.value("published"))[:10]) == (
        "The fair",
        ("Penhallow, Ada",),
        "2026-03-02",
    )


def test_mailboxes_folders_and_link_files_dropped_on_a_table_are_read(
    qtbot: QtBot, window: MainWindow, session: Session, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from wily_magpie.qt.dropped import from_mime

    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    (tmp_path / "folder" / "new").mkdir(parents=True)
    (tmp_path / "folder" / "new" / "1").write_text(MAIL)
    (tmp_path / "box").write_text(
        f"From ada Mon Mar  2 10:00:00 2026\n{MAIL.replace('The fair', 'In the box').replace('<1@', '<2@')}\n"
    )
    (tmp_path / "link.url").write_text(f"[InternetShortcut]\nURL={HERON}\n")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / name)) for name in ("folder", "box", "link.url")])
    window.go(SOURCES)
    window.stack.sources.show_question("collection:1", "")
    window.stack.sources.cells.take(from_mime(data), None)
    place = session._library.place("Sources")

    def titles() -> set[str]:
        entries = [place.entry(one) for one in place.listing(Question()).ids]
        return {one.title for one in entries if one}

    qtbot.waitUntil(lambda: titles() == {"The fair", "In the box", HERON}, timeout=PATIENCE_MS)


def test_a_list_that_was_interrupted_is_said_and_goes_on(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    session.do(MakeList("Two pages", [(HERON, ""), (LEXICON, "")]))
    window.lists.say_interrupted()
    said = "Two pages was interrupted: 2 of 2 still wait."
    qtbot.waitUntil(lambda: window.notice.text.text() == said, timeout=PATIENCE_MS)
    next(button for button in window.notice.buttons if button.text() == "Go on").click()
    qtbot.waitUntil(lambda: "2 kept" in window.notice.text.text(), timeout=PATIENCE_MS)


def test_another_start_of_the_program_opens_its_address_here(
    qtbot: QtBot,
    window: MainWindow,
    session: Session,
    monkeypatch: pytest.MonkeyPatch,
    tmp_path_factory: pytest.TempPathFactory,
) -> None:
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path_factory.mktemp("run")))
    GUARD.lift()
    instance = SingleInstance(session.folder)
    GUARD.watch("wily_magpie.qt")
    (front,) = open_door(window, session, instance)
    qtbot.waitUntil(lambda: bool(instance.lock and instance.lock.told()), timeout=PATIENCE_MS)
    assert visit_window(session.folder, Visit(HERON, "the wheel at Heron Mill"), None)
    card = window.stack.capture.card
    qtbot.waitUntil(lambda: card.slip is not None and bool(card.slip.marks), timeout=PATIENCE_MS)
    assert card.slip
    assert [mark.exact for mark in card.slip.marks] == ["the wheel at Heron Mill"]
    GUARD.lift()  # as at the end of the program
    front.close()
    instance.close()
    assert not visit_window(session.folder, Visit(HERON), None)


def test_a_call_from_outside_never_opens_the_local_network(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    window.visit(Visit("http://localhost.localdomain:9/", is_typed=False))
    view = window.stack.capture.view
    assert view
    assert "localhost.localdomain" not in view.gate.typed


def test_addresses_that_are_dropped_on_a_place_go_there(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    window.go(SOURCES)
    places = window.stack.sources.places
    head = places.topLevelItem(0)
    item = head.child(0) if head else None
    assert item
    at = QPointF(places.mapTo(window, places.visualItemRect(item).center()))
    data = QMimeData()
    data.setUrls([QUrl(HERON)])
    button, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.dropEvent(QDropEvent(at, Qt.DropAction.CopyAction, data, button, none))
    page = start_page(qtbot, window, "One address.")
    assert page.place.currentText() == "Sources"


def test_a_page_for_later_is_filled_by_itself(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    kept = session.do(KeepAddress(HERON))

    def title() -> str:
        entry = session.reader.entries.entry(kept.place, kept.entry_id)
        return entry.title if entry else ""

    qtbot.waitUntil(lambda: title() == "Heron Mill turns again after ninety years", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: [one.in_words for one in window.tray.lists] == ["1 kept"], timeout=PATIENCE_MS)


def test_what_is_proposed_stands_in_grey_and_one_key_takes_it(
    qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    options = tuple(Option(name) for name in ("law", "mill"))
    session.do(AddField("collection:1", FieldPlan("chapter", "Chapter", "choice", options)))
    for number in range(60):
        topic = "law" if number % 2 else "mill"
        host = "estuary-courier.example" if topic == "mill" else "court.example"
        values: dict[str, Value] = {
            "chapter": topic,
            "address": f"http://{host}/{number}",
            "authors": (f"{topic} {number % 5}",),
        }
        session.do(
            AddEntry(
                "collection:1",
                f"{topic} {number}",
                values,
                f"{topic} wheel pond " * 9 if topic == "mill" else "charter court " * 9,
            )
        )
    session.refresh_filing()
    open_page(qtbot, window, HERON)
    card = window.stack.capture.card
    line = card.fields.lines["chapter"]
    assert line.proposal
    assert (line.proposal.value, line.editor.text()) == ("mill", "")
    assert line.isVisibleTo(card)
    assert "Ctrl+Space" in line.origin.text()
    qtbot.keyClick(window, Qt.Key.Key_Space, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: line.editor.text() == "mill", timeout=PATIENCE_MS)
    assert line.letters.text() == "lk"
    assert card.slip
    assert card.slip.proposals == {}
    window.commands.bound["empty-filing"].run()
    qtbot.waitUntil(lambda: "begins anew" in window.notice.text.text(), timeout=PATIENCE_MS)
    assert session._library.filing.records() == []


def test_the_settings_tell_of_the_companion_and_set_it_up_by_a_click_alone(
    qtbot: QtBot, window: MainWindow, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    for name, where in {
        "HOME": "",
        "XDG_DATA_HOME": "data",
        "XDG_STATE_HOME": "state",
        "XDG_CONFIG_HOME": "config",
    }.items():
        monkeypatch.setenv(name, str(tmp_path / "home" / where))
    (tmp_path / "home" / "config" / "chromium").mkdir(parents=True)
    window.commands.bound["settings"].run()
    part = window.page.findChild(CompanionPart)
    assert isinstance(part, CompanionPart)
    qtbot.waitUntil(lambda: part.install.text() == "Set it up" and part.rows.count() > 0, timeout=PATIENCE_MS)
    editor = next(iter(window.page.editors.values()))  # type: ignore[attr-defined]
    qtbot.keyClick(editor.focusProxy() or editor, Qt.Key.Key_Return)
    window.commands.bound["settings"].run()
    part = window.page.findChild(CompanionPart)
    assert isinstance(part, CompanionPart)
    there = tmp_path / "home" / "config" / "chromium" / "NativeMessagingHosts" / "example.wily_magpie.json"
    assert not there.exists()
    qtbot.mouseClick(part.install, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: part.install.text() == "Set it up anew", timeout=PATIENCE_MS)
    assert there.exists()
    qtbot.mouseClick(part.attempt, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: part.told.text().startswith("It answers within"), timeout=PATIENCE_MS)
