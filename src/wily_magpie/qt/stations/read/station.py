"""The Read station: the kept text at a reading measure, the entry's facts above it, its neighbours a key away."""

from collections.abc import Callable, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QSplitter,
    QStackedWidget,
    QWidget,
)

from wily_magpie.core.commands.entries import SetText
from wily_magpie.core.commands.lists import NoteRead
from wily_magpie.core.commands.reading import NoteStop
from wily_magpie.core.entries.entry import Entry, short
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.entries.moments import MOMENT
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.core.settings.known import ASIDE_STATUS, DONE_STATUS
from wily_magpie.core.settings.setting import Setting
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.read.bar import ReadBar
from wily_magpie.qt.stations.read.files_shown import FilesShown, readable
from wily_magpie.qt.stations.read.finishing import set_status
from wily_magpie.qt.stations.read.look_panel import LookPanel
from wily_magpie.qt.stations.read.queue import Queue
from wily_magpie.qt.stations.read.side import FIELDS, MARKS, SIDE_PX, Side
from wily_magpie.qt.stations.read.text_parts import TextParts
from wily_magpie.qt.stations.read.to_read import ComeIn, ToRead, address_of, head_of, looked_for, note_for, read
from wily_magpie.qt.stations.read.using import MarkUsing
from wily_magpie.qt.style.parts import bare_column, in_column, label, timer
from wily_magpie.qt.style.reading_look import ReadingLook

if TYPE_CHECKING:
    from wily_magpie.core.queries.marks import FoundMark, MarkScope
    from wily_magpie.core.queries.search import Wanted
    from wily_magpie.qt.stations.read.marks_desk import MarksDesk

