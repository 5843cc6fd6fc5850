"""Icons of the Phosphor set (MIT), drawn from its font, which comes with the program."""

import json
from functools import cache

from PyQt6.QtCore import QRect, QSize, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QIcon, QIconEngine, QPainter, QPixmap

from wily_magpie.qt.style.fonts import FOLDER

FONT_FILE = "phosphor.ttf"
"""The set's font, with the icons of phosphor.json alone (see CONTRIBUTING.md to add one)."""


@cache
def phosphor() -> tuple[str, dict[str, str]]:
    """The font's family, and each icon's code by its name."""
    families = QFontDatabase.applicationFontFamilies(QFontDatabase.addApplicationFont(str(FOLDER / FONT_FILE)))
    return families[0], json.loads((FOLDER / "phosphor.json").read_text("utf-8"))


class Engine(QIconEngine):
    """Paints one icon at whatever size is asked for, when it is asked for."""

    def __init__(self, name: str, colour: str, disabled: str) -> None:
        super().__init__()
        self.name, self.colour, self.disabled = name, colour, disabled

    def clone(self) -> QIconEngine:
        return Engine(self.name, self.colour, self.disabled)

    def paint(self, painter: QPainter | None, rect: QRect, mode: QIcon.Mode, state: QIcon.State) -> None:
        if painter is None:
            return
        family, codes = phosphor()
        font = QFont(family)
        font.setPixelSize(max(1, rect.height()))
        painter.setFont(font)
        painter.setPen(QColor(self.disabled if mode == QIcon.Mode.Disabled else self.colour))
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, chr(int(codes[self.name], 16)))

    def pixmap(self, size: QSize, mode: QIcon.Mode, state: QIcon.State) -> QPixmap:
        pixmap = QPixmap(size)
        if pixmap.isNull():  # no size: what it is for is not shown yet
            return pixmap
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        self.paint(painter, pixmap.rect(), mode, state)
        painter.end()
        return pixmap


def icon(name: str, colour: str, disabled: str) -> QIcon:
    """An icon in a colour, and in another one where it is disabled; name is one of the set's."""
    return QIcon(Engine(name, colour, disabled))
