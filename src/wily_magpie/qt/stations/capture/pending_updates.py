"""Slips filled anew off the main thread, one update after another: for another template or place, with other marks."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.templates.slip import Slip

if TYPE_CHECKING:
    from wily_magpie.qt.stations.capture.station import CaptureStation


class PendingUpdates:
    """The part of the station for it. Each update begins with the slip that the one before has left."""

    def __init__(self, station: "CaptureStation") -> None:
        self.station = station
        self.updates: list[Callable[[Slip], Slip]] = []
        self.is_busy = False
        self.keeping: tuple[bool, bool, bool] | None = None
        """How the slip is to be kept once it is filled, and whether it was known when that was asked for."""

    def ask(self, update: Callable[[Slip], Slip]) -> None:
        """Fills the slip as a update says; what is typed meanwhile stays."""
        self.updates.append(update)
        self.go_on()

    def forget(self) -> None:
        """Another page is opened: nothing of this one is wanted any more."""
        self.updates.clear()
        self.keeping = None

    def go_on(self) -> None:
        """Begins with the next update."""
        slip = self.station.card.current()
        if self.is_busy or not self.updates or slip is None:
            return
        self.is_busy = True
        update, number = self.updates.pop(0), self.station.number
        self.station.desk.bridge.ask(
            lambda: update(slip), lambda filled: self._on_filled(filled, number), self._on_failed
        )

    def _on_filled(self, filled: Slip, number: int) -> None:
        self.is_busy = False
        card = self.station.card
        typed = card.current()
        if number == self.station.number and typed is not None:
            card.show_slip(filled.with_typed(typed))
        self.go_on()
        if not self.is_busy and self.keeping is not None and card.slip is not None:
            is_update, is_opened, was_known = self.keeping
            self.keeping = None
            if was_known == (card.slip.known is not None):  # else the person sees first that it is kept there already
                self.station.keeping.keep(is_update, is_opened)

    def _on_failed(self, error: MagpieError) -> None:
        self.is_busy = False
        self.forget()
        self.station.desk.complain(error)
        if self.station.card.slip is not None:
            self.station.card.show_slip(self.station.card.slip)
