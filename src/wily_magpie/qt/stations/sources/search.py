"""What a search over everything kept has found: best first, the lines around, the true count, and what it can be narrowed by."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from wily_magpie.core.entries.entry import short
from wily_magpie.core.queries.search import Hit, Narrowing, SearchAnswer, Wanted, understood
from wily_magpie.core.query import cql
from wily_magpie.qt.hits import HIT_ROLE, add_hits, list_of_hits
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import WrappedLabel, label, scroll_area

MOST_HITS, MOST_VALUES, MORE = 200, 8, 400
SIDE_PX = 190
NAMES = {"place": "Place", "kind": "Kind", "status": "Status", "year": "Years"}


class SearchResults(QWidget):
    """A list of entries of all places; Enter or a double click opens one at the hit.

    Signals:
        opened: a hit and what was looked for.
        shown_in_place: the key of a place and the id of an entry that is to be seen there.
    """

    opened = pyqtSignal(object, object)
    shown_in_place = pyqtSignal(str, int)

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.asking = desk, LastAsked(desk.bridge)
        self.words = ""
        self.wanted = Wanted()
        self.narrowed: dict[str, str] = {}
        self.most = MOST_HITS
        desk.bridge.words_indexed.connect(self._on_indexed)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        column = QVBoxLayout()
        column.setContentsMargins(14, 12, 14, 10)
        self.heading = WrappedLabel()
        self.heading.setTextFormat(Qt.TextFormat.PlainText)
        head = QHBoxLayout()
        head.addWidget(self.heading, 1)
        self.keep = QPushButton("Show as a question")
        self.keep.setToolTip("In its place, where it can be sorted, looked at otherwise and kept as a view")
        self.keep.clicked.connect(self.show_as_question)
        head.addWidget(self.keep, 0, Qt.AlignmentFlag.AlignTop)
        self.list = list_of_hits("What was found")
        self.list.itemActivated.connect(self._on_activated)
        self.more = QPushButton()
        self.more.setObjectName("add")
        self.more.clicked.connect(self.show_more)
        column.addLayout(head)
        column.addWidget(self.list, 1)
        column.addWidget(self.more)
        row.addLayout(column, 1)
        side = QWidget()
        self.side = QVBoxLayout(side)
        self.side.setContentsMargins(10, 12, 10, 10)
        self.side.setSpacing(1)
        scroller = scroll_area(side)
        scroller.setFixedWidth(SIDE_PX)
        row.addWidget(scroller)

    def search(self, words: str, narrowed: dict[str, str] | None = None) -> None:
        """Looks for words in everything kept."""
        self.words, self.wanted = words, understood(words, is_open=True)
        self.narrowed, self.most = narrowed or {}, MOST_HITS
        self.ask()

    def ask(self, *, is_again: bool = False) -> None:
        """Asks for what is looked for; again: where the same is shown, the choice stays where it is."""
        wanted, narrowing, most = self.wanted, Narrowing(dict(self.narrowed)), self.most
        if not is_again:
            self.heading.setText(f"Looking for “{short(self.words)}” …")

        def take(answer: SearchAnswer) -> None:
            row = self.list.currentRow() if is_again else 0
            self.show_found(answer)
            self.list.setCurrentRow(max(0, min(row, self.list.count() - 1)))

        self.asking.ask(lambda reader: reader.search.find(wanted, most, narrowing, with_facets=True), take)

    def show_found(self, answer: SearchAnswer) -> None:
        """Shows what was found."""
        self.heading.setText(self.sentence(answer))
        self.list.clear()
        add_hits(self.list, answer.hits)
        left = answer.total - len(answer.hits)
        self.more.setVisible(left > 0)
        self.more.setText(f"+ {min(left, MORE):,} more of {answer.total:,}")
        self.keep.setVisible(bool(answer.hits))
        self.show_facets(answer)
        if answer.hits and self.isVisible():
            self.list.setFocus()

    def sentence(self, answer: SearchAnswer) -> str:
        """What was found, in words."""
        many = f"{answer.total:,} entries have" if answer.total != 1 else "One entry has"
        nothing = "Nothing that is kept has the words"
        said = f"{many if answer.total else nothing} “{short(self.words)}” in title, fields, text, marks or files."
        if answer.wanted.is_empty:
            said = "Words are missing: write what is to stand there, and -word for what is not."
        shown = len(answer.hits)
        parts = [said, f"{shown:,} of {answer.total:,} shown." if answer.total > shown else ""]
        parts.append("Of so many only the newest are in order of fitting: narrow them." if answer.is_newest else "")
        parts.append(f"{answer.unread:,} entries are still being read for this; ask again." if answer.unread else "")
        parts.append(answer.wanted.told)
        return " ".join(filter(None, [*parts, self.desk.bridge.still_read()]))

    def show_facets(self, answer: SearchAnswer) -> None:
        """What it can be narrowed by, and what it is narrowed by already."""
        while (item := self.side.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        names = {place.key: place.name for place in self.desk.overview.places}
        for facet, title in NAMES.items():
            values = by_decade(answer.facets.get(facet, ())) if facet == "year" else list(answer.facets.get(facet, ()))
            chosen = self.narrowed.get(facet)
            if chosen is None and len(values) < 2:
                continue
            head = label(title)
            head.setContentsMargins(2, 8, 0, 2)
            self.side.addWidget(head)
            if chosen is not None:
                self.add_value(facet, chosen, f"× {self.shown(facet, chosen, names)}", is_chosen=True)
                continue
            for value, count in values[:MOST_VALUES]:
                self.add_value(facet, value, f"{self.shown(facet, value, names)}  ·  {count:,}", is_chosen=False)
        self.side.addStretch(1)

    @staticmethod
    def shown(facet: str, value: str, names: dict[str, str]) -> str:
        """A value as it is read."""
        if facet == "place":
            return names.get(value, value)
        if facet == "year" and len(value) == 3:
            return f"{value}0s"
        return value or "blank"

    def add_value(self, facet: str, value: str, text: str, *, is_chosen: bool) -> None:
        """One value that narrows, or the one that does."""
        button = QPushButton(text.replace("&", "&&"))
        button.setObjectName("narrowed" if is_chosen else "narrow")
        button.setToolTip("No longer by this" if is_chosen else "Only these")
        button.clicked.connect(partial(self.narrow, facet, None if is_chosen else value))
        self.side.addWidget(button)

    def narrow(self, facet: str, value: str | None) -> None:
        """Narrows by a value, or no longer by that facet."""
        self.narrowed.pop(facet, None)
        if value is not None:
            self.narrowed[facet] = value
        self.ask()

    def show_more(self) -> None:
        """Shows further ones."""
        self.most += MORE
        self.ask()

    def show_as_question(self) -> None:
        """Shows the search as a question over a place: the one it is narrowed to, else that of the first hit."""
        item = self.list.item(0)
        hit = item.data(HIT_ROLE) if item is not None else None
        key = self.narrowed.get("place") or (hit.entry.place if isinstance(hit, Hit) else "")
        place = self.desk.overview.find_place(key)
        wanted, narrowing = self.wanted, Narrowing(dict(self.narrowed))
        if place is None:
            return
        self.desk.bridge.ask(
            lambda reader: cql.write(reader.search.question_in(wanted, narrowing, key)),
            lambda text: self.desk.show_question(key, text),
        )

    def _on_indexed(self) -> None:
        """What was kept meanwhile is found, too; the choice stays."""
        if self.isVisible() and not self.wanted.is_empty:
            self.ask(is_again=True)

    def _on_activated(self, item: QListWidgetItem) -> None:
        hit = item.data(HIT_ROLE)
        if isinstance(hit, Hit):
            self.opened.emit(hit, self.wanted)


def by_decade(years: Sequence[tuple[str, int]]) -> list[tuple[str, int]]:
    """Years gathered into decades where they are many; blank ones last."""
    known = [(year, count) for year, count in years if year[:3].isdigit()]
    blank = [(year, count) for year, count in years if not year]
    if len(known) <= MOST_VALUES:
        return [*sorted(known, reverse=True), *blank]
    counts: dict[str, int] = {}
    for year, count in known:
        counts[year[:3]] = counts.get(year[:3], 0) + count
    return [*sorted(counts.items(), reverse=True), *blank]
