"""The slip: the filled, still editable draft of one capture."""

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import field, replace
from functools import cached_property

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Draft, Entry
from wily_magpie.core.entries.field import IN_FOLDER, Field
from wily_magpie.core.entries.file_name import safe_name
from wily_magpie.core.entries.mark import Mark, as_markdown, in_page_order, with_mark
from wily_magpie.core.entries.proposal import Proposal
from wily_magpie.core.entries.roles import NOTHING as NO_ROLE
from wily_magpie.core.entries.roles import ROLES, said_of
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.fields import AMOUNT, Value
from wily_magpie.core.fields.amount import split
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.page import Content, Finding, Reading
from wily_magpie.core.patterns import pattern
from wily_magpie.core.templates.apart import evaluate, is_text, work_out
from wily_magpie.core.templates.by_hand import TYPED, ByHand, Typed
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import BY_TEMPLATE, Rule, RuleResult, give
from wily_magpie.core.templates.template import Template

NO_RULES: Mapping[str, Rule] = {}
NO_ROLES: Mapping[str, str] = {}
NOTHING = ByHand()
OF_PRICE = pattern(r"\b(?:price|\w+Price|price:amount)\)?$")
"""Of origins: a price stands there, whose currency stands elsewhere."""
CHOSEN_BY_YOU = "chosen by you"
"""The reason of a template that a person chose."""


@dataclass(frozen=True)
class SlipField:
    """One line of a slip.

    Attributes:
        text: the value as a person edits it.
        origin: where it came from; "" for a blank one.
        others: other values that the page offers, with their origins.
        problem: why it could not be filled, or "".
        note: what is said of its value besides its origin, or "".
        is_typed: whether a person wrote it; such a value survives a change of template.
        is_question: whether its template leaves it to the person, or asks for it before keeping.
        is_hidden: whether it is filled without being shown.
        rule: where its template has its value from; None: it is left alone.
    """

    field: Field
    text: str = ""
    origin: str = ""
    others: tuple[Finding, ...] = ()
    problem: str = ""
    note: str = ""
    is_typed: bool = False
    is_question: bool = False
    is_hidden: bool = False
    rule: Rule | None = None


@dataclass(frozen=True)
class KnownEntry:
    """An entry that is kept from the page already.

    Attributes:
        place, place_name: where; when: the day on which it was captured, or "".
    """

    place: str
    place_name: str
    entry: Entry
    when: str


@dataclass(frozen=True)
class Lack:
    """Something that a template wants and that is not there.

    Attributes:
        what: "field", "heading", or "" for what cannot be made from here.
        keys: of fields.
        text: what is said of it.
    """

    what: str
    text: str
    keys: tuple[str, ...] = ()


