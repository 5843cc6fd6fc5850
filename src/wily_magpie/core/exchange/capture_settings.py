"""All capture settings in one file: templates in their order, places with fields, rules and views, the library's settings.

Brought in on a new machine they give the same. What holds entries there already stays as it is, and is told.
"""

import json
from collections.abc import Collection, Mapping, Sequence
from contextlib import suppress
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries import layout
from wily_magpie.core.entries.field import Field, FieldPlan
from wily_magpie.core.entries.field import Settings as FieldSettings
from wily_magpie.core.entries.file_name import safe_name
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import KINDS, Option
from wily_magpie.core.places.api import NOTES_FOLDER, PlaceInfo, PlaceSettings
from wily_magpie.core.places.atomic import make_folder
from wily_magpie.core.places.field_store import read_settings, write_settings
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.stored_json import read_object
from wily_magpie.core.places.stored_settings import read_place_settings
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.settings.known import LIBRARY_SETTINGS
from wily_magpie.core.templates.open_form import bad, from_json, to_plain
from wily_magpie.core.templates.starters import starters

KIND = "capture settings"
"""What the file says that it is."""
MOST_PLACES, MOST_FIELDS = 100, 300
"""Of a file; fields of one place in it."""


def places_form(reader: Reader) -> list[dict[str, Any]]:
    """All places in a file."""
    places = reader.entries.places()
    names = {place.key: place.name for place in places}
    return [place_form(reader, place, names) for place in places]


def place_form(reader: Reader, place: PlaceInfo, names: Mapping[str, str]) -> dict[str, Any]:
    """A place: what it is, its fields, how it is looked at.

    Args:
        names: of all places, by key: references name the collection that they lead to.
    """
    usual = PlaceSettings()
    settings = {key: value for key, value in asdict(place.settings).items() if value != getattr(usual, key)}
    views = [
        {"name": view.name, "question": view.question, "layout": layout.to_plain(view.layout)}
        for view in reader.entries.views(place.key)
    ]
    return {
        "name": place.name,
        "kind": place.nature.noun,
        **({"folder": place.path} if place.path else {}),
        "settings": settings,
        "fields": [field_form(field, names) for field in reader.declared_fields(place.key)],
        "layout": layout.to_plain(place.layout),
        "views": views,
    }


def field_form(field: Field, names: Mapping[str, str]) -> dict[str, Any]:
    """A field."""
    settings = replace(field.settings, target=names.get(field.settings.target, ""))
    return {
        "key": field.key,
        "label": field.label,
        "kind": field.kind.name,
        **({"options": [asdict(one) for one in field.options]} if field.options else {}),
        **({"settings": given} if (given := read_object(write_settings(settings))) else {}),
    }


@dataclass(frozen=True)
class PlannedPlace:
    """A place of a file, as it is to be made.

    Attributes:
        folder: of a notes folder; "" of a collection.
        views: (name, question, layout).
    """

    name: str
    folder: str
    settings: PlaceSettings
    plans: tuple[FieldPlan, ...]
    layout: Layout
    views: tuple[tuple[str, str, Layout], ...]


def read_places(raw: Any) -> list[PlannedPlace]:
    """The places of a file; what is damaged is left away.

    Raises:
        UserError: there are more than a library is set up with.
    """
    found = [one for one in raw if isinstance(one, dict) and text_in(one, "name")] if isinstance(raw, list) else []
    if len(found) > MOST_PLACES:
        raise bad("places", f"are {len(found):,}, and {MOST_PLACES} at most are taken in")
    for at, one in enumerate(found):
        if len(list_in(one, "fields")) > MOST_FIELDS:
            raise bad(f"places[{at}].fields", f"are more than {MOST_FIELDS}")
    return [read_place(one) for one in found]


def read_place(raw: Mapping[str, Any]) -> PlannedPlace:
    """One of them."""
    fields, views = (list_in(raw, name) for name in ("fields", "views"))
    is_notes = raw.get("kind") == NOTES_FOLDER.noun
    return PlannedPlace(
        text_in(raw, "name")[:200],
        text_in(raw, "folder") or text_in(raw, "name") if is_notes else "",
        settings_in(raw.get("settings")),
        tuple(plan for one in fields if (plan := read_field(one)) is not None),
        layout.from_plain(raw.get("layout")),
        tuple(
            (one["name"], one["question"], layout.from_plain(one.get("layout")))
            for one in views
            if isinstance(one, dict) and text_in(one, "name") and isinstance(one.get("question"), str)
        ),
    )


def lost_ends(reader: Reader, places: Sequence[PlannedPlace]) -> list[str]:
    """What is said of references that lead to no place, in the file or here; they are left out."""
    there = {one.name for one in reader.entries.places()} | {one.name for one in places}
    return [
        f"{place.name}: the field {plan.label} refers to “{plan.settings.target}”, which there is not; it is left out."
        for place in places
        for plan in place.plans
        if KINDS[plan.kind].is_linked and plan.settings.target not in there
    ]


