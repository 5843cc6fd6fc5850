"""The fields of one entry with their editors; blank fields stay quiet until they are asked for."""

import time
from collections.abc import Mapping, Sequence
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from wily_magpie.core.commands.entries import SetText, SetValues
from wily_magpie.core.commands.files import AttachFiles
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field, find_field
from wily_magpie.core.entries.typed import typed
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.fields import Link
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.qt.editors.field_editor import FieldEditor, NamesFor
from wily_magpie.qt.editors.files_editor import FilesEditor
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.flow import FlowLayout, clear
from wily_magpie.qt.style.parts import WrappedLabel, in_row, label, plain_tip, tell_rest, timer

ALWAYS_SHOWN = ("title", "status", "tags")
MOST_DOORS = 12
SLICE_MS = 12
"""So long rows are made at a time; the others follow when the window has done what waited meanwhile."""


class EntryForm(QWidget):
    """Shows the fields of an entry and changes one as soon as its editor is left.

    Args:
        names_for: what a field's editor completes with.
    """

    def __init__(self, desk: StationContext, names_for: NamesFor, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.names_for = names_for
        self.place = ""
        self.entry: Entry | None = None
        self.fields: Sequence[Field] = ()
        self.editors: dict[str, FieldEditor] = {}
        self.files: dict[str, FilesEditor] = {}
        self.rows: dict[str, QWidget] = {}
        self.made_of: dict[str, Field] = {}
        """What each row shows, as it was when the row was made."""
        self.notes: dict[str, QLabel] = {}
        self.doors: dict[str, FlowLayout] = {}
        self.coming: list[Field] = []
        """Whose rows are still to be shown."""
        self.later = timer(self, self.make_rows)
        self.is_whole = False
        self.paths: Mapping[str, Path] = {}
        self.title_pattern = ""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        self.gap = WrappedLabel()
        self.gap.setObjectName("origin")
        self.fault = WrappedLabel()
        self.fault.setObjectName("problem")
        column.addWidget(self.fault)
        column.addWidget(self.gap)
        self.column = QVBoxLayout()
        self.column.setSpacing(2)
        column.addLayout(self.column)
        self.more = QPushButton()
        self.more.setObjectName("add")
        self.more.setAccessibleName("More fields")
        self.more.clicked.connect(self.toggle_blank)
        column.addLayout(in_row(self.more))

    def show_entry(self, whole: WholeEntry) -> None:
        """Shows an entry of a place."""
        place, fields, entry, self.paths = whole.place.key, whole.place.fields, whole.entry, whole.files
        self.title_pattern = whole.place.settings.title_pattern
        is_other = self.entry is None or entry.id != self.entry.id or place != self.place
        has_other_fields = place != self.place or list(self.made_of.values()) != with_rows(fields)
        if has_other_fields:
            self.take_fields(place, fields)
        self.entry = entry
        if is_other or has_other_fields:
            self.quieten()
        else:
            self.show_filled()
        for field in self.fields:
            editor = self.editors.get(field.key)
            if is_other or editor is None or not editor.is_unsettled:  # what is being typed is not taken away
                self.show_value(field, entry)
        gaps = entry.value("gaps")
        self.gap.setText(f"Still missing: {gaps}" if gaps else "")
        self.gap.setVisible(bool(gaps))
        self.fault.setText(f"{entry.fault} It is left as it is; mend it in a text editor." if entry.fault else "")
        self.fault.setVisible(bool(entry.fault))

    def show_value(self, field: Field, entry: Entry) -> None:
        """Puts one value in."""
        value = entry.value(field.key)
        if field.key in self.files:
            self.files[field.key].set_files(value if isinstance(value, tuple) else (), self.paths)
        elif field.key in self.editors:
            editor = self.editors[field.key]
            editor.set_text(field.kind.show(value) if field.is_writable else field.shown(value))
            editor.set_problem(False)
            doubt = field.kind.doubt(value)
            self.notes[field.key].setText(doubt or field.settings.description)
            self.notes[field.key].setObjectName("origin" if doubt else "reason")
            style = self.style()
            if style is not None:
                style.polish(self.notes[field.key])
            self.notes[field.key].setVisible(bool(doubt or field.settings.description))
        if field.key in self.doors:
            self.show_doors(field, value if isinstance(value, tuple) else ())

    def show_doors(self, field: Field, links: Sequence[str]) -> None:
        """A button for each entry that a reference leads to."""
        clear(self.doors[field.key])
        for link in links[:MOST_DOORS]:
            if isinstance(link, Link):
                door = QPushButton(str(link) if len(link) < 40 else f"{link[:39]}…")
                door.setObjectName("verb")
                door.setToolTip("Show this entry")
                door.clicked.connect(partial(self.open_door, field.settings.target, link.id))
                self.doors[field.key].addWidget(door)
        tell_rest(self.doors[field.key], len(links), MOST_DOORS)

    def open_door(self, place: str, entry_id: int) -> None:
        """Shows an entry that is referred to."""
        self.desk.show_entry(place, entry_id)

    def take_fields(self, place: str, fields: Sequence[Field]) -> None:
        """A row a field, empty until it is shown: most fields of most entries are blank, and editors take long to make.

        Rows of fields that stay as they are stay too: an option that a capture brought is no reason to make all anew.
        """
        left = {
            field.key for field in with_rows(fields) if self.made_of.get(field.key) == field or self.is_typed_in(field)
        }
        left = left & self.rows.keys() if place == self.place else set()
        self.place, self.fields = place, fields
        self.made_of = {one.key: self.made_of[one.key] if one.key in left else one for one in with_rows(fields)}
        for key in self.rows.keys() - left:
            row = self.rows.pop(key)
            self.column.removeWidget(row)
            row.deleteLater()
            for made in (self.editors, self.files, self.notes, self.doors):
                made.pop(key, None)
        for at, field in enumerate(with_rows(fields)):
            row = self.rows.get(field.key) or QWidget()
            if field.key not in self.rows:
                row.hide()
                self.rows[field.key] = row
            if self.column.indexOf(row) != at:
                self.column.insertWidget(at, row)

    def is_typed_in(self, field: Field) -> bool:
        """Whether something is being typed for a field: its row is made anew when that is done."""
        editor = self.editors.get(field.key)
        return editor is not None and editor.is_unsettled

    def make_rows(self, most_ms: float = SLICE_MS) -> None:
        """Shows rows that are to come; as many as can be made in some time."""
        until = time.monotonic() + most_ms / 1000
        while self.coming:
            self.show_row(self.coming.pop(0))
            if self.coming and time.monotonic() > until:
                self.later.start()
                return

    def show_row(self, field: Field) -> None:
        """Shows the row of a field: label, editor, and what is to be said of it."""
        row = self.rows[field.key]
        if row.layout() is None:
            column = QVBoxLayout(row)
            column.setContentsMargins(0, 5, 0, 0)
            column.setSpacing(1)
            name = label(field.label)
            name.setToolTip(plain_tip(f"{field.kind.name}, known as “{field.key}”"))
            column.addWidget(name)
            if field.kind.holds_files:
                column.addWidget(self.make_files(field))
            else:
                self.add_editor(field, column, name)
            if self.entry is not None:
                self.show_value(field, self.entry)
        row.show()

    def make_files(self, field: Field) -> FilesEditor:
        """The editor of a field of files."""
        bridge = self.desk.bridge
        files = self.files[field.key] = FilesEditor(lambda work, done: bridge.ask(lambda _reader: work(), done))
        files.added.connect(lambda paths: self.attach(field, paths))
        files.changed.connect(lambda left: self.set_files(field, left))
        files.opened.connect(self.open_file)
        files.setEnabled(not self.desk.overview.is_read_only)
        return files

    def add_editor(self, field: Field, column: QVBoxLayout, label: QLabel) -> None:
        """The editor of any other field, with what is to be said of it."""
        editor = self.editors[field.key] = FieldEditor(field, names=partial(self.names_for, field))
        editor.finished.connect(lambda: self._on_finished(field))
        editor.setEnabled(not self.desk.overview.is_read_only)
        label.setBuddy(editor)
        column.addWidget(editor)
        note = self.notes[field.key] = WrappedLabel()
        column.addWidget(note)
        if field.kind.is_linked:
            self.doors[field.key] = FlowLayout()
            column.addLayout(self.doors[field.key])

    def quieten(self) -> None:
        """Hides blank and hidden fields, unless they were asked for."""
        self.coming = []
        for field in self.fields:
            row = self.rows.get(field.key)
            if row is None or self.entry is None:
                continue
            if self.is_whole or not self.is_quiet(field):
                self.coming.append(field)
            else:
                row.hide()
        self.make_rows()
        self.say_quiet()

    def show_filled(self) -> None:
        """Shows fields that were blank and have a value now; none is taken away from somebody who has just emptied it."""
        hidden = [one for one in self.fields if one.key in self.rows and self.rows[one.key].isHidden()]
        filled = [one for one in hidden if not self.is_quiet(one) and one not in self.coming]
        if filled:
            self.coming += filled
            self.make_rows()
            self.say_quiet()

    def is_quiet(self, field: Field) -> bool:
        """Whether a field is shown only where that was asked for."""
        is_blank = self.entry is None or self.entry.value(field.key) is None
        return field.settings.is_hidden or (is_blank and field.key not in ALWAYS_SHOWN)

    def say_quiet(self) -> None:
        """Says how many such there are."""
        rows = [(one, self.rows[one.key]) for one in self.fields if one.key in self.rows]
        quiet = sum(self.is_quiet(field) and (self.is_whole or row.isHidden()) for field, row in rows)
        said = "1 more field" if quiet == 1 else f"{quiet} more fields"
        self.more.setText(f"Hide {said}" if self.is_whole else f"+ {said}")
        self.more.setVisible(quiet > 0)

    def toggle_blank(self) -> None:
        """Shows or hides blank and hidden fields."""
        self.is_whole = not self.is_whole
        self.quieten()

    def show_field(self, key: str) -> None:
        """Puts the cursor into a field, however quiet it is."""
        if key in self.rows:
            self.show_row(find_field(self.fields, key))
            (self.editors.get(key) or self.files[key]).setFocus()

    def attach(self, field: Field, paths: list[Path]) -> None:
        """Keeps files with the entry."""
        if self.entry is not None and paths:
            self.desk.bridge.start_command(AttachFiles(self.place, self.entry.id, field.key, tuple(paths)))

    def set_files(self, field: Field, left: tuple[str, ...]) -> None:
        """Takes files out of the entry; they stay in the library for as long as undo may want them."""
        if self.entry is not None:
            changes = {self.entry.id: {field.key: left or None}}
            self.desk.bridge.do(SetValues(self.place, changes, "Change files"))

    def open_file(self, path: str, name: str) -> None:
        """Opens a file with the system's program, under its own name."""

        def open_it(shown: Path) -> None:
            if not QDesktopServices.openUrl(QUrl.fromLocalFile(str(shown))):
                self.desk.say(f"No program could be started for {name}. It lies at {path}.", ())

        self.desk.bridge.ask(lambda reader: reader.entries.named_file(Path(path), name), open_it)

    def _on_finished(self, field: Field) -> None:
        if self.entry is None or not field.is_writable:
            return
        editor, place, entry_id = self.editors[field.key], self.place, self.entry.id
        text = editor.text()

        def failed(error: MagpieError) -> None:
            if self.entry is not None and self.entry.id == entry_id:
                editor.set_problem(True)
            self.desk.complain(error)

        try:
            typed(field, text, self.title_pattern)
        except MagpieError as error:
            failed(error)
            return
        editor.set_problem(False)
        command = SetText(place, (entry_id,), field.key, text)
        self.desk.bridge.do(command, lambda warning: self.desk.say(warning, ()) if warning else None, failed)


def with_rows(fields: Sequence[Field]) -> list[Field]:
    """Those that have a row here; what a place's rules say has none."""
    return [field for field in fields if not field.kind.is_of_rules]
