"""The set-up of a place: the place itself and its fields at the left, what is chosen of them at the right."""

from PyQt6.QtCore import QModelIndex, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.fields import DeleteField, OrderFields
from wily_magpie.core.commands.places import DeletePlace
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.qt.editors.two_lines import TwoLines
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.setup.field_card import FieldCard
from wily_magpie.qt.stations.sources.setup.place_card import PlaceCard
from wily_magpie.qt.style.parts import PlainLabel, icon_button, label, scroll_area

KEY_ROLE = int(Qt.ItemDataRole.UserRole)
LIST_PX = 280
ITSELF = ""
"""The key of the row that stands for the place itself."""


class SetupPage(QWidget):
    """Shows a place's set-up.

    Signals:
        left: back to the table.
    """

    left = pyqtSignal()

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.key = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        bar = QWidget()
        bar.setObjectName("footline")
        row = QHBoxLayout(bar)
        row.setContentsMargins(10, 6, 10, 6)
        back = QPushButton("Back to the table")
        back.clicked.connect(self.left)
        row.addWidget(back)
        self.title = PlainLabel()
        self.title.setContentsMargins(10, 0, 0, 0)
        row.addWidget(self.title, 1)
        self.drop = QPushButton("Delete the place …")
        self.drop.clicked.connect(self.delete_place)
        row.addWidget(self.drop)
        column.addWidget(bar)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addWidget(self.make_left())
        self.cards = QStackedWidget()
        self.place_card = PlaceCard(desk)
        self.field_card = FieldCard(desk)
        self.field_card.made.connect(self._on_made)
        for card in (self.place_card, self.field_card):
            self.cards.addWidget(scroll_area(card))
        body.addWidget(self.cards, 1)
        column.addLayout(body, 1)

    def make_left(self) -> QWidget:
        left = QWidget()
        left.setFixedWidth(LIST_PX)
        column = QVBoxLayout(left)
        column.setContentsMargins(10, 10, 0, 10)
        column.setSpacing(4)
        self.list = QListWidget()
        self.list.setAccessibleName("Fields")
        self.list.setItemDelegate(TwoLines(self.list))
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.list.currentRowChanged.connect(lambda _row: self.show_chosen())
        model = self.list.model()
        if model is not None:
            model.rowsMoved.connect(self._on_moved)
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.setSpacing(2)
        self.add = QPushButton("New field")
        self.add.clicked.connect(self.new_field)
        row.addWidget(self.add)
        row.addStretch(1)
        row.addWidget(icon_button("arrow-up", "Move the field up", lambda: self.move_field(-1)))
        row.addWidget(icon_button("arrow-down", "Move the field down", lambda: self.move_field(1)))
        row.addWidget(icon_button("trash", "Delete the field", self.delete_field))
        column.addLayout(row)
        column.addWidget(label("Every change is one step that can be undone.", "reason", wraps=True))
        return left

    def place(self) -> PlaceInfo | None:
        """The place as it is now; None where it is gone."""
        return self.desk.overview.find_place(self.key)

    def open(self, key: str, field: str = ITSELF) -> None:
        """Shows the set-up of a place."""
        self.key = key
        self.refresh(field)

    def refresh(self, field: str | None = None) -> None:
        """Shows the place as it is now; the chosen row stays, where it is still there."""
        place = self.place()
        if place is None:
            self.left.emit()
            return
        chosen = self.chosen() if field is None else field
        kind = place.nature.noun
        self.title.setText(f"Setting up {place.name}")
        self.drop.setText(f"Delete the {kind}")
        self.list.blockSignals(True)
        self.list.clear()
        rows = [(ITSELF, f"{place.name}\nthe {kind} itself")]
        for one in place.fields:
            if one.key != "title" and not one.kind.is_of_rules and not one.settings.is_given:
                more = ", hidden" if one.settings.is_hidden else ""
                rows.append((one.key, f"{one.label}\n{one.kind.name}{more}"))
        for key, text in rows:
            item = QListWidgetItem(text)
            item.setData(KEY_ROLE, key)
            if key == ITSELF:
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsDragEnabled)
            self.list.addItem(item)
        keys = [key for key, _ in rows]
        self.list.setCurrentRow(keys.index(chosen) if chosen in keys else 0)
        self.list.blockSignals(False)
        self.show_chosen()

    def chosen(self) -> str:
        """The key of the chosen row."""
        item = self.list.currentItem()
        return str(item.data(KEY_ROLE)) if item is not None else ITSELF

    def show_chosen(self) -> None:
        """Shows the card of the chosen row."""
        place = self.place()
        if place is None:
            return
        field = next((one for one in place.fields if one.key == self.chosen()), None)
        if field is None:
            self.place_card.show_place(place)
        else:
            self.field_card.show_field(place, field)
        self.cards.setCurrentIndex(0 if field is None else 1)

    def new_field(self) -> None:
        """Shows a blank card."""
        place = self.place()
        if place is not None:
            self.list.clearSelection()
            self.field_card.show_field(place, None)
            self.cards.setCurrentIndex(1)
            self.field_card.name.setFocus()

    def _on_made(self, key: str) -> None:
        self.refresh(key)

    def keys(self) -> list[str]:
        """The fields in the order of the list."""
        items = (self.list.item(row) for row in range(self.list.count()))
        return [key for item in items if item is not None and (key := str(item.data(KEY_ROLE))) != ITSELF]

    def move_field(self, by: int) -> None:
        """Moves the chosen field."""
        key, keys = self.chosen(), self.keys()
        if key in keys and 0 <= keys.index(key) + by < len(keys):
            at = keys.index(key)
            keys.insert(at + by, keys.pop(at))
            self.desk.bridge.do(OrderFields(self.key, tuple(keys)))

    def _on_moved(self, _parent: QModelIndex, _first: int, _last: int, _to: QModelIndex, _row: int) -> None:
        self.desk.bridge.do(OrderFields(self.key, tuple(self.keys())))

    def delete_field(self) -> None:
        """Deletes the chosen field; undo brings it back with its values."""
        key, place = self.chosen(), self.place()
        field = next((one for one in place.fields if one.key == key), None) if place is not None else None
        if field is None or place is None:
            return
        done = "hidden; the files keep it" if place.nature.is_in_files else "deleted, with its values"
        said = f"The field “{field.label}” is {done}."
        self.desk.bridge.do(DeleteField(self.key, key), lambda _none: self.desk.say(said, self.desk.undoing()))

    def delete_place(self) -> None:
        """Deletes the place; undo brings it back."""
        place = self.place()
        if place is None:
            return
        files = " Its files stay where they are." if place.nature.is_in_files else ""
        said = f"“{place.name}” is deleted.{files}"
        self.desk.bridge.do(DeletePlace(self.key), lambda _none: self.desk.say(said, self.desk.undoing()))
        self.left.emit()
