"""One catalogue of commands: no menu entry, no key and no line of a context menu that is not in it."""

from collections import Counter

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QAbstractButton, QMenu, QWidget
from pytestqt.qtbot import QtBot

from wily_magpie.core.catalogue import WINDOW_ACTS, Where, find_act
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.session.session import Session
from wily_magpie.qt.actions import ACT_PROPERTY, CHOICE_PROPERTY
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import CAPTURE, READ, REVIEW, SOURCES, TEMPLATES
from wily_magpie.qt.window_pages import KeysPage

PATIENCE_MS = 15_000


@pytest.fixture
def everything(qtbot: QtBot, window: MainWindow, session: Session) -> MainWindow:
    """The window with every station built, and its menus filled."""
    session.do(AddEntry("collection:1", "The mill"))
    for number in (CAPTURE, READ, SOURCES, REVIEW, TEMPLATES, SOURCES):
        window.go(number)
    table = window.stack.sources.table
    qtbot.waitUntil(lambda: table.table.rowCount() == 1, timeout=PATIENCE_MS)
    table.setFocus()
    for menu in window.findChildren(QMenu):
        if menu.title() != "kept pages":
            menu.aboutToShow.emit()
    return window


def all_actions(window: MainWindow) -> list[QAction]:
    """Those of menus and of widgets, with those of the context menus of the table and of the places."""
    sources = window.stack.sources
    menus = [sources.cells.menu(), *window.findChildren(QMenu)]
    for menu in list(menus):
        menus += menu.findChildren(QMenu)
    listed = [action for menu in menus for action in menu.actions()]
    return [*listed, *window.findChildren(QAction), *(one for w in window.findChildren(QWidget) for one in w.actions())]


def is_known(action: QAction) -> bool:
    """Whether it is a command of the catalogue, an answer to a question, a way into a menu, or Qt's own in a text field."""
    if action.isSeparator() or action.menu() is not None or action.property(CHOICE_PROPERTY) or not action.text():
        return True
    parent = action.parent()
    if not action.isEnabled() and action.property(ACT_PROPERTY) is None:
        return True  # a line that says that there is nothing
    is_qts = action.objectName().startswith("edit-") or type(parent).__name__ in ("QLineEdit", "QTextEdit")
    return is_qts or action.property(ACT_PROPERTY) in {act.id for act in WINDOW_ACTS}


def test_every_entry_of_a_menu_is_in_the_catalogue(everything: MainWindow) -> None:
    actions = all_actions(everything)
    assert len(actions) > 40
    assert [(one.text(), type(one.parent()).__name__) for one in actions if not is_known(one)] == []


def test_every_key_is_the_catalogues(everything: MainWindow) -> None:
    for action in all_actions(everything):
        keys = [one.toString() for one in action.shortcuts()]
        name = action.property(ACT_PROPERTY)
        if keys and name:
            act = find_act(WINDOW_ACTS, str(name))
            assert keys == [QKeySequence(one).toString() for one in act.keys], action.text()
        elif keys:
            assert action.objectName().startswith("edit-"), (action.text(), keys)
    assert not [button.text() for button in everything.findChildren(QAbstractButton) if not button.shortcut().isEmpty()]


def test_every_command_is_bound_and_has_a_place(everything: MainWindow) -> None:
    of_a_column = {act.id for act in WINDOW_ACTS if "column" in act.id}
    shown_elsewhere = {"mark-as", "set-field", *of_a_column}
    shown = {str(action.property(ACT_PROPERTY)) for action in all_actions(everything)}
    assert len(of_a_column & shown) >= 3
    assert {act.id for act in WINDOW_ACTS} - set(everything.commands.bound) - shown_elsewhere == set()
    for command in everything.commands.all():
        assert isinstance(command.is_enabled(), bool)
        assert command.label


def test_no_two_commands_have_a_name_or_a_key_in_common() -> None:
    assert [name for name, n in Counter(act.id for act in WINDOW_ACTS).items() if n > 1] == []
    assert [title for title, n in Counter((act.title, act.where) for act in WINDOW_ACTS).items() if n > 1] == []
    for where in Where:
        held = [key for act in WINDOW_ACTS if act.where in (where, Where.ANYWHERE) for key in act.keys]
        assert [key for key, n in Counter(held).items() if n > 1] == [], where
    for act in WINDOW_ACTS:
        for key in act.keys:
            assert not QKeySequence(key).isEmpty(), key
        assert act.title[0].isupper()
        assert act.tip


def test_the_list_of_keys_shows_all_of_them(qtbot: QtBot, window: MainWindow) -> None:
    page = KeysPage(window)
    qtbot.addWidget(page)
    shown = {
        (page.table.item(row, 0).text(), page.table.item(row, 1).text(), page.table.item(row, 2).text())  # type: ignore[union-attr]
        for row in range(page.table.rowCount())
    }
    assert shown == {(act.title, " or ".join(act.keys), str(act.where)) for act in WINDOW_ACTS}
    assert ("Undo", "Ctrl+Z", "Anywhere") in shown


def test_f1_opens_it(qtbot: QtBot, window: MainWindow) -> None:
    qtbot.keyClick(window, Qt.Key.Key_F1)
    qtbot.waitUntil(lambda: bool(window.findChildren(KeysPage)), timeout=PATIENCE_MS)
    window.findChildren(KeysPage)[0].accept()


def test_what_cannot_be_had_is_switched_off(everything: MainWindow) -> None:
    everything.go(REVIEW)
    bound = everything.commands.bound
    assert not bound["keep"].is_enabled()
    assert not bound["propose"].is_enabled()
    assert bound["find"].is_enabled()
    everything.go(TEMPLATES)
    assert bound["propose"].is_enabled()
