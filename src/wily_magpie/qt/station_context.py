"""What the window gives each of its stations."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSettings

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.events import Overview
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.actions import Commands
from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.last_asked import LastAsked

if TYPE_CHECKING:
    from wily_magpie.core.queries.marks import MarkScope
    from wily_magpie.core.queries.search import Hit, Wanted

Buttons = Sequence[tuple[str, Callable[[], object]]]


@dataclass(frozen=True)
class StationContext:
    """How a station reaches the core and the other stations.

    Attributes:
        settings: sizes of the window, and nothing of a library.
        person: what the person has set.
        copying: asks for what goes into the clipboard, in which what was copied last is to lie.
        say: shows a notice: a sentence, with buttons (name, what they do).
        complain: shows an error with its way out.
        undo: takes a step back; None: the last one.
        read_entry: opens an entry in the Read station: place, id, and the ids around it in their order.
        read_hit: opens what a search found for reading: the hit, and what was looked for.
        show_found: shows what a search found, as it was.
        show_marks: shows all marks of some entries, a place or the library: a name for the entries, and which marks.
        show_entry: opens a place in the Sources station, with an entry chosen.
        show_note: opens a note, or an entry, whole: its place and id.
        show_question: opens a place in the Sources station with a written question.
        open_outside: opens an address in the system's browser.
        take_given: reads e-mails, mailboxes, folders and lists of addresses, and keeps what is in them in a place.
    """

    bridge: Bridge
    settings: QSettings
    person: PersonSettings
    copying: LastAsked
    commands: Commands
    is_demo: bool
    say: Callable[[str, Buttons], None]
    complain: Callable[[MagpieError], None]
    undo: Callable[[int | None], None]
    read_entry: Callable[[str, int, Sequence[int]], None]
    read_hit: "Callable[[Hit, Wanted], None]"
    show_found: Callable[[], None]
    show_marks: "Callable[[str, MarkScope], None]"
    show_entry: Callable[[str, int], None]
    show_note: Callable[[str, int], None]
    show_question: Callable[[str, str], None]
    open_outside: Callable[[str], None]
    take_given: Callable[[Sequence[Path], str], None]

    @property
    def overview(self) -> Overview:
        """What there is in the library."""
        return self.bridge.overview

    def ask_names(self, place: str, field: Field, take: Callable[[list[str]], None]) -> None:
        """Asks what an editor of a field completes with: titles of entries that can be referred to, else values in use."""
        if field.kind.is_completed and field.key != "title":
            self.bridge.ask(lambda reader: reader.entries.names_for(place, field.key), take)

    def undoing(self) -> tuple[tuple[str, Callable[[], object]], ...]:
        """The button that takes back what was done just now: that step, whatever comes after it; none where nothing was changed."""
        step = self.bridge.last_step
        return (("Undo", lambda: self.undo(step)),) if step else ()
