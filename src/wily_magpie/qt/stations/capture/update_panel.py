"""What of a page would replace what of its entry: each change with a tick, one's own words never ticked for loss."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QVBoxLayout, QWidget

from wily_magpie.core.templates.update import Change, ChosenUpdate, PageUpdate
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.parts import button, in_row, label, scroll_area

LONGEST = 280


def shortened(text: str) -> str:
    """A text that is seen at a glance."""
    plain = " ".join(text.split())
    return plain if len(plain) <= LONGEST else f"{plain[: LONGEST - 1]}…"


class UpdatePanel(QWidget):
    """Shows changes and lets them be chosen.

    Signals:
        wanted: the update with what was chosen.
        left: the person goes back to the slip.
    """

    wanted = pyqtSignal(object)
    left = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.update_shown = PageUpdate((), ())
        self.ticks: list[QCheckBox] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 6, 0, 8)
        self.head = label(wraps=True)
        column.addWidget(self.head)
        inside = QWidget()
        self.rows = QVBoxLayout(inside)
        self.rows.setContentsMargins(0, 4, 12, 4)
        self.rows.setSpacing(12)
        column.addWidget(scroll_area(inside), 1)
        wanted = lambda: self.wanted.emit(ChosenUpdate(self.update_shown, self.chosen()))  # noqa: E731
        self.apply = button("", wanted, is_main=True)
        foot = in_row(self.apply, button("Back to the slip", self.left.emit))
        foot.setContentsMargins(0, 0, 12, 0)
        column.addLayout(foot)

    def show_update(self, update: PageUpdate) -> None:
        """Lists what could be another."""
        self.update_shown = update
        clear(self.rows)
        self.ticks = [self.add_row(one) for one in update.changes]
        self.rows.addStretch(1)
        if update.changes:
            said = "What the page says today, held against the entry. What is ticked is taken over; what the page as it was"
            self.head.setText(f"{said} kept does not have is yours, and is never ticked for loss.")
        else:
            self.head.setText("The page says nothing that the entry does not have.")
        self.count()

    def add_row(self, change: Change) -> QCheckBox:
        """One change, with its tick."""
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(1)
        what = "new" if not change.now else "gone from the page" if not change.then else "changed"
        tick = QCheckBox(f"{change.label}: {what}".replace("&", "&&"))
        tick.setChecked(change.is_proposed)
        tick.toggled.connect(self.count)
        grid.addWidget(tick, 0, 0, 1, 2)
        for row, (text, sign) in enumerate(((change.now, "−"), (change.then, "+")), 1):
            if text:
                grid.addWidget(label(sign, "problem" if sign == "−" else "done"), row, 0, Qt.AlignmentFlag.AlignTop)
                shown = label(shortened(text), "slate" if sign == "−" else "ink", wraps=True)
                shown.setTextFormat(Qt.TextFormat.PlainText)
                grid.addWidget(shown, row, 1)
        grid.setColumnStretch(1, 1)
        grid.setColumnMinimumWidth(0, 14)
        self.rows.addWidget(box)
        return tick

    def chosen(self) -> frozenset[int]:
        """The numbers of the changes that are ticked."""
        return frozenset(at for at, tick in enumerate(self.ticks) if tick.isChecked())

    def count(self) -> None:
        """Says how many changes are made."""
        number = len(self.chosen())
        self.apply.setText(f"Update these {number}" if number != 1 else "Update this one")
        self.apply.setVisible(bool(self.ticks))
        self.apply.setEnabled(number > 0)
