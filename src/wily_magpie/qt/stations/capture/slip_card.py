"""The slip as one tall card: its head, the fields line by line, below a movable rule marks and text, the foot."""

import re
from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QMimeData, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QImage, QPixmap
from PyQt6.QtWidgets import QFrame, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from wily_magpie.core.entries.kept import KeepAs
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.pages.address import path_of
from wily_magpie.core.pages.page import Finding
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.slip import CHOSEN_BY_YOU, Slip
from wily_magpie.core.templates.update import ChosenUpdate, PageUpdate
from wily_magpie.qt.dropped import from_mime, png
from wily_magpie.qt.reading import Shown
from wily_magpie.qt.stations.capture.marks_list import MarksList
from wily_magpie.qt.stations.capture.slip_fields import SlipFields
from wily_magpie.qt.stations.capture.slip_foot import SlipFoot
from wily_magpie.qt.stations.capture.slip_head import SlipHead
from wily_magpie.qt.stations.capture.slip_line import LABEL_WIDTH_PX, SlipLine
from wily_magpie.qt.stations.capture.slip_text import SlipText
from wily_magpie.qt.stations.capture.update_panel import UpdatePanel
from wily_magpie.qt.style.parts import PlainLabel, WrappedLabel, scroll_area

LEAD_PX = (640, 96)
"""How large the lead picture is shown at most."""
PICTURE = re.compile(r"\.(png|jpe?g|gif|webp|avif|svg)$", re.IGNORECASE)
EMPTY, SLIP, UPDATE = range(3)
SHARES = (330, 250)
"""Of the height, for the fields and for what stands below them, at first."""


