"""The pages of the journal: one day's page, a small calendar that shows which days have one, the same day in other years."""

from collections.abc import Mapping
from datetime import date, timedelta
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QToolButton, QVBoxLayout, QWidget

from wily_magpie.core.commands.notes import MakeDay, WriteJournal
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.queries.reader import Reader
from wily_magpie.qt.editors.long_text import LongText
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.reading import ReadingView, Shown, shown
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.parts import PlainLabel, button, icon_button, in_row, label, plain_tip, text_button
from wily_magpie.qt.style.reading_look import ReadingLook

SIDE_PX, WRITE_PX, CELL_PX, WEEK = 232, 84, 28, 7
MADE_LEVEL = 2
"""The level of a heading that is made for what is written below it."""


def today() -> date:
    """The day of the person's own clock."""
    return date.today()  # noqa: DTZ011 - of the person's own clock


def in_words(day: date) -> str:
    """A day as people write it."""
    return f"{day.strftime('%A')}, {day.day} {day.strftime('%B %Y')}"


class Calendar(QWidget):
    """A month; days that have a page are strong, today is ringed.

    Signals:
        chosen: a day. turned: the month that is shown is another one.
    """

    chosen = pyqtSignal(object)
    turned = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.day, self.month = today(), today().replace(day=1)
        self.written: Mapping[date, int] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        head = QHBoxLayout()
        self.name = PlainLabel()
        head.addWidget(icon_button("arrow-left", "The month before", partial(self.turn, -1)))
        head.addWidget(self.name, 1, Qt.AlignmentFlag.AlignCenter)
        head.addWidget(icon_button("arrow-right", "The next month", partial(self.turn, 1)))
        column.addLayout(head)
        self.grid = QGridLayout()
        self.grid.setSpacing(0)
        column.addLayout(self.grid)
        self.buttons: dict[date, QToolButton] = {}

    def turn(self, by: int) -> None:
        """Shows the month before or behind."""
        months = self.month.year * 12 + self.month.month - 1 + by
        self.month = date(months // 12, months % 12 + 1, 1)
        self.written = {}
        self.show_month()
        self.turned.emit()

    def show_day(self, day: date, written: Mapping[date, int]) -> None:
        """Shows a day in its month.

        Args:
            written: the days of that month that have a page.
        """
        self.day, self.month, self.written = day, day.replace(day=1), written
        self.show_month()

    def show_month(self) -> None:
        """Puts the days of the month into the grid, weeks from Monday on."""
        clear(self.grid)
        self.buttons = {}
        self.name.setText(self.month.strftime("%B %Y"))
        for at, name in enumerate("MTWTFSS"):
            self.grid.addWidget(label(name), 0, at, Qt.AlignmentFlag.AlignCenter)
        day = self.month
        while day.month == self.month.month:
            button = QToolButton()
            button.setText(str(day.day))
            button.setAutoRaise(True)
            button.setFixedSize(CELL_PX + 2, CELL_PX)
            has_page = day in self.written
            button.setAccessibleName(f"{in_words(day)}{', has a page' if has_page else ''}")
            button.setToolTip(plain_tip(button.accessibleName()))
            button.setCheckable(True)
            button.setChecked(day == self.day)
            button.setObjectName("day")
            button.setProperty("written", has_page)
            button.setProperty("today", day == today())
            button.clicked.connect(partial(self._on_day, day))
            self.grid.addWidget(button, 1 + (self.month.weekday() + day.day - 1) // WEEK, day.weekday())
            self.buttons[day] = button
            day += timedelta(1)

    def _on_day(self, day: date) -> None:
        self.chosen.emit(day)


class DayPage(QWidget):
    """See the module.

    Signals:
        left: back to the table. opened: the key of the folder and the id of a page that is to be open whole.
    """

    left = pyqtSignal()
    opened = pyqtSignal(str, int)

    def __init__(self, desk: StationContext) -> None:
        super().__init__()
        self.desk = desk
        self.day = today()
        self.asking, self.asking_month = LastAsked(desk.bridge), LastAsked(desk.bridge)
        self.entry: Entry | None = None
        self.folder = QComboBox()
        self.folder.setAccessibleName("Notes folder")
        self.folder.currentIndexChanged.connect(lambda _at: self.show_day(self.day))
        self.calendar = Calendar()
        self.calendar.chosen.connect(self.show_day)
        self.calendar.turned.connect(self.ask_month)
        self.years = QVBoxLayout()
        self.years.setSpacing(2)
        self.title = label("", "heading")
        self.view = ReadingView(look=ReadingLook())
        self.view.setAccessibleName("The page of the day")
        self.view.followed.connect(self.follow)
        self.none = label("", "slate", wraps=True)
        self.make = text_button("Make it", "plus", lambda: self.make_page(self.day))
        self.edit = text_button("Open whole", "", self.open_whole)
        self.text, self.heading = LongText(), QLineEdit()
        self.write = text_button("Write it", "", self.write_it)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.make_side())
        row.addWidget(self.make_middle(), 1)
        desk.bridge.entries_changed.connect(self._on_changed)

    def make_side(self) -> QWidget:
        side = QWidget()
        side.setFixedWidth(SIDE_PX)
        column = QVBoxLayout(side)
        column.setContentsMargins(10, 10, 10, 10)
        column.setSpacing(8)
        column.addLayout(in_row(button("Back to the table", self.left.emit)))
        column.addWidget(self.folder)
        column.addWidget(self.calendar)
        column.addWidget(label("This day in other years"))
        column.addLayout(self.years)
        column.addStretch(1)
        return side

    def make_middle(self) -> QWidget:
        middle = QWidget()
        column = QVBoxLayout(middle)
        column.setContentsMargins(16, 10, 12, 10)
        column.setSpacing(8)
        head = QHBoxLayout()
        self.before = text_button("Yesterday", "arrow-left", lambda: self.show_day(self.day - timedelta(1)))
        self.after = text_button("Tomorrow", "arrow-right", lambda: self.show_day(self.day + timedelta(1)))
        head.addWidget(self.title, 1)
        for one in (self.before, text_button("Today", "", lambda: self.open(self.key())), self.after, self.edit):
            head.addWidget(one)
        column.addLayout(head)
        column.addWidget(self.view, 1)
        column.addLayout(in_row(self.none, self.make))
        self.text.setPlaceholderText("Write into this page … (Ctrl+Return)")
        self.text.setAccessibleName("Write into this page")
        self.text.setFixedHeight(WRITE_PX)
        self.heading.setPlaceholderText("below a heading; it is made where it is missing")
        self.heading.setAccessibleName("Below the heading")
        column.addWidget(self.text)
        foot = QHBoxLayout()
        foot.addWidget(self.heading, 1)
        foot.addWidget(self.write)
        column.addLayout(foot)
        return middle

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
            return
        is_return = event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if is_return and event is not None and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.write_it()
            return
        super().keyPressEvent(event)

    def key(self) -> str:
        """Of the notes folder; "" where there is none."""
        return str(self.folder.currentData() or "")

    def open(self, key: str) -> None:
        """Opens today's page, which is made where there is none yet."""
        self.fill_folders(key)
        day = today()
        if self.desk.overview.is_read_only:
            self.show_day(day)
        else:
            self.make_page(day)
        self.text.setFocus()

    def fill_folders(self, key: str) -> None:
        """Offers the notes folders."""
        before = self.folder.blockSignals(True)
        self.folder.clear()
        for place in self.desk.overview.places:
            if place.nature.is_in_files:
                self.folder.addItem(place.name, place.key)
        self.folder.setCurrentIndex(max(0, self.folder.findData(key)))
        self.folder.setVisible(self.folder.count() > 1)
        self.folder.blockSignals(before)

    def make_page(self, day: date) -> None:
        """Makes the page of a day, and shows it; where that cannot be, the day is shown and it is said why."""

        def failed(error: MagpieError) -> None:
            self.show_day(day)
            self.desk.complain(error)

        self.desk.bridge.do(MakeDay(self.key(), day), lambda _id: self.show_day(day), failed)

    def show_day(self, day: date) -> None:
        """Shows the page of a day, or that it has none."""
        self.day = day
        self.title.setText(in_words(day))
        self.before.setText("Yesterday" if day == today() else "Day before")
        self.after.setText("Tomorrow" if day == today() else "Day after")
        key = self.key()

        def work(reader: Reader) -> tuple[Mapping[date, int], Mapping[date, int], Entry | None, Shown]:
            written, others = reader.notes.days(key, day.year, day.month), reader.notes.other_years(key, day)
            entry = reader.entries.entry(key, written[day]) if day in written else None
            text = entry.body or "" if entry is not None else ""
            return written, others, entry, shown(reader.entries.rendered(text, entry))

        self.asking_month.forget()
        self.asking.ask(work, lambda found: self.show_found(*found))

    def show_found(
        self, written: Mapping[date, int], others: Mapping[date, int], entry: Entry | None, text: Shown
    ) -> None:
        """Shows what is there of a day."""
        self.entry = entry
        self.calendar.show_day(self.day, written)
        self.view.setVisible(entry is not None)
        self.edit.setVisible(entry is not None)
        self.none.setVisible(entry is None)
        self.make.setVisible(entry is None and not self.desk.overview.is_read_only)
        self.none.setText(f"There is no page of {in_words(self.day)} yet.")
        self.view.show_text(text, "", ())
        for widget in (self.text, self.heading, self.write):
            widget.setEnabled(not self.desk.overview.is_read_only)
        clear(self.years)
        for day in others:
            self.years.addWidget(text_button(in_words(day), "", partial(self.show_day, day)))
        if not others:
            self.years.addWidget(label("None has a page.", "origin"))

    def ask_month(self) -> None:
        """Asks which days of the month that is shown have a page."""
        month, key = self.calendar.month, self.key()

        def done(written: Mapping[date, int]) -> None:
            self.calendar.written = written
            self.calendar.show_month()

        self.asking_month.ask(lambda reader: reader.notes.days(key, month.year, month.month), done)

    def write_it(self) -> None:
        """Writes what was typed into the page, which is made where there is none."""
        text = self.text.text().strip()
        if not text or self.desk.overview.is_read_only:
            return
        heading = self.heading.text().strip()
        way = InsertPosition(heading, level=MADE_LEVEL if heading else None)

        def done(entry: Entry) -> None:
            if self.text.text().strip() == text:
                self.text.set_text("")
            self.desk.say(f"Written into {entry.path}.", self.desk.undoing())

        self.desk.bridge.do(WriteJournal(self.key(), text, way, self.day), done)

    def open_whole(self) -> None:
        """Opens the page with its fields, its text and what it is linked with."""
        if self.entry is not None:
            self.opened.emit(self.entry.place, self.entry.id)

    def follow(self, address: str) -> None:
        """Opens what a link leads to."""
        entry = self.entry
        if entry is None:
            return
        found = lambda number: self.opened.emit(entry.place, number) if number else self.desk.open_outside(address)  # noqa: E731
        self.desk.bridge.ask(lambda reader: reader.notes.note_at(entry, address), found)

    def _on_changed(self, place: str, _ids: tuple[int, ...]) -> None:
        if self.isVisible() and place == self.key():
            self.show_day(self.day)
