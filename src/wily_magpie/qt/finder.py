"""The finder: every command with its shortcut, places, views and the entries seen last, found by typing and told apart."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, QRect, QSize, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QPainter
from PyQt6.QtWidgets import (
    QDialog,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.dataclass import dataclass
from wily_magpie.qt.actions import Command
from wily_magpie.qt.style.theme import THEME

COMMAND_ROLE = int(Qt.ItemDataRole.UserRole)
WIDTH_PX, HEIGHT_PX = 520, 380
ASKS = "Find a command, a place, a view, an entry"


@dataclass(frozen=True)
class Choice:
    """Something that can be gone to, or done.

    Attributes:
        kind: what it is, as it stands at the right: the keys of a command, "place", "view of Sources", "entry in Sources".
    """

    label: str
    kind: str
    run: Callable[[], object]
    is_enabled: Callable[[], bool] = lambda: True


def choice_of(command: Command) -> Choice:
    """A command as such a choice."""
    return Choice(command.label, " or ".join(command.act.keys[:1]), command.run, command.is_enabled)


class CommandDelegate(QStyledItemDelegate):
    """A name at the left, what it is at the right."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: object) -> None:
        command = index.data(COMMAND_ROLE)  # type: ignore[attr-defined]
        if painter is None:
            return
        c = THEME.colours
        rect: QRect = option.rect.adjusted(10, 0, -10, 0)
        if not isinstance(command, Choice):  # a line that only tells something
            painter.setPen(QColor(c.slate))
            painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, str(index.data()))  # type: ignore[attr-defined]
            return
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(option.rect, QColor(c.wash if chosen else c.card))
        painter.setPen(QColor(c.ink if command.is_enabled() else c.slate))
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, command.label)
        painter.setPen(QColor(c.brass))
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, command.kind)

    def sizeHint(self, option: QStyleOptionViewItem, index: object) -> QSize:
        return QSize(200, 30)


class CommandFinder(QDialog):
    """Type a part of a name; Enter does the command, or goes there."""

    def __init__(self, choices: Sequence[Choice], parent: QWidget, asks: str = ASKS) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setAccessibleName(asks)
        self.choices = choices
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 8, 8)
        self.line = QLineEdit()
        self.line.setPlaceholderText(asks)
        self.line.setAccessibleName(asks)
        self.line.textChanged.connect(self.fill)
        self.line.installEventFilter(self)
        self.list = QListWidget()
        self.list.setItemDelegate(CommandDelegate(self.list))
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemClicked.connect(self.do)
        column.addWidget(self.line)
        column.addWidget(self.list, 1)
        self.resize(WIDTH_PX, HEIGHT_PX)
        self.fill("")
        self.line.setFocus()

    def fill(self, text: str) -> None:
        """Lists the choices in whose names all the words stand."""
        words = text.casefold().split()
        self.list.clear()
        for command in self.choices:
            if all(word in f"{command.label} {command.kind}".casefold() for word in words):
                item = QListWidgetItem()
                item.setData(COMMAND_ROLE, command)
                item.setText(command.label)
                self.list.addItem(item)
        self.list.setCurrentRow(0)

    def do(self, item: QListWidgetItem | None) -> None:
        """Does a command, if it can be had now."""
        command = item.data(COMMAND_ROLE) if item is not None else None
        if isinstance(command, Choice) and command.is_enabled():
            self.close()
            command.run()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step:
                rows = max(1, self.list.count())
                self.list.setCurrentRow((self.list.currentRow() + step) % rows)
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.do(self.list.currentItem())
                return True
        return super().eventFilter(watched, event)
