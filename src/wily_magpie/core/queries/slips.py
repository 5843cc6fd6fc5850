"""Slips: filled from a page, by the templates and places that there are."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.page import Finding, Reading
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.queries.templates import TemplateQueries
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.slip import CHOSEN_BY_YOU, Slip, SlipField, fill
from wily_magpie.core.templates.template import choose


class SlipQueries:
    """See the module."""

    def __init__(self, library: Library, templates: TemplateQueries) -> None:
        self._library = library
        self.templates = templates

    def slip(
        self,
        reading: Reading,
        template: str | None = None,
        place: str | None = None,
        before: Slip | None = None,
        marks: Sequence[Mark] = (),
        screenshot: bytes = b"",
    ) -> Slip:
        """The filled slip of a page, with the entry that is already kept from it, if any.

        Args:
            before: a slip of the same page; what was typed, marked and chosen on it stays.
        """
        slip = self.trial(reading, template, place, before, marks, screenshot)
        target = self._library.place(slip.place)
        made = tuple(f"Makes the note “{title}”." for title in target.missing_notes(slip.notes))
        try:
            part = target.dry_run(slip.template.way)
        except UserError as error:
            part = [str(error)]
        if part is not None:
            return replace(slip, told=(*part, *made))
        slip = replace(slip, told=made)
        known = target.known(reading.canonical)
        return with_known(slip, known) if known else slip

    def again(self, slip: Slip, **changes: object) -> Slip:
        """The slip filled once more, with other marks or another chosen picture (see `RuleContext`)."""
        context = replace(slip.context, **changes)  # type: ignore[arg-type]
        return self.slip(slip.reading, slip.template.name, slip.place, replace(slip, context=context))

    def trial(
        self,
        reading: Reading,
        template: str | None = None,
        place: str | None = None,
        before: Slip | None = None,
        marks: Sequence[Mark] = (),
        screenshot: bytes = b"",
    ) -> Slip:
        """The same from the page alone, whatever is kept."""
        if template is None:
            chosen, reason = choose(self.templates.templates(), reading)
        else:
            chosen = self.templates.template(template)
            is_same = before is not None and before.template.name == chosen.name
            reason = before.reason if before is not None and is_same else CHOSEN_BY_YOU
        target = self.target(place or chosen.writes)
        screenshot = screenshot or (before.screenshot if before else b"")
        context = RuleContext(
            reading,
            datetime.now(UTC).strftime("%Y-%m-%dT%H:%MZ"),
            target.name,
            tuple(marks) or (before.marks if before else ()),
            before.context.picture if before else "",
            bool(screenshot),
        )
        return replace(fill(chosen, reason, context, target.key, target.fields, before), screenshot=screenshot)

    def target(self, name: str) -> Place:
        return self._library.place(name) if name else self._library.first_place()


def with_known(slip: Slip, known: Entry) -> Slip:
    """The slip of a page that is kept already: what the entry says stays, what the page says is offered beside it."""

    def one(line: SlipField) -> SlipField:
        value = known.value(line.field.key)
        text = line.field.kind.show(value)
        if value is None or line.is_typed or text == line.text or line.field.kind.holds_files:
            return line
        offered = (Finding(line.field.key, line.text, line.origin),) if line.text and line.origin != "template" else ()
        return replace(line, text=text, origin="the kept entry", others=offered + line.others, problem="")

    return replace(slip, lines=tuple(map(one, slip.lines)), known=known, known_when=captured(known))


def captured(entry: Entry) -> str:
    """When an entry was captured, as shown; "" where it does not say."""
    value = entry.value("captured")
    return value[:10] if isinstance(value, str) else ""
