"""The slip: the filled, still editable draft of one capture."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from wily_magpie.core.entries.entry import Draft, Entry
from wily_magpie.core.entries.field import TITLE, Field
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.pages.page import Content, Finding, Reading
from wily_magpie.core.templates.template import Template

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
        is_typed: whether a person wrote it; such a value survives a change of template.
    """

    field: Field
    text: str = ""
    origin: str = ""
    others: tuple[Finding, ...] = ()
    problem: str = ""
    is_typed: bool = False


@dataclass(frozen=True)
class Slip:
    """The draft of one capture. Lines begin with the title, then the place's fields in order."""

    reading: Reading
    template: Template
    reason: str
    place: str
    lines: tuple[SlipField, ...]
    body: str
    is_body_typed: bool = False
    body_problem: str = ""
    known: Entry | None = None
    known_when: str = ""
    told: tuple[str, ...] = ()
    """What keeping it would make that is not there yet, or why it could not be kept there."""

    @property
    def title(self) -> str:
        return self.lines[0].text

    def with_text(self, key: str, text: str, origin: str = "typed") -> "Slip":
        """The slip with one value set by a person."""
        lines = tuple(
            replace(line, text=text, origin=origin, problem=warning_of(line.field, text), is_typed=True)
            if line.field.key == key
            else line
            for line in self.lines
        )
        return replace(self, lines=lines)

    def with_typed(self, before: "Slip") -> "Slip":
        """The slip with all that a person had typed on another one of the same page."""
        slip = self
        for line in before.lines:
            if line.is_typed:
                slip = slip.with_text(line.field.key, line.text)
        if before.is_body_typed:
            reading = ticked_as(slip.reading, before.body)
            slip = replace(slip, reading=reading, body=before.body, is_body_typed=True)
        return slip

    def draft(self) -> Draft:
        """The entry that it describes.

        Raises:
            UnreadableValue: a line holds no value of its field's kind; the field is named.
            UserError: it has no title.
        """
        values: dict[str, Value] = {}
        for line in self.lines:
            try:
                read = line.field.kind.read
                values[line.field.key] = line.field.kind.take(line.text)[0] if line.is_typed else read(line.text)
            except UnreadableValue as error:
                raise UnreadableValue(error.slug, f"{line.field.label}: {error.message}", error.way_out) from error
        title = values.pop("title", None)
        if not isinstance(title, str):
            raise UserError("no-title", "This slip has no title yet.", "Write one; everything else may stay blank.")
        return Draft(title, {k: v for k, v in values.items() if v is not None}, self.body, self.reading.canonical)


def warning_of(field: Field, text: str) -> str:
    """What a person should know of a text that is kept as it stands, or ""."""
    try:
        return field.kind.take(text)[1]
    except UnreadableValue:
        return ""  # said when the slip is to be kept: it may not be typed to its end


def with_blocks(slip: Slip, numbers: Sequence[int], *, is_kept: bool, now: str) -> Slip:
    """The slip with some blocks of the page taken into its text, or out of it; what a person wrote in the text stays."""
    from wily_magpie.core.templates.expressions import evaluate  # Jinja is not needed at start

    before = slip.reading.content
    content = before.with_blocks(numbers, is_kept=is_kept)
    reading = replace(slip.reading, content=content)
    if slip.is_body_typed:
        body = slip.body
        for number in numbers:
            if is_kept and not before.blocks[number].is_kept:
                body = in_place(body, content, number)
            elif not is_kept:
                body = without(body, before.blocks[number].markdown)
    else:
        body = str(evaluate(slip.template.body, reading, now)[0] or "")
    return replace(slip, reading=reading, body=body, is_body_typed=True)


def ticked_as(reading: Reading, body: str) -> Reading:
    """A reading whose blocks are kept where they stand in a text that a person has settled."""
    content = reading.content
    blocks = tuple(replace(block, is_kept=bool(block.markdown) and block.markdown in body) for block in content.blocks)
    return replace(reading, content=replace(content, blocks=blocks))


def without(body: str, block: str) -> str:
    """A text without one block, where that still stands in it."""
    return body.replace(block, "", 1).replace("\n\n\n\n", "\n\n").strip("\n") if block else body


def in_place(body: str, content: Content, number: int) -> str:
    """A text with one block put behind the nearest block before it that still stands there; else at its end."""
    block = content.blocks[number].markdown
    for before in reversed(content.blocks[:number]):
        if before.is_kept and before.markdown and before.markdown in body:
            at = body.index(before.markdown) + len(before.markdown)
            return f"{body[:at]}\n\n{block}{body[at:]}"
    return f"{body.rstrip()}\n\n{block}".strip()


def fill(
    template: Template,
    reason: str,
    reading: Reading,
    place: str,
    fields: Sequence[Field],
    now: str,
    before: Slip | None = None,
) -> Slip:
    """Fills a slip. What a person had typed on the slip before stays.

    Args:
        fields: of the place, the title first; those that nobody writes and those of files have no line.
    """
    from wily_magpie.core.templates.expressions import evaluate  # Jinja is not needed at start

    lines = []
    for one in fields:
        if not one.is_writable or one.kind.name == "files":
            continue
        text = template.title if one.key == TITLE.key else template.fields.get(one.key)
        lines.append(fill_line(one, text, reading, now))
    try:
        body, problem = str(evaluate(template.body, reading, now)[0] or ""), ""
    except UserError as error:
        body, problem = "", error.message
    slip = Slip(reading, template, reason, place, tuple(lines), body, body_problem=problem)
    return slip.with_typed(before) if before else slip


def fill_line(field: Field, expression: str | None, reading: Reading, now: str) -> SlipField:
    """One line from its rule; without a rule it is left for the person."""
    from wily_magpie.core.templates.expressions import evaluate  # as above

    if expression is None:
        return SlipField(field)
    try:
        result, page = evaluate(expression, reading, now)
    except UserError as error:
        return SlipField(field, problem=error.message)
    names = dict.fromkeys(page._names)  # noqa: SLF001 - underscored only against expressions
    others = tuple(one for name in names for one in reading.all(name))
    origin = next((used.origin for used in page._used if used.value), "template")  # noqa: SLF001
    try:
        value = field.kind.from_plain(list(result) if isinstance(result, tuple) else result)
    except UnreadableValue as error:
        return SlipField(field, problem=f"{error.message} (from {origin or 'the page'})", others=others)
    text = field.kind.show(value)
    return SlipField(field, text, origin if text else "", tuple(one for one in others if one.value != text))
