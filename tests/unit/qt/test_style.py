"""What comes along for the look: fonts and icons."""

import json
import re
from pathlib import Path

import pytest
from PyQt6.QtGui import QFont, QFontInfo, QPalette, QRawFont
from PyQt6.QtWidgets import QApplication, QLabel, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

import wily_magpie.qt
from wily_magpie.qt.editors.completing import plain_completer
from wily_magpie.qt.style.fonts import FILES, FOLDER, font_family
from wily_magpie.qt.style.icons import FONT_FILE, phosphor
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.style.tokens import DARK, LIGHT


@pytest.mark.parametrize("family", FILES)
def test_a_font_that_comes_along_is_what_is_shown(qapp: QApplication, family: str) -> None:
    assert QFontInfo(QFont(font_family(family))).family() == family


def test_another_look_reaches_every_window_and_the_lists_of_completers(qtbot: QtBot) -> None:
    window, line = QWidget(), QLineEdit()
    for one in (window, line):
        qtbot.addWidget(one)
    inside = QLabel("Low water", window)
    THEME.dress(window)
    completer = plain_completer(["law"], line)
    line.setCompleter(completer)
    try:
        for look, colours in (("dark", DARK), ("light", LIGHT)):
            THEME.apply(application(), look)
            popup = completer.popup()
            assert popup is not None
            assert colours.ground in window.styleSheet()
            assert colours.wash in popup.styleSheet()
            inside.ensurePolished()
            assert inside.palette().color(QPalette.ColorRole.WindowText).name().upper() == colours.ink.upper()
    finally:
        THEME.apply(application(), "light")


def application() -> QApplication:
    found = QApplication.instance()
    assert isinstance(found, QApplication)
    return found


def test_every_icon_that_is_named_is_in_the_set(qapp: QApplication) -> None:
    codes = json.loads((FOLDER / "phosphor.json").read_text("utf-8"))
    font = QRawFont(str(FOLDER / FONT_FILE), 16)
    assert font.isValid()
    assert [name for name, code in codes.items() if not font.supportsCharacter(int(code, 16))] == []
    assert phosphor()[1] == codes
    source = "\n".join(path.read_text("utf-8") for path in Path(wily_magpie.qt.__path__[0]).rglob("*.py"))
    named = set(re.findall(r'(?:icon_button|set_icon|THEME\.icon)\([^"()]*"([a-z-]+)"', source))
    assert len(named) > 10
    assert named <= codes.keys()
