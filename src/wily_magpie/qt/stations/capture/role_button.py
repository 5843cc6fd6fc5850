"""Says what a field of a place is taken for when a page is kept, and lets that be corrected."""

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QMenu, QToolButton, QWidget

from wily_magpie.core.entries.roles import NOTHING, ROLES


class RoleButton(QToolButton):
    """See the module.

    Signals:
        chosen: a role, NOTHING, or "" for what the field's name tells.
    """

    chosen = pyqtSignal(str)

    def __init__(self, label: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setText("What it is for")
        self.setObjectName("small")
        self.setAccessibleName(f"What {label} is for")
        self.setToolTip("What of a page goes into this field in this place, from now on")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.choices = QMenu(self)
        self.choices.aboutToShow.connect(self.fill)
        self.setMenu(self.choices)

    def fill(self) -> None:
        """Makes the menu, which is seldom opened."""
        self.choices.clear()
        for role, (said, _) in ROLES.items():
            self.choices.addAction(f"The {said}", partial(self.chosen.emit, role))
        self.choices.addSeparator()
        self.choices.addAction("None of these", partial(self.chosen.emit, NOTHING))
        self.choices.addAction("What its name tells", partial(self.chosen.emit, ""))
