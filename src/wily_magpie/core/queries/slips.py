"""Slips: filled from a page, by the templates and places that there are."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import IN_FOLDER, Field, Settings
from wily_magpie.core.entries.mark import Mark, in_page_order
from wily_magpie.core.entries.roles import roles_of
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.fields import KINDS
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.page import Finding, Reading
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.queries.filing import FilingQueries
from wily_magpie.core.queries.place_plans import plan_for
from wily_magpie.core.queries.templates import TemplateQueries
from wily_magpie.core.templates.by_hand import ByHand, Typed
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import BY_TEMPLATE
from wily_magpie.core.templates.slip import (
    CHOSEN_BY_YOU,
    NOTHING,
    KnownEntry,
    Lack,
    Slip,
    SlipField,
    fill,
    habit_of,
    in_order,
    ticked_as,
)
from wily_magpie.core.templates.starters import COMMON
from wily_magpie.core.templates.template import Choice, Template, choose


class SlipQueries:
    """See the module."""

    def __init__(self, library: Library, templates: TemplateQueries) -> None:
        self._library = library
        self.templates = templates
        self.filing = FilingQueries(library)

    def slip(
        self,
        reading: Reading,
        template: str = "",
        place: str = "",
        hand: ByHand = NOTHING,
        screenshot: bytes = b"",
        *,
        is_habit: bool = False,
    ) -> Slip:
        """The filled slip of a page, with the entry that is already kept from it, if any, and what is proposed for blank fields.

        Args:
            template, place: instead of those that match, and of those that the person chose; "" for these.
            hand: what a person did on a slip of the same page, which stays.
            is_habit: whether the place that was chosen last for the template is proposed.
        """
        known = self.known_anywhere(reading.canonical)
        choice = self.template_for(reading, template or hand.template)
        place, why = (place or hand.place, "")
        if not place:
            is_chosen = bool(template or hand.template)  # which is then followed, wherever else the page is kept
            place, why = self.usual_place(
                choice.template, reading, () if is_chosen else known, is_habit=is_habit and not is_chosen
            )
        slip = self.filled(reading, choice.template, choice.reason, place, hand, screenshot)
        slip = replace(slip, also_matching=choice.also, place_reason=why)
        target, refusal = self._library.place(slip.place), None
        try:
            part = target.dry_run(slip.template.way)
        except UserError as error:
            part, refusal = [], error
        slip = as_a_part(slip) if part is not None else slip
        slip = replace(slip, told=all_told(slip, target, part or ()), lacks=lacks_of(slip, target, refusal))
        if part is not None:
            way, address = slip.template.way, reading.page.address
            holding = target.holds_address(way, address) if way is not None else ""
            there = (f"{holding} has this address already.",) if holding else ()
            return replace(slip, elsewhere=tuple(known), holding=holding, told=(*slip.told, *there))
        here = next((one for one in known if one.place == slip.place), None)
        slip = replace(slip, elsewhere=tuple(one for one in known if one is not here))
        if here is None:
            return self.filing.with_candidates(slip)
        return with_known(slip, here.entry, self._library.marks.of(here.place, target.owner_of(here.entry.id)))

    def restored(self, reading: Reading, hand: ByHand, screenshot: bytes = b"") -> Slip:
        """The slip of a draft; a template and a place that are gone by now are said to be."""
        hand, gone = self.what_is_there(hand)
        slip = self.slip(reading, hand=hand, screenshot=screenshot, is_habit=True)
        return replace(slip, told=(*gone, *slip.told))

    def of_page(self, slip: Slip, reading: Reading | None = None) -> Slip:
        """What a page alone gives for the template and the place of a slip.

        Args:
            reading: of another state of the page; None for that of the slip.
        """
        if reading is None:
            reading = replace(slip.reading, content=slip.reading.content.as_read())
        return self.filled(reading, slip.template, slip.reason, slip.place, NOTHING, b"")

    def trial(self, reading: Reading, template: str = "") -> Slip:
        """The slip of a page from the page alone, whatever is kept."""
        choice = self.template_for(reading, template)
        return self.filled(reading, choice.template, choice.reason, "", NOTHING, b"")

    def second(self, slip: Slip) -> Slip:
        """The slip of a second entry beside the one that is kept already: of the page, with what the person did."""
        reading = replace(slip.reading, content=slip.reading.content.as_read())
        hand = replace(slip.by_hand, removed=())
        second = self.filled(reading, slip.template, slip.reason, slip.place, hand, slip.screenshot)
        return replace(second, is_place_chosen=slip.is_place_chosen)

    def filled(
        self, reading: Reading, template: Template, reason: str, place: str, hand: ByHand, screenshot: bytes
    ) -> Slip:
        target = self.target(place or template.writes)
        context = RuleContext(
            reading,
            datetime.now(UTC).strftime("%Y-%m-%dT%H:%MZ"),
            target.name,
            in_page_order(hand.marks, in_order(reading.content)),
            hand.picture,
            bool(screenshot),
        )
        fresh = new_fields(target, hand.new_keys)
        usual = FOR_NOTES if target.nature.is_in_files else ALWAYS
        fields = (*target.fields, *fresh, *folder_line(target, template))
        slip = fill(template, reason, context, target.key, fields, hand, usual, played(target))
        return replace(
            slip,
            screenshot=screenshot,
            is_place_chosen=bool(hand.place),
            new_keys=tuple(one.key for one in fresh),
            named_keys=hand.new_keys,
        )

    def template_for(self, reading: Reading, name: str) -> Choice:
        """The template of a name, else the one that is proposed for a page; and why."""
        if name:
            return Choice(self.templates.template(name), CHOSEN_BY_YOU)
        return choose(self.templates.templates(), reading)

    def what_is_there(self, hand: ByHand) -> tuple[ByHand, tuple[str, ...]]:
        """What a person did, without a template and a place that are gone by now; and what is to be said of these."""
        told = []
        if hand.template and hand.template not in {one.name for one in self.templates.templates()}:
            told.append(f"The template “{hand.template}” that was chosen is gone.")
            hand = replace(hand, template="")
        if hand.place and all(hand.place not in (one.key, one.name) for one in self._library.places()):
            told.append("The place that was chosen is gone.")
            hand = replace(hand, place="")
        return hand, tuple(told)

    def usual_place(
        self, template: Template, reading: Reading, known: Sequence[KnownEntry], *, is_habit: bool
    ) -> tuple[str, str]:
        """The place that is proposed for a page, and why it is not the template's own, or "".

        Args:
            known: what is kept from it already.
            is_habit: whether what was chosen for such pages before counts, or only what the template says.
        """
        last = self.last_place(reading) if is_habit else ""
        own = self.target(last or template.writes).key
        if known and all(one.place != own for one in known):
            return known[0].place, ""
        return (last, f"as the last {kind_of(reading)} of {host_of(reading.page.address)}") if last else ("", "")

    def last_place(self, reading: Reading) -> str:
        """The key of the place that was chosen last for such pages of the site; "" where none was, or it is gone."""
        key = self._library.settings.all().get(habit_of(reading), "")
        return key if any(place.key == key for place in self._library.places()) else ""

    def known_anywhere(self, canonical: str) -> list[KnownEntry]:
        """The entries that are kept from a page, one a place."""
        out = []
        for place in self._library.places():
            found = place.known(canonical) if canonical and not place.is_away else None
            if found is not None:
                out.append(KnownEntry(place.key, place.name, found, captured(found)))
        return out

    def target(self, name: str) -> Place:
        return self._library.place(name) if name else self._library.first_place()


MOST_SAID = 3
SOURCE_KEYS = ("address", "authors", "published", "captured", "tags")
"""What a note needs of the page that it was kept from, besides its title."""
FOR_NOTES = {key: COMMON[key] for key in SOURCE_KEYS}
ALWAYS = {"address": COMMON["address"]}
"""What every entry needs, so that its page is known again."""


def new_fields(target: Place, named: Sequence[str]) -> list[Field]:
    """Fields that a place lacks and a capture gives it: no capture ever lacks its address.

    A notes folder that has no fields yet gets what a source needs as front matter, and what a person names.
    """
    there = {one.key for one in target.fields}
    has_own = not target.nature.is_in_files or any(one.is_writable and one.key != "title" for one in target.fields)
    wanted: tuple[str, ...] = ("address",) if has_own else SOURCE_KEYS
    if "address" in played(target).values():
        wanted = tuple(key for key in wanted if key != "address")
    more = named if target.nature.is_in_files else ()
    return [made_field(key) for key in dict.fromkeys((*wanted, *more)) if key not in there]


def played(target: Place) -> dict[str, str]:
    """What fields of a place are taken for that are called otherwise: role by key."""
    return roles_of(target.fields, target.settings.roles, is_in_files=target.nature.is_in_files)


def kind_of(reading: Reading) -> str:
    """The kind of a page in a word."""
    return reading.best("kind") or "page"


def all_told(slip: Slip, target: Place, part: Sequence[str]) -> tuple[str, ...]:
    """What is to be known of a slip before it is kept.

    Args:
        part: what it makes where it becomes a part of a note.
    """
    notes = (f"Makes the note “{title}”." for title in target.missing_notes(slip.notes))
    tellers = (fields_told, options_told, attached_told, shots_told)
    return (*part, *notes, *(one for tell in tellers for one in tell(slip, target)))


def fields_told(slip: Slip, target: Place) -> tuple[str, ...]:
    """What is to be said of fields that a collection gets."""
    if target.nature.is_in_files:
        return ()
    labels = [line.field.label for line in slip.lines if line.field.key in slip.new_keys]
    return tuple(f"Makes the field {one} in {target.name}, which has none that could hold it." for one in labels)


def options_told(slip: Slip, target: Place) -> tuple[str, ...]:
    """What is to be said of options that choices of the place would get."""
    out = []
    for line in slip.lines:
        if line.field.kind.has_options and line.text and target.is_declared(line.field):
            fresh = new_options(line.field, line.text)
            if fresh:
                many = f" and {len(fresh) - MOST_SAID} more" if len(fresh) > MOST_SAID else ""
                names = ", ".join(fresh[:MOST_SAID])
                out.append(f"{line.field.label} gets the new option{'s' if len(fresh) > 1 else ''} {names}{many}.")
    return tuple(out)


def new_options(field: Field, text: str) -> list[str]:
    """The names in a text that a choice does not have yet."""
    try:
        value = field.kind.read(text)
    except UnreadableValue:
        return []
    names = value if isinstance(value, tuple) else (value,)
    known = {option.name.casefold() for option in field.options}
    return [f"“{one}”" for one in names if isinstance(one, str) and one.casefold() not in known]


def as_a_part(slip: Slip) -> Slip:
    """A slip that becomes a part of a note, which gets a text and no fields; what was typed into such waits for another place."""
    typed = {line.field.key: Typed(line.text, line.origin) for line in slip.lines[1:] if line.is_typed}
    lines = tuple(line for line in slip.lines if line.field.key == "title")
    return replace(slip, lines=lines, aside={**slip.aside, **typed})


def folder_line(target: Place, template: Template) -> list[Field]:
    """The field that says in which folder a note is to lie, where the template leaves that open."""
    if not target.nature.is_in_files or template.way is not None or template.note_name:
        return []
    return [replace(one, settings=Settings()) for one in target.fields if one.key == IN_FOLDER]


def made_field(key: str) -> Field:
    """A field for a key of front matter: as starters have it, else a text."""
    plan = plan_for(key)
    return Field(key, plan.label, KINDS[plan.kind], "")


def lacks_of(slip: Slip, target: Place, refusal: UserError | None) -> tuple[Lack, ...]:
    """What the template wants and the place does not have.

    Args:
        refusal: why it cannot be written into the note that the template names.
    """
    out: list[Lack] = []
    there = {one.key for one in target.fields} | set(slip.new_keys)
    keys = tuple(key for key, rule in slip.template.fields.items() if key not in there and rule.source != "question")
    is_own = slip.template.writes in (target.key, target.name)
    if keys and is_own and slip.template.way is None:
        labels = ", ".join(plan_for(key).label for key in keys)
        out.append(Lack("field", f"{target.name} lacks what the template fills: {labels}.", keys))
    if refusal is not None:
        out.append(Lack("heading" if refusal.slug == "no-heading" else "", str(refusal)))
    return tuple(out)


def shots_told(slip: Slip, target: Place) -> tuple[str, ...]:
    """What is to be said of the pictures that were taken of the page."""
    if not slip.shots:
        return ()
    can_hold = target.nature.is_in_files or any(one.kind.holds_files for one in target.fields)
    many = f"{len(slip.shots)} pictures" if len(slip.shots) > 1 else "One picture"
    return (
        f"{many} of the page will be kept with it."
        if can_hold
        else f"{target.name} has no field for files: {many.lower()} of the page cannot be kept there.",
    )


def attached_told(slip: Slip, target: Place) -> tuple[str, ...]:
    """What is to be said of the files that came with an e-mail."""
    told = next((one for one in slip.reading.data.get("jsonld", ()) if isinstance(one, dict)), {})
    count = len(told.get("messageAttachment") or ()) if slip.reading.page.media_type == "message/rfc822" else 0
    if not count:
        return ()
    many = f"{count} attached files are" if count > 1 else "One attached file is"
    has_field = target.nature.is_in_files or any(one.kind.holds_files for one in target.fields)
    return (f"{many} kept with it{'' if has_field else f'; {target.name} gets a field Files for that'}.",)


def with_known(slip: Slip, known: Entry, marks: tuple[Mark, ...]) -> Slip:
    """The slip of a page that is kept already: its entry as it is; what the page says is offered beside it."""

    def one(line: SlipField) -> SlipField:
        value = known.value(line.field.key)
        text = line.field.kind.show(value)
        if line.is_typed or text == line.text or (value is None and not line.text) or line.field.kind.holds_files:
            return line
        offered = (Finding(line.field.key, line.text, line.origin),) if line.text and line.origin != BY_TEMPLATE else ()
        origin = OF_ENTRY if text else ""
        return replace(line, text=text, origin=origin, others=offered + line.others, problem="")

    if not slip.is_body_typed:
        body = known.body or ""
        slip = replace(slip.with_reading(ticked_as(slip.reading, body)), body=body, body_problem="")
    lines = tuple(one(line) for line in slip.lines if line.field.key != IN_FOLDER)  # it lies where it lies
    return replace(slip, lines=lines, known=known, known_when=captured(known), known_marks=marks)


OF_ENTRY = "the kept entry"
"""The origin of what stands in the entry that is kept already."""


def captured(entry: Entry) -> str:
    """When an entry was captured, as shown; "" where it does not say."""
    value = entry.value("captured")
    return value[:10] if isinstance(value, str) else ""
