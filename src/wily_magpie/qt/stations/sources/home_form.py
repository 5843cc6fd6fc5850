"""A new home page: a note with living lists over what there is."""

from PyQt6.QtWidgets import QComboBox, QLineEdit, QWidget

from wily_magpie.core.commands.living import MakeHomePage
from wily_magpie.core.queries.home_pages import STARTERS, home_page
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.say_first import SayFirst
from wily_magpie.qt.style.parts import label


class HomeDialog(SayFirst):
    """Asks for what it is to be for, and where it is to lie; says which lists it will hold."""

    def __init__(self, desk: StationContext, key: str, parent: QWidget) -> None:
        super().__init__(parent, "New home page", "Make it")
        self.desk = desk
        self.place, self.kind, self.path = QComboBox(), QComboBox(), QLineEdit("Home")
        for place in desk.overview.places:
            if place.nature.is_in_files:
                self.place.addItem(place.name, place.key)
        self.place.setCurrentIndex(max(0, self.place.findData(key)))
        self.kind.addItems(list(STARTERS))
        for name, widget in (("In", self.place), ("For", self.kind), ("Path", self.path)):
            widget.setAccessibleName(name)
            self.form.addRow(label(name), widget)
        self.place.currentIndexChanged.connect(lambda _at: self.look())
        self.kind.currentIndexChanged.connect(lambda _at: self.look())
        self.path.textChanged.connect(lambda _text: self.look())
        self.look()
        self.path.setFocus()

    def look(self) -> None:
        """Says what it will hold."""
        if not self.place.count():
            self.say("There is no notes folder yet. Take one in first: New place.", is_possible=False, is_problem=True)
            return
        text = home_page(self.kind.currentText(), "", self.desk.overview.places)
        parts = [line.removeprefix("## ") for line in text.splitlines() if line.startswith("## ")]
        said = f"It will hold: {', '.join(parts)}. The lists are kept filled; all of it is yours to change."
        self.say(said, is_possible=bool(self.path.text().strip()))

    def command(self) -> MakeHomePage:
        """What makes it."""
        return MakeHomePage(str(self.place.currentData()), self.kind.currentText(), self.path.text().strip())
