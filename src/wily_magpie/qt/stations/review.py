"""The Review station: what each place lacks, and how far it is; every figure is a door to the entries behind it."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wily_magpie.core.queries.review import Figure, Figures
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.parts import PlainLabel, in_row, label, plain_tip, scroll_area
from wily_magpie.qt.style.theme import THEME

BAR_PX = 220
NOTHING_MISSING = "Nothing is missing: no rule is broken, or no field is blank here and filled there."
NO_MARKS = "There are no marks yet: choose words in a text in Read, and press 1 to 4."
NO_PLACE = "There is no place in this library yet. Make one in Sources."


class ReviewStation(QWidget):
    """Panels over one place."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.asking = LastAsked(desk.bridge)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 18, 24, 18)
        column.setSpacing(12)
        self.place = QComboBox()
        self.place.setAccessibleName("Place to review")
        self.place.setMinimumWidth(160)
        self.place.activated.connect(lambda _index: self.ask())
        self.missing = label("", "origin")
        column.addLayout(in_row(label("How far is", "heading"), self.place, self.missing))
        inside = QWidget()
        self.panels = QHBoxLayout(inside)
        self.panels.setSpacing(40)
        self.panels.setContentsMargins(0, 0, 0, 0)
        column.addWidget(scroll_area(inside, is_upright=False), 1)
        desk.bridge.places_changed.connect(self.refresh)
        desk.bridge.entries_changed.connect(lambda _place, _ids: self.refresh())
        desk.bridge.notes_coming.connect(lambda _place: self.say_missing())

    def refresh(self) -> None:
        """Counts anew, if anybody looks."""
        if not self.isVisible():
            return
        chosen = self.place.currentData()
        self.place.clear()
        for place in self.desk.overview.places:
            self.place.addItem(place.name, place.key)
        self.place.setCurrentIndex(max(0, self.place.findData(chosen)))
        self.ask()

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.refresh()

    def say_missing(self) -> None:
        """Says that a folder is being read, whose figures are not all there then."""
        self.missing.setText(self.desk.bridge.still_read(str(self.place.currentData() or "")))

    def ask(self) -> None:
        """Counts off the main thread."""
        self.say_missing()
        key = self.place.currentData()
        if key is None:
            self.asking.forget()
            clear(self.panels)
            self.panels.addWidget(PlainLabel(NO_PLACE))
            return
        self.asking.ask(lambda reader: reader.review.figures(key), lambda figures: self.show_figures(key, figures))

    def show_figures(self, key: str, figures: Figures) -> None:
        """Shows the panels."""
        clear(self.panels)
        left, right = QVBoxLayout(), QVBoxLayout()
        for layout in (left, right):
            layout.setSpacing(20)
            self.panels.addLayout(layout)
        self.panels.addStretch(1)
        left.addWidget(self.panel(key, "What is missing", figures.gaps, NOTHING_MISSING))
        left.addWidget(self.panel(key, "Marks", figures.marks, NO_MARKS))
        for number, (name, group) in enumerate(figures.progress):
            side = right if number % 2 == 0 else left
            side.addWidget(self.panel(key, f"By {name.lower()}", group, "Nothing yet."))
        left.addStretch(1)
        right.addStretch(1)

    def open(self, key: str, figure: Figure) -> None:
        """Shows what is behind a figure."""
        if figure.marks is not None:
            self.desk.show_marks("", figure.marks)
        else:
            self.desk.show_question(key, figure.question)

    def panel(self, key: str, title: str, figures: Sequence[Figure], nothing: str) -> QWidget:
        """A heading with rows of name, bar and count."""
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(2)
        heading = PlainLabel(title)
        font = heading.font()
        font.setBold(True)
        heading.setFont(font)
        grid.addWidget(heading, 0, 0, 1, 3)
        if not figures:
            grid.addWidget(label(nothing), 1, 0, 1, 3)
        for row, figure in enumerate(figures, 1):
            door = QPushButton(str(figure.count))
            door.setObjectName("piece")
            what = "marks" if figure.marks is not None else "entries"
            door.setAccessibleName(f"Show the {figure.count} {what}: {title}, {figure.name}")
            door.setToolTip(plain_tip(f"Show these {what}"))
            door.clicked.connect(lambda _checked, figure=figure: self.open(key, figure))
            bar = PlainLabel()
            bar.setFixedSize(max(2, round(BAR_PX * figure.count / max(1, figure.total))), 8)
            bar.setStyleSheet(f"background: {colour_of(figure)};")
            grid.addWidget(PlainLabel(figure.name), row, 0)
            grid.addWidget(door, row, 1, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(bar, row, 2)
        grid.setColumnMinimumWidth(0, 140)
        grid.setColumnMinimumWidth(2, BAR_PX)
        grid.setColumnStretch(2, 1)
        return box


def colour_of(figure: Figure) -> str:
    """Of its bar: that of its option or kind of mark, else none in particular."""
    if figure.colour:
        return THEME.colours.spine(figure.colour)
    if figure.marks is not None and figure.marks.kind:
        return THEME.colours.spine(LOOKS.of(figure.marks.kind).colour)
    return THEME.colours.slate
