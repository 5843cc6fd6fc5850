"""What is done with the columns of the table: arranged, named, summed; all of it data of the view."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PyQt6.QtWidgets import QInputDialog, QMenu

from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.layout import Layout, Sum
from wily_magpie.qt.actions import add_choice
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.model import SourcesState
from wily_magpie.qt.stations.sources.table import EntryTableView
from wily_magpie.qt.style.parts import at_once, timer

WIDTH_REST_MS = 600
"""How long a column must have kept its width before that is kept: not every pixel of a drag is a step."""


class ColumnCommands:
    """Over one table.

    Args:
        state: gives what is shown now.
        arrange: keeps another layout.
    """

    def __init__(
        self,
        desk: StationContext,
        table: EntryTableView,
        state: Callable[[], SourcesState],
        arrange: Callable[[Layout], None],
    ) -> None:
        self.desk, self.table, self.state, self.arrange = desk, table, state, arrange
        self.rest = timer(table, self.keep_widths)
        header = table.horizontalHeader()
        if header is not None:
            header.sectionResized.connect(lambda *_: self.rest.start(WIDTH_REST_MS))
            header.sectionMoved.connect(self._on_moved)

    def show(self, act: Callable[[], None]) -> None:
        """Changes the table without taking that for a person's arranging."""
        header = self.table.horizontalHeader()
        if header is not None:
            header.blockSignals(True)
            act()
            header.blockSignals(False)

    @property
    def fields(self) -> tuple[Field, ...]:
        """Of the place."""
        place = self.state().place
        return place.fields if place is not None else ()

    def current(self) -> Field | None:
        """The field of the current column."""
        index = self.table.currentIndex()
        return self.table.table.columns[index.column()] if index.isValid() else None

    def change(self, key: str, **changes: object) -> None:
        """Changes one column."""
        self.arrange(self.state().layout.with_column(key, self.fields, **changes))

    def keep_arranged(self) -> None:
        """Keeps at once what was just dragged."""
        at_once(self.rest, self.keep_widths)

    def keep_widths(self) -> None:
        """Keeps the columns' widths."""
        place = self.state().place
        if place is not None and self.desk.overview.find_place(place.key) is not None:
            self.arrange(self.with_widths(self.state().layout))

    def with_widths(self, layout: Layout) -> Layout:
        """A layout with the widths that the columns have now, where they are others."""
        for at, field in enumerate(self.table.table.columns):
            width = self.table.characters(self.table.columnWidth(at))
            known = layout.column(field.key).width
            is_usual = not known and self.table.columnWidth(at) == self.table.fitting_width(at, field)
            if not is_usual and width != known:
                layout = layout.with_column(field.key, self.fields, width=width)
        return layout

    def _on_moved(self, _logical: int, old: int, new: int) -> None:
        """A heading was dragged: the table is shown anew in that order, and Qt's own is put back."""
        if old == new:
            return
        header = self.table.horizontalHeader()
        if header is not None:
            self.show(lambda: header.moveSection(new, old))
        keys = [field.key for field in self.table.table.columns]
        keys.insert(new, keys.pop(old))
        self.arrange(self.state().layout.with_order(keys, self.fields))

    def fit(self) -> None:
        """Makes the current column as wide as its contents need, without the usual bound."""
        index = self.table.currentIndex()
        if index.isValid():
            self.table.resizeColumnToContents(index.column())
            self.arrange(self.with_widths(self.state().layout))

    def ask_name(self) -> None:
        """Asks for a name of the current column in this view; blank: the field's own."""
        field = self.current()
        if field is None:
            return
        known = self.state().layout.heading(field)
        name, is_given = QInputDialog.getText(
            self.table, f"Name the column {field.label}", "Its name here; blank: its own", text=known
        )
        if is_given:
            self.change(field.key, name="" if name.strip() == field.label else name.strip())

    def add_menu(self, menu: QMenu) -> None:
        """The part of the table's menu that is about columns."""
        inner = menu.addMenu("Columns")
        if inner is None:
            return
        commands, field, layout = self.desk.commands, self.current(), self.state().layout
        if field is not None:
            commands.add_to(inner, "fit-column", f"Fit {field.label}", self.fit)
            commands.add_to(inner, "name-column", f"Name {field.label} …", self.ask_name)
            if field.key != "title":
                hide = partial(self.change, field.key, is_shown=False)
                commands.add_to(inner, "hide-column", f"Hide {field.label}", hide)
            pinned = self.table.currentIndex().column() + 1
            if layout.pinned != pinned:
                pin = partial(self.arrange, replace(layout, pinned=pinned))
                commands.add_to(inner, "pin-columns", f"Pin up to {field.label}", pin)
            self.add_sums(inner, field)
        if layout.pinned:
            commands.add_to(inner, "unpin-columns", "Unpin", partial(self.arrange, replace(layout, pinned=0)))
        inner.addSeparator()
        shown = {one.key for one in self.table.table.columns}
        for one in self.fields:
            if one.key not in shown:
                show = partial(self.change, one.key, is_shown=True)
                commands.add_to(inner, "show-column", f"Show {one.label}", show)

    def add_sums(self, menu: QMenu, field: Field) -> None:
        """What may stand at the foot of a column."""
        inner = menu.addMenu(f"At the foot of {field.label}")
        if inner is None:
            return
        for one in Sum:
            if one.fits(field.kind):
                add_choice(inner, one.value, partial(self.change, field.key, sum=one))
        if self.state().layout.column(field.key).sum is not None:
            add_choice(inner, "nothing", partial(self.change, field.key, sum=None))
