"""A place itself: its name, what belongs into it, when an entry is complete, how titles and notes are named."""

from dataclasses import replace

from PyQt6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QWidget

from wily_magpie.core.commands.places import ChangePlace, RenamePlace
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.places.rules import read_rule
from wily_magpie.qt.editors.markdown_editor import MarkdownEditor
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.setup.card import Card
from wily_magpie.qt.style.parts import label

ENCODINGS = (
    ("are not read; it is said of each what it could be", ""),
    ("are read as Latin-1, and written back so", "cp1252"),
    ("are read as those of the middle of Europe (Windows-1250)", "cp1250"),
    ("are read as Cyrillic (Windows-1251)", "cp1251"),
)
RULES_HEIGHT_PX = 110
ABOUT_RULES = "An entry that breaks a rule shows a folded corner, and stands in the view “Gaps” until it is mended."


class PlaceCard(Card):
    """Shows and changes a place."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(desk, parent)
        self.pattern, self.note_name, self.journal, self.starter, self.pictures = (QLineEdit() for _ in range(5))
        self.pattern.setPlaceholderText("written by hand; or made: {authors.family}, {published.year}")
        self.note_name.setPlaceholderText("{title}; also {date}, {year}, {month}, and folders before “/”")
        self.journal.setPlaceholderText("Journal/{date}")
        self.starter.setPlaceholderText("blank; or the path of a note that a new page begins as")
        self.pictures.setPlaceholderText(
            "where most lie, else Files; also {title}, {year}, {month}, and folders before “/”"
        )
        rows = (
            ("Name", self.name), ("What belongs here", self.description), ("Titles", self.pattern),
            ("New notes are named", self.note_name), ("Journal pages", self.journal), ("A page begins as", self.starter),
            ("Pictures of notes", self.pictures),
        )  # fmt: skip
        for _, line in rows:
            line.editingFinished.connect(self.keep)
        self.add_rows(*rows)
        self.links = QCheckBox("Write through links that lead out of the folder")
        self.links.setToolTip("A note that is a link to a file elsewhere is refused without this")
        self.links.toggled.connect(self.keep)
        self.form.addRow("Links", self.links)
        self.filled = QCheckBox("Keep them filled by themselves")
        self.filled.toggled.connect(self.keep)
        self.form.addRow("Living lists", self.filled)
        self.encoding = QComboBox()
        self.encoding.setAccessibleName("Notes that are not UTF-8")
        for said, name in ENCODINGS:
            self.encoding.addItem(said, name)
        self.encoding.activated.connect(self.keep)
        self.form.addRow("Notes that are not UTF-8", self.encoding)
        self.column.addWidget(label("An entry is complete when (a rule a line)"))
        self.rules = MarkdownEditor("Completeness rules")
        self.rules.setFixedHeight(RULES_HEIGHT_PX)
        self.rules.setPlaceholderText(
            "address or files must be there\nif kind is interview: date and people\nat least 3 sources"
        )
        self.rules.textChanged.connect(self.check)
        self.rules.finished.connect(self.keep)
        self.column.addWidget(self.rules)
        self.told = label("", "problem", wraps=True)
        self.column.addWidget(self.told)
        self.column.addWidget(label(ABOUT_RULES, "reason", wraps=True))
        self.column.addStretch(1)

    def show_place(self, place: PlaceInfo) -> None:
        """Shows a place."""
        self.place = None  # what is put in now is no change
        settings = place.settings
        self.head.setText(place.name)
        for widget, text in (
            (self.name, place.name), (self.description, settings.description), (self.pattern, settings.title_pattern),
            (self.note_name, settings.name_pattern), (self.journal, settings.journal_pattern),
            (self.starter, settings.journal_starter), (self.pictures, settings.pictures_folder),
        ):  # fmt: skip
            widget.setText(text)
        self.links.setChecked(settings.links_lead_out)
        self.filled.setChecked(settings.is_filled)
        if self.encoding.findData(settings.other_encoding) < 0:
            self.encoding.addItem(f"are read as {settings.other_encoding}", settings.other_encoding)
        self.encoding.setCurrentIndex(self.encoding.findData(settings.other_encoding))
        if not self.rules.hasFocus():
            self.rules.setPlainText("\n".join(settings.rules))
        self.form.setRowVisible(self.pattern, place.nature.has_made_titles)
        for row in (self.note_name, self.journal, self.starter, self.pictures, self.links, self.filled, self.encoding):
            self.form.setRowVisible(row, place.nature.is_in_files)
        self.place = place
        self.check()

    def written_rules(self) -> tuple[str, ...]:
        """The rules as they stand."""
        return tuple(" ".join(line.split()) for line in self.rules.toPlainText().splitlines() if line.strip())

    def check(self) -> bool:
        """Says at once which rule is not understood."""
        faults = []
        for rule in self.written_rules() if self.place is not None else ():
            try:
                read_rule(rule, self.place.fields if self.place else ())
            except MagpieError as error:
                faults.append(f"“{rule}”: {error}")
        self.told.setText("\n".join(faults))
        self.told.setVisible(bool(faults))
        return not faults

    def keep(self) -> None:
        """Keeps what was changed, if there is anything."""
        if self.place is None or not self.check():
            return
        place = self.place
        wanted = replace(
            place.settings, description=self.description.text().strip(), title_pattern=self.pattern.text().strip(),
            rules=self.written_rules(), name_pattern=self.note_name.text().strip(),
            journal_pattern=self.journal.text().strip(), journal_starter=self.starter.text().strip(),
            pictures_folder=self.pictures.text().strip(), links_lead_out=self.links.isChecked(),
            is_filled=self.filled.isChecked(), other_encoding=str(self.encoding.currentData()),
        )  # fmt: skip
        if self.name.text().strip() != place.name:
            self.desk.bridge.do(RenamePlace(place.key, self.name.text()), None, self.refuse)
        if wanted != place.settings:
            self.desk.bridge.do(ChangePlace(place.key, wanted), None, self.refuse)

    def refuse(self, error: MagpieError) -> None:
        """Says why something cannot be; what was typed stays, to be corrected."""
        self.told.setText(str(error))
        self.told.show()
        self.desk.complain(error)
