"""The Sources station."""

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import Listing, Place
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question, SortKey
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources import columns
from wily_magpie.qt.stations.sources.cell_commands import CellCommands
from wily_magpie.qt.stations.sources.entry_panel import EntryPanel
from wily_magpie.qt.stations.sources.note_commands import NoteCommands
from wily_magpie.qt.stations.sources.page_stack import PageStack
from wily_magpie.qt.stations.sources.places_list import GAPS_ID, PlacesList, all_views
from wily_magpie.qt.stations.sources.question_page import QuestionPage
from wily_magpie.qt.stations.sources.search import SearchResults
from wily_magpie.qt.stations.sources.view_commands import ViewCommands
from wily_magpie.qt.style.parts import icon_button, text_button


class SourcesStation(QWidget):
    """Places, a question over one of them with its table, and the chosen entry."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.place: Place | None = None
        self.view: View | None = None
        self.question = Question()
        self.number = 0
        self.wanted: int | None = None
        self.is_folded = False
        self.waiting: tuple[Listing, int] | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        self.splitter.setHandleWidth(1)
        self.splitter.addWidget(self.make_left())
        self.splitter.addWidget(self.make_middle())
        self.panel = EntryPanel(desk, lambda field: self.cells.names_for(field))
        self.splitter.addWidget(self.panel)
        self.splitter.setStretchFactor(1, 1)
        self.splitter.setSizes([200, 760, 320])
        layout.addWidget(self.splitter, 1)
        self.places.place_chosen.connect(lambda key: self.open_place(key))
        self.places.view_chosen.connect(self.open_view)
        self.sentence.changed.connect(self._on_question)
        self.table.chosen.connect(self._on_chosen)
        self.table.opened.connect(self.read)
        self.table.delete_asked.connect(self.delete)
        self.panel.read_asked.connect(self.read)
        self.panel.whole_asked.connect(self.middle.open_whole)
        self.results.opened.connect(self.show_entry)
        self.table.rested.connect(self._on_rested)
        self.cells = CellCommands(self)
        self.views = ViewCommands(self)
        self.notes = NoteCommands(self)
        header = self.table.horizontalHeader()
        if header is not None:
            header.sectionClicked.connect(self._on_header)
            header.sectionResized.connect(lambda *_: self.keep_widths())
        desk.bridge.entries_changed.connect(self._on_entries_changed)
        desk.bridge.places_changed.connect(self._on_places_changed)
        first = self.places_keys()
        if first:
            self.open_place(first[0])

    def make_left(self) -> QWidget:
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.places = PlacesList(self.desk)
        column.addWidget(self.places, 1)
        row = QHBoxLayout()
        row.setContentsMargins(8, 6, 8, 8)
        row.setSpacing(2)
        row.addWidget(text_button("New place", "plus", lambda: self.middle.open_new_place()))
        row.addStretch(1)
        row.addWidget(icon_button("sliders-horizontal", "Set up this place (F7)", lambda: self.middle.open_setup()))
        row.addWidget(icon_button("trash", "Trash", lambda: self.middle.open_trash()))
        column.addLayout(row)
        return left

    def make_middle(self) -> QWidget:
        self.page = QuestionPage(self._set_text, self.desk.complain, lambda field: self.cells.names_for(field))
        self.sentence, self.table = self.page.sentence, self.page.table
        self.page.keep_view.clicked.connect(lambda: self.views.ask_name())
        self.page.keep_changes.clicked.connect(lambda: self.views.keep_changes())
        self.page.add_entry.clicked.connect(lambda: self.new_entry())
        self.results = SearchResults(self.desk)
        self.middle = PageStack(self, self.page, self.results)
        return self.middle

    def places_keys(self) -> list[str]:
        """The keys of all places."""
        return [place.key for place in self.desk.session.places()]

    # what is shown

    def open_place(self, key: str, question: Question | None = None) -> None:
        """Shows all of a place, newest first, or a question over it."""
        self.place = self.desk.session.place(key)
        self.view = None
        self.question = question or self.usual_question(self.place)
        self.places.choose(key)
        self.middle.show_page(self.page)
        if self.desk.session.is_notes(key):
            self.desk.bridge.ask(lambda: self.desk.session.refresh_notes(key), lambda _count: None, self.desk.complain)
        self.ask()

    def open_view(self, view: View) -> None:
        """Shows a view."""
        self.place = self.desk.session.place(view.place)
        self.view = view
        self.middle.show_page(self.page)
        try:
            self.question = cql.parse(view.question, self.place.fields)
        except MagpieError as error:
            self.question = Question()
            self.desk.complain(error)
        self.ask()

    def show_entry(self, key: str, entry_id: int) -> None:
        """Shows an entry in its place; in the question at hand, where it is part of its answer."""
        self.middle.show_page(self.page)
        self.wanted = entry_id
        if self.place is None or self.place.key != key or self.table.table.row_of(entry_id) is None:
            self.open_place(key)
        else:
            self.ask()

    def show_question(self, key: str, text: str) -> None:
        """Shows a written question over a place."""
        self.open_place(key, cql.parse(text, self.desk.session.place(key).fields))

    def search(self, words: str) -> None:
        """Looks for words in everything kept."""
        self.middle.show_page(self.results)
        self.results.search(words)

    @staticmethod
    def usual_question(place: Place) -> Question:
        """A place without a question: newest captured first, else by title."""
        keys = {field.key: field for field in place.fields}
        if "number" in keys:
            return Question(None, (SortKey(keys["number"]),))
        return Question(None, (SortKey(keys["captured"], True),) if "captured" in keys else (SortKey(keys["title"]),))

    def columns_name(self) -> str:
        """The name under which the columns of what is shown are remembered."""
        return f"{self.place.key if self.place else ''}/{self.view.id if self.view else 0}"

    def columns(self) -> list[Field]:
        """The fields that the table shows."""
        if self.place is None:
            return []
        group = self.question.group
        chosen = columns.load(self.desk.settings, self.columns_name()).of(self.place.fields)
        return [field for field in chosen if not (group and field.key == group.key)]

    def ask(self) -> None:
        """Asks the question off the main thread and shows the answer."""
        if self.place is None:
            return
        self.number += 1
        number, place, question = self.number, self.place, self.question
        self.sentence.show_question(place, question)
        is_changed = self.view is not None and self.view.id != GAPS_ID and cql.write(question) != self.view.question
        self.page.keep_changes.setVisible(is_changed)
        self.page.keep_view.setVisible(self.view is None or is_changed)
        self.desk.bridge.ask(
            lambda: place.listing(question), lambda listing: self._on_listing(listing, number), self.desk.complain
        )

    def _on_listing(self, listing: Listing, number: int) -> None:
        if number != self.number or self.place is None:
            return
        if self.table.is_editing():  # what is being typed must not be taken away
            self.waiting = (listing, number)
            return
        chosen = self.wanted if self.wanted is not None else self.panel.entry.id if self.panel.entry else None
        if self.panel.place and self.panel.place != self.place.key and self.wanted is None:
            chosen = None
        before = self.table.table.row_of(chosen) if chosen is not None else None
        kept = columns.load(self.desk.settings, self.columns_name())
        header = self.table.horizontalHeader()
        if header is not None:
            header.blockSignals(True)
            self.table.show_listing(self.place, self.columns(), listing, kept.pinned)
            self.table.set_widths(kept.widths)
            header.blockSignals(False)
        self.page.count.setText(f"{len(listing.ids):,} of {listing.total:,} entries")
        self.page.show_emptiness(listing, is_notes=self.desk.session.is_notes(self.place.key))
        self.wanted = None
        if not self.table.choose(chosen):
            stay = min(before, self.table.table.rowCount() - 1) if before is not None else 0
            self.table.choose(self.table.table.id_at(stay) or self.table.table.id_at(stay + 1))
        if not listing.ids:
            self.panel.show_entry(self.place.key, None)

    # what is done

    def read(self, entry_id: int) -> None:
        """Opens an entry for reading, with this table's order around it."""
        if self.place is not None:
            self.desk.read_entry(self.place.key, entry_id, self.table.table.listing.ids)

    def delete(self, ids: list[int]) -> None:
        """Deletes entries; undo brings them back."""
        if self.place is None or not ids:
            return
        try:
            self.desk.session.remove_entries(self.place.key, ids)
        except MagpieError as error:
            self.desk.complain(error)
            return
        what = "One entry is" if len(ids) == 1 else f"{len(ids)} entries are"
        self.desk.say(f"{what} in the trash.", (("Undo", self.places.undo),))

    def new_entry(self) -> None:
        """Adds an entry by hand and puts the cursor into its title."""
        if self.place is None:
            return
        try:
            self.wanted = self.desk.session.add_entry(self.place.key, "New entry")
        except MagpieError as error:
            self.desk.complain(error)
            return
        self.question = replace(self.question, filter=None)
        self.ask()
        self.panel.show_entry(self.place.key, self.wanted)
        editor = self.panel.editors.get("title")
        if editor is not None and editor.line is not None:
            editor.line.setFocus()
            editor.line.selectAll()

    def fold_panel(self) -> None:
        """Shows or hides the chosen entry."""
        self.is_folded = not self.is_folded
        self.middle.show_page(self.middle.currentWidget() or self.page)

    def keep_widths(self) -> None:
        """Remembers the columns' widths."""
        if self.place is not None:
            now = columns.load(self.desk.settings, self.columns_name())
            widths = {**now.widths, **self.table.widths()}
            columns.keep(self.desk.settings, self.columns_name(), replace(now, widths=widths))

    def _set_text(self, entry_id: int, key: str, text: str) -> None:
        if self.place is not None:
            warning = self.desk.session.set_text(self.place.key, [entry_id], key, text)
            if warning:
                self.desk.say(warning, ())

    def _on_question(self, question: Question) -> None:
        self.question = question
        self.ask()

    def _on_rested(self) -> None:
        """Nothing is being typed any more: what came meanwhile is shown."""
        if self.waiting is not None:
            waiting, self.waiting = self.waiting, None
            self._on_listing(*waiting)

    def _on_header(self, section: int) -> None:
        field = self.table.table.columns[section]
        first = self.question.sort[0] if self.question.sort else None
        descending = not first.descending if first and first.field.key == field.key else field.kind.is_dated
        self._on_question(replace(self.question, sort=(SortKey(field, descending),)))

    def _on_chosen(self, entry_id: int | None) -> None:
        if self.place is not None:
            self.panel.show_entry(self.place.key, entry_id)

    def _on_entries_changed(self, place: str, ids: tuple[int, ...]) -> None:
        if self.place is None or place != self.place.key:
            return
        self.place = self.desk.session.place(place)
        if self.panel.entry is not None and (not ids or self.panel.entry.id in ids):
            still = self.place.rows([self.panel.entry.id])
            self.panel.show_entry(place, self.panel.entry.id if still else None)
        self.middle.refresh()
        self.ask()

    def _on_places_changed(self) -> None:
        self.places.fill()
        self.middle.refresh_setup()
        if self.place is None:
            return
        keys = self.places_keys()
        if self.place.key not in keys:
            self.open_place(keys[0])
            return
        self.place = self.desk.session.place(self.place.key)
        if self.view is not None:
            found = [view for view in all_views(self.desk.session, self.place) if view.id == self.view.id]
            self.view = found[0] if found else None
            self.places.choose(self.place.key, self.view.id if self.view else None)
        try:
            self.question = cql.parse(cql.write(self.question), self.place.fields)
        except MagpieError as error:  # it asks for a field that is no longer there
            self.question = Question()
            self.desk.complain(error)
        self.ask()
