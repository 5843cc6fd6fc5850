"""A dialog that says first what would be done."""

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QVBoxLayout, QWidget

from wily_magpie.core.errors import MagpieError
from wily_magpie.qt.style.parts import label


class SayFirst(QDialog):
    """A dialog that says below its fields what would be done, and lets it be done only where it can."""

    def __init__(self, parent: QWidget, title: str, do: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(460)
        column = QVBoxLayout(self)
        column.setSpacing(10)
        self.form = QFormLayout()
        column.addLayout(self.form)
        self.told = label("", "", wraps=True)
        self.told.setMinimumHeight(54)
        column.addWidget(self.told)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.do = buttons.addButton(do, QDialogButtonBox.ButtonRole.AcceptRole)
        if self.do is not None:
            self.do.setObjectName("main")
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.say("", is_possible=False)

    def say(self, text: str, *, is_possible: bool, is_problem: bool = False) -> None:
        """Says what would be done, what is still to be written, or why it cannot be done."""
        self.told.setText(text)
        self.told.setObjectName("problem" if is_problem else "")
        style = self.style()
        if style is not None:
            style.polish(self.told)
        if self.do is not None:
            self.do.setEnabled(is_possible)

    def refuse(self, error: MagpieError) -> None:
        """Says why it cannot be done."""
        self.say(str(error), is_possible=False, is_problem=True)
