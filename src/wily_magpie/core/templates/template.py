"""Templates: where a page goes, which pages are taken, where every value comes from."""

from collections.abc import Mapping, Sequence
from dataclasses import field

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.insert_position import NoteTarget
from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.page import Reading
from wily_magpie.core.templates.apart import is_text
from wily_magpie.core.templates.match import MatchRule
from wily_magpie.core.templates.rules import Rule

BODY_PARTS = ("content", "marks", "marks or content", "nothing")
TITLE_RULE = Rule("finding", ("title",))


@dataclass(frozen=True)
class Body:
    """What the text of an entry is made of.

    Attributes:
        part: one of BODY_PARTS.
        before, after: texts of one's own around it, with places for values: {{ page.site }}.
    """

    part: str = "content"
    before: str = ""
    after: str = ""

    @property
    def takes_content(self) -> bool:
        """Whether the page's own text is a part of it."""
        told = f"{self.before} {self.after}"
        return "content" in self.part or "page.markdown" in told or "page.text" in told

    @property
    def expressions(self) -> list[str]:
        """Its texts that have places for values."""
        return [text for text in (self.before, self.after) if is_text(text)]


@dataclass(frozen=True)
class Template:
    """How a page is mapped.

    Attributes:
        writes: name of the place; "" for the first one.
        match: the rules by which it is proposed, in order.
        title: the rule of the title; fields: the rules of the others, by key; those without one are left alone.
        body, bodies: what the text is made of; by kind of page, where that is another.
        way: in a notes folder, where in which note; None: a note of its own.
        note_name: in a notes folder, the path of a new note, an expression or text; "" as the folder has it.
        asks: keys of fields that are asked for before keeping; hides: those that the slip does not show;
            only: those that it shows, in this order, where the template wants a short form; () for all.
        status, tags: set on what is kept, where its place has such fields.
        keeps_pictures: whether pictures are stored with the entry; opens: whether what was kept is opened afterwards.
        is_on: whether it is proposed by itself.
        starter: the name of the starter that it was made from, or "".
    """

    name: str
    writes: str = ""
    match: tuple[MatchRule, ...] = ()
    title: Rule = TITLE_RULE
    fields: Mapping[str, Rule] = field(default_factory=dict)
    body: Body = Body()
    bodies: Mapping[str, Body] = field(default_factory=dict)
    way: NoteTarget | None = None
    note_name: str = ""
    asks: tuple[str, ...] = ()
    hides: tuple[str, ...] = ()
    only: tuple[str, ...] = ()
    status: str = ""
    tags: tuple[str, ...] = ()
    keeps_pictures: bool = True
    opens: bool = False
    is_on: bool = True
    starter: str = ""

    def matching(self, reading: Reading) -> MatchRule | None:
        """The narrowest of its rules that take a page; None where none does."""
        found = [rule for rule in self.match if rule.takes(reading)]
        return max(found, key=lambda rule: rule.narrowness, default=None)

    def reason(self, reading: Reading) -> str | None:
        """Why it takes a page, in words; None where it does not."""
        rule = self.matching(reading)
        return rule.reason(reading) if rule is not None else None

    def rule_of(self, key: str) -> Rule | None:
        """The rule of a field, of the title, too."""
        return self.title if key == "title" else self.fields.get(key)

    def body_for(self, kind: str) -> Body:
        """What the text of a kind of page is made of."""
        return self.bodies.get(kind, self.body)

    def expressions(self, kind: str) -> list[str]:
        """All that are worked out for a page of a kind."""
        rules = [rule.text for rule in (self.title, *self.fields.values()) if rule.source == "expression"]
        return rules + self.body_for(kind).expressions


@dataclass(frozen=True)
class Choice:
    """The template that is proposed for a page.

    Attributes:
        also: names of the others that take it, too, in the order in which they would be proposed.
    """

    template: Template
    reason: str
    also: tuple[str, ...] = ()


def choose(templates: Sequence[Template], reading: Reading) -> Choice:
    """The template, of those that are on and take a page, whose rule is the narrowest; of equal ones the first in order.

    Raises:
        UserError: no template takes it.
    """
    found = [(rule, one) for one in templates if one.is_on and (rule := one.matching(reading)) is not None]
    found.sort(key=lambda one: -one[0].narrowness)
    if not found:
        raise UserError("no-template", "No template takes this page.", "Choose one on the slip.")
    rule, chosen = found[0]
    return Choice(chosen, rule.reason(reading), tuple(one.name for _, one in found[1:]))
