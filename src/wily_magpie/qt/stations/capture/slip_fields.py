"""The fields of a slip, a line each; blank ones that nobody is asked for are folded into one line."""

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QApplication, QLineEdit, QPushButton, QVBoxLayout, QWidget

from wily_magpie.core.entries.entry import short as short_title
from wily_magpie.core.pages.page import Finding
from wily_magpie.core.templates.slip import Slip, SlipField
from wily_magpie.qt.stations.capture.slip_line import SlipLine
from wily_magpie.qt.style.flow import FlowLayout, clear
from wily_magpie.qt.style.parts import plain_tip, timer

MOST_NAMED, LONGEST_NAMED = 3, 44
AFTER_ENTERING_MS = 140
"""A line opens a moment after the keyboard came to it, so that a click ends on what it began on."""


class SlipFields(QWidget):
    """See the module.

    Args:
        names: asks for what a field completes with: (key, hands them over).

    Signals: as those of a line; drawer_asked: all that the page says is to be seen, or not any more; key_named: a key of
    front matter that the folder of notes has no field of yet.
    """

    edited = pyqtSignal(str, str)
    chosen = pyqtSignal(str, str, str)
    rule_asked = pyqtSignal(str)
    drawer_asked = pyqtSignal(bool)
    key_named = pyqtSignal(str)
    role_chosen = pyqtSignal(str, str)

    def __init__(
        self, names: Callable[[str, Callable[[list[str]], None]], None], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.names = names
        self.slip: Slip | None = None
        self.lines: dict[str, SlipLine] = {}
        self.usual: frozenset[str] = frozenset()
        """Keys of the fields that the person fills by hand, which are not folded."""
        self.is_unfolded = False
        self.entered = ""
        """The key of the field that the keyboard was in last."""
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 4, 10, 4)
        column.setSpacing(2)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        column.addLayout(self.rows)
        foot = FlowLayout(gap_px=8)
        self.more = QPushButton()
        self.more.setObjectName("add")
        self.more.clicked.connect(self.unfold)
        foot.addWidget(self.more)
        self.new_key = QLineEdit()
        self.new_key.setPlaceholderText("a new key")
        self.new_key.setAccessibleName("A new key of front matter")
        self.new_key.setFixedWidth(96)
        self.new_key.returnPressed.connect(self._on_key_named)
        foot.addWidget(self.new_key)
        self.drawer = QPushButton("All that the page says")
        self.drawer.setObjectName("add")
        self.drawer.setCheckable(True)
        self.drawer.clicked.connect(self.drawer_asked)
        foot.addWidget(self.drawer)
        column.addLayout(foot)
        column.addStretch(1)
        self.takes_new_keys = False
        """Whether the place is in files, whose front matter can have any key."""
        self.opening = timer(self, self.open_entered)

    def show_slip(self, slip: Slip) -> None:
        """Shows a slip's lines; those of the same fields stay as they are, with the keyboard in them."""
        before = self.slip
        is_same = before is not None and [one.field for one in before.lines] == [one.field for one in slip.lines]
        self.slip = slip
        if not is_same:
            clear(self.rows)
            self.lines, self.entered, self.is_unfolded = {}, "", False
            for line in slip.lines:
                self.add_line(line)
        else:
            for line in slip.lines:
                self.lines[line.field.key].show_line(line)
        self.new_key.setVisible(self.takes_new_keys)
        self.propose()
        self.fold()

    def _on_key_named(self) -> None:
        key = self.new_key.text().strip()
        self.new_key.clear()
        if key:
            self.key_named.emit(key)

    def add_line(self, line: SlipField) -> None:
        """Makes a line."""
        key = line.field.key
        made = SlipLine(line, self, lambda take: self.names(key, take))
        made.edited.connect(self.edited)
        made.chosen.connect(self.chosen)
        made.rule_asked.connect(self.rule_asked)
        made.more_asked.connect(lambda: self.drawer.click())
        made.entered.connect(self._on_entered)
        made.role_chosen.connect(self.role_chosen)
        self.rows.addWidget(made)
        self.lines[key] = made

    def fold(self) -> None:
        """Folds what is blank and left alone, unless it is unfolded."""
        folded = [line.field.label for line in self.slip.lines if self.is_folded(line)] if self.slip else []
        for line in self.slip.lines if self.slip is not None else ():
            self.lines[line.field.key].setVisible(self.is_unfolded or not self.is_folded(line))
        self.more.setVisible(bool(folded))
        if self.is_unfolded:
            self.more.setText("− Fold what is blank")
            return
        named = ", ".join(folded[:MOST_NAMED]) + (", …" if len(folded) > MOST_NAMED else "")
        self.more.setText(short_title(f"+ {len(folded)} more: {named}", LONGEST_NAMED).replace("&", "&&"))
        self.more.setToolTip(plain_tip(", ".join(folded)))

    def propose(self) -> None:
        """Shows in each blank line what is proposed for it."""
        proposals = self.slip.proposals if self.slip is not None else {}
        for key, line in self.lines.items():
            line.propose(proposals.get(key))

    def take_proposals(self) -> int:
        """Takes what is proposed for the line that the keyboard is in, else all that is proposed; how many that were."""
        focused = next(
            (line for line in self.lines.values() if line.isAncestorOf(QApplication.focusWidget() or self)), None
        )
        if focused is not None and focused.take_proposal():
            return 1
        return sum(line.take_proposal() for line in list(self.lines.values()))

    def is_folded(self, line: SlipField) -> bool:
        """Whether a line is out of sight: blank and left alone, or hidden by the template."""
        key = line.field.key
        if self.slip is not None and key in self.slip.proposals:
            return False
        named = self.slip.named_keys if self.slip is not None else ()
        if line.is_typed or line.problem or line.is_question or key in (self.entered, *self.usual, *named):
            return False
        return line.is_hidden or not line.text.strip()

    def unfold(self) -> None:
        """Shows the folded lines, or folds them again."""
        self.is_unfolded = not self.is_unfolded
        self.fold()

    def show_line(self, line: SlipField) -> None:
        """Shows one line anew."""
        shown = self.lines[line.field.key]
        shown.show_line(line)
        shown.propose(self.slip.proposals.get(line.field.key) if self.slip is not None else None)

    def enter(self, key: str) -> SlipLine:
        """Puts the keyboard into a line, which is in sight from now on."""
        line = self.lines[key]
        line.show()
        line.editor.setFocus()
        return line

    def take(self, finding: Finding) -> bool:
        """Puts a finding into the field that the keyboard was in last; whether there was one."""
        if self.entered not in self.lines:
            return False
        self.chosen.emit(self.entered, finding.value, finding.origin)
        return True

    def _on_entered(self, key: str) -> None:
        self.entered = key
        self.opening.start(AFTER_ENTERING_MS)

    def open_entered(self) -> None:
        """Opens the line that the keyboard is in, and closes the others."""
        for key, line in self.lines.items():
            line.set_open(is_open=key == self.entered)
