"""The text that is read, a part of it at a time where it is long: with its marks, what is looked for, and the way to other parts."""

from collections.abc import Callable, Sequence
from functools import cached_property, partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.mark import Mark
from wily_magpie.qt.find_bar import FindBar
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.reading import ReadingView
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.read.marking import ReadMarking
from wily_magpie.qt.stations.read.part_bar import PartBar
from wily_magpie.qt.stations.read.speaking import Speaking, engines
from wily_magpie.qt.stations.read.to_read import ComeIn, ToRead
from wily_magpie.qt.style.parts import timer
from wily_magpie.qt.style.reading_look import ReadingLook

COMMENTS_PX, PASSAGE_SIGNS, REST_MS = 130, 90, 60
Headings = list[tuple[int, str, Callable[[], object]]]
"""Level, words, and what goes there."""


class TextParts(QWidget):
    """See the module. What is looked for is typed in `finding`, which stands elsewhere.

    Attributes:
        read: what is shown.

    Signals:
        asked: where one wants to come in (ComeIn), in another part.
    """

    asked = pyqtSignal(object)

    def __init__(self, desk: StationContext) -> None:
        super().__init__()
        self.desk, self.asking_hits = desk, LastAsked(desk.bridge)
        self.read = ToRead()
        self.pointed: Mark | None = None
        self.heading = 0
        """The mark, or the heading of the part that is asked for, at which one comes in."""
        self.view = ReadingView(look=ReadingLook.of(desk.person))
        self.view.went_beyond.connect(self.turn)
        self.marking = ReadMarking(desk, self.view)
        self.bar = PartBar()
        self.bar.turned.connect(self.turn)
        self.speaking = Speaking(self.view)
        self.finding = FindBar(self.view, self.view.marked.show_found, self.ask_hits)
        self.finding.part_asked.connect(self.go_to)
        self.finding.closed.connect(self.view.setFocus)
        self.view.laid.connect(self.finding.mark_all)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.comments = QListWidget()
        self.comments.setAccessibleName("Comments on marks")
        self.comments.setWordWrap(True)
        self.comments.setMaximumHeight(COMMENTS_PX)
        self.comments.itemClicked.connect(self._on_comment)
        self.comments.itemActivated.connect(self._on_comment)
        self.comments.hide()
        self.commented: tuple[Mark, ...] = ()
        self.narrow: tuple[Mark, ...] = ()
        self.has_list = False
        """Whether the list of marks stands beside the text, with the comments."""
        self.rest = timer(self, self.fill_comments)
        self.view.marked.tell_narrow = self.show_comments
        column.addWidget(self.view, 1)
        column.addWidget(self.comments)
        column.addWidget(self.bar)

    def show_text(self, found: ToRead, head: str, *, is_same: bool) -> None:
        """Shows a part of a text.

        Args:
            head: HTML of our own above it.
            is_same: whether it is the part that was shown.
        """
        if not is_same:
            self.speaking.stop()
        self.read = found
        rendered = found.shown.rendered
        if (rendered, head, is_same) == (self.view.shown.rendered, self.view.head, True):
            self.view.show_marks(found.marks)  # a long text is not laid out anew for each mark
        else:
            self.view.show_text(found.shown, head, found.marks, stays=is_same)
        self.bar.show_part(found.text, found.part)

    def show_comments(self, marks: Sequence[Mark]) -> None:
        """Shows comments below the text, where they have no room beside it; each leads to its passage."""
        self.narrow = tuple(marks)
        self.rest.start(REST_MS)  # the text may be about to make room

    def fill_comments(self) -> None:
        """Lists them."""
        marks = () if self.has_list else self.narrow
        if marks == self.commented:
            return
        self.commented = marks
        self.comments.clear()
        for mark in marks:
            words = " ".join(mark.exact.split())
            item = QListWidgetItem(f"{mark.comment}\n“{short(words, PASSAGE_SIGNS)}” ({mark.kind})")
            self.comments.addItem(item)
        self.comments.setVisible(bool(marks))

    def _on_comment(self, item: QListWidgetItem) -> None:
        self.marking.show_mark(self.commented[self.comments.row(item)])

    def begin(self, words: Sequence[str] | None) -> None:
        """Comes into another text: where one stopped, or at what a search looked for.

        Args:
            words: of the search; None where one did not come from one.
        """
        self.view.setFocus()
        self.view.go_to_letter(self.read.stopped_at if words is None else 0)
        self.finding.show_part(self.read.part)
        if words is not None:
            self.finding.show_words(words)
        elif not self.finding.isHidden():
            self.finding.look(self.finding.words)
        self.point()

    def begin_part(self) -> None:
        """Comes into another part of the same text: at its beginning, or at what was asked for."""
        wanted, self.heading = self.heading, 0
        named = self.view.headings()
        self.view.go_to(named[wanted][2] if 0 < wanted < len(named) else 0)
        self.finding.show_part(self.read.part)
        self.point()

    def point(self) -> None:
        """Goes to the mark that was asked for."""
        mark, self.pointed = self.pointed, None
        if mark is not None:
            self.marking.show_mark(mark)

    @cached_property
    def engines(self) -> list[str]:
        """What can speak here."""
        return engines()

    def speak(self) -> None:
        """Reads what is shown aloud, or stops that."""
        entry = self.read.whole.entry if self.read.whole is not None else None
        language = str(entry.value("language") or "") if entry is not None else ""
        is_on = self.speaking.turn(self.engines[0], language)
        self.desk.say("It is read aloud; the same keys stop it." if is_on else "Reading aloud has stopped.", ())

    @property
    def stop(self) -> int:
        """Where one is in the whole text, as it is noted for the next time."""
        return self.read.text.starts[self.read.part] + self.view.first_seen()

    @property
    def lost(self) -> tuple[Mark, ...]:
        """Marks whose words do not stand in the text any more; those of a page or moment of a file stand there."""
        return (*self.read.lost, *(mark for mark in self.view.marked.lost if not mark.locator))

    @property
    def span(self) -> tuple[float, float]:
        """The share of the whole text that stands before the part, and that of the part."""
        text, part = self.read.text, self.read.part
        whole = max(len(text.text), 1)
        return text.starts[part] / whole, len(text.raw(part)) / whole if len(text) > 1 else 1.0

    def turn(self, step: int) -> None:
        """Goes to the part before or behind, where there is one."""
        if 0 <= self.read.part + step < len(self.read.text):
            self.go_to(self.read.part + step)

    def go_to(self, part: int) -> None:
        """Shows a part."""
        self.asked.emit(ComeIn(part))

    def show_mark(self, mark: Mark) -> None:
        """Shows a mark at its place, in whichever part."""
        part = self.read.text.part_of(mark)
        if part is None or part == self.read.part:
            self.marking.show_mark(mark)
        else:
            self.pointed = mark
            self.go_to(part)

    def ask_hits(self, pattern: str, take: Callable[[list[int]], object]) -> None:
        """Counts what is found in each part; only where there are several."""
        text = self.read.text
        if len(text) > 1:
            self.asking_hits.ask(lambda _reader: text.hits(pattern), take)
        else:
            self.asking_hits.forget()

    @property
    def has_headings(self) -> bool:
        """Whether there is one, or there are parts to go to."""
        return len(self.read.text) > 1 or bool(self.view.headings())

    def headings(self) -> Headings:
        """All headings of the whole text."""
        out: Headings = []
        for part in range(len(self.read.text)):
            if part == self.read.part:
                out += [(level, words, partial(self.view.go_to, at)) for level, words, at in self.view.headings()]
            else:
                named = enumerate(self.read.text.headings(part))
                out += [(level, words, partial(self.go_to_heading, part, at)) for at, (level, words) in named]
        return out

    def go_to_heading(self, part: int, number: int) -> None:
        """Shows another part, at one of its headings."""
        self.heading = number
        self.go_to(part)
