"""What a person tells the program from a page: passages that are marked, and corrections that become rules."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QMenu, QToolButton, QWidget

from wily_magpie.core.commands.templates import SetRule
from wily_magpie.core.entries.mark import KINDS, Mark
from wily_magpie.core.templates.slip import Slip
from wily_magpie.qt.actions import tip_of
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.capture.model import CaptureModel
from wily_magpie.qt.style.mark_looks import look_of
from wily_magpie.qt.style.parts import text_button
from wily_magpie.qt.style.tokens import LIGHT

if TYPE_CHECKING:
    from wily_magpie.qt.web.page_view import PageView


def css_of(kind: str) -> str:
    """How passages of a kind look in a page, whose ground is light whatever the look of the window."""
    look = look_of(kind)
    if look.line:
        return f"text-decoration: underline {look.line} {LIGHT.spine(look.colour)}"
    return f"background-color: {LIGHT.wash}; color: {LIGHT.ink}"


class Marking:
    """The hands for it, with the button above the page.

    Args:
        view: gives the live page, once there is one.
    """

    def __init__(
        self,
        desk: StationContext,
        parent: QWidget,
        view: "Callable[[], PageView | None]",
        model: CaptureModel,
    ) -> None:
        self.desk, self.view, self.model = desk, view, model
        self.places: dict[str, int] = {}
        """Where in the page each marked passage stands."""
        self.shown: tuple[int, tuple[Mark, ...]] = (0, ())
        self.button = text_button("Mark", "highlighter-circle", lambda: self.mark_chosen())
        self.button.setToolTip(tip_of("mark"))
        self.button.setPopupMode(QToolButton.ToolButtonPopupMode.MenuButtonPopup)
        menu = QMenu(parent)
        for kind in KINDS:
            desk.commands.add_to(menu, "mark-as", f"Mark as {kind}", partial(self.mark_chosen, kind))
        self.button.setMenu(menu)

    def mark_chosen(self, kind: str = KINDS[0]) -> None:
        """Marks what is chosen in the live page; the slip shows it at once."""
        view = self.view()
        if view is not None and self.model.slip is not None:
            view.chosen_passage(lambda told: self.add(kind, told))

    def add(self, kind: str, told: dict[str, Any]) -> None:
        """Puts a passage of the page on the slip, in the order of the page."""
        if not str(told["exact"]).strip():
            return
        mark = Mark(str(told["exact"]).strip(), kind, "", str(told["prefix"]), str(told["suffix"]))
        self.places[mark.exact] = int(told["at"])
        self.model.with_marks(lambda slip: self.in_order([*slip.marks, mark], mark))

    def in_order(self, marks: list[Mark], fresh: Mark) -> list[Mark]:
        """Marks in the order of the page, the fresh one instead of one of the same passage."""
        others = [one for one in marks if one.exact != fresh.exact]
        return sorted([*others, fresh], key=lambda one: self.places.get(one.exact, 0))

    def show(self, slip: Slip) -> None:
        """Shows the marks of the slip in the live page; where it has none, those of the entry that is kept already."""
        known = slip.known
        if known is None or slip.marks:
            self.show_marks(slip.marks)
            return
        number = self.model.number

        def done(marks: tuple[Mark, ...]) -> None:
            if number == self.model.number:
                self.show_marks(marks)

        self.desk.bridge.ask(lambda reader: reader.entries.marks(known.place, known.id), done)

    def show_marks(self, marks: tuple[Mark, ...]) -> None:
        """Shows marks in the live page."""
        view, number = self.view(), self.model.number
        there = self.shown[1] if self.shown[0] == number else ()
        if view is not None and marks != there:
            self.shown = (number, marks)
            view.show_marks([(one, css_of(one.kind)) for one in marks])

    def make_rule(self, slip: Slip, key: str) -> None:
        """Writes what a line says back to the template: its value is the rule from now on."""
        rule, name = slip.rule_now(key), slip.template.name
        label = next(line.field.label for line in slip.lines if line.field.key == key)

        def done(_none: object) -> None:
            self.desk.say(f"“{name}” fills {label} {rule.said()} from now on.", self.desk.undoing())
            self.model.update(lambda run, one: self.model.filled(run, one, one.place, one.template.name))

        self.desk.bridge.do(SetRule(name, key, rule), done)
