"""What a person tells the program from a page: passages that are marked, and corrections that become rules."""

from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QMenu, QToolButton

from wily_magpie.core.entries.mark import KINDS, Mark
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.templates.slip import Slip
from wily_magpie.qt.style.mark_looks import look_of
from wily_magpie.qt.style.parts import text_button
from wily_magpie.qt.style.tokens import LIGHT

if TYPE_CHECKING:
    from wily_magpie.qt.stations.capture.station import CaptureStation


def css_of(kind: str) -> str:
    """How passages of a kind look in a page, whose ground is light whatever the look of the window."""
    look = look_of(kind)
    if look.line:
        return f"text-decoration: underline {look.line} {LIGHT.spine(look.colour)}"
    return f"background-color: {LIGHT.wash}; color: {LIGHT.ink}"


class Marking:
    """The part of the station for it, with the button above the page."""

    def __init__(self, station: "CaptureStation") -> None:
        self.station = station
        self.places: dict[str, int] = {}
        """Where in the page each marked passage stands."""
        self.shown: tuple[int, tuple[Mark, ...]] = (0, ())
        self.button = text_button("Mark", "highlighter-circle", lambda: self.mark_chosen())
        self.button.setToolTip("Mark what is chosen in the page (Ctrl+M)")
        self.button.setPopupMode(QToolButton.ToolButtonPopupMode.MenuButtonPopup)
        self.button.setMenu(self.make_menu())

    def make_menu(self) -> QMenu:
        menu = QMenu(self.station)
        for kind in KINDS:
            action = menu.addAction(f"Mark as {kind}")
            if action is not None:
                action.triggered.connect(lambda _checked, kind=kind: self.mark_chosen(kind))
        return menu

    def mark_chosen(self, kind: str = KINDS[0]) -> None:
        """Marks what is chosen in the live page; the slip shows it at once."""
        if self.station.view is not None and self.station.card.slip is not None:
            self.station.view.chosen_passage(lambda told: self.add(kind, told))

    def add(self, kind: str, told: dict[str, Any]) -> None:
        """Puts a passage of the page on the slip, in the order of the page."""
        if not str(told["exact"]).strip():
            return
        mark = Mark(str(told["exact"]).strip(), kind, "", str(told["prefix"]), str(told["suffix"]))
        self.places[mark.exact] = int(told["at"])
        self.station.filling.ask(lambda one: self.with_mark(one, mark))

    def with_mark(self, slip: Slip, mark: Mark) -> Slip:
        """The slip with a further mark."""
        others = [one for one in slip.marks if one.exact != mark.exact]
        marks = sorted([*others, mark], key=lambda one: self.places.get(one.exact, 0))
        return self.station.desk.session.capturing.again(slip, marks=tuple(marks))

    def show(self, slip: Slip) -> None:
        """Shows the marks of the slip in the live page; where it has none, those of the entry that is kept already."""
        view, known, number = self.station.view, slip.known, self.station.number
        marks = slip.marks
        if known is not None and not marks:
            marks = self.station.desk.session.marking.of(known.place, known.id)
        there = self.shown[1] if self.shown[0] == number else ()
        if view is not None and marks != there:
            self.shown = (number, marks)
            view.show_marks([(one, css_of(one.kind)) for one in marks])

    def make_rule(self, slip: Slip, key: str) -> None:
        """Writes what a line says back to the template: its value is the rule from now on."""
        session = self.station.desk.session
        rule = slip.rule_now(key)
        label = next(line.field.label for line in slip.lines if line.field.key == key)
        try:
            session.templating.set_rule(slip.template.name, key, rule)
        except MagpieError as error:
            self.station.desk.complain(error)
            return
        self.station.desk.say(
            f"“{slip.template.name}” fills {label} {rule.said()} from now on.", (("Undo", self.station.keeping.undo),)
        )
        self.station.filling.ask(lambda one: self.station.again(one, one.place, one.template.name))
