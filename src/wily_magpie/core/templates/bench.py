"""The bench: what each field would get from each sample page, and whether that is what was accepted before."""

from collections.abc import Mapping, Sequence
from dataclasses import field, replace

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import short as short_title
from wily_magpie.core.entries.field import TITLE, Field
from wily_magpie.core.pages.page import Finding
from wily_magpie.core.templates.apart import work_out as together
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import give
from wily_magpie.core.templates.slip import body_of, to_line, with_settings, with_unit
from wily_magpie.core.templates.template import Template

LONGEST_SHORT = 80
BODY = "body"
"""Stands for the text of an entry among the keys of its fields."""
FILLED, BLANK, FAILED, DIFFERS, ACCEPTED, UNSET = "filled", "blank", "failed", "differs", "accepted", "left alone"


@dataclass(frozen=True)
class Sample:
    """A page on which a template is tried.

    Attributes:
        accepted: what fields are to be on it, by key.
    """

    id: int
    title: str
    context: RuleContext
    accepted: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Cell:
    """What a field would get from a sample.

    Attributes:
        state: FILLED, BLANK, FAILED; DIFFERS from, or is as it was ACCEPTED; UNSET: nothing is to be written.
        accepted: what it is to be, where that was said.
    """

    text: str
    origin: str
    problem: str
    state: str
    accepted: str | None = None
    others: tuple[Finding, ...] = ()


@dataclass(frozen=True)
class Fault:
    """A field that is not what was accepted.

    Attributes:
        key: of the field, BODY for the text; label: what people call it.
    """

    template: str
    sample: str
    key: str
    label: str
    accepted: str
    now: str
    problem: str = ""

    def __str__(self) -> str:
        now = self.problem or (f"“{short(self.now)}”" if self.now else "blank")
        return f"{self.template}: {self.label} of “{short(self.sample)}” was “{short(self.accepted)}” and is {now}"


def short(text: str) -> str:
    """A text on one line, short enough for a sentence."""
    return short_title(" ".join(text.split()), LONGEST_SHORT)


def work_out(template: Template, one: Field, sample: Sample) -> Cell:
    """What a field would get from a sample."""
    given = with_settings(
        template, one.key, with_unit(give(template.rule_of(one.key), sample.context, one), sample.context)
    )
    line = to_line(one, given, sample.context.reading.language)
    origin = ", ".join(filter(None, (line.origin, line.note)))
    cell = judged(line.text, origin, line.problem, sample.accepted.get(one.key), line.others)
    return replace(cell, state=UNSET) if cell.state == BLANK and template.rule_of(one.key) is None else cell


def work_out_body(template: Template, sample: Sample) -> Cell:
    """What the text would be."""
    text, problem, _ = body_of(template, sample.context)
    return judged(text, f"{len(text.split()):,} words", problem, sample.accepted.get(BODY))


def judged(text: str, origin: str, problem: str, accepted: str | None, others: tuple[Finding, ...] = ()) -> Cell:
    """A cell with its state."""
    if accepted is not None:
        state = ACCEPTED if accepted == text and not problem else DIFFERS
    else:
        state = FAILED if problem else FILLED if text else BLANK
    return Cell(text, origin if text else "", problem, state, accepted, others)


def row(template: Template, one: Field | None, samples: Sequence[Sample]) -> list[Cell]:
    """A row of the bench: of a field, or of the text (None)."""
    if one is None:
        texts = [text for body in (template.body, *template.bodies.values()) for text in body.expressions]
        together(texts, [sample.context for sample in samples])
        return [work_out_body(template, sample) for sample in samples]
    rule = template.rule_of(one.key)
    together(
        [rule.text] if rule is not None and rule.source == "expression" else [], [sample.context for sample in samples]
    )
    return [work_out(template, one, sample) for sample in samples]


def faults(template: Template, fields: Sequence[Field], samples: Sequence[Sample]) -> list[Fault]:
    """All that is not what was accepted."""
    out = []
    by_key = {one.key: one for one in (TITLE, *fields)}
    for sample in samples:
        together(template.expressions(sample.context.reading.best("kind")), [sample.context])
        for key, accepted in sample.accepted.items():
            label = by_key[key].label if key in by_key else "Text" if key == BODY else key
            if key == BODY:
                cell = work_out_body(template, sample)
            elif key in by_key:
                cell = work_out(template, by_key[key], sample)
            else:
                cell = Cell("", "", "the place has no such field", DIFFERS, accepted)
            if cell.state == DIFFERS:
                out.append(Fault(template.name, sample.title, key, label, accepted, cell.text, cell.problem))
    return out
