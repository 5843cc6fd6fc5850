"""Copying the library and bringing a copy back, by the window."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtWidgets import QApplication, QMessageBox
from pytestqt.qtbot import QtBot

from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.errors import EnvironmentFailure
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.qt import application, restore_page
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.restore_page import CLOSE, LOOK_ONLY, RESTORE, RestorePage, failure_box

PATIENCE_MS = 10_000


@pytest.fixture
def copy(session: Session, tmp_path: Path) -> Path:
    session.do(AddEntry("collection:1", "Heron Mill"))
    session.back_up(tmp_path / "copy")
    session.do(AddEntry("collection:1", "Tide Mill"))
    return tmp_path / "copy"


def shown(page: RestorePage) -> list[list[str]]:
    rows = range(page.table.rowCount())
    return [[item.text() for at in range(3) if (item := page.table.item(row, at))] for row in rows]


def test_the_library_is_copied_and_said_where(
    qtbot: QtBot, window: MainWindow, session: Session, tmp_path: Path
) -> None:
    session.do(AddEntry("collection:1", "Heron Mill"))
    window.copy_to(tmp_path / "copy")
    qtbot.waitUntil(lambda: "the copy is checked" in window.notice.text.text(), timeout=PATIENCE_MS)
    assert (tmp_path / "copy" / "library.sqlite").is_file()


def test_a_copy_is_shown_beside_what_is_here_and_taken_with_a_click(qtbot: QtBot, session: Session, copy: Path) -> None:
    page = RestorePage(session.folder)
    qtbot.addWidget(page)
    assert not page.bring.isEnabled()
    page.show_copy(copy)
    assert ["Sources", "1", "2"] in shown(page)
    assert "would be moved to" in page.told.text()
    qtbot.mouseClick(page.bring, Qt.MouseButton.LeftButton)
    assert page.chosen == copy


def test_what_is_no_copy_cannot_be_taken(qtbot: QtBot, session: Session, copy: Path, tmp_path: Path) -> None:
    page = RestorePage(session.folder)
    qtbot.addWidget(page)
    page.show_copy(copy)
    page.show_copy(tmp_path / "nothing")
    assert not page.bring.isEnabled()
    assert "no copy of a library" in page.problem.text()
    assert shown(page) == []


def test_the_window_asks_to_be_opened_again_with_the_copy(qtbot: QtBot, window: MainWindow, copy: Path) -> None:
    window.open_restore()
    page = window.page
    assert isinstance(page, RestorePage)
    page.show_copy(copy)
    with qtbot.waitSignal(window.closed, timeout=PATIENCE_MS):
        qtbot.mouseClick(page.bring, Qt.MouseButton.LeftButton)
    assert window.wanted_copy == copy


@pytest.mark.parametrize(
    ("slug", "answers"),
    [
        ("library-missing", [RESTORE, CLOSE]),
        ("library-damaged", [RESTORE, CLOSE]),
        ("disk-full", [LOOK_ONLY, CLOSE]),
        ("library-newer", [CLOSE]),
    ],
)
def test_a_library_that_does_not_open_offers_what_helps(qtbot: QtBot, slug: str, answers: list[str]) -> None:
    box = failure_box(EnvironmentFailure(slug, "It does not open.", "Do something."))
    qtbot.addWidget(box)
    assert sorted(str(button.property("answer")) for button in box.buttons()) == sorted(answers)


def test_a_damaged_library_is_brought_back_and_opens(
    qtbot: QtBot, qapp: QApplication, session: Session, copy: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """From the failing start to the window over the copy, as a person goes through it."""
    session.close()
    folder = session.folder
    (folder / "library.sqlite").write_bytes(b"nonsense" * 5000)
    QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, str(tmp_path / "settings"))
    monkeypatch.setattr(restore_page, "ask_after_failure", lambda _error: RESTORE)

    def choose(page: RestorePage) -> int:
        page.show_copy(copy)
        page.take()
        return 1

    monkeypatch.setattr(RestorePage, "exec", choose)
    monkeypatch.setattr(QMessageBox, "critical", lambda *given: pytest.fail(str(given[-1])))
    titles: list[str] = []

    def look(
        _application: QApplication, window: MainWindow, opened: Session, _door: object, _opens: object, **_: object
    ) -> tuple[int, None]:
        ids = list(opened.reader.entries.listing("collection:1", Question()).ids)
        titles.extend(one.title for one in opened.reader.entries.rows("collection:1", ids))
        window.close()
        opened.close()
        return 0, None

    monkeypatch.setattr(application, "show", look)

    def open_session(is_read_only: bool) -> Session:
        return Session(folder, Fetcher(), is_read_only=is_read_only)

    assert application.run(folder, open_session, lambda _address: None) == 0
    assert titles == ["Heron Mill"]
    (aside,) = folder.parent.glob("library before *")
    assert (aside / "library.sqlite").read_bytes() == b"nonsense" * 5000


def test_what_was_found_at_opening_is_said_in_the_window(
    qtbot: QtBot, session: Session, request: pytest.FixtureRequest
) -> None:
    session.told = (EnvironmentFailure("log-damaged", "Changes may be lost.", "Look at what was done last."),)
    window: MainWindow = request.getfixturevalue("window")
    qtbot.waitUntil(lambda: "Changes may be lost." in window.notice.text.text(), timeout=PATIENCE_MS)
