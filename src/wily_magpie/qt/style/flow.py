"""A layout that sets widgets like words: side by side, onto the next line where they no longer fit."""

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget


class FlowLayout(QLayout):
    """Items keep their size hint; lines are as high as their highest item, items are centred in them."""

    def __init__(self, parent: QWidget | None = None, gap_px: int = 2, line_gap_px: int = 4) -> None:
        super().__init__(parent)
        self.items: list[QLayoutItem] = []
        self.gap_px = gap_px
        self.line_gap_px = line_gap_px
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self.items.append(item)

    def count(self) -> int:
        return len(self.items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self.items[index] if 0 <= index < len(self.items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self.items.pop(index) if 0 <= index < len(self.items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self.arrange(QRect(0, 0, width, 0), move=False)

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self.arrange(rect, move=True)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        size = QSize()
        for item in self.items:
            size = size.expandedTo(item.minimumSize())
        return size

    def arrange(self, rect: QRect, *, move: bool) -> int:
        """Places the items; the height that they need."""
        line: list[tuple[int, QLayoutItem]] = []
        x, y = rect.x(), rect.y()
        height = 0
        for item in [*self.items, None]:
            wide = item.sizeHint().width() if item else 0
            if item is None or (line and x + wide > rect.right() + 1):
                if move:
                    for left, placed in line:
                        hint = placed.sizeHint()
                        placed.setGeometry(QRect(QPoint(left, y + (height - hint.height()) // 2), hint))
                if item is None:
                    break
                x, y, line = rect.x(), y + height + self.line_gap_px, []
                height = 0
            line.append((x, item))
            x += wide + self.gap_px
            height = max(height, item.sizeHint().height())
        return y + height - rect.y()


def in_flow(*widgets: QWidget) -> FlowLayout:
    """Beside one another, and below where there is no room."""
    row = FlowLayout(gap_px=6)
    for widget in widgets:
        row.addWidget(widget)
    return row


def clear(layout: QLayout) -> None:
    """Takes all widgets out of a layout and deletes them."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
        inner = item.layout()
        if inner is not None:
            clear(inner)
