"""Notes folders that a library names and that this person has not set up: nothing in them is touched until he says so."""

from wily_magpie.core.commands.places import UseFolder
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.qt.station_context import StationContext


def use_folder(desk: StationContext, place: PlaceInfo) -> None:
    """The person says that a notes folder which the library names is to be used here."""
    desk.bridge.do(UseFolder(place.key), lambda _info: desk.bridge.index_notes(place.key))


def ask_about_folders(desk: StationContext) -> None:
    """Says which notes folders the library names that were not set up here."""
    strange = [place for place in desk.overview.places if place.is_strange]
    if strange:
        more = f" and {len(strange) - 1} more" if len(strange) > 1 else ""
        told = (
            f"This library names the folder {strange[0].path}{more}, which you have not set up here: it is left alone."
        )
        desk.say(told, (("Use it", lambda: use_folder(desk, strange[0])),))
