"""What is told of a step: the event made from what it touched."""

from collections.abc import Mapping

from wily_magpie.core.events import Changed
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.places.history import StepRecord
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.touched import touched_by

OF_PLACES, OF_TEMPLATES = frozenset(("collection", "notes_folder", "field", "view")), frozenset(("template", "sample"))


def changed_by(library: Library, places: Mapping[str, PlaceInfo], record: StepRecord) -> Changed:
    """What a step changed.

    Args:
        places: as they were known before it.
    """
    touched = touched_by(library, places, record)
    any_of = touched.any_of
    entries = {key: frozenset() if key in any_of else frozenset(ids) for key, ids in touched.entries.items()}
    return Changed(
        record.step,
        record.is_own,
        entries,
        {key: frozenset(keys) for key, keys in touched.fields.items()},
        touched.is_large or bool(touched.tables & OF_PLACES) or any("title" in one for one in touched.fields.values()),
        touched.is_large or bool(touched.tables & OF_TEMPLATES),
        "setting" in touched.tables,
    )
