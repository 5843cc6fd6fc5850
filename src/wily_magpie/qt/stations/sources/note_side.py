"""Beside a note that is open: what links here, with the line; where it leads; links that lead nowhere; its living lists."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from wily_magpie.core.commands.command import Command
from wily_magpie.core.commands.living import FillLists
from wily_magpie.core.commands.notes import MakeNote, PointLinks, WriteInUtf8
from wily_magpie.core.commands.places import ChangePlace
from wily_magpie.core.entries.entry import Entry, short
from wily_magpie.core.entries.living_list import EVERYWHERE, read_form
from wily_magpie.core.queries.living import (
    BESIDE,
    DIFFERENT,
    EDITED,
    FAULTY,
    FILLED,
    OFF,
    OVER,
    STOPPED,
    Asked,
    ListState,
)
from wily_magpie.core.queries.notes import Around, LinkOut
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.parts import label, plain_tip, text_button

MOST_LINKS, LONGEST_NAME, LONGEST_LINE = 40, 26, 160
MORE_TIMES = 5
"""Of links beside a note, so many times as many are shown when more are asked for."""
STATES = {
    FILLED: "filled", DIFFERENT: "has other rows by now", EDITED: "was written into by hand", FAULTY: "cannot be filled",
    OFF: "is not kept filled", STOPPED: "is stopped: its filling was undone",
}  # fmt: skip
LATIN_1 = "cp1252"


class NoteSide(QWidget):
    """Of a note that is open.

    Signals:
        opened: the id of another note that is to be shown.
        list_asked: the key of a list whose form is to be changed.
        more_asked: more is to be shown of what it is linked with.
    """

    opened = pyqtSignal(int)
    list_asked = pyqtSignal(str)
    more_asked = pyqtSignal()

    def __init__(self, desk: StationContext, keep: Callable[[], None]) -> None:
        super().__init__()
        self.desk, self.keep = desk, keep
        self.entry: Entry | None = None
        self.around: Around | None = None
        self.most = MOST_LINKS
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(3)

    def show_note(self, entry: Entry, around: Around) -> None:
        """Shows what a note is linked with."""
        if (entry, around) == (self.entry, self.around):
            return
        if self.entry is not None and (self.entry.place, self.entry.id) != (entry.place, entry.id):
            self.most = MOST_LINKS
        self.entry, self.around = entry, around
        clear(self.column)
        may_write = not self.desk.overview.is_read_only
        if around.fault or around.encoding:
            self.show_fault(around, may_write=may_write)
        self.show_lists(around, may_write=may_write)
        broken = [one for one in around.out if one.is_broken]
        if broken:
            self.head(f"Links that lead nowhere: {len(broken)}", "problem")
        for one in broken[: self.most]:
            self.show_broken(one, may_write=may_write)
        self.head(f"What links here: {around.count:,}" if around.count else "Nothing links here yet")
        for link in around.here[: self.most]:
            self.door(link.title, partial(self.opened.emit, link.id), link.path)
            line = label(short(link.line, LONGEST_LINE), "slate", wraps=True)
            line.setContentsMargins(6, 0, 0, 4)
            self.column.addWidget(line)
        out = [one for one in around.out if one.id is not None]
        if out:
            self.head(f"Leads to: {len(out)}")
        for there in out[: self.most]:
            self.door(there.target, partial(self.opened.emit, there.id))
        self.more(max(around.count, len(around.here), len(out), len(broken)))

    def head(self, text: str, name: str = "slate") -> None:
        """A heading."""
        made = label(text, name)
        made.setContentsMargins(0, 8, 0, 0)
        self.column.addWidget(made)

    def more(self, count: int) -> None:
        """Says that not all are shown."""
        if count > self.most:
            self.column.addWidget(label(f"{self.most:,} of each are shown.", "origin"))
            self.row(text_button("Show more", "", self.show_more))

    def show_more(self) -> None:
        """Shows more of what it is linked with."""
        self.most *= MORE_TIMES
        self.more_asked.emit()

    def door(self, text: str, act: Callable[[], object], tip: str = "") -> None:
        """Something that opens a note."""
        made = text_button(short(text, LONGEST_NAME), "", act)
        made.setToolTip(plain_tip(tip or text))
        self.row(made)

    def row(self, *widgets: QWidget) -> None:
        """Things side by side, at the left."""
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        for widget in widgets:
            row.addWidget(widget)
        row.addStretch(1)
        self.column.addLayout(row)

    def show_fault(self, around: Around, *, may_write: bool) -> None:
        """What can be done where the file is not as it should be; what that is stands above its fields."""
        entry = self.entry
        if entry is None:
            return
        if around.encoding:
            self.column.addWidget(label(f"Written in {around.encoding}."))
        if around.fault.startswith("It is not UTF-8") and may_write:
            self.row(text_button("Read such notes as Latin-1", "", self.read_as_latin_1))
        if around.encoding and may_write:
            command = WriteInUtf8(entry.place, (entry.id,))
            self.row(text_button("Write it as UTF-8", "", lambda: self.do(command, "Written as UTF-8.")))

    def read_as_latin_1(self) -> None:
        """Has all notes of the folder that are no UTF-8 read, and written, as Latin-1."""
        entry = self.entry
        place = self.desk.overview.find_place(entry.place) if entry is not None else None
        if place is not None:
            command = ChangePlace(place.key, replace(place.settings, other_encoding=LATIN_1))
            self.desk.bridge.do(command, lambda _none: self._on_read_anew(place.key))

    def _on_read_anew(self, key: str) -> None:
        said = "Notes of this folder that are not UTF-8 are read as Latin-1 now, and written back so."
        self.desk.say(said, self.desk.undoing())
        self.desk.bridge.index_notes(key)

    def show_lists(self, around: Around, *, may_write: bool) -> None:
        """The living lists, and what can be done with each."""
        if not around.lists:
            return
        self.head(f"Living lists: {len(around.lists)}")
        for one in around.lists:
            door = text_button(
                short(one.under, LONGEST_NAME) or named(one.said), "", partial(self.list_asked.emit, one.key)
            )
            door.setToolTip(plain_tip(f"Line {one.line} {STATES[one.state]}: {one.said}"))
            door.setEnabled(may_write)
            self.row(door)
            if one.state != FILLED:
                is_problem = one.state in (FAULTY, EDITED)
                told = label(f"Line {one.line} {STATES[one.state]}", "problem" if is_problem else "slate", wraps=True)
                told.setContentsMargins(6, 0, 0, 0)
                self.column.addWidget(told)
            choices = self.choices(one) if may_write else []
            if choices:
                self.row(*choices)

    def choices(self, one: ListState) -> list[QWidget]:
        """What can be done with a list that is not as it should be."""
        if one.state == EDITED:
            return [
                text_button("Keep it below", "", lambda: self.fill(BESIDE)),
                text_button("Take it out", "", lambda: self.fill(OVER)),
            ]
        if one.state in (DIFFERENT, STOPPED, OFF):
            return [text_button("Fill it", "", lambda: self.fill())]
        return []

    def fill(self, edits: str = "leave") -> None:
        """Fills the lists of the note."""
        if self.entry is not None:
            command = FillLists(self.entry.place, (self.entry.path,), Asked(edits, is_wanted=True, is_each=True))
            self.do(command, "The lists are filled.")

    def show_broken(self, one: LinkOut, *, may_write: bool) -> None:
        """A link that leads nowhere, and ways out."""
        entry = self.entry
        self.column.addWidget(label(one.target, "", wraps=True))
        if not may_write or entry is None:
            return
        is_path = "/" in one.target or one.target.endswith(".md")
        make = MakeNote(entry.place, one.path if is_path else f"{one.target}.md")
        self.row(text_button("Make it", "", lambda: self.do(make, f"{make.path} is made.")))
        if one.near:
            self.column.addWidget(label("Did you mean"))
        for path in one.near:
            point = PointLinks(entry.place, entry.id, one.target, path)
            door = text_button(short(path, LONGEST_NAME), "", partial(self.do, point, "The link leads there now."))
            door.setToolTip(plain_tip(f"Has the link lead to {path}"))
            self.row(door)

    def do(self, command: Command[Any], said: str) -> None:
        """Does something with the note, once its text is kept."""
        self.keep()
        self.desk.bridge.do(command, lambda _found: self.desk.say(said, self.desk.undoing()))


def named(said: str) -> str:
    """What a list shows, in a few words."""
    try:
        form = read_form(said)
    except ValueError:
        return short(said, LONGEST_NAME)
    place = {"": "this folder", EVERYWHERE: "all places"}.get(form.place, form.place)
    asked = f": {form.where}" if form.where else ""
    return short(f"{place}{asked}", LONGEST_NAME)
