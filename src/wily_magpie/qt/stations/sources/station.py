"""The Sources station."""

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import Listing, Place
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question, SortKey
from wily_magpie.qt.desk import Desk
from wily_magpie.qt.stations.sources.entry_panel import EntryPanel
from wily_magpie.qt.stations.sources.places_list import PlacesList
from wily_magpie.qt.stations.sources.search import SearchResults
from wily_magpie.qt.stations.sources.sentence import Sentence
from wily_magpie.qt.stations.sources.table import EntryTableView

TABLE, EMPTY = range(2)
UNSHOWN = ("long text", "address")


class SourcesStation(QWidget):
    """Places, a question over one of them with its table, and the chosen entry."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.place: Place | None = None
        self.view: View | None = None
        self.question = Question()
        self.number = 0
        self.wanted: int | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        self.splitter.setHandleWidth(1)
        self.splitter.addWidget(self.make_left())
        self.splitter.addWidget(self.make_middle())
        self.panel = EntryPanel(desk)
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
        self.results.opened.connect(self.show_entry)
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
        self.add_folder = QPushButton("Add a notes folder …")
        self.add_folder.setFlat(True)
        self.add_folder.clicked.connect(lambda: self.ask_folder())
        row = QHBoxLayout()
        row.setContentsMargins(8, 6, 8, 8)
        row.addWidget(self.add_folder)
        column.addLayout(row)
        return left

    def make_middle(self) -> QWidget:
        self.middle = QStackedWidget()
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        head = QHBoxLayout()
        head.setSpacing(0)
        self.sentence = Sentence()
        head.addWidget(self.sentence, 1)
        self.keep_view = QPushButton("Keep as view")
        self.keep_view.setToolTip("Keep this question under a name")
        self.keep_view.clicked.connect(lambda: self.ask_view_name())
        self.keep_changes = QPushButton("Keep changes")
        self.keep_changes.setToolTip("Let the view ask what stands here now")
        self.keep_changes.clicked.connect(lambda: self.change_view())
        buttons = QVBoxLayout()
        buttons.setContentsMargins(0, 8, 12, 0)
        row = QHBoxLayout()
        row.addWidget(self.keep_changes)
        row.addWidget(self.keep_view)
        buttons.addLayout(row)
        buttons.addStretch(1)
        head.addLayout(buttons)
        column.addLayout(head)
        self.table = EntryTableView(self._set_text, self.desk.complain)
        self.empty = QLabel()
        self.empty.setObjectName("empty")
        self.empty.setWordWrap(True)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setContentsMargins(40, 20, 40, 20)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.table)
        self.stack.addWidget(self.empty)
        column.addWidget(self.stack, 1)
        foot = QWidget()
        foot.setObjectName("footline")
        foot.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        line = QHBoxLayout(foot)
        line.setContentsMargins(14, 5, 12, 5)
        self.count = QLabel()
        self.count.setObjectName("slate")
        line.addWidget(self.count, 1)
        self.add_entry = QPushButton("New entry")
        self.add_entry.setToolTip("Add an entry by hand (Ctrl+N)")
        self.add_entry.clicked.connect(lambda: self.new_entry())
        line.addWidget(self.add_entry)
        column.addWidget(foot)
        self.results = SearchResults(self.desk)
        self.middle.addWidget(box)
        self.middle.addWidget(self.results)
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
        self.middle.setCurrentIndex(0)
        if self.desk.session.is_notes(key):
            self.desk.bridge.ask(lambda: self.desk.session.refresh_notes(key), lambda _count: None, self.desk.complain)
        self.ask()

    def open_view(self, view: View) -> None:
        """Shows a view."""
        self.place = self.desk.session.place(view.place)
        self.view = view
        self.middle.setCurrentIndex(0)
        try:
            self.question = cql.parse(view.question, self.place.fields)
        except MagpieError as error:
            self.question = Question()
            self.desk.complain(error)
        self.ask()

    def show_entry(self, key: str, entry_id: int) -> None:
        """Shows an entry in its place; in the question at hand, where it is part of its answer."""
        self.middle.setCurrentIndex(0)
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
        self.middle.setCurrentIndex(1)
        self.results.search(words)

    @staticmethod
    def usual_question(place: Place) -> Question:
        """A place without a question: newest captured first, else by title."""
        keys = {field.key: field for field in place.fields}
        if "number" in keys:
            return Question(None, (SortKey(keys["number"]),))
        return Question(None, (SortKey(keys["captured"], True),) if "captured" in keys else (SortKey(keys["title"]),))

    def columns(self) -> list[Field]:
        """The fields that the table shows: all short ones."""
        if self.place is None:
            return []
        group = self.question.group
        return [f for f in self.place.fields if f.kind.name not in UNSHOWN and not (group and f.key == group.key)]

    def ask(self) -> None:
        """Asks the question off the main thread and shows the answer."""
        if self.place is None:
            return
        self.number += 1
        number, place, question = self.number, self.place, self.question
        self.sentence.show_question(place, question)
        is_changed = self.view is not None and cql.write(question) != self.view.question
        self.keep_changes.setVisible(is_changed)
        self.keep_view.setVisible(self.view is None or is_changed)
        self.desk.bridge.ask(
            lambda: place.listing(question), lambda listing: self._on_listing(listing, number), self.desk.complain
        )

    def _on_listing(self, listing: Listing, number: int) -> None:
        if number != self.number or self.place is None:
            return
        chosen = self.wanted if self.wanted is not None else self.panel.entry.id if self.panel.entry else None
        if self.panel.place and self.panel.place != self.place.key and self.wanted is None:
            chosen = None
        before = self.table.table.row_of(chosen) if chosen is not None else None
        self.table.table.show(self.place, self.columns(), listing)
        self.table.span_groups()
        kept = self.desk.settings.value(f"widths/{self.place.key}", {}) or {}
        header = self.table.horizontalHeader()
        if header is not None:
            header.blockSignals(True)
            self.table.set_widths({key: int(width) for key, width in kept.items()})
            header.blockSignals(False)
        self.count.setText(f"{len(listing.ids):,} of {listing.total:,} entries")
        self.show_emptiness(listing)
        self.wanted = None
        if not self.table.choose(chosen):
            stay = min(before, self.table.table.rowCount() - 1) if before is not None else 0
            self.table.choose(self.table.table.id_at(stay) or self.table.table.id_at(stay + 1))
        if not listing.ids:
            self.panel.show_entry(self.place.key, None)

    def show_emptiness(self, listing: Listing) -> None:
        """Says what to do where there is nothing to show."""
        if listing.ids:
            self.stack.setCurrentIndex(TABLE)
            return
        if listing.total:
            text = "No entry answers this question.\n\nChange or take out a condition in the sentence above."
        elif self.place is not None and self.desk.session.is_notes(self.place.key):
            text = "There are no Markdown files in this folder yet.\n\nCapture a page into it, or press Ctrl+N for a new note."
        else:
            text = "Nothing is kept here yet.\n\nType an address above to capture a page, or press Ctrl+N for an entry by hand."
        self.empty.setText(text)
        self.stack.setCurrentIndex(EMPTY)

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
        self.desk.say(f"{what} deleted.", (("Undo", self.places.undo),))

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

    def ask_view_name(self) -> None:
        """Keeps the question as a new view."""
        name, is_given = QInputDialog.getText(self, "Keep as view", "Name of the view:")
        if is_given and name.strip():
            self.new_view(name)

    def new_view(self, name: str) -> None:
        """Keeps the question as a new view of that name."""
        if self.place is None:
            return
        try:
            number = self.desk.session.keep_view(self.place.key, name, self.question)
        except MagpieError as error:
            self.desk.complain(error)
            return
        self.view = next(view for view in self.desk.session.views(self.place.key) if view.id == number)
        self.places.choose(self.place.key, number)
        self.ask()

    def change_view(self) -> None:
        """Lets the open view ask what the sentence says now."""
        if self.view is None or self.place is None:
            return
        self.desk.session.keep_view(self.place.key, self.view.name, self.question, self.view.id)
        self.view = next(view for view in self.desk.session.views(self.place.key) if view.id == self.view.id)
        self.ask()

    def ask_folder(self) -> None:
        """Asks for a folder of Markdown files and takes it in."""
        chosen = QFileDialog.getExistingDirectory(self, "Choose a folder of Markdown files")
        if not chosen:
            return
        try:
            place = self.desk.session.add_notes_folder(Path(chosen))
        except MagpieError as error:
            self.desk.complain(error)
            return
        self.desk.bridge.start(
            f"Reading {place.name}", lambda _job: self.desk.session.refresh_notes(place.key), None, self.desk.complain
        )
        self.open_place(place.key)

    def fold_panel(self) -> None:
        """Shows or hides the chosen entry."""
        self.panel.setVisible(not self.panel.isVisible())

    def keep_widths(self) -> None:
        """Remembers the columns' widths."""
        if self.place is not None:
            self.desk.settings.setValue(f"widths/{self.place.key}", self.table.widths())

    def _set_text(self, entry_id: int, key: str, text: str) -> None:
        if self.place is not None:
            warning = self.desk.session.set_text(self.place.key, [entry_id], key, text)
            if warning:
                self.desk.say(warning, ())

    def _on_question(self, question: Question) -> None:
        self.question = question
        self.ask()

    def _on_header(self, section: int) -> None:
        field = self.table.table.columns[section]
        first = self.question.sort[0] if self.question.sort else None
        descending = not first.descending if first and first.field.key == field.key else field.kind.name == "date"
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
        self.ask()

    def _on_places_changed(self) -> None:
        self.places.fill()
        if self.place is None:
            return
        keys = self.places_keys()
        if self.place.key not in keys:
            self.open_place(keys[0])
            return
        self.place = self.desk.session.place(self.place.key)
        if self.view is not None:
            found = [view for view in self.desk.session.views(self.place.key) if view.id == self.view.id]
            self.view = found[0] if found else None
            self.places.choose(self.place.key, self.view.id if self.view else None)
        self.question = cql.parse(cql.write(self.question), self.place.fields)
        self.ask()
