"""Rules: where the value of a field comes from. A rule is a source and its words."""

from collections.abc import Callable, Sequence

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.page import Finding
from wily_magpie.core.templates.apart import evaluate
from wily_magpie.core.templates.rule_context import MANY_NAMES, RuleContext

PICTURE_WORDS = {
    "lead": "the lead picture",
    "chosen": "the picture chosen on the slip",
    "icon": "the site's icon",
    "screenshot": "a picture of what is visible",
}
PICTURES = tuple(PICTURE_WORDS)
SCREENSHOT = "screenshot:"
"""Stands on a slip for the picture of what is visible, which has no address."""
BY_TEMPLATE = "template"
"""The origin of what does not come from the page."""


@dataclass(frozen=True)
class Rule:
    """Where a value comes from.

    Attributes:
        source: one of SOURCES.
        words: of "finding" names of findings, the first that the page has counts; of "expression" and "fixed" one text; of
            "question" the default; of "passages" and "comments" kinds of mark, none for all; of "picture" one of PICTURES.
    """

    source: str
    words: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        """Its only word."""
        return self.words[0] if self.words else ""

    def shown(self) -> str:
        """In words, as it stands on the bench."""
        return SOURCES[self.source].shown(self.words)

    def said(self) -> str:
        """In words, as a part of a sentence: from published, else modified."""
        return f"from {self.shown()}" if self.source == "finding" else f"with {self.shown()}"


@dataclass(frozen=True)
class RuleResult:
    """What a rule gives for a page.

    Attributes:
        value: plain: a text, a number, a list of texts; None for nothing.
        origin: where it came from.
        others: what else the page offers.
        problem: why it gives nothing although it should, or "".
        is_question: whether the person is still to say it.
        notes: titles of notes that it wants to be made.
        is_declared: whether its figures are written for programs, rather than for people who read the page's language.
        unit: what its number is counted in, where that stands elsewhere on the page, or "".
    """

    value: object = None
    origin: str = ""
    others: tuple[Finding, ...] = ()
    problem: str = ""
    is_question: bool = False
    notes: tuple[str, ...] = ()
    is_declared: bool = False
    unit: str = ""


@dataclass(frozen=True)
class Source:
    """A kind of rule.

    Attributes:
        name: as it stands in the open form; label: as people see it.
    """

    name: str
    label: str
    shown: Callable[[tuple[str, ...]], str]
    give: Callable[[tuple[str, ...], RuleContext, Field], RuleResult]


def from_findings(words: tuple[str, ...], context: RuleContext, field: Field) -> RuleResult:
    """The first name that the page has something for; fields of many values take all of its most trusted origin."""
    found = {name: context.look_up(name) for name in words}
    others = tuple(dict.fromkeys(one for name in words for one in found[name]))
    for name in words:
        if found[name]:
            first = found[name][0]
            if field.kind.is_many or name in MANY_NAMES:
                same = [one.value for one in found[name] if one.origin == first.origin]
                if field.kind.is_many:
                    return RuleResult(same, first.origin, others)
                return RuleResult("; ".join(same), first.origin, others)
            return RuleResult(first.value, first.origin, others, is_declared=first.is_declared)
    return RuleResult(None, "", others)


def from_expression(words: tuple[str, ...], context: RuleContext, _field: Field) -> RuleResult:
    """What an expression gives."""
    try:
        worked = evaluate(words[0] if words else "", context)
    except UserError as error:
        return RuleResult(problem=error.message)
    others = tuple(dict.fromkeys(one for name in worked.names for one in context.look_up(name)))
    return RuleResult(
        worked.value, worked.origin or BY_TEMPLATE, others, notes=tuple(worked.notes), is_declared=worked.is_declared
    )


def from_words(words: tuple[str, ...], _context: RuleContext, _field: Field) -> RuleResult:
    """Always the same."""
    return RuleResult(words[0] if words else None, BY_TEMPLATE, is_declared=True)


def from_question(words: tuple[str, ...], _material: RuleContext, _field: Field) -> RuleResult:
    """The person's choice, with a default."""
    return RuleResult(
        words[0] if words else None, BY_TEMPLATE if words and words[0] else "", is_question=True, is_declared=True
    )


def from_passages(words: tuple[str, ...], context: RuleContext, field: Field) -> RuleResult:
    """What is marked; in a field of one value the passages stand below each other."""
    texts = [mark.exact.strip() for mark in context.marks if not words or mark.kind in words]
    return marked(texts, field, "what is marked")


def from_comments(words: tuple[str, ...], context: RuleContext, field: Field) -> RuleResult:
    """The reader's comments on marks."""
    texts = [mark.comment.strip() for mark in context.marks if not words or mark.kind in words]
    return marked([text for text in texts if text], field, "your comment")


def marked(texts: Sequence[str], field: Field, origin: str) -> RuleResult:
    """Texts of marks as a value."""
    if not texts:
        return RuleResult()
    return RuleResult(list(texts) if field.kind.is_many else "\n\n".join(texts), origin)


def from_picture(words: tuple[str, ...], context: RuleContext, _field: Field) -> RuleResult:
    """The address of a picture."""
    which = words[0] if words else "lead"
    if which == "screenshot":
        if context.has_screenshot:
            return RuleResult(SCREENSHOT, "what is visible")
        return RuleResult(problem="There is a picture of what is visible only where the page is shown.")
    found = context.look_up("icon" if which == "icon" else "image")
    others = tuple({one.value: one for one in (*context.pictures, *found)}.values())
    if which == "chosen" and context.picture:
        return RuleResult(context.picture, "chosen by you", others)
    if which == "chosen" and not found:
        found = list(context.pictures[:1])
    return RuleResult(found[0].value, found[0].origin, others) if found else RuleResult(None, "", others)


def quoted(words: tuple[str, ...]) -> str:
    """A fixed value in words."""
    return f"always “{words[0]}”" if words and words[0] else "always blank"


SOURCES = {
    one.name: one
    for one in (
        Source("finding", "from the page", ", else ".join, from_findings),
        Source("expression", "an expression", lambda words: words[0] if words else "", from_expression),
        Source("fixed", "always the same", quoted, from_words),
        Source(
            "question",
            "asked of you",
            lambda words: f"asked, else “{words[0]}”" if words and words[0] else "asked",
            from_question,
        ),
        Source("passages", "what is marked", lambda words: f"marked as {', '.join(words)}" if words else "what is marked",
               from_passages),
        Source("comments", "your comments", lambda words: f"comments on {', '.join(words)}" if words else "comments on marks",
               from_comments),
        Source("picture", "a picture", lambda words: PICTURE_WORDS[words[0] if words else "lead"], from_picture),
    )
}  # fmt: skip
"""All sources, by name."""


def give(rule: Rule | None, context: RuleContext, field: Field) -> RuleResult:
    """What a rule gives for a field; nothing where there is none."""
    return SOURCES[rule.source].give(rule.words, context, field) if rule is not None else RuleResult()
