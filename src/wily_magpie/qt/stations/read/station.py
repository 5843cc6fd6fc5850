"""The Read station: the kept text at a reading measure, the entry's facts above it, its neighbours a key away."""

import html
from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QMenu,
    QSizePolicy,
    QSplitter,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.entries import SetText
from wily_magpie.core.commands.lists import NoteRead
from wily_magpie.core.commands.reading import NoteStop
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry, short
from wily_magpie.core.entries.rendering import Rendered
from wily_magpie.core.fields.people import given_first
from wily_magpie.core.pages.words import WORDS_A_MINUTE, word_count
from wily_magpie.core.places.api import first_of
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.settings.known import ASIDE_STATUS, DONE_STATUS
from wily_magpie.core.settings.setting import Setting
from wily_magpie.qt.actions import add_choice, tip_of
from wily_magpie.qt.editors.entry_marks import EntryMarks
from wily_magpie.qt.editors.spine import SpineDelegate
from wily_magpie.qt.entry_form import EntryForm
from wily_magpie.qt.find_bar import FindBar
from wily_magpie.qt.reading import ReadingView, Shown, shown
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.read.look_panel import LookPanel
from wily_magpie.qt.stations.read.marking import ReadMarking
from wily_magpie.qt.stations.read.queue import Queue
from wily_magpie.qt.style.parts import icon_button, label, scroll_area, text_button, timer
from wily_magpie.qt.style.reading_look import ReadingLook

if TYPE_CHECKING:
    from wily_magpie.core.queries.search import Wanted

STOP_REST_MS = 700
"""How long one must have stayed at a place of the text before it is noted."""
QUEUE_FOLDED, QUEUE_PX = "read/queue_folded", 240
FIELDS, MARKS, SIDE_PX = "read/fields_shown", "read/marks_shown", 250
NOTHING_OPEN = "Nothing is open.\n\nChoose an entry in Sources and press Space."


@dataclass(frozen=True)
class ToRead:
    """An entry as it is asked for to be read.

    Attributes:
        whole: None where it is gone; minutes: that it takes, 0 without a text.
        stopped_at: letters of its text that one has behind one.
    """

    whole: WholeEntry | None = None
    shown: Shown = Shown()
    minutes: int = 0
    stopped_at: int = 0


