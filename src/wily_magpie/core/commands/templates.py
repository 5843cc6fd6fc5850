"""Commands over templates and their sample pages."""

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace

from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.field import TITLE, find_field
from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.template_store import SampleRow
from wily_magpie.core.places.table import now
from wily_magpie.core.queries.templates import TemplateQueries
from wily_magpie.core.templates.match import Condition, MatchRule
from wily_magpie.core.templates.open_form import check_expressions, from_json, to_json
from wily_magpie.core.templates.propose import propose, propose_fields
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.starters import starters
from wily_magpie.core.templates.template import Template

Rules = Mapping[str, Rule]


@dataclass(frozen=True)
class SaveTemplate(StepCommand[None]):
    """Keeps a template.

    Attributes:
        before: its name until now; "" for a new one.
    """

    template: Template
    before: str = ""

    def label(self, _library: Library) -> str:
        return f"{'Change' if self.before else 'New'} template “{short(' '.join(self.template.name.split()))}”"

    def do(self, library: Library, _progress: Progress) -> None:
        save(library, self.template, self.before)


def save(library: Library, template: Template, before: str = "") -> None:
    """Keeps a template.

    Raises:
        UserError: another one has its name, or an expression has a fault.
    """
    name = " ".join(template.name.split())
    if not name:
        raise UserError("template-nameless", "A template needs a name.", "Write one.")
    text = to_json(replace(template, name=name))
    check_expressions(from_json(text))  # whatever has a fault is told before it is kept
    if not before and any(name.casefold() == one.casefold() for one, _ in library.templates.texts()):
        raise UserError("template-known", f"There is a template “{name}” already.", "Choose another name.")
    library.templates.put(before or name, text, name)


@dataclass(frozen=True)
class CopyTemplate(StepCommand[str]):
    """A copy of a template with its samples; its name."""

    name: str

    def label(self, _library: Library) -> str:
        return f"Copy template “{short(self.name)}”"

    def do(self, library: Library, _progress: Progress) -> str:
        asking = TemplateQueries(library)
        template = asking.template(self.name)
        free = asking.free_name(f"{template.name} copy")
        library.templates.put(free, to_json(replace(template, name=free, starter="")))
        for row in library.templates.samples(self.name):
            library.templates.add_sample(free, row)
        return free


@dataclass(frozen=True)
class RemoveTemplate(StepCommand[None]):
    """Takes a template out, with its samples."""

    name: str

    def label(self, _library: Library) -> str:
        return f"Delete template “{short(self.name)}”"

    def do(self, library: Library, _progress: Progress) -> None:
        library.templates.remove(self.name)


@dataclass(frozen=True)
class OrderTemplates(StepCommand[None]):
    """Puts templates into the order in which they are tried."""

    names: Sequence[str]

    def label(self, _library: Library) -> str:
        return "Order templates"

    def do(self, library: Library, _progress: Progress) -> None:
        library.templates.order(self.names)


@dataclass(frozen=True)
class SwitchTemplate(StepCommand[None]):
    """Lets a template be proposed by itself, or not."""

    name: str
    is_on: bool

    def label(self, _library: Library) -> str:
        return f"Switch {'on' if self.is_on else 'off'} template “{short(self.name)}”"

    def do(self, library: Library, _progress: Progress) -> None:
        template = TemplateQueries(library).template(self.name)
        library.templates.put(self.name, to_json(replace(template, is_on=self.is_on)))


@dataclass(frozen=True)
class BackToStarter(StepCommand[None]):
    """Makes a template what its starter says; its name, place and samples stay."""

    name: str

    def label(self, _library: Library) -> str:
        return f"Back to the starter of “{short(self.name)}”"

    def do(self, library: Library, _progress: Progress) -> None:
        template = TemplateQueries(library).template(self.name)
        starter = next((one for one in starters() if one.name == template.starter), None)
        if starter is None:
            raise UserError("no-starter", f"“{self.name}” was not made from a starter.", "Undo takes changes back.")
        library.templates.put(self.name, to_json(replace(starter, name=template.name, writes=template.writes)))


@dataclass(frozen=True)
class SetRule(StepCommand[None]):
    """Gives a field of a template another rule."""

    name: str
    key: str
    rule: Rule

    def label(self, _library: Library) -> str:
        return f"Change template “{short(self.name)}”"

    def do(self, library: Library, _progress: Progress) -> None:
        template = TemplateQueries(library).template(self.name)
        is_title = self.key == TITLE.key
        fields = template.fields if is_title else {**template.fields, self.key: self.rule}
        save(library, replace(template, title=self.rule if is_title else template.title, fields=fields), self.name)


# samples


@dataclass(frozen=True)
class AddSample(StepCommand[int]):
    """Keeps a page as a sample of a template; its number."""

    name: str
    page: Page
    reading: Reading

    def label(self, _library: Library) -> str:
        return f"New sample page “{short(title_of(self.page, self.reading))}”"

    def do(self, library: Library, _progress: Progress) -> int:
        return keep_sample(library, self.name, self.page, self.reading)


def title_of(page: Page, reading: Reading) -> str:
    """What a sample page is called."""
    return reading.best("title") or page.address or "Untitled"


