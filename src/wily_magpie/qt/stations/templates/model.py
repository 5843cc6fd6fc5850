"""The state of the Templates station, without a widget: which templates there are, which is chosen, what is being sent."""

from collections.abc import Mapping
from dataclasses import field, replace

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import TITLE, Field
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.templates.propose import Proposal
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.template import Template

SURE = 0.9
"""How certain a proposal is that nobody has to be asked to look at it."""


@dataclass(frozen=True)
class KnownTemplates:
    """The templates of a library.

    Attributes:
        templates: in the order in which they are tried.
        fields: by the name of a template, those of the place that it writes to.
    """

    templates: tuple[Template, ...] = ()
    fields: Mapping[str, tuple[Field, ...]] = field(default_factory=dict)


def look(reader: Reader) -> KnownTemplates:
    """What there is."""
    templates = tuple(reader.templates.templates())
    return KnownTemplates(templates, {one.name: reader.templates.fields_of(one) for one in templates})


@dataclass(frozen=True)
class TemplatesState:
    """One moment of the station; each thing that happens makes another one.

    Attributes:
        template: the chosen one, as it stands on the screen; None where there is none.
        sending: how many changes of it are on their way; until they have arrived, the library knows less than the screen.
    """

    known: KnownTemplates = KnownTemplates()
    template: Template | None = None
    sending: int = 0

    @property
    def fields(self) -> tuple[Field, ...]:
        """The fields of the chosen template's place."""
        return self.known.fields.get(self.template.name, ()) if self.template is not None else ()

    def after(self, known: KnownTemplates) -> "TemplatesState":
        """The library has others now: the chosen one stays chosen as long as it is there."""
        if self.sending and self.template is not None:
            fields = {self.template.name: self.fields, **known.fields}
            return replace(self, known=replace(known, fields=fields))
        name = self.template.name if self.template is not None else ""
        found = next((one for one in known.templates if one.name == name), next(iter(known.templates), None))
        return TemplatesState(known, found)

    def opened(self, name: str) -> "TemplatesState":
        """Another one is chosen; a name that is not there changes nothing."""
        found = next((one for one in self.known.templates if one.name == name), None)
        return replace(self, template=found, sending=0) if found is not None else self

    def sent(self, template: Template) -> "TemplatesState":
        """A change of the chosen one is on its way."""
        fields = {**self.known.fields, template.name: self.fields}
        return TemplatesState(replace(self.known, fields=fields), template, self.sending + 1)

    def arrived(self) -> "TemplatesState":
        """A change has arrived, or was refused."""
        return replace(self, sending=max(0, self.sending - 1))


def rows_of(template: Template, fields: tuple[Field, ...]) -> list[Field | None]:
    """The rows of the bench: the title, the fields, those that rules name and the place lacks; None stands for the text."""
    shown = [one for one in fields if one.is_writable and one.key != TITLE.key]
    known = {one.key for one in shown}
    lost = [replace(TITLE, key=key, label=f"{key} (no such field)") for key in template.fields if key not in known]
    return [TITLE, *shown, *lost, None]


def with_rule(template: Template, key: str, rule: Rule | None) -> Template:
    """A template with another rule for a field; None: it is left alone."""
    if key == TITLE.key:
        return replace(template, title=rule or Rule("finding", ("title",)))
    fields = {name: one for name, one in template.fields.items() if name != key or rule is not None}
    return replace(template, fields={**fields, key: rule} if rule is not None else fields)


def from_finding(template: Template, field: Field, name: str, *, is_fallback: bool) -> Rule:
    """The rule that takes a finding, or takes it where what is looked for so far says nothing."""
    if field.kind.is_address and name in ("image", "icon") and not is_fallback:
        return Rule("picture", ("lead" if name == "image" else "icon",))
    before = template.rule_of(field.key)
    words = before.words if before is not None and before.source == "finding" else ()
    return Rule("finding", tuple(dict.fromkeys((*words, name) if is_fallback else (name,))))


def fresh_only(template: Template, proposals: Mapping[str, Proposal]) -> dict[str, Proposal]:
    """Proposals for the fields that have no rule yet."""
    return {key: one for key, one in proposals.items() if template.rule_of(key) is None}


def told_of(fresh: Mapping[str, Proposal], labels: Mapping[str, str]) -> str:
    """How sure proposals are, in words."""
    if not fresh:
        return "Every row that something fits has a rule already."
    doubtful = [
        f"{labels.get(key, key)} ({one.why}, {one.certainty:.0%})" for key, one in fresh.items() if one.certainty < SURE
    ]
    more = f" Look at: {'; '.join(doubtful)}." if doubtful else ""
    return f"{len(fresh)} rules are proposed.{more}"
