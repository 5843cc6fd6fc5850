"""The folders of a notes folder, as a filter beside the flat list of its notes; notes are moved by dropping them on one."""

from collections.abc import Callable, Mapping

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PyQt6.QtWidgets import QAbstractItemView, QMenu, QTreeWidget, QTreeWidgetItem

from wily_magpie.core.entries.field import find_field
from wily_magpie.core.fields import Relation
from wily_magpie.core.query.nodes import Condition, Question
from wily_magpie.qt.actions import add_choice
from wily_magpie.qt.dropped import entries_in
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.model import SourcesState
from wily_magpie.qt.style.parts import plain_tip

FOLDER_ROLE = int(Qt.ItemDataRole.UserRole)
PATH_KEY = "note.path"
HIGHEST_PX = 260


class FolderTree(QTreeWidget):
    """Seen where the place that is shown has folders.

    Signals:
        asked: a question that asks for the notes of a folder alone, or for all again.
        move_asked: a folder, or notes (their ids), that are to be moved: the folder or "", the ids, where to ("" to be asked).
    """

    asked = pyqtSignal(object)
    move_asked = pyqtSignal(str, tuple, object)

    def __init__(
        self, desk: StationContext, state: Callable[[], SourcesState], chosen: Callable[[], tuple[int, ...]]
    ) -> None:
        super().__init__()
        self.desk, self.state_now, self.chosen_notes = desk, state, chosen
        self.asking = LastAsked(desk.bridge)
        self.place = ""
        self.folders: Mapping[str, int] = {}
        self.setObjectName("places")
        self.setAccessibleName("Folders")
        self.setHeaderHidden(True)
        self.setIndentation(14)
        self.setMaximumHeight(HIGHEST_PX)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DropOnly)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._on_menu)
        self.currentItemChanged.connect(self._on_current)
        desk.bridge.entries_changed.connect(lambda place, _ids: self.ask() if place == self.place else None)
        self.hide()

    def show_state(self, state: SourcesState) -> None:
        """Shows the folders of the place that is shown, and which one is asked for."""
        key = state.place.key if state.place is not None and state.place.nature.is_in_files else ""
        if key != self.place:
            self.place, self.folders = key, {}
            self.hide()
            self.ask()
        self.mark(folder_asked(state.question))

    def ask(self) -> None:
        """Asks which folders there are."""
        place = self.place
        if place:
            self.asking.ask(lambda reader: reader.notes.folders(place), self.fill)
        else:
            self.asking.forget()

    def fill(self, folders: Mapping[str, int]) -> None:
        """Lists them."""
        if folders != self.folders:
            self.folders = folders
            self.blockSignals(True)
            self.clear()
            root = QTreeWidgetItem(["All folders"])
            root.setData(0, FOLDER_ROLE, "")
            self.addTopLevelItem(root)
            items = {"": root}
            for folder, count in folders.items():
                above, _, name = folder.rpartition("/")
                item = QTreeWidgetItem([f"{name}  {count}"])
                item.setData(0, FOLDER_ROLE, folder)
                item.setToolTip(0, plain_tip(folder))
                items.get(above, root).addChild(item)
                items[folder] = item
            root.setExpanded(True)
            self.blockSignals(False)
        self.setVisible(bool(folders))
        self.mark(folder_asked(self.state_now().question))

    def mark(self, folder: str) -> None:
        """Marks a folder as the one that is asked for, without telling."""
        self.blockSignals(True)
        for item in self.findItems("", Qt.MatchFlag.MatchContains | Qt.MatchFlag.MatchRecursive):
            if item.data(0, FOLDER_ROLE) == folder:
                self.setCurrentItem(item)
        self.blockSignals(False)

    def _on_current(self, item: QTreeWidgetItem | None) -> None:
        if item is not None:
            self.asked.emit(within(self.state_now(), str(item.data(0, FOLDER_ROLE))))

    def _on_menu(self, at: QPoint) -> None:
        item, view = self.itemAt(at), self.viewport()
        folder = str(item.data(0, FOLDER_ROLE)) if item is not None else ""
        if not folder or view is None or self.desk.overview.is_read_only:
            return
        menu = QMenu(self)
        add_choice(menu, f"Move or rename {folder} …", lambda: self.move_asked.emit(folder, (), None))
        chosen = self.chosen_notes()
        if chosen:
            said = "Move the chosen note here" if len(chosen) == 1 else f"Move the {len(chosen)} chosen notes here"
            add_choice(menu, said, lambda: self.move_asked.emit("", chosen, folder))
        menu.exec(view.mapToGlobal(at))

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Takes notes of its own place alone."""
        is_writable = not self.desk.overview.is_read_only
        if event is not None and is_writable and entries_in(event.mimeData(), self.place):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is not None and self.itemAt(event.position().toPoint()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Notes that are let go on a folder are moved there, once it was said what follows."""
        item = self.itemAt(event.position().toPoint()) if event is not None else None
        ids = entries_in(event.mimeData(), self.place) if event is not None else ()
        if event is not None and item is not None and ids:
            event.setDropAction(Qt.DropAction.IgnoreAction)
            event.accept()
            self.move_asked.emit("", ids, str(item.data(0, FOLDER_ROLE)))


def is_of_folder(condition: object) -> bool:
    """Whether a condition asks for a folder."""
    is_path = isinstance(condition, Condition) and condition.field.key == PATH_KEY
    return is_path and isinstance(condition, Condition) and condition.relation is Relation.BEGINS


def folder_asked(question: Question) -> str:
    """The folder that a question asks for; "" for none."""
    found = next((one for one in question.conditions if is_of_folder(one)), None)
    return found.value.rstrip("/") if isinstance(found, Condition) else ""


def within(state: SourcesState, folder: str) -> Question:
    """The question with the notes of a folder, and of those in it, alone; "" for all."""
    others = tuple(one for one in state.question.conditions if not is_of_folder(one))
    if not folder or state.place is None:
        return state.question.with_conditions(others)
    path = find_field(state.place.askable, PATH_KEY)
    return state.question.with_conditions((Condition(path, Relation.BEGINS, f"{folder}/"), *others))
