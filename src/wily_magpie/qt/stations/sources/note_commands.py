"""Renaming and moving notes, and writing into a page of the journal; what would be made or rewritten is said first."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QLineEdit,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.notes import MoveNote, WriteJournal
from wily_magpie.core.commands.places import AddNotesFolder
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.entries.note_move import Move
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.model import SourcesState
from wily_magpie.qt.style.parts import label

MADE_LEVEL = 2
"""The level of a heading that is made for what is written below it."""


class SayFirst(QDialog):
    """A dialog that says below its fields what would be done, and lets it be done only where it can."""

    def __init__(self, parent: QWidget, title: str, do: str) -> None:
        super().__init__(parent)
        self.number = 0
        self.setWindowTitle(title)
        self.setMinimumWidth(460)
        column = QVBoxLayout(self)
        column.setSpacing(10)
        self.form = QFormLayout()
        column.addLayout(self.form)
        self.told = label("", "", wraps=True)
        self.told.setMinimumHeight(54)
        column.addWidget(self.told)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.do = buttons.addButton(do, QDialogButtonBox.ButtonRole.AcceptRole)
        if self.do is not None:
            self.do.setObjectName("main")
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def say(self, text: str, *, is_possible: bool, is_problem: bool = False) -> None:
        """Says what would be done, what is still to be written, or why it cannot be done."""
        self.told.setText(text)
        self.told.setObjectName("problem" if is_problem else "")
        style = self.style()
        if style is not None:
            style.polish(self.told)
        if self.do is not None:
            self.do.setEnabled(is_possible)

    def refuse(self, error: MagpieError) -> None:
        """Says why it cannot be done."""
        self.say(str(error), is_possible=False, is_problem=True)


class JournalDialog(SayFirst):
    """Asks for a text and where in today's page it is to stand."""

    def __init__(self, desk: StationContext, folders: list[PlaceInfo], current: str, parent: QWidget) -> None:
        super().__init__(parent, "Write into today's page", "Write it")
        self.desk = desk
        self.place, self.text, self.heading = QComboBox(), QPlainTextEdit(), QLineEdit()
        self.at, self.make = QComboBox(), QCheckBox()
        for one in folders:
            self.place.addItem(one.name, one.key)
        self.place.setCurrentIndex(max(0, self.place.findData(current)))
        self.at.addItems(["at the end", "at the top"])
        self.make.setText("Make the heading where it is missing")
        self.heading.setPlaceholderText("none: in the page itself")
        rows = (
            ("In", self.place), ("Text", self.text), ("Below the heading", self.heading), ("Where", self.at),
            ("", self.make),
        )  # fmt: skip
        for name, widget in rows:
            widget.setAccessibleName(name or self.make.text())
            self.form.addRow(label(name), widget)
        for signal in (
            self.text.textChanged,
            self.heading.textChanged,
            self.at.currentIndexChanged,
            self.make.toggled,
            self.place.currentIndexChanged,
        ):
            signal.connect(lambda *_: self.look())
        self.look()
        self.text.setFocus()

    def key(self) -> str:
        """The notes folder."""
        return str(self.place.currentData())

    def way(self) -> InsertPosition:
        """Where in the page."""
        level = MADE_LEVEL if self.make.isChecked() else None
        return InsertPosition(self.heading.text(), "end" if self.at.currentIndex() == 0 else "top", level)

    def look(self) -> None:
        """Says what would be made."""
        self.number += 1
        number, key, way = self.number, self.key(), self.way()
        self.desk.bridge.ask(
            lambda reader: reader.notes.dry_run_journal(key, way),
            lambda told: self.show_told(told) if number == self.number else None,
            lambda error: self.refuse(error) if number == self.number else None,
        )

    def show_told(self, told: list[str]) -> None:
        """Shows it."""
        said = " ".join(told) or "The page is there; the text is added to it."
        self.say(said, is_possible=bool(self.text.toPlainText().strip()))


