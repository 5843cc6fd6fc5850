"""The catalogue's commands as the window has them: bound to what they do, as menu entries, keys and rows of the finder."""

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QWidget

from wily_magpie.core.catalogue import WINDOW_ACTS, Act, find_act
from wily_magpie.core.dataclass import dataclass

ACT_PROPERTY, CHOICE_PROPERTY = "act", "choice"
"""Of a QAction: the id of its command; whether it is one of the answers to a question rather than a command."""


@dataclass(frozen=True)
class Command:
    """A command of the catalogue, and what it does here and now.

    Attributes:
        is_enabled: whether it can be had now; title: its name now, where that changes.
    """

    act: Act
    do: Callable[[], object]
    is_enabled: Callable[[], bool] = lambda: True
    title: Callable[[], str] | None = None

    @property
    def label(self) -> str:
        """Its name now."""
        return self.title() if self.title is not None else self.act.title

    def run(self) -> None:
        """Does it, if it can be had."""
        if self.is_enabled():
            self.do()


class Commands:
    """All that are bound so far, in the order of the catalogue."""

    def __init__(self) -> None:
        self.bound: dict[str, Command] = {}

    def bind(
        self,
        name: str,
        do: Callable[[], object],
        is_enabled: Callable[[], bool] = lambda: True,
        title: Callable[[], str] | None = None,
    ) -> Command:
        """Says what a command of the catalogue does; KeyError where it is none."""
        command = self.bound[name] = Command(find_act(WINDOW_ACTS, name), do, is_enabled, title)
        return command

    def all(self) -> list[Command]:
        """In the order of the catalogue."""
        return [self.bound[act.id] for act in WINDOW_ACTS if act.id in self.bound]

    def action(
        self,
        name: str,
        parent: QWidget,
        context: Qt.ShortcutContext = Qt.ShortcutContext.WindowShortcut,
    ) -> QAction:
        """A bound command as an action with its keys."""
        command = self.bound[name]
        action = QAction(shown(command.label), parent)
        action.setProperty(ACT_PROPERTY, name)
        action.setShortcuts([QKeySequence(keys) for keys in command.act.keys])
        action.setShortcutContext(context)
        action.triggered.connect(lambda _checked: command.run())
        return action

    def add_to(self, menu: QMenu, name: str, text: str = "", do: Callable[[], object] | None = None) -> QAction:
        """A line of a context menu: a bound command, perhaps under a name that says more, or for something chosen."""
        known = self.bound.get(name)
        act = find_act(WINDOW_ACTS, name)
        keys = f"\t{act.keys[0]}" if act.keys and do is None else ""
        action = QAction(f"{shown(text or (known.label if known else act.title))}{keys}", menu)
        action.setProperty(ACT_PROPERTY, name)
        menu.addAction(action)
        if do is not None:
            action.triggered.connect(lambda _checked: do())
        elif known is not None:
            action.triggered.connect(lambda _checked: known.run())
            action.setEnabled(known.is_enabled())
        return action


def tip_of(name: str) -> str:
    """The tool tip of a button that does a command."""
    return find_act(WINDOW_ACTS, name).tip


def shown(text: str) -> str:
    """A text as menus take it."""
    return text.replace("&", "&&")


def add_choice(menu: QMenu, text: str, do: Callable[[], object]) -> QAction:
    """One of the answers to a question that a menu asks."""
    action = QAction(shown(text), menu)
    action.setProperty(CHOICE_PROPERTY, True)
    action.triggered.connect(lambda _checked: do())
    menu.addAction(action)
    return action
