"""The pages in the middle of the Sources station, of which one is shown."""

from functools import cached_property
from typing import TYPE_CHECKING, TypeVar

from PyQt6.QtWidgets import QStackedWidget, QWidget

if TYPE_CHECKING:
    from wily_magpie.qt.stations.sources.setup.new_place import NewPlacePage
    from wily_magpie.qt.stations.sources.setup.setup_page import SetupPage
    from wily_magpie.qt.stations.sources.station import SourcesStation
    from wily_magpie.qt.stations.sources.trash_page import TrashPage
    from wily_magpie.qt.stations.sources.whole_entry import WholeEntry

NARROWEST_PAGE_PX = 240
Page = TypeVar("Page", bound=QWidget)


class PageStack(QStackedWidget):
    """Whatever is open: a question with its table, an entry whole, a search, the trash, the set-up of a place, a new place.

    Args:
        table_page: what is shown at first; the chosen entry stands beside it alone.
        results: what a search found. All other pages are made when they are first needed.
    """

    def __init__(self, station: "SourcesStation", table_page: QWidget, results: QWidget) -> None:
        super().__init__()
        self.station = station
        self.desk = station.desk
        self.table_page = self.put(table_page)
        self.put(results)

    def put(self, page: Page) -> Page:
        """Takes a page in; the widest page must not push the chosen entry aside."""
        page.setMinimumWidth(NARROWEST_PAGE_PX)
        self.addWidget(page)
        return page

    @cached_property
    def whole(self) -> "WholeEntry":
        """The page of one entry."""
        from wily_magpie.qt.stations.sources.whole_entry import WholeEntry

        page = WholeEntry(self.desk, lambda field: self.station.cells.names_for(field))
        page.left.connect(self.close_whole)
        page.turned.connect(self.turn)
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
        page.deleted.connect(self.show_table)
        return self.put(page)

    @cached_property
    def new_place(self) -> "NewPlacePage":
        """The page on which places are made."""
        from wily_magpie.qt.stations.sources.setup.new_place import NewPlacePage

        page = NewPlacePage(self.desk)
        page.made.connect(self._on_made)
        page.left.connect(self.show_table)
        page.folder_asked.connect(self.station.notes.ask_folder)
        return self.put(page)

    def is_open(self, name: str) -> bool:
        """Whether one of those pages is shown."""
        return name in self.__dict__ and self.currentWidget() is self.__dict__[name]

    def show_page(self, page: QWidget) -> None:
        """Shows one of the pages."""
        if self.is_open("whole") and page is not self.whole:
            self.whole.keep_text()
        self.setCurrentWidget(page)
        is_beside = page is self.table_page and not self.station.is_folded
        if self.station.panel.isHidden() == is_beside:
            self.station.panel.setVisible(is_beside)

    def show_table(self) -> None:
        """Shows the table again."""
        self.show_page(self.table_page)
        self.station.table.setFocus()

    def open_whole(self, entry_id: int) -> None:
        """Opens an entry over the whole width."""
        if self.station.place is not None:
            self.whole.show_entry(self.station.place.key, entry_id)
            self.show_page(self.whole)
            self.whole.body.setFocus()

    def open_chosen_whole(self) -> None:
        """Opens the chosen entry over the whole width, or goes back to the table."""
        chosen = self.station.panel.entry
        if self.is_open("whole"):
            self.close_whole()
        elif chosen is not None:
            self.open_whole(chosen.id)

    def close_whole(self) -> None:
        """Goes back to the table, and to this entry in it."""
        self.show_page(self.table_page)
        if self.whole.entry is not None:
            self.station.table.choose(self.whole.entry.id)
        self.station.table.setFocus()

    def turn(self, by: int) -> None:
        """Shows the entry before or behind the one that is open whole."""
        ids = list(self.station.table.table.listing.ids)
        if self.whole.entry is not None and self.whole.entry.id in ids:
            at = ids.index(self.whole.entry.id) + by
            if 0 <= at < len(ids):
                self.whole.keep_text()
                self.whole.show_entry(self.whole.place, ids[at])

    def open_setup(self, field: str = "") -> None:
        """Opens the set-up of the place that is shown."""
        if self.station.place is not None:
            self.setup.open(self.station.place.key, field)
            self.show_page(self.setup)

    def open_new_place(self) -> None:
        """Opens the page on which places are made."""
        self.show_page(self.new_place)
        self.new_place.open()

    def _on_made(self, key: str) -> None:
        self.station.open_place(key)
        self.station.table.setFocus()

    def open_trash(self) -> None:
        """Shows the trash."""
        self.trash.refresh()
        self.show_page(self.trash)
        self.trash.table.setFocus()

    def refresh(self) -> None:
        """Shows what entries are now."""
        if self.is_open("whole") and self.whole.entry is not None:
            self.whole.show_entry(self.whole.place, self.whole.entry.id)
        if self.is_open("trash"):
            self.trash.refresh()

    def refresh_setup(self) -> None:
        """Shows what the place is now."""
        if self.is_open("setup"):
            self.setup.refresh()
