"""A new template: for a place that is there, from a starter, or with a new collection that fits a page."""

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtWidgets import QComboBox, QFormLayout, QLineEdit, QVBoxLayout, QWidget

from wily_magpie.core.capture.run import CaptureRun, Counter
from wily_magpie.core.commands.templates import MakeWithSample, SaveTemplate
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.pages.address import from_typed
from wily_magpie.core.session.jobs import Job
from wily_magpie.core.templates.starters import starters
from wily_magpie.core.templates.template import Template
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import button, in_row, label

NEW_PLACE = "+"


class NewPage(QWidget):
    """Asks for a name, a place and a first page.

    Args:
        done: called with the name of what was made, or "" where the person went back.
    """

    def __init__(self, desk: StationContext, done: Callable[[str], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.done = done
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 16, 24, 16)
        column.setSpacing(10)
        column.addWidget(label("New template", "heading"))
        form = QFormLayout()
        form.setVerticalSpacing(8)
        form.setHorizontalSpacing(14)
        self.starter, self.place = QComboBox(), QComboBox()
        self.name, self.address = QLineEdit(), QLineEdit()
        self.name.setPlaceholderText("what kind of page it is for: Letters of the archive")
        self.address.setPlaceholderText("optional: the address of a page that it is for")
        for name, widget in (
            ("Begins", self.starter), ("Name", self.name), ("Writes to", self.place), ("First sample", self.address),
        ):  # fmt: skip
            widget.setAccessibleName(name)
            widget.setMaximumWidth(560)
            form.addRow(label(name), widget)
        column.addLayout(form)
        column.addWidget(
            label(
                "With a first sample, the rules of the place’s fields are proposed from it, and a new collection gets the "
                "fields that the page has something for. You correct the few that are wrong on the bench.",
                "reason",
                wraps=True,
            )
        )
        self.told = label("", "problem", wraps=True)
        column.addWidget(self.told)
        self.make = button("Make the template", self.go, is_main=True)
        column.addLayout(in_row(self.make, button("Back", lambda: self.done(""))))
        column.addStretch(1)
        self.starter.activated.connect(self._on_starter)
        self.address.returnPressed.connect(self.go)

    def begin(self) -> None:
        """Shows a blank form."""
        self.told.setText("")
        self.name.clear()
        self.address.clear()
        self.starter.clear()
        self.starter.addItem("with no rules")
        self.starter.addItems([f"like the starter “{one.name}”" for one in starters()])
        self.place.clear()
        for place in self.desk.overview.places:
            self.place.addItem(place.name, place.key)
        self.place.addItem("a new collection that fits the first sample", NEW_PLACE)
        self.make.setEnabled(True)
        self.name.setFocus()

    def _on_starter(self, at: int) -> None:
        if at > 0 and not self.name.text().strip():
            self.name.setText(starters()[at - 1].name)

    def go(self) -> None:
        """Makes it; with a first sample in a job."""
        name, typed = self.name.text().strip(), self.address.text().strip()
        is_new_place = self.place.currentData() == NEW_PLACE
        lacking = self.lacking(name, typed) if is_new_place else ""
        if lacking:
            self.told.setText(lacking)
            return
        try:
            address = from_typed(typed) if typed else ""
        except MagpieError as error:
            self.told.setText(str(error))
            return
        starter = self.starter.currentIndex()
        begun = starters()[starter - 1] if starter > 0 else Template("")
        place = "" if is_new_place else self.place.currentText()
        fresh = replace(begun, name=name or begun.name or "Template", writes=place)
        self.told.setText("")
        self.make.setEnabled(False)
        if address:
            self.begin_from(fresh, address, is_new_place=is_new_place)
        else:
            self.desk.bridge.do(SaveTemplate(fresh), lambda _: self.done(fresh.name), self.refuse)

    @staticmethod
    def lacking(name: str, address: str) -> str:
        """What a new collection still needs, in words."""
        if not address:
            return "A new collection is made from a first sample: give its address."
        return "" if name else "Give it a name: the new collection gets it, too."

    def begin_from(self, fresh: Template, address: str, *, is_new_place: bool) -> None:
        """Gets the first sample, and makes the template with what is proposed from it."""

        def work(counter: Counter, job: Job) -> str:
            run = CaptureRun(counter, is_cancelled=job.is_cancelled)
            page = run.page(address)
            return counter.do(MakeWithSample(fresh, page, run.reading(page), is_new_place), job)

        self.desk.bridge.start(f"New template “{fresh.name}”", work, self.done, self.refuse)

    def refuse(self, error: MagpieError) -> None:
        """Says why it could not be made; what was typed stays."""
        self.make.setEnabled(True)
        self.told.setText(str(error))
