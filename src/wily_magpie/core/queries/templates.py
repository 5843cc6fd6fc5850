"""Questions over templates, their sample pages, and the fields that they fill."""

import threading
from collections import OrderedDict
from collections.abc import Sequence
from contextlib import suppress

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import TITLE, Field
from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.apart import page_of, read_page
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.places.api import Place, PlaceInfo
from wily_magpie.core.places.library.blob_store import KeptPage
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.template_store import SampleRow
from wily_magpie.core.templates.bench import Fault, Sample, faults, work_out, work_out_body
from wily_magpie.core.templates.open_form import from_json
from wily_magpie.core.templates.propose import Proposal, propose
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.template import Template, choose

MOST_READINGS = 60
MOST_KEPT_PAGES = 300
HTML = "text/html"


@dataclass(frozen=True)
class FieldUse:
    """A field of a place that templates write to, or one that they name and no place has.

    Attributes:
        templates: names of those that have a rule for it.
        is_in_files: whether the place keeps its entries in files of a person's own.
    """

    place: str
    place_name: str
    key: str
    label: str
    templates: tuple[str, ...]
    is_there: bool
    is_in_files: bool = False


class SampleReadings:
    """Readings of sample pages that were made lately; shared by all threads that ask."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.known: OrderedDict[str, Reading] = OrderedDict()

    def get(self, key: str) -> Reading | None:
        """A reading that is known."""
        with self.lock:
            if key in self.known:
                self.known.move_to_end(key)
            return self.known.get(key)

    def put(self, key: str, reading: Reading) -> None:
        """Remembers a reading."""
        with self.lock:
            self.known[key] = reading
            while len(self.known) > MOST_READINGS:
                self.known.popitem(last=False)


class TemplateQueries:
    """See the module."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self.readings = SampleReadings()

    def templates(self) -> list[Template]:
        """The templates in the order in which they are tried; without damaged ones, which `damaged` tells."""
        out = []
        for _, text in self._library.templates.texts():
            with suppress(UserError):
                out.append(from_json(text))
        return out

    def damaged(self) -> list[tuple[str, str]]:
        """The templates that cannot be read: name and reason."""
        out = []
        for name, text in self._library.templates.texts():
            try:
                from_json(text)
            except UserError as error:
                out.append((name, error.message))
        return out

    def names(self) -> list[str]:
        """Their names alone, in that order."""
        return [name for name, _ in self._library.templates.texts()]

    def template(self, name: str) -> Template:
        """The template of that name; UserError where there is none."""
        texts = self._library.templates.texts()
        for one, text in texts:
            if one.casefold() == name.casefold():
                return from_json(text)
        there = ", ".join(one for one, _ in texts)
        raise UserError("unknown-template", f"There is no template “{name}”.", f"There are: {there}.")

    def free_name(self, name: str) -> str:
        """The name, with a number where it is taken."""
        there = {one.casefold() for one in self.names()}
        names = (name if n == 1 else f"{name} {n}" for n in range(1, len(there) + 3))
        return next(free for free in names if free.casefold() not in there)

    def place_of(self, template: Template) -> PlaceInfo:
        """The place that a template writes to; UserError where there is none."""
        return self.target_of(template).info

    def target_of(self, template: Template) -> Place:
        return self._library.place(template.writes) if template.writes else self._library.first_place()

    def fields_of(self, template: Template) -> tuple[Field, ...]:
        """The fields of the place that a template writes to; none where there is no such place."""
        try:
            return self.target_of(template).fields
        except UserError:
            return ()

    def wants_screenshot(self) -> bool:
        """Whether any template has a field for a picture of what is visible."""
        rules = (rule for one in self.templates() for rule in one.fields.values())
        return any(rule.source == "picture" and rule.text == "screenshot" for rule in rules)

    # samples

    def sample_rows(self, name: str) -> list[SampleRow]:
        """The sample pages of a template as they are kept, not read."""
        return self._library.templates.samples(name)

    def samples(self, name: str) -> list[Sample]:
        """The sample pages of a template, read; takes its time the first time, so ask for it in a job."""
        template = self.template(name)
        place = template.writes
        with suppress(UserError):
            place = self.target_of(template).name
        found = [(row, self.reading(row)) for row in self._library.templates.samples(name)]
        return [
            Sample(row.id, row.title, RuleContext(reading, row.captured, place), row.accepted)
            for row, reading in found
            if reading is not None
        ]

    def chosen_on(self, name: str) -> tuple[int, tuple[str, ...]]:
        """On how many of its samples a template would be proposed, and which others would be on the rest; takes its time."""
        every = self.templates()
        names = []
        for sample in self.samples(name):
            with suppress(UserError):
                names.append(choose(every, sample.context.reading).template.name)
        return names.count(name), tuple(dict.fromkeys(one for one in names if one != name))

    def kept_page(self, entry: Entry, canonical: str) -> Page | None:
        """The page that an entry was kept from, as it was then; None where no copy is there."""
        kept = self._library.blobs.page_of(self._library.place(entry.place), entry.id, canonical)
        content = self._library.blobs.copy_of(kept.sha256, kept.media_type) if kept is not None else None
        return page_of_copy(kept, content) if kept is not None and content is not None else None

    def reading(self, row: SampleRow) -> Reading | None:
        """What a sample page says; None where its copy is missing."""
        key = f"{row.sha256} {row.address}"
        known = self.readings.get(key)
        if known is not None:
            return known
        content = self._library.blobs.copy_of(row.sha256, row.media_type)
        page = page_of_copy(row, content) if content is not None else None
        if page is None:
            return None
        reading = read_page(page)
        self.readings.put(key, reading)
        return reading

    def as_entry(self, template: Template, sample: Sample, fields: Sequence[Field | None]) -> str:
        """The whole entry that a sample would become, as Markdown to be looked at."""
        shown = [one for one in fields if one is not None]
        cells = [(one, work_out(template, one, sample)) for one in shown]
        title = next((cell.text for one, cell in cells if one.key == TITLE.key), "") or "(no title)"
        lines = [f"# {title}", ""]
        for one, cell in cells:
            if one.key != TITLE.key and (cell.text or cell.problem):
                said = " ".join((cell.text or f"({cell.problem})").split()).replace("|", "\\|")
                lines.append(f"- **{one.label}:** {said[:300]}")
        return "\n".join([*lines, "", "---", "", work_out_body(template, sample).text])

    def given_now(self, name: str, sample_id: int) -> list[tuple[int, str, str]]:
        """All that a sample gives now and that is not blank, as `Accept` wants it."""
        template = self.template(name)
        sample = next(one for one in self.samples(name) if one.id == sample_id)
        cells = [(one.key, work_out(template, one, sample)) for one in self.fields_of(template) if one.is_writable]
        return [(sample_id, key, cell.text) for key, cell in cells if cell.text and not cell.problem]

    def kept_pages(self) -> list[tuple[str, int, str]]:
        """Entries of collections with a kept page, the latest first: (place, number, title)."""
        kept = self._library.blobs.entries_with_page(MOST_KEPT_PAGES)
        titles: dict[tuple[str, int], str] = {}
        for place in self._library.places():
            ids = [entry_id for key, entry_id in kept if key == place.key]
            titles |= {(place.key, one.id): one.title for one in place.rows(ids)}
        return [(*one, titles[one]) for one in kept if one in titles]

    def test(self, names: Sequence[str] = ()) -> tuple[int, list[Fault]]:
        """Holds templates against what was accepted: how many values were looked at, and what is another now."""
        count, out = 0, []
        for template in self.templates():
            if names and template.name.casefold() not in {name.casefold() for name in names}:
                continue
            samples = self.samples(template.name)
            count += sum(len(sample.accepted) for sample in samples)
            out += faults(template, self.fields_of(template), samples)
        return count, out

    def propose(self, template: Template, samples: Sequence[Sample]) -> dict[str, Proposal]:
        """Rules for the fields of its place, from its samples."""
        return propose(self.fields_of(template), [one.context for one in samples])

    # fields over all templates

    def field_uses(self) -> list[FieldUse]:
        """All fields of the places that templates write to, and those that rules name and no place has."""
        users: dict[tuple[str, str], list[str]] = {}
        places: dict[str, PlaceInfo | None] = {}
        for template in self.templates():
            place: PlaceInfo | None = None
            with suppress(UserError):
                place = self.place_of(template)
            where = place.key if place is not None else template.writes
            places[where] = place
            set_too = [key for key, given in (("status", template.status), ("tags", template.tags)) if given]
            for key in dict.fromkeys((*template.fields, *set_too)):
                users.setdefault((where, key), []).append(template.name)
        return [use for where, place in places.items() for use in uses_in(where, place, users)]


def uses_in(where: str, place: PlaceInfo | None, users: dict[tuple[str, str], list[str]]) -> list[FieldUse]:
    """The fields of one place, then those that rules name and it lacks; `users` loses what was used."""
    fields = [one for one in place.fields[1:] if one.is_writable] if place is not None else []
    name = place.name if place is not None else where
    is_in_files = place is not None and place.nature.is_in_files
    there = [
        FieldUse(where, name, one.key, one.label, tuple(users.pop((where, one.key), ())), True, is_in_files)
        for one in fields
    ]
    lost = [key for at, key in list(users) if at == where]
    return [*there, *(FieldUse(where, name, key, key, tuple(users.pop((where, key))), False) for key in lost)]


def page_of_copy(row: SampleRow | KeptPage, content: bytes) -> Page | None:
    """The page that a copy was made of."""
    if row.media_type == HTML:
        try:
            html = content.decode("utf-8", "surrogatepass")
        except UnicodeDecodeError:  # of a file of somebody else's
            html = content.decode("utf-8", "replace")
        return Page(row.address, html, "file")
    from wily_magpie.core.pages.files.recognise import Given  # not needed at start

    return page_of(Given(content, row.media_type, address=row.address))
