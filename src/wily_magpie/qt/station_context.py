"""What every station is handed: the session, the bridge, and the few things that it may ask of the window."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QSettings

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.session.session import Session
from wily_magpie.qt.bridge import Bridge


@dataclass
class StationContext:
    """The desk that the stations stand on.

    Attributes:
        say: shows a notice: its text, and (label, what happens) for each of its buttons.
        complain: shows an error with its way out.
        read_entry: opens an entry in the Read station: place, id, and the ids around it in their order.
        show_entry: opens a place in the Sources station, with an entry chosen.
        show_question: opens a place in the Sources station with a written question.
        open_outside: opens an address in the system's browser.
    """

    session: Session
    bridge: Bridge
    settings: QSettings
    is_demo: bool
    say: Callable[[str, Sequence[tuple[str, Callable[[], None]]]], None]
    complain: Callable[[MagpieError], None]
    read_entry: Callable[[str, int, Sequence[int]], None]
    show_entry: Callable[[str, int], None]
    show_question: Callable[[str, str], None]
    open_outside: Callable[[str], None]
