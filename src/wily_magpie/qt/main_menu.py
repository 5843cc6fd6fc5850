"""The one menu of the window; its actions also carry the keys, each where its command can be used."""

from collections.abc import Callable

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QWidget

from wily_magpie.core.catalogue import Where
from wily_magpie.qt.actions import Commands, shown
from wily_magpie.qt.station_stack import CAPTURE, READ, REVIEW, SOURCES, TEMPLATES

ONLY_WHERE_THEY_CAN = frozenset({"speak"})
"""Commands that are not shown where they cannot be had."""
OF_STATION = {
    Where.CAPTURE: CAPTURE, Where.READ: READ, Where.SOURCES: SOURCES, Where.TABLE: SOURCES, Where.PLACES: SOURCES,
    Where.ENTRY: SOURCES, Where.REVIEW: REVIEW, Where.TEMPLATES: TEMPLATES, Where.BENCH: TEMPLATES,
}  # fmt: skip
KEYS_OF_THE_LIST = ("rename-view", "copy-view", "delete-view")
"""Their keys are those of the list of places alone."""


class MainMenu(QMenu):
    """See the module.

    Args:
        window: whose keys they are.
        station: gives the one that is open.
    """

    def __init__(self, window: QWidget, commands: Commands, station: Callable[[], int]) -> None:
        super().__init__(window)
        self.commands, self.station = commands, station
        self.named: dict[str, QAction] = {}
        group = None
        for command in commands.all():
            if not command.act.group:
                continue
            if group is not None and command.act.group != group:
                self.addSeparator()
            group = command.act.group
            action = commands.action(command.act.id, window)
            if command.act.id not in KEYS_OF_THE_LIST:
                window.addAction(action)
            else:
                action.setShortcuts([])
            self.addAction(action)
            self.named[command.act.id] = action
        self.aboutToShow.connect(self.refresh)
        self.aboutToHide.connect(self.let_keys_through)

    def refresh(self) -> None:
        """Names and greys the commands as they are now."""
        for name, action in self.named.items():
            command = self.commands.bound[name]
            action.setText(shown(command.label))
            action.setEnabled(command.is_enabled())
            action.setVisible(command.is_enabled() or name not in ONLY_WHERE_THEY_CAN)

    def let_keys_through(self) -> None:
        """Lets every key of the open station through: whether its command can be had is asked when it is pressed.

        Those of other stations are off: the same keys may say something else there.
        """
        here = self.station()
        for name, action in self.named.items():
            action.setEnabled(OF_STATION.get(self.commands.bound[name].act.where, here) == here)

    def name_undo(self) -> None:
        """Keeps the names of undo and redo true."""
        for name in ("undo", "redo"):
            self.named[name].setText(shown(self.commands.bound[name].label))
