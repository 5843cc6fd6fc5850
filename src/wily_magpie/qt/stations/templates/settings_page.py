"""What a template takes and how it keeps: name, place, match rules, text, what is asked and hidden."""

from dataclasses import replace

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.capture.run import CaptureRun
from wily_magpie.core.entries.field import Field, find_field
from wily_magpie.core.entries.insert_position import InsertPosition, NoteTarget
from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.pages.address import from_typed
from wily_magpie.core.templates.match import read_rule
from wily_magpie.core.templates.template import Template
from wily_magpie.qt.editors.markdown_editor import MarkdownEditor
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.templates.body_form import BodyForm
from wily_magpie.qt.style.parts import label, scroll_area

MATCH_PX = 128
OWN_NOTE, IN_NOTE, JOURNAL = range(3)


class SettingsPage(QWidget):
    """Shows and changes all of a template but its rules.

    Signals:
        edited: the template as it is to be kept.
    """

    edited = pyqtSignal(object)

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.asking = desk, LastAsked(desk.bridge)
        self.template: Template | None = None
        self.fields: tuple[Field, ...] = ()
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(20, 12, 20, 20)
        column.setSpacing(8)
        self.form = QFormLayout()
        self.form.setVerticalSpacing(8)
        self.form.setHorizontalSpacing(14)
        column.addLayout(self.form)
        column.addStretch(1)
        outer.addWidget(scroll_area(inside))
        self.make_rows()

    def make_rows(self) -> None:
        self.name, self.status, self.tags = QLineEdit(), QLineEdit(), QLineEdit()
        self.asks, self.hides, self.only = QLineEdit(), QLineEdit(), QLineEdit()
        self.note_name, self.note, self.heading = QLineEdit(), QLineEdit(), QLineEdit()
        self.place = QComboBox()
        self.way = QComboBox()
        self.way.addItems(["as a note of its own", "into a note that is there", "into the journal page of the day"])
        self.at = QComboBox()
        self.at.addItems(["at the end", "at the top"])
        self.level = QComboBox()
        self.level.addItems(["which must be there", *(f"made at level {level}" for level in range(1, 7))])
        self.match = MarkdownEditor("Match rules")
        self.match.setFixedHeight(MATCH_PX)
        self.match.setPlaceholderText("a rule a line:\nhost is mills.example\nstructured type is VideoObject and language is en\n"
                                      "address matches https://*.example/:year/*")  # fmt: skip
        self.match_told = label("", "problem", wraps=True)
        self.trial = QLineEdit()
        self.trial.setPlaceholderText("an address; Enter looks at the page and says which template takes it")
        self.trial_told = label("", "reason", wraps=True)
        self.body = BodyForm()
        self.body_told = label("", "problem", wraps=True)
        self.keeps_pictures = QCheckBox("Store the pictures of the text with the entry")
        self.opens = QCheckBox("Open what was kept afterwards")
        self.asks.setPlaceholderText("fields that are asked for before keeping: Chapter, Summary")
        self.hides.setPlaceholderText("fields that the slip fills without showing them: Language")
        self.only.setPlaceholderText("blank: all; or the fields of a short form, in their order: Chapter, Summary")
        self.status.setPlaceholderText("blank, or what every page gets: to read")
        self.tags.setPlaceholderText("added to those of the page: tide mills, law")
        self.note_name.setPlaceholderText("as the folder has it; or {{ page.published | date('year') }}/{{ title }}")
        self.note.setPlaceholderText("For later.md")
        self.heading.setPlaceholderText("below this heading; blank: of the whole note")
        where = QHBoxLayout()
        where.setContentsMargins(0, 0, 0, 0)
        for widget in (self.heading, self.level, self.at):
            where.addWidget(widget, 1 if widget is self.heading else 0)
        self.where = QWidget()
        self.where.setLayout(where)
        rows: tuple[tuple[str, QWidget], ...] = (
            ("Name", self.name), ("Writes to", self.place), ("Written", self.way), ("Note", self.note), ("Where", self.where),
            ("New notes are named", self.note_name), ("Pages it takes", self.match), ("", self.match_told),
            ("Would this be taken?", self.trial), ("", self.trial_told), ("Text", self.body), ("", self.body_told),
            ("Status", self.status), ("Tags", self.tags), ("Asks for", self.asks),
            ("Hides", self.hides), ("Only these fields", self.only), ("", self.keeps_pictures), ("", self.opens),
        )  # fmt: skip
        for name, row in rows:
            if name:
                row.setAccessibleName(name)
            self.form.addRow(label(name), row)
        lines = (
            self.name,
            self.status,
            self.tags,
            self.asks,
            self.hides,
            self.only,
            self.note_name,
            self.note,
            self.heading,
        )
        for line in lines:
            line.editingFinished.connect(self.keep)
        self.match.finished.connect(self.keep)
        self.match.textChanged.connect(self.check)
        self.body.finished.connect(self.keep)
        for choice in (self.place, self.way, self.at, self.level):
            choice.activated.connect(lambda _index: self.keep())
        for box in (self.keeps_pictures, self.opens):
            box.clicked.connect(lambda _checked: self.keep())
        self.trial.returnPressed.connect(self.try_address)

    def show_template(self, template: Template, fields: tuple[Field, ...]) -> None:
        """Shows a template, and the fields of its place."""
        is_other = self.template is None or self.template.name != template.name
        self.template, self.fields = template, fields
        labels = {one.key: one.label for one in self.fields}
        self.place.clear()
        places = [place.name for place in self.desk.overview.places]
        self.place.addItems(places if template.writes in places or not template.writes else [*places, template.writes])
        self.place.setCurrentText(template.writes or (places[0] if places else ""))
        is_notes = self.writes_notes(template.writes)
        way = template.way
        for line, text in (
            (self.name, template.name), (self.status, template.status), (self.tags, ", ".join(template.tags)),
            (self.asks, ", ".join(labels.get(key, key) for key in template.asks)),
            (self.hides, ", ".join(labels.get(key, key) for key in template.hides)), (self.note_name, template.note_name),
            (self.only, ", ".join(labels.get(key, key) for key in template.only)),
            (self.note, way.note if way else ""), (self.heading, way.way.heading if way else ""),
        ):  # fmt: skip
            if not (line.hasFocus() and not is_other):
                line.setText(text)
        self.way.setCurrentIndex(OWN_NOTE if way is None else IN_NOTE if way.note else JOURNAL)
        self.at.setCurrentIndex(int(way is not None and way.way.at == "top"))
        self.level.setCurrentIndex(way.way.level or 0 if way else 0)
        for widget, is_shown in (
            (self.way, is_notes), (self.note, is_notes and way is not None and self.way.currentIndex() == IN_NOTE),
            (self.where, is_notes and way is not None), (self.note_name, is_notes and way is None),
        ):  # fmt: skip
            self.form.setRowVisible(widget, is_shown)
        if is_other or not self.match.hasFocus():
            self.match.set_text("\n".join(map(str, template.match)))
        self.body.show_template(template, is_other=is_other)
        self.keeps_pictures.setChecked(template.keeps_pictures)
        self.opens.setChecked(template.opens)
        if is_other:
            self.tell(self.trial_told, "")
            self.tell(self.body_told, "")
        self.check()

    def writes_notes(self, place: str) -> bool:
        """Whether a place keeps its entries in files."""
        found = self.desk.overview.find_place(place) if place else None
        return found is not None and found.nature.is_in_files

    def check(self) -> None:
        """Says which match rules cannot be understood."""
        faults = []
        for line in self.match.text().splitlines():
            if line.strip():
                try:
                    read_rule(line)
                except UserError as error:
                    faults.append(str(error))
        self.tell(self.match_told, "\n".join(faults))

    def tell(self, where: QLabel, text: str) -> None:
        """Shows a fault; nothing where there is none."""
        where.setText(text)
        self.form.setRowVisible(where, bool(text))

    def written(self) -> Template:
        """The template as it stands here.

        Raises:
            UserError: a part of it cannot be understood.
        """
        template = self.template
        if template is None:
            raise UserError("unknown-template", "No template is chosen.", "Choose one.")
        match = tuple(read_rule(line) for line in self.match.text().splitlines() if line.strip())
        way = None
        if self.writes_notes(self.place.currentText()) and self.way.currentIndex() != OWN_NOTE:
            spot = InsertPosition(
                self.heading.text().strip(),
                "top" if self.at.currentIndex() else "end",
                self.level.currentIndex() or None,
            )
            note = (self.note.text().strip() or "For later.md") if self.way.currentIndex() == IN_NOTE else ""
            way = NoteTarget(note, spot)
        body, bodies = self.body.written(template)
        return replace(
            template,
            name=" ".join(self.name.text().split()) or template.name,
            writes=self.place.currentText(),
            match=match,
            body=body,
            bodies=bodies,
            way=way,
            note_name=self.note_name.text().strip(),
            asks=self.keys(self.asks.text()),
            hides=self.keys(self.hides.text()),
            only=self.keys(self.only.text()),
            status=self.status.text().strip(),
            tags=parted(self.tags.text()),
            keeps_pictures=self.keeps_pictures.isChecked(),
            opens=self.opens.isChecked(),
        )

    def keys(self, text: str) -> tuple[str, ...]:
        """The keys of fields that are named by their labels; UserError where there is no such field."""
        return tuple(find_field(self.fields, name).key for name in parted(text))

    def keep(self) -> None:
        """Keeps what was changed."""
        if self.template is None:
            return
        self.tell(self.body_told, "")
        try:
            template = self.written()
        except UserError as error:
            if not self.match_told.text():
                self.tell(self.body_told, str(error))
            return
        if template != self.template:
            self.edited.emit(template)

    def refuse(self, error: MagpieError) -> None:
        """Says why the template could not be kept as it stands."""
        self.tell(self.body_told, str(error))

    def try_address(self) -> None:
        """Says whether the page at an address would be taken, and by which template."""
        template = self.template
        if template is None:
            return
        try:
            address = from_typed(self.trial.text())
        except UserError as error:
            self.tell(self.trial_told, str(error))
            return
        self.tell(self.trial_told, "Looking at the page …")

        def work(run: CaptureRun) -> tuple[str | None, str]:
            reading = run.reading(run.page(address))
            templates = run.counter.reader.templates.templates()
            first = next((one.name for one in templates if one.is_on and one.reason(reading)), "")
            return template.reason(reading), first

        self.asking.work(
            work,
            lambda found: self.tell(self.trial_told, verdict(template, *found)),
            lambda error: self.tell(self.trial_told, str(error)),
        )


def verdict(template: Template, reason: str | None, first: str) -> str:
    """Whether a template takes a page, in words."""
    by = f"by “{first}”" if first else "by none"
    if reason is None:
        return f"No: this page would not be taken by “{template.name}”, but {by}."
    if not template.is_on:
        return f"It would take this page, since {reason}, but it is switched off."
    if first != template.name:
        return f"It would take this page, since {reason}, but “{first}” comes before it."
    return f"Yes: this page would be taken, since {reason}."


def parted(text: str) -> tuple[str, ...]:
    """Words that are parted by commas."""
    return tuple(dict.fromkeys(word for part in text.split(",") if (word := part.strip())))
