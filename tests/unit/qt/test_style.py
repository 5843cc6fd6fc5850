"""What comes along for the look: fonts and icons."""

import json
import re
from pathlib import Path

import pytest
from PyQt6.QtGui import QFont, QFontInfo, QRawFont
from PyQt6.QtWidgets import QApplication

import wily_magpie.qt
from wily_magpie.qt.style.fonts import FILES, FOLDER, font_family
from wily_magpie.qt.style.icons import FONT_FILE, phosphor


@pytest.mark.parametrize("family", FILES)
def test_a_font_that_comes_along_is_what_is_shown(qapp: QApplication, family: str) -> None:
    assert QFontInfo(QFont(font_family(family))).family() == family


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
