"""What is said of something that was kept, wherever that was done."""

from wily_magpie.core.entries.kept import Kept
from wily_magpie.qt.station_context import Buttons, StationContext


def kept_notice(desk: StationContext, kept: Kept, by: str = "") -> tuple[str, Buttons]:
    """The sentence and its buttons.

    Args:
        by: the browser that it came from, or "".
    """
    if kept.status == "known":
        text = f"“{kept.title}” is in {kept.place_name} already."
    elif kept.status == "added":
        text = f"Added to “{kept.title}” in {kept.place_name}."
    else:
        text = f"“{kept.title}” is {kept.status} in {kept.place_name}{f', from {by}' if by else ''}."
    show = ("Open", lambda: desk.show_entry(kept.place, kept.entry_id))
    undo = ("Undo", lambda: desk.undo(kept.step))
    return text, (show, undo) if kept.step and kept.status != "known" else (show,)