class SlipCard(QFrame):
    """Shows a slip and lets it be edited.

    Args:
        picture_of: gets a picture by its address.
        render: has a text made ready to be shown.
        names: asks for what a field of a place completes with: (place, key, hands them over).

    Signals:
        keep_asked: (as what: `KeepAs`, the chosen update or None, whether it is to be opened afterwards).
        later_asked: only the address.
        blocks_toggled: (the slip, the numbers of blocks, whether they are to be kept).
        rule_asked: (the slip, the key of the field whose value is to become the template's rule).
        marks_changed: (marks that were made or changed, those that are to go); picture_chosen: its address.
        shown: the slip that is shown now; touched: something was done on it.
        update_asked: what of the page would replace what is to be shown.
        shot_dropped: a picture (PNG) is to be kept with it.
        typed_in: the key of a field that the person filled.
    """

    keep_asked = pyqtSignal(object, object, bool)
    later_asked = pyqtSignal()
    blocks_toggled = pyqtSignal(object, list, bool)
    rule_asked = pyqtSignal(object, str)
    marks_changed = pyqtSignal(tuple, tuple)
    picture_chosen = pyqtSignal(str)
    shown = pyqtSignal(object)
    touched = pyqtSignal()
    update_asked = pyqtSignal()
    typed_in = pyqtSignal(str)
    shot_dropped = pyqtSignal(bytes)

    def __init__(
        self,
        picture_of: Callable[[str, Callable[[QImage], None]], None],
        render: Callable[[str, Callable[[Shown], None]], None],
        names: Callable[[str, str, Callable[[list[str]], None]], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.setAcceptDrops(True)
        self.picture_of, self.render_text, self.names = picture_of, render, names
        self.slip: Slip | None = None
        self.draft = ""
        """What is said of the draft that the slip is; "" where it is none."""
        self.is_settled = True
        """Whether nothing was chosen that the slip which is shown does not have yet."""
        self.can_take_back = False
        """Whether something was done with the marks that can be taken back."""
        self.has_address = False
        self.first_place = ""
        """Where an address alone goes, unless another place is chosen."""
        self.warned: tuple[str, ...] = ()
        """Keys of the blank fields that were asked for already: they are not asked for twice."""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.head = SlipHead()
        layout.addWidget(self.head)
        self.stack = QStackedWidget()
        self.empty = WrappedLabel()
        self.empty.setObjectName("empty")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        self.empty.setContentsMargins(20, 24, 20, 20)
        self.changes = UpdatePanel()
        for widget in (self.empty, self.make_middle(), self.changes):
            self.stack.addWidget(widget)
        layout.addWidget(self.stack, 1)
        self.foot = SlipFoot()
        layout.addWidget(self.foot)
        self.changes.left.connect(lambda: self.turn(SLIP))
        self.changes.wanted.connect(lambda update: self.ask_to_keep(KeepAs.UPDATE, update))
        self.foot.asked.connect(self.ask_to_keep)
        self.foot.open_asked.connect(lambda: self.ask_to_keep(is_opened=True))
        self.foot.update_asked.connect(self.update_asked)
        self.foot.later_asked.connect(self.later_asked)
        self.head.missed.connect(self.foot.complain)
        self.clear()

    def make_middle(self) -> QWidget:
        self.splitter = QSplitter(Qt.Orientation.Vertical)
        self.splitter.setHandleWidth(5)
        self.splitter.setChildrenCollapsible(False)
        self.fields = SlipFields(lambda key, take: self.names(self.slip.place, key, take) if self.slip else None)
        above = QWidget()
        column = QVBoxLayout(above)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.fields)
        self.picture = PlainLabel()
        self.picture.setAccessibleName("Lead picture")
        self.picture.setContentsMargins(16 + LABEL_WIDTH_PX + 8, 2, 0, 4)
        self.picture.hide()
        column.addWidget(self.picture)
        column.addStretch(1)
        self.scroller = scroll_area(above)
        self.splitter.addWidget(self.scroller)
        below = QWidget()
        column = QVBoxLayout(below)
        column.setContentsMargins(16, 4, 12, 4)
        column.setSpacing(2)
        self.marks = MarksList()
        column.addWidget(self.marks)
        self.text = SlipText(self.render_text, self.picture_of)
        column.addWidget(self.text, 1)
        self.splitter.addWidget(below)
        self.splitter.setStretchFactor(0, 1)
        self.splitter.setStretchFactor(1, 1)
        self.splitter.setSizes(list(SHARES))
        self.fields.edited.connect(self._on_edited)
        self.fields.chosen.connect(self._on_chosen)
        self.fields.rule_asked.connect(self._on_rule_asked)
        self.fields.drawer_asked.connect(self.text.show_drawer)
        self.marks.changed.connect(self._on_marks)
        self.text.blocks_toggled.connect(self._on_blocks)
        self.text.finding_taken.connect(self._on_finding)
        self.text.body.textChanged.connect(self.touched)
        return self.splitter

    @property
    def lines(self) -> dict[str, SlipLine]:
        """The lines of the fields, by key."""
        return self.fields.lines

    def is_answered(self) -> bool:
        """Whether nothing is blank that the template asks for; each is asked for once."""
        slip = self.current()
        blank = [line for line in slip.unanswered() if line.field.key not in self.warned] if slip is not None else []
        if not blank:
            return True
        self.warned = (*self.warned, *(line.field.key for line in blank))
        labels = ", ".join(line.field.label for line in blank)
        self.foot.complain(f"The template asks for {labels}. Fill it, or press Keep again to leave it blank.")
        self.scroller.ensureWidgetVisible(self.fields.enter(blank[0].field.key))
        return False

    def ask_to_keep(
        self, keep_as: KeepAs | None = None, update: ChosenUpdate | None = None, *, is_opened: bool = False
    ) -> None:
        """Keeps the slip.

        Args:
            keep_as: None: as is usual: as an entry of its own, or as an addition to the one that is there already.
        """
        if keep_as is None:
            is_known = self.slip is not None and self.slip.known is not None
            keep_as = KeepAs.ADDITION if is_known else KeepAs.NEW
        self.turn(EMPTY if self.slip is None else SLIP)
        if self.slip is None or self.is_answered():
            self.keep_asked.emit(keep_as, update, is_opened)

    def clear(self, text: str = "", *, has_address: bool = False, is_coming: bool = False) -> None:
        """Shows no slip, but a word on what to do or what is going on.

        Args:
            has_address: whether an address is there that could be kept alone.
            is_coming: whether a slip is on its way, which can be told beforehand to be kept.
        """
        self.slip = None
        self.draft = ""
        self.empty.setText(text)
        self.turn(EMPTY)
        self.head.clear()
        self.head.place.show_chosen(self.first_place)
        self.foot.clear(has_address=has_address)
        self.has_address = has_address
        bar = self.scroller.verticalScrollBar()
        if bar is not None:
            bar.setValue(0)  # the next slip is read from its top
        self.head.set_enabled(is_enabled=False, has_place=has_address)
        self.foot.set_enabled(is_enabled=is_coming, slip=None)

    def set_enabled(self, *, is_enabled: bool) -> None:
        """Whether there is anything to keep."""
        self.head.set_enabled(
            is_enabled=is_enabled and self.slip is not None, has_place=self.slip is None and self.has_address
        )
        self.foot.set_enabled(is_enabled=is_enabled, slip=self.slip)

    def turn(self, number: int) -> None:
        """Shows no slip, the slip, or what of the page would replace what."""
        self.stack.setCurrentIndex(number)
        self.foot.setVisible(number != UPDATE)

    def show_choices(self, places: list[tuple[str, str]], templates: list[str]) -> None:
        """Fills the two lists: (key, name) of places, names of templates."""
        self.first_place = places[0][0] if places else ""
        self.head.place.show_names(places)
        self.head.template.show_names([(name, name) for name in templates])

    def show_slip(self, slip: Slip) -> None:
        """Shows a slip."""
        before = self.slip
        is_same = before is not None and [one.field for one in before.lines] == [one.field for one in slip.lines]
        body_before = before.body if before is not None else None
        self.slip = slip
        self.head.show_slip(slip, self.draft, is_settled=self.is_settled)
        if not is_same:
            self.warned = ()
        self.fields.show_slip(slip)
        self.marks.show_marks(slip.all_marks, can_take_back=self.can_take_back)
        self.text.show_slip(slip, is_new_body=slip.body != body_before or not is_same)
        self.show_picture(next((line.text for line in slip.lines if line.field.key == "picture"), ""))
        self.foot.show_slip(slip)
        self.set_enabled(is_enabled=True)
        if self.stack.currentIndex() == EMPTY or slip.known is None:
            self.turn(SLIP)
        self.shown.emit(slip)

    def show_update(self, update: PageUpdate) -> None:
        """Shows what of the page would replace what."""
        self.changes.show_update(update)
        self.turn(UPDATE)

    def focus_first(self) -> None:
        """Puts the cursor where one types next: into the first line."""
        if self.lines:
            next(iter(self.lines.values())).editor.setFocus()

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
        self.foot.complain(str(error))
        if isinstance(error, UnreadableValue) and self.slip is not None:
            label = error.message.partition(":")[0]
            for one in self.slip.lines:
                if one.field.label == label:
                    line = self.fields.enter(one.field.key)
                    line.editor.set_problem(True)
                    self.scroller.ensureWidgetVisible(line)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Takes pictures that are dropped."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and self.slip is not None and (data.hasImage() or picture_in(data)):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """A picture was dropped: the address of one of a page goes into a field for pictures, another along with the slip."""
        data = event.mimeData() if event is not None else None
        if event is None or data is None or self.slip is None:
            return
        event.acceptProposedAction()
        address = picture_in(data)
        fields = [one.field.key for one in self.slip.lines if one.field.kind.holds_files or one.field.key == "picture"]
        if address and fields:
            files = next((key for key in fields if key != "picture"), "")
            there = next((one.text for one in self.slip.lines if one.field.key == files), "")
            self._on_chosen(files or "picture", f"{there} {address}".strip() if files else address, CHOSEN_BY_YOU)
        elif content := png(data):
            self.shot_dropped.emit(content)

    def sizeHint(self) -> QSize:
        return QSize(430, 640)

    def _on_edited(self, key: str, text: str) -> None:
        if self.slip is not None:
            self.slip = self.slip.with_text(key, text)
            self.lines[key].show_origin(next(line for line in self.slip.lines if line.field.key == key))
            self.foot.problem.hide()
            self.typed_in.emit(key)
            self.touched.emit()

    def _on_chosen(self, key: str, text: str, origin: str) -> None:
        if self.slip is None:
            return
        self.slip = self.slip.with_text(key, text, origin)
        self.fields.show_line(next(line for line in self.slip.lines if line.field.key == key))
        self.fields.slip = self.slip
        self.fields.fold()
        if key == "picture":
            self.show_picture(text)
        rule = next(line.rule for line in self.slip.lines if line.field.key == key)
        if rule is not None and rule == Rule("picture", ("chosen",)):
            self.picture_chosen.emit(text)  # other fields may want it, too
        self.touched.emit()

    def _on_finding(self, finding: Finding) -> None:
        if not self.fields.take(finding):
            self.foot.complain("Click the field first that it is to go into, or drag it there.")

    def _on_marks(self, changed: tuple[object, ...], removed: tuple[object, ...]) -> None:
        self.marks_changed.emit(changed, removed)

    def _on_rule_asked(self, key: str) -> None:
        slip = self.current()
        if slip is not None:
            self.rule_asked.emit(slip, key)

    def _on_blocks(self, numbers: list[int], is_kept: bool) -> None:
        slip = self.current()
        if slip is not None:
            self.blocks_toggled.emit(slip, numbers, is_kept)
            self.touched.emit()

    def _on_picture(self, address: str, image: QImage) -> None:
        line = self.lines.get("picture")
        if line is None or line.editor.text() != address or image.isNull():
            return
        width = max(200, self.scroller.width() - 40 - LABEL_WIDTH_PX)
        shown = image.scaled(
            width, LEAD_PX[1], Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        )
        self.picture.setPixmap(QPixmap.fromImage(shown))
        self.picture.show()


def picture_in(data: QMimeData) -> str:
    """The address of a picture of the web that is dragged; "" where it is something else."""
    addresses = [address for address, _ in from_mime(data).addresses] or (
        [from_mime(data).source] if data.hasImage() else []
    )
    return next((one for one in addresses if one and PICTURE.search(path_of(one))), "")
