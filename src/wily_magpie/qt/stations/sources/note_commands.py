"""Renaming and moving notes, and writing into a page of the journal; what would be made or rewritten is said first."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)

from wily_magpie.core.commands.notes import MoveNote, MoveNotes, WriteJournal
from wily_magpie.core.commands.places import AddNotesFolder
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.entries.layout import LayoutKind
from wily_magpie.core.entries.living_list import ListForm, Shown
from wily_magpie.core.entries.note_move import Move
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.queries.list_forms import said_by
from wily_magpie.core.queries.reader import Reader
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.model import SourcesState
from wily_magpie.qt.stations.sources.say_first import SayFirst
from wily_magpie.qt.style.parts import label

MOST_SHOWN, USUAL_MOST = 3, 20
SHAPES = {LayoutKind.TABLE: "table", LayoutKind.CARDS: "cards"}
"""Of lists, by the layout that is shown."""
MADE_LEVEL = 2
"""The level of a heading that is made for what is written below it."""


class JournalDialog(SayFirst):
    """Asks for a text and where in today's page it is to stand."""

    def __init__(self, desk: StationContext, folders: list[PlaceInfo], current: str, parent: QWidget) -> None:
        super().__init__(parent, "Write into today's page", "Write it")
        self.desk, self.asking = desk, LastAsked(desk.bridge)
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
        key, way = self.key(), self.way()
        self.asking.ask(
            lambda reader: reader.notes.dry_run_journal(key, way),
            self.show_told,
            self.refuse,
        )

    def show_told(self, told: list[str]) -> None:
        """Shows it."""
        said = " ".join(told) or "The page is there; the text is added to it."
        self.say(said, is_possible=bool(self.text.toPlainText().strip()))


