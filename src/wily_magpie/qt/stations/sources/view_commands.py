"""Views: keeping the question at hand as one, with its columns as they are arranged; renaming, deleting."""

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QInputDialog, QWidget

from wily_magpie.core import commands
from wily_magpie.core.entries.view import View
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.model import GAPS_ID, SourcesState
from wily_magpie.qt.stations.sources.places_list import PlacesList


class ViewCommands(QObject):
    """Of the Sources station.

    Args:
        state: gives what is shown now.

    Signals:
        kept: the id of a view that was kept, which is to be open from now on.
    """

    kept = pyqtSignal(int)

    def __init__(
        self, desk: StationContext, parent: QWidget, state: Callable[[], SourcesState], places: PlacesList
    ) -> None:
        super().__init__(parent)
        self.desk, self.parent_widget, self.state, self.places = desk, parent, state, places
        places.attach()
        places.ordered.connect(lambda place, ids: desk.bridge.do(commands.views.OrderViews(place, ids)))
        places.symbol_chosen.connect(self.set_symbol)

    def ask_name(self) -> None:
        """Keeps the question as a new view."""
        name, is_given = QInputDialog.getText(self.parent_widget, "Keep as view", "Name of the view:")
        if is_given and name.strip():
            self.make(name)

    def make(self, name: str) -> None:
        """Keeps the question as a new view of that name, looked at as it is now."""
        state = self.state()
        if state.place is not None:
            command = commands.views.KeepView(state.place.key, name, state.question, None, state.layout)
            self.desk.bridge.do(command, self.kept.emit)

    def keep_changes(self) -> None:
        """Lets the open view ask what the sentence says now."""
        state = self.state()
        if state.view is not None and state.place is not None and state.view.id != GAPS_ID:
            command = commands.views.KeepView(state.place.key, state.view.name, state.question, state.view.id)
            self.desk.bridge.do(command, self.kept.emit)

    def chosen(self) -> View | None:
        """The view that is chosen among the places; the built-in one is nobody's to change."""
        view = self.places.chosen_view()
        return view if view is not None and view.id != GAPS_ID else None

    @property
    def has_chosen(self) -> bool:
        """Whether there is one."""
        return self.chosen() is not None

    def ask_rename(self) -> None:
        """Asks for another name of the chosen view."""
        view = self.chosen()
        if view is None:
            return
        name, is_given = QInputDialog.getText(self.parent_widget, "Rename view", "Name of the view:", text=view.name)
        if is_given and name.strip() and name.strip() != view.name:
            self.desk.bridge.do(commands.views.RenameView(view, name))

    def copy(self) -> None:
        """Makes a second view of the chosen one."""
        view = self.chosen()
        if view is not None:
            self.desk.bridge.do(commands.views.CopyView(view), self.kept.emit)

    def set_symbol(self, view: View, name: str) -> None:
        """Puts an icon before a view, or takes it away."""
        self.desk.bridge.do(commands.views.SetLayout(view.place, view.id, replace(view.layout, symbol=name)))

    def delete(self) -> None:
        """Deletes the chosen view; undo brings it back."""
        view = self.chosen()
        if view is None:
            return
        said = f"The view “{view.name}” is deleted; its entries are not."
        self.desk.bridge.do(commands.views.DeleteView(view), lambda _none: self.desk.say(said, self.desk.undoing()))
