"""The fonts that come along; each is made known to Qt when it is first wanted, so that a window begins with one alone."""

from functools import cache
from pathlib import Path

from PyQt6.QtGui import QFontDatabase

from wily_magpie.qt.style.tokens import DYSLEXIA_FONT, MONO_FONT, READING_FONT, UI_FONT

FOLDER = Path(__file__).parent / "fonts"
FILES = {
    UI_FONT: "AtkinsonHyperlegibleNext_*.ttf",
    READING_FONT: "SourceSerif4_*.ttf",
    MONO_FONT: "IBMPlexMono_*.ttf",
    DYSLEXIA_FONT: "opendyslexic-*.woff",
}


@cache
def font_family(family: str) -> str:
    """One of the families that come along, by its name, which is handed back."""
    for file in sorted(FOLDER.glob(FILES[family])):
        QFontDatabase.addApplicationFontFromData(file.read_bytes())
    return family
