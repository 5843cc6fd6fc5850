"""One field of a slip."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QLabel, QMenu, QToolButton, QWidget

from wily_magpie.core.templates.slip import SlipField
from wily_magpie.qt.editors.field_editor import FieldEditor
from wily_magpie.qt.style.parts import WrappedLabel, icon_button

LABEL_WIDTH_PX = 86
MOST_OTHERS = 12


class SlipLine(QWidget):
    """One field: label, editor, the other values, and below it in small letters the origin."""

    edited = pyqtSignal(str, str)
    chosen = pyqtSignal(str, str, str)
    rule_asked = pyqtSignal(str)

    def __init__(self, line: SlipField, parent: QWidget) -> None:
        super().__init__(parent)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(1)
        self.label = WrappedLabel(line.field.label)
        self.label.setObjectName("slate")
        self.label.setFixedWidth(LABEL_WIDTH_PX)
        self.label.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        self.label.setContentsMargins(0, 6, 0, 0)
        self.editor = FieldEditor(line.field, self)
        self.label.setBuddy(self.editor)
        self.origin = QLabel()
        self.others = icon_button("caret-down", f"Other values for {line.field.label}")
        self.others.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.others.setFixedWidth(26)
        self.others.setToolTip("Other values that the page offers")
        grid.addWidget(self.label, 0, 0, 2, 1)
        grid.addWidget(self.editor, 0, 1)
        grid.addWidget(self.others, 0, 2)
        grid.addWidget(self.origin, 1, 1, 1, 2)
        grid.setColumnStretch(1, 1)
        self.key = line.field.key
        self.editor.edited.connect(lambda: self.edited.emit(self.key, self.editor.text()))
        self.show_line(line)

    def show_line(self, line: SlipField) -> None:
        """Shows a line; what is being typed in it is left alone."""
        if not (line.is_typed and self.editor.text() == line.text):
            self.editor.set_text(line.text)
        self.show_origin(line)
        menu = QMenu(self)
        for other in line.others[:MOST_OTHERS]:
            shown = other.value if len(other.value) < 70 else other.value[:69] + "…"
            action = menu.addAction(f"{shown.replace('&', '&&')}   —   {other.origin}")
            if action is not None:
                action.triggered.connect(
                    lambda _checked, value=other.value, origin=other.origin: self.chosen.emit(self.key, value, origin)
                )
        if line.others:
            menu.addSeparator()
        rule = menu.addAction("Make this the rule of the template")
        if rule is not None:
            rule.setEnabled(bool(line.text) or line.is_typed)
            rule.triggered.connect(lambda _checked: self.rule_asked.emit(self.key))
        self.others.setMenu(menu)
        self.others.setVisible(bool(line.others) or line.is_typed)

    def show_origin(self, line: SlipField) -> None:
        """Says where the value came from, or why there is none."""
        words = {"": "for you to fill" if line.is_question else "", "typed": "typed", "template": "set by the template"}
        text = line.problem or words.get(line.origin, f"from {line.origin}")
        if line.is_question and line.origin == "template":
            text = "for you to say; set by the template until then"
        self.origin.setObjectName("problem" if line.problem else "origin")
        self.origin.setText(text)
        self.origin.setVisible(bool(text))
        self.editor.set_problem(bool(line.problem))
        style = self.origin.style()
        if style is not None:
            style.polish(self.origin)
