"""The head of the slip: where it goes, by which template and why, and what is to be known of its page before it is kept."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.templates.slip import CHOSEN_BY_YOU, Slip
from wily_magpie.qt.stations.capture.place_box import NameBox
from wily_magpie.qt.stations.capture.slip_line import LABEL_WIDTH_PX
from wily_magpie.qt.style.parts import WrappedLabel, icon_button, label, plain_tip


class Strip(QWidget):
    """A sentence with what can be done about it."""

    def __init__(self, button: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("known")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 5, 10, 5)
        self.text = WrappedLabel()
        row.addWidget(self.text, 1)
        self.button = QPushButton(button)
        row.addWidget(self.button, 0, Qt.AlignmentFlag.AlignTop)
        self.hide()

    def say(self, text: str) -> None:
        """Says it; nothing for ""."""
        self.text.setText(text)
        self.setVisible(bool(text))


class SlipHead(QWidget):
    """See the module.

    Signals:
        template_chosen, place_chosen: a name, a place's key.
        new_place_asked: a place is to be made for it.
        open_known: the entry that is kept already is to be shown.
        anew_asked: what was done on the slip is to be put aside.
        habit_dropped: pages like this are no more to go where the last one went.
        missed: a text that names no place or template.
    """

    template_chosen = pyqtSignal(str)
    place_chosen = pyqtSignal(str)
    new_place_asked = pyqtSignal()
    open_known = pyqtSignal(object)
    anew_asked = pyqtSignal()
    missed = pyqtSignal(str)
    habit_dropped = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.known: Entry | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        grid = QGridLayout()
        grid.setContentsMargins(16, 10, 12, 6)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        self.place, self.template = NameBox("Place"), NameBox("Template")
        for row, (text, box) in enumerate((("&Keep in", self.place), ("&Template", self.template))):
            name = label(text)
            name.setFixedWidth(LABEL_WIDTH_PX)
            name.setBuddy(box)
            grid.addWidget(name, row, 0)
            grid.addWidget(box, row, 1)
        self.new_place = icon_button("plus", "A new place for pages like this …", self.new_place_asked.emit)
        grid.addWidget(self.new_place, 0, 2)
        self.reason = label("", "reason")
        self.reason.setWordWrap(True)
        grid.addWidget(self.reason, 2, 1, 1, 2)
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        self.known_strip, self.draft_strip = Strip("Show it"), Strip("Begin anew")
        self.habit_strip = Strip("Not any more")
        self.habit_strip.button.setToolTip(
            plain_tip("Forget it, and keep such pages where their template says (Ctrl+Shift+K)")
        )
        self.habit_strip.button.clicked.connect(self.habit_dropped)
        column.addWidget(self.habit_strip)
        self.draft_strip.button.setToolTip("Put aside what was done, and fill the slip from the page alone")
        column.addWidget(self.known_strip)
        column.addWidget(self.draft_strip)
        self.place.picked.connect(self.place_chosen)
        self.template.picked.connect(self.template_chosen)
        self.place.missed.connect(lambda typed: self.missed.emit(f"There is no place “{typed}”; “+” makes one."))
        self.template.missed.connect(lambda typed: self.missed.emit(f"There is no template “{typed}”."))
        self.known_strip.button.clicked.connect(lambda: self.open_known.emit(self.known))
        self.draft_strip.button.clicked.connect(self.anew_asked)

    def set_enabled(self, *, is_enabled: bool, has_place: bool = False) -> None:
        """Whether there is a slip to be filled otherwise.

        Args:
            has_place: whether at least the place can be chosen, where an address alone would go.
        """
        self.place.setEnabled(is_enabled or has_place)
        for widget in (self.template, self.new_place):
            widget.setEnabled(is_enabled)

    def clear(self) -> None:
        """Shows no slip."""
        self.reason.clear()
        for strip in (self.known_strip, self.draft_strip, self.habit_strip):
            strip.hide()

    def show_slip(self, slip: Slip, draft: str, *, is_settled: bool = True) -> None:
        """Shows a slip's head.

        Args:
            draft: what is to be said of a draft that the slip is; "" where it is none.
            is_settled: whether nothing else was chosen meanwhile, which the slip does not have yet.
        """
        if is_settled:
            self.place.show_chosen(slip.place)
            self.template.show_chosen(slip.template.name)
        reason = f"chosen since {slip.reason}" if slip.reason != CHOSEN_BY_YOU else slip.reason
        also = f"; {said_list(slip.also_matching)} would match too" if slip.also_matching else ""
        self.reason.setText(f"{reason}{also}")
        self.known = slip.known or (slip.elsewhere[0].entry if slip.elsewhere else None)
        self.known_strip.say(known_sentence(slip))
        self.draft_strip.say(draft)
        self.habit_strip.say(f"Kept in {self.place.currentText()} {slip.place_reason}." if slip.place_reason else "")


def said_list(names: tuple[str, ...]) -> str:
    """A few names in words."""
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def known_sentence(slip: Slip) -> str:
    """What is said of a page that is kept already; "" of one that is not."""
    elsewhere = said_list(tuple(f"{one.place_name}" for one in slip.elsewhere)) if slip.elsewhere else ""
    if slip.known is not None:
        when = f" on {slip.known_when}" if slip.known_when else ""
        more = f" It is in {elsewhere}, too." if elsewhere else ""
        return f"Kept already{when} as “{slip.known.title}”; this is its entry.{more}"
    if slip.elsewhere:
        first = slip.elsewhere[0]
        when = f" on {first.when}" if first.when else ""
        return f"Kept already{when} in {elsewhere} as “{first.entry.title}”. Keeping it here makes a second one."
    return ""
