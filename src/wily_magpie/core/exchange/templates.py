"""Templates in files: brought out to other machines and people, and in from them; what comes in is looked at first."""

import base64
import gzip
import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import field, replace
from io import BytesIO
from pathlib import Path
from typing import Any

from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries import layout
from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.exchange import capture_settings
from wily_magpie.core.exchange.capture_settings import PlannedPlace
from wily_magpie.core.fields import KINDS
from wily_magpie.core.places.atomic import read_bytes, write_bytes
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.template_store import SampleRow
from wily_magpie.core.queries.place_plans import plans_for
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.queries.templates import TemplateQueries, page_of_copy
from wily_magpie.core.settings.known import LIBRARY_SETTINGS
from wily_magpie.core.templates.open_form import bad, check_expressions, from_plain, parsed, to_json, to_plain
from wily_magpie.core.templates.template import Template

SETTINGS_FORMAT = 1
LARGEST_IMPORT, LARGEST_SAMPLE, LARGEST_SAMPLES = 50_000_000, 20_000_000, 100_000_000
"""Characters of a file; bytes of a sample page in it; of all of them together, unpacked."""


@dataclass(frozen=True)
class Incoming:
    """A template in a file that is to be brought in.

    Attributes:
        is_known: whether there is one of that name, which it would replace.
        told: what a person should know of it.
    """

    template: Template
    samples: tuple[tuple[SampleRow, bytes], ...]
    is_known: bool
    told: tuple[str, ...]


@dataclass(frozen=True)
class Look:
    """What is in a file.

    Attributes:
        faults: sentences on what of it cannot be brought in.
        places: all places of capture settings.
        is_whole: whether these are all capture settings of a library.
    """

    templates: tuple[Incoming, ...]
    faults: tuple[str, ...] = ()
    places: tuple[PlannedPlace, ...] = ()
    is_whole: bool = False


def export(reader: Reader, names: Sequence[str] = (), *, with_samples: bool = False) -> str:
    """Templates as one readable JSON text; none named: all of them, which are the capture settings as a whole."""
    templates = reader.templates
    wanted = [one for one in templates.templates() if not names or one.name in names]
    if names and len(wanted) < len(set(names)):
        missing = next(name for name in names if name not in {one.name for one in wanted})
        raise UserError("unknown-template", f"There is no template “{missing}”.", "Look at the list of templates.")
    out = []
    for template in wanted:
        plain = to_plain(template)
        plain.pop("samples", None)
        samples = reader.sample_forms(template.name) if with_samples else []
        out.append({**plain, **({"samples": [sample_form(*one) for one in samples]} if samples else {})})
    if not names:
        known = {one.name for one in LIBRARY_SETTINGS}
        settings = {name: text for name, text in reader.settings().items() if name in known}
        every = {"templates": out, "places": capture_settings.places_form(reader), "settings": settings}
        head = {"wily_magpie": capture_settings.KIND, "format": SETTINGS_FORMAT}
        return json.dumps({**head, **every}, ensure_ascii=False, indent=2) + "\n"
    places = [one.writes for one in wanted if one.writes and templates.fields_of(one)]
    whole = {
        "wily_magpie": "templates",
        "format": SETTINGS_FORMAT,
        "templates": out,
        "places": {name: [plan_form(plan) for plan in reader.shape_of(name)] for name in dict.fromkeys(places)},
        "views": {name: views_form(reader, name) for name in dict.fromkeys(places)},
    }
    return json.dumps(whole, ensure_ascii=False, indent=2) + "\n"


def plan_form(plan: FieldPlan) -> dict[str, str]:
    """A field of a place in a file."""
    return {"key": plan.key, "label": plan.label, "kind": plan.kind}


def views_form(reader: Reader, place: str) -> dict[str, Any]:
    """The views of a place with their layouts, and its own layout, in a file."""
    info = reader.entries.place(place)
    views = [
        {"name": view.name, "question": view.question, "layout": layout.to_plain(view.layout)}
        for view in reader.entries.views(info.key)
    ]
    return {"layout": layout.to_plain(info.layout), "views": views}


def write(reader: Reader, path: Path, names: Sequence[str] = ()) -> int:
    """Writes templates with their samples into a file; how many they are."""
    write_bytes(path, export(reader, names, with_samples=True).encode())
    return len(names) or len(reader.templates.names())


def read(path: Path) -> str:
    """The text of a file; EnvironmentFailure where it cannot be read."""
    content = read_bytes(path)
    if content is None:
        raise EnvironmentFailure("file-unread", f"{path} cannot be read.", "Check its name and rights.")
    return content.decode("utf-8", "replace")


