"""Keeping a collection in step with the notes of a folder: a look first, then it begins."""

from PyQt6.QtWidgets import QComboBox, QLineEdit, QWidget

from wily_magpie.core.commands.mirror import MirrorInto
from wily_magpie.core.queries.mirror import ASKED, LEFT, MADE, TO_ENTRY, TO_NOTE, UNTOUCHED, USUAL_PATH, Pair
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.say_first import SayFirst
from wily_magpie.qt.style.parts import label, timer

REST_MS = 300
NOTHING = "nothing: entries and notes stay as they are"
ABOUT = {
    MADE: "will be made",
    TO_NOTE: "will be written into",
    TO_ENTRY: "give something to their entries",
    LEFT: "stay as they are",
    ASKED: "lost what their entries have: you are asked about them",
    UNTOUCHED: "are left alone",
}


class MirrorDialog(SayFirst):
    """Asks for the folder and the collection; says what would be done on either side."""

    def __init__(self, desk: StationContext, key: str, parent: QWidget) -> None:
        super().__init__(parent, "Keep a collection in step with notes", "Begin")
        self.desk, self.asking = desk, LastAsked(desk.bridge)
        self.place, self.of, self.fields, self.path = QComboBox(), QComboBox(), QLineEdit(), QLineEdit()
        self.of.addItem(NOTHING, "")
        for one in desk.overview.places:
            box = self.place if one.nature.is_in_files else self.of
            box.addItem(one.name, one.key)
        self.place.setCurrentIndex(max(0, self.place.findData(key)))
        self.fields.setPlaceholderText("all; or such as: status, chapter as Part")
        self.path.setPlaceholderText(USUAL_PATH)
        for name, widget in (
            ("Notes folder", self.place), ("In step with", self.of), ("Fields", self.fields), ("Path of a note", self.path),
        ):  # fmt: skip
            widget.setAccessibleName(name)
            self.form.addRow(label(name), widget)
        self.take_said()
        self.rest = timer(self, self.look)
        self.place.currentIndexChanged.connect(lambda _at: self.take_said())
        self.of.currentIndexChanged.connect(lambda _at: self.rest.start(REST_MS))
        for line in (self.fields, self.path):
            line.textChanged.connect(lambda _text: self.rest.start(REST_MS))
        self.look()

    def take_said(self) -> None:
        """Shows how it is for the folder that is chosen."""
        place = self.desk.overview.find_place(str(self.place.currentData()))
        if place is not None:
            self.of.setCurrentIndex(max(0, self.of.findData(place.settings.mirrors)))
            self.fields.setText(place.settings.mirror_fields)
            self.path.setText(place.settings.mirror_path)

    def command(self) -> MirrorInto:
        """What begins it, or ends it."""
        return MirrorInto(
            str(self.place.currentData()),
            str(self.of.currentData()),
            self.fields.text().strip(),
            self.path.text().strip(),
        )

    def look(self) -> None:
        """Says what would be done."""
        wanted = self.command()
        if not wanted.collection:
            self.asking.forget()
            place = self.desk.overview.find_place(wanted.place)
            self.say("Choose a collection.", is_possible=place is not None and bool(place.settings.mirrors))
            return
        self.asking.ask(
            lambda reader: reader.notes.look_at_mirror(wanted.place, wanted.collection, wanted.fields, wanted.path),
            self.show_pairs,
            self.refuse,
        )

    def show_pairs(self, pairs: list[Pair]) -> None:
        """Shows it."""
        counts = {what: sum(what in pair.what for pair in pairs) for what in ABOUT}
        said = [f"{count:,} notes {ABOUT[what]}" for what, count in counts.items() if count]
        first = ", ".join(pair.path for pair in pairs[:3])
        told = f"{'; '.join(said)}, such as {first}." if said else "Both say the same."
        told += " From then on what is changed on one side goes to the other; what both changed is said."
        self.say(told, is_possible=True)
