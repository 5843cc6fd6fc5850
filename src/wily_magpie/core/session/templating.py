"""Templates as a person works with them: kept, ordered, tried on sample pages, brought in and out; a part of the session."""

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.field import TITLE, Field
from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.places.library.template_store import SampleRow
from wily_magpie.core.places.table import now
from wily_magpie.core.session.events import HistoryChanged, TemplatesChanged
from wily_magpie.core.session.jobs import Job
from wily_magpie.core.templates.bench import Fault, Sample, faults, work_out, work_out_body
from wily_magpie.core.templates.match import Condition, MatchRule
from wily_magpie.core.templates.open_form import from_json, to_json
from wily_magpie.core.templates.propose import Proposal, propose, propose_fields
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.starters import starters
from wily_magpie.core.templates.template import Template

if TYPE_CHECKING:
    from wily_magpie.core.places.api import Place
    from wily_magpie.core.session.session import Session

MOST_READINGS = 60
HTML = "text/html"


class Templating:
    """See the module; each command that changes anything is one undoable step."""

    def __init__(self, session: "Session") -> None:
        self.session = session
        self.library = session.library
        self.readings: OrderedDict[str, Reading] = OrderedDict()

    def tell(self) -> None:
        self.session.publish(TemplatesChanged(), HistoryChanged())

    # templates

    def fields_of(self, template: Template) -> tuple[Field, ...]:
        """The fields of the place that a template writes to; none where there is no such place."""
        try:
            return self.place_of(template).fields
        except UserError:
            return ()

    def place_of(self, template: Template) -> "Place":
        """The place that a template writes to; UserError where there is none."""
        return self.session.place(template.writes) if template.writes else self.session.places()[0]

    def save(self, template: Template, before: str = "") -> None:
        """Keeps a template.

        Args:
            before: its name until now; "" for a new one.

        Raises:
            UserError: another one has its name, or an expression has a fault.
        """
        name = " ".join(template.name.split())
        if not name:
            raise UserError("template-nameless", "A template needs a name.", "Write one.")
        text = to_json(replace(template, name=name))
        from_json(text)  # whatever has a fault is told before it is kept
        if not before and any(name.casefold() == one.casefold() for one in self.session.template_names()):
            raise UserError("template-known", f"There is a template “{name}” already.", "Choose another name.")
        with self.library.step(f"{'Change' if before else 'New'} template “{short(name)}”"):
            self.library.templates.put(before or name, text, name)
        self.tell()

    def free_name(self, name: str) -> str:
        """The name, with a number where it is taken."""
        there = {one.casefold() for one in self.session.template_names()}
        return next(
            free
            for n in range(1, len(there) + 3)
            if (free := name if n == 1 else f"{name} {n}").casefold() not in there
        )

    def copy(self, name: str) -> str:
        """A copy of a template with its samples; its name."""
        template = self.session.template(name)
        free = self.free_name(f"{template.name} copy")
        with self.library.step(f"Copy template “{short(name)}”"):
            self.library.templates.put(free, to_json(replace(template, name=free, starter="")))
            for row in self.library.templates.samples(name):
                self.library.templates.add_sample(free, row)
        self.tell()
        return free

    def remove(self, name: str) -> None:
        """Takes a template out, with its samples."""
        with self.library.step(f"Delete template “{short(name)}”"):
            self.library.templates.remove(name)
        self.tell()

    def order(self, names: Sequence[str]) -> None:
        """Puts templates into the order in which they are tried."""
        with self.library.step("Order templates"):
            self.library.templates.order(names)
        self.tell()

    def switch(self, name: str, *, is_on: bool) -> None:
        """Lets a template be proposed by itself, or not."""
        template = self.session.template(name)
        with self.library.step(f"Switch {'on' if is_on else 'off'} template “{short(name)}”"):
            self.library.templates.put(name, to_json(replace(template, is_on=is_on)))
        self.tell()

    def back_to_starter(self, name: str) -> None:
        """Makes a template what its starter says; its name, place and samples stay."""
        template = self.session.template(name)
        starter = next((one for one in starters() if one.name == template.starter), None)
        if starter is None:
            raise UserError("no-starter", f"“{name}” was not made from a starter.", "Undo takes single changes back.")
        with self.library.step(f"Back to the starter of “{short(name)}”"):
            self.library.templates.put(name, to_json(replace(starter, name=template.name, writes=template.writes)))
        self.tell()

    def set_rule(self, name: str, key: str, rule: Rule) -> None:
        """Gives a field of a template another rule."""
        template = self.session.template(name)
        changed = (
            replace(template, title=rule)
            if key == TITLE.key
            else replace(template, fields={**template.fields, key: rule})
        )
        self.save(changed, name)

    # samples

    def samples(self, name: str) -> list[Sample]:
        """The sample pages of a template, read; takes its time the first time, so call it in a job."""
        template = self.session.template(name)
        try:
            place = self.place_of(template).name
        except UserError:
            place = template.writes
        out = []
        for row in self.library.templates.samples(name):
            reading = self.reading(row)
            if reading is not None:
                out.append(Sample(row.id, row.title, RuleContext(reading, row.captured, place), row.accepted))
        return out

    def reading(self, row: SampleRow) -> Reading | None:
        """What a sample page says; None where its copy is missing."""
        key = f"{row.sha256} {row.address}"
        if key in self.readings:
            self.readings.move_to_end(key)
            return self.readings[key]
        content = self.library.blobs.copy_of(row.sha256, row.media_type)
        page = page_of_copy(row, content) if content is not None else None
        if page is None:
            return None
        reading = self.readings[key] = self.session.capturing.read(page)
        while len(self.readings) > MOST_READINGS:
            self.readings.popitem(last=False)
        return reading

    def page_from(self, given: str, job: Job | None = None) -> Page:
        """A page from an address of the web, or from a file on this disk."""
        from wily_magpie.core.pages.files.open_file import page_at  # not needed at start

        if given.startswith(("http://", "https://")):
            return self.session.fetcher.page(given, job.is_cancelled if job else lambda: False)
        return page_at(Path(given))

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

    def add_sample(self, name: str, page: Page) -> int:
        """Keeps a page as a sample of a template; its number. Takes its time, so call it in a job."""
        return self.keep_sample(name, page, self.session.capturing.read(page))

    def keep_sample(self, name: str, page: Page, reading: Reading) -> int:
        """The same of a page that was read already."""
        title = reading.best("title") or page.address or "Untitled"
        with self.library.step(f"New sample page “{short(title)}”"):
            sha256 = self.library.blobs.keep_copy(page)
            row = SampleRow(0, page.address, title, now(), sha256, page.media_type)
            self.readings[f"{sha256} {page.address}"] = reading
            number = self.library.templates.add_sample(name, row)
        self.tell()
        return number

    def add_sample_of(self, name: str, place: str, entry_id: int) -> int:
        """Makes the page that an entry was kept from a sample.

        Raises:
            UserError: no copy of it was kept.
        """
        sql = "SELECT address, captured, sha256, media_type FROM page WHERE place = ? AND entry_id = ? ORDER BY id DESC LIMIT 1"
        rows = self.library.database.rows(sql, (place, entry_id))
        if not rows:
            raise UserError("no-copy", "No page was kept with this entry.", "Give the page’s address instead.")
        address, captured, sha256, media_type = map(str, rows[0])
        title = self.session.title_of(self.session.place(place), entry_id)
        with self.library.step(f"New sample page “{short(title)}”"):
            row = SampleRow(0, address, title, captured, sha256, media_type)
            number = self.library.templates.add_sample(name, row)
        self.tell()
        return number

    def kept_pages(self, most: int = 300) -> list[tuple[str, int, str]]:
        """Entries of collections with a kept page, the latest first: (place, number, title)."""
        sql = "SELECT DISTINCT place, entry_id FROM page WHERE entry_id IS NOT NULL ORDER BY id DESC LIMIT ?"
        kept = [(str(place), int(str(entry_id))) for place, entry_id in self.library.database.rows(sql, (most,))]
        titles: dict[tuple[str, int], str] = {}
        for place in self.session.places():
            ids = [entry_id for key, entry_id in kept if key == place.key]
            titles |= {(place.key, one.id): one.title for one in place.rows(ids)}
        return [(*one, titles[one]) for one in kept if one in titles]

    def remove_sample(self, sample_id: int) -> None:
        """Takes a sample page out."""
        with self.library.step("Remove a sample page"):
            self.library.templates.remove_sample(sample_id)
        self.tell()

    def accept(self, name: str, accepted: Sequence[tuple[int, str, str | None]]) -> None:
        """Says what fields are to be on samples: (number of the sample, key, text); None: whatever they are."""
        rows = {row.id: dict(row.accepted) for row in self.library.templates.samples(name)}
        with self.library.step(f"Accept values of template “{short(name)}”"):
            for sample_id, key, text in accepted:
                if text is None:
                    rows[sample_id].pop(key, None)
                else:
                    rows[sample_id][key] = text
            for sample_id in {one for one, _, _ in accepted}:
                self.library.templates.accept(sample_id, rows[sample_id])
        self.tell()

    def accept_all(self, name: str, sample_id: int) -> int:
        """Accepts all that a sample gives now and that is not blank; how many values that is."""
        template = self.session.template(name)
        sample = next(one for one in self.samples(name) if one.id == sample_id)
        fields = [one for one in self.fields_of(template) if one.is_writable]
        cells = [(one.key, work_out(template, one, sample)) for one in fields]
        accepted = [(sample_id, key, cell.text) for key, cell in cells if cell.text and not cell.problem]
        self.accept(name, accepted)
        return len(accepted)

    def test(self, names: Sequence[str] = ()) -> tuple[int, list[Fault]]:
        """Holds templates against what was accepted: how many values were looked at, and what is another now."""
        count, out = 0, []
        for template in self.session.templates():
            if names and template.name.casefold() not in {name.casefold() for name in names}:
                continue
            samples = self.samples(template.name)
            count += sum(len(sample.accepted) for sample in samples)
            out += faults(template, self.fields_of(template), samples)
        return count, out

    # proposals

    def propose(self, template: Template, samples: Sequence[Sample]) -> dict[str, Proposal]:
        """Rules for the fields of its place, from its samples."""
        return propose(self.fields_of(template), [one.material for one in samples])

    def new_from(self, name: str, place: str) -> Template:
        """A new template without rules that writes to a place."""
        return Template(self.free_name(name or "New template"), place)

    @property
    def starters(self) -> list[Template]:
        """The starters of templates."""
        return starters()

    def make_with_sample(self, template: Template, page: Page, *, is_new_place: bool) -> str:
        """Makes a template with its first sample and the rules proposed from it; its name. Takes its time.

        Args:
            is_new_place: whether a new collection is made, with the fields that the page has something for.
        """
        reading = self.session.capturing.read(page)
        material = RuleContext(reading, now())
        with self.library.step(f"New template “{short(template.name)}”"):
            if is_new_place:
                proposals = propose_fields([material])
                place = self.library.add_collection(template.name, [plan for plan, _ in proposals])
                rules = {plan.key: one.rule for plan, one in proposals}
                template = replace(template, writes=place.name, fields={**rules, **template.fields})
            else:
                found = propose(self.fields_of(template), [material])
                rules = {key: one.rule for key, one in found.items() if key != TITLE.key}
                template = replace(template, fields={**rules, **template.fields})
            if not template.match:
                host = host_of(page.address)
                rule = MatchRule((Condition("host is", host),)) if host else MatchRule((Condition("any page"),))
                template = replace(template, match=(rule,))
            self.save(template)
            self.keep_sample(template.name, page, reading)
        self.session.arranging.tell()
        self.tell()
        return template.name


def page_of_copy(row: SampleRow, content: bytes) -> Page | None:
    """The page that a copy was made of."""
    if row.media_type == HTML:
        try:
            html = content.decode("utf-8", "surrogatepass")
        except UnicodeDecodeError:  # of a file of somebody else's
            html = content.decode("utf-8", "replace")
        return Page(row.address, html, "file")
    from wily_magpie.core.pages.files.recognise import Given, page_of  # not needed at start

    return page_of(Given(content, row.media_type, address=row.address))