def look_at_import(reader: Reader, text: str) -> Look:
    """What a file would bring in; nothing is changed. A template with a fault does not keep the others out.

    Raises:
        UserError: it holds no templates, or none without a fault: the place and the reason are told.
    """
    if len(text) > LARGEST_IMPORT:
        raise bad("The text", "is too large")
    raw = parsed(text)
    is_many = isinstance(raw, dict) and "templates" in raw
    many = raw["templates"] if is_many else [raw]
    if is_many and raw.get("format") != SETTINGS_FORMAT:
        raise bad("format", f"is {raw.get('format')}, and this version reads {SETTINGS_FORMAT}")
    if not isinstance(many, list) or len(many) > 1000:
        raise bad("templates", "must be a list of templates")
    found: list[Incoming] = []
    faults: list[UserError] = []
    for at, one in enumerate(many):
        try:
            found.append(look_at_one(reader, one, f"templates[{at}]." if is_many else "", found))
        except UserError as error:
            faults.append(error)
    if faults and not found:
        raise faults[0]
    is_whole = is_many and raw.get("wily_magpie") == capture_settings.KIND
    places = capture_settings.read_places(raw.get("places")) if is_whole else []
    told = (*map(str, faults), *capture_settings.lost_ends(reader, places))
    return Look(tuple(found), told, tuple(places), is_whole)


def look_at_one(reader: Reader, raw: Any, where: str, before: Sequence[Incoming]) -> Incoming:
    """One template of a file.

    Raises:
        UserError: it has a fault.
    """
    template = from_plain(raw, where)
    check_expressions(template, where)
    if any(template.name.casefold() == one.template.name.casefold() for one in before):
        raise bad(f"{where}name", f"“{template.name}” stands there twice")
    held = sum(len(content) for one in before for _, content in one.samples)
    samples = tuple(read_samples(raw, where, LARGEST_SAMPLES - held))
    is_known = template.name.casefold() in {name.casefold() for name in reader.templates.names()}
    return Incoming(template, samples, is_known, told_of(reader.templates, template))


def told_of(templates: TemplateQueries, template: Template) -> tuple[str, ...]:
    """What a person should know before a template is brought in."""
    try:
        keys = {one.key for one in templates.place_of(template).fields}
    except UserError:
        return (f"There is no place “{template.writes}” here; a collection of that name is made.",)
    lost = [key for key in template.fields if key not in keys]
    said = f"{template.writes or 'Its place'} has no field {', '.join(lost)}; their rules stay without effect."
    return (said,) if lost else ()


@dataclass(frozen=True)
class TakeInTemplates(StepCommand[list[str]]):
    """Brings templates in; those of names that are there replace them. Their names.

    Attributes:
        shapes, views: of places that are missing here, by name, as the file has them; places: of all capture settings.
    """

    incoming: Sequence[Incoming]
    shapes: Mapping[str, Any] = field(default_factory=dict)
    views: Mapping[str, Any] = field(default_factory=dict)
    places: Sequence[PlannedPlace] = ()
    settings: Mapping[str, str] | None = None
    """Of all capture settings: the library's, by name; None: single templates are brought in."""

    def label(self, _library: Library) -> str:
        if self.settings is not None:
            return "Bring in capture settings"
        if len(self.incoming) != 1:
            return f"Bring in {len(self.incoming)} templates"
        return f"Bring in template “{short(self.incoming[0].template.name)}”"

    def do(self, library: Library, progress: Progress) -> list[str]:
        capture_settings.take_in_places(library, self.places)
        for number, one in enumerate(self.incoming):
            progress.tick(number, len(self.incoming))
            self.make_place(library, one.template)
            name = one.template.name
            if one.is_known:
                for row in library.templates.samples(name) if one.samples else ():
                    library.templates.remove_sample(row.id)
            library.templates.put(name, to_json(one.template))
            for row, content in one.samples:
                page = page_of_copy(row, content)
                if page is not None:
                    kept = replace(row, sha256=library.blobs.keep_copy(page))
                    library.templates.add_sample(name, kept)
        names = [one.template.name for one in self.incoming]
        if self.settings is not None:
            capture_settings.drop_starters(library, names)
            others = [name for name, _ in library.templates.texts() if name not in names]
            library.templates.order([*names, *others])
            capture_settings.set_settings(library, self.settings)
        return names

    def make_place(self, library: Library, template: Template) -> None:
        """Makes the collection that a template writes to, with its views, where there is no such place."""
        if not template.writes or library.find_place(template.writes) is not None:
            return
        given = self.shapes.get(template.writes)
        plans = [plan for one in given if (plan := read_plan(one)) is not None] if isinstance(given, list) else []
        seen = self.views.get(template.writes)
        seen = seen if isinstance(seen, dict) else {}
        arranged = layout.from_plain(seen.get("layout"))
        place = library.add_collection(template.writes, plans or plans_for(template), layout=arranged)
        views = seen.get("views")
        for one in views if isinstance(views, list) else ():
            if isinstance(one, dict) and isinstance(one.get("name"), str) and isinstance(one.get("question"), str):
                arranged = layout.from_plain(one.get("layout"))
                library.views.keep(place.key, one["name"], one["question"], layout=arranged)


