"""The line between the sentence and cards, lanes, a list or a time line: what is shown, and how."""

from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property, partial

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QMenu, QPushButton, QSlider, QWidget

from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.layout import NARROWEST_CARD_PX, WIDEST_CARD_PX, Layout, LayoutKind
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.qt.actions import add_choice
from wily_magpie.qt.style.flow import FlowLayout, clear
from wily_magpie.qt.style.parts import at_once, label, plain_tip, timer

REST_MS, MOST_SHOWN = 250, 4


class LayoutBar(QWidget):
    """See the module.

    Signals:
        arranged: another layout.
        show_all_asked: of a time line, all of it is to be seen.
        zoom_asked: of a time line, closer (more than 1) or further away.
    """

    arranged = pyqtSignal(object)
    show_all_asked = pyqtSignal()
    zoom_asked = pyqtSignal(float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("layoutbar")
        self.layout_now = Layout()
        self.place: PlaceInfo | None = None
        self.shown_of: object = None
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 2, 12, 4)
        self.words = QWidget()
        self.flow = FlowLayout(self.words, gap_px=4)
        row.addWidget(self.words, 1)
        self.row = row
        self.rest = timer(self, self.keep_size)

    @cached_property
    def slider(self) -> QSlider:
        """The size of the cards; made when cards are shown for the first time."""
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(NARROWEST_CARD_PX, WIDEST_CARD_PX)
        slider.setSingleStep(20)
        slider.setPageStep(60)
        slider.setFixedWidth(120)
        slider.setAccessibleName("Size of the cards")
        slider.setToolTip("Size of the cards")
        slider.valueChanged.connect(lambda _value: self.rest.start(REST_MS))
        self.row.addWidget(slider)
        return slider

    def show_layout(self, place: PlaceInfo | None, layout: Layout) -> None:
        """Shows what a layout says; a table has no such line."""
        self.place, self.layout_now = place, layout
        self.setVisible(place is not None and layout.kind is not LayoutKind.TABLE)
        shown_of = (place.key, place.fields, layout) if place is not None else None
        if shown_of == self.shown_of or place is None:
            return
        self.shown_of = shown_of
        clear(self.flow)
        if layout.kind is LayoutKind.CARDS or "slider" in self.__dict__:
            self.slider.setVisible(layout.kind is LayoutKind.CARDS)
            self.slider.blockSignals(True)
            self.slider.setValue(layout.card_px)
            self.slider.blockSignals(False)
        {
            LayoutKind.CARDS: self.add_cards, LayoutKind.LANES: self.add_lanes, LayoutKind.LIST: self.add_shown,
            LayoutKind.TIMELINE: self.add_timeline,
        }.get(layout.kind, lambda: None)()  # fmt: skip
        self.words.updateGeometry()

    def keep_arranged(self) -> None:
        """Keeps at once what was just dragged."""
        at_once(self.rest, self.keep_size)

    def keep_size(self) -> None:
        """Keeps the size of the cards."""
        if self.slider.value() != self.layout_now.card_px:
            self.arranged.emit(replace(self.layout_now, card_px=self.slider.value()))

    # the words of each

    def add_cards(self) -> None:
        """Of cards: cover, where it stands, what is shown."""
        fields = self.place.fields if self.place is not None else ()
        able = [one for one in fields if one.kind.holds_files or one.kind.is_address]
        self.add_choice_of("cover", self.layout_now.cover, "found by itself", able, "cover")
        side = QCheckBox("at the left")
        side.setChecked(self.layout_now.is_cover_left)
        side.toggled.connect(lambda on: self.arranged.emit(replace(self.layout_now, is_cover_left=on)))
        self.flow.addWidget(side)
        side.show()
        self.add_shown()

    def add_lanes(self) -> None:
        """Of lanes: by what, what is shown, in which order."""
        fields = self.place.fields if self.place is not None else ()
        able = [one for one in fields if one.can_be_lanes]
        field = self.layout_now.lane_field(fields)
        if field is None:
            self.add_words(
                "There is no choice, yes/no or reference here that lanes could be made of: add one in the set-up (F7)."
            )
            return
        self.add_choice_of("by", field.key, "", able, "lane_by")
        self.add_shown()
        if self.layout_now.by_hand:
            order = self.add_button("in the order by hand", "Back to the order of the sentence")
            order.clicked.connect(lambda: self.arranged.emit(replace(self.layout_now, by_hand=())))

    def add_timeline(self) -> None:
        """Of a time line: which dates, which rows."""
        fields = self.place.fields if self.place is not None else ()
        field = self.layout_now.time_field(fields)
        if field is None:
            self.add_words("There is no field of dates here: add one in the set-up (F7).")
            return
        self.add_choice_of(
            "dates", field.key, "", [one for one in fields if one.kind.is_dated and one.is_stored], "time_by"
        )
        able = [
            one
            for one in fields
            if (one.is_stored and (one.kind.has_options or one.kind.is_people)) or one.kind.has_spine
        ]
        rows = self.layout_now.rows_by
        self.add_choice_of("rows", rows, "none", able, "rows_by")
        for text, tip, act in (
            ("all of it", "Home", self.show_all_asked.emit),
            ("closer", "+, or the wheel", partial(self.zoom_asked.emit, 1.6)),
            ("further", "−, or the wheel", partial(self.zoom_asked.emit, 1 / 1.6)),
        ):
            self.add_button(text, tip).clicked.connect(lambda _checked, act=act: act())
        self.add_words("drag along the axis to ask for a span")

    def add_shown(self) -> None:
        """Which fields stand on a card or a line."""
        fields = self.place.fields if self.place is not None else ()
        shown = self.layout_now.shown_fields(fields)
        self.add_words("with")
        words = ", ".join(one.label.lower() if one.label.istitle() else one.label for one in shown)
        button = self.add_button(words or "the title alone", f"Up to {MOST_SHOWN} fields")
        button.clicked.connect(lambda: self.ask_shown(button, shown))

    def ask_shown(self, button: QPushButton, shown: Sequence[Field]) -> None:
        """Asks which fields are shown."""
        menu = QMenu(self)
        keys = [one.key for one in shown]
        for field in self.place.fields[1:] if self.place is not None else ():
            if field.kind.is_long or field.kind.holds_files or field.kind.is_of_rules:
                continue
            choice = menu.addAction(field.label)
            if choice is not None:
                choice.setCheckable(True)
                choice.setChecked(field.key in keys)
                choice.setEnabled(field.key in keys or len(keys) < MOST_SHOWN)
                choice.triggered.connect(partial(self.turn_shown, keys, field.key))
        menu.popup(button.mapToGlobal(QPoint(0, button.height())))

    def turn_shown(self, keys: Sequence[str], key: str, _checked: bool = False) -> None:
        """Shows a field, or no longer."""
        left = [one for one in keys if one != key] if key in keys else [*keys, key]
        self.arranged.emit(replace(self.layout_now, shown=tuple(left)))

    def add_choice_of(self, word: str, key: str, blank: str, fields: Sequence[Field], name: str) -> None:
        """A field that can be chosen anew.

        Args:
            blank: what is said where none is chosen; "" where one must be.
            name: of the attribute of the layout.
        """
        known = {one.key: one.label for one in fields}
        self.add_words(word)
        button = self.add_button(known.get(key, blank or key).lower(), "Choose another one")

        def ask() -> None:
            menu = QMenu(self)
            choices = [("", blank.capitalize()), *known.items()] if blank else list(known.items())
            for one, words in choices:
                add_choice(menu, words, partial(self.put, name, one))
            menu.popup(button.mapToGlobal(QPoint(0, button.height())))

        button.clicked.connect(ask)

    def put(self, name: str, value: str) -> None:
        """Changes one attribute of the layout; lanes of another field are others."""
        changes: dict[str, object] = {name: value, **({"lanes": (), "by_hand": ()} if name == "lane_by" else {})}
        self.arranged.emit(replace(self.layout_now, **changes))  # type: ignore[arg-type]

    def add_words(self, text: str) -> None:
        """Words that nobody can press."""
        words = label(text)
        words.setContentsMargins(3, 2, 3, 2)
        self.flow.addWidget(words)
        words.show()

    def add_button(self, text: str, tip: str) -> QPushButton:
        """A word that can be pressed."""
        button = QPushButton(text.replace("&", "&&"))
        button.setObjectName("verb")
        button.setToolTip(plain_tip(tip))
        self.flow.addWidget(button)
        button.show()
        return button
