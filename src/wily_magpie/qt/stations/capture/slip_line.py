"""One field of a slip: name, value, letters of the origin; below it, while it has the keyboard, the rest."""

from functools import partial

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QFontMetrics, QTextCursor
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QLineEdit,
    QPlainTextEdit,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.entries.proposal import Proposal
from wily_magpie.core.entries.roles import ROLES
from wily_magpie.core.pages.page import Finding
from wily_magpie.core.templates.origin_letters import in_words, letters_of
from wily_magpie.core.templates.slip import SlipField
from wily_magpie.qt.editors.field_editor import AskNames, FieldEditor, no_names
from wily_magpie.qt.editors.findings_list import dragged_finding
from wily_magpie.qt.stations.capture.role_button import RoleButton
from wily_magpie.qt.style.flow import clear, in_flow
from wily_magpie.qt.style.parts import WrappedLabel, label, plain_tip, text_button

LABEL_WIDTH_PX, LETTERS_PX = 86, 26
LINE_PX, OPEN_AREA_PX = 26, 78
"""Heights of a line, and of a text of many lines while it is written in."""
MOST_OTHERS, LONGEST_OTHER = 5, 56


class SlipLine(QWidget):
    """See the module.

    Signals:
        edited: (key, text): at every change by the person.
        chosen: (key, text, origin): another value that the page offers.
        rule_asked: the key of the field whose value is to become the template's rule.
        more_asked: all that the page says is to be seen.
        entered: the keyboard came to it (its key).
        role_chosen: (key, what the field is taken for in its place from now on).
    """

    edited = pyqtSignal(str, str)
    chosen = pyqtSignal(str, str, str)
    rule_asked = pyqtSignal(str)
    more_asked = pyqtSignal()
    entered = pyqtSignal(str)
    role_chosen = pyqtSignal(str, str)

    def __init__(self, line: SlipField, parent: QWidget, names: AskNames = no_names) -> None:
        super().__init__(parent)
        self.setObjectName("slipline")
        self.setAcceptDrops(True)
        self.field, self.key = line.field, line.field.key
        self.proposal: Proposal | None = None
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(0)
        self.label = label(line.field.label)
        self.label.setFixedWidth(LABEL_WIDTH_PX)
        self.label.setToolTip(plain_tip(line.field.label))
        shown = QFontMetrics(self.label.font()).elidedText(
            line.field.label, Qt.TextElideMode.ElideRight, LABEL_WIDTH_PX
        )
        self.label.setText(shown)
        self.editor = FieldEditor(line.field, self, names)
        self.label.setBuddy(self.editor)
        self.letters = label("", "origin")
        self.letters.setFixedWidth(LETTERS_PX)
        self.letters.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        grid.addWidget(self.label, 0, 0)
        grid.addWidget(self.editor, 0, 1)
        grid.addWidget(self.letters, 0, 2)
        self.details = self.make_details(line)
        grid.addWidget(self.details, 1, 1, 1, 2)
        grid.setColumnStretch(1, 1)
        self.details.hide()
        inner = self.editor.focusProxy()
        if inner is not None:
            inner.installEventFilter(self)
        self.editor.edited.connect(lambda: self.edited.emit(self.key, self.editor.text()))
        self.set_open(is_open=False)
        self.show_line(line)

    def make_details(self, line: SlipField) -> QWidget:
        """What stands below the line while it has the keyboard."""
        details = QWidget()
        below = QVBoxLayout(details)
        below.setContentsMargins(0, 1, 0, 5)
        below.setSpacing(0)
        self.origin = WrappedLabel()
        below.addWidget(self.origin)
        self.rule = text_button("Make this the rule", act=lambda: self.rule_asked.emit(self.key))
        self.rule.setObjectName("small")
        self.rule.setToolTip("The template fills this field so from now on")
        self.rule.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.role = RoleButton(line.field.label, details)
        self.role.chosen.connect(lambda role: self.role_chosen.emit(self.key, role))
        if self.key in (*ROLES, "title") or line.field.kind.holds_files:
            self.role.hide()
        below.addLayout(in_flow(self.rule, self.role))
        self.others = QVBoxLayout()
        self.others.setSpacing(0)
        below.addLayout(self.others)
        return details

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.FocusIn:
            self.entered.emit(self.key)
        return super().eventFilter(watched, event)

    def set_open(self, *, is_open: bool) -> None:
        """Shows the origin in words and the other values, or only the line."""
        self.details.setVisible(is_open)
        if self.editor.area is not None:
            self.editor.area.setFixedHeight(OPEN_AREA_PX if is_open else LINE_PX)
            policy = Qt.ScrollBarPolicy
            self.editor.area.setHorizontalScrollBarPolicy(policy.ScrollBarAlwaysOff)  # it wraps
            self.editor.area.setVerticalScrollBarPolicy(
                policy.ScrollBarAsNeeded if is_open else policy.ScrollBarAlwaysOff
            )
            if not is_open:
                self.editor.area.moveCursor(QTextCursor.MoveOperation.Start)  # what is seen of it is its beginning

    def show_line(self, line: SlipField) -> None:
        """Shows a line; what is being typed in it is left alone."""
        if not (line.is_typed and self.editor.text() == line.text):
            self.editor.set_text(line.text)
        clear(self.others)
        for other in line.others[:MOST_OTHERS]:
            self.others.addWidget(self.other_value(other))
        if len(line.others) > MOST_OTHERS:
            more = text_button(f"{len(line.others) - MOST_OTHERS} more …", act=self.more_asked.emit)
            more.setObjectName("small")
            more.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self.others.addWidget(more)
        self.show_origin(line)

    def propose(self, proposal: Proposal | None) -> None:
        """Shows what is proposed for a blank line, in grey; a click below it, or Ctrl+Space, takes it."""
        self.proposal = proposal
        inner = self.editor.focusProxy()
        if isinstance(inner, QComboBox) and inner.isEditable():
            inner = inner.lineEdit()
        if isinstance(inner, QLineEdit | QPlainTextEdit | QComboBox):
            inner.setPlaceholderText(proposal.value if proposal is not None else "")
        if proposal is None:
            return
        self.letters.setText("lk")
        self.letters.setToolTip(plain_tip(f"proposed: {proposal.reason}"))
        self.origin.setText(f"proposed: {proposal.reason}. Ctrl+Space takes it.")
        self.others.insertWidget(0, self.other_value(Finding(self.key, proposal.value, proposal.reason)))

    def take_proposal(self) -> bool:
        """Takes what is proposed; whether there was anything."""
        if self.proposal is None:
            return False
        self.chosen.emit(self.key, self.proposal.value, self.proposal.reason)
        return True

    def other_value(self, other: Finding) -> QToolButton:
        """Another value that the page offers, to be taken by a click."""
        value = " ".join(other.value.split())
        shown = value if len(value) <= LONGEST_OTHER else f"{value[: LONGEST_OTHER - 1]}…"
        button = text_button(f"{shown.replace('&', '&&')}   {letters_of(other.origin)}")
        button.setObjectName("small")
        button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)  # a long one does not widen the slip
        button.setToolTip(plain_tip(f"{other.value[:600]}\n{in_words(other.origin)}"))
        button.setAccessibleName(f"Take {shown}, {in_words(other.origin)}")
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(partial(self.chosen.emit, self.key, other.value, other.origin))
        return button

    def show_origin(self, line: SlipField) -> None:
        """Says where the value came from, or why there is none."""
        origin = ", ".join(filter(None, (in_words(line.origin), line.note)))
        text = line.problem or origin or ("for you to fill" if line.is_question else "")
        if line.is_question and line.origin == "template":
            text = "for you to say; set by the template until then"
        if not text and not line.others:
            text = "left blank"
        self.letters.setText("!" if line.problem else letters_of(line.origin) or ("?" if line.is_question else ""))
        self.letters.setToolTip(plain_tip(text))
        self.rule.setVisible(bool(line.text) or line.is_typed)
        for told in (self.origin, self.letters):
            told.setObjectName("problem" if line.problem else "origin")
            style = told.style()
            if style is not None:
                style.polish(told)
        self.origin.setText(text)
        self.editor.set_problem(bool(line.problem))

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Takes a finding that is dragged here."""
        if event is not None and dragged_finding(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """A finding was dropped."""
        found = dragged_finding(event.mimeData()) if event is not None else None
        if event is not None and found is not None:
            event.acceptProposedAction()
            self.chosen.emit(self.key, *found)
