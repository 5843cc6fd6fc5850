"""What both cards of the set-up are: a heading over a form."""

from PyQt6.QtWidgets import QFormLayout, QLineEdit, QVBoxLayout, QWidget

from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import label


class Card(QWidget):
    """Shows and changes something of a place; parts below the form are added to its column."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.place: PlaceInfo | None = None
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(20, 16, 20, 16)
        self.column.setSpacing(10)
        self.head = label("", "heading")
        self.column.addWidget(self.head)
        self.form = QFormLayout()
        self.form.setVerticalSpacing(8)
        self.column.addLayout(self.form)
        self.name, self.description = QLineEdit(), QLineEdit()

    def add_rows(self, *rows: tuple[str, QWidget]) -> None:
        """Adds rows to the form, each with a name or ""."""
        for name, widget in rows:
            if name:
                widget.setAccessibleName(name)
            self.form.addRow(label(name), widget)
