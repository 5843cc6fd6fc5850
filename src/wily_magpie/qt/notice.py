"""A notice at the foot of the window: what happened, and what can be done about it."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from wily_magpie.qt.style.parts import icon_button, timer

SHOWN_MS = 9_000
WIDEST_PX = 760


class Notice(QWidget):
    """Lies over the window's foot; goes by itself unless it tells of a problem."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("notice")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 8, 8, 8)
        row.setSpacing(8)
        self.text = QLabel()
        self.text.setWordWrap(True)
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self.text.setAccessibleName("Notice")
        row.addWidget(self.text, 1)
        self.buttons: list[QPushButton] = []
        self.dismiss = icon_button("x", "Dismiss", self.hide)
        row.addWidget(self.dismiss)
        self.row = row
        self.timer = timer(self, self.hide)
        parent.installEventFilter(self)
        self.hide()

    def show_text(
        self, text: str, buttons: Sequence[tuple[str, Callable[[], None]]], *, is_problem: bool = False
    ) -> None:
        """Shows a notice."""
        self.text.setText(text)
        for old in self.buttons:
            old.hide()
            old.deleteLater()
        self.buttons = []
        for label, act in buttons:
            button = QPushButton(label)
            button.clicked.connect(self.hide)
            button.clicked.connect(lambda _checked, act=act: act())
            self.row.insertWidget(self.row.count() - 1, button)
            self.buttons.append(button)
        self.setProperty("alarm", is_problem)
        style = self.style()
        if style is not None:
            style.polish(self)
        self.show()
        self.place()
        self.raise_()
        self.timer.stop()
        if not is_problem:
            self.timer.start(SHOWN_MS)

    def place(self) -> None:
        """Centres it above the lower edge."""
        parent = self.parentWidget()
        if parent is None:
            return
        width = min(WIDEST_PX, parent.width() - 80)
        self.text.setMinimumWidth(0)
        layout = self.layout()
        height = max(44, layout.heightForWidth(width) if layout is not None and layout.hasHeightForWidth() else 44)
        self.setGeometry((parent.width() - width) // 2, parent.height() - height - 44, width, height)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize and self.isVisible():
            self.place()
        return super().eventFilter(watched, event)
