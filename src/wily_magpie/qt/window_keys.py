"""The keys of the window, each where its command can be used."""

from collections.abc import Callable

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QWidget

from wily_magpie.core.catalogue import Where
from wily_magpie.qt.actions import Commands
from wily_magpie.qt.station_stack import CAPTURE, READ, REVIEW, SOURCES, TEMPLATES

OF_STATION = {
    Where.CAPTURE: CAPTURE, Where.READ: READ, Where.SOURCES: SOURCES, Where.TABLE: SOURCES,
    Where.ENTRY: SOURCES, Where.REVIEW: REVIEW, Where.TEMPLATES: TEMPLATES, Where.BENCH: TEMPLATES,
}  # fmt: skip


class WindowKeys:
    """See the module.

    Args:
        station: gives the one that is open.

    Attributes:
        actions: of the commands that have keys, by their ids.
    """

    def __init__(self, window: QWidget, commands: Commands, station: Callable[[], int]) -> None:
        self.commands, self.station = commands, station
        self.actions: dict[str, QAction] = {}
        for command in commands.all():
            name = command.act.id
            is_of_list = command.act.where is Where.PLACES  # which has these keys itself
            if command.act.group and command.act.keys and not is_of_list:
                self.actions[name] = commands.action(name, window)
                window.addAction(self.actions[name])

    def let_through(self) -> None:
        """Lets every key of the open station through: whether its command can be had is asked when it is pressed.

        Those of other stations are off: the same keys may say something else there.
        """
        here = self.station()
        for name, action in self.actions.items():
            action.setEnabled(OF_STATION.get(self.commands.bound[name].act.where, here) == here)
