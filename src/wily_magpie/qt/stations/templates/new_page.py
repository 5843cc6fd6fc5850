"""A new template: for a place that is there, from a starter, or with a new collection that fits a page."""

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtWidgets import QComboBox, QFormLayout, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.pages.address import from_typed
from wily_magpie.core.session.jobs import Job
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import label

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
        row = QHBoxLayout()
        self.make = QPushButton("Make the template")
        self.make.setObjectName("main")
        self.make.clicked.connect(self.go)
        back = QPushButton("Back")
        back.clicked.connect(lambda: self.done(""))
        row.addWidget(self.make)
        row.addWidget(back)
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(1)
        self.starter.activated.connect(self._on_starter)
        self.address.returnPressed.connect(self.go)

    def begin(self) -> None:
        """Shows a blank form."""
        session = self.desk.session
        self.told.setText("")
        self.name.clear()
        self.address.clear()
        self.starter.clear()
        self.starter.addItem("with no rules")
        self.starter.addItems([f"like the starter “{one.name}”" for one in session.templating.starters])
        self.place.clear()
        for place in session.places():
            self.place.addItem(place.name, place.key)
        self.place.addItem("a new collection that fits the first sample", NEW_PLACE)
        self.make.setEnabled(True)
        self.name.setFocus()

    def _on_starter(self, at: int) -> None:
        if at > 0 and not self.name.text().strip():
            self.name.setText(self.desk.session.templating.starters[at - 1].name)

    def go(self) -> None:
        """Makes it; with a first sample in a job."""
        session = self.desk.session
        templating = session.templating
        name, typed = self.name.text().strip(), self.address.text().strip()
        key = str(self.place.currentData() or "")
        if key == NEW_PLACE and not typed:
            self.told.setText("A new collection is made from a first sample: give its address.")
            return
        if key == NEW_PLACE and not name:
            self.told.setText("Give it a name: the new collection gets it, too.")
            return
        try:
            address = from_typed(typed) if typed else ""
            starter = self.starter.currentIndex()
            place = "" if key == NEW_PLACE else self.place.currentText()
            fresh = templating.new_from(name, place)
            if starter > 0:
                fresh = replace(templating.starters[starter - 1], name=fresh.name, writes=place)
            if not address:
                templating.save(fresh)
                self.done(fresh.name)
                return
        except MagpieError as error:
            self.told.setText(str(error))
            return
        self.told.setText("")
        self.make.setEnabled(False)

        def work(job: Job) -> str:
            return templating.make_with_sample(fresh, templating.page_from(address, job), is_new_place=key == NEW_PLACE)

        def failed(error: MagpieError) -> None:
            self.make.setEnabled(True)
            self.told.setText(str(error))

        self.desk.bridge.start(f"New template “{fresh.name}”", work, self.done, failed)
