"""The Sources station: widgets around its state (see model.py)."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QSplitter, QVBoxLayout, QWidget

from wily_magpie.core import commands
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.layout import Layout, LayoutKind
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question, SortKey
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.models.entry_window import Selection
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.answering import Answer, Known, answer
from wily_magpie.qt.stations.sources.cell_commands import CellCommands
from wily_magpie.qt.stations.sources.column_commands import ColumnCommands
from wily_magpie.qt.stations.sources.entry_panel import EntryPanel
from wily_magpie.qt.stations.sources.left_side import LeftSide
from wily_magpie.qt.stations.sources.model import SourcesState, all_views
from wily_magpie.qt.stations.sources.page_stack import PageStack
from wily_magpie.qt.stations.sources.question_page import QuestionPage
from wily_magpie.qt.stations.sources.view_commands import ViewCommands

if TYPE_CHECKING:
    from wily_magpie.qt.stations.sources.layouts.faces import Faces
    from wily_magpie.qt.stations.sources.note_commands import NoteCommands
    from wily_magpie.qt.stations.sources.search import SearchResults

MORE_AGAIN = 1.5
"""How many times as many notes must have been read for those that are shown to be asked for anew."""


class SourcesStation(QWidget):
    """Places, a question over one of them with its table, and the chosen entry.

    Attributes:
        is_answered: something that was asked has been shown; an answer may be there before who waits for it.

    Signals:
        answered: what was asked is shown.
    """

    answered = pyqtSignal()

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.state, self.known = SourcesState(), Known()
        self.selection = Selection(self)
        self.asking = LastAsked(desk.bridge)
        self.wanted: int | None = None
        self.is_folded = self.is_answered = False
        self.waiting: Answer | None = None
        """What has come while something was being typed."""
        self.cells = CellCommands(desk, self, self.state_now, self.selection)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.splitter = QSplitter(Qt.Orientation.Horizontal, self)
        self.splitter.setHandleWidth(1)
        self.left = LeftSide(desk, self.state_now, lambda: tuple(self.table.chosen_ids()), self.splitter)
        self.places = self.left.places
        self.splitter.addWidget(self.left)
        self.pages = PageStack(desk, self.cells.names_for, lambda: self.notes.ask_folder(), self.splitter)
        self.page = self.pages.put(
            QuestionPage(self.fetch, self._set_text, desk.complain, self.cells.names_for, self.pages)
        )
        self.sentence, self.table = self.page.sentence, self.page.table
        self.panel = EntryPanel(desk, self.cells.names_for, self.splitter)
        self.splitter.addWidget(self.pages)
        self.splitter.addWidget(self.panel)
        self.splitter.setStretchFactor(1, 1)
        self.splitter.setSizes([200, 760, 320])
        layout.addWidget(self.splitter, 1)
        self.views = ViewCommands(desk, self, self.state_now, self.places)
        self.columns = ColumnCommands(desk, self.table, self.state_now, self.arrange)
        self.cells.attach(self.table, self.columns)
        self.connect_all()
        state = self.state.after(desk.overview)
        self.look_at_files(state.place)
        self.show_state(state)

    def connect_all(self) -> None:
        """Connects the parts."""
        self.left.place_wanted.connect(lambda: self.pages.open_new_place())
        self.left.setup_wanted.connect(lambda: self.open_setup(""))
        self.left.trash_wanted.connect(lambda: self.pages.open_trash())
        self.places.place_chosen.connect(self.open_place)
        self.places.view_chosen.connect(self.open_view)
        self.left.all_wanted.connect(self.open_place)
        self.left.asked.connect(self._on_question)
        self.left.move_asked.connect(lambda folder, ids, to: self.notes.ask_moves(folder, ids, to))
        self.sentence.changed.connect(self._on_question)
        self.sentence.layout_chosen.connect(lambda kind: self.arrange(replace(self.state.layout, kind=kind)))
        self.table.chosen.connect(self._on_table_chosen)
        self.table.opened.connect(self.read)
        self.table.menu_asked.connect(lambda at: self.cells.menu().exec(at))
        self.table.rested.connect(self._on_rested)
        self.selection.current_changed.connect(self._on_chosen)
        self.page.bar.arranged.connect(self.arrange)
        self.page.bar.show_all_asked.connect(lambda: self.faces.timeline.show_all())
        self.page.bar.zoom_asked.connect(lambda factor: self.faces.timeline.zoom(factor))
        self.panel.read_asked.connect(self.read)
        self.panel.whole_asked.connect(self.open_whole)
        self.panel.dropped.connect(self.cells.take)
        self.pages.shown.connect(self.show_panel)
        self.pages.whole_asked.connect(self.open_chosen_whole)
        self.pages.setup_asked.connect(lambda: self.open_setup(""))
        self.pages.left_whole.connect(self._on_left_whole)
        self.pages.turned.connect(self.turn)
        self.pages.made.connect(self._on_made)
        self.cells.read_asked.connect(self.read)
        self.cells.whole_asked.connect(self.open_whole)
        self.cells.move_asked.connect(lambda entry: self.notes.ask_move(entry))
        self.cells.delete_asked.connect(self.delete)
        self.views.kept.connect(self._on_view_kept)
        self.page.keep_view.clicked.connect(self.views.ask_name)
        self.page.keep_changes.clicked.connect(self.views.keep_changes)
        self.page.add_entry.clicked.connect(self.new_entry)
        header = self.table.horizontalHeader()
        if header is not None:
            header.sectionClicked.connect(self._on_header)
        bridge = self.desk.bridge
        bridge.entries_changed.connect(self._on_entries_changed)
        bridge.notes_coming.connect(self._on_coming)
        bridge.places_changed.connect(self._on_places_changed)

    @cached_property
    def faces(self) -> "Faces":
        """Cards, lanes, list and time line."""
        from wily_magpie.qt.stations.sources.layouts.faces import Faces

        faces = Faces(self.desk, self.table, self.page.stack, self.state_now)
        faces.opened.connect(self.read)
        faces.menu_asked.connect(lambda at: self.cells.menu().exec(at))
        faces.dropped.connect(self.cells.take)
        faces.arranged.connect(self.arrange)
        faces.filter_asked.connect(self.sentence.tell_filter)
        faces.asked_again.connect(self.ask)
        return faces

    @cached_property
    def results(self) -> "SearchResults":
        """What a search found."""
        from wily_magpie.qt.stations.sources.search import SearchResults

        results = self.pages.put(SearchResults(self.desk))
        results.opened.connect(self.desk.read_hit)
        return results

    @cached_property
    def notes(self) -> "NoteCommands":
        """What is done with notes; most people's first step is another one."""
        from wily_magpie.qt.stations.sources.note_commands import NoteCommands

        notes = NoteCommands(self.desk, self, self.state_now)
        notes.opened.connect(self.open_place)
        return notes

    # what is shown

    def state_now(self) -> SourcesState:
        """For the parts that act on it."""
        return self.state

    @property
    def place(self) -> PlaceInfo | None:
        """The place that is shown."""
        return self.state.place

    @property
    def key(self) -> str:
        """Of the place; "" where there is none."""
        return self.place.key if self.place is not None else ""

    @property
    def question(self) -> Question:
        """The question that is asked."""
        return self.state.question

    def show_state(self, state: SourcesState) -> None:
        """Shows another state: the sentence at once, the answer when it is there."""
        self.keep_arranged()
        self.state = state
        self.left.show_state(state)
        self.ask()

    def open_place(self, key: str, question: Question | None = None) -> None:
        """Shows all of a place, newest first, or a question over it."""
        place = self.desk.overview.find_place(key)
        if place is None:
            return
        self.pages.show_page(self.page)
        self.look_at_files(place)
        self.show_state(self.state.opened(place, question))

    def look_at_files(self, place: PlaceInfo | None) -> None:
        """Has a notes folder that is to be shown brought in step with its files; an answer may come at once, and tells of that."""
        if place is not None and place.nature.is_in_files:
            self.desk.bridge.index_notes(place.key)

    def open_view(self, view: View) -> None:
        """Shows a view."""
        place = self.desk.overview.find_place(view.place)
        if place is None:
            return
        now = next((one for one in all_views(self.desk.overview, place) if one.id == view.id), view)
        self.pages.show_page(self.page)
        self.show_state(self.state.opened_view(place, now))

    def show_entry(self, key: str, entry_id: int) -> None:
        """Shows an entry in its place; in the question at hand, where it is part of its answer."""
        self.pages.show_page(self.page)
        self.wanted = entry_id
        is_here = self.place is not None and self.place.key == key and self.table.table.row_of(entry_id) is not None
        if is_here:
            self.ask()
        else:
            self.open_place(key)

    def show_question(self, key: str, text: str) -> None:
        """Shows a written question over a place; BadQuery where it is none."""
        place = self.desk.overview.place(key)
        self.open_place(key, cql.parse(text, place.askable))

    def show_found(self) -> None:
        """Shows what the last search found, as it was."""
        self.pages.show_page(self.results)
        self.results.list.setFocus()

    def search(self, words: str) -> None:
        """Looks for words in everything kept."""
        self.pages.show_page(self.results)
        self.results.search(words)

    def ask(self) -> None:
        """Asks the question off the main thread and shows the answer."""
        self.waiting = None
        state = self.state
        self.page.show_state(state, is_read_only=self.desk.overview.is_read_only)
        wanted = self.wanted if self.wanted is not None else self.selection.current_in(self.key)
        known = self.known.get(state.place, state.asked_question) if state.place is not None else None
        self.asking.ask(lambda reader: answer(reader, state, wanted, known), self._on_answer)

    def fetch(self, ids: Sequence[int], done: Callable[[list[Entry]], None]) -> None:
        """Fetches the rows of the table."""
        key = self.key
        self.desk.bridge.ask(lambda reader: reader.entries.rows(key, ids), done)

    def _on_answer(self, found: Answer) -> None:
        if found.found is not None:
            self.known.put(self.state.asked_question, found.found)
        if self.table.is_editing():  # what is being typed must not be taken away
            self.waiting = found
            return
        place, listing = self.state.place, found.listing
        chosen = self.wanted if self.wanted is not None else self.selection.current_in(self.key)
        before = self.table.table.row_of(chosen) if chosen is not None else None
        if place is not None:
            self.table.table.is_read_only = self.desk.overview.is_read_only
            self.columns.show(lambda: self.show_table(place, found))
        coming = self.desk.bridge.coming.get(self.key)
        self.page.show_count(listing, found.sums, self.state)
        self.page.show_coming(coming)
        is_table = self.state.layout.kind is LayoutKind.TABLE
        self.page.show_face(self.table if is_table else self.faces.show(), listing, self.state, coming)
        self.wanted = None
        if not self.table.choose(chosen):
            stay = min(before, self.table.table.rowCount() - 1) if before is not None else 0
            self.table.choose(self.table.table.next_id(stay))
        if not listing.ids:
            self.selection.choose(self.key, None)
        self.is_answered = True
        self.answered.emit()

    def show_table(self, place: PlaceInfo, found: Answer) -> None:
        """Puts an answer into the table."""
        state = self.state
        self.table.show_listing(place, state.columns, found.listing, found.first, found.at, state.layout)
        self.table.set_widths()

    def show_panel(self) -> None:
        """Shows the chosen entry beside the table alone, unless it is folded away."""
        is_beside = self.pages.currentWidget() is self.page and not self.is_folded
        if self.panel.isHidden() == is_beside:
            self.panel.setVisible(is_beside)

    # what is done

    def read(self, entry_id: int) -> None:
        """Opens an entry for reading, with this table's order around it."""
        if self.place is not None:
            self.desk.read_entry(self.place.key, entry_id, self.table.table.listing.ids)

    def delete(self, ids: list[int]) -> None:
        """Deletes entries; undo brings them back."""
        if self.place is None or not ids:
            return
        what = "One entry is" if len(ids) == 1 else f"{len(ids)} entries are"

        def done(_none: object) -> None:
            self.desk.say(f"{what} in the trash.", self.desk.undoing())

        self.desk.bridge.do(commands.entries.RemoveEntries(self.place.key, tuple(ids)), done)

    def new_entry(self) -> None:
        """Adds an entry by hand and puts the cursor into its title."""
        place = self.place
        if place is None:
            self.desk.say("There is no place for it yet. Make one: New place.", ())
            return

        def done(entry_id: int) -> None:
            self.wanted = entry_id
            self.show_state(self.state.asked(replace(self.question, filter=None)))
            self.panel.show_entry(place.key, entry_id, edits_title=True)

        self.desk.bridge.do(commands.entries.AddEntry(place.key, "New entry"), done)

    def fold_panel(self) -> None:
        """Shows or hides the chosen entry."""
        self.is_folded = not self.is_folded
        self.show_panel()

    def open_whole(self, entry_id: int) -> None:
        """Opens an entry over the whole width."""
        if self.place is not None:
            self.pages.open_whole(self.place.key, entry_id)

    def open_chosen_whole(self) -> None:
        """Opens the chosen entry over the whole width."""
        if self.selection.current is not None:
            self.open_whole(self.selection.current)

    def ask_move_chosen(self) -> None:
        """Asks for a new path of the chosen note, or for a folder for several."""
        chosen = self.table.chosen_ids()
        if len(chosen) > 1:
            self.notes.ask_moves("", chosen, None)
        elif self.selection.current is not None:
            self.notes.ask_move(self.selection.current)

    def open_setup(self, field: str) -> None:
        """Opens the set-up of the place that is shown."""
        if self.place is not None:
            self.pages.open_setup(self.place.key, field)

    def turn(self, by: int) -> None:
        """Shows the entry before or behind the one that is open whole."""
        ids = list(self.table.table.listing.ids)
        entry = self.pages.whole.entry
        if self.place is not None and entry is not None and entry.id in ids:
            at = ids.index(entry.id) + by
            if 0 <= at < len(ids):
                self.pages.open_whole(self.place.key, ids[at])

    def arrange(self, layout: Layout) -> None:
        """Shows the answer in another way, and keeps that with the view."""
        if self.place is not None and layout != self.state.layout and not self.desk.overview.is_read_only:
            self.desk.bridge.do(commands.views.SetLayout(self.place.key, self.state.layout_view, layout))

    def keep_arranged(self) -> None:
        """Keeps at once what a person has just dragged: what is shown next has widths and sizes of its own."""
        self.columns.keep_arranged()
        self.page.bar.keep_arranged()

    def _set_text(self, entry_id: int, key: str, text: str) -> None:
        if self.place is None:
            return

        def failed(error: MagpieError) -> None:
            self.table.table.take_back(entry_id, key)
            self.desk.complain(error)

        command = commands.entries.SetText(self.place.key, (entry_id,), key, text)
        self.desk.bridge.do(command, self._on_set, failed)

    def _on_set(self, warning: str) -> None:
        if warning:
            self.desk.say(warning, ())

    def _on_question(self, question: Question) -> None:
        self.show_state(self.state.asked(question))

    def _on_rested(self) -> None:
        """Nothing is being typed any more: what came meanwhile is shown."""
        if self.waiting is not None:
            waiting, self.waiting = self.waiting, None
            self._on_answer(waiting)

    def _on_header(self, section: int) -> None:
        field: Field = self.table.table.columns[section]
        first = self.question.sort[0] if self.question.sort else None
        descending = not first.descending if first and first.field.key == field.key else field.kind.is_dated
        self._on_question(replace(self.question, sort=(SortKey(field, descending),)))

    def _on_table_chosen(self, entry_id: int | None) -> None:
        self.selection.choose(self.key, entry_id)

    def _on_chosen(self, entry_id: int | None) -> None:
        self.panel.show_entry(self.key, entry_id)

    def _on_left_whole(self, entry_id: int | None) -> None:
        if entry_id is not None:
            self.table.choose(entry_id)
        self.table.setFocus()

    def _on_made(self, key: str) -> None:
        self.open_place(key)
        self.table.setFocus()

    def _on_view_kept(self, number: int) -> None:
        place = self.place
        if place is not None:
            found = [view for view in self.desk.overview.views_of(place.key) if view.id == number]
            if found:
                self.show_state(self.state.opened_view(place, found[0]))

    def _on_entries_changed(self, place: str, ids: tuple[int, ...]) -> None:
        self.pages.refresh(place, ids)
        self.known.forget()  # also where another place changed, to which references lead
        if self.place is None or place != self.place.key:
            return
        if self.panel.wanted is not None and (not ids or self.panel.wanted[1] in ids):
            self.panel.refresh()  # also where it is being fetched still, as it was before
        self.ask()

    def _on_coming(self, place: str) -> None:
        """Notes are being read: how many are is said, and they are shown whenever there are half as many again."""
        if place != self.key:
            return
        coming = self.desk.bridge.coming.get(place)
        self.page.show_coming(coming)
        shown = self.table.table.listing.total
        if shown == 0 or (coming is not None and coming[0] >= shown * MORE_AGAIN):
            self.known.forget()
            self.ask()

    def _on_places_changed(self) -> None:
        self.places.fill()
        self.pages.refresh_setup()
        self.show_state(self.state.after(self.desk.overview))
        if self.panel.place and self.desk.overview.find_place(self.panel.place) is None:
            self.panel.show_entry("", None)
        else:  # its fields may be others
            self.panel.refresh()