def keep_sample(library: Library, name: str, page: Page, reading: Reading) -> int:
    """Keeps a page as a sample of a template; its number."""
    sha256 = library.blobs.keep_copy(page)
    row = SampleRow(0, page.address, title_of(page, reading), now(), sha256, page.media_type)
    return library.templates.add_sample(name, row)


@dataclass(frozen=True)
class AddSampleOf(StepCommand[int]):
    """Makes the page that an entry was kept from a sample; its number."""

    name: str
    place: str
    entry_id: int

    def label(self, library: Library) -> str:
        return f"New sample page “{short(library.place(self.place).title_of(self.entry_id))}”"

    def do(self, library: Library, _progress: Progress) -> int:
        place = library.place(self.place)
        kept = library.blobs.page_of(place, self.entry_id)
        if kept is None:
            raise UserError("no-copy", "No page was kept with this entry.", "Give the page’s address instead.")
        row = SampleRow(0, kept.address, place.title_of(self.entry_id), kept.captured, kept.sha256, kept.media_type)
        return library.templates.add_sample(self.name, row)


@dataclass(frozen=True)
class RemoveSample(StepCommand[None]):
    """Takes a sample page out."""

    sample_id: int

    def label(self, _library: Library) -> str:
        return "Remove a sample page"

    def do(self, library: Library, _progress: Progress) -> None:
        library.templates.remove_sample(self.sample_id)


@dataclass(frozen=True)
class Accept(StepCommand[None]):
    """Says what fields are to be on samples.

    Attributes:
        accepted: (number of the sample, key, text); None: whatever they are.
    """

    name: str
    accepted: Sequence[tuple[int, str, str | None]]

    def label(self, _library: Library) -> str:
        return f"Accept values of template “{short(self.name)}”"

    def do(self, library: Library, _progress: Progress) -> None:
        rows = {row.id: dict(row.accepted) for row in library.templates.samples(self.name)}
        for sample_id, key, text in self.accepted:
            if text is None:
                rows[sample_id].pop(key, None)
            else:
                rows[sample_id][key] = text
        for sample_id in {one for one, _, _ in self.accepted}:
            library.templates.accept(sample_id, rows[sample_id])


@dataclass(frozen=True)
class MakeWithSample(StepCommand[str]):
    """Makes a template with its first sample and the rules proposed from it; its name.

    Attributes:
        is_new_place: whether a new collection is made, with the fields that the page has something for.
    """

    template: Template
    page: Page
    reading: Reading
    is_new_place: bool

    def label(self, _library: Library) -> str:
        return f"New template “{short(self.template.name)}”"

    def do(self, library: Library, _progress: Progress) -> str:
        template, context = self.template, RuleContext(self.reading, now())
        if self.is_new_place:
            proposals = propose_fields([context])
            place = library.add_collection(template.name, [plan for plan, _ in proposals])
            rules = {plan.key: one.rule for plan, one in proposals}
            template = replace(template, writes=place.name, fields={**rules, **template.fields})
        else:
            found = propose(TemplateQueries(library).fields_of(template), [context])
            rules = {key: one.rule for key, one in found.items() if key != TITLE.key}
            template = replace(template, fields={**rules, **template.fields})
        if not template.match:
            host = host_of(self.page.address)
            rule = MatchRule((Condition("host is", host),)) if host else MatchRule((Condition("any page"),))
            template = replace(template, match=(rule,))
        save(library, template)
        keep_sample(library, template.name, self.page, self.reading)
        return template.name


# fields over all templates


@dataclass(frozen=True)
class DropRules(StepCommand[None]):
    """Takes the rules for a field out of all templates that write to a place."""

    place: str
    key: str

    def label(self, _library: Library) -> str:
        return f"Remove the rules for {self.key}"

    def do(self, library: Library, _progress: Progress) -> None:
        change_rules(library, self.place, lambda rules: {key: one for key, one in rules.items() if key != self.key})


@dataclass(frozen=True)
class RenameRules(StepCommand[None]):
    """Lets the rules for a field fill another one, in all templates that write to a place."""

    place: str
    key: str
    new: str

    def label(self, library: Library) -> str:
        return f"Rename {self.key} to {find_field(library.place(self.place).fields, self.new).key}"

    def do(self, library: Library, _progress: Progress) -> None:
        wanted = find_field(library.place(self.place).fields, self.new).key
        change_rules(library, self.place, lambda rules: renamed(rules, self.key, wanted))


def change_rules(library: Library, place: str, change: Callable[[Rules], Rules]) -> None:
    """Changes the rules of all templates that write to a place."""
    asking = TemplateQueries(library)
    for template in asking.templates():
        where = template.writes
        with suppress(UserError):
            where = asking.place_of(template).key
        if where == place and (fields := change(template.fields)) != template.fields:
            library.templates.put(template.name, to_json(replace(template, fields=fields)))


def renamed(fields: Rules, key: str, new: str) -> Rules:
    """Rules by their keys, one of which is another now; a rule that the new field has already stays."""
    if key not in fields:
        return dict(fields)
    return {(new if k == key else k): rule for k, rule in fields.items() if k != key or new not in fields}
