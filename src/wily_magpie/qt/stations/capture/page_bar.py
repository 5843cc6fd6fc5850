"""The line above the live page: where to go, what to do with it, and how far it is."""

from collections.abc import Callable

from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from wily_magpie.core.dataclass import dataclass
from wily_magpie.qt.style.parts import icon_button, label, plain_tip, text_button, thin_bar

STEP = 0.1
"""Of the size of the text, at each press."""


@dataclass(frozen=True)
class PageBarActs:
    """What its buttons do; zoom is handed how much larger the text is to be."""

    back: Callable[[], object]
    forward: Callable[[], object]
    reload: Callable[[], object]
    stop: Callable[[], object]
    read_again: Callable[[], object]
    zoom: Callable[[float], object]


class PageBar(QWidget):
    """See the module."""

    def __init__(self, acts: PageBarActs, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.row = QHBoxLayout()
        self.row.setContentsMargins(8, 4, 8, 4)
        self.back = icon_button("arrow-left", "Back", acts.back)
        self.forward = icon_button("arrow-right", "Forward", acts.forward)
        self.reload = icon_button("arrow-clockwise", "Reload", acts.reload)
        self.stop = icon_button("x", "Stop", acts.stop)
        self.read_again = text_button("Read again", act=acts.read_again)
        self.read_again.setToolTip("Fill the slip anew from the page as it stands; what you typed stays")
        self.smaller = icon_button("magnifying-glass-minus", "Smaller text", lambda: acts.zoom(-STEP))
        self.larger = icon_button("magnifying-glass-plus", "Larger text", lambda: acts.zoom(STEP))
        self.state = label("")
        self.state.setIndent(8)
        self.state.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)  # it never widens the window
        self.buttons: list[QToolButton] = [self.back, self.forward, self.reload, self.stop, self.read_again]
        for button in self.buttons:
            self.row.addWidget(button)
        self.row.addWidget(self.state, 1)
        self.row.addWidget(self.smaller)
        self.row.addWidget(self.larger)
        self.buttons += [self.smaller, self.larger]
        column.addLayout(self.row)
        self.progress = thin_bar()
        column.addWidget(self.progress)

    def add_mark(self, button: QToolButton) -> None:
        """Puts the button of the marking mode behind the others."""
        self.row.insertWidget(self.row.indexOf(self.state), button)
        self.buttons.append(button)

    def set_tools(self, *, is_live: bool) -> None:
        """Switches the buttons on or off."""
        for button in self.buttons:
            button.setEnabled(is_live)

    def say(self, text: str) -> None:
        """Says what can be done in the page, or how far it is."""
        self.state.setText(text)
        self.state.setToolTip(plain_tip(text))
