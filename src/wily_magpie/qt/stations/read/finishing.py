"""An entry that is done with: it gets the status chosen for that, and what its place still wants of it is asked for."""

from collections.abc import Callable

from wily_magpie.core.commands.entries import SetText
from wily_magpie.core.entries.entry import Entry, short
from wily_magpie.core.places.api import PlaceInfo, first_of
from wily_magpie.core.settings.setting import Setting
from wily_magpie.qt.station_context import Buttons, StationContext


def set_status(
    desk: StationContext, place: PlaceInfo, entry: Entry, setting: Setting, behind: str, fill_in: Callable[[], object]
) -> bool:
    """Gives an entry a status; what cannot be set is said. Whether it is being set.

    Args:
        setting: the person's, which says what status.
        behind: what else is said of it; fill_in: opens the entry where the rules of its place want more of it.
    """
    status = str(desk.person.value(setting))
    field = first_of(place.fields, lambda one: one.key == "status")
    if field is None or status not in [option.name for option in field.options]:
        settings = (("Settings", lambda: desk.commands.bound["settings"].run()),)
        desk.say(f"“{place.name}” has no status “{status}”: nothing was set.", settings)
        return False
    told = f"“{short(entry.title)}”: {status}.{behind}"

    def ask(rows: list[Entry], undo: Buttons) -> None:
        gaps = rows[0].value("gaps") if rows else None
        if gaps:  # asked for, not forced
            desk.say(f"{told} The rules of {place.name} want more of it: {gaps}.", (("Fill it in", fill_in), *undo))

    def done(warning: str) -> None:
        undo = desk.undoing()
        desk.say(warning or told, undo)
        if place.settings.rules and not warning:
            desk.bridge.ask(lambda reader: reader.entries.rows(place.key, [entry.id]), lambda rows: ask(rows, undo))

    desk.bridge.do(SetText(place.key, [entry.id], "status", status), done)
    return True
