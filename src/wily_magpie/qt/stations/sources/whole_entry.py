"""One entry over the whole width: its fields, its text beside the preview, what refers to it, what happened to it."""

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QPixmap, QTextCursor
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSplitter, QVBoxLayout, QWidget

from wily_magpie.core.commands.entries import BringBackState
from wily_magpie.core.entries.entry import Entry, short
from wily_magpie.core.entries.happening import Happening
from wily_magpie.core.entries.living_list import lists_in
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.core.queries.notes import Around, headings, word_count
from wily_magpie.qt.editors.entry_marks import EntryMarks
from wily_magpie.qt.editors.field_editor import NamesFor
from wily_magpie.qt.entry_form import EntryForm
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.pictures import decoded
from wily_magpie.qt.reading import ReadingView, Shown, shown
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.body_editor import BodyEditor
from wily_magpie.qt.stations.sources.note_side import NoteSide
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.parts import (
    PlainLabel,
    icon_button,
    in_row,
    label,
    plain_tip,
    scroll_area,
    tell_rest,
    text_button,
    timer,
)
from wily_magpie.qt.style.reading_look import PREVIEW_LINE, ReadingLook

PREVIEW_REST_MS = 250
PICTURE_PX, WIDEST_PICTURE_PX, ICON_PX = 150, 224, 20
PREVIEW_SIZE_PT = 11.0
MOST_CHANGE_LETTERS, MOST_HEADINGS, LONGEST_HEADING = 90, 40, 30
MOST_REFERS, MOST_EVENTS, MOST_CHANGES = 60, 60, 8
TOOLS = (
    ("text-h", "Heading", "## ", ""),
    ("text-bolder", "Strong", "**", "**"),
    ("text-italic", "Emphasis", "*", "*"),
    ("quotes", "Quotation", "> ", ""),
    ("list-bullets", "List", "- ", ""),
    ("list-numbers", "Numbered list", "1. ", ""),
    ("link", "Link", "[", "](https://)"),
    ("code", "Code", "`", "`"),
)
"""(icon, name, what comes before, what comes behind); where nothing comes behind, it is put before each line."""


PAGE, BOTH, TEXT = range(3)
FACES = (
    ("Page", "The entry as it is read"),
    ("Beside", "Its text in Markdown, and beside it as it is read"),
    ("Text", "Its text in Markdown alone"),
)
NOT_READ = ("It is not UTF-8", "It is larger than")
"""How faults begin with which a note's text is not shown."""
"""How the fault of a note begins whose text is not what stands in its file."""
FACE_KEY = "whole/face"


