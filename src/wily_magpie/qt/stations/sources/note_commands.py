"""Renaming and moving notes, and writing into a page of the journal; what would be made or rewritten is said first."""

from pathlib import Path
from typing import TYPE_CHECKING

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
)

from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.errors import MagpieError
from wily_magpie.qt.style.parts import label

if TYPE_CHECKING:
    from wily_magpie.qt.stations.sources.station import SourcesStation

MADE_LEVEL = 2
"""The level of a heading that is made for what is written below it."""


class SayFirst(QDialog):
    """A dialog that says below its fields what would be done, and lets it be done only where it can."""

    def __init__(self, station: "SourcesStation", title: str, do: str) -> None:
        super().__init__(station)
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


class NoteCommands:
    """Of the Sources station."""

    def __init__(self, station: "SourcesStation") -> None:
        self.station = station
        self.desk = station.desk

    def ask_move_chosen(self) -> None:
        """Asks for a new path of the chosen note."""
        if self.station.panel.entry is not None:
            self.ask_move(self.station.panel.entry.id)

    def ask_move(self, entry_id: int) -> None:
        """Asks for a new path; which links will follow is shown while it is typed."""
        place = self.station.place
        if place is None or not self.desk.session.is_notes(place.key):
            self.desk.say("Only notes have a path that can be changed.", ())
            return
        noting = self.desk.session.noting
        path = noting.folder(place.key).index.path(entry_id) or ""
        dialog = SayFirst(self.station, "Rename or move a note", "Move it")
        line = QLineEdit(path)
        line.setAccessibleName("New path")
        dialog.form.addRow(label("New path"), line)

        def look() -> None:
            try:
                plan = noting.look_at_move(place.key, entry_id, line.text())
            except MagpieError as error:
                dialog.say(str(error), is_possible=False, is_problem=True)
                return
            if plan.new == plan.old:
                dialog.say("Write the new path. Links that lead here will follow.", is_possible=False)
                return
            count = sum(count for _, count in plan.changes)
            names = ", ".join(name for name, _ in plan.changes[:4])
            links = f"{count} links follow, in {names}." if count else "No link leads to it."
            dialog.say(f"{plan.old} becomes {plan.new}. {links}", is_possible=True)

        line.textChanged.connect(lambda _text: look())
        look()
        line.setFocus()
        line.setSelection(path.rfind("/") + 1, len(path.rpartition("/")[2].rpartition(".")[0]))
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self.move(place.key, entry_id, line.text())

    def move(self, place: str, entry_id: int, path: str) -> None:
        """Moves a note."""
        try:
            plan = self.desk.session.noting.move(place, entry_id, path)
        except MagpieError as error:
            self.desk.complain(error)
            return
        count = sum(count for _, count in plan.changes)
        self.desk.say(f"Moved to {plan.new}; {count} links followed.", (("Undo", self.station.places.undo),))

    def ask_journal(self) -> None:
        """Asks for a text and writes it into today's page."""
        folders = [place for place in self.desk.session.places() if self.desk.session.is_notes(place.key)]
        if not folders:
            self.desk.say("There is no notes folder yet. Take one in first: New place.", ())
            return
        dialog = SayFirst(self.station, "Write into today's page", "Write it")
        place, text, heading, at, make = QComboBox(), QPlainTextEdit(), QLineEdit(), QComboBox(), QCheckBox()
        for one in folders:
            place.addItem(one.name, one.key)
        current = self.station.place
        if current is not None and self.desk.session.is_notes(current.key):
            place.setCurrentIndex(place.findData(current.key))
        at.addItems(["at the end", "at the top"])
        make.setText("Make the heading where it is missing")
        heading.setPlaceholderText("none: in the page itself")
        for name, widget in (("In", place), ("Text", text), ("Below the heading", heading), ("Where", at), ("", make)):
            widget.setAccessibleName(name or make.text())
            dialog.form.addRow(label(name), widget)

        def way() -> InsertPosition:
            level = MADE_LEVEL if make.isChecked() else None
            return InsertPosition(heading.text(), "end" if at.currentIndex() == 0 else "top", level)

        def look() -> None:
            try:
                told = self.desk.session.noting.dry_run_journal(str(place.currentData()), way())
            except MagpieError as error:
                dialog.say(str(error), is_possible=False, is_problem=True)
                return
            said = " ".join(told) or "The page is there; the text is added to it."
            dialog.say(said, is_possible=bool(text.toPlainText().strip()))

        for signal in (
            text.textChanged,
            heading.textChanged,
            at.currentIndexChanged,
            make.toggled,
            place.currentIndexChanged,
        ):
            signal.connect(lambda *_: look())
        look()
        text.setFocus()
        if dialog.exec() == QDialog.DialogCode.Accepted:
            try:
                key = str(place.currentData())
                entry = self.desk.session.noting.write_journal(key, text.toPlainText(), way())
            except MagpieError as error:
                self.desk.complain(error)
                return
            self.desk.say(f"Written into {entry.path}.", (("Show it", lambda: self.desk.show_entry(key, entry.id)),))

    def ask_folder(self) -> None:
        """Asks for a folder of Markdown files and takes it in."""
        chosen = QFileDialog.getExistingDirectory(self.station, "Choose a folder of Markdown files")
        if not chosen:
            return
        try:
            place = self.desk.session.add_notes_folder(Path(chosen))
        except MagpieError as error:
            self.desk.complain(error)
            return
        self.desk.bridge.start(
            f"Reading {place.name}",
            lambda job: self.desk.session.refresh_notes(place.key, job),
            None,
            self.desk.complain,
        )
        self.station.open_place(place.key)
