"""What stands at the left of the table: the places with their views, the folders of notes, and the ways to a new place."""

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QVBoxLayout, QWidget

from wily_magpie.qt.actions import add_choice, tip_of
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.model import SourcesState
from wily_magpie.qt.stations.sources.places_list import PlacesList
from wily_magpie.qt.strange_folders import use_folder
from wily_magpie.qt.style.parts import icon_button, text_button

if TYPE_CHECKING:
    from wily_magpie.qt.stations.sources.folder_tree import FolderTree


class LeftSide(QWidget):
    """See the module.

    Args:
        state: gives what is shown now. chosen: gives the entries that are chosen.

    Signals:
        all_wanted: all of the place with that key is to be shown.
        place_wanted: a new place is to be made.
        setup_wanted, trash_wanted: that page is to be opened.
        asked, move_asked: those of the folders.
    """

    all_wanted = pyqtSignal(str)
    place_wanted = pyqtSignal()
    setup_wanted = pyqtSignal()
    trash_wanted = pyqtSignal()
    asked = pyqtSignal(object)
    move_asked = pyqtSignal(str, tuple, object)

    def __init__(
        self,
        desk: StationContext,
        state: Callable[[], SourcesState],
        chosen: Callable[[], tuple[int, ...]],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.desk, self.state_now, self.chosen = desk, state, chosen
        column = self.column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.places = PlacesList(desk, self)
        self.places.place_menu_asked.connect(self.add_place_menu)
        column.addWidget(self.places, 1)
        row = QHBoxLayout()
        row.setContentsMargins(8, 6, 8, 8)
        row.setSpacing(2)
        new_place = text_button("New place", "plus", self.place_wanted.emit)
        set_up = icon_button("sliders-horizontal", tip_of("setup"), self.setup_wanted.emit)
        row.addWidget(new_place)
        row.addStretch(1)
        row.addWidget(set_up)
        row.addWidget(icon_button("trash", "Trash", self.trash_wanted.emit))
        column.addLayout(row)
        for button in (new_place, set_up):
            button.setEnabled(not desk.overview.is_read_only)

    @cached_property
    def folders(self) -> "FolderTree":
        """The folders of a notes folder; made when the first one is shown."""
        from wily_magpie.qt.stations.sources.folder_tree import FolderTree

        folders = FolderTree(self.desk, self.state_now, self.chosen)
        folders.asked.connect(self.asked)
        folders.move_asked.connect(self.move_asked)
        self.column.insertWidget(1, folders)
        return folders

    def show_state(self, state: SourcesState) -> None:
        """Marks the place that is shown with its view, and shows its folders where it has any."""
        if "folders" in self.__dict__ or (state.place is not None and state.place.nature.is_in_files):
            self.folders.show_state(state)
        if state.place is not None:
            self.places.choose(state.place.key, state.view.id if state.view is not None else None)

    def add_place_menu(self, key: str, menu: QMenu) -> None:
        """What can be done with a place."""
        commands = self.desk.commands
        place = self.desk.overview.find_place(key)
        if place is not None and place.is_strange:
            add_choice(menu, "Use its folder", lambda: use_folder(self.desk, place))
            menu.addSeparator()
        add_choice(menu, "Show all of it", lambda: self.all_wanted.emit(key))
        for name in ("new-entry", "keep-view", "list-into-note", "table-into", "setup"):
            commands.add_to(menu, name)
        menu.addSeparator()
        for name in ("new-place", "trash"):
            commands.add_to(menu, name)
