"""The fields of one entry with their editors; blank fields stay quiet until they are asked for."""

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.fields import Link
from wily_magpie.qt.editors.field_editor import FieldEditor
from wily_magpie.qt.editors.files_editor import FilesEditor
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.flow import FlowLayout, clear

ALWAYS_SHOWN = ("title", "status", "tags")
MOST_DOORS = 12


class EntryForm(QWidget):
    """Shows the fields of an entry and changes one as soon as its editor is left.

    Args:
        names_for: what a field's editor completes with.
    """

    def __init__(
        self, desk: StationContext, names_for: Callable[[Field], list[str]], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.desk = desk
        self.names_for = names_for
        self.place = ""
        self.entry: Entry | None = None
        self.fields: Sequence[Field] = ()
        self.editors: dict[str, FieldEditor] = {}
        self.files: dict[str, FilesEditor] = {}
        self.rows: dict[str, QWidget] = {}
        self.notes: dict[str, QLabel] = {}
        self.doors: dict[str, FlowLayout] = {}
        self.is_whole = False
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        self.gap = QLabel()
        self.gap.setObjectName("origin")
        self.gap.setWordWrap(True)
        self.fault = QLabel()
        self.fault.setObjectName("problem")
        self.fault.setWordWrap(True)
        column.addWidget(self.fault)
        column.addWidget(self.gap)
        self.column = QVBoxLayout()
        self.column.setSpacing(2)
        column.addLayout(self.column)
        self.more = QPushButton()
        self.more.setObjectName("add")
        self.more.setAccessibleName("More fields")
        self.more.clicked.connect(self.toggle_blank)
        line = QHBoxLayout()
        line.addWidget(self.more)
        line.addStretch(1)
        column.addLayout(line)

    def show_entry(self, place: str, fields: Sequence[Field], entry: Entry) -> None:
        """Shows an entry of a place."""
        is_other = self.entry is None or entry.id != self.entry.id or place != self.place
        if place != self.place or tuple(fields) != tuple(self.fields):
            self.place, self.fields = place, fields
            self.make_rows()
            is_other = True
        self.entry = entry
        for field in self.fields:
            editor = self.editors.get(field.key)
            if is_other or editor is None or not editor.is_unsettled:  # what is being typed is not taken away
                self.show_value(field, entry)
        gaps = entry.value("gaps")
        self.gap.setText(f"Still missing: {gaps}" if gaps else "")
        self.gap.setVisible(bool(gaps))
        self.fault.setText(f"{entry.fault} It is left as it is; mend it in a text editor." if entry.fault else "")
        self.fault.setVisible(bool(entry.fault))
        if is_other:
            self.quieten()

    def show_value(self, field: Field, entry: Entry) -> None:
        """Puts one value in."""
        value = entry.value(field.key)
        if field.key in self.files:
            self.files[field.key].set_files(value if isinstance(value, tuple) else ())
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
            clear(self.doors[field.key])
            for link in value[:MOST_DOORS] if isinstance(value, tuple) else ():
                if isinstance(link, Link):
                    door = QPushButton(str(link) if len(link) < 40 else f"{link[:39]}…")
                    door.setObjectName("verb")
                    door.setToolTip("Show this entry")
                    target, number = field.settings.target, link.id
                    door.clicked.connect(lambda _checked, t=target, n=number: self.desk.show_entry(t, n))
                    self.doors[field.key].addWidget(door)

    def make_rows(self) -> None:
        """A row a field: label, editor, and what is to be said of it."""
        clear(self.column)
        self.editors, self.files, self.rows, self.notes, self.doors = {}, {}, {}, {}, {}
        for field in self.fields:
            if field.kind.is_of_rules:
                continue
            row = QWidget()
            column = QVBoxLayout(row)
            column.setContentsMargins(0, 5, 0, 0)
            column.setSpacing(1)
            label = QLabel(field.label)
            label.setObjectName("slate")
            label.setToolTip(f"{field.kind.name}, known as “{field.key}”")
            column.addWidget(label)
            if field.kind.holds_files:
                files = self.files[field.key] = FilesEditor(self.desk.session.library.blobs.file_path)
                files.added.connect(lambda paths, field=field: self.attach(field, paths))
                files.changed.connect(lambda left, field=field: self.set_files(field, left))
                files.opened.connect(self.open_file)
                column.addWidget(files)
            else:
                editor = self.editors[field.key] = FieldEditor(field, names=partial(self.names_for, field))
                editor.finished.connect(lambda field=field: self._on_finished(field))
                label.setBuddy(editor)
                column.addWidget(editor)
                note = self.notes[field.key] = QLabel()
                note.setWordWrap(True)
                column.addWidget(note)
                if field.kind.is_linked:
                    self.doors[field.key] = FlowLayout()
                    column.addLayout(self.doors[field.key])
            self.column.addWidget(row)
            self.rows[field.key] = row

    def quieten(self) -> None:
        """Hides blank and hidden fields, unless they were asked for."""
        quiet = 0
        for field in self.fields:
            row = self.rows.get(field.key)
            if row is None or self.entry is None:
                continue
            is_quiet = field.settings.is_hidden or (
                self.entry.value(field.key) is None and field.key not in ALWAYS_SHOWN
            )
            quiet += is_quiet
            row.setVisible(self.is_whole or not is_quiet)
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
            self.rows[key].show()
            (self.editors.get(key) or self.files[key]).setFocus()

    def attach(self, field: Field, paths: list[Path]) -> None:
        """Keeps files with the entry."""
        if self.entry is None or not paths:
            return
        entry_id, place = self.entry.id, self.place
        self.desk.bridge.start(
            f"Attaching {paths[0].name}" if len(paths) == 1 else f"Attaching {len(paths)} files",
            lambda _job: self.desk.session.dropping.attach(place, entry_id, field.key, paths),
            None,
            self.desk.complain,
        )

    def set_files(self, field: Field, left: tuple[str, ...]) -> None:
        """Takes files out of the entry; they stay in the library for as long as undo may want them."""
        if self.entry is not None:
            try:
                self.desk.session.set_values(self.place, {self.entry.id: {field.key: left or None}}, "Change files")
            except MagpieError as error:
                self.desk.complain(error)

    def open_file(self, path: str, name: str) -> None:
        """Opens a file with the system's program, under its own name."""
        folder = Path(self.desk.session.library.folder) / "index" / "opened" / Path(path).name[:16]
        folder.mkdir(parents=True, exist_ok=True)
        shown = folder / name
        shown.unlink(missing_ok=True)  # the library may have been moved since
        shown.symlink_to(path)
        if not QDesktopServices.openUrl(QUrl.fromLocalFile(str(shown))):
            self.desk.say(f"No program could be started for {name}. It lies at {path}.", ())

    def _on_finished(self, field: Field) -> None:
        if self.entry is None or not field.is_writable:
            return
        editor = self.editors[field.key]
        try:
            warning = self.desk.session.set_text(self.place, [self.entry.id], field.key, editor.text())
            if warning:
                self.desk.say(warning, ())
        except MagpieError as error:
            editor.set_problem(True)
            self.desk.complain(error)
