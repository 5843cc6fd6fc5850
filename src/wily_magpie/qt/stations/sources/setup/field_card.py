"""One field of a place: its name, kind, what else can be said of it; a change of kind is seen before it is done."""

from dataclasses import replace
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QLineEdit,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.command import Command
from wily_magpie.core.commands.fields import AddField, ChangeField, ChangeKind, MakeReference, SetOptions
from wily_magpie.core.entries.field import Field, FieldPlan, Settings, SummaryPlan
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.fields import KINDS, Option
from wily_magpie.core.fields.summary import Measure
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.places.conversion import FROM_FIXED, Conversion, ReferenceConversion
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.setup.card import Card
from wily_magpie.qt.stations.sources.setup.options_editor import OptionsEditor
from wily_magpie.qt.style.parts import button, in_row, label

ANY_PRECISION = -1
ABOUT = {
    "text": "One line of text.",
    "long text": "Text of any length.",
    "number": "A number: 1250 or 12.5.",
    "amount": "A number with its currency or unit: € 1,250.00, 3.2 km.",
    "duration": "How long something plays or takes: 48 min, 1 h 12 min.",
    "date": "A year, a month, a day, a minute, or from one to another: 1890/1914.",
    "yes/no": "Yes, no, or not said.",
    "choice": "One of several options.",
    "choices": "Any number of options, such as tags.",
    "address": "A page of the web.",
    "people": "Names, family name first; organisations too.",
    "files": "Files that are kept with the entry.",
    "reference": "Entries of a collection; seen and changed from both ends.",
    "summary": "Counted or added up from what a reference leads to.",
}


def may_become(field: Field, kind: str) -> bool:
    """Whether a kind is offered for a field that is there."""
    if field.kind.is_linked or field.kind.is_summary:
        return kind in FROM_FIXED
    if KINDS[kind].is_linked:
        return not field.kind.is_fixed and not field.kind.holds_files
    return not (KINDS[kind].is_fixed or field.kind.is_fixed)