@dataclass(frozen=True)
class Slip:
    """The draft of one capture. Lines begin with the title, then the place's fields in order.

    Attributes:
        context: what its rules were given.
        is_place_chosen: whether the person chose the place, so that another template leaves it.
        place_reason: why it is proposed, where it is not the template's own, or "".
        holding: the path of the running note that has the page's address already, or "".
        aside: what was typed into fields that the present place lacks; it is there again where they are.
        notes: titles of notes that are made when it is kept, where there are none.
    """

    context: RuleContext
    template: Template
    reason: str
    place: str
    lines: tuple[SlipField, ...]
    body: str
    is_place_chosen: bool = False
    place_reason: str = ""
    holding: str = ""
    new_keys: tuple[str, ...] = ()
    """Keys of lines that the place has no field of yet: front matter of the note, or fields that the collection gets."""
    shots: tuple[bytes, ...] = field(default=(), repr=False)
    """Pictures of the page that the person took, PNG."""
    named_keys: tuple[str, ...] = ()
    """Those of them that the person named."""
    aside: Mapping[str, Typed] = field(default_factory=dict)
    is_body_typed: bool = False
    body_problem: str = ""
    known: Entry | None = None
    known_when: str = ""
    known_marks: tuple[Mark, ...] = ()
    """The marks of the entry that is kept already."""
    removed: tuple[Mark, ...] = ()
    """Those of them that are to go."""
    elsewhere: tuple[KnownEntry, ...] = ()
    """What is kept from the page in other places than the slip's own."""
    also_matching: tuple[str, ...] = ()
    """Names of the other templates that take the page, too, in their order."""
    told: tuple[str, ...] = ()
    """What keeping it would make that is not there yet."""
    lacks: tuple[Lack, ...] = ()
    notes: tuple[str, ...] = ()
    candidates: tuple[Proposal, ...] = ()
    """What could be proposed for its blank fields from entries that were filed before."""
    screenshot: bytes = field(default=b"", repr=False)
    """A picture of what is visible, PNG."""

    @property
    def reading(self) -> Reading:
        return self.context.reading

    @property
    def marks(self) -> tuple[Mark, ...]:
        return self.context.marks

    @property
    def all_marks(self) -> tuple[Mark, ...]:
        """Those of the entry that is kept already, with what was made and changed on the slip, in the order of the page."""
        gone = {mark.place for mark in self.removed}
        merged = tuple(mark for mark in self.known_marks if mark.place not in gone)
        for mark in self.marks:
            merged = with_mark(merged, mark)
        return in_page_order(merged, in_order(self.reading.content)) if self.known_marks else merged

    @property
    def takes_content(self) -> bool:
        """Whether the template takes the page's text for that of the entry."""
        return self.template.body_for(self.reading.best("kind")).takes_content

    @property
    def title(self) -> str:
        return self.lines[0].text

    @property
    def proposals(self) -> dict[str, Proposal]:
        """What is sure enough to be proposed, by the key of its field, where that is blank still."""
        blank = {line.field.key for line in self.lines if not line.text and not line.is_typed}
        return {one.key: one for one in self.candidates if one.is_sure and one.key in blank}

    def with_text(self, key: str, text: str, origin: str = TYPED) -> "Slip":
        """The slip with one value set by a person."""
        lines = tuple(
            replace(line, text=text, origin=origin, problem=warning_of(line.field, text), is_typed=True)
            if line.field.key == key
            else line
            for line in self.lines
        )
        return replace(self, lines=lines)

    @cached_property
    def by_hand(self) -> ByHand:
        """All that a person did on it."""
        typed = {line.field.key: Typed(line.text, line.origin) for line in self.lines if line.is_typed}
        return ByHand(
            self.template.name if self.reason == CHOSEN_BY_YOU else "",
            self.place if self.is_place_chosen else "",
            {**self.aside, **typed},
            self.body if self.is_body_typed else None,
            self.marks,
            self.removed,
            self.context.picture,
            self.named_keys,
            self.shots,
        )

    def with_typed(self, hand: ByHand) -> "Slip":
        """The slip with all that a person had typed on another one of the same page."""
        slip, there = self, {line.field.key for line in self.lines}
        for key, typed in hand.values.items():
            if key in there:
                slip = slip.with_text(key, typed.text, typed.origin)
        aside = {key: typed for key, typed in hand.values.items() if key not in there}
        slip = replace(slip, aside=aside, removed=hand.removed, shots=hand.shots)
        if hand.body is not None:
            slip = slip.with_reading(ticked_as(slip.reading, hand.body))
            slip = replace(slip, body=hand.body, is_body_typed=True)
        return slip

    def with_reading(self, reading: Reading) -> "Slip":
        """The slip with other blocks of its page ticked."""
        return replace(self, context=replace(self.context, reading=reading))

    def unanswered(self) -> list[SlipField]:
        """The lines that are asked for and blank."""
        return [line for line in self.lines if line.field.key in self.template.asks and not line.text.strip()]

    def rule_now(self, key: str) -> Rule:
        """The rule that gives what a line says now: a value that the page offers, put before its other names; else fixed."""
        line = next(one for one in self.lines if one.field.key == key)
        same = [one for one in line.others if one.value == line.text and line.origin in (TYPED, one.origin)]
        same += [one for one in self.context.offers if is_same(line.field, one.value, line.text)]
        if not same:
            return Rule("fixed", (line.text,) if line.text else ())
        others = line.rule.words if line.rule is not None and line.rule.source == "finding" else ()
        return Rule("finding", tuple(dict.fromkeys((self.context.name_for(same[0]), *others))))

    def draft(self) -> Draft:
        """The entry that it describes.

        Raises:
            UnreadableValue: a line holds no value of its field's kind; the field is named.
            UserError: it has no title.
        """
        values: dict[str, Value] = {}
        for line in self.lines:
            if line.field.kind.holds_files:
                continue  # a picture that is fetched once the entry is there
            try:
                read = line.field.kind.read
                values[line.field.key] = line.field.kind.take(line.text)[0] if line.is_typed else read(line.text)
            except UnreadableValue as error:
                raise UnreadableValue(error.slug, f"{line.field.label}: {error.message}", error.way_out) from error
        title = values.pop("title", None)
        if not isinstance(title, str):
            raise UserError("no-title", "This slip has no title yet.", "Write one; everything else may stay blank.")
        folder = values.pop(IN_FOLDER, None)
        inside = (
            "/".join(safe_name(part) for part in folder.split("/") if part.strip()) if isinstance(folder, str) else ""
        )
        kept = {key: value for key, value in values.items() if value is not None and key not in self.new_keys}
        matter = {
            line.field.key: line.field.kind.to_plain(value)
            for line in self.lines
            if line.field.key in self.new_keys and (value := values[line.field.key]) is not None
        }
        return Draft(title, kept, self.body, self.reading.canonical, self.note_path(title), inside, matter)

    def note_path(self, title: str) -> str:
        """Where in a notes folder it becomes a note; "" where the folder says.

        Raises:
            UserError: the template's expression for it fails.
        """
        path, _ = text_of(self.template.note_name, replace(self.context, title=safe_name(title)))
        return "/".join(safe_name(part) for part in path.split("/") if part.strip())