class MoveDialog(SayFirst):
    """Asks for a new path of a note; which links will follow is shown while it is typed."""

    def __init__(self, desk: StationContext, entry: Entry, parent: QWidget) -> None:
        super().__init__(parent, "Rename or move a note", "Move it")
        self.desk, self.entry = desk, entry
        self.line = QLineEdit(entry.path)
        self.line.setAccessibleName("New path")
        self.form.addRow(label("New path"), self.line)
        self.line.textChanged.connect(lambda _text: self.look())
        self.look()
        self.line.setFocus()
        path = entry.path
        self.line.setSelection(path.rfind("/") + 1, len(path.rpartition("/")[2].rpartition(".")[0]))

    def look(self) -> None:
        """Says what would be rewritten."""
        self.number += 1
        number, entry, text = self.number, self.entry, self.line.text()
        self.desk.bridge.ask(
            lambda reader: reader.notes.look_at_move(entry.place, entry.id, text),
            lambda plan: self.show_plan(plan) if number == self.number else None,
            lambda error: self.refuse(error) if number == self.number else None,
        )

    def show_plan(self, plan: Move) -> None:
        """Shows it."""
        if plan.new == plan.old:
            self.say("Write the new path. Links that lead here will follow.", is_possible=False)
            return
        count = sum(count for _, count in plan.changes)
        names = ", ".join(name for name, _ in plan.changes[:4])
        links = f"{count} links follow, in {names}." if count else "No link leads to it."
        self.say(f"{plan.old} becomes {plan.new}. {links}", is_possible=True)


class NoteCommands(QObject):
    """Of the Sources station.

    Args:
        state: gives what is shown now.

    Signals:
        opened: the key of a notes folder that was taken in.
    """

    opened = pyqtSignal(str)

    def __init__(self, desk: StationContext, parent: QWidget, state: Callable[[], SourcesState]) -> None:
        super().__init__(parent)
        self.desk, self.parent_widget, self.state = desk, parent, state

    def ask_move(self, entry_id: int) -> None:
        """Asks for a new path of a note."""
        place = self.state().place
        if place is None or not place.nature.is_in_files:
            self.desk.say("Only notes have a path that can be changed.", ())
            return
        self.desk.bridge.ask(lambda reader: reader.entries.rows(place.key, [entry_id]), self._on_note)

    def _on_note(self, found: list[Entry]) -> None:
        for entry in found:
            dialog = MoveDialog(self.desk, entry, self.parent_widget)
            if dialog.exec() == QDialog.DialogCode.Accepted:
                self.move(entry.place, entry.id, dialog.line.text())

    def move(self, place: str, entry_id: int, path: str) -> None:
        """Moves a note."""
        self.desk.bridge.do(MoveNote(place, entry_id, path), self._on_moved)

    def _on_moved(self, plan: Move) -> None:
        count = sum(count for _, count in plan.changes)
        self.desk.say(f"Moved to {plan.new}; {count} links followed.", self.desk.undoing())

    def ask_journal(self) -> None:
        """Asks for a text and writes it into today's page."""
        folders = [place for place in self.desk.overview.places if place.nature.is_in_files]
        if not folders:
            self.desk.say("There is no notes folder yet. Take one in first: New place.", ())
            return
        current = self.state().place
        dialog = JournalDialog(self.desk, folders, current.key if current is not None else "", self.parent_widget)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            command = WriteJournal(dialog.key(), dialog.text.toPlainText(), dialog.way())
            self.desk.bridge.do(command, self._on_written)

    def _on_written(self, entry: Entry) -> None:
        show = ("Show it", lambda: self.desk.show_entry(entry.place, entry.id))
        self.desk.say(f"Written into {entry.path}.", (show, *self.desk.undoing()))

    def ask_folder(self) -> None:
        """Asks for a folder of Markdown files and takes it in."""
        chosen = QFileDialog.getExistingDirectory(self.parent_widget, "Choose a folder of Markdown files")
        if chosen:
            self.take_folder(Path(chosen))

    def take_folder(self, path: Path) -> None:
        """Takes a folder of Markdown files in."""
        self.desk.bridge.do(AddNotesFolder(path), self._on_folder)

    def _on_folder(self, place: PlaceInfo) -> None:
        self.opened.emit(place.key)
        self.desk.bridge.start(f"Reading {place.name}", lambda counter, job: counter.refresh_notes(place.key, job))
