"""What is made from the slip because it is not there yet: places, fields, headings, keys of front matter."""

from collections.abc import Callable
from dataclasses import replace

from wily_magpie.core.commands.fields import AddField
from wily_magpie.core.commands.notes import MakeHeading
from wily_magpie.core.commands.places import PlaceFor, SetRole
from wily_magpie.core.commands.settings import ForgetHabit
from wily_magpie.core.commands.templates import SetRule
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.queries.place_plans import plan_for, plans_for_page
from wily_magpie.core.templates.slip import Lack, Slip, habit_of
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.capture.model import CaptureModel
from wily_magpie.qt.stations.capture.slip_card import SlipCard


class Making:
    """The hands for it."""

    def __init__(self, desk: StationContext, card: SlipCard, model: CaptureModel) -> None:
        self.desk, self.card, self.model = desk, card, model
        card.head.new_place_asked.connect(self.ask_place)
        card.head.habit_dropped.connect(self.drop_habit)
        card.foot.make_asked.connect(self.make)
        card.fields.role_chosen.connect(self.set_role)

    def ask_place(self) -> None:
        """Opens the page on which a new place for the slip's page is set up."""
        from wily_magpie.qt.stations.capture.new_place_page import NewPlacePage  # seldom needed

        slip = self.card.current()
        if slip is None:
            return
        one = slip.template.name
        name = f"{one}s" if one.isalpha() else one  # a name of several words is nobody's plural
        plans = plans_for_page(slip.template, slip.context)
        self.page = NewPlacePage(name, plans, self.make_place, self.card)
        self.page.show()

    def make_place(self, wanted: PlaceFor, refused: Callable[[MagpieError], object]) -> None:
        """Makes a place; the slip goes there."""

        def done(made: PlaceInfo) -> None:
            self.page.accept()
            self.model.choose_place(made.key)
            self.desk.say(f"{made.name} is made; it is chosen for this page.", self.desk.undoing())

        self.desk.bridge.do(wanted, done, refused)

    def set_role(self, key: str, role: str) -> None:
        """Says what a field of the slip's place is taken for."""
        slip = self.card.current()
        if slip is not None:
            self.desk.bridge.do(SetRole(slip.place, key, role), lambda _none: self.model.fill_again())

    def drop_habit(self) -> None:
        """Pages like this are no more kept where the last one went."""
        slip = self.card.current()
        if slip is not None:
            self.desk.bridge.do(ForgetHabit(habit_of(slip.reading)), lambda _none: self.model.fill_again())

    def make(self, lack: Lack) -> None:
        """Makes what the template wants and the place lacks."""
        slip = self.card.current()
        if slip is None:
            return
        place = self.desk.overview.place(slip.place)
        if lack.what == "field" and place.nature.is_in_files:
            for key in lack.keys:
                self.name_key(key)
        elif lack.what == "field":
            for key in lack.keys[:-1]:
                self.desk.bridge.do(AddField(slip.place, plan_for(key)))
            self.desk.bridge.do(AddField(slip.place, plan_for(lack.keys[-1])), lambda _made: self.model.fill_again())
        elif lack.what == "heading" and slip.template.way is not None:
            self.desk.bridge.do(MakeHeading(slip.place, slip.template.way), lambda _made: self.model.fill_again())

    def name_key(self, key: str) -> None:
        """Gives the note a key of front matter that its folder has no field of yet."""
        key = "_".join(key.split()).strip(":")
        if key:
            self.model.change(lambda hand: replace(hand, new_keys=tuple(dict.fromkeys((*hand.new_keys, key)))))

    def make_rule(self, slip: Slip, key: str) -> None:
        """Writes what a line says back to the template: its value is the rule from now on."""
        rule, name = slip.rule_now(key), slip.template.name
        label = next(line.field.label for line in slip.lines if line.field.key == key)

        def done(_none: object) -> None:
            self.desk.say(f"“{name}” fills {label} {rule.said()} from now on.", self.desk.undoing())
            self.model.fill_again()

        self.desk.bridge.do(SetRule(name, key, rule), done)
