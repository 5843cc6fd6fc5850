"""The places on the left: collections with their views under them, notes folders likewise."""

from functools import partial

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QAbstractItemView, QMenu, QTreeWidget, QTreeWidgetItem, QWidget

from wily_magpie.core.entries.view import View
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.qt.actions import add_choice
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.model import GAPS_ID, all_views
from wily_magpie.qt.style.parts import plain_tip
from wily_magpie.qt.style.theme import THEME

PLACE_ROLE = int(Qt.ItemDataRole.UserRole)
VIEW_ROLE = PLACE_ROLE + 1


VIEW_KEYS = ("rename-view", "copy-view", "view-up", "view-down", "delete-view")
SYMBOLS = (
    "book",
    "article",
    "list",
    "image",
    "quotes",
    "question",
    "flag",
    "target",
    "key",
    "archive",
    "gauge",
    "note",
    "link",
)
"""Names of icons that may stand before a view."""


class PlacesList(QTreeWidget):
    """Tells which place, or view, was chosen.

    Signals:
        ordered: the key of a place, and the ids of its views in another order.
        symbol_chosen: a view and the name of an icon, "" for none.
        place_menu_asked: the key of a place, and a menu that what can be done with it is added to.
    """

    place_chosen = pyqtSignal(str)
    view_chosen = pyqtSignal(object)
    ordered = pyqtSignal(str, tuple)
    symbol_chosen = pyqtSignal(object, str)
    place_menu_asked = pyqtSignal(str, object)

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
        if not desk.overview.is_read_only:
            self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.fill()

    def attach(self) -> None:
        """Gives it its own keys; the commands are bound by then."""
        for name in VIEW_KEYS:
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
            item = QTreeWidgetItem([f"{one.name}{state_of(one)[0]}"])
            item.setToolTip(0, plain_tip(state_of(one)[1]))
            item.setIcon(0, THEME.icon(nature.icon))
            item.setData(0, PLACE_ROLE, one.key)
            item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsDragEnabled)
            heads[nature.noun].addChild(item)
            for kept in all_views(overview, one):
                inner = QTreeWidgetItem([kept.name])
                inner.setData(0, PLACE_ROLE, one.key)
                inner.setData(0, VIEW_ROLE, kept)
                inner.setFlags(inner.flags() & ~Qt.ItemFlag.ItemIsDropEnabled)
                if kept.layout.symbol:
                    inner.setIcon(0, THEME.icon(kept.layout.symbol))
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

    def views_of(self, place: str) -> list[int]:
        """The ids of the views of a place, in their order; the built-in one is not among them."""
        found = [view.id for view in self.desk.overview.views_of(place)]
        return [one for one in found if one != GAPS_ID]

    def shift(self, by: int) -> None:
        """Puts the chosen view further up or down."""
        view = self.chosen_view()
        ids = self.views_of(view.place) if view is not None else []
        if view is None or view.id not in ids:
            return
        at = ids.index(view.id)
        ids.insert(min(max(at + by, 0), len(ids) - 1), ids.pop(at))
        self.ordered.emit(view.place, tuple(ids))

    def startDrag(self, actions: Qt.DropAction) -> None:
        """Only views of a person's own are moved."""
        view = self.chosen_view()
        if view is not None and view.id != GAPS_ID:
            super().startDrag(actions)

    def dropEvent(self, event: QDropEvent | None) -> None:
        """A view that is let go stands before the view there, or behind all others of its place; nothing else is moved."""
        view = self.chosen_view()
        item = self.itemAt(event.position().toPoint()) if event is not None else None
        if event is None or view is None or event.source() is not self or item is None:
            return
        event.setDropAction(Qt.DropAction.IgnoreAction)  # the list is filled anew from what is kept
        event.accept()
        if item.data(0, PLACE_ROLE) != view.place:
            self.desk.say("A view stays in its place: it asks for the fields of that.", ())
            return
        target = item.data(0, VIEW_ROLE)
        ids = [one for one in self.views_of(view.place) if one != view.id]
        below = self.dropIndicatorPosition() == QAbstractItemView.DropIndicatorPosition.BelowItem
        at = ids.index(target.id) + below if isinstance(target, View) and target.id in ids else 0
        self.ordered.emit(view.place, (*ids[:at], view.id, *ids[at:]))

    def _on_menu(self, at: QPoint) -> None:
        item = self.itemAt(at)
        if item is None or not item.data(0, PLACE_ROLE):
            return
        self.setCurrentItem(item)
        menu = QMenu(self)
        view = self.chosen_view()
        if view is None:
            self.place_menu_asked.emit(self.chosen_place(), menu)
        elif view.id != GAPS_ID:
            for name in VIEW_KEYS[:-1]:
                self.desk.commands.add_to(menu, name)
            self.desk.commands.add_to(menu, "list-into-note")
            self.add_symbols(menu, view)
            menu.addSeparator()
            self.desk.commands.add_to(menu, VIEW_KEYS[-1])
        if not menu.isEmpty():
            menu.exec(self.viewport().mapToGlobal(at) if self.viewport() is not None else self.cursor().pos())  # type: ignore[union-attr]

    def add_symbols(self, menu: QMenu, view: View) -> None:
        """What may stand before a view."""
        inner = menu.addMenu("Symbol")
        if inner is None:
            return
        add_choice(inner, "None", lambda: self.symbol_chosen.emit(view, ""))
        for name in SYMBOLS:
            choice = add_choice(inner, name.capitalize(), partial(self.symbol_chosen.emit, view, name))
            choice.setIcon(THEME.icon(name))


def state_of(place: PlaceInfo) -> tuple[str, str]:
    """What stands behind the name of a place that cannot be used just now, and why; two blanks of any other."""
    if place.is_strange:
        return (
            " (not yours)",
            f"{place.path} was not set up here. “Use its folder” in the menu of this place takes it.",
        )
    if place.is_away:
        return " (away)", f"{place.path} is not there. What is known of its notes is shown; it is looked for again."
    return "", ""
