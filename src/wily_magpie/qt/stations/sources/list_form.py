"""Putting a view into a note as a living list, and changing one: a small form with a preview."""

from dataclasses import replace

from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.living import ChangeList, PutList
from wily_magpie.core.entries.living_list import (
    EVERYWHERE,
    SHAPES,
    ListForm,
    parted,
    read_shown,
    single_marks,
    written_shown,
)
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.qt.editors.completing import plain_completer
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.reading import ReadingView, Shown, shown
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.list_question import ListQuestion
from wily_magpie.qt.style.parts import label, timer
from wily_magpie.qt.style.reading_look import PREVIEW_LINE, ReadingLook

REST_MS, MOST_ROWS, WIDTH, HEIGHT, PREVIEW_PT = 250, 1_000, 760, 660, 10.5
SHAPE_NAMES = {"list": "a list", "table": "a table", "cards": "cards, with pictures", "count": "how many"}
LINK_NAMES = {
    "": "as the folder has it", "path": "to the note, by its path", "brackets": "to the note, in double brackets",
    "entry": "to the entry, in Wily Magpie", "web": "to the page on the web",
}  # fmt: skip
TODAY = "today’s page"


class ListDialog(QDialog):
    """Of a new list, or one that stands in a note.

    Args:
        form: to begin with.
        folder: key of the notes folder that is proposed. path: of the note; "" for one that is to be chosen.
        key: of the list that is changed; "" for a new one.
    """

    def __init__(
        self, desk: StationContext, parent: QWidget, form: ListForm, folder: str, path: str = "", key: str = ""
    ) -> None:
        super().__init__(parent)
        self.desk, self.given, self.key = desk, form, key
        self.asking, self.asking_paths = LastAsked(desk.bridge), LastAsked(desk.bridge)
        self.setWindowTitle("Change the list" if key else "Put this view into a note")
        self.resize(WIDTH, HEIGHT)
        self.folder, self.note = QComboBox(), QLineEdit(path or "Home")
        for place in desk.overview.places:
            if place.nature.is_in_files:
                self.folder.addItem(place.name, place.key)
        self.folder.setCurrentIndex(max(0, self.folder.findData(folder)))
        self.note.setPlaceholderText(TODAY)
        self.place, self.asked = QComboBox(), ListQuestion(desk, form)
        self.offer_places(form.place)
        self.fields = QLineEdit(", ".join(map(written_shown, form.shown)))
        self.shape, self.links, self.most = QComboBox(), QComboBox(), QSpinBox()
        for name in SHAPES:
            self.shape.addItem(SHAPE_NAMES[name], name)
        for name, said in LINK_NAMES.items():
            self.links.addItem(said, name)
        self.shape.setCurrentIndex(self.shape.findData(form.shape))
        self.links.setCurrentIndex(self.links.findData(form.links))
        self.most.setRange(0, MOST_ROWS)
        self.most.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.most.setSpecialValueText("all")
        self.most.setValue(form.most)
        self.kept = QCheckBox("Keep it filled by itself")
        self.kept.setChecked(form.is_filled)
        self.told = label("", "slate", wraps=True)
        self.preview = ReadingView(look=ReadingLook(size_pt=PREVIEW_PT, line_percent=PREVIEW_LINE))
        self.preview.setAccessibleName("What the list will hold")
        self.lay_out(is_new=not key)
        self.rest = timer(self, self.look)
        self.connect_all()
        self.complete_paths()
        self.look()

    def offer_places(self, given: str) -> None:
        """All that a list can be of, with what it is of already, even if there is no such place."""
        places = [(one.name, one.name) for one in self.desk.overview.places]
        offered = [("this notes folder", ""), *places, ("all places", EVERYWHERE)]
        known = self.desk.overview.find_place(given)
        given = known.name if known is not None else given
        if given not in [name for _, name in offered]:
            offered.append((given, given))
        for said, name in offered:
            self.place.addItem(said, name)
        self.place.setCurrentIndex(self.place.findData(given))
        self.asked.show_of(self.place_asked())

    def place_asked(self) -> PlaceInfo | None:
        """The one place that is asked; None where it is all of them, or there is none such."""
        return self.desk.overview.find_place(str(self.place.currentData() or self.folder.currentData()))

    def lay_out(self, *, is_new: bool) -> None:
        """Puts the parts together."""
        rows = QFormLayout()
        rows.setHorizontalSpacing(12)
        where = (("Notes folder", self.folder), ("Note", self.note)) if is_new else ()
        for name, widget in (
            *where, ("Of", self.place), ("Asked", self.asked), ("Shown", self.fields),
        ):  # fmt: skip
            widget.setAccessibleName(name)
            rows.addRow(label(name), widget)
        looks = QHBoxLayout()
        looks.setSpacing(8)
        self.shape.setAccessibleName("As")
        looks.addWidget(self.shape, 1)
        for name, widget in (("Titles lead", self.links), ("Rows at most", self.most)):
            widget.setAccessibleName(name)
            looks.addSpacing(6)
            looks.addWidget(label(name))
            looks.addWidget(widget, 1)
        rows.addRow(label("As"), looks)
        rows.addRow("", self.kept)
        self.fields.setToolTip("Fields in order; “captured as Kept” gives one a name of its own")
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.do = buttons.addButton("Put it there" if is_new else "Change it", QDialogButtonBox.ButtonRole.AcceptRole)
        if self.do is not None:
            self.do.setObjectName("main")
        buttons.accepted.connect(self.put)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.setSpacing(8)
        column.addLayout(rows)
        column.addWidget(self.told)
        column.addWidget(self.preview, 1)
        column.addWidget(buttons)

    def connect_all(self) -> None:
        """Each change is looked at after a moment."""
        for line in (self.note, self.fields):
            line.textChanged.connect(lambda _text: self.rest.start(REST_MS))
        self.asked.changed.connect(lambda: self.rest.start(REST_MS))
        for box in (self.folder, self.place):
            box.currentIndexChanged.connect(lambda _at: self.asked.show_of(self.place_asked()))
        for box in (self.folder, self.place, self.shape, self.links):
            box.currentIndexChanged.connect(lambda _at: self.rest.start(REST_MS))
        self.folder.currentIndexChanged.connect(lambda _at: self.complete_paths())
        self.most.valueChanged.connect(lambda _count: self.rest.start(REST_MS))
        self.kept.toggled.connect(lambda _on: self.rest.start(REST_MS))

    def complete_paths(self) -> None:
        """The notes of the folder are offered."""
        folder = str(self.folder.currentData())
        take = lambda paths: self.note.setCompleter(plain_completer(paths, self))  # noqa: E731
        self.asking_paths.ask(lambda reader: reader.notes.paths(folder), take)

    def form(self) -> ListForm:
        """What is asked for."""
        fields = tuple(read_shown(single_marks(one)) for one in parted(self.fields.text()))
        asked = {name: line.text().strip() for name, line in self.asked.named_lines().items()}
        return replace(
            self.given, place=str(self.place.currentData()), **asked, shown=fields or self.given.shown,
            shape=str(self.shape.currentData()), links=str(self.links.currentData()), most=self.most.value(),
            is_filled=self.kept.isChecked(),
        )  # fmt: skip

    def look(self) -> None:
        """Asks what the list would hold."""
        form, folder, path = self.form(), str(self.folder.currentData()), self.note.text().strip()
        if not self.folder.count():
            self.asking.forget()
            self.refuse("There is no notes folder yet. Take one in first: New place.")
            return
        self.asking.ask(
            lambda reader: shown(reader.entries.rendered(reader.living.preview(folder, path or "Home.md", form), None)),
            self.show_rows,
            lambda error: self.refuse(str(error)),
        )

    def show_rows(self, found: Shown) -> None:
        """Shows them."""
        where = self.note.text().strip() or TODAY
        self.told.setText("" if self.key else f"It is written at the end of {where}; what stands there stays.")
        self.told.setObjectName("slate")
        self.settle(is_possible=True)
        self.preview.show_text(found, "", ())

    def refuse(self, why: str) -> None:
        """Says why it cannot be."""
        self.preview.show_text(Shown(), "", ())
        self.told.setText(why)
        self.told.setObjectName("problem")
        self.settle(is_possible=False)

    def settle(self, *, is_possible: bool) -> None:
        """Shows whether it can be done."""
        style = self.style()
        if style is not None:
            style.polish(self.told)
        if self.do is not None:
            self.do.setEnabled(is_possible)

    def put(self) -> None:
        """Does it; the form stays open where it cannot be done."""
        folder, path, form = str(self.folder.currentData()), self.note.text().strip(), self.form()

        def done(entry_id: int) -> None:
            self.accept()
            show = ("Show it", lambda: self.desk.show_note(folder, entry_id))
            self.desk.say("The list is in the note, and kept filled from now on." if form.is_filled else "The list is in the note.",
                          (show, *self.desk.undoing()))  # fmt: skip

        def failed(error: MagpieError) -> None:
            self.refuse(str(error))

        command = ChangeList(folder, path, self.key, form) if self.key else PutList(folder, path, form)
        self.desk.bridge.do(command, done, failed)