def warning_of(field: Field, text: str) -> str:
    """What a person should know of a text that is kept as it stands, or ""."""
    try:
        return field.kind.take(text)[1]
    except UnreadableValue:
        return ""  # said when the slip is to be kept: it may not be typed to its end


def is_same(field: Field, offered: str, text: str) -> bool:
    """Whether a value that a page offers is what a line says."""
    if offered == text:
        return True
    try:
        return bool(text) and field.kind.show(field.kind.from_plain(offered)) == text
    except UnreadableValue:
        return False


def ticked_as(reading: Reading, body: str) -> Reading:
    """A reading whose blocks are kept where they stand in a text that a person has settled."""
    content = reading.content
    ticked = content.with_ticks([bool(block.markdown) and block.markdown in body for block in content.blocks])
    return replace(reading, content=replace(content, blocks=ticked.blocks))


def fill(
    template: Template,
    reason: str,
    context: RuleContext,
    place: str,
    fields: Sequence[Field],
    hand: ByHand = NOTHING,
    usual: Mapping[str, Rule] = NO_RULES,
    roles: Mapping[str, str] = NO_ROLES,
) -> Slip:
    """Fills a slip. What a person had typed on one before stays.

    Args:
        fields: of the place, the title first; those that nobody writes have no line.
        usual: rules of fields for which the template has none.
        roles: what fields are taken for that are called otherwise (see `entries.roles`), by their keys.
    """
    work_out(template.expressions(context.reading.best("kind")), [context])
    lines: list[SlipField] = []
    notes: list[str] = []
    for one in fields:
        if not one.is_writable:
            continue
        role = roles.get(one.key, one.key)
        is_out = role == NO_ROLE and one.key in ROLES  # the person said that it is not for that, whatever its key
        rule = None if is_out else template.rule_of(one.key) or template.rule_of(role) or usual.get(role)
        if one.kind.holds_files and rule is not None and rule.source != "picture":
            rule = None  # a file cannot be reckoned
        given = with_settings(template, role, with_unit(give(rule, context, one), context))
        notes += given.notes
        line = to_line(one, given, context.reading.language)
        is_left_out = bool(template.only) and one.key not in ("title", *template.only)
        if role != one.key and line.text:
            line = replace(line, note=", ".join(filter(None, (said_of(role), line.note))))
        hidden = one.key in template.hides or one.settings.is_hidden or is_left_out
        asked = given.is_question or one.key in template.asks
        lines.append(replace(line, rule=rule, is_question=asked, is_hidden=hidden))
    first = {key: at for at, key in enumerate(("title", *template.only))} if template.only else {}
    lines.sort(key=lambda line: first.get(line.field.key, len(first)))
    body, problem, wanted = body_of(template, context)
    notes += wanted
    slip = Slip(
        context, template, reason, place, tuple(lines), body, body_problem=problem, notes=tuple(dict.fromkeys(notes))
    )
    return slip.with_typed(hand)


