"""What is done with marks, wherever they are chosen: copied, gathered for a chapter, written into it, made a note of."""

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import QMimeData, QObject, QPoint, pyqtSignal
from PyQt6.QtWidgets import QApplication, QWidget

from wily_magpie.core.commands.command import StepCommand
from wily_magpie.core.commands.mark_uses import GatherMarks, MarksIntoJournal, NoteFromMarks, UseMarks, WriteDraft
from wily_magpie.core.entries.entry import short
from wily_magpie.core.exchange.quoting import Quotation
from wily_magpie.core.places.api import NOTES_FOLDER, PlaceInfo
from wily_magpie.core.queries.marks import Chapter, FoundMark
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.settings.known import QUOTATION
from wily_magpie.qt.finder import Choice, CommandFinder
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.read.chapter_finder import ChapterFinder
from wily_magpie.qt.stations.read.quotations import mime_of, quote

TITLE_SIGNS, BELOW_PX = 60, 48
NO_MARKS = "No mark is chosen: click one in the text, or choose some in the list of all marks (Shift+F6)."
NO_PLACE = "There is no place for a note yet: add a notes folder in Sources."


class MarkUsing(QObject):
    """See the module.

    Attributes:
        chapter: where marks are gathered just now: the key of its place, its id, its title.

    Signals:
        chapter_chosen: it is another one. used: marks went outside.
    """

    chapter_chosen = pyqtSignal()
    used = pyqtSignal()

    def __init__(self, desk: StationContext, over: QWidget) -> None:
        super().__init__(over)
        self.desk, self.over = desk, over
        self.chapter: tuple[str, int, str] | None = None
        self.finder: CommandFinder | None = None

    @property
    def may_change(self) -> bool:
        """Whether anything can be gathered and written here."""
        return not self.desk.overview.is_read_only

    def quoting(self, found: Sequence[FoundMark]) -> Callable[[Reader], Quotation]:
        """What makes quotations of marks, as the person quotes now."""
        pattern = str(self.desk.person.value(QUOTATION))
        return lambda reader: quote(reader, found, pattern)

    def quoted(self, found: Sequence[FoundMark], take: Callable[[Quotation], object]) -> None:
        """Makes quotations of marks."""
        self.desk.bridge.ask(self.quoting(found), take)

    def as_data(self, found: Sequence[FoundMark], take: Callable[[QMimeData], object]) -> None:
        """The same as other programs take it."""
        self.quoted(found, lambda made: take(mime_of(made)))

    def say_let_go(self, found: Sequence[FoundMark]) -> None:
        """A drag ended before its quotations were made: they can be had otherwise."""
        what = "the quotation was" if len(found) == 1 else f"the {len(found):,} quotations were"
        self.desk.say(f"You let go before {what} made.", (("Copy instead", lambda: self.copy(found)),))

    def copy(self, found: Sequence[FoundMark], *, is_plain: bool = False) -> None:
        """Copies marks as quotations: Markdown, and rich text; or as plain text alone."""
        if not found:
            self.desk.say(NO_MARKS, ())
            return

        def done(made: Quotation) -> None:
            clipboard = QApplication.clipboard()
            if clipboard is not None and is_plain:
                clipboard.setText(made.plain)
            elif clipboard is not None:
                clipboard.setMimeData(mime_of(made))
            self.note_use(found)
            many = f"{len(found)} quotations are" if len(found) > 1 else "Copied as a quotation"
            self.desk.say(f"{many} copied, with their sources." if len(found) > 1 else f"{many} with its source.", ())

        self.desk.copying.ask(self.quoting(found), done)

    def note_use(self, found: Sequence[FoundMark]) -> None:
        """Notes that marks went outside."""
        if self.may_change:
            self.desk.bridge.do(UseMarks(tuple(one.number for one in found)), lambda _none: self.used.emit())

    # a chapter

    def choose_chapter(self, then: Callable[[], object] | None = None) -> None:
        """Asks which text marks are gathered for."""

        def chosen(place: str, entry_id: int, title: str) -> None:
            self.chapter = place, entry_id, title
            self.chapter_chosen.emit()
            if then is not None:
                then()

        def ask(known: list[Chapter]) -> None:
            self.open_finder(ChapterFinder(self.desk, known, chosen, self.over.window() or self.over))

        self.desk.bridge.ask(lambda reader: reader.marks.chapters(), ask)

    def open_finder(self, finder: CommandFinder) -> None:
        """Opens a finder below the top line."""
        self.finder = finder
        window = self.over.window() or self.over
        at = window.mapToGlobal(QPoint(0, 0))
        finder.move(at.x() + (window.width() - finder.width()) // 2, at.y() + BELOW_PX)
        finder.show()

    def add(self, found: Sequence[FoundMark]) -> None:
        """Adds marks to the chapter; where none is chosen yet, it is asked for."""
        if not found:
            self.desk.say(NO_MARKS, ())
        elif self.chapter is None:
            self.choose_chapter(lambda: self.add(found))
        elif self.may_change:
            place, entry_id, title = self.chapter
            numbers = tuple(one.number for one in found)
            many = "1 mark is" if len(found) == 1 else f"{len(found)} marks are"
            self.desk.bridge.do(
                GatherMarks(place, entry_id, numbers),
                lambda _none: self.desk.say(f"{many} gathered for “{short(title)}”.", self.desk.undoing()),
            )

    def write(self, found: Sequence[FoundMark]) -> None:
        """Writes marks as a draft behind the text of the chapter."""
        if self.chapter is None or not found or not self.may_change:
            return
        place, entry_id, title = self.chapter
        numbers = tuple(one.number for one in found)

        def told(_none: None) -> None:
            many = "1 quotation is" if len(found) == 1 else f"{len(found)} quotations are"
            seen = ("Read it", lambda: self.desk.read_entry(place, entry_id, ()))
            self.desk.say(f"{many} written into “{short(title)}”.", (seen, *self.desk.undoing()))

        def made(quotation: Quotation) -> None:
            command = WriteDraft(place, entry_id, numbers, quotation.markdown)
            self.desk.bridge.do(command, told, self.desk.complain)

        self.quoted(found, made)

    # a note

    def new_note(self, found: Sequence[FoundMark]) -> None:
        """Makes a note of marks; where there are several places for it, it is asked which."""
        overview = self.desk.overview
        folders = [one for one in overview.places if one.nature == NOTES_FOLDER]
        self.with_place(found, folders or list(overview.places), self.make_note, "Where is the note to be?")

    def into_journal(self, found: Sequence[FoundMark]) -> None:
        """Writes marks into today's page; where there are several notes folders, it is asked which."""
        folders = [one for one in self.desk.overview.places if one.nature == NOTES_FOLDER]
        self.with_place(found, folders, self.write_journal, "Today's page of which notes folder?")

    def with_place(
        self,
        found: Sequence[FoundMark],
        places: Sequence[PlaceInfo],
        do: Callable[[str, Sequence[FoundMark]], object],
        asks: str,
    ) -> None:
        """Does something with marks in a place; asks which, where there are several."""
        if not found or not places or not self.may_change:
            self.desk.say(NO_MARKS if places else NO_PLACE, ())
        elif len(places) == 1:
            do(places[0].key, found)
        else:
            choices = [Choice(one.name, one.nature.noun, partial(do, one.key, found)) for one in places]
            self.open_finder(CommandFinder(choices, self.over.window() or self.over, asks))

    def make_note(self, place: str, found: Sequence[FoundMark]) -> None:
        """Makes a note in a place."""
        words = " ".join(found[0].mark.exact.split()) or found[0].entry.title
        title = short(words, TITLE_SIGNS)
        told = f"New in {self.desk.overview.place(place).name}: “{short(title)}”."
        self.write_quoted(place, found, told, lambda text, numbers: NoteFromMarks(place, title, text, numbers))

    def write_journal(self, place: str, found: Sequence[FoundMark]) -> None:
        """Writes into today's page of a notes folder."""
        told = f"Written into today's page of {self.desk.overview.place(place).name}."
        self.write_quoted(place, found, told, lambda text, numbers: MarksIntoJournal(place, text, numbers))

    def write_quoted(
        self,
        place: str,
        found: Sequence[FoundMark],
        told: str,
        command: Callable[[str, tuple[int, ...]], StepCommand[int]],
    ) -> None:
        """Does a command with the quotations of marks, and says what was made."""
        numbers = tuple(one.number for one in found)

        def say(made: int) -> None:
            seen = ("Read it", lambda: self.desk.read_entry(place, made, ()))
            self.desk.say(told, (seen, *self.desk.undoing()))

        self.quoted(found, lambda made: self.desk.bridge.do(command(made.markdown, numbers), say, self.desk.complain))
