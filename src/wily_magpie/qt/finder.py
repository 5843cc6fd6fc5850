"""The command finder: every command with its shortcut, found by typing."""

from collections.abc import Sequence

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

from wily_magpie.qt.actions import Command
from wily_magpie.qt.style.theme import THEME

COMMAND_ROLE = int(Qt.ItemDataRole.UserRole)
WIDTH_PX, HEIGHT_PX = 520, 380


class CommandDelegate(QStyledItemDelegate):
    """A command's name at the left, its keys at the right."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: object) -> None:
        command = index.data(COMMAND_ROLE)  # type: ignore[attr-defined]
        if painter is None or not isinstance(command, Command):
            return
        c = THEME.colours
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(option.rect, QColor(c.wash if chosen else c.card))
        rect: QRect = option.rect.adjusted(10, 0, -10, 0)
        painter.setPen(QColor(c.ink if command.is_enabled() else c.slate))
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, command.label)
        painter.setPen(QColor(c.brass))
        painter.drawText(
            rect, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, " or ".join(command.act.keys[:1])
        )

    def sizeHint(self, option: QStyleOptionViewItem, index: object) -> QSize:
        return QSize(200, 30)


class CommandFinder(QDialog):
    """Type a part of a name; Enter does the command."""

    def __init__(self, commands: Sequence[Command], parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setAccessibleName("Find a command")
        self.commands = commands
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 8, 8)
        self.line = QLineEdit()
        self.line.setPlaceholderText("Find a command")
        self.line.setAccessibleName("Find a command")
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
        """Lists the commands in whose names all the words stand."""
        words = text.casefold().split()
        self.list.clear()
        for command in self.commands:
            if all(word in command.label.casefold() for word in words):
                item = QListWidgetItem()
                item.setData(COMMAND_ROLE, command)
                item.setText(command.label)
                self.list.addItem(item)
        self.list.setCurrentRow(0)

    def do(self, item: QListWidgetItem | None) -> None:
        """Does a command, if it can be had now."""
        command = item.data(COMMAND_ROLE) if item is not None else None
        if isinstance(command, Command) and command.is_enabled():
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
