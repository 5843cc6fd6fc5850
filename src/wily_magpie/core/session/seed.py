"""What a new library begins with: one collection of sources, its views, the starter templates."""

from collections.abc import Sequence

from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.starters import STARTERS
from wily_magpie.core.templates.open_form import to_json
from wily_magpie.core.templates.starters import starters


def seed(library: Library, more_fields: Sequence[FieldPlan] = ()) -> None:
    """Puts the starter into a library that is being made.

    Args:
        more_fields: of the sources, before the others.
    """
    first = STARTERS[0]
    sources = library.add_collection("Sources", (*more_fields, *first.fields), first.settings)
    for name, question in first.views:
        library.views.keep(sources.key, name, question)
    for template in starters():
        library.templates.put(template.name, to_json(template))
