"""Chooses a text: a chapter for which marks are gathered, or any entry or note, found by typing."""

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QListWidgetItem, QWidget

from wily_magpie.core.queries.entries import Found
from wily_magpie.core.queries.marks import Chapter
from wily_magpie.qt.finder import COMMAND_ROLE, Choice, CommandFinder
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import timer

REST_MS, FEWEST_SIGNS, MOST = 120, 2, 40
Choose = Callable[[str, int, str], object]


class ChapterFinder(CommandFinder):
    """Begins with the chapters that there are; typing finds every entry and note.

    Args:
        choose: is told the key of the place, the id and the title.
    """

    def __init__(self, desk: StationContext, known: Sequence[Chapter], choose: Choose, parent: QWidget) -> None:
        self.desk, self.choose, self.asking = desk, choose, LastAsked(desk.bridge)
        self.known = {(one.place.key, one.entry.id) for one in known}
        choices = [
            Choice(
                one.entry.title,
                f"chapter in {one.place.name}",
                partial(choose, one.place.key, one.entry.id, one.entry.title),
            )
            for one in known
        ]
        super().__init__(choices, parent, "Find the chapter: a note, or any entry")
        self.waiting = timer(self, self.look)
        self.line.textChanged.connect(lambda _text: self.waiting.start(REST_MS))

    def look(self) -> None:
        """Asks for what is typed so far."""
        text = self.line.text().strip()
        if len(text) < FEWEST_SIGNS:
            self.asking.forget()
        else:
            self.asking.ask(lambda reader: reader.entries.search(text, MOST), self.add)

    def add(self, found: Found) -> None:
        """Adds what was found below the chapters; what has the words in its title stands first."""
        for entry in found.entries:
            if (entry.place, entry.id) in self.known:
                continue
            item = QListWidgetItem(entry.title)
            run = partial(self.choose, entry.place, entry.id, entry.title)
            item.setData(COMMAND_ROLE, Choice(entry.title, f"in {self.desk.overview.place(entry.place).name}", run))
            self.list.addItem(item)
        if found.total > len(found.entries):
            more = QListWidgetItem(f"{len(found.entries)} of {found.total:,} are listed; type more of its words")
            more.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(more)
        if self.list.currentRow() < 0:
            self.list.setCurrentRow(0)
