"""The slip as one tall card: destination and template, the fields with their origins, the text, the foot."""

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPixmap
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.slip import CHOSEN_BY_YOU, Slip
from wily_magpie.qt.reading import Shown
from wily_magpie.qt.stations.capture.marks_list import MarksList
from wily_magpie.qt.stations.capture.slip_line import LABEL_WIDTH_PX, SlipLine
from wily_magpie.qt.stations.capture.slip_text import SlipText
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.parts import WrappedLabel, label, scroll_area

NEW_PLACE = "+"
"""Stands for a place that is still to be made, among the keys of places."""

LEAD_PX = (640, 150)
"""How large the lead picture is shown at most."""


class SlipCard(QFrame):
    """Shows a slip and lets it be edited.

    Signals:
        keep_asked: (is update, is to be opened afterwards).
        later_asked: only the address.
        template_chosen, place_chosen: a name, a place's key.
        blocks_toggled: (the slip, the numbers of blocks, whether they are to be kept).
        rule_asked: (the slip, the key of the field whose value is to become the template's rule).
        refill_asked: what else its rules are to be given (see `RuleContext`).
        shown: the slip that is shown now.
    """

    keep_asked = pyqtSignal(bool, bool)
    later_asked = pyqtSignal()
    template_chosen = pyqtSignal(str)
    place_chosen = pyqtSignal(str)
    open_known = pyqtSignal(object)
    blocks_toggled = pyqtSignal(object, list, bool)
    rule_asked = pyqtSignal(object, str)
    refill_asked = pyqtSignal(dict)
    shown = pyqtSignal(object)

    def __init__(
        self,
        picture_of: Callable[[str, Callable[[QImage], None]], None],
        render: Callable[[str, Callable[[Shown], None]], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.render_text = render
        self.setObjectName("card")
        self.picture_of = picture_of
        self.slip: Slip | None = None
        self.lines: dict[str, SlipLine] = {}
        self.warned: tuple[str, ...] = ()
        """Keys of the blank fields that were asked for already: they are not asked for twice."""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.make_head())
        self.known = self.make_known()
        layout.addWidget(self.known)
        self.stack = QStackedWidget()
        self.empty = WrappedLabel()
        self.empty.setObjectName("empty")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        self.empty.setContentsMargins(20, 24, 20, 20)
        self.stack.addWidget(self.empty)
        self.stack.addWidget(self.make_middle())
        layout.addWidget(self.stack, 1)
        layout.addWidget(self.make_foot())
        self.clear()

    def make_head(self) -> QWidget:
        head = QWidget()
        grid = QGridLayout(head)
        grid.setContentsMargins(16, 12, 16, 10)
        grid.setHorizontalSpacing(8)
        self.place = QComboBox()
        self.place.setAccessibleName("Place")
        self.template = QComboBox()
        self.template.setAccessibleName("Template")
        self.reason = QLabel()
        self.reason.setObjectName("reason")
        for row, (text, combo) in enumerate((("&Keep in", self.place), ("&Template", self.template))):
            label = QLabel(text)
            label.setObjectName("slate")
            label.setFixedWidth(LABEL_WIDTH_PX)
            label.setBuddy(combo)
            grid.addWidget(label, row, 0)
            grid.addWidget(combo, row, 1)
        grid.addWidget(self.reason, 2, 1)
        grid.setColumnStretch(1, 1)
        self.place.activated.connect(lambda index: self.place_chosen.emit(self.place.itemData(index)))
        self.template.activated.connect(lambda index: self.template_chosen.emit(self.template.itemText(index)))
        return head

    def make_known(self) -> QWidget:
        box = QWidget()
        box.setObjectName("known")
        box.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(box)
        row.setContentsMargins(16, 6, 12, 6)
        self.known_text = WrappedLabel()
        row.addWidget(self.known_text, 1)
        self.known_open = QPushButton("Show it")
        self.known_open.clicked.connect(self._on_open_known)
        row.addWidget(self.known_open)
        return box

    def make_middle(self) -> QWidget:
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(16, 4, 12, 16)
        column.setSpacing(7)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(7)
        column.addLayout(self.rows)
        self.more = QPushButton()
        self.more.setObjectName("add")
        self.more.clicked.connect(lambda: self.show_hidden(are_shown=True))
        column.addWidget(self.more, 0, Qt.AlignmentFlag.AlignLeft)
        self.marks = MarksList()
        self.marks.changed.connect(lambda marks: self.refill_asked.emit({"marks": marks}))
        column.addWidget(self.marks)
        self.picture = QLabel()
        self.picture.setAccessibleName("Lead picture")
        self.picture.hide()
        column.addWidget(self.picture)
        self.text = SlipText(self.render_text)
        self.text.blocks_toggled.connect(self._on_blocks)
        column.addWidget(self.text)
        column.addStretch(1)
        self.scroller = scroll_area(inside)
        return self.scroller

    def make_foot(self) -> QWidget:
        foot = QWidget()
        column = QVBoxLayout(foot)
        column.setContentsMargins(16, 8, 16, 12)
        self.problem = WrappedLabel()
        self.problem.setObjectName("problem")
        self.problem.hide()
        column.addWidget(self.problem)
        self.about_file = label(wraps=True)
        self.about_file.hide()
        column.addWidget(self.about_file)
        row = QHBoxLayout()
        self.keep = QPushButton("Keep")
        self.keep.setObjectName("main")
        self.keep.setToolTip("Ctrl+Return")
        self.keep_open = QPushButton("Keep and open")
        self.keep_second = QPushButton("Keep a second one")
        self.later = QPushButton("Later")
        self.later.setToolTip("Keep only the address, to be read later")
        self.keep.clicked.connect(self.ask_to_keep)
        self.keep_open.clicked.connect(self.ask_to_keep_and_open)
        self.keep_second.clicked.connect(self.ask_to_keep_second)
        self.later.clicked.connect(self.later_asked)
        for button in (self.keep, self.keep_open, self.keep_second):
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(self.later)
        column.addLayout(row)
        return foot

    def show_hidden(self, *, are_shown: bool) -> None:
        """Shows the fields that the slip fills out of sight, or hides them."""
        hidden = [line.field.key for line in self.slip.lines if line.is_hidden] if self.slip is not None else []
        for key in hidden:
            self.lines[key].setVisible(are_shown)
        for line in self.slip.lines if self.slip is not None else ():
            if not line.is_hidden:
                self.lines[line.field.key].show()
        self.more.setProperty("are_shown", are_shown)
        self.more.setVisible(bool(hidden) and not are_shown)
        self.more.setText(f"+ {len(hidden)} more field{'' if len(hidden) == 1 else 's'}")

    def is_answered(self) -> bool:
        """Whether nothing is blank that the template asks for; each is asked for once."""
        slip = self.current()
        blank = [line for line in slip.unanswered() if line.field.key not in self.warned] if slip is not None else []
        if not blank:
            return True
        self.warned = (*self.warned, *(line.field.key for line in blank))
        labels = ", ".join(line.field.label for line in blank)
        self.problem.setText(f"The template asks for {labels}. Fill it, or press Keep again to leave it blank.")
        self.problem.show()
        first = self.lines[blank[0].field.key]
        first.show()
        first.editor.setFocus()
        self.scroller.ensureWidgetVisible(first)
        return False

    def ask_to_keep(self) -> None:
        """Keeps the slip; in the entry that is there already, if there is one."""
        if self.slip is not None and self.is_answered():
            self.keep_asked.emit(self.slip.known is not None, False)

    def ask_to_keep_and_open(self) -> None:
        """Keeps the slip and opens what it has become."""
        if self.slip is not None and self.is_answered():
            self.keep_asked.emit(self.slip.known is not None, True)

    def ask_to_keep_second(self) -> None:
        """Keeps the slip as an entry of its own beside the one that is there already."""
        if self.slip is not None and self.is_answered():
            self.keep_asked.emit(False, False)

    def clear(self, text: str = "", *, has_address: bool = False) -> None:
        """Shows no slip, but a word on what to do or what is going on.

        Args:
            has_address: whether an address is there that could be kept alone.
        """
        self.later.setEnabled(has_address)
        self.slip = None
        self.empty.setText(text)
        self.stack.setCurrentIndex(0)
        self.known.hide()
        self.problem.hide()
        self.about_file.hide()
        bar = self.scroller.verticalScrollBar()
        if bar is not None:
            bar.setValue(0)  # the next slip is read from its top
        self.reason.clear()
        self.set_enabled(is_enabled=False)

    def set_enabled(self, *, is_enabled: bool) -> None:
        """Whether there is anything to keep."""
        for widget in (self.keep, self.keep_open, self.keep_second, self.place, self.template):
            widget.setEnabled(is_enabled)
        self.keep_second.setVisible(is_enabled and self.slip is not None and self.slip.known is not None)
        self.keep_open.setVisible(not self.keep_second.isVisibleTo(self))

    def show_choices(self, places: list[tuple[str, str]], templates: list[str]) -> None:
        """Fills the two drop-downs: (key, name) of places, names of templates."""
        self.place.clear()
        for key, name in places:
            self.place.addItem(name, key)
        self.place.insertSeparator(self.place.count())
        self.place.addItem("A new collection for this template …", NEW_PLACE)
        self.template.clear()
        self.template.addItems(templates)

    def show_slip(self, slip: Slip) -> None:
        """Shows a slip."""
        same_lines = self.slip is not None and [x.field for x in self.slip.lines] == [x.field for x in slip.lines]
        body_before = self.slip.body if self.slip is not None else None
        self.slip = slip
        self.place.setCurrentIndex(self.place.findData(slip.place))
        self.template.setCurrentIndex(self.template.findText(slip.template.name))
        reason = f"chosen since {slip.reason}" if slip.reason != CHOSEN_BY_YOU else slip.reason
        self.reason.setText(". ".join([reason, *slip.told]))
        self.reason.setWordWrap(bool(slip.told))
        if not same_lines:
            clear(self.rows)
            self.lines = {}
            for line in slip.lines:
                widget = SlipLine(line, self)
                widget.edited.connect(self._on_edited)
                widget.chosen.connect(self._on_chosen)
                widget.rule_asked.connect(self._on_rule_asked)
                self.rows.addWidget(widget)
                self.lines[line.field.key] = widget
            self.warned = ()
        else:
            for line in slip.lines:
                self.lines[line.field.key].show_line(line)
        self.show_hidden(are_shown=same_lines and self.more.property("are_shown") is True)
        self.marks.show_marks(slip.marks)
        self.text.show_slip(slip, is_new_body=slip.body != body_before or not same_lines)
        self.show_known(slip.known, slip.known_when)
        self.show_picture(next((line.text for line in slip.lines if line.field.key == "picture"), ""))
        is_file = bool(slip.reading.page.file)
        self.problem.setText(slip.reading.notice)
        self.problem.setVisible(bool(slip.reading.notice) and not is_file)
        self.about_file.setText(slip.reading.notice)
        self.about_file.setVisible(is_file)
        self.stack.setCurrentIndex(1)
        self.later.setEnabled(True)
        self.set_enabled(is_enabled=True)
        self.shown.emit(slip)

    def focus_first(self) -> None:
        """Puts the cursor where one types next: into the first line."""
        if self.lines:
            next(iter(self.lines.values())).editor.setFocus()

    def show_known(self, known: Entry | None, when: str) -> None:
        """Says that the page is kept already, and turns the buttons to that."""
        self.known.setVisible(known is not None)
        self.keep.setText("Update that entry" if known else "Keep")
        if known:
            before, now = (known.body or "").strip(), self.slip.body.strip() if self.slip else ""
            more = " Updating puts this text in the place of its text." if before and before != now else ""
            self.known_text.setText(f"Kept already{f' on {when}' if when else ''} as “{known.title}”.{more}")

    def show_picture(self, address: str) -> None:
        """Shows the lead picture small, once it has come."""
        self.picture.hide()
        if address:
            self.picture_of(address, lambda image: self._on_picture(address, image))

    def current(self) -> Slip | None:
        """The slip with all that was typed; None where none is shown."""
        if self.slip is None:
            return None
        body = self.text.body.text()
        return self.slip if body == self.slip.body else replace(self.slip, body=body, is_body_typed=True)

    def complain(self, error: UserError) -> None:
        """Shows why the slip cannot be kept, at the foot and at the field."""
        self.problem.setText(str(error))
        self.problem.show()
        if isinstance(error, UnreadableValue):
            label = error.message.partition(":")[0]
            for line in self.lines.values():
                if line.label.text() == label:
                    line.editor.set_problem(True)
                    line.editor.setFocus()
                    self.scroller.ensureWidgetVisible(line)

    def sizeHint(self) -> QSize:
        return QSize(430, 640)

    def _on_open_known(self) -> None:
        if self.slip is not None:
            self.open_known.emit(self.slip.known)

    def _on_edited(self, key: str, text: str) -> None:
        if self.slip is not None:
            self.slip = self.slip.with_text(key, text)
            self.lines[key].show_origin(next(line for line in self.slip.lines if line.field.key == key))
            self.problem.hide()

    def _on_chosen(self, key: str, text: str, origin: str) -> None:
        if self.slip is not None:
            self.slip = self.slip.with_text(key, text, origin)
            self.lines[key].show_line(next(line for line in self.slip.lines if line.field.key == key))
            if key == "picture":
                self.show_picture(text)
            rule = next(line.rule for line in self.slip.lines if line.field.key == key)
            if rule is not None and rule == Rule("picture", ("chosen",)):
                self.refill_asked.emit({"picture": text})  # other fields may want it, too

    def _on_rule_asked(self, key: str) -> None:
        slip = self.current()
        if slip is not None:
            self.rule_asked.emit(slip, key)

    def _on_blocks(self, numbers: list[int], is_kept: bool) -> None:
        slip = self.current()
        if slip is not None:
            self.blocks_toggled.emit(slip, numbers, is_kept)

    def _on_picture(self, address: str, image: QImage) -> None:
        line = self.lines.get("picture")
        if line is None or line.editor.text() != address or image.isNull():
            return
        width = max(200, self.scroller.width() - 40 - LABEL_WIDTH_PX)
        shown = image.scaled(
            width, LEAD_PX[1], Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        )
        self.picture.setPixmap(QPixmap.fromImage(shown))
        self.picture.setContentsMargins(LABEL_WIDTH_PX + 8, 0, 0, 0)
        self.picture.show()
