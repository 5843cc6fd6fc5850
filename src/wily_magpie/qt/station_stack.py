"""The five stations one upon the other, each built when it is first needed: the window opens with one of them alone."""

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING, TypeVar

from PyQt6.QtCore import QByteArray, pyqtSignal
from PyQt6.QtWidgets import QSplitter, QStackedWidget, QWidget

from wily_magpie.qt.station_context import StationContext

if TYPE_CHECKING:
    from wily_magpie.qt.stations.capture.station import CaptureStation
    from wily_magpie.qt.stations.read.station import ReadStation
    from wily_magpie.qt.stations.review import ReviewStation
    from wily_magpie.qt.stations.sources.station import SourcesStation
    from wily_magpie.qt.stations.templates.station import TemplatesStation
    from wily_magpie.qt.web.page_view import PageView

CAPTURE, READ, SOURCES, REVIEW, TEMPLATES = range(5)
NAMES = ("capture", "read", "sources", "review", "templates")
Station = TypeVar("Station", bound=QWidget)


class StationStack(QStackedWidget):
    """Holds the stations.

    Args:
        make_view: makes the live page when the first address is opened; the web engine is not loaded before.
        samples: (title, address) of pages to begin with, shown where no page is open yet.

    Signals:
        address_changed: the live page is at another address now.
        slip_arrived: the slip of the live page is there.
        looked_at: the place, the id and the title of an entry that is looked at.
    """

    address_changed = pyqtSignal(str)
    slip_arrived = pyqtSignal()
    looked_at = pyqtSignal(str, int, str)

    def __init__(
        self,
        desk: StationContext,
        make_view: "Callable[[QWidget], PageView]",
        samples: list[tuple[str, str]],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.desk = desk
        self.make_view = make_view
        self.samples = samples
        for _ in NAMES:
            self.addWidget(QWidget())

    @cached_property
    def capture(self) -> "CaptureStation":
        """The live page and its slip."""
        from wily_magpie.qt.stations.capture.station import CaptureStation

        station = self.put(CAPTURE, CaptureStation(self.desk, self.make_view, self.samples))
        station.address_changed.connect(self.address_changed)
        station.arrived.connect(self.slip_arrived)
        station.restore(self.desk.settings.value("splitter/capture"))
        return station

    @cached_property
    def read(self) -> "ReadStation":
        """The kept text."""
        from wily_magpie.qt.stations.read.station import ReadStation

        station = self.put(READ, ReadStation(self.desk))
        station.looked_at.connect(self.looked_at)
        self.restore("read", station.splitter)
        return station

    @cached_property
    def sources(self) -> "SourcesStation":
        """Places, questions, entries."""
        from wily_magpie.qt.stations.sources.station import SourcesStation

        station = self.put(SOURCES, SourcesStation(self.desk, self))
        station.panel.looked_at.connect(self.looked_at)
        self.restore("sources", station.splitter)
        return station

    @cached_property
    def review(self) -> "ReviewStation":
        """What is missing."""
        from wily_magpie.qt.stations.review import ReviewStation

        return self.put(REVIEW, ReviewStation(self.desk))

    @cached_property
    def templates(self) -> "TemplatesStation":
        """How pages become entries."""
        from wily_magpie.qt.stations.templates.station import TemplatesStation

        station = self.put(TEMPLATES, TemplatesStation(self.desk))
        self.restore("templates", station.splitter)
        self.restore("bench", station.bench.splitter)
        return station

    def put(self, number: int, station: Station) -> Station:
        """Puts a station into its place."""
        current, before = self.currentIndex(), self.widget(number)
        if before is not None:
            self.removeWidget(before)
            before.deleteLater()
        self.insertWidget(number, station)
        self.setCurrentIndex(current)
        return station

    def is_built(self, number: int) -> bool:
        """Whether a station was needed already."""
        return NAMES[number] in self.__dict__

    def show_station(self, number: int) -> None:
        """Shows a station, and puts the cursor where one goes on in it."""
        station: QWidget = getattr(self, NAMES[number])
        self.setCurrentIndex(number)
        if number == SOURCES:
            self.sources.page.take_focus()
        elif number == READ:
            self.read.view.setFocus()
        elif number != CAPTURE:
            station.setFocus()

    def refresh_look(self) -> None:
        """Has what was painted in other colours painted anew."""
        if self.is_built(SOURCES):
            self.sources.places.fill()
            self.sources.ask()
        if self.is_built(READ):
            self.read.take_look()
        if self.is_built(REVIEW):
            self.review.refresh()

    def restore(self, name: str, splitter: QSplitter) -> None:
        """Gives a station's parts the widths that they had."""
        state = self.desk.settings.value(f"splitter/{name}")
        if isinstance(state, QByteArray):
            splitter.restoreState(state)

    def close_all(self) -> None:
        """Keeps what is still to be kept, remembers widths, and takes the web engine down in order."""
        if self.is_built(SOURCES):
            self.sources.keep_arranged()
            self.desk.settings.setValue("splitter/sources", self.sources.splitter.saveState())
        if self.is_built(READ):
            self.read.marking.keep_comment()
            self.read.note_stop()
            self.read.look_panel.write()
            self.desk.settings.setValue("splitter/read", self.read.splitter.saveState())
        if self.is_built(CAPTURE):
            self.desk.settings.setValue("splitter/capture", self.capture.splitter.saveState())
            self.capture.close_page()
        if self.is_built(TEMPLATES):
            self.templates.bench.keep()
            self.desk.settings.setValue("splitter/templates", self.templates.splitter.saveState())
            self.desk.settings.setValue("splitter/bench", self.templates.bench.splitter.saveState())