def bringing_in(look: Look, text: str = "", chosen: Sequence[Incoming] | None = None) -> TakeInTemplates:
    """The command that brings in what is in a file.

    Args:
        text: the file, which knows the shapes of places that are missing here.
        chosen: of its templates; None: all. All of them together bring the whole capture settings.
    """
    raw = parsed(text) if text else {}
    wanted = look.templates if chosen is None else chosen
    parts = [raw.get(name) if isinstance(raw, dict) else None for name in ("places", "views", "settings")]
    shapes, views, settings = (part if isinstance(part, dict) else {} for part in parts)
    if not look.is_whole:
        return TakeInTemplates(wanted, shapes, views)
    if len(wanted) < len(look.templates):
        named = {one.template.writes for one in wanted}
        return TakeInTemplates(wanted, places=[place for place in look.places if place.name in named])
    return TakeInTemplates(wanted, places=look.places, settings=settings)


def sample_form(row: SampleRow, content: bytes) -> dict[str, Any]:
    """A sample page in a file: what was accepted, and the page itself, packed."""
    packed = base64.b64encode(gzip.compress(content, 6, mtime=0)).decode()
    return {
        "address": row.address, "title": row.title, "captured": row.captured, "media_type": row.media_type,
        "accepted": dict(row.accepted), "page": packed,
    }  # fmt: skip


def samples_in(raw: Any, where: str) -> list[Any]:
    """The samples of a template in a file."""
    found = raw.get("samples") or []
    if not isinstance(found, list) or len(found) > 200:
        raise bad(f"{where}samples", "must be a list of at most 200")
    return found


def read_samples(raw: Any, where: str, most_bytes: int) -> Iterator[tuple[SampleRow, bytes]]:
    """The samples of a template, as long as they are not too many bytes together."""
    size = 0
    for number, one in enumerate(samples_in(raw, where)):
        row, content = read_sample(one, f"{where}samples[{number}].")
        size += len(content)
        if size > most_bytes:
            raise bad(
                f"{where}samples[{number}]", f"is too much: all are over {LARGEST_SAMPLES // 1_000_000} MB together"
            )
        yield row, content


def read_sample(raw: Any, where: str) -> tuple[SampleRow, bytes]:
    """A sample page from its open form."""
    texts = ("address", "title", "captured", "media_type", "page")
    if not isinstance(raw, dict) or not all(isinstance(raw.get(key), str) for key in texts):
        raise bad(where.rstrip("."), f"must have the texts {', '.join(texts)}")
    accepted = raw.get("accepted") or {}
    if not isinstance(accepted, dict) or not all(isinstance(one, str) for one in accepted.values()):
        raise bad(f"{where}accepted", "must be an object of texts")
    try:
        content = unpacked(base64.b64decode(raw["page"], validate=True))
    except (ValueError, OSError, EOFError) as error:
        raise bad(f"{where}page", "is not a packed page") from error
    row = SampleRow(0, raw["address"], raw["title"], raw["captured"], "", raw["media_type"], accepted)
    return row, content


def unpacked(packed: bytes) -> bytes:
    """Content from gzip; ValueError where it is larger than a sample may be, without unpacking all of it."""
    with gzip.GzipFile(fileobj=BytesIO(packed)) as file:
        content = file.read(LARGEST_SAMPLE + 1)
    if len(content) > LARGEST_SAMPLE:
        raise ValueError("too large")
    return content


def read_plan(raw: Any) -> FieldPlan | None:
    """A field of a place's shape in a file; None where it is none that can be made."""
    if not isinstance(raw, dict) or not all(
        isinstance(raw.get(key), str) and raw[key] for key in ("key", "label", "kind")
    ):
        return None
    if (
        raw["kind"] not in KINDS
        or KINDS[raw["kind"]].is_linked
        or KINDS[raw["kind"]].is_summary
        or raw["key"] == "title"
    ):
        return None
    return FieldPlan(raw["key"][:60], raw["label"][:60], raw["kind"])
