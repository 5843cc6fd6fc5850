"""What is done with the table's cells and columns: blank, fill down, copy, paste, set for all, and the menu with all of it."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QMimeData, QPoint
from PyQt6.QtWidgets import QApplication, QDialog, QDialogButtonBox, QLabel, QMenu, QVBoxLayout

from wily_magpie.core.entries import written
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import Place
from wily_magpie.core.session.dropping import Dropped
from wily_magpie.qt.dropped import from_mime
from wily_magpie.qt.editors.field_editor import FieldEditor
from wily_magpie.qt.stations.sources import columns

if TYPE_CHECKING:
    from wily_magpie.qt.stations.sources.station import SourcesStation

MOST_COPIED = 20_000


class CellCommands:
    """The hands of the Sources station."""

    def __init__(self, station: "SourcesStation") -> None:
        self.station = station
        self.desk = station.desk
        table = station.table
        table.blank_asked.connect(self.blank)
        table.down_asked.connect(self.fill_down)
        table.copy_asked.connect(self.copy_cells)
        table.paste_asked.connect(self.paste)
        table.menu_asked.connect(self.show_menu)
        table.dropped.connect(self.take)
        station.panel.dropped.connect(self.take)
        header = table.horizontalHeader()
        if header is not None:
            header.sectionMoved.connect(self._on_moved)

    @property
    def place(self) -> Place | None:
        """The place that is shown."""
        return self.station.place

    def names_for(self, field: Field) -> list[str]:
        """What an editor of a field completes with: titles of the entries that can be referred to, else values in use."""
        kinds = ("choices", "people", "text", "reference")
        if self.place is None or field.key == "title" or field.kind.name not in kinds:
            return []
        options = [option.name for option in field.options]
        return sorted({*options, *self.place.values_in_use(field)}, key=str.casefold)

    # cells

    def set_cells(self, changes: list[tuple[int | None, dict[str, str]]], label: str) -> None:
        """Sets cells as one step and says what could not be read."""
        if self.place is None or not changes:
            return
        try:
            _, told = self.desk.session.set_texts(self.place.key, changes, label)
        except MagpieError as error:
            self.desk.complain(error)
            return
        if told:
            more = f" And {len(told) - 1} more." if len(told) > 1 else ""
            self.desk.say(f"{told[0]}{more}", (("Undo", self.station.places.undo),))

    def blank(self) -> None:
        """Blanks the selected cells; titles stay."""
        changes: dict[int | None, dict[str, str]] = {}
        for entry_id, key in self.station.table.chosen_cells():
            if key != "title" and self.is_writable(key):
                changes.setdefault(entry_id, {})[key] = ""
        count = sum(map(len, changes.values()))
        self.set_cells(list(changes.items()), f"Blank {count} cells" if count != 1 else "Blank a cell")

    def is_writable(self, key: str) -> bool:
        """Whether a column can be written."""
        return any(field.key == key and field.is_writable for field in self.station.table.table.columns)

    def fill_down(self) -> None:
        """Puts what stands in the first selected cell of each column into the cells below it."""
        table = self.station.table
        firsts: dict[str, str] = {}
        changes: dict[int | None, dict[str, str]] = {}
        rows: dict[int, Entry] = {entry.id: entry for entry in self.entries(table.chosen_ids())}
        fields = {field.key: field for field in table.table.columns}
        for entry_id, key in table.chosen_cells():
            if not self.is_writable(key):
                continue
            if key not in firsts:
                firsts[key] = fields[key].kind.show(rows[entry_id].value(key)) if entry_id in rows else ""
            else:
                changes.setdefault(entry_id, {})[key] = firsts[key]
        self.set_cells(list(changes.items()), f"Fill down {len(changes)} rows")

    def entries(self, ids: list[int]) -> list[Entry]:
        """The entries of some rows."""
        return self.place.rows(ids[:MOST_COPIED]) if self.place is not None else []

    def chosen_columns(self) -> list[Field]:
        """The columns with selected cells, in order."""
        keys = {key for _, key in self.station.table.chosen_cells()}
        return [field for field in self.station.table.table.columns if field.key in keys]

    def copy_cells(self) -> None:
        """BlobStore the selected cells for a spreadsheet."""
        fields = self.chosen_columns()
        entries = self.entries(self.station.table.chosen_ids())
        chosen = set(self.station.table.chosen_cells())
        rows = [[f.kind.show(e.value(f.key)) if (e.id, f.key) in chosen else "" for f in fields] for e in entries]
        self.to_clipboard(written.to_cells(rows))

    def copy_markdown(self) -> None:
        """BlobStore the selected rows as a Markdown table of the columns that are shown."""
        entries = self.entries(self.station.table.chosen_ids())
        self.to_clipboard(written.to_markdown(self.station.table.table.columns, entries))

    def copy_citations(self) -> None:
        """BlobStore a line a row that tells where it is from."""
        if self.place is not None:
            lines = [written.citation(self.place.fields, one) for one in self.entries(self.station.table.chosen_ids())]
            self.to_clipboard("\n".join(lines))

    @staticmethod
    def to_clipboard(text: str) -> None:
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            data = QMimeData()
            data.setText(text)
            clipboard.setMimeData(data)

    def paste(self) -> None:
        """Pastes cells from the current one on, to the right and down; rows that are missing become new entries."""
        clipboard = QApplication.clipboard()
        data = clipboard.mimeData() if clipboard is not None else None
        table = self.station.table
        if data is not None and (data.hasImage() or any(url.isLocalFile() for url in data.urls())):
            self.take(from_mime(data), table.table.id_at(table.currentIndex().row()))
            return
        rows = written.from_cells(data.text() if data is not None else "")
        current = table.currentIndex()
        if not rows or self.place is None:
            return
        at_row, at_column = (current.row(), current.column()) if current.isValid() else (0, 0)
        if len(rows) == 1 and len(rows[0]) == 1 and len(table.chosen_cells()) > 1:
            cells = [(entry_id, key) for entry_id, key in table.chosen_cells() if self.is_writable(key)]
            same: dict[int | None, dict[str, str]] = {}
            for entry_id, key in cells:
                same.setdefault(entry_id, {})[key] = rows[0][0]
            self.set_cells(list(same.items()), f"Paste into {len(cells)} cells")
            return
        fields = list(table.table.columns[at_column:])
        changes: list[tuple[int | None, dict[str, str]]] = []
        for cells_of_row in rows:
            while at_row < table.table.rowCount() and table.table.id_at(at_row) is None:
                at_row += 1  # headings of groups
            texts = {f.key: cell for f, cell in zip(fields, cells_of_row, strict=False) if f.is_writable}
            changes.append((table.table.id_at(at_row), texts))
            at_row += 1
        self.set_cells(changes, f"Paste {len(rows)} rows" if len(rows) != 1 else "Paste")

    def take(self, given: Dropped, entry_id: int | None) -> None:
        """Takes in what was dropped: onto an entry, or as entries of their own."""
        if self.place is None:
            return
        key = self.place.key

        def done(ids: list[int]) -> None:
            made = "It is an entry now." if len(ids) == 1 else f"{len(ids)} entries are made."
            what = "It is attached." if entry_id is not None else made
            self.desk.say(what, (("Undo", self.station.places.undo),))

        self.desk.bridge.start(
            "Taking in what was dropped",
            lambda _job: self.desk.session.dropping.take(key, given, entry_id),
            done,
            self.desk.complain,
        )

    def set_for_all(self, field: Field) -> None:
        """Asks for a value and sets it in all chosen entries."""
        ids = self.station.table.chosen_ids()
        if not ids or self.place is None:
            return
        dialog = QDialog(self.station)
        dialog.setWindowTitle(f"Set {field.label}")
        column = QVBoxLayout(dialog)
        column.addWidget(QLabel(f"{field.label} of {len(ids)} entries; left blank, it is blanked."))
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
        try:
            warning = self.desk.session.set_text(self.place.key, ids, field.key, text)
        except MagpieError as error:
            self.desk.complain(error)
            return
        told = warning or f"{field.label} of {len(ids)} entries is set."
        self.desk.say(told, (("Undo", self.station.places.undo),))

    # columns

    def change_columns(self, changed: columns.Columns) -> None:
        """Shows other columns, and remembers them."""
        columns.keep(self.desk.settings, self.station.columns_name(), changed)
        self.station.ask()

    def current_columns(self) -> columns.Columns:
        """What is remembered of the columns of this view."""
        return columns.load(self.desk.settings, self.station.columns_name())

    def _on_moved(self, _logical: int, old: int, new: int) -> None:
        """A heading was dragged: the table is shown anew in that order."""
        header = self.station.table.horizontalHeader()
        if header is None or old == new:
            return
        header.blockSignals(True)
        header.moveSection(new, old)
        header.blockSignals(False)
        keys = [field.key for field in self.station.table.table.columns]
        keys.insert(new, keys.pop(old))
        self.change_columns(self.current_columns().with_order(keys))

    def show_menu(self, at: QPoint) -> None:
        """The menu of the table."""
        self.menu().exec(at)

    def menu(self) -> QMenu:
        """What can be done with the chosen cells, rows and columns."""
        menu = QMenu(self.station)
        table, station = self.station.table, self.station
        ids = table.chosen_ids()
        many = f"{len(ids)} entries" if len(ids) > 1 else "this entry"

        if ids:
            add(menu, "Read", lambda: station.read(ids[0]), "Space")
            add(menu, "Open whole", lambda: station.middle.open_whole(ids[0]), "F4")
            if self.place is not None and self.desk.session.is_notes(self.place.key):
                add(menu, "Rename or move …", lambda: station.notes.ask_move(ids[0]))
            menu.addSeparator()
            inner = menu.addMenu(f"Set in {many}")
            for field in self.place.fields[1:] if self.place is not None and inner is not None else ():
                if field.is_writable and not field.kind.holds_files and inner is not None:
                    add(inner, f"{field.label} …", partial(self.set_for_all, field))
            add(menu, "Fill down", self.fill_down, "Ctrl+D", is_enabled=len(ids) > 1)
            add(menu, "Blank the cells", self.blank, "Del")
            menu.addSeparator()
            add(menu, "Copy the cells", self.copy_cells, "Ctrl+C")
            add(menu, "Copy as a Markdown table", self.copy_markdown)
            add(menu, "Copy as citation lines", self.copy_citations)
        add(menu, "Paste cells", self.paste, "Ctrl+V")
        if ids:
            menu.addSeparator()
            add(menu, f"Delete {many}", lambda: station.delete(ids), "Ctrl+Del")
        menu.addSeparator()
        self.add_columns(menu)
        return menu

    def add_columns(self, menu: QMenu) -> None:
        """The part of the menu that is about columns."""
        inner = menu.addMenu("Columns")
        if inner is None or self.place is None:
            return
        table, now = self.station.table, self.current_columns()
        index = table.currentIndex()
        field = table.table.columns[index.column()] if index.isValid() else None
        if field is not None:
            add(inner, f"Fit {field.label}", lambda: self.fit(index.column()))
            if field.key != "title":
                add(
                    inner, f"Hide {field.label}", lambda: self.change_columns(now.with_shown(field.key, is_shown=False))
                )
            pinned = index.column() + 1
            if now.pinned != pinned:
                add(inner, f"Pin up to {field.label}", lambda: self.change_columns(replace(now, pinned=pinned)))
        if now.pinned:
            add(inner, "Unpin", lambda: self.change_columns(replace(now, pinned=0)))
        inner.addSeparator()
        shown = {one.key for one in table.table.columns}
        for one in self.place.fields:
            if one.key not in shown:
                shown_too = now.with_shown(one.key, is_shown=True)
                add(inner, f"Show {one.label}", partial(self.change_columns, shown_too))

    def fit(self, column: int) -> None:
        """Makes a column as wide as its contents need, without the usual bound."""
        table = self.station.table
        table.resizeColumnToContents(column)
        self.station.keep_widths()


def add(menu: QMenu, text: str, act: Callable[[], object], keys: str = "", *, is_enabled: bool = True) -> None:
    """A line of a menu."""
    action = menu.addAction(f"{text}\t{keys}" if keys else text)
    if action is not None:
        action.triggered.connect(lambda _checked: act())
        action.setEnabled(is_enabled)
