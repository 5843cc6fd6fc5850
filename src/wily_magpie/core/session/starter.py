"""What a new library begins with: one collection of sources, its views, the starter templates."""

from collections.abc import Sequence

from wily_magpie.core.fields import Option
from wily_magpie.core.places.library.library import FieldPlan, Library
from wily_magpie.core.templates.starters import starters
from wily_magpie.core.templates.template import to_json

STATUSES = (
    Option("to read", "brass"),
    Option("to watch", "brass"),
    Option("reading", "petrol"),
    Option("read", "moss"),
    Option("quoted", "slate"),
    Option("left aside", "rule"),
)
SOURCE_FIELDS = (
    FieldPlan("status", "Status", "choice", STATUSES),
    FieldPlan(
        "kind", "Kind", "choice", tuple(Option(kind) for kind in ("article", "video", "paper", "product", "object"))
    ),
    FieldPlan("authors", "Authors", "people"),
    FieldPlan("published", "Published", "date"),
    FieldPlan("site", "Site", "text"),
    FieldPlan("tags", "Tags", "choices"),
    FieldPlan("address", "Address", "address"),
    FieldPlan("description", "Description", "long text"),
    FieldPlan("summary", "Summary", "long text"),
    FieldPlan("language", "Language", "text"),
    FieldPlan("picture", "Lead picture", "address"),
    FieldPlan("duration", "Duration", "text"),
    FieldPlan("price", "Price", "number"),
    FieldPlan("currency", "Currency", "text"),
    FieldPlan("captured", "Captured", "date"),
)
SOURCE_VIEWS = (
    ("To read", 'status = "to read" sortBy captured/descending'),
    ("Last two weeks", "captured within P14D sortBy captured/descending"),
    ("Without a summary", 'summary = "" sortBy captured/descending'),
)


def furnish(library: Library, more_fields: Sequence[FieldPlan] = ()) -> None:
    """Puts the starter into a library that is empty; no step of it can be undone.

    Args:
        more_fields: of the sources, before the others.
    """
    sources = library.add_collection("Sources", (*more_fields, *SOURCE_FIELDS))
    for name, question in SOURCE_VIEWS:
        library.keep_view(sources.key, name, question)
    for template in starters():
        library.put_template(template.name, to_json(template))
    library.history.forget()
