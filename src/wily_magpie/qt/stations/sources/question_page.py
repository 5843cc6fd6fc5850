"""The page of a question: its sentence, its table, the count below."""

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from wily_magpie.core.entries.layout import LayoutKind
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import Listing
from wily_magpie.qt.dropped import from_mime, is_welcome
from wily_magpie.qt.editors.field_editor import NamesFor
from wily_magpie.qt.models.entry_window import Fetch
from wily_magpie.qt.stations.sources.layouts.layout_bar import LayoutBar
from wily_magpie.qt.stations.sources.model import SourcesState
from wily_magpie.qt.stations.sources.sentence import Sentence
from wily_magpie.qt.stations.sources.table import EntryTableView
from wily_magpie.qt.style.parts import WrappedLabel, label


class EmptyPage(WrappedLabel):
    """Says what to do where there is nothing, and takes what is dropped on it."""

    dropped = pyqtSignal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("", parent)
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and is_welcome(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None:
            self.dropped.emit(from_mime(data))
            event.acceptProposedAction()


def emptiness(listing: Listing, state: SourcesState, coming: tuple[int, int] | None) -> str:
    """What is said where there is nothing to show, with the way out."""
    if state.place is None:
        return (
            "There is no place in this library.\n\n“New place” below makes a collection or takes a folder of notes in; "
            "Ctrl+Z brings back what was deleted."
        )
    if state.lacking:
        return f"{state.lacking}\n\nChange the sentence above and “Keep changes”, or bring the field back by undo."
    if listing.total:
        return "No entry answers this question.\n\nChange or take out a condition in the sentence above."
    if coming is not None:
        far = (
            f"Its notes are being read: {coming[0]:,} of {coming[1]:,}."
            if coming[1]
            else "Its files are being looked at."
        )
        return f"{far}\n\nWhat is found comes in here by itself."
    if state.place.is_strange:
        return (
            f"The library names the folder {state.place.path}, which you have not set up here.\n\n"
            "Nothing in it is read or written until you say so: “Use its folder” in the menu of the place."
        )
    if state.place.nature.is_in_files:
        return (
            "There are no Markdown files in this folder yet.\n\nCapture a page into it, or press Ctrl+N for a new note."
        )
    ways = "Type an address above to capture a page, drop a link or a file here, or press Ctrl+N for an entry by hand."
    return f"Nothing is kept here yet.\n\n{ways}"


class QuestionPage(QWidget):
    """Holds these parts; the station connects them."""

    def __init__(
        self,
        fetch: Fetch,
        set_text: Callable[[int, str, str], None],
        complain: Callable[[MagpieError], None],
        names_for: NamesFor,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(self.make_head(names_for))
        self.bar = LayoutBar(self)
        self.bar.hide()
        column.addWidget(self.bar)
        self.stack = QStackedWidget(self)
        self.table = EntryTableView(fetch, set_text, complain, names_for, self.stack)
        self.empty = EmptyPage(self.stack)
        self.empty.dropped.connect(lambda given: self.table.dropped.emit(given, None))
        self.empty.setObjectName("empty")
        self.empty.setAccessibleName("No entries")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setContentsMargins(40, 20, 40, 20)
        self.stack.addWidget(self.table)
        self.stack.addWidget(self.empty)
        column.addWidget(self.stack, 1)
        column.addWidget(self.make_foot())

    def make_head(self, names_for: NamesFor) -> QHBoxLayout:
        head = QHBoxLayout()
        head.setSpacing(0)
        self.sentence = Sentence(names_for, self)
        head.addWidget(self.sentence, 1)
        self.keep_view = QPushButton("Keep as view")
        self.keep_view.setToolTip("Keep this question under a name")
        self.keep_changes = QPushButton("Keep changes")
        self.keep_changes.setToolTip("Let the view ask what stands here now")
        buttons = QVBoxLayout()
        buttons.setContentsMargins(0, 8, 12, 0)
        row = QHBoxLayout()
        row.addWidget(self.keep_changes)
        row.addWidget(self.keep_view)
        buttons.addLayout(row)
        buttons.addStretch(1)
        head.addLayout(buttons)
        return head

    def make_foot(self) -> QWidget:
        foot = QWidget(self)
        foot.setObjectName("footline")
        foot.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        line = QHBoxLayout(foot)
        line.setContentsMargins(14, 5, 12, 5)
        self.count = label("")
        line.addWidget(self.count, 1)
        self.coming = label("", "origin")
        self.coming.hide()
        line.addWidget(self.coming)
        self.add_entry = QPushButton("New entry")
        self.add_entry.setToolTip("Add an entry by hand (Ctrl+N)")
        line.addWidget(self.add_entry)
        return foot

    def show_state(self, state: SourcesState, *, is_read_only: bool) -> None:
        """Shows the sentence, and what can be done with the question."""
        if state.place is not None:
            self.sentence.show_question(state.place, state.question, state.layout.kind)
        self.sentence.setVisible(state.place is not None)
        self.bar.show_layout(state.place, state.layout)
        self.keep_changes.setVisible(state.is_changed and not is_read_only)
        self.keep_view.setVisible(state.may_be_kept and not is_read_only)
        self.add_entry.setEnabled(state.place is not None and not is_read_only)

    def show_coming(self, coming: tuple[int, int] | None) -> None:
        """Says how many notes of how many are read, as long as they are not all."""
        is_told = coming is not None and coming[1] > 0
        self.coming.setVisible(is_told)
        if coming is not None and is_told:
            self.coming.setText(f"{coming[0]:,} of {coming[1]:,} notes are read")

    def show_count(self, listing: Listing, sums: dict[str, str], state: SourcesState) -> None:
        """Shows how many answer, and what stands at the foot of columns."""
        if state.place is None:
            self.count.setText("")
            return
        labels = {field.key: state.layout.heading(field) for field in state.place.fields}
        feet = [f"{labels[key]}: {text}" for key, text in sums.items() if key in labels]
        told = [f"{listing.size:,} of {listing.total:,} entries"]
        if listing.size != len(listing.ids):
            told.append(f"in {len(listing.ids):,} places, since some stand in several groups")
        self.count.setText("   ·   ".join([*told, *feet]))

    def show_face(self, face: QWidget, listing: Listing, state: SourcesState, coming: tuple[int, int] | None) -> None:
        """Shows the answer, or says what to do where there is nothing to show; the cursor goes along."""
        focused = self.stack.focusWidget()
        had_focus = focused is not None and focused.hasFocus()
        has_lanes = state.layout.kind is LayoutKind.LANES and face is not self.table and not state.lacking
        if not listing.ids and not (has_lanes and listing.total):
            self.empty.setText(emptiness(listing, state, coming))
            face = self.empty
        self.stack.setCurrentWidget(face)
        if had_focus:
            self.take_focus()

    def take_focus(self) -> None:
        """Puts the cursor into the table, or into what stands in its place."""
        shown = self.stack.currentWidget()
        if shown is not None:
            shown.setFocus()