class ReadStation(QWidget):
    """Shows one entry for reading.

    Signals:
        looked_at: the place, the id and the title of the entry that is shown.
    """

    looked_at = pyqtSignal(str, int, str)

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.place = ""
        self.whole: WholeEntry | None = None
        self.around: Sequence[int] = ()
        self.number = self.minutes = self.stopped_at = 0
        self.stop_rest = timer(self, self.note_stop)
        self.looked_for: Wanted | None = None
        self.wanted: int | None = None
        """What was asked for last, and may still be on its way."""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.make_bar())
        self.stack = QStackedWidget()
        empty = QLabel(NOTHING_OPEN)
        empty.setObjectName("empty")
        empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.view = ReadingView(look=ReadingLook.of(desk.person))
        self.view.followed.connect(self.follow)
        self.look_panel = LookPanel(desk, self)
        self.look_panel.held.connect(self.take_look)
        self.marking = ReadMarking(desk, self.view)
        bar = self.view.verticalScrollBar()
        if bar is not None:
            bar.valueChanged.connect(self._on_scrolled)
            bar.rangeChanged.connect(lambda *_range: self.show_far())
        self.stack.addWidget(empty)
        self.stack.addWidget(self.view)
        self.finding = FindBar(self.view, self.view.marked.show_found)
        self.view.laid.connect(self.finding.mark_all)
        self.finding.closed.connect(self.view.setFocus)
        layout.addWidget(self.finding)
        self.splitter = self.make_splitter()
        layout.addWidget(self.splitter, 1)
        desk.bridge.entries_changed.connect(self._on_entries_changed)
        desk.bridge.pictures_kept.connect(lambda place: self.refresh() if place in ("", self.place) else None)
        self.take_look()
        self.show_entry(Shown())

    def make_splitter(self) -> QSplitter:
        """The queue, the text, the marks."""
        self.queue = Queue(self.desk)
        self.queue.chosen.connect(lambda entry_id: self.open(self.place, entry_id, self.around))
        self.queue.done.connect(lambda: self.finish(DONE_STATUS))
        self.queue.postponed.connect(self.postpone)
        self.queue.left_aside.connect(lambda: self.finish(ASIDE_STATUS))
        made = QSplitter(Qt.Orientation.Horizontal)
        made.setHandleWidth(1)
        made.setChildrenCollapsible(False)
        made.addWidget(self.queue)
        made.addWidget(self.stack)
        self.marks = EntryMarks(self.desk.bridge)
        self.marks.pointed.connect(self.marking.show_mark)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(14, 10, 12, 14)
        self.form = EntryForm(self.desk, lambda field, take: self.desk.ask_names(self.place, field, take))
        column.addWidget(self.form)
        column.addWidget(self.marks)
        column.addStretch(1)
        self.side = scroll_area(inside)
        self.side.setMinimumWidth(SIDE_PX)
        made.addWidget(self.side)
        made.setStretchFactor(1, 1)
        made.setSizes([QUEUE_PX, 780, SIDE_PX])
        return made

    @property
    def entry(self) -> Entry | None:
        """The entry that is read."""
        return self.whole.entry if self.whole is not None else None

    def follow(self, address: str) -> None:
        """Opens a link: a note of the same folder here, all else in the system's browser."""
        entry = self.entry
        if entry is None:
            return

        def done(found: int | None) -> None:
            if found is not None:
                self.open(self.place, found, ())
            else:
                self.desk.open_outside(address)

        self.desk.bridge.ask(lambda reader: reader.notes.note_at(entry, address), done)

    def make_bar(self) -> QWidget:
        bar = QWidget()
        row = QHBoxLayout(bar)
        row.setContentsMargins(12, 6, 12, 6)
        self.to_found = text_button("What was found", "arrow-left", self.desk.show_found)
        self.to_found.setToolTip(tip_of("to-found"))
        self.to_found.hide()
        row.addWidget(self.to_found)
        self.previous = icon_button("arrow-left", tip_of("previous"), lambda: self.turn(-1))
        self.next = icon_button("arrow-right", tip_of("next"), lambda: self.turn(1))
        self.where, self.far = label(), label()
        self.lost = label()
        self.lost.hide()
        self.status_label = QLabel("&Status")
        self.status_label.setObjectName("slate")
        self.status = QComboBox()
        self.status.setAccessibleName("Status")
        self.status.setMinimumWidth(130)
        self.status.setItemDelegate(SpineDelegate(self.status))
        self.status.activated.connect(self._on_status)
        self.status_label.setBuddy(self.status)
        self.headings = text_button("Headings")
        self.headings.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.headings_menu = QMenu(self)
        self.headings.setMenu(self.headings_menu)
        self.headings_menu.aboutToShow.connect(self.fill_headings)
        self.fields_button = text_button("Fields", "", lambda: self.turn_beside(FIELDS))
        self.marks_button = text_button("Marks", "", lambda: self.turn_beside(MARKS))
        for button, act in ((self.fields_button, "fields-beside"), (self.marks_button, "marks-list")):
            button.setObjectName("beside")
            button.setCheckable(True)
            button.setToolTip(tip_of(act))
        self.look = text_button("Letters", "", lambda: self.look_panel.open_below(self.look))
        self.look.setToolTip("How texts look: face, size, width, height of lines, ground")
        self.in_sources = icon_button("table", "Show in Sources", self._on_in_sources)
        self.outside = icon_button(
            "arrow-square-out", "Open in the browser", lambda: self.desk.open_outside(self.address())
        )
        row.addWidget(self.previous)
        row.addWidget(self.next)
        self.far.setContentsMargins(12, 0, 0, 0)
        self.far.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)  # gives way in a narrow window
        row.addWidget(self.where)
        row.addWidget(self.far, 1)
        for widget in (
            self.lost,
            self.headings,
            self.fields_button,
            self.marks_button,
            self.look,
            self.status_label,
            self.status,
            self.in_sources,
            self.outside,
        ):
            row.addWidget(widget)
        return bar

    def open(self, place: str, entry_id: int, around: Sequence[int], wanted: "Wanted | None" = None) -> None:
        """Opens an entry.

        Args:
            around: the ids among which previous and next lead, in their order.
            wanted: what a search looked for, which is marked; None where one did not come from a search.
        """
        self.place, self.around, self.looked_for = place, around, wanted
        self.to_found.setVisible(wanted is not None)
        self.ask(entry_id, is_other=True)

    def refresh(self) -> None:
        """Shows the entry as it is now, at the place where one is."""
        if self.wanted is not None:
            self.ask(self.wanted, is_other=self.entry is None or self.entry.id != self.wanted)

    def ask(self, entry_id: int, *, is_other: bool) -> None:
        """Asks for an entry and its text."""
        self.number += 1
        number, place = self.number, self.place
        self.wanted = entry_id

        def done(found: ToRead) -> None:
            if number != self.number:
                return
            if is_other:
                self.note_stop()
            self.whole, text, self.minutes = found.whole, found.shown, found.minutes
            self.marking.show_entry(self.whole)
            self.show_entry(text, is_same=not is_other)
            if is_other:
                self.view.setFocus()
                self.note_read(place, entry_id)
                if self.entry is not None:
                    self.looked_at.emit(place, entry_id, self.entry.title)
                self.view.go_to(found.stopped_at if found.stopped_at and self.looked_for is None else 0)
                self.stopped_at = found.stopped_at
                self.show_hits()

        self.desk.bridge.ask(lambda reader: read(reader, place, entry_id), done)

    def show_hits(self) -> None:
        """Marks what a search looked for, and goes to the first of it; else nothing is marked."""
        wanted = self.looked_for
        if wanted is not None:
            self.finding.show_words([word.rstrip("*") for word in (*wanted.phrases, *wanted.words)])
        elif not self.finding.isHidden():
            self.finding.look(self.finding.words)

    def note_read(self, place: str, entry_id: int) -> None:
        """What was kept for later waits no more once it is opened here."""
        bridge = self.desk.bridge
        note = lambda waits: bridge.do(NoteRead(place, entry_id)) if waits else None  # noqa: E731
        if not self.desk.overview.is_read_only:
            bridge.ask(lambda reader: reader.lists.is_to_be_read(place, entry_id), note)

    # the queue

    @property
    def is_queue_folded(self) -> bool:
        """Whether the person does not want to see the queue."""
        return str(self.desk.settings.value(QUEUE_FOLDED, "false")) == "true"

    def fold_queue(self) -> None:
        """Folds the queue away, or shows it again; so it stays."""
        self.desk.settings.setValue(QUEUE_FOLDED, "false" if self.is_queue_folded else "true")
        self.show_queue()

    def show_queue(self) -> None:
        """Shows where one is in the queue, if there is one."""
        at = self.position()
        self.queue.setVisible(self.whole is not None and len(self.around) > 1 and not self.is_queue_folded)
        self.queue.show_entries(self.place, self.around, at)
        for button in self.queue.buttons[::2]:
            button.setEnabled(not self.desk.overview.is_read_only)

    def finish(self, setting: Setting) -> None:
        """Gives the entry a status, and goes on to the next; what cannot be set is said, and one stays.

        Args:
            setting: the person's, which says what status.
        """
        if self.whole is None:
            return
        status, place = str(self.desk.person.value(setting)), self.whole.place
        field = first_of(place.fields, lambda one: one.key == "status")
        if field is None or status not in [option.name for option in field.options]:
            settings = (("Settings", lambda: self.desk.commands.bound["settings"].run()),)
            self.desk.say(f"“{place.name}” has no status “{status}”: nothing was set.", settings)
            return
        title, entry_id, at = self.whole.entry.title, self.whole.entry.id, self.position()
        is_last = at is not None and at + 1 == len(self.around) > 1
        behind = " That was the last of the queue." if is_last else ""

        def done(warning: str) -> None:
            self.desk.say(warning or f"“{short(title)}”: {status}.{behind}", self.desk.undoing())

        self.desk.bridge.do(SetText(self.place, [entry_id], "status", status), done)
        self.turn(1)

    def postpone(self) -> None:
        """Puts the entry to the end of the queue, and goes on; can be taken back."""
        at, before, entry = self.position(), self.around, self.entry
        if entry is None or at is None or at + 1 >= len(before):
            self.desk.say("It is the last of the queue already.", ())
            return
        place, after = self.place, [*before[:at], *before[at + 1 :], entry.id]
        self.open(place, after[at], after)
        back = (("Undo", lambda: self.open(place, entry.id, before)),)
        self.desk.say(f"“{short(entry.title)}” comes at the end of the queue.", back)

    def turn(self, step: int) -> None:
        """Goes to a neighbour."""
        at = self.position()
        if at is not None and 0 <= at + step < len(self.around):
            self.open(self.place, self.around[at + step], self.around)

    def position(self) -> int | None:
        """Where the entry stands among those around it."""
        ids = list(self.around)
        return ids.index(self.entry.id) if self.entry and self.entry.id in ids else None

    def address(self) -> str:
        """The entry's address, or ""."""
        value = self.entry.value("address") if self.entry else None
        return value if isinstance(value, str) else ""

    def show_entry(self, text: Shown, *, is_same: bool = False) -> None:
        """Shows the entry.

        Args:
            is_same: whether it is the one that was shown, in the same colours.
        """
        whole, at = self.whole, self.position()
        self.stack.setCurrentIndex(0 if whole is None else 1)
        self.previous.setEnabled(at is not None and at > 0)
        self.next.setEnabled(at is not None and at + 1 < len(self.around))
        self.where.setText(f"{at + 1} of {len(self.around)}" if at is not None and len(self.around) > 1 else "")
        self.show_queue()
        for widget in (self.status_label, self.status, self.in_sources, self.outside):
            widget.setVisible(whole is not None)
        if whole is None:
            return
        self.outside.setVisible(bool(self.address()))
        self.show_status(whole)
        head = self.head(whole.entry) + self.note(text.rendered)
        if (text.rendered, head, is_same) == (self.view.shown.rendered, self.view.head, True):
            self.view.show_marks(whole.marks)  # a long text is not laid out anew for each mark
        else:
            self.view.show_text(text, head, whole.marks, stays=is_same)
        self.show_lost()
        self.show_side()
        self.show_far()
        self.headings.setVisible(bool(self.view.headings()))

    def fill_headings(self) -> None:
        """The headings of the text, each of which leads to it."""
        self.headings_menu.clear()
        found = self.view.headings()
        first = min((level for level, _, _ in found), default=1)
        for level, words, at in found:
            indent = "\u2003" * (level - first)
            add_choice(self.headings_menu, f"{indent}{short(words)}", partial(self.view.go_to, at))

    def _on_scrolled(self, _value: int) -> None:
        self.show_far()
        self.stop_rest.start(STOP_REST_MS)

    def note_stop(self) -> None:
        """Notes where one is in the text, for the next time."""
        self.stop_rest.stop()
        if self.whole is None or self.desk.overview.is_read_only:
            return
        at = self.view.first_seen()
        if at != self.stopped_at:
            self.stopped_at = at
            self.desk.bridge.do(NoteStop(self.whole.place.key, self.whole.entry.id, at))

    def is_beside(self, part: str) -> bool:
        """Whether the person wants to see a part beside the text: FIELDS or MARKS."""
        return str(self.desk.settings.value(part, "false")) == "true"

    def turn_beside(self, part: str) -> None:
        """Shows a part beside the text, or puts it away; so it stays. Of fields, the tags have the keyboard."""
        is_shown = not self.is_beside(part)
        self.desk.settings.setValue(part, "true" if is_shown else "false")
        self.show_side()
        tags = self.form.editors.get("tags")
        if part == FIELDS and is_shown and tags is not None:
            tags.setFocus()
        elif not is_shown:
            self.view.setFocus()

    def show_side(self) -> None:
        """Shows fields and marks of the entry beside its text."""
        whole = self.whole
        for part, button, widget in ((FIELDS, self.fields_button, self.form), (MARKS, self.marks_button, self.marks)):
            button.setVisible(whole is not None)
            button.setChecked(self.is_beside(part))
            widget.setVisible(self.is_beside(part))
        self.side.setVisible(whole is not None and (self.is_beside(FIELDS) or self.is_beside(MARKS)))
        if whole is None:
            return
        self.marks_button.setText(f"Marks: {len(whole.marks)}" if whole.marks else "Marks")
        self.marks.show_marks(whole.place.key, whole.entry.id, whole.marks, self.view.marked.lost)
        self.form.show_entry(whole)

    def show_far(self) -> None:
        """Says how long it takes to read, and how far of it was seen."""
        bar = self.view.verticalScrollBar()
        if self.whole is None or bar is None or not self.minutes:
            self.far.setText("")
            return
        seen = (bar.value() + bar.pageStep()) / max(bar.maximum() + bar.pageStep(), 1)
        self.far.setText(f"{self.minutes:,} min to read, {min(seen, 1):.0%} seen")

    def show_lost(self) -> None:
        """Says which marks have lost their place; they are kept."""
        lost = self.view.marked.lost if self.whole is not None else ()
        self.lost.setVisible(bool(lost))
        self.lost.setText(
            f"{len(lost)} mark{'s' if len(lost) > 1 else ''} lost {'their' if len(lost) > 1 else 'its'} place"
        )
        said = "".join(f"<li>{html.escape(one.exact[:200])}<br>{html.escape(one.comment)}</li>" for one in lost)
        self.lost.setToolTip(f"Kept, but their words stand no longer in this text:<ul>{said}</ul>")

    def take_look(self) -> None:
        """Shows the same as the person wants texts to look now, and in the colours of the window."""
        self.view.take_look(ReadingLook.of(self.desk.person))

    def show_status(self, whole: WholeEntry) -> None:
        """Shows the status, where the place has one."""
        field = first_of(whole.place.fields, lambda one: one.key == "status")
        self.status.setVisible(field is not None)
        self.status_label.setVisible(field is not None)
        self.status.setEnabled(not self.desk.overview.is_read_only)
        if field is not None:
            self.status.clear()
            for option in field.options:
                self.status.addItem(option.name, option.colour)
            self.status.setCurrentIndex(self.status.findText(str(whole.entry.value("status") or "")))

    def note(self, rendered: Rendered) -> str:
        """What is said in the place of a text, as HTML; "" where there is one."""
        if rendered.markdown.strip():
            return ""
        if self.address():
            return "<p class='meta'>No text is kept here. Its address can be opened in the browser.</p>"
        return "<p class='meta'>No text is kept here yet. Write some in Sources.</p>"

    def head(self, entry: Entry) -> str:
        """Title and facts, as HTML of our own; every text in it is escaped."""
        people = entry.value("authors")
        names = ", ".join(map(given_first, people)) if isinstance(people, tuple) else ""
        facts = [names, str(entry.value("published") or "")[:10], str(entry.value("site") or "")]
        line = " · ".join(html.escape(fact) for fact in facts if fact)
        address = self.address()
        link = f'<p class="meta"><a href="{html.escape(address)}">{html.escape(address)}</a></p>' if address else ""
        return f'<h1>{html.escape(entry.title)}</h1><p class="meta">{line}</p>{link}<hr>'

    def _on_in_sources(self) -> None:
        if self.entry is not None:
            self.desk.show_entry(self.place, self.entry.id)

    def _on_status(self, index: int) -> None:
        if self.entry is not None:
            text = self.status.itemText(index)
            self.desk.bridge.do(SetText(self.place, [self.entry.id], "status", text), self._on_set)

    def _on_set(self, warning: str) -> None:
        if warning:
            self.desk.say(warning, ())

    def _on_entries_changed(self, place: str, ids: tuple[int, ...]) -> None:
        if self.entry is not None and place == self.place and (not ids or self.entry.id in ids):
            self.refresh()
        if place == self.place:
            self.queue.model.forget()


def read(reader: Reader, place: str, entry_id: int) -> ToRead:
    """An entry with what is needed to read it."""
    whole = reader.entries.whole(place, entry_id)
    if whole is None:
        return ToRead()
    body = without_title(whole.entry.body or "", whole.entry.title)
    words = word_count(body)
    minutes = max(1, round(words / WORDS_A_MINUTE)) if words else 0
    text = shown(reader.entries.rendered(body, whole.entry))
    return ToRead(whole, text, minutes, reader.entries.stopped_at(place, entry_id))


def without_title(body: str, title: str) -> str:
    """The text without a first heading that says the title once more."""
    first, _, rest = body.lstrip().partition("\n")
    return rest if first.lstrip("# ").strip() == title.strip() and first.startswith("#") else body
