"""Keeping what stands on the slip, or only the address; what was kept is said, and can be taken back."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.session.capturing import Kept
from wily_magpie.core.templates.slip import Slip

if TYPE_CHECKING:
    from wily_magpie.qt.stations.capture.station import CaptureStation


class Keeping:
    """The part of the station for it."""

    def __init__(self, station: "CaptureStation") -> None:
        self.station = station

    def keep(self, is_update: bool = False, is_opened: bool = False) -> None:
        """Keeps the slip; one that is just being filled anew, once it is."""
        slip = self.station.card.current()
        if slip is None:
            return
        if self.station.filling.is_busy:
            self.station.filling.keeping = (is_update, is_opened, slip.known is not None)
            return
        try:
            slip.draft()
        except UserError as error:
            self.station.card.complain(error)
            return
        self.station.card.set_enabled(is_enabled=False)
        self.station.desk.bridge.ask(
            lambda: self.station.desk.session.capturing.keep(slip, update=is_update),
            lambda kept: self._on_kept(kept, slip, is_opened),
            self._on_keep_failed,
        )

    def keep_address(self) -> None:
        """Keeps only the address, to be read later."""
        address, session = self.station.address, self.station.desk.session
        title = self.station.reading.best("title") if self.station.reading else ""
        self.station.desk.bridge.ask(
            lambda: session.capturing.keep_address(address, title),
            self._tell_kept,
            self.station.desk.complain,
        )

    def _on_kept(self, kept: Kept, slip: Slip, is_opened: bool) -> None:
        session = self.station.desk.session
        self.station.desk.bridge.start(
            f"Pictures of “{kept.title}”", lambda job: session.capturing.keep_pictures(slip, kept, job)
        )
        self._tell_kept(kept)
        shown = self.station.card.current()
        if shown is not None and shown.reading.page is slip.reading.page:  # no other page was opened meanwhile
            self.station.filling.ask(lambda one: self.station.again(one, slip.place))
        if is_opened or slip.template.opens:
            self.station.desk.read_entry(kept.place, kept.entry_id, ())

    def _on_keep_failed(self, error: MagpieError) -> None:
        self.station.card.set_enabled(is_enabled=self.station.card.slip is not None)
        self.station.desk.complain(error)

    def _tell_kept(self, kept: Kept) -> None:
        if kept.status == "known":
            text = f"“{kept.title}” is in {kept.place_name} already."
        else:
            text = f"“{kept.title}” is {'updated' if kept.status == 'updated' else 'kept'} in {kept.place_name}."
        buttons: list[tuple[str, Callable[[], None]]] = [
            ("Open", lambda: self.station.desk.show_entry(kept.place, kept.entry_id))
        ]
        if kept.status != "known":
            buttons.append(("Undo", self.undo))
        self.station.desk.say(text, buttons)

    def undo(self) -> None:
        """Takes the last keeping back."""
        try:
            label = self.station.desk.session.undo()
        except MagpieError as error:
            self.station.desk.complain(error)
            return
        self.station.desk.say(f"Undone: {label}", ())
        self.station.filling.ask(lambda slip: self.station.again(slip, slip.place))
