"""The places on the left: collections with their views under them, notes folders likewise."""

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import QMenu, QTreeWidget, QTreeWidgetItem, QWidget

from wily_magpie.core.entries.view import View
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.model import all_views
from wily_magpie.qt.style.theme import THEME

PLACE_ROLE = int(Qt.ItemDataRole.UserRole)
VIEW_ROLE = PLACE_ROLE + 1


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
        self.fill()

    def attach(self) -> None:
        """Gives it its own keys; the commands are bound by then."""
        for name in ("rename-view", "delete-view"):
            self.addAction(self.desk.commands.action(name, self, Qt.ShortcutContext.WidgetShortcut))

    def fill(self) -> None:
        """Lists places and views; what was chosen stays chosen where it is still there."""
        place, view = self.chosen_place(), self.chosen_view()
        self.blockSignals(True)
        self.clear()
        overview = self.desk.overview
        heads: dict[str, QTreeWidgetItem] = {}
        for one in overview.places:
            nature = one.nature
            if nature.noun not in heads:
                heads[nature.noun] = head = QTreeWidgetItem([nature.heading])
                head.setFlags(Qt.ItemFlag.ItemIsEnabled)
                font = head.font(0)
                font.setPointSizeF(8.5)
                head.setFont(0, font)
                head.setForeground(0, self.palette().placeholderText())
                self.addTopLevelItem(head)
            item = QTreeWidgetItem([f"{one.name} (away)" if one.is_away else one.name])
            if one.is_away:
                item.setToolTip(
                    0, f"{one.path} is not there. What is known of its notes is shown; it is looked for again."
                )
            item.setIcon(0, THEME.icon(nature.icon))
            item.setData(0, PLACE_ROLE, one.key)
            heads[nature.noun].addChild(item)
            for kept in all_views(overview, one):
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

    def place_at(self, window: QWidget, at: QPoint) -> str:
        """The key of the place that stands at a point of the window; "" where none does."""
        inside = self.mapFrom(window, at)
        item = self.itemAt(inside) if self.rect().contains(inside) else None
        return str(item.data(0, PLACE_ROLE) or "") if item is not None else ""

    def chosen_view(self) -> View | None:
        """The chosen view."""
        item = self.currentItem()
        view = item.data(0, VIEW_ROLE) if item else None
        return view if isinstance(view, View) else None

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
        for name in ("rename-view", "delete-view"):
            self.desk.commands.add_to(menu, name)
        menu.exec(self.cursor().pos())