STOP_REST_MS = 700
"""How long one must have stayed at a place of the text before it is noted."""
QUEUE_FOLDED, QUEUE_PX = "read/queue_folded", 240
NOTHING_OPEN = "Nothing is open.\n\nChoose an entry in Sources and press Space."


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
        self.asking = LastAsked(desk.bridge)
        self.stopped_at = 0
        self.stop_rest = timer(self, self.note_stop)
        self.wants_fields = False
        """Whether the entry that is opened is to be filled in."""
        self.looked_for: Wanted | None = None
        self.wanted: int | None = None
        """What was asked for last, and may still be on its way."""
        self.coming: ComeIn | None = None
        """Where one comes in, while it is on its way."""
        self.using = MarkUsing(desk, self)
        self.text = TextParts(desk)
        self.text.asked.connect(self.come_in)
        self.view, self.marking, self.finding = self.text.view, self.text.marking, self.text.finding
        self.view.followed.connect(self.follow)
        self.bar = self.make_bar()
        self.look_panel = LookPanel(desk, self)
        self.look_panel.held.connect(self.take_look)
        bar = self.view.verticalScrollBar()
        if bar is not None:
            bar.valueChanged.connect(self._on_scrolled)
            bar.rangeChanged.connect(lambda *_range: self.show_far())
        empty = label(NOTHING_OPEN, "empty")
        empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.stack, self.faces = QStackedWidget(), QStackedWidget()
        self.stack.addWidget(empty)
        self.stack.addWidget(self.text)
        self.files = FilesShown(desk, self.stack, self.show_side)
        self.splitter = self.make_splitter()
        self.faces.addWidget(in_column(self.bar, self.finding, self.splitter))
        bare_column(self).addWidget(self.faces)
        desk.bridge.entries_changed.connect(self._on_entries_changed)
        desk.bridge.pictures_kept.connect(lambda place: self.refresh() if place in ("", self.place) else None)
        self.take_look()
        self.show_entry(ToRead())

    def make_bar(self) -> ReadBar:
        """The line above the text."""
        made = ReadBar(self.view, self.text.headings)
        made.found_asked.connect(self.desk.show_found)
        made.all_marks_asked.connect(self.show_marks)
        made.turned.connect(self.turn)
        made.file_asked.connect(lambda name: self.files.open(name))
        made.status_chosen.connect(self._on_status)
        made.fields_asked.connect(lambda: self.turn_beside(FIELDS))
        made.marks_asked.connect(lambda: self.turn_beside(MARKS))
        made.look_asked.connect(lambda: self.look_panel.open_below(made.look))
        made.sources_asked.connect(self._on_in_sources)
        made.outside_asked.connect(lambda: self.desk.open_outside(self.address()))
        return made

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
        self.side = Side(self.desk)
        self.side.pointed.connect(self.show_mark)
        made.addWidget(self.side)
        made.setStretchFactor(1, 1)
        made.setSizes([QUEUE_PX, 780, SIDE_PX])
        return made

    @property
    def entry(self) -> Entry | None:
        """The entry that is read."""
        return self.whole.entry if self.whole is not None else None

    def follow(self, address: str) -> None:
        """Opens a link: a note of the same folder here, a moment in the film or recording, all else in the system's browser."""
        entry = self.entry
        if entry is None:
            return
        if address.startswith(MOMENT):
            self.files.go_to_moment(int(address.removeprefix(MOMENT)), self.address())
            return

        def done(found: int | None) -> None:
            if found is not None:
                self.open(self.place, found, ())
            else:
                self.desk.open_outside(address)

        self.desk.bridge.ask(lambda reader: reader.notes.note_at(entry, address), done)

    def open(
        self,
        place: str,
        entry_id: int,
        around: Sequence[int],
        wanted: "Wanted | None" = None,
        mark: Mark | None = None,
    ) -> None:
        """Opens an entry.

        Args:
            around: the ids among which previous and next lead, in their order.
            wanted: what a search looked for, which is marked; None where one did not come from a search.
            mark: where one comes in; None for where one stopped.
        """
        self.place, self.around, self.looked_for = place, around, wanted
        self.text.pointed = mark
        self.bar.to_found.setVisible(wanted is not None)
        self.bar.to_marks.setVisible(mark is not None)
        self.faces.setCurrentIndex(0)
        words = tuple(looked_for(wanted)) if wanted is not None else ()
        self.ask(entry_id, ComeIn(None, mark, words), is_other=True)

    def refresh(self) -> None:
        """Shows the entry as it is now, at the place where one is."""
        if self.wanted is not None:
            is_other = self.entry is None or self.entry.id != self.wanted
            self.ask(self.wanted, self.coming or ComeIn(self.text.read.part), is_other=is_other)

    def ask(self, entry_id: int, at: ComeIn, *, is_other: bool) -> None:
        """Asks for an entry and its text, or a part of that."""
        place = self.place
        self.wanted, self.coming = entry_id, at

        def done(found: ToRead) -> None:
            self.coming = None
            if is_other:
                self.note_stop()
            is_same = not is_other and found.part == self.text.read.part
            self.whole = found.whole
            self.files.show_entry(found.whole)
            self.marking.show_entry(self.whole)
            self.show_entry(found, is_same=is_same)
            if is_other:
                self.begin_reading()
            elif not is_same:
                self.text.begin_part()

        hyphens = self.view.look.has_hyphens
        self.asking.ask(lambda reader: read(reader, place, entry_id, at, hyphens=hyphens), done)

    def come_in(self, at: ComeIn) -> None:
        """Shows another part of the same text."""
        if self.entry is not None:
            self.note_stop()
            self.ask(self.entry.id, at, is_other=False)

    def begin_reading(self) -> None:
        """An entry was opened that was not before."""
        if self.entry is not None:
            self.note_read(self.place, self.entry.id)
            self.looked_at.emit(self.place, self.entry.id, self.entry.title)
        self.text.begin(looked_for(self.looked_for) if self.looked_for is not None else None)
        if self.wants_fields:
            self.wants_fields = False
            self.write_summary()
        files = list(readable(self.whole)) if self.whole is not None else []
        if files and not self.text.read.text.text.strip():
            self.files.open(files[0])  # there is nothing else to be read
        self.stopped_at = self.text.stop if self.looked_for is None else 0

    def note_read(self, place: str, entry_id: int) -> None:
        """What was kept for later waits no more once it is opened here."""
        bridge = self.desk.bridge
        note = lambda waits: bridge.do(NoteRead(place, entry_id)) if waits else None  # noqa: E731
        if not self.desk.overview.is_read_only:
            bridge.ask(lambda reader: reader.lists.is_to_be_read(place, entry_id), note)

    def show_mark(self, mark: Mark) -> None:
        """Shows a mark at its place: in the file that is shown, in the text, or in the file on whose page it is."""
        if self.files.name and self.files.show_mark(mark):
            return
        names = list(readable(self.whole)) if self.whole is not None and mark.locator else []
        if names and mark in self.view.marked.lost:
            self.files.open(names[0], mark)
            return
        if self.files.name:
            self.files.close()
        self.text.show_mark(mark)

    def find_words(self) -> None:
        """Begins to look for words in what is shown."""
        if self.files.shows_pdf and self.files.pdf is not None:
            self.files.pdf.line.setFocus()
        elif not self.files.name:
            self.finding.open()

    def find_next(self, by: int) -> None:
        """Goes to the next of what is found, or to the one before."""
        if self.files.shows_pdf and self.files.pdf is not None:
            self.files.pdf.go(by)
        else:
            self.finding.go(by)

    # all marks

    @property
    def shows_text(self) -> bool:
        """Whether a text is seen, and not the list of all marks."""
        return self.entry is not None and self.faces.currentIndex() == 0

    @cached_property
    def marks_desk(self) -> "MarksDesk":
        """All marks, and what is gathered of them."""
        from wily_magpie.qt.stations.read.marks_desk import MarksDesk  # seldom needed

        made = MarksDesk(self.desk, self.using)
        made.left.connect(lambda: self.faces.setCurrentIndex(0))
        made.opened.connect(lambda found, ids: self.open(found.place.key, found.entry.id, ids, None, found.mark))
        self.faces.addWidget(made)
        return made

    def show_marks(self, name: str = "", scope: "MarkScope | None" = None) -> None:
        """Shows all marks of some entries, a place or the library; without any, those that were shown last."""
        self.marking.keep_comment()
        self.marks_desk.show_scope(name, scope or self.marks_desk.scope)
        self.faces.setCurrentWidget(self.marks_desk)

    def with_marks(self, do: "Callable[[Sequence[FoundMark]], object]") -> None:
        """Does something with the marks that are chosen: of the list of all, else the one that is open in the text."""
        whole, mark = self.whole, self.marking.open
        if self.files.shows_pdf and self.files.pdf is not None:
            mark = self.files.pdf.open
        if not self.shows_text and self.faces.currentIndex() == 1:
            do(self.marks_desk.chosen())
        elif whole is None or mark is None:
            do(())
        else:
            key, entry_id = whole.place.key, whole.entry.id
            self.desk.bridge.ask(lambda reader: reader.marks.of_mark(key, entry_id, mark), do)

    def copy_quotation(self) -> None:
        """Copies what is chosen, with its source."""
        if self.shows_text and self.files.shows_pdf and self.files.pdf is not None:
            self.marking.copy(self.files.pdf.chosen())
        elif self.shows_text:
            self.marking.copy()
        else:
            self.with_marks(self.using.copy)

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
        entry, at = self.whole.entry, self.position()
        is_last = at is not None and at + 1 == len(self.around) > 1
        behind = " That was the last of the queue." if is_last else ""
        if set_status(self.desk, self.whole.place, entry, setting, behind, lambda: self.fill_in(entry.place, entry.id)):
            self.turn(1)

    def fill_in(self, place: str, entry_id: int) -> None:
        """Opens an entry that lacks something, with its fields beside it."""
        self.wants_fields = True
        self.open(place, entry_id, self.around)

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
        return address_of(self.entry) if self.entry is not None else ""

    def show_entry(self, found: ToRead, *, is_same: bool = False) -> None:
        """Shows the entry, or a part of it.

        Args:
            is_same: whether it is the one that was shown, in the same colours.
        """
        whole, at = self.whole, self.position()
        if not self.files.name:
            self.stack.setCurrentIndex(0 if whole is None else 1)
        self.bar.show_place(at, len(self.around))
        self.bar.show_entry(whole, self.address(), may_change=not self.desk.overview.is_read_only)
        self.show_queue()
        if whole is not None:
            head = head_of(whole.entry, found.part) + note_for(found.shown.rendered, self.address())
            self.text.show_text(found, head, is_same=is_same)
            self.bar.show_lost(self.text.lost)
            self.bar.headings.setVisible(self.text.has_headings)
            self.show_far()
        self.show_side()

    def show_far(self) -> None:
        """Says how far one is in the whole text."""
        self.bar.show_far(self.text.read.minutes, *self.text.span)

    def _on_scrolled(self, _value: int) -> None:
        self.show_far()
        self.stop_rest.start(STOP_REST_MS)

    def note_stop(self) -> None:
        """Notes where one is in the text, for the next time."""
        self.stop_rest.stop()
        self.files.note_stop()
        if self.whole is None or self.desk.overview.is_read_only:
            return
        at = self.text.stop
        if at != self.stopped_at:
            self.stopped_at = at
            self.desk.bridge.do(NoteStop(self.whole.place.key, self.whole.entry.id, at))

    def turn_beside(self, part: str) -> None:
        """Shows fields or marks beside the text, or puts them away."""
        is_shown = self.side.turn(part)
        self.show_side()
        if is_shown and part == FIELDS:
            self.side.take_focus()
        elif not is_shown:
            self.view.setFocus()

    def write_summary(self) -> None:
        """Opens the fields beside the text, with the keyboard in the person's own summary."""
        if not self.side.is_shown(FIELDS):
            self.side.turn(FIELDS)
        self.show_side()
        self.side.take_focus("summary")

    def show_side(self) -> None:
        """Shows what is wanted beside the text."""
        self.side.show_entry(self.whole, self.text.lost, self.text.read.text)
        self.text.has_list = self.side.is_shown(MARKS)
        self.text.fill_comments()
        self.bar.fields.setChecked(self.side.is_shown(FIELDS))
        self.bar.marks.setChecked(self.side.is_shown(MARKS))

    def take_look(self) -> None:
        """Shows the same as the person wants texts to look now, and in the colours of the window."""
        had_hyphens = self.view.look.has_hyphens
        self.view.take_look(ReadingLook.of(self.desk.person))
        if self.view.look.has_hyphens != had_hyphens:
            self.refresh()

    def _on_in_sources(self) -> None:
        if self.entry is not None:
            self.desk.show_entry(self.place, self.entry.id)

    def _on_status(self, status: str) -> None:
        if self.entry is not None:
            self.desk.bridge.do(SetText(self.place, [self.entry.id], "status", status), self._on_set)

    def _on_set(self, warning: str) -> None:
        if warning:
            self.desk.say(warning, ())

    def _on_entries_changed(self, place: str, ids: tuple[int, ...]) -> None:
        if place == self.place and (not ids or self.wanted in ids):  # also where it is on its way, as it was before
            self.refresh()
        if place == self.place:
            self.queue.model.forget()