class MoveDialog(SayFirst):
    """Asks for a new path of a note; which links will follow is shown while it is typed."""

    def __init__(self, desk: StationContext, entry: Entry, parent: QWidget) -> None:
        super().__init__(parent, "Rename or move a note", "Move it")
        self.desk, self.entry, self.asking = desk, entry, LastAsked(desk.bridge)
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
        entry, text = self.entry, self.line.text()
        self.asking.ask(
            lambda reader: reader.notes.look_at_move(entry.place, entry.id, text),
            self.show_plan,
            self.refuse,
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


class FolderDialog(SayFirst):
    """Asks for the folder that several notes go to; which links will follow is shown while it is typed.

    Attributes:
        ids: of the notes; of a folder, all in it.
    """

    def __init__(
        self, desk: StationContext, place: str, inside: str, ids: tuple[int, ...], folder: str | None, parent: QWidget
    ) -> None:
        super().__init__(parent, "Move a folder" if inside else "Move notes", "Move them")
        self.desk, self.place, self.inside, self.ids = desk, place, inside, ids
        self.asking = LastAsked(desk.bridge)
        self.line = QLineEdit(inside if folder is None else folder)
        self.line.setAccessibleName("Folder")
        self.line.setPlaceholderText("the top of the notes folder")
        self.form.addRow(label("To the folder"), self.line)
        self.line.textChanged.connect(lambda _text: self.look())
        self.look()
        self.line.setFocus()

    def folder(self) -> str:
        """Where to."""
        return self.line.text().strip().strip("/")

    def look(self) -> None:
        """Says what would be rewritten."""
        place, inside, ids, folder = self.place, self.inside, self.ids, self.folder()

        def work(reader: Reader) -> tuple[tuple[int, ...], list[Move]]:
            wanted = tuple(reader.notes.in_folder(place, inside)) if inside else ids
            return wanted, reader.notes.look_at_moves(place, wanted, folder, inside)

        self.asking.ask(work, lambda found: self.show_plans(*found), self.refuse)

    def show_plans(self, ids: tuple[int, ...], plans: list[Move]) -> None:
        """Shows it."""
        self.ids = ids
        links = sum(count for plan in plans for _, count in plan.changes)
        names = ", ".join(plan.new for plan in plans[:3])
        what = "1 note moves" if len(plans) == 1 else f"{len(plans):,} notes move"
        follow = "1 link follows" if links == 1 else f"{links:,} links follow"
        said = f"{what}: {names}{' …' if len(plans) > 3 else ''}. {follow}."
        self.say(said if plans else "They lie there already.", is_possible=bool(plans))


def form_of(state: SourcesState, folder: str) -> ListForm:
    """The form of a list that shows what is asked now."""
    question, place = state.question, state.place
    others = [field.key for field in state.columns if field.key != "title" and field.kind.is_short][:MOST_SHOWN]
    return ListForm(
        "" if place is None or place.key == folder else place.name,
        *said_by(question),
        (Shown("title"), *map(Shown, others)),
        SHAPES.get(state.layout.kind, "list"),
        most=USUAL_MOST,
    )


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
        self.desk.say(f"Moved to {plan.new}; {followed(count)}.", self.desk.undoing())

    @property
    def folders(self) -> list[PlaceInfo]:
        """The notes folders; where there is none, it is said."""
        found = [place for place in self.desk.overview.places if place.nature.is_in_files]
        if not found:
            self.desk.say("There is no notes folder yet. Take one in first: New place.", ())
        return found

    def folder_now(self) -> str:
        """The notes folder that is meant: the one that is shown, else the first; "" where there is none."""
        current = self.state().place
        keys = [place.key for place in self.folders]
        return current.key if current is not None and current.key in keys else next(iter(keys), "")

    def put_list(self) -> None:
        """Opens the form by which the question at hand is put into a note as a living list."""
        from wily_magpie.qt.stations.sources.list_form import ListDialog  # seldom needed

        state, folder = self.state(), self.folder_now()
        if state.place is not None and folder:
            ListDialog(self.desk, self.parent_widget, form_of(state, folder), folder).open()

    def ask_home(self) -> None:
        """Asks for what a new home page is to be for, and makes it."""
        from wily_magpie.qt.stations.sources.home_form import HomeDialog  # seldom needed

        folder = self.folder_now()
        if not folder:
            return
        dialog = HomeDialog(self.desk, folder, self.parent_widget)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            command = dialog.command()
            self.desk.bridge.do(command, lambda made: self.desk.show_note(command.place, made))

    def ask_mirror(self) -> None:
        """Asks which collection is to be kept in step with the notes of a folder, and begins."""
        from wily_magpie.qt.stations.sources.mirror_form import MirrorDialog  # seldom needed

        folder = self.folder_now()
        if not folder:
            return
        dialog = MirrorDialog(self.desk, folder, self.parent_widget)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            command = dialog.command()
            said = "They are kept in step from now on." if command.collection else "They are no longer kept in step."
            self.desk.bridge.start_command(command, lambda _pairs: self.desk.say(said, ()))

    def ask_moves(self, inside: str, ids: Sequence[int], folder: str | None) -> None:
        """Asks where notes, or all of a folder, are to go, and moves them.

        Args:
            inside: the folder that is moved; "" for the notes of these ids.
            folder: where to; None: that is asked.
        """
        place = self.state().place
        if place is None or not place.nature.is_in_files:
            return
        dialog = FolderDialog(self.desk, place.key, inside, tuple(ids), folder, self.parent_widget)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            command = MoveNotes(place.key, dialog.ids, dialog.folder(), inside)
            self.desk.bridge.do(command, self._on_all_moved)

    def _on_all_moved(self, plans: Sequence[Move]) -> None:
        links = sum(count for plan in plans for _, count in plan.changes)
        moved = "1 note is moved" if len(plans) == 1 else f"{len(plans):,} notes are moved"
        self.desk.say(f"{moved}; {followed(links)}.", self.desk.undoing())

    def ask_journal(self) -> None:
        """Asks for a text and writes it into today's page."""
        folders = self.folders
        if not folders:
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
        self.opened.emit(place.key)  # which has it read


def followed(links: int) -> str:
    """How many links were changed along with what was moved."""
    return "1 link followed" if links == 1 else f"{links:,} links followed"
