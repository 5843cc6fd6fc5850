"""The places on the left: collections with their views under them, notes folders likewise."""

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QInputDialog, QMenu, QTreeWidget, QTreeWidgetItem, QWidget

from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import Place
from wily_magpie.core.session.session import Session
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.theme import THEME

PLACE_ROLE = int(Qt.ItemDataRole.UserRole)
VIEW_ROLE = PLACE_ROLE + 1


GAPS_ID = 0
"""The id of the built-in view of what still lacks something."""


def all_views(session: Session, place: Place) -> list[View]:
    """The views of a place; first, where it has rules, the one of the entries that break them."""
    has_rules = any(field.key == "gaps" for field in place.fields)
    gaps = [View(GAPS_ID, place.key, "Gaps", 'gaps <> ""')] if has_rules else []
    return [*gaps, *session.views(place.key)]


class PlacesList(QTreeWidget):
    """Tells which place, or view, was chosen."""

    place_chosen = pyqtSignal(str)
    view_chosen = pyqtSignal(object)

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.setObjectName("places")
        self.setAccessibleName("Places")
        self.setHeaderHidden(True)
        self.setIndentation(14)
        self.setMinimumWidth(150)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._on_menu)
        self.currentItemChanged.connect(self._on_current)
        self.rename = self.own_action("Rename view", "F2", self.rename_view)
        self.delete = self.own_action("Delete view", "Delete", self.delete_view)
        self.fill()

    def own_action(self, text: str, keys: str, act: Callable[[], None]) -> QAction:
        action = QAction(text, self)
        action.setShortcut(keys)
        action.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
        action.triggered.connect(act)
        self.addAction(action)
        return action

    def fill(self) -> None:
        """Lists places and views; what was chosen stays chosen where it is still there."""
        place, view = self.chosen_place(), self.chosen_view()
        self.blockSignals(True)
        self.clear()
        session = self.desk.session
        heads: dict[bool, QTreeWidgetItem] = {}
        for one in session.places():
            is_notes = session.is_notes(one.key)
            if is_notes not in heads:
                heads[is_notes] = head = QTreeWidgetItem(["NOTES FOLDERS" if is_notes else "COLLECTIONS"])
                head.setFlags(Qt.ItemFlag.ItemIsEnabled)
                font = head.font(0)
                font.setPointSizeF(8.5)
                head.setFont(0, font)
                head.setForeground(0, self.palette().placeholderText())
                self.addTopLevelItem(head)
            item = QTreeWidgetItem([one.name])
            item.setIcon(0, THEME.icon("folder" if is_notes else "table"))
            item.setData(0, PLACE_ROLE, one.key)
            heads[is_notes].addChild(item)
            for kept in all_views(session, one):
                inner = QTreeWidgetItem([kept.name])
                inner.setData(0, PLACE_ROLE, one.key)
                inner.setData(0, VIEW_ROLE, kept)
                item.addChild(inner)
        self.expandAll()
        self.blockSignals(False)
        self.choose(place, view.id if view else None)

    def choose(self, place: str, view_id: int | None = None) -> None:
        """Marks a place or view as the chosen one, without telling."""
        self.blockSignals(True)
        for item in self.findItems("", Qt.MatchFlag.MatchContains | Qt.MatchFlag.MatchRecursive):
            view = item.data(0, VIEW_ROLE)
            if item.data(0, PLACE_ROLE) == place and (view.id if view else None) == view_id:
                self.setCurrentItem(item)
                break
        self.blockSignals(False)

    def chosen_place(self) -> str:
        """The key of the place chosen, or in which the chosen view is."""
        item = self.currentItem()
        return str(item.data(0, PLACE_ROLE) or "") if item else ""

    def chosen_view(self) -> View | None:
        """The chosen view."""
        item = self.currentItem()
        view = item.data(0, VIEW_ROLE) if item else None
        return view if isinstance(view, View) else None

    def rename_view(self) -> None:
        """Asks for another name of the chosen view."""
        view = self.chosen_view()
        if view is None or view.id == GAPS_ID:
            return
        name, is_given = QInputDialog.getText(self, "Rename view", "Name of the view:", text=view.name)
        if is_given and name.strip() and name.strip() != view.name:
            try:
                self.desk.session.rename_view(view, name)
            except MagpieError as error:
                self.desk.complain(error)

    def delete_view(self) -> None:
        """Deletes the chosen view; undo brings it back."""
        view = self.chosen_view()
        if view is None or view.id == GAPS_ID:
            return
        self.desk.session.delete_view(view)
        self.desk.say(f"The view “{view.name}” is deleted; its entries are not.", (("Undo", self.undo),))
        self.choose(view.place)
        self.place_chosen.emit(view.place)

    def undo(self) -> None:
        """Takes the last step back."""
        try:
            self.desk.session.undo()
        except MagpieError as error:
            self.desk.complain(error)

    def _on_current(self, item: QTreeWidgetItem | None) -> None:
        view = self.chosen_view()
        if view is not None:
            self.view_chosen.emit(view)
        elif self.chosen_place():
            self.place_chosen.emit(self.chosen_place())

    def _on_menu(self, at: object) -> None:
        if self.chosen_view() is None:
            return
        menu = QMenu(self)
        menu.addAction(self.rename)
        menu.addAction(self.delete)
        menu.exec(self.cursor().pos())