class WholeEntryPage(QWidget):
    """Shows one entry.

    Signals:
        left: back to the table.
        turned: -1 or +1: to the entry before or behind.
    """

    left = pyqtSignal()
    turned = pyqtSignal(int)

    def __init__(self, desk: StationContext, names_for: NamesFor, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.place = ""
        self.entry: Entry | None = None
        self.asking, self.asking_more = LastAsked(desk.bridge), LastAsked(desk.bridge)
        self.asking_around, self.asking_preview = LastAsked(desk.bridge), LastAsked(desk.bridge)
        self.around: Around | None = None
        self.wanted: tuple[str, int] | None = None
        """What was asked for last, and may still be on its way."""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.make_bar())
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        self.splitter.setHandleWidth(1)
        self.form = EntryForm(desk, names_for)
        self.splitter.addWidget(self.make_left())
        self.text_box = self.make_text()
        self.splitter.addWidget(self.text_box)
        self.preview = ReadingView(look=ReadingLook(size_pt=PREVIEW_SIZE_PT, line_percent=PREVIEW_LINE))
        self.preview.followed.connect(self.follow)
        self.splitter.addWidget(self.preview)
        self.splitter.addWidget(self.make_right())
        self.splitter.setSizes([220, 370, 440, 240])
        column.addWidget(self.splitter, 1)
        self.show_face(int(desk.settings.value(FACE_KEY, BOTH)))
        self.rest = timer(self, self.show_preview)
        self.body.textChanged.connect(lambda: self.rest.start(PREVIEW_REST_MS))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
            return
        super().keyPressEvent(event)

    def make_bar(self) -> QWidget:
        bar = QWidget()
        bar.setObjectName("footline")
        row = QHBoxLayout(bar)
        row.setContentsMargins(10, 6, 10, 6)
        row.setSpacing(4)
        self.back = QPushButton("Back to the table")
        self.back.setToolTip("Esc")
        self.back.clicked.connect(self.left)
        row.addWidget(self.back)
        row.addWidget(icon_button("caret-up", "The entry before (Alt+Up)", lambda: self.turned.emit(-1)))
        row.addWidget(icon_button("caret-down", "The entry behind (Alt+Down)", lambda: self.turned.emit(1)))
        self.icon = PlainLabel()
        self.icon.setAccessibleName("Icon of the site")
        self.icon.setContentsMargins(10, 0, 0, 0)
        row.addWidget(self.icon)
        self.title = label("", "heading")
        self.title.setContentsMargins(10, 0, 0, 0)
        row.addWidget(self.title, 1)
        self.faces = []
        for number, (name, tip) in enumerate(FACES):
            button = text_button(name, "", partial(self.show_face, number))
            button.setCheckable(True)
            button.setObjectName("beside")
            button.setToolTip(plain_tip(tip))
            row.addWidget(button)
            self.faces.append(button)
        return bar

    def make_left(self) -> QWidget:
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(14, 10, 12, 14)
        self.picture = PlainLabel()
        self.picture.setAccessibleName("Lead picture")
        column.addWidget(self.picture)
        column.addWidget(self.form)
        column.addStretch(1)
        return scroll_area(inside)

    def make_text(self) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(10, 8, 10, 10)
        column.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(0)
        for icon, name, before, behind in TOOLS:
            row.addWidget(icon_button(icon, name, partial(self.wrap, before, behind)))
        row.addStretch(1)
        column.addLayout(row)
        self.body = BodyEditor(self.desk)
        column.addWidget(self.body, 1)
        self.count = label("", "origin")
        column.addWidget(self.count)
        return box

    def make_right(self) -> QWidget:
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(14, 10, 12, 14)
        column.setSpacing(4)
        self.side = NoteSide(self.desk, self.keep_text)
        self.side.opened.connect(self._on_note)
        self.side.list_asked.connect(self.change_list)
        self.side.more_asked.connect(self.ask_around)
        column.addWidget(self.side)
        self.headings_head = label("Headings")
        column.addWidget(self.headings_head)
        self.headings = QVBoxLayout()
        self.headings.setSpacing(0)
        column.addLayout(self.headings)
        self.refers_head = label("What refers here")
        column.addWidget(self.refers_head)
        self.refers = QVBoxLayout()
        self.refers.setSpacing(2)
        column.addLayout(self.refers)
        self.marks = EntryMarks(self.desk.bridge)
        self.marks.setContentsMargins(0, 14, 0, 0)
        self.marks.pointed.connect(self.preview.point_at)
        column.addWidget(self.marks)
        head = label("What happened")
        head.setContentsMargins(0, 14, 0, 0)
        column.addWidget(head)
        self.events = QVBoxLayout()
        self.events.setSpacing(10)
        column.addLayout(self.events)
        column.addStretch(1)
        return scroll_area(inside)

    def show_entry(self, place: str, entry_id: int) -> None:
        """Shows an entry, once it is fetched, with what refers here and what happened."""
        self.wanted = (place, entry_id)
        is_other = self.entry is None or (self.place, self.entry.id) != (place, entry_id)
        self.body.setReadOnly(is_other or self.desk.overview.is_read_only)  # nothing is typed into the one before
        self.asking.ask(lambda reader: reader.entries.whole(place, entry_id), self.show_whole)
        self.asking_more.ask(
            lambda reader: (
                reader.entries.referring_here(place, entry_id),
                reader.entries.history_of(place, entry_id),
            ),
            lambda found: self.show_more(*found),
        )
        self.around = self.around if not is_other else None
        self.ask_around()

    def is_note(self) -> bool:
        """Whether what is wanted is a note in a file."""
        place = self.desk.overview.find_place(self.wanted[0]) if self.wanted is not None else None
        return place is not None and place.nature.is_in_files

    def ask_around(self) -> None:
        """Asks what a note is linked with."""
        place, entry_id = self.wanted or ("", 0)
        most = self.side.most
        if self.is_note():
            self.asking_around.ask(lambda reader: reader.notes.around(place, entry_id, most), self.show_around)
        else:
            self.asking_around.forget()

    def refresh(self) -> None:
        """Shows the entry as it is now."""
        if self.wanted is not None:
            self.show_entry(*self.wanted)

    def show_whole(self, whole: WholeEntry | None) -> None:
        """Shows an entry that was fetched."""
        if whole is None:
            self.left.emit()
            return
        self.place, self.entry = whole.place.key, whole.entry
        self.body.setReadOnly(self.desk.overview.is_read_only or whole.entry.fault.startswith(NOT_READ))
        self.title.setText(whole.entry.title)
        self.show_around(self.around)
        self.form.show_entry(whole)
        is_new_text = self.body.show_entry(whole.entry)
        self.show_pictures(whole)
        self.show_marks(whole)
        if is_new_text:
            self.show_preview()

    def show_around(self, around: Around | None) -> None:
        """Shows what a note is linked with, once the note itself is there."""
        self.around = around
        entry = self.entry
        if around is not None and entry is not None and (self.place, entry.id) == self.wanted:
            self.side.show_note(entry, around)

    def _on_note(self, entry_id: int) -> None:
        self.keep_text()
        self.show_entry(self.place, entry_id)

    def change_list(self, key: str) -> None:
        """Opens the form of one of the note's living lists."""
        from wily_magpie.qt.stations.sources.list_form import ListDialog  # seldom needed

        entry, place = self.entry, self.desk.overview.find_place(self.place)
        if entry is None or place is None:
            return
        self.keep_text()
        found = next((one for one in lists_in(self.body.text()) if one.key == key), None)
        if found is not None:
            dialog = ListDialog(self.desk, self, found.form, place.key, entry.path, key)
            dialog.open()

    def show_face(self, face: int) -> None:
        """Shows the page, the page beside its text, or the text alone."""
        self.text_box.setVisible(face != PAGE)
        self.preview.setVisible(face != TEXT)
        for number, button in enumerate(self.faces):
            button.setChecked(number == face)
        self.desk.settings.setValue(FACE_KEY, face)

    def show_pictures(self, whole: WholeEntry) -> None:
        """Shows the lead picture, and the icon of the site that the entry came from, where they were kept."""
        picture, icon = whole.picture, whole.icon

        def done(images: tuple[QImage, QImage]) -> None:
            if self.entry is not whole.entry:
                return
            for shown_in, image in zip((self.picture, self.icon), images, strict=True):
                shown_in.setVisible(not image.isNull())
                shown_in.setPixmap(QPixmap.fromImage(image))

        self.desk.bridge.ask(
            lambda _reader: (decoded(picture, WIDEST_PICTURE_PX, PICTURE_PX), decoded(icon, ICON_PX, ICON_PX)), done
        )

    def show_marks(self, whole: WholeEntry) -> None:
        """Shows the entry's marks with their comments."""
        if whole.marks != self.preview.marks:
            self.preview.show_marks(whole.marks)
        self.marks.show_marks(whole.place.key, whole.entry.id, whole.marks)

    def show_preview(self) -> None:
        """Shows the text as it will be read, and its headings, once they are made of it."""
        text, entry = self.body.text(), self.entry
        self.asking_preview.ask(
            lambda reader: (shown(reader.entries.rendered(text, entry)), headings(text), word_count(text)),
            lambda found: self.show_rendered(*found),
        )

    def show_rendered(self, text: Shown, found: list[tuple[int, str, int]], words: int) -> None:
        """Shows what was made of the text, and how many words it has."""
        self.count.setText("One word" if words == 1 else f"{words:,} words")
        self.preview.show_text(text, "", self.preview.marks)
        clear(self.headings)
        self.headings_head.setVisible(len(found) > 1)
        for level, name, at in found[:MOST_HEADINGS] if len(found) > 1 else ():
            door = QPushButton(short(name, LONGEST_HEADING) or "…")
            door.setObjectName("add")
            door.setToolTip("Go there in the text")
            door.clicked.connect(partial(self.go_to, at))
            row = QHBoxLayout()
            row.setContentsMargins(12 * (level - 1), 0, 0, 0)
            row.addWidget(door)
            row.addStretch(1)
            self.headings.addLayout(row)
        tell_rest(self.headings, len(found), MOST_HEADINGS, " in the text")

    def go_to(self, at: int) -> None:
        """Puts the cursor to a place of the text."""
        cursor = self.body.textCursor()
        cursor.setPosition(at)
        self.body.setTextCursor(cursor)
        self.body.setFocus()
        self.body.centerCursor()

    def show_more(self, refers: list[tuple[str, int, str, str]], events: list[Happening]) -> None:
        """Shows both."""
        clear(self.refers)
        is_note = self.is_note()
        self.side.setVisible(is_note)
        self.refers_head.setVisible(not is_note)  # beside a note, with the lines
        refers = [] if is_note else refers
        self.refers_head.setText(f"What refers here: {len(refers)}" if refers else "Nothing refers here yet")
        for place, entry_id, title, by in refers[:MOST_REFERS]:
            door = QPushButton(title)
            door.setObjectName("verb")
            door.setToolTip(plain_tip(f"By {by}"))
            door.clicked.connect(lambda _checked, p=place, e=entry_id: self.desk.show_entry(p, e))
            self.refers.addLayout(in_row(door))
        tell_rest(self.refers, len(refers), MOST_REFERS)
        clear(self.events)
        if not events:
            self.events.addWidget(label("Nothing that is still known.", wraps=True))
        for event in events[:MOST_EVENTS]:
            self.events.addWidget(self.event_row(event))
        tell_rest(self.events, len(events), MOST_EVENTS, ", longer ago")

    def event_row(self, event: Happening) -> QWidget:
        """One thing that happened."""
        row = QWidget()
        column = QVBoxLayout(row)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(1)
        column.addWidget(label(event.at[:16].replace("T", " "), "origin"))
        if event.is_beginning:
            column.addWidget(label(f"Made: {event.label}", wraps=True))
            return row
        for turn in event.changes[:MOST_CHANGES]:
            name = turn.field.label if turn.field else "Text"
            before, after = (shortened(text) or "blank" for text in (turn.before, turn.after))
            said = label(f"{name}: {before} → {after}", "", wraps=True)
            said.setToolTip(plain_tip(f"{turn.before[:1500]}\n→\n{turn.after[:1500]}"))
            column.addWidget(said)
        tell_rest(column, len(event.changes), MOST_CHANGES)
        back = QPushButton("Bring back what was before")
        back.setObjectName("add")
        back.clicked.connect(lambda _checked: self.bring_back(event))
        back.setEnabled(not self.desk.overview.is_read_only)
        column.addLayout(in_row(back))
        return row

    def follow(self, address: str) -> None:
        """Opens a link: a note of the same folder here, all else in the system's browser."""
        entry = self.entry
        if entry is None:
            return

        def done(found: int | None) -> None:
            if found is not None:
                self.keep_text()
                self.show_entry(self.place, found)
            else:
                self.desk.open_outside(address)

        self.desk.bridge.ask(lambda reader: reader.notes.note_at(entry, address), done)

    def bring_back(self, event: Happening) -> None:
        """Makes the entry what it was before an event of its own, which may be shown before it; a step that can be undone."""
        if self.wanted is not None:
            self.desk.bridge.do(BringBackState(*self.wanted, event))

    def keep_text(self) -> None:
        """Keeps the text as it stands here."""
        self.body.keep()

    def wrap(self, before: str, behind: str) -> None:
        """Puts marks of Markdown around what is chosen, or before each of its lines."""
        cursor = self.body.textCursor()
        chosen = cursor.selectedText().replace("\u2029", "\n")
        if behind:
            cursor.insertText(f"{before}{chosen}{behind}")
            if not chosen:
                cursor.movePosition(QTextCursor.MoveOperation.Left, QTextCursor.MoveMode.MoveAnchor, len(behind))
        else:
            start, end = cursor.selectionStart(), cursor.selectionEnd()
            cursor.setPosition(start)
            cursor.movePosition(QTextCursor.MoveOperation.StartOfBlock)
            cursor.setPosition(end, QTextCursor.MoveMode.KeepAnchor)
            cursor.movePosition(QTextCursor.MoveOperation.EndOfBlock, QTextCursor.MoveMode.KeepAnchor)
            lines = cursor.selectedText().split("\u2029")
            cursor.insertText("\n".join(f"{before}{line}" for line in lines))
        self.body.setTextCursor(cursor)
        self.body.setFocus()


def shortened(text: str) -> str:
    """A text on one line, short enough for a narrow column."""
    return short(" ".join(text.split()), MOST_CHANGE_LETTERS)
