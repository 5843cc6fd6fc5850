"""Keeping the question at hand as a view."""

from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QInputDialog

from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import MagpieError
from wily_magpie.qt.stations.sources.places_list import GAPS_ID

if TYPE_CHECKING:
    from wily_magpie.qt.stations.sources.station import SourcesStation


class ViewCommands:
    """Of the Sources station."""

    def __init__(self, station: "SourcesStation") -> None:
        self.station = station

    def ask_name(self) -> None:
        """Keeps the question as a new view."""
        name, is_given = QInputDialog.getText(self.station, "Keep as view", "Name of the view:")
        if is_given and name.strip():
            self.make(name)

    def make(self, name: str) -> None:
        """Keeps the question as a new view of that name."""
        if self.station.place is None:
            return
        try:
            number = self.station.desk.session.keep_view(self.station.place.key, name, self.station.question)
        except MagpieError as error:
            self.station.desk.complain(error)
            return
        self.station.view = self.view(number)
        self.station.places.choose(self.station.place.key, number)
        self.station.ask()

    def keep_changes(self) -> None:
        """Lets the open view ask what the sentence says now."""
        view, place = self.station.view, self.station.place
        if view is None or place is None or view.id == GAPS_ID:
            return
        self.station.desk.session.keep_view(place.key, view.name, self.station.question, view.id)
        self.station.view = self.view(view.id)
        self.station.ask()

    def view(self, number: int) -> View:
        """The view of that number as it is now."""
        return next(view for view in self.station.desk.session.views() if view.id == number)