def list_in(raw: Mapping[str, Any], key: str) -> list[Any]:
    """A list; an empty one where it is something else."""
    value = raw.get(key)
    return value if isinstance(value, list) else []


def settings_in(raw: Any) -> PlaceSettings:
    """What a person had said of a place."""
    if not isinstance(raw, dict):
        return PlaceSettings()
    return replace(read_place_settings(json.dumps(raw)), links_lead_out=False)  # which only a person here says


def read_field(raw: Any) -> FieldPlan | None:
    """A field of a place; None where it is none that can be made."""
    if not isinstance(raw, dict) or not all(text_in(raw, key) for key in ("key", "label", "kind")):
        return None
    if raw["kind"] not in KINDS or raw["key"] == "title":
        return None
    options = tuple(
        Option(str(one["name"]), str(one.get("colour", "")))
        for one in list_in(raw, "options")
        if isinstance(one, dict) and text_in(one, "name")
    )
    settings = FieldSettings()
    with suppress(TypeError, ValueError):
        settings = read_settings(json.dumps(raw["settings"])) if isinstance(raw.get("settings"), dict) else settings
    return FieldPlan(raw["key"][:60], raw["label"][:60], raw["kind"], options, settings)


def text_in(raw: Mapping[str, Any], key: str) -> str:
    """A text; "" where it is something else."""
    value = raw.get(key)
    return value.strip() if isinstance(value, str) else ""


def stays(library: Library, planned: PlannedPlace) -> str:
    """Why a place of the file is not made; "" where it is. An empty collection of its name makes room for it."""
    there = library.find_place(planned.name)
    if there is None:
        return ""
    if there.nature.is_in_files:
        return f"There is a notes folder {there.name} here already; it stays as it is."
    if there.listing(Question()).total:
        return f"{there.name} holds entries here already; it stays as it is, with its own fields."
    return ""


def take_in_places(library: Library, wanted: Sequence[PlannedPlace]) -> None:
    """Makes the places of a file, as a part of the step under way."""
    made = [one for one in wanted if not stays(library, one)]
    for one in made:
        there = library.find_place(one.name)
        if there is not None:
            library.delete_place(there.key)
    for one in with_numbers(library, made):
        if one.folder:
            path = folder_for(library, one)
            make_folder(path)
            key = library.add_notes_folder(one.name, path, one.plans).key
            library.change_place(key, one.settings)
            library.set_layout(key, one.layout)
        else:
            key = library.add_collection(one.name, one.plans, one.settings, one.layout).key
        for name, question, arranged in one.views:
            library.views.keep(key, name, question, layout=arranged)


def with_numbers(library: Library, made: Sequence[PlannedPlace]) -> list[PlannedPlace]:
    """The places with references that lead to the collections of this library, both ends under one number.

    Numbers are those that the fields and collections get when they are made one after another.
    """
    field, collection = library.fields.next_number(), library.next_collection_number()
    keys: dict[str, str] = {place.name: place.key for place in library.places()}
    names = {*keys, *(one.name for one in made)}
    made = [replace(one, plans=tuple(plan for plan in one.plans if leads_somewhere(plan, names))) for one in made]
    links: dict[int, int] = {}
    for one in made:
        if not one.folder:
            keys[one.name] = f"collection:{collection}"
            collection += 1
        for plan in one.plans:
            if plan.settings.link and not plan.settings.is_back:
                links[plan.settings.link] = field
            field += 1

    def linked(plan: FieldPlan) -> FieldPlan:
        settings = plan.settings
        return replace(
            plan, settings=replace(settings, target=keys.get(settings.target, ""), link=links.get(settings.link, 0))
        )

    return [replace(one, plans=tuple(map(linked, one.plans))) for one in made]


def leads_somewhere(plan: FieldPlan, names: Collection[str]) -> bool:
    """Whether a field is no reference, or one to a place that there is."""
    return not KINDS[plan.kind].is_linked or plan.settings.target in names


def folder_for(library: Library, planned: PlannedPlace) -> Path:
    """Where a notes folder is made: beside the library, unless the person has set up the very folder that the file names."""
    given = Path(planned.folder).expanduser()
    is_own = given.is_absolute() and library.own_folders.has(given)
    return given if is_own else library.folder.absolute().parent / safe_name(planned.name)


def drop_starters(library: Library, names: Sequence[str]) -> None:
    """Takes out starters that the file does not have, and that are here as they came: they had been deleted there."""
    as_they_came = {one.name: to_plain(one) for one in starters()}
    for name, text in library.templates.texts():
        with suppress(UserError):
            if name not in names and to_plain(from_json(text)) == as_they_came.get(name):
                library.templates.remove(name)


def set_settings(library: Library, given: Any) -> None:
    """Sets the library's settings as the file has them; what cannot be read stays as it is."""
    known = {one.name: one for one in LIBRARY_SETTINGS}
    for name, text in given.items() if isinstance(given, dict) else ():
        if name in known and isinstance(text, str):
            with suppress(UserError):
                known[name].read(text)
                library.settings.set(name, text)
