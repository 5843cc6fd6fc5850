"""The strip beside words that were chosen, or a mark that was clicked: its kinds, a comment, and what else can be done."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QPoint, QRect, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QHBoxLayout, QLineEdit, QToolButton, QWidget

from wily_magpie.core.entries.mark import Mark
from wily_magpie.qt.actions import tip_of
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.parts import icon_button, plain_tip, text_button
from wily_magpie.qt.style.theme import THEME

GAP_PX, COMMENT_PX = 6, 200


class MarkStrip(QWidget):
    """Floats over a text, or pages.

    Args:
        chosen_rects: where the beginning and the end of what is chosen are seen; None where nothing is.

    Signals:
        chosen: a kind, and the comment as it stands.
        commented: the comment was ended with Return.
        copied, removed, left: what was pressed.
    """

    chosen = pyqtSignal(str, str)
    commented = pyqtSignal(str)
    copied = pyqtSignal()
    removed = pyqtSignal()
    left = pyqtSignal()

    def __init__(self, view: QAbstractScrollArea, chosen_rects: Callable[[], tuple[QRect, QRect] | None]) -> None:
        super().__init__(view)
        self.view, self.chosen_rects = view, chosen_rects
        self.setObjectName("markstrip")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("Mark")
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 4, 6, 4)
        row.setSpacing(2)
        self.kinds = QHBoxLayout()
        self.kinds.setSpacing(2)
        row.addLayout(self.kinds)
        self.comment = QLineEdit()
        self.comment.setPlaceholderText("your comment, then Return")
        self.comment.setAccessibleName("Comment on the mark")
        self.comment.setFixedWidth(COMMENT_PX)
        self.comment.returnPressed.connect(lambda: self.commented.emit(self.comment.text()))
        row.addWidget(self.comment)
        self.copy = icon_button("quotes", tip_of("copy-quotation"), self.copied.emit)
        row.addWidget(self.copy)
        self.remove = icon_button("trash", "Remove this mark (Delete)", self.removed.emit)
        row.addWidget(self.remove)
        self.hide()

    def show_at(self, mark: Mark | None, *, may_change: bool) -> None:
        """Shows it for a mark, or for words that are none yet.

        Args:
            may_change: whether the library may be written to.
        """
        clear(self.kinds)
        for key, kind in enumerate(LOOKS.names, 1):
            button = text_button(f"{key} {kind}", "", partial(self.emit_kind, kind))
            button.setCheckable(True)
            button.setChecked(mark is not None and mark.kind == kind)
            button.setToolTip(plain_tip(f"Mark as {kind} ({key})"))
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextOnly)
            colour = THEME.colours.spine(LOOKS.of(kind).colour)
            button.setStyleSheet(
                f"QToolButton {{ border-bottom: 3px solid {colour}; }}"
                f" QToolButton:checked {{ background: {THEME.colours.wash}; font-weight: 600; }}"
            )
            self.kinds.addWidget(button)
            button.setVisible(may_change)
        self.comment.setText(mark.comment if mark is not None else "")
        self.comment.setVisible(may_change)
        self.remove.setVisible(may_change and mark is not None)
        self.show()
        self.adjustSize()
        self.place()
        self.raise_()

    def emit_kind(self, kind: str) -> None:
        """A kind was pressed."""
        self.chosen.emit(kind, self.comment.text())

    def buttons(self) -> list[QToolButton]:
        """Those of the kinds, in the order of their keys."""
        items = (self.kinds.itemAt(at) for at in range(self.kinds.count()))
        found = (item.widget() for item in items if item is not None)
        return [one for one in found if isinstance(one, QToolButton)]

    def place(self) -> None:
        """Below the end of what is chosen; above its beginning where there is no room."""
        port, rects = self.view.viewport(), self.chosen_rects()
        if port is None or rects is None or self.isHidden():
            return
        above, below = rects
        size = self.sizeHint()
        top = below.bottom() + GAP_PX
        if top + size.height() > port.height():
            top = above.top() - size.height() - GAP_PX
        at = port.mapTo(self.view, QPoint(below.left() - size.width() // 2, max(top, 0)))
        left = min(max(at.x(), GAP_PX), self.view.width() - size.width() - GAP_PX)
        self.setGeometry(max(left, 0), at.y(), size.width(), size.height())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        # no key goes on to the text below, to which Return says something else