def with_settings(template: Template, role: str, given: RuleResult) -> RuleResult:
    """What a rule gives for the field of a role, with the status and the tags that the template sets."""
    if role == "status" and template.status and not given.value:
        return replace(given, value=template.status, origin=BY_TEMPLATE)
    if role == "tags" and template.tags:
        there = given.value if isinstance(given.value, list) else [given.value] if given.value else []
        return replace(given, value=[*there, *template.tags], origin=given.origin or BY_TEMPLATE)
    return given


def with_unit(given: RuleResult, context: RuleContext) -> RuleResult:
    """What a rule gives, with the currency of the page where it is a price."""
    return replace(given, unit=context.reading.best("currency")) if OF_PRICE.search(given.origin) else given


def to_line(field: Field, given: RuleResult, language: str) -> SlipField:
    """One line from what its rule gives.

    Args:
        language: of the page, by which its figures are read.
    """
    if given.problem:
        return SlipField(field, problem=given.problem)
    if field.kind.holds_files:
        text = str(given.value or "")
        return SlipField(field, text, given.origin if text else "", given.others)
    try:
        value, note = read_given(field, given, language)
    except UnreadableValue as error:
        return SlipField(field, problem=f"{error.message} (from {given.origin or 'the page'})", others=given.others)
    text = field.kind.show(value)
    others = tuple(one for one in given.others if one.value != text)
    return SlipField(field, text, given.origin if text else "", others, note=note if text else "")


def read_given(field: Field, given: RuleResult, language: str) -> tuple[Value, str]:
    """The value of what a rule gives, and what is to be said of it or "": sums go into numbers, bare prices into amounts.

    Raises:
        UnreadableValue: it is no value of the field's kind, or nobody can know which.
    """
    kind = field.kind
    try:
        value = kind.from_page(given.value, language, is_declared=given.is_declared)
    except UnreadableValue as error:
        amount: Value = None
        if kind.is_number and " can be " not in error.message:
            with suppress(UnreadableValue):
                amount = AMOUNT.from_page(given.value, language, is_declared=given.is_declared)
        if not isinstance(amount, str):
            raise
        number, unit = split(amount)
        return number, f"without its unit, {unit}"
    if value is not None and given.unit and kind.is_number:
        return value, f"without its unit, {given.unit}"
    if isinstance(value, str) and kind.has_unit and given.unit and not split(value)[1]:
        return f"{value} {given.unit}", ""
    return value, ""


def body_of(template: Template, context: RuleContext) -> tuple[str, str, list[str]]:
    """The text of an entry, why a part of it could not be made or "", and the titles of notes that it wants to be made."""
    body = template.body_for(context.reading.best("kind"))
    content, marks = context.reading.content.markdown, as_markdown(context.marks)
    main = {"content": content, "marks": marks, "marks or content": marks or content, "nothing": ""}[body.part]
    parts, problem, notes = [body.before, main, body.after], "", []
    for at in (0, 2):
        try:
            parts[at], wanted = text_of(parts[at], context)
            notes += wanted
        except UserError as error:
            parts[at], problem = "", error.message
    return "\n\n".join(part.strip("\n") for part in parts if part.strip()), problem, notes


def text_of(text: str, context: RuleContext) -> tuple[str, list[str]]:
    """A text of one's own with its values filled in, and the titles of notes that it wants to be made.

    Raises:
        UserError: one of its values fails.
    """
    if not is_text(text):
        return text, []
    worked = evaluate(text, context)
    return str(worked.value or ""), list(worked.notes)


def habit_of(reading: Reading) -> str:
    """The setting of a library that tells where pages of a site and a kind went last; "" for what is of no site."""
    host = host_of(reading.page.address)
    return f"place of {reading.best('kind') or 'pages'} of {host}" if host else ""


def in_order(content: Content) -> str:
    """All that stands in a page's text and beside it, in the order of the page, with the addresses of pictures."""
    parts = [f"{block.text} {block.html if block.kind == 'picture' else ''}" for block in content.blocks]
    return "\n".join(parts) or content.text
