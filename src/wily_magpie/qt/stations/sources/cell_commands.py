"""What is done with the table's cells and rows: blank, fill down, copy, paste, set for all, and the menu with all of it."""

from collections.abc import Callable, Collection, Sequence
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QMimeData, QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QApplication, QDialog, QDialogButtonBox, QFileDialog, QMenu, QVBoxLayout, QWidget

from wily_magpie.core import commands
from wily_magpie.core.entries.dropped import Dropped
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.qt.dropped import from_mime
from wily_magpie.qt.editors.field_editor import FieldEditor
from wily_magpie.qt.models.entry_window import Selection
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.choosing import ChosenCells
from wily_magpie.qt.stations.sources.column_commands import ColumnCommands
from wily_magpie.qt.stations.sources.model import SourcesState
from wily_magpie.qt.stations.sources.table import EntryTableView
from wily_magpie.qt.style.parts import PlainLabel

MOST_COPIED = 20_000
UNWRITABLE = (
    "None of the chosen cells can be changed so: titles are not blanked, and what is worked out is not written."
)
SCATTERED = "{count:,} rows were chosen; they lie too far apart now to stay it."
Changes = list[tuple[int | None, dict[str, str]]]


class CellCommands(QObject):
    """Over one table.

    Args:
        state: gives what is shown now.

    Signals:
        read_asked, whole_asked, move_asked: the id of an entry that is to be read, opened whole, moved.
        delete_asked: ids.
    """

    read_asked = pyqtSignal(int)
    whole_asked = pyqtSignal(int)
    move_asked = pyqtSignal(int)
    delete_asked = pyqtSignal(list)

    def __init__(
        self, desk: StationContext, parent: QWidget, state: Callable[[], SourcesState], selection: Selection
    ) -> None:
        super().__init__(parent)
        self.desk, self.parent_widget, self.state, self.selection = desk, parent, state, selection

    def attach(self, table: EntryTableView, columns: ColumnCommands) -> None:
        """Takes a table on: its keys, its menu, what is dropped on it."""
        self.table, self.columns = table, columns
        commands = self.desk.commands

        def may_change() -> bool:
            return not self.desk.overview.is_read_only

        def one(act: Callable[[int], object]) -> Callable[[], object]:
            return lambda: act(self.selection.current) if self.selection.current is not None else None

        commands.bind("read-entry", one(self.read_asked.emit))
        commands.bind("fill-down", self.fill_down, lambda: may_change() and len(table.chosen_ids()) > 1)
        commands.bind("blank", self.blank, may_change)
        commands.bind("copy-cells", self.copy_cells)
        commands.bind("copy-markdown", lambda: self.copy_as("markdown"))
        commands.bind("copy-citations", lambda: self.copy_as("citations"))
        commands.bind("save-marks", self.ask_marks_file, lambda: self.place is not None)
        commands.bind("paste-cells", self.paste, may_change)
        commands.bind("delete-entries", lambda: self.delete_asked.emit(table.chosen_ids()), may_change)
        for name in ("read-entry", "fill-down", "blank", "copy-cells", "paste-cells", "delete-entries"):
            table.addAction(commands.action(name, table, Qt.ShortcutContext.WidgetShortcut))
        table.dropped.connect(self.take)
        table.scattered.connect(lambda count: self.desk.say(SCATTERED.format(count=count), ()))

    @property
    def place(self) -> PlaceInfo | None:
        """The place that is shown."""
        return self.state().place

    def names_for(self, field: Field, take: Callable[[list[str]], None]) -> None:
        """Asks what an editor of a field completes with: titles of entries that can be referred to, else values in use."""
        if self.place is not None:
            self.desk.ask_names(self.place.key, field, take)

    # cells

    def set_cells(self, changes: Changes, label: str) -> None:
        """Sets cells as one step and says what could not be read."""
        if not changes:
            self.desk.say(UNWRITABLE, ())
        elif self.place is not None:
            self.desk.bridge.do(commands.entries.SetTexts(self.place.key, tuple(changes), label), self._on_set)

    def _on_set(self, ended: tuple[list[int], list[str]]) -> None:
        _, told = ended
        if told:
            more = f" And {len(told) - 1} more." if len(told) > 1 else ""
            self.desk.say(f"{told[0]}{more}", self.desk.undoing())

    def blank(self) -> None:
        """Blanks the selected cells; titles stay."""
        changes = self.same_in_all("", but=("title",))
        count = sum(len(texts) for _, texts in changes)
        self.set_cells(changes, f"Blank {count} cells" if count != 1 else "Blank a cell")

    def same_in_all(self, text: str, but: Sequence[str] = ()) -> Changes:
        """One text in all selected cells that can be written, but those of some fields."""
        written = {field.key for field in self.table.table.columns if field.is_writable and field.key not in but}
        cells = self.table.chosen_cells().items()
        return [(one, texts) for one, keys in cells if (texts := dict.fromkeys(written.intersection(keys), text))]

    def copy_entries(self, write: Callable[[list[Entry]], str]) -> None:
        """Copies the chosen entries, written off the thread; where there are more than is copied, that is said."""
        ids = self.table.chosen_ids()
        if len(ids) > MOST_COPIED:
            said = (
                f"Only the first {MOST_COPIED:,} of {len(ids):,} rows are copied. A condition asks for fewer at a time."
            )
            self.desk.say(said, ())
        if self.place is not None:
            key, copied = self.place.key, ids[:MOST_COPIED]
            self.desk.copying.ask(lambda reader: write(reader.entries.rows(key, copied)), to_clipboard)

    def fill_down(self) -> None:
        """Puts what stands in the first selected cell of each column into the cells below it."""
        cells = self.table.chosen_cells()
        fields = {field.key: field for field in self.table.table.columns if field.is_writable}
        tops = tops_of(cells, fields)

        def fill(entries: list[Entry]) -> None:
            rows = {entry.id: entry for entry in entries}
            texts = {key: fields[key].kind.show(rows[one].value(key)) for key, one in tops.items() if one in rows}
            below = {
                one: {key: texts[key] for key in keys if key in texts and tops[key] != one}
                for one, keys in cells.items()
            }
            changes: Changes = [(one, filled) for one, filled in below.items() if filled]
            self.set_cells(changes, f"Fill down {len(changes)} rows")

        if self.place is not None:
            key, ids = self.place.key, tuple(dict.fromkeys(tops.values()))
            self.desk.bridge.ask(lambda reader: reader.entries.rows(key, ids), fill)

    def copy_cells(self) -> None:
        """Copies the selected cells for a spreadsheet."""
        from wily_magpie.core.exchange.as_text import to_cells  # as what follows: not needed for a first picture

        chosen = self.table.chosen_cells()
        keys = {key for some in set(chosen.values()) for key in some}
        fields = [field for field in self.table.table.columns if field.key in keys]

        def write(entries: list[Entry]) -> str:
            rows = [[f.kind.show(e.value(f.key)) if f.key in chosen[e.id] else "" for f in fields] for e in entries]
            return to_cells(rows)

        self.copy_entries(write)

    def copy_as(self, exporter: str) -> None:
        """Copies the selected rows as the text that an exporter writes: of the columns shown, or of all fields."""
        from wily_magpie.core.exchange.exporters import EXPORTERS

        place, columns = self.place, self.table.table.columns
        if place is not None:
            fields = columns if exporter == "markdown" else place.fields
            write = EXPORTERS[exporter].write
            self.copy_entries(lambda entries: "".join(write(fields, entries)).rstrip("\n"))

    def ask_marks_file(self) -> None:
        """Asks for a file for the marks of the selected entries; of all that are shown where only one is selected."""
        from wily_magpie.core.exchange.marks import FORMATS  # seldom needed

        forms = {f"{label} ({pattern})": form for form, (label, pattern, _) in FORMATS.items()}
        given, chosen = QFileDialog.getSaveFileName(self.table, "Save the marks as", "", ";;".join(forms))
        if given:
            self.save_marks(Path(given), forms.get(chosen, "markdown"))

    def save_marks(self, path: Path, form: str) -> None:
        """Writes them, off the thread."""
        place, chosen = self.place, self.table.chosen_ids()
        ids = chosen if len(chosen) > 1 else list(self.table.table.listing.ids)
        if place is not None:
            from wily_magpie.core.exchange.marks import write_file  # as above

            self.desk.bridge.ask(
                lambda reader: write_file(reader, place, ids, form, path),
                lambda count: self.desk.say(f"{count} marks of {len(ids)} entries are saved as {path.name}.", ()),
            )

    def paste(self) -> None:
        """Pastes cells from the current one on, to the right and down; rows that are missing become new entries."""
        from wily_magpie.core.exchange.as_text import from_cells

        clipboard = QApplication.clipboard()
        data = clipboard.mimeData() if clipboard is not None else None
        table = self.table
        if data is not None and (data.hasImage() or any(url.isLocalFile() for url in data.urls())):
            self.take(from_mime(data), table.table.id_at(table.currentIndex().row()))
            return
        chosen = table.chosen_cells()
        if not chosen:  # nothing is written over that nobody has chosen
            self.desk.commands.bound["take-clipboard"].run()
            return
        rows = from_cells(data.text() if data is not None else "")
        if not rows or self.place is None:
            return
        if len(rows) == 1 and len(rows[0]) == 1 and sum(map(len, chosen.values())) > 1:
            self.paste_one(rows[0][0])
        else:
            self.set_cells(self.pasted(rows), f"Paste {len(rows)} rows" if len(rows) != 1 else "Paste")

    def paste_one(self, text: str) -> None:
        """Pastes one text into all selected cells."""
        same = self.same_in_all(text)
        self.set_cells(same, f"Paste into {sum(len(texts) for _, texts in same)} cells")

    def pasted(self, rows: list[list[str]]) -> Changes:
        """What rows of cells change, from the current cell on."""
        table = self.table
        current = table.currentIndex()
        at_row, at_column = (current.row(), current.column()) if current.isValid() else (0, 0)
        fields = list(table.table.columns[at_column:])
        changes: Changes = []
        for cells in rows:
            while at_row < table.table.rowCount() and table.table.id_at(at_row) is None:
                at_row += 1  # headings of groups
            texts = {f.key: cell for f, cell in zip(fields, cells, strict=False) if f.is_writable}
            changes.append((table.table.id_at(at_row), texts))
            at_row += 1
        return changes

    def take(self, given: Dropped, entry_id: int | None) -> None:
        """Takes in what was dropped: onto an entry, or as entries of their own."""
        if self.place is None or self.desk.overview.is_read_only:
            return
        key = self.place.key
        if not given.files:
            self.take_in(key, given, entry_id)
            return

        def parted(both: tuple[Dropped, Sequence[Path]]) -> None:
            """Goes on once it is known what is kept as it is, and what is read for what is in it."""
            as_it_is, read = both
            if read:
                self.desk.take_given(read, key)
            if as_it_is.files or as_it_is.addresses:
                self.take_in(key, as_it_is, entry_id)

        def sort_out(_reader: object) -> tuple[Dropped, Sequence[Path]]:
            from wily_magpie.core.exchange.given_files import sorted_out  # seldom needed

            return sorted_out(given, is_onto_entry=entry_id is not None)

        self.desk.bridge.ask(sort_out, parted)

    def take_in(self, place: str, given: Dropped, entry_id: int | None) -> None:
        """Keeps what was dropped as it is: onto an entry, or as entries of its own."""

        def done(ids: list[int]) -> None:
            made = "It is an entry now." if len(ids) == 1 else f"{len(ids)} entries are made."
            self.desk.say("It is attached." if entry_id is not None else made, self.desk.undoing())

        self.desk.bridge.start_command(commands.files.TakeDropped(place, given, entry_id), done)

    def set_for_all(self, field: Field) -> None:
        """Asks for a value and sets it in all chosen entries."""
        ids = self.table.chosen_ids()
        if not ids or self.place is None:
            return
        dialog = QDialog(self.parent_widget)
        dialog.setWindowTitle(f"Set {field.label}")
        column = QVBoxLayout(dialog)
        column.addWidget(PlainLabel(f"{field.label} of {len(ids)} entries; left blank, it is blanked."))
        editor = FieldEditor(field, dialog, names=partial(self.names_for, field))
        column.addWidget(editor)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        apply = buttons.addButton("Set", QDialogButtonBox.ButtonRole.AcceptRole)
        if apply is not None:
            apply.setObjectName("main")
        buttons.accepted.connect(dialog.accept)
        buttons.rejected.connect(dialog.reject)
        column.addWidget(buttons)
        editor.setFocus()
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self.set_all(ids, field, editor.text())

    def set_all(self, ids: list[int], field: Field, text: str) -> None:
        """Sets a field of some entries to a text, as one step."""
        if self.place is None:
            return

        def done(warning: str) -> None:
            self.desk.say(warning or f"{field.label} of {len(ids)} entries is set.", self.desk.undoing())

        self.desk.bridge.do(commands.entries.SetText(self.place.key, tuple(ids), field.key, text), done)

    # the menu

    def menu(self) -> QMenu:
        """What can be done with the chosen cells, rows and columns."""
        menu = QMenu(self.parent_widget)
        commands, ids = self.desk.commands, self.table.chosen_ids()
        if ids:
            self.add_rows(menu, ids)
            commands.add_to(menu, "copy-cells")
            commands.add_to(menu, "copy-markdown")
            commands.add_to(menu, "copy-citations")
            commands.add_to(menu, "save-marks")
        commands.add_to(menu, "paste-cells")
        if ids:
            menu.addSeparator()
            many = f"{len(ids)} entries" if len(ids) > 1 else "this entry"
            commands.add_to(menu, "delete-entries", f"Delete {many}")
        if not self.desk.overview.is_read_only:
            menu.addSeparator()
            self.columns.add_menu(menu)
        return menu

    def add_rows(self, menu: QMenu, ids: list[int]) -> None:
        """What can be done with the chosen rows."""
        commands, place = self.desk.commands, self.place
        is_read_only = self.desk.overview.is_read_only
        commands.add_to(menu, "read-entry")
        commands.add_to(menu, "open-whole", "Open whole", partial(self.whole_asked.emit, ids[0]))
        if place is not None and place.nature.is_in_files and not is_read_only:
            commands.add_to(menu, "move-note", "Rename or move …", partial(self.move_asked.emit, ids[0]))
        menu.addSeparator()
        many = f"{len(ids)} entries" if len(ids) > 1 else "this entry"
        inner = menu.addMenu(f"Set in {many}") if not is_read_only else None
        for field in place.fields[1:] if place is not None and inner is not None else ():
            if field.is_writable and not field.kind.holds_files and inner is not None:
                commands.add_to(inner, "set-field", f"{field.label} …", partial(self.set_for_all, field))
        commands.add_to(menu, "fill-down")
        commands.add_to(menu, "blank")
        menu.addSeparator()


def tops_of(cells: ChosenCells, keys: Collection[str]) -> dict[str, int]:
    """By the key of each column in which cells are chosen, the entry of the first of them."""
    tops: dict[str, int] = {}
    for one, some in cells.items():
        if len(tops) == len(keys):
            break
        tops |= {key: one for key in some if key in keys and key not in tops}
    return tops


def to_clipboard(text: str) -> None:
    """Puts a text into the clipboard."""
    clipboard = QApplication.clipboard()
    if clipboard is not None:
        data = QMimeData()
        data.setText(text)
        clipboard.setMimeData(data)
