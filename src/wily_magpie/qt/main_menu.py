"""The one menu of the window."""

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QWidget

from wily_magpie.core.catalogue import MENU
from wily_magpie.qt.actions import Commands, shown
from wily_magpie.qt.window_keys import WindowKeys

ONLY_WHERE_THEY_CAN = frozenset({"speak"})
"""Commands that are not shown where they cannot be had."""


class MainMenu(QMenu):
    """Is filled when it is first opened: a hundred lines that nobody looks at yet would be a twentieth of a start.

    Args:
        keys: whose actions are its lines where a command has keys.
    """

    def __init__(self, window: QWidget, commands: Commands, keys: WindowKeys) -> None:
        super().__init__(window)
        self.commands, self.keys = commands, keys
        self.named: dict[str, QAction] = {}
        self.aboutToShow.connect(self.refresh)
        self.aboutToHide.connect(keys.let_through)

    def fill(self) -> None:
        """Makes its lines: a menu of its own for each group that has a name."""
        for group, name in MENU.items():
            inner = self.addMenu(shown(name)) if name else None
            if inner is None and self.named:
                self.addSeparator()
            for command in self.commands.all():
                if command.act.group == group:
                    (inner or self).addAction(self.line(command.act.id))
            if inner is None and group != list(MENU)[-1]:
                self.addSeparator()

    def line(self, name: str) -> QAction:
        """The line of a command."""
        self.named[name] = self.keys.actions.get(name) or self.without_keys(name)
        return self.named[name]

    def without_keys(self, name: str) -> QAction:
        """A line whose command has no keys, or has them elsewhere alone."""
        action = self.commands.action(name, self)
        action.setShortcuts([])
        return action

    def refresh(self) -> None:
        """Names and greys the commands as they are now."""
        if not self.named:
            self.fill()
        for name, action in self.named.items():
            command = self.commands.bound[name]
            action.setText(shown(command.label))
            action.setEnabled(command.is_enabled())
            action.setVisible(command.is_enabled() or name not in ONLY_WHERE_THEY_CAN)

    def name_undo(self) -> None:
        """Keeps the names of undo and redo true while it is open."""
        if self.isVisible():
            self.refresh()
