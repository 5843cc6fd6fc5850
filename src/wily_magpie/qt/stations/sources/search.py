"""What a search over everything kept has found."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from wily_magpie.core.queries.entries import Found
from wily_magpie.qt.editors.two_lines import TwoLines
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import WrappedLabel

ENTRY_ROLE = int(Qt.ItemDataRole.UserRole)


class SearchResults(QWidget):
    """A list of entries of all places; Enter or a click shows one where it lives."""

    opened = pyqtSignal(str, int)

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.asked = 0
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 10)
        self.heading = WrappedLabel()
        self.heading.setTextFormat(Qt.TextFormat.PlainText)
        self.list = QListWidget()
        self.list.setAccessibleName("What was found")
        self.list.setItemDelegate(TwoLines(self.list))
        self.list.itemActivated.connect(self._on_activated)
        column.addWidget(self.heading)
        column.addWidget(self.list, 1)

    def search(self, words: str) -> None:
        """Looks for words in everything kept."""
        self.asked += 1
        number = self.asked
        self.heading.setText(f"Looking for “{words}” …")
        self.list.clear()
        self.desk.bridge.ask(
            lambda reader: reader.entries.search(words), lambda found: self.show_found(words, found, number)
        )

    def show_found(self, words: str, found: Found, number: int) -> None:
        """Shows what was found, unless something else is asked for by now."""
        if number != self.asked:
            return
        many = f"{found.total:,} entries have" if found.total != 1 else "One entry has"
        nothing = "Nothing that is kept has the words"
        said = f"{many if found.total else nothing} “{words}” in its title, fields or text."
        shown = len(found.entries)
        rest = f" Here are {shown:,}; ask for more words, or in one place by its sentence, to see the others."
        self.heading.setText(said + (rest if found.total > shown else ""))
        names = {place.key: place.name for place in self.desk.overview.places}
        for entry in found.entries:
            about = [
                names.get(entry.place, ""),
                str(entry.value("published") or "")[:10],
                str(entry.value("site") or ""),
            ]
            item = QListWidgetItem(f"{entry.title}\n{'  ·  '.join(filter(None, about))}")
            item.setData(ENTRY_ROLE, (entry.place, entry.id))
            self.list.addItem(item)
        if found.entries:
            self.list.setCurrentRow(0)
            self.list.setFocus()

    def _on_activated(self, item: QListWidgetItem) -> None:
        place, entry_id = item.data(ENTRY_ROLE)
        self.opened.emit(place, entry_id)