class SummaryForm(QWidget):
    """What a summary looks at."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.place: PlaceInfo | None = None
        form = QFormLayout(self)
        form.setContentsMargins(0, 0, 0, 0)
        self.over, self.measure, self.of = QComboBox(), QComboBox(), QComboBox()
        self.where = QLineEdit()
        self.where.setPlaceholderText('all of them; or, for example: status = "to read"')
        for measure in Measure:
            self.measure.addItem(measure.value, measure)
        for name, widget in (
            ("Over", self.over),
            ("What", self.measure),
            ("Of their", self.of),
            ("Only where", self.where),
        ):
            widget.setAccessibleName(name)
            form.addRow(label(name), widget)
        self.over.currentIndexChanged.connect(lambda _index: self.fill_fields())
        self.measure.currentIndexChanged.connect(lambda _index: self.fill_fields())

    def show_plan(self, place: PlaceInfo, plan: SummaryPlan | None) -> None:
        """Shows a plan for a place."""
        self.place = place
        self.over.clear()
        for field in place.fields:
            if field.kind.is_linked:
                self.over.addItem(field.label, field.key)
        if plan is not None:
            self.over.setCurrentIndex(max(0, self.over.findData(plan.over)))
            self.measure.setCurrentIndex(self.measure.findData(plan.measure))
            self.where.setText(plan.where)
        self.fill_fields()
        if plan is not None:
            self.of.setCurrentIndex(max(0, self.of.findData(plan.of)))

    def fill_fields(self) -> None:
        """The fields of the entries at the other end."""
        over = next((f for f in self.place.fields if f.key == self.over.currentData()), None) if self.place else None
        wants = Measure(self.measure.currentData()).wants_field
        self.of.setEnabled(wants)
        self.of.clear()
        if over is not None and wants:
            target = self.desk.overview.find_place(over.settings.target)
            for field in target.fields if target is not None else ():
                if field.is_stored:
                    self.of.addItem(field.label, field.key)

    def plan(self) -> SummaryPlan:
        """The plan as it stands."""
        of = str(self.of.currentData() or "")
        return SummaryPlan(
            str(self.over.currentData() or ""), Measure(self.measure.currentData()), of, self.where.text()
        )


class FieldCard(Card):
    """Shows and changes one field, or makes a new one.

    Signals:
        made: the key of a field that was made.
    """

    made = pyqtSignal(str)

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(desk, parent)
        self.asking = LastAsked(desk.bridge)
        self.field: Field | None = None
        self.default = QLineEdit()
        self.kind = QComboBox()
        self.about = label("", "reason", wraps=True)
        self.precision = QSpinBox()
        self.precision.setRange(ANY_PRECISION, 6)
        self.precision.setSpecialValueText("as many as it has")
        self.hidden = QCheckBox("Hidden from tables and panels until it is asked for")
        self.target = QComboBox()
        self.back = QLineEdit()
        self.description.setPlaceholderText("What belongs here; shown below the field")
        self.add_rows(
            ("Name", self.name), ("Kind", self.kind), ("", self.about), ("Description", self.description),
            ("New entries have", self.default), ("Decimals", self.precision), ("", self.hidden),
            ("Leads to", self.target), ("Its other end", self.back),
        )  # fmt: skip
        self.summary = SummaryForm(desk)
        self.column.addWidget(self.summary)
        self.options = OptionsEditor()
        self.options.applied.connect(self._on_options)
        self.column.addWidget(self.options)
        self.column.addWidget(self.make_preview())
        self.add = button("Add the field", self.make, is_main=True)
        self.column.addLayout(in_row(self.add))
        self.column.addStretch(1)
        self.connect_all()

    def make_preview(self) -> QWidget:
        self.preview = QWidget()
        self.preview_column = QVBoxLayout(self.preview)
        self.preview_column.setContentsMargins(12, 8, 12, 10)
        self.preview.setObjectName("known")
        self.preview_text = label("", "", wraps=True)
        self.preview_column.addWidget(self.preview_text)
        self.convert = button("Change the kind", self.change_kind, is_main=True)
        self.leave = button("Leave it", self.leave_kind)
        self.preview_column.addLayout(in_row(self.convert, self.leave))
        return self.preview

    def connect_all(self) -> None:
        """Each change of an old field is done at once."""
        self.kind.activated.connect(lambda _index: self._on_kind())
        self.target.activated.connect(lambda _index: self.look_at_reference() if self.is_to_refer else None)
        self.name.editingFinished.connect(lambda: self.change(label=self.name.text()))
        self.description.editingFinished.connect(lambda: self.settle(description=self.description.text().strip()))
        self.default.editingFinished.connect(lambda: self.settle(default=self.default.text().strip()))
        self.precision.editingFinished.connect(self._on_precision)
        self.hidden.clicked.connect(lambda is_on: self.settle(is_hidden=is_on))
        for combo in (self.summary.over, self.summary.measure, self.summary.of):
            combo.activated.connect(lambda _index: self._on_summary())
        self.summary.where.editingFinished.connect(self._on_summary)

    def show_field(self, place: PlaceInfo, field: Field | None) -> None:
        """Shows a field; None: a new one."""
        self.place, self.field = place, field
        is_new = field is None
        settings = field.settings if field else Settings()
        self.head.setText("New field" if field is None else field.label)
        self.name.setText("" if field is None else field.label)
        self.kind.clear()
        for kind in place.nature.field_kinds:
            if field is None or KINDS[kind] is field.kind or may_become(field, kind):
                self.kind.addItem(kind)
        self.kind.setCurrentText(field.kind.name if field else "text")
        self.description.setText(settings.description)
        self.default.setText(settings.default)
        self.precision.setValue(ANY_PRECISION if settings.precision is None else settings.precision)
        self.hidden.setChecked(settings.is_hidden)
        self.target.clear()
        for one in self.desk.overview.places:
            if one.nature.is_referred_to:
                self.target.addItem(one.name, one.key)
        self.target.setCurrentIndex(max(0, self.target.findData(settings.target)))
        self.target.setEnabled(is_new or not (field is not None and field.kind.is_linked))
        self.back.setPlaceholderText(place.name)
        self.summary.show_plan(place, settings.summary)
        self.options.set_options(field.options if field else ())
        self.options.apply.setHidden(is_new)  # they are made with it
        self.asking.forget()
        self.preview.hide()
        self.add.setVisible(is_new)
        self.show_parts()

    def show_parts(self) -> None:
        """Shows what belongs to the kind."""
        name, is_new = self.kind.currentText(), self.field is None
        kind = KINDS.get(name, KINDS["text"])
        is_same = is_new or (self.field is not None and kind is self.field.kind)
        is_made = self.field is None or self.field.is_writable
        self.about.setText(ABOUT.get(name, ""))
        self.form.setRowVisible(self.precision, kind.has_precision and is_same)
        self.form.setRowVisible(self.default, not kind.is_fixed and is_same and is_made)
        self.form.setRowVisible(self.target, kind.is_linked)
        self.form.setRowVisible(self.back, kind.is_linked and is_new)
        self.summary.setVisible(kind.is_summary)
        self.options.setVisible(kind.has_options and is_same)

    def _on_kind(self) -> None:
        self.show_parts()
        if self.is_to_refer:
            self.look_at_reference()
        elif (
            self.field is not None
            and self.place is not None
            and KINDS.get(self.kind.currentText()) is not self.field.kind
        ):
            place, key, kind = self.place.key, self.field.key, self.kind.currentText()
            self.asking.ask(
                lambda reader: reader.look_at_conversion(place, key, kind),
                self.show_conversion,
                self._on_refused,
            )
        else:
            self.asking.forget()
            self.preview.hide()

    @property
    def is_to_refer(self) -> bool:
        """Whether a field that is there is to become a reference."""
        return (
            self.field is not None
            and not self.field.kind.is_linked
            and KINDS[self.kind.currentText() or "text"].is_linked
        )

    def look_at_reference(self) -> None:
        """Asks what making the field a reference to the chosen collection would do."""
        target = self.target.currentData()
        if self.field is not None and self.place is not None and target:
            place, key = self.place.key, self.field.key
            self.asking.ask(
                lambda reader: reader.look_at_reference(place, key, target), self.show_reference, self._on_refused
            )

    def show_reference(self, seen: ReferenceConversion) -> None:
        """Says what making it a reference would do, before it is done."""
        if self.field is None or seen.field.key != self.field.key or not self.is_to_refer:
            return
        name = self.desk.overview.place(seen.target).name
        lines = [f"{seen.total} entries have a value. It becomes a reference to {name}, seen from both ends."]
        lines.append(f"{len(seen.found)} of these titles are there already; {len(seen.made)} entries would be made:")
        lines += [f"    {title}" for title in seen.made[:6]] + (["    …"] if len(seen.made) > 6 else [])
        self.preview_text.setText("\n".join(lines))
        self.preview.show()

    def show_conversion(self, seen: Conversion) -> None:
        """Says what a change of kind would do, before it is done."""
        if self.field is None or seen.field.key != self.field.key:
            return
        lines = [f"Of {seen.total} values, {seen.count_converted} become values of the kind {seen.kind}."]
        lines += [f"    {before}   →   {after}" for before, after in seen.converted[:4] if before != after]
        if seen.count_lost:
            lines.append(f"{seen.count_lost} do not; they are kept in a field “{seen.rest_label}” beside it:")
            lines += [f"    {text}" for text in seen.lost[:4]]
        self.preview_text.setText("\n".join(lines))
        self.preview.show()

    def _on_refused(self, error: MagpieError) -> None:
        self.desk.complain(error)
        self.leave_kind()

    def change_kind(self) -> None:
        """Changes the kind; undo brings it back."""
        if self.field is None or self.place is None:
            return
        command: Command[Any] = ChangeKind(self.place.key, self.field.key, self.kind.currentText())
        if self.is_to_refer:
            command = MakeReference(self.place.key, self.field.key, str(self.target.currentData()))
        self.preview.hide()
        self.desk.bridge.start_command(
            command, lambda _seen: self.desk.say("The kind is changed.", self.desk.undoing()), self._on_refused
        )

    def leave_kind(self) -> None:
        """Leaves the kind as it is."""
        if self.field is not None:
            self.kind.setCurrentText(self.field.kind.name)
        self.preview.hide()
        self.show_parts()

    def change(self, **changes: object) -> None:
        """Changes something of the field, if it is another than before."""
        if self.field is None or self.place is None or all(getattr(self.field, k) == v for k, v in changes.items()):
            return
        self.desk.bridge.do(ChangeField(self.place.key, self.field.key, changes), None, self._on_change_refused)

    def _on_change_refused(self, error: MagpieError) -> None:
        self.desk.complain(error)
        if self.place is not None:
            self.show_field(self.place, self.field)

    def settle(self, **changes: object) -> None:
        """Changes something of the field's settings."""
        if self.field is not None:
            self.change(settings=replace(self.field.settings, **changes))  # type: ignore[arg-type]

    def _on_precision(self) -> None:
        value = self.precision.value()
        self.settle(precision=None if value == ANY_PRECISION else value)

    def _on_summary(self) -> None:
        if self.field is not None and KINDS[self.kind.currentText()].is_summary:
            self.settle(summary=self.summary.plan())

    def _on_options(self, plan: list[tuple[str, Option | None]]) -> None:
        if self.field is not None and self.place is not None:
            self.desk.bridge.start_command(SetOptions(self.place.key, self.field.key, tuple(plan)))

    def make(self) -> None:
        """Makes the new field."""
        if self.place is None or self.field is not None:
            return
        name = self.kind.currentText()
        kind, precision = KINDS[name], self.precision.value()
        settings = Settings(
            description=self.description.text().strip(),
            is_hidden=self.hidden.isChecked(),
            default=self.default.text().strip() if not kind.is_fixed else "",
            precision=None if precision == ANY_PRECISION else precision,
            target=str(self.target.currentData() or "") if kind.is_linked else "",
            summary=self.summary.plan() if kind.is_summary else None,
        )
        options = tuple(new for _, new in self.options.plan() if new is not None) if kind.has_options else ()
        plan = FieldPlan("", self.name.text(), name, options, settings, self.back.text().strip())
        self.desk.bridge.do(AddField(self.place.key, plan), lambda field: self.made.emit(field.key), self._on_not_made)

    def _on_not_made(self, error: MagpieError) -> None:
        self.desk.complain(error)
        self.name.setFocus()
