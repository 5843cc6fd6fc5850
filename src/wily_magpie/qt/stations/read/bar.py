"""The line above the text: where one is in the queue and in the text, what stands beside it, and the entry's status."""

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QMenu, QSizePolicy, QToolButton, QWidget

from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.places.api import first_of
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.qt.actions import add_choice, tip_of
from wily_magpie.qt.editors.spine import SpineDelegate
from wily_magpie.qt.reading import ReadingView
from wily_magpie.qt.stations.read.files_shown import readable
from wily_magpie.qt.style.parts import icon_button, label, plain_tip, text_button

STATUS_PX = 130


class ReadBar(QWidget):
    """See the module.

    Signals:
        found_asked: back to what a search found. all_marks_asked: back to the list of all marks.
        file_asked: the value of a file that is to be shown.
        turned: -1 or +1: to the entry before or behind.
        status_chosen: the name of one.
        fields_asked, marks_asked, look_asked: what is to be seen, or not any more.
        sources_asked, outside_asked: the entry is to be seen in Sources; its address in the browser.
    """

    found_asked = pyqtSignal()
    file_asked = pyqtSignal(str)
    all_marks_asked = pyqtSignal()
    turned = pyqtSignal(int)
    status_chosen = pyqtSignal(str)
    fields_asked = pyqtSignal()
    marks_asked = pyqtSignal()
    look_asked = pyqtSignal()
    sources_asked = pyqtSignal()
    outside_asked = pyqtSignal()

    def __init__(
        self, view: ReadingView, headings_of: Callable[[], list[tuple[int, str, Callable[[], object]]]]
    ) -> None:
        super().__init__()
        self.view, self.headings_of = view, headings_of
        self.to_found = text_button("What was found", "arrow-left", self.found_asked.emit)
        self.to_found.setToolTip(tip_of("to-found"))
        self.to_found.hide()
        self.to_marks = text_button("All marks", "arrow-left", self.all_marks_asked.emit)
        self.to_marks.setToolTip(tip_of("marks-desk"))
        self.to_marks.hide()
        self.previous = icon_button("arrow-left", tip_of("previous"), lambda: self.turned.emit(-1))
        self.next = icon_button("arrow-right", tip_of("next"), lambda: self.turned.emit(1))
        self.where, self.far, self.lost = label(), label(), label()
        self.far.setContentsMargins(12, 0, 0, 0)
        self.far.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)  # gives way in a narrow window
        self.lost.hide()
        self.headings = text_button("Headings")
        self.headings.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.headings_menu = QMenu(self)
        self.headings.setMenu(self.headings_menu)
        self.headings_menu.aboutToShow.connect(self.fill_headings)
        self.files = text_button("File")
        self.files.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.files_menu = QMenu(self)
        self.files.setMenu(self.files_menu)
        self.fields = self.beside("Fields", "fields-beside", self.fields_asked.emit)
        self.marks = self.beside("Marks", "marks-list", self.marks_asked.emit)
        self.look = text_button("Letters", "", self.look_asked.emit)
        self.look.setToolTip("How texts look: face, size, width, height of lines, ground")
        self.status_label, self.status = self.make_status()
        self.in_sources = icon_button("table", "Show in Sources", self.sources_asked.emit)
        self.outside = icon_button("arrow-square-out", "Open in the browser", self.outside_asked.emit)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 12, 6)
        for first in (self.to_found, self.to_marks, self.previous, self.next, self.where):
            row.addWidget(first)
        row.addWidget(self.far, 1)
        self.of_entry: tuple[QWidget, ...] = (
            self.files, self.headings, self.fields, self.marks, self.look, self.status_label, self.status, self.in_sources,
            self.outside,
        )  # fmt: skip
        for widget in (self.lost, *self.of_entry):
            row.addWidget(widget)

    def beside(self, text: str, act: str, do: Callable[[], object]) -> QToolButton:
        """A button for what stands beside the text, or does not."""
        made = text_button(text, "", do)
        made.setObjectName("beside")
        made.setCheckable(True)
        made.setToolTip(tip_of(act))
        return made

    def make_status(self) -> tuple[QLabel, QComboBox]:
        """The status, with its name."""
        name, made = label("&Status"), QComboBox()
        made.setAccessibleName("Status")
        made.setMinimumWidth(STATUS_PX)
        made.setItemDelegate(SpineDelegate(made))
        made.activated.connect(lambda at: self.status_chosen.emit(made.itemText(at)))
        name.setBuddy(made)
        return name, made

    def show_place(self, at: int | None, number: int) -> None:
        """Shows where one is among the entries that one came from."""
        self.previous.setEnabled(at is not None and at > 0)
        self.next.setEnabled(at is not None and at + 1 < number)
        self.where.setText(f"{at + 1} of {number}" if at is not None and number > 1 else "")

    def show_entry(self, whole: WholeEntry | None, address: str, *, may_change: bool) -> None:
        """Shows what belongs to an entry; to none, nothing."""
        for widget in self.of_entry:
            widget.setVisible(whole is not None)
        self.lost.hide()
        if whole is None:
            return
        self.outside.setVisible(bool(address))
        self.show_files(list(readable(whole)))
        self.marks.setText(f"Marks: {len(whole.marks)}" if whole.marks else "Marks")
        field = first_of(whole.place.fields, lambda one: one.key == "status")
        self.status.setVisible(field is not None)
        self.status_label.setVisible(field is not None)
        self.status.setEnabled(may_change)
        if field is not None:
            self.status.clear()
            for option in field.options:
                self.status.addItem(option.name, option.colour)
            self.status.setCurrentIndex(self.status.findText(str(whole.entry.value("status") or "")))

    def show_files(self, names: Sequence[str]) -> None:
        """Offers the files that can be shown."""
        self.files.setVisible(bool(names))
        self.files.setText("PDF" if all(name.casefold().endswith(".pdf") for name in names) else "Play")
        self.files.setToolTip("Show a file of the entry")
        self.files_menu.clear()
        for name in names:
            add_choice(self.files_menu, name.rpartition("/")[2], partial(self.file_asked.emit, name))

    def show_far(self, minutes: int, before: float = 0, share: float = 1) -> None:
        """Says how long it takes to read, and how far of it was seen; nothing where there is no text.

        Args:
            before: the share of the text in front of what is shown; share: that of what is shown.
        """
        bar = self.view.verticalScrollBar()
        if bar is None or not minutes:
            self.far.setText("")
            return
        seen = (bar.value() + bar.pageStep()) / max(bar.maximum() + bar.pageStep(), 1)
        self.far.setText(f"{minutes:,} min to read, {before + min(seen, 1) * share:.0%} seen")

    def show_lost(self, lost: Sequence[Mark]) -> None:
        """Says which marks have lost their place; they are kept."""
        self.lost.setVisible(bool(lost))
        self.lost.setText(f"{len(lost)} marks lost their place" if len(lost) > 1 else "1 mark lost its place")
        said = "\n".join("\n".join(filter(None, (f"• {one.exact[:200]}", one.comment))) for one in lost)
        self.lost.setToolTip(plain_tip(f"Kept, but their words stand no longer in this text:\n{said}"))

    def fill_headings(self) -> None:
        """The headings of the text, each of which leads to it."""
        self.headings_menu.clear()
        found = self.headings_of()
        first = min((level for level, _, _ in found), default=1)
        for level, words, go in found:
            indent = "\u2003" * (level - first)
            add_choice(self.headings_menu, f"{indent}{short(words)}", go)
