"""List: for queues. Title, where from, kind, minutes to read, the first words; the status by one key."""

import bisect
from collections.abc import Iterable

from PyQt6.QtCore import QRect, QSize, Qt
from PyQt6.QtGui import QFont, QPainter
from PyQt6.QtWidgets import QWidget

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.queries.looks import Beginning
from wily_magpie.qt.stations.sources.cell_painting import colour_of
from wily_magpie.qt.stations.sources.layouts.canvas import (
    HEADING_PX,
    EntryCanvas,
    paint_lines,
    reading_font,
    shown_texts,
)
from wily_magpie.qt.stations.sources.layouts.cards import Ask
from wily_magpie.qt.stations.sources.table import EntryTableView
from wily_magpie.qt.style.parts import timer
from wily_magpie.qt.style.theme import THEME

ROW_PX, MARGIN_PX, GAP_PX = 84, 16, 8
WIDEST_PX, MOST_KEPT, AT_ONCE = 900, 4_000, 64


class ListView(EntryCanvas):
    """See the module.

    Args:
        ask: asks for how texts begin.
    """

    def __init__(self, view: EntryTableView, ask: Ask, parent: QWidget | None = None) -> None:
        super().__init__(view, "List", parent)
        self.ask = ask
        self.beginnings: dict[tuple[str, int], Beginning] = {}
        self.wanted: list[int] = []
        self.is_asking = False
        self.soon = timer(self, self.fetch)
        self.count, self.heads = 0, set[int]()

    def arrange(self, width: int) -> QSize:
        self.count = self.table.rowCount()
        self.heads = set(self.table.heads)
        return QSize(0, self.top_of(self.count) + MARGIN_PX)

    def top_of(self, row: int) -> int:
        """Where a row begins: headings before it are lower than entries."""
        heads = bisect.bisect_left(self.table.heads, row)
        return MARGIN_PX + heads * (HEADING_PX + GAP_PX) + (row - heads) * (ROW_PX + GAP_PX)

    def rect_of(self, row: int) -> QRect:
        width = min(WIDEST_PX, self.surface.width() - 2 * MARGIN_PX)
        return QRect(MARGIN_PX, self.top_of(row), width, HEADING_PX if row in self.heads else ROW_PX)

    def rows_in(self, rect: QRect) -> Iterable[int]:
        low, high = 0, self.count
        while low < high:
            middle = (low + high) // 2
            if self.top_of(middle + 1) < rect.top():
                low = middle + 1
            else:
                high = middle
        for row in range(low, self.count):
            if self.top_of(row) > rect.bottom():
                return
            yield row

    def neighbour(self, row: int, key: int) -> int | None:
        page = max(1, self.surface.height() // (ROW_PX + GAP_PX))
        last = self.table.rowCount() - 1
        steps = {
            Qt.Key.Key_Up: row - 1, Qt.Key.Key_Down: row + 1, Qt.Key.Key_Left: row - 1, Qt.Key.Key_Right: row + 1,
            Qt.Key.Key_Home: 0, Qt.Key.Key_End: last, Qt.Key.Key_PageUp: max(0, row - page),
            Qt.Key.Key_PageDown: min(last, row + page),
        }  # fmt: skip
        target = steps[Qt.Key(key)]
        is_up = key in (Qt.Key.Key_Up, Qt.Key.Key_Left, Qt.Key.Key_End)
        return self.entry_row(target, -1 if is_up else 1)

    def paint_row(self, painter: QPainter, row: int, rect: QRect, entry: Entry) -> None:
        self.paint_box(painter, row, rect, entry)
        c = THEME.colours
        inside = rect.adjusted(16, 8, -14, -6)
        begun = self.beginning_of(entry.id)
        small = QFont(self.font())
        small.setPointSizeF(9.5)
        painter.setFont(small)
        minutes = self.length_of(entry, begun)
        wide = painter.fontMetrics().horizontalAdvance(minutes) + 8 if minutes else 0
        if minutes:
            painter.setPen(colour_of(c.brass))
            painter.drawText(inside, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, minutes)
        title = inside.adjusted(0, 0, -wide, 0)
        down = paint_lines(painter, title, entry.title, reading_font(12.0, is_bold=True), c.ink, 1)
        rest = inside.adjusted(0, down + 2, 0, 0)
        down = paint_lines(painter, rest, "  ·  ".join(self.facts(entry)), small, c.slate, 1)
        rest = rest.adjusted(0, down + 3, 0, 0)
        words = str(entry.value("description") or "") or (begun.words if begun is not None else "")
        paint_lines(painter, rest, " ".join(words.split()), reading_font(10.0), c.slate, 1)

    def length_of(self, entry: Entry, begun: Beginning | None) -> str:
        """How long it plays, else how long it takes to read."""
        fields = self.place.fields if self.place is not None else ()
        plays = next((one for one in fields if one.kind.is_duration), None)
        value = entry.value(plays.key) if plays is not None else None
        if plays is not None and value is not None:
            return plays.shown(value)
        return f"{begun.minutes} min" if begun is not None and begun.minutes else ""

    def facts(self, entry: Entry) -> list[str]:
        """Where it is from, what kind it is, and what was chosen to be shown."""
        place = self.place
        if place is None:
            return []
        main = place.main_address
        address = entry.value(main.key) if main is not None else None
        site = entry.value("site") or (host_of(address) if isinstance(address, str) else "")
        chosen = self.layout_now.shown_fields(place.fields)
        keys = [one for one in place.fields if one.key == "kind" and one not in chosen]
        status = self.status
        told = [str(site), *shown_texts(entry, [*keys, *(one for one in chosen if one.key != "site")])]
        state = entry.value(status.key) if status is not None else None
        return list(dict.fromkeys(one for one in (str(state or ""), *told) if one))

    def beginning_of(self, entry_id: int) -> Beginning | None:
        """How its text begins; None while that is fetched."""
        key = (self.place.key if self.place is not None else "", entry_id)
        found = self.beginnings.get(key)
        if found is None and entry_id not in self.wanted:
            self.wanted.append(entry_id)
            if not self.is_asking:
                self.soon.start(0)
        return found

    def fetch(self) -> None:
        """Asks how texts begin, of what was seen last."""
        place = self.place
        if self.is_asking or not self.wanted or place is None:
            return
        ids, self.wanted, self.is_asking = self.wanted[-AT_ONCE:], [], True
        key = place.key
        blank = Beginning("", 0)

        def take(found: dict[int, Beginning]) -> None:
            self.is_asking = False
            self.beginnings.update({(key, one): found.get(one, blank) for one in ids})
            while len(self.beginnings) > MOST_KEPT:
                del self.beginnings[next(iter(self.beginnings))]
            self.surface.update()
            if self.wanted:
                self.soon.start(0)

        self.ask(lambda reader: reader.looks.beginnings(key, ids), take)

    def forget(self, ids: Iterable[int]) -> None:
        """Entries changed; none are named: all may have."""
        gone = set(ids)
        self.beginnings = {key: one for key, one in self.beginnings.items() if gone and key[1] not in gone}
        self.surface.update()
