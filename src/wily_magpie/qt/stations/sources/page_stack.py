"""The pages in the middle of the Sources station, of which one is shown."""

from collections.abc import Callable
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QStackedWidget, QWidget

from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.qt.dropped import TABLE_FILES
from wily_magpie.qt.editors.field_editor import NamesFor
from wily_magpie.qt.station_context import StationContext

if TYPE_CHECKING:
    from wily_magpie.core.exchange.importers import Preview
    from wily_magpie.qt.stations.sources.day_page import DayPage
    from wily_magpie.qt.stations.sources.setup.new_place import NewPlacePage
    from wily_magpie.qt.stations.sources.setup.setup_page import SetupPage
    from wily_magpie.qt.stations.sources.trash_page import TrashPage
    from wily_magpie.qt.stations.sources.whole_entry import WholeEntryPage

NARROWEST_PAGE_PX = 240
Page = TypeVar("Page", bound=QWidget)


class PageStack(QStackedWidget):
    """Whatever is open: a question with its table, an entry whole, a search, the trash, the set-up of a place, a new place.

    It begins with the page that is put in first, beside which alone the chosen entry stands. All others are made when they
    are first needed.

    Args:
        ask_folder: asks for a notes folder.

    Signals:
        shown: another page is shown.
        whole_asked, setup_asked: the chosen entry is to be opened whole; the place that is shown is to be set up.
        left_whole: from an entry that was open whole back to the table; its id, or None.
        turned: from it to the one before or behind: -1, +1.
        made: the key of a place that was made.
    """

    shown = pyqtSignal()
    whole_asked = pyqtSignal()
    setup_asked = pyqtSignal()
    left_whole = pyqtSignal(object)
    turned = pyqtSignal(int)
    made = pyqtSignal(str)

    def __init__(
        self,
        desk: StationContext,
        names_for: NamesFor,
        ask_folder: Callable[[], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.desk, self.names_for, self.ask_folder = desk, names_for, ask_folder

    def put(self, page: Page) -> Page:
        """Takes a page in; the widest page must not push the chosen entry aside."""
        page.setMinimumWidth(NARROWEST_PAGE_PX)
        self.addWidget(page)
        return page

    @cached_property
    def whole(self) -> "WholeEntryPage":
        """The page of one entry."""
        from wily_magpie.qt.stations.sources.whole_entry import WholeEntryPage

        page = WholeEntryPage(self.desk, self.names_for)
        page.left.connect(self.close_whole)
        page.turned.connect(self._on_turned)
        return self.put(page)

    @cached_property
    def day(self) -> "DayPage":
        """The pages of the journal."""
        from wily_magpie.qt.stations.sources.day_page import DayPage

        page = DayPage(self.desk)
        page.left.connect(self.show_table)
        page.opened.connect(self.open_whole)
        return self.put(page)

    @cached_property
    def trash(self) -> "TrashPage":
        """The page of the trash."""
        from wily_magpie.qt.stations.sources.trash_page import TrashPage

        return self.put(TrashPage(self.desk))

    @cached_property
    def setup(self) -> "SetupPage":
        """The page on which a place is set up."""
        from wily_magpie.qt.stations.sources.setup.setup_page import SetupPage

        page = SetupPage(self.desk)
        page.left.connect(self.show_table)
        return self.put(page)

    @cached_property
    def new_place(self) -> "NewPlacePage":
        """The page on which places are made."""
        from wily_magpie.qt.stations.sources.setup.new_place import NewPlacePage

        page = NewPlacePage(self.desk)
        page.made.connect(self.made)
        page.left.connect(self.show_table)
        page.folder_asked.connect(self.ask_folder)
        return self.put(page)

    def is_open(self, name: str) -> bool:
        """Whether one of those pages is shown."""
        return name in self.__dict__ and self.currentWidget() is self.__dict__[name]

    def ask_table(self, place: PlaceInfo) -> None:
        """Has a table chosen that goes into a place."""
        given, _ = QFileDialog.getOpenFileName(self, f"A table for {place.name}", "", TABLE_FILES)
        if given:
            self.open_table(place, Path(given))

    def open_table(self, place: PlaceInfo, path: Path) -> None:
        """Shows what a table would bring into a place."""
        from wily_magpie.core.exchange.importers import preview  # seldom needed
        from wily_magpie.qt.stations.sources.setup.table_into import TableIntoPage

        def show(found: "Preview") -> None:
            self.table_into = TableIntoPage(self.desk, place, path, found.sheet, self)
            self.table_into.show()

        self.desk.bridge.ask(lambda _reader: preview(path), show)

    def show_page(self, page: QWidget) -> None:
        """Shows one of the pages."""
        if self.is_open("whole") and page is not self.whole:
            self.whole.keep_text()
        self.setCurrentWidget(page)
        self.shown.emit()

    def show_first(self) -> None:
        """Shows the page that was put in first."""
        first = self.widget(0)
        if first is not None:
            self.show_page(first)

    def show_table(self) -> None:
        """Shows the table again."""
        self.show_first()
        self.left_whole.emit(None)

    def open_whole(self, place: str, entry_id: int) -> None:
        """Opens an entry over the whole width."""
        self.whole.keep_text()
        self.whole.show_entry(place, entry_id)
        self.show_page(self.whole)
        self.whole.body.setFocus()

    def open_chosen_whole(self) -> None:
        """Opens the chosen entry over the whole width, or goes back to the table."""
        if self.is_open("whole"):
            self.close_whole()
        else:
            self.whole_asked.emit()

    def close_whole(self) -> None:
        """Goes back to the table, and to this entry in it."""
        self.show_first()
        self.left_whole.emit(self.whole.entry.id if self.whole.entry is not None else None)

    def _on_turned(self, by: int) -> None:
        self.turned.emit(by)

    def open_setup(self, place: str = "", field: str = "") -> None:
        """Opens the set-up of a place; of the one that is shown where none is named."""
        if not place:
            self.setup_asked.emit()
            return
        self.setup.open(place, field)
        self.show_page(self.setup)

    def open_new_place(self) -> None:
        """Opens the page on which places are made."""
        self.show_page(self.new_place)
        self.new_place.open()

    def open_day(self, key: str) -> None:
        """Opens today's page of a notes folder, which is made where there is none yet."""
        self.show_page(self.day)
        self.day.open(key)

    def open_trash(self) -> None:
        """Shows the trash."""
        self.trash.refresh()
        self.show_page(self.trash)
        self.trash.table.setFocus()

    def refresh(self, place: str, ids: tuple[int, ...]) -> None:
        """Shows what entries are now."""
        if self.is_open("whole"):
            wanted = self.whole.wanted  # also where it is being fetched still, as it was before
            if wanted is not None and wanted[0] == place and (not ids or wanted[1] in ids):
                self.whole.refresh()
            elif self.whole.place == place:
                self.whole.ask_around()
        if self.is_open("trash"):
            self.trash.refresh()

    def refresh_setup(self) -> None:
        """Shows what the place is now."""
        if self.is_open("setup"):
            self.setup.refresh()
        if self.is_open("trash"):
            self.trash.refresh()
