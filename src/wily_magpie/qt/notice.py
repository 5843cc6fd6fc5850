"""A notice at the foot of the window: what happened, and what can be done about it."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from wily_magpie.core.entries.entry import short
from wily_magpie.qt.style.parts import WrappedLabel, icon_button, plain_tip, timer

LONGEST = 500
"""Characters that are shown; all of them are in the tool tip."""
LEAST_MS = 3_000
"""How long every notice stays, whatever its length."""


class Notice(QWidget):
    """A line of its own below the station, so that it covers nothing; it goes by itself unless it tells of a problem.

    Args:
        letters_a_second: how quickly the person reads.
    """

    def __init__(self, letters_a_second: Callable[[], float], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.letters_a_second = letters_a_second
        self.setObjectName("notice")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 8, 8)
        row.setSpacing(8)
        self.text = WrappedLabel()
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self.text.setAccessibleName("Notice")
        row.addWidget(self.text, 1)
        self.buttons: list[QPushButton] = []
        self.dismiss = icon_button("x", "Dismiss", self.hide)
        row.addWidget(self.dismiss)
        self.row = row
        self.timer = timer(self, self.hide)
        self.hide()

    def show_text(
        self, text: str, buttons: Sequence[tuple[str, Callable[[], object]]] = (), *, is_problem: bool = False
    ) -> None:
        """Shows a notice."""
        self.text.setText(short(text, LONGEST))
        self.text.setToolTip(plain_tip(text if len(text) > LONGEST else ""))
        for old in self.buttons:
            old.hide()
            old.deleteLater()
        self.buttons = []
        for label, act in buttons:
            button = QPushButton(label)
            button.clicked.connect(self.hide)
            button.clicked.connect(lambda _checked, act=act: act())
            self.row.insertWidget(self.row.count() - 1, button)
            self.buttons.append(button)
        self.setProperty("alarm", is_problem)
        style = self.style()
        if style is not None:
            style.polish(self)
        self.show()
        self.timer.stop()
        if not is_problem:
            self.timer.start(self.shown_ms(text))

    def shown_ms(self, text: str) -> int:
        """How long a text needs to be read."""
        return LEAST_MS + round(1000 * len(text) / max(1.0, self.letters_a_second()))
