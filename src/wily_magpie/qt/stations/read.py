"""The Read station: the kept text at a reading measure, the entry's facts above it, its neighbours a key away."""

import html
from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.fields.people import given_first
from wily_magpie.qt.editors.spine import SpineDelegate
from wily_magpie.qt.reading import ReadingView
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import text_button

NOTHING_OPEN = "Nothing is open.\n\nChoose an entry in Sources and press Enter."


class ReadStation(QWidget):
    """Shows one entry for reading."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.place = ""
        self.entry: Entry | None = None
        self.around: Sequence[int] = ()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.make_bar())
        self.stack = QStackedWidget()
        empty = QLabel(NOTHING_OPEN)
        empty.setObjectName("empty")
        empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.view = ReadingView(lambda address: desk.session.picture(address, self.entry))
        self.view.followed.connect(self.follow)
        self.view.setStyleSheet("QTextBrowser { border: none; }")
        self.stack.addWidget(empty)
        self.stack.addWidget(self.view)
        layout.addWidget(self.stack, 1)
        desk.bridge.entries_changed.connect(self._on_entries_changed)
        desk.bridge.pictures_kept.connect(lambda place: self.show_entry() if place == self.place else None)
        self.show_entry()

    def follow(self, address: str) -> None:
        """Opens a link: a note of the same folder here, all else in the system's browser."""
        found = self.desk.session.noting.note_at(self.entry, address) if self.entry is not None else None
        if found is not None:
            self.open(self.place, found, ())
        else:
            self.desk.open_outside(address)

    def make_bar(self) -> QWidget:
        bar = QWidget()
        row = QHBoxLayout(bar)
        row.setContentsMargins(12, 6, 12, 6)
        self.previous = text_button("Previous", "arrow-left", lambda: self.turn(-1))
        self.next = text_button("Next", "arrow-right", lambda: self.turn(1))
        self.where = QLabel()
        self.where.setObjectName("slate")
        self.status_label = QLabel("&Status")
        self.status_label.setObjectName("slate")
        self.status = QComboBox()
        self.status.setAccessibleName("Status")
        self.status.setMinimumWidth(130)
        self.status.setItemDelegate(SpineDelegate(self.status))
        self.status.activated.connect(self._on_status)
        self.status_label.setBuddy(self.status)
        self.in_sources = QPushButton("Show in Sources")
        self.in_sources.clicked.connect(self._on_in_sources)
        self.outside = QPushButton("Open in the browser")
        self.outside.clicked.connect(lambda: self.desk.open_outside(self.address()))
        row.addWidget(self.previous)
        row.addWidget(self.next)
        row.addWidget(self.where, 1)
        for widget in (self.status_label, self.status, self.in_sources, self.outside):
            row.addWidget(widget)
        return bar

    def open(self, place: str, entry_id: int, around: Sequence[int]) -> None:
        """Opens an entry.

        Args:
            around: the ids among which previous and next lead, in their order.
        """
        self.place, self.around = place, around
        self.entry = self.desk.session.place(place).entry(entry_id)
        self.show_entry()
        bar = self.view.verticalScrollBar()
        if bar is not None:
            bar.setValue(0)
        self.view.setFocus()

    def turn(self, step: int) -> None:
        """Goes to a neighbour."""
        at = self.position()
        if at is not None and 0 <= at + step < len(self.around):
            self.open(self.place, self.around[at + step], self.around)

    def position(self) -> int | None:
        """Where the entry stands among those around it."""
        ids = list(self.around)
        return ids.index(self.entry.id) if self.entry and self.entry.id in ids else None

    def address(self) -> str:
        """The entry's address, or ""."""
        value = self.entry.value("address") if self.entry else None
        return value if isinstance(value, str) else ""

    def show_entry(self) -> None:
        """Shows the entry as it is now."""
        entry, at = self.entry, self.position()
        self.stack.setCurrentIndex(0 if entry is None else 1)
        self.previous.setEnabled(at is not None and at > 0)
        self.next.setEnabled(at is not None and at + 1 < len(self.around))
        self.where.setText(f"{at + 1} of {len(self.around)}" if at is not None and len(self.around) > 1 else "")
        for widget in (self.status_label, self.status, self.in_sources, self.outside):
            widget.setVisible(entry is not None)
        if entry is None:
            return
        self.outside.setVisible(bool(self.address()))
        field = next((f for f in self.desk.session.place(self.place).fields if f.key == "status"), None)
        self.status.setVisible(field is not None)
        self.status_label.setVisible(field is not None)
        if field is not None:
            self.status.clear()
            for option in field.options:
                self.status.addItem(option.name, option.colour)
            self.status.setCurrentIndex(self.status.findText(str(entry.value("status") or "")))
        body = entry.body or ""
        note = (
            ""
            if body.strip()
            else "<p class='meta'>No text is kept here. Its address can be opened in the browser.</p>"
        )
        if not body.strip() and not self.address():
            note = "<p class='meta'>No text is kept here yet. Write some in Sources.</p>"
        marks = self.desk.session.marking.of(self.place, entry.id)
        self.view.show_markdown(without_title(body, entry.title), self.head(entry) + note, marks)

    def head(self, entry: Entry) -> str:
        """Title and facts, as HTML of our own; every text in it is escaped."""
        people = entry.value("authors")
        names = ", ".join(map(given_first, people)) if isinstance(people, tuple) else ""
        facts = [names, str(entry.value("published") or "")[:10], str(entry.value("site") or "")]
        line = " · ".join(html.escape(fact) for fact in facts if fact)
        address = self.address()
        link = f'<p class="meta"><a href="{html.escape(address)}">{html.escape(address)}</a></p>' if address else ""
        return f'<h1>{html.escape(entry.title)}</h1><p class="meta">{line}</p>{link}<hr>'

    def _on_in_sources(self) -> None:
        if self.entry is not None:
            self.desk.show_entry(self.place, self.entry.id)

    def _on_status(self, index: int) -> None:
        if self.entry is None:
            return
        try:
            self.desk.session.set_text(self.place, [self.entry.id], "status", self.status.itemText(index))
        except MagpieError as error:
            self.desk.complain(error)

    def _on_entries_changed(self, place: str, ids: tuple[int, ...]) -> None:
        if self.entry is None or place != self.place or (ids and self.entry.id not in ids):
            return
        self.entry = self.desk.session.place(place).entry(self.entry.id)
        bar = self.view.verticalScrollBar()
        at = bar.value() if bar is not None else 0
        self.show_entry()
        if bar is not None:
            bar.setValue(at)


def without_title(body: str, title: str) -> str:
    """The text without a first heading that says the title once more."""
    first, _, rest = body.lstrip().partition("\n")
    return rest if first.lstrip("# ").strip() == title.strip() and first.startswith("#") else body
