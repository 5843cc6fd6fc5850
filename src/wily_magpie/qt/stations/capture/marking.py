"""What a person marks on a page: words, sentences, blocks and pictures, by mouse and by keyboard."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QMenu, QToolButton, QWidget

from wily_magpie.core.entries.mark import Mark, with_mark
from wily_magpie.core.templates.by_hand import ByHand
from wily_magpie.core.templates.slip import Slip
from wily_magpie.qt.actions import tip_of
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.capture.marks_list import MarksList
from wily_magpie.qt.stations.capture.model import CaptureModel
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.parts import text_button, timer
from wily_magpie.qt.style.tokens import LIGHT

if TYPE_CHECKING:
    from wily_magpie.qt.web.page_view import PageView

HINT = "Click or drag marks; ↑↓ ←→ F7 move, 1–9 mark, then letters comment, Esc ends"
CLICK_MS = 260
"""A click marks a sentence unless a second one follows it, which chooses a word."""
STEPS = {
    Qt.Key.Key_Up: ("block", -1), Qt.Key.Key_Down: ("block", 1),
    Qt.Key.Key_Left: ("sentence", -1), Qt.Key.Key_Right: ("sentence", 1),
}  # fmt: skip
CURSOR = {
    Qt.Key.Key_Up: ("backward", "line"), Qt.Key.Key_Down: ("forward", "line"),
    Qt.Key.Key_Left: ("backward", "character"), Qt.Key.Key_Right: ("forward", "character"),
    Qt.Key.Key_Home: ("backward", "lineboundary"), Qt.Key.Key_End: ("forward", "lineboundary"),
}  # fmt: skip


def css_of(kind: str) -> tuple[str, str]:
    """How passages and pictures of a kind look in a page, whose ground is light whatever the look of the window."""
    look = LOOKS.of(kind)
    colour = LIGHT.spine(look.colour)
    passage = (
        f"background-color: {LIGHT.wash}; color: {LIGHT.ink}"
        if look.pattern == "wash"
        else f"text-decoration: underline {look.pattern} {colour}"
    )
    line = look.pattern if look.pattern in ("double", "dotted", "dashed") else "solid"
    return passage, f"outline: 4px {line} {colour}; outline-offset: 2px"


class Marking(QObject):
    """The hands for it, with the button above the page.

    Signals:
        commented: (a mark that was just made by a key, letters that follow): they are its comment.

    Args:
        view: gives the live page, once there is one.
        told: is told what can be done in the marking mode, "" when it ends.
    """

    commented = pyqtSignal(object, str)

    def __init__(
        self,
        desk: StationContext,
        parent: QWidget,
        view: "Callable[[], PageView | None]",
        model: CaptureModel,
        told: Callable[[str], None],
    ) -> None:
        super().__init__(parent)
        self.desk, self.view, self.model, self.told = desk, view, model, told
        self.shown: tuple[int, tuple[Mark, ...]] = (0, ())
        self.before: list[tuple[tuple[Mark, ...], tuple[Mark, ...]]] = []
        """What was marked and taken away before each change of the marks of this slip."""
        self.is_on = self.is_cursor = self.are_hidden = False
        self.click = timer(self, self.mark_clicked)
        self.clicked = (0, 0)
        self.fresh: Mark | None = None
        """The mark that was made by a key just now: letters that follow are its comment."""
        self.button = text_button("Mark", "highlighter-circle", self.toggle)
        self.button.setCheckable(True)
        self.button.setToolTip(tip_of("mark-mode"))
        self.button.setPopupMode(QToolButton.ToolButtonPopupMode.MenuButtonPopup)
        self.menu = QMenu(parent)
        self.button.setMenu(self.menu)
        self.menu.aboutToShow.connect(lambda: self.fill_menu(self.menu))

    def serve(self, marks: MarksList) -> None:
        """What is done in the list of marks is done here, and what is typed here goes there."""
        marks.taken_back.connect(self.take_back)
        marks.hidden.connect(self.hide)
        marks.commented.connect(self.back_to_page)
        self.commented.connect(marks.type_comment)

    def fill_menu(self, menu: QMenu) -> None:
        """The kinds, and what else can be done with marks."""
        menu.clear()
        for key, kind in enumerate(LOOKS.names, 1):
            self.desk.commands.add_to(menu, "mark-as", f"Mark as {kind}\t{key}", partial(self.mark_chosen, kind))
        menu.addSeparator()
        self.desk.commands.add_to(menu, "mark-kinds")

    # the marking mode

    def toggle(self) -> None:
        """Marks what is chosen; where nothing is, the marking mode begins or ends."""
        self.set_on(is_on=not self.is_on)

    def set_on(self, *, is_on: bool) -> None:
        """Begins or ends the marking mode."""
        view = self.view()
        self.is_on, self.is_cursor = is_on and view is not None and self.model.slip is not None, False
        self.fresh = None
        self.button.setChecked(self.is_on)
        self.told(HINT if self.is_on else "")
        if view is not None:
            view.ask_marking(f"turn({'true' if self.is_on else 'false'})")
            view.watch_marking(self)
            if self.is_on:
                view.view.setFocus()

    def eventFilter(self, _watched: QObject | None, event: QEvent | None) -> bool:
        if not self.is_on or event is None:
            return False
        if isinstance(event, QKeyEvent) and event.type() in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride):
            if not self.is_for_marking(event):
                return False
            event.accept()
            if event.type() == QEvent.Type.KeyPress:
                self.on_key(event)
            return True
        if isinstance(event, QMouseEvent) and event.button() == Qt.MouseButton.LeftButton:
            if event.type() == QEvent.Type.MouseButtonDblClick:
                self.click.stop()
            elif event.type() == QEvent.Type.MouseButtonRelease:
                self.clicked = round(event.position().x()), round(event.position().y())
                self.click.start(CLICK_MS)
        return False

    def is_for_marking(self, event: QKeyEvent) -> bool:
        """Whether a key is one of the marking mode."""
        key, held = Qt.Key(event.key()), event.modifiers()
        if key in (Qt.Key.Key_Escape, Qt.Key.Key_F7, Qt.Key.Key_Return) or key in STEPS or key in CURSOR:
            return not held & (Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.ControlModifier) or key in STEPS
        if self.fresh is not None and event.text().isprintable() and event.text().strip() and not self.kind_of(event):
            return not held & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
        return self.kind_of(event) is not None and not held & ~Qt.KeyboardModifier.KeypadModifier

    @staticmethod
    def kind_of(event: QKeyEvent) -> str | None:
        """The kind that a number key stands for."""
        number = event.key() - int(Qt.Key.Key_1)
        return LOOKS.names[number] if 0 <= number < len(LOOKS.names) else None

    def on_key(self, event: QKeyEvent) -> None:
        """What a key does in the marking mode."""
        key, view, kind = Qt.Key(event.key()), self.view(), self.kind_of(event)
        is_shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        is_control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if view is None or key == Qt.Key.Key_Escape:
            self.set_on(is_on=False)
        elif key == Qt.Key.Key_F7:
            self.is_cursor = not self.is_cursor
            view.ask_marking("cursor('forward', 'character', false)" if self.is_cursor else "block(0)")
        elif kind is not None or key == Qt.Key.Key_Return:
            self.mark_chosen(kind or LOOKS.names[0], is_commented=True)
        elif self.fresh is not None and key not in CURSOR:
            self.commented.emit(self.fresh, event.text())
        elif (self.is_cursor or is_shift) and key in CURSOR:
            direction, granularity = CURSOR[key]
            granularity = "word" if is_control and granularity == "character" else granularity
            view.ask_marking(f"cursor('{direction}', '{granularity}', {'true' if is_shift else 'false'})")
        elif key in STEPS:
            what, by = STEPS[key]
            view.ask_marking(f"{what}({by})")

    def mark_clicked(self) -> None:
        """Marks the sentence or the picture that was clicked, or the words that were dragged over."""
        view = self.view()
        if view is not None and self.is_on:
            zoom = view.view.zoomFactor()
            x, y = (round(one / zoom) for one in self.clicked)
            view.ask_marking(f"clicked({x}, {y})", lambda told: self.add(LOOKS.names[0], told))

    # marks

    def mark_chosen(self, kind: str = "", *, is_commented: bool = False) -> None:
        """Marks what is chosen in the live page; the slip shows it at once.

        Args:
            is_commented: whether letters that are typed next are its comment.
        """
        view = self.view()
        if view is not None and self.model.slip is not None:
            view.ask_marking("chosen()", lambda told: self.add(kind or LOOKS.names[0], told, is_commented=is_commented))

    def back_to_page(self) -> None:
        """The comment is written: the marking mode goes on in the page."""
        view = self.view()
        self.fresh = None
        if view is not None and self.is_on:
            view.view.setFocus()

    def add(self, kind: str, told: dict[str, Any], *, is_commented: bool = False) -> None:
        """Puts a passage or a picture of the page on the slip."""
        mark = replace(Mark.from_plain(told), kind=kind, exact=str(told.get("exact", "")).strip())
        if mark.exact or mark.picture:
            self.fresh = mark if is_commented and self.is_on else None
            self.change((mark,), ())

    def change(self, changed: tuple[Mark, ...], removed: tuple[Mark, ...]) -> None:
        """Marks are made, others now, or taken away."""
        known = self.model.slip.known_marks if self.model.slip is not None else ()

        def do(hand: ByHand) -> ByHand:
            self.before.append((hand.marks, hand.removed))
            return changed_marks(hand, known, changed, removed)

        self.model.change(do)

    def take_back(self) -> None:
        """What was done last with the marks of this slip is not to be."""
        if self.before:
            marks, removed = self.before.pop()
            self.model.change(lambda hand: replace(hand, marks=marks, removed=removed))

    def hide(self, are_hidden: bool) -> None:
        """Hides the marks in the page, or shows them."""
        self.are_hidden = are_hidden
        self.show_marks(self.model.slip.all_marks if self.model.slip is not None else ())

    def left(self) -> None:
        """Another page comes."""
        self.before.clear()
        if self.is_on:
            self.set_on(is_on=False)

    def show(self, slip: Slip) -> None:
        """Shows the marks of the slip, and of the entry that is kept already, in the live page."""
        self.show_marks(slip.all_marks)

    def show_marks(self, marks: tuple[Mark, ...]) -> None:
        """Shows marks in the live page."""
        view, number = self.view(), self.model.number
        there = self.shown[1] if self.shown[0] == number else ()
        wanted = () if self.are_hidden else marks
        if view is not None and wanted != there:
            self.shown = (number, wanted)
            view.show_marks([(one, *css_of(one.kind)) for one in wanted])


def changed_marks(
    hand: ByHand, known: tuple[Mark, ...], changed: tuple[Mark, ...], removed: tuple[Mark, ...]
) -> ByHand:
    """What a person did, with some marks more, others, or fewer.

    Args:
        known: the marks of the entry that is kept already.
    """
    marks, gone = hand.marks, {mark.place: mark for mark in hand.removed}
    for mark in changed:
        marks = with_mark(marks, mark)
        gone.pop(mark.place, None)
    places = {mark.place for mark in removed}
    marks = tuple(mark for mark in marks if mark.place not in places)
    gone |= {mark.place: mark for mark in known if mark.place in places}
    return replace(hand, marks=marks, removed=tuple(gone.values()))
