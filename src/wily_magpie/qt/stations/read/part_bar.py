"""The line below a text that is read in parts: which one it is, and the ones beside it."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.parts import Divided
from wily_magpie.qt.actions import tip_of
from wily_magpie.qt.style.parts import label, text_button


class PartBar(QWidget):
    """See the module.

    Signals:
        turned: -1 or +1: to the part before or behind.
    """

    turned = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 2, 12, 4)
        self.before = text_button("Part before", "arrow-left", lambda: self.turned.emit(-1))
        self.behind = text_button("Next part", "arrow-right", lambda: self.turned.emit(1))
        self.before.setToolTip(tip_of("part-before"))
        self.behind.setToolTip(tip_of("next-part"))
        self.told = label()
        row.addWidget(self.before)
        row.addStretch(1)
        row.addWidget(self.told)
        row.addStretch(1)
        row.addWidget(self.behind)
        self.hide()

    def show_part(self, text: Divided, part: int) -> None:
        """Shows where one is; nothing for a text that is in one piece."""
        self.setVisible(len(text) > 1)
        if len(text) > 1:
            title = text.title(part)
            self.told.setText(f"Part {part + 1:,} of {len(text):,}{f': {short(title)}' if title else ''}")
            self.before.setEnabled(part > 0)
            self.behind.setEnabled(part + 1 < len(text))
