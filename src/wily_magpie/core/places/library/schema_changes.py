"""Changing the fields of a place. Whoever does it is inside a step, and has made the columns before it (`PlannedField`).

Columns are never dropped or renamed while history lives (see schema): a deleted field is blanked and marked as deleted, a converted
one gets a new column.
"""

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import TITLE, Field, FieldPlan, Settings, find_field
from wily_magpie.core.errors import MagpieError, UnreadableValue, UserError
from wily_magpie.core.fields import KINDS, Option, Value
from wily_magpie.core.places.api import FieldConversion, Place
from wily_magpie.core.places.conversion import FROM_FIXED, WHY_NOT, Conversion, ReferenceConversion, convert
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import And, Condition, Node, Not, Or, Question

MOST_EXAMPLES, ROWS_A_TICK = 8, 1_000


Tick = Callable[[int, int], None]
"""Told of (done, total) now and then; may raise to end the work."""


def untold(_done: int, _total: int) -> None:
    """A tick that nobody hears."""


def free_key(library: Library, place: str, label: str) -> str:
    """A key made of a label, which no field of the place has."""
    return key_for(label, {"title", "gaps", *(field.key for field in library.fields.of(place))})


def key_for(label: str, taken: set[str]) -> str:
    """A key made of a label: a plain word that is not taken."""
    word = re.sub(r"[\W_]+", "_", label.casefold()).strip("_") or "field"
    return next(key for key in [word, *(f"{word}_{n}" for n in range(2, 10_000))] if key not in taken)


def check_label(library: Library, place: str, label: str, *, except_for: str = "") -> str:
    """A label in its clean form; UserError where it is blank or taken."""
    label = " ".join(label.split())
    if not label:
        raise UserError("field-nameless", "A field needs a name.", "Write one.")
    taken = [field for field in (TITLE, *library.fields.of(place)) if field.key != except_for]
    if any(label.casefold() in (field.label.casefold(), field.key.casefold()) for field in taken):
        raise UserError("field-known", f"There is a field “{label}” already.", "Choose another name.")
    return label


@dataclass(frozen=True)
class PlannedField:
    """A field whose column is there already: a step records rows, not tables.

    Attributes:
        number: its own; the next one is of its other end, where it has one.
    """

    place: str
    plan: FieldPlan
    number: int
    back: FieldPlan | None = None


def plan_field(library: Library, key: str, plan: FieldPlan) -> PlannedField:
    """Makes the column of a new field, before the step that makes the field itself.

    Raises:
        UserError: the label is blank or taken, or the place cannot have such a field.
    """
    place = library.place(key)
    label = check_label(library, place.key, plan.label)
    if plan.kind not in place.nature.field_kinds:
        raise UserError("no-note-field", f"A note cannot hold a field of the kind {plan.kind}.", "Choose another kind.")
    number = library.fields.next_number()
    plan = replace(plan, label=label, key=plan.key or free_key(library, place.key, label))
    back = None
    if KINDS[plan.kind].is_linked:
        plan = replace(plan, settings=replace(plan.settings, link=number))
        back = other_end(library, place, plan)
    place.prepare_column(number, plan.kind)
    return PlannedField(place.key, plan, number, back)


def other_end(library: Library, place: Place, plan: FieldPlan) -> FieldPlan:
    """The other end of a reference.

    Raises:
        UserError: the place that it leads to cannot be referred to.
    """
    target = library.place(plan.settings.target)
    if not target.nature.is_referred_to:
        raise UserError("no-reference", f"{target.name} is no collection.", "References lead to collections.")
    label = plan.back_label or place.name
    while any(one.label.casefold() == label.casefold() for one in target.fields):
        label += " (back)"
    settings = Settings(target=place.key, link=plan.settings.link, is_back=True)
    return FieldPlan(free_key(library, target.key, label), label, "reference", settings=settings)


def add_field(library: Library, planned: PlannedField) -> Field:
    """Adds a planned field at the end; of a reference, its other end too."""
    place, plan = planned.place, planned.plan
    library.fields.add(planned.number, place, plan, library.fields.next_position(place))
    if planned.back is not None:
        there = plan.settings.target
        library.fields.add(planned.number + 1, there, planned.back, library.fields.next_position(there))
    library.place(place).follow_columns()
    return find_field(library.fields.of(place), plan.key)


def change_field(library: Library, place: str, key: str, changes: Mapping[str, object]) -> None:
    """Sets label, options or settings (each by its name in Field) of a field."""
    field = find_field(library.place(place).fields, key)
    wanted = dict(changes)
    if "label" in wanted:
        wanted["label"] = check_label(library, place, str(wanted["label"]), except_for=field.key)
    changed = replace(field, **wanted)  # type: ignore[arg-type]
    if changed.settings.default:
        changed.kind.take(changed.settings.default)
    library.fields.declare(place, field, **wanted)


def order_fields(library: Library, place: str, keys: Sequence[str]) -> None:
    """Puts the fields into an order; those that were only found in notes have one from then on."""
    fields = library.place(place).fields
    for key in keys:
        library.fields.declare(place, find_field(fields, key))
    library.fields.order(place, keys)


def delete_field(library: Library, place: str, key: str) -> None:
    """Takes a field out with its values; undo brings both back. Of notes, the files keep it: there it is hidden."""
    target = library.place(place)
    target.drop_field(find_field(target.fields, key))


Outcome = tuple[int, Value, Value]
"""Of one value in a change of kind: the entry's id, what it is, and what it becomes; None: it does not convert."""


def outcomes(library: Library, target: Place, field: Field, kind: str, tick: Tick = untold) -> list[Outcome]:
    """What becomes of each value of a field."""
    out: list[Outcome] = []
    ids = library.ids_of(target)
    for number, entry in enumerate(rows_of(target, ids)):
        if number % ROWS_A_TICK == 0:
            tick(number, len(ids))
        value = entry.value(field.key)
        if value is not None:
            after: Value = None
            with suppress(UnreadableValue):
                after = convert(field, kind, value)
            out.append((entry.id, value, after))
    return out


def told(field: Field, kind: str, found: Sequence[Outcome]) -> Conversion:
    """That in numbers, with a few examples."""
    good = [(field.kind.show(before), KINDS[kind].show(after)) for _, before, after in found if after is not None]
    lost = [field.kind.show(before) for _, before, after in found if after is None]
    examples = tuple(good[:MOST_EXAMPLES]), tuple(lost[:MOST_EXAMPLES])
    return Conversion(field, kind, len(found), len(good), len(lost), *examples)


def look_at_conversion(library: Library, place: str, key: str, kind: str) -> Conversion:
    """How many values of a field convert to another kind, and which do not; nothing is changed.

    Raises:
        UserError: such a field cannot become one of that kind.
    """
    target = up_to_date(library, place)
    field = find_field(target.fields, key)
    check_kinds(target, field, kind)
    return told(field, kind, outcomes(library, target, field, kind))


def check_kinds(place: Place, field: Field, kind: str) -> None:
    """UserError where no value of a field could convert."""
    is_from_fixed = (field.kind.is_linked or field.kind.is_summary) and kind in FROM_FIXED
    is_fixed = KINDS[kind].is_fixed or (field.kind.is_fixed and not is_from_fixed)
    if kind not in place.nature.field_kinds or is_fixed or field.key == TITLE.key:
        why = WHY_NOT.get(kind, "") or WHY_NOT.get(field.kind.name, "")
        message = f"{field.label} ({field.kind.name}) cannot become a field of the kind {kind}."
        raise UserError("no-conversion", f"{message} {why}".strip(), "Add a new field instead.")


def titles_of(field: Field, value: Value) -> tuple[str, ...]:
    """The titles that a value stands for."""
    shown = value if isinstance(value, tuple) else (field.kind.show(value),)
    return tuple(dict.fromkeys(title for one in shown if (title := " ".join(one.split()))))


def look_at_reference(library: Library, place: str, key: str, target: str) -> ReferenceConversion:
    """Which entries of a collection the values of a field stand for, and which would have to be made; nothing is changed.

    Raises:
        UserError: such a field cannot become a reference, or not to there.
    """
    source, there = library.place(place), library.place(target)
    field = find_field(source.fields, key)
    if (
        "reference" not in source.nature.field_kinds
        or field.kind.is_fixed
        or field.key == TITLE.key
        or not field.is_writable
    ):
        raise UserError("no-conversion", f"{field.label} cannot become a reference.", "Add a new field instead.")
    if not there.nature.is_referred_to:
        raise UserError("no-reference", f"{there.name} is no collection.", "References lead to collections.")
    titles: dict[str, None] = {}
    total = 0
    for entry in rows_of(source, library.ids_of(source)):
        value = entry.value(key)
        if value is not None:
            total += 1
            titles.update(dict.fromkeys(titles_of(field, value)))
    known = {entry.title.casefold() for entry in rows_of(there, library.ids_of(there))}
    found = tuple(one for one in titles if one.casefold() in known)
    made = tuple({one.casefold(): one for one in titles if one.casefold() not in known}.values())
    return ReferenceConversion(field, there.key, total, found, made)


def make_reference(library: Library, place: str, key: str, target: str) -> None:
    """Makes a field a reference: its values become links to the entries of their titles, which are made where there are none."""
    source = library.place(place)
    field = find_field(source.fields, key)
    values = {
        entry.id: titles_of(field, value)
        for entry in rows_of(source, library.ids_of(source)) if (value := entry.value(key)) is not None
    }  # fmt: skip
    position, number = library.fields.position(source.key, key), library.fields.next_number()
    settings = Settings(field.settings.description, target=library.place(target).key, link=number)
    plan = FieldPlan(key, field.label, "reference", settings=settings)
    back = other_end(library, source, plan)
    source.drop_field(field)
    library.fields.add(number, source.key, plan, position)
    library.fields.add(number + 1, settings.target, back, library.fields.next_position(settings.target))
    library.place(place).follow_columns()
    changed = library.place(place)
    for entry_id, titles in values.items():
        changed.change(entry_id, library.resolve(changed, {key: titles}, entry_id))


def plan_conversion(
    library: Library, place: str, key: str, kind: str, tick: Tick = untold
) -> tuple[Conversion, FieldConversion]:
    """Works a change of kind out and makes its columns, before the step: what does not convert goes into a text field."""
    target = up_to_date(library, place)
    field = find_field(target.fields, key)
    check_kinds(target, field, kind)
    found = outcomes(library, target, field, kind, tick)
    conversion = told(field, kind, found)
    number = library.fields.next_number()
    target.prepare_column(number, kind)
    if not conversion.count_lost:
        return conversion, FieldConversion(field, kind, found, number)
    target.prepare_column(number + 1, "long text")
    rest_key = free_key(library, place, conversion.rest_label)
    return conversion, FieldConversion(field, kind, found, number, number + 1, rest_key, conversion.rest_label)


def change_kind(library: Library, place: str, conversion: FieldConversion) -> None:
    """Converts a field as it was planned."""
    library.place(place).convert(conversion)
    learn_options(library, place, conversion.field.key, conversion.kind, conversion.outcomes)


def learn_options(library: Library, place: str, key: str, kind: str, found: Sequence[Outcome]) -> None:
    """Gives a field that became a choice the options that its values have."""
    if KINDS[kind].has_options:
        names = [name for _, _, new in found for name in ([new] if isinstance(new, str) else new or ())]  # type: ignore[union-attr]
        library.fields.add_options(place, key, names)


def up_to_date(library: Library, place: str) -> Place:
    """The place; a notes folder once all its files as they are now are in its index, which takes its time."""
    target = library.place(place)
    target.refresh()
    return target


def rows_of(place: Place, ids: Sequence[int]) -> Iterator[Entry]:
    """All entries of those ids, without bodies."""
    for start in range(0, len(ids), ROWS_A_TICK):
        yield from place.rows(ids[start : start + ROWS_A_TICK])


def set_options(library: Library, place: str, key: str, options: Sequence[tuple[str, Option | None]]) -> None:
    """Renames, merges, colours, orders and deletes options of a choice, everywhere at once.

    Args:
        options: in their new order, each with the name that it had ("" for a new one); None: it is deleted, and blank in
            the entries that had it. Two with the same new name become one.
    """
    target = up_to_date(library, place)
    field = find_field(target.fields, key)
    renamed = {old: (new.name if new else "") for old, new in options if old and (new is None or new.name != old)}
    merged = tuple({new.name: new for _, new in reversed(options) if new is not None}.values())[::-1]
    library.fields.declare(place, field, options=merged)
    for entry in changed_entries(library, place, field, renamed):
        value = entry.value(key)
        if isinstance(value, tuple):
            names = tuple(dict.fromkeys(renamed.get(name, name) for name in value))
            target.change(entry.id, {key: tuple(name for name in names if name) or None})
        else:
            target.change(entry.id, {key: renamed[str(value)] or None})
    rename_in_views(library, target, key, renamed)


def rename_in_views(library: Library, place: Place, key: str, renamed: dict[str, str]) -> None:
    """Has the views of a place ask for options by their new names."""
    for view in library.views.all(place.key):
        with suppress(MagpieError):
            question = cql.parse(view.question, place.askable)
            changed = Question(with_renamed(question.filter, key, renamed), question.sort, question.groups)
            if changed != question:
                library.views.keep(place.key, view.name, cql.write(changed), view.id)


def changed_entries(library: Library, place: str, field: Field, renamed: dict[str, str]) -> list[Entry]:
    """The entries that have one of some options."""
    target = library.place(place)
    parts: tuple[Node, ...] = tuple(Condition(field, next(iter(field.kind.relations)), name) for name in renamed)
    if not parts:
        return []
    return list(rows_of(target, target.listing(Question(Or(parts) if len(parts) > 1 else parts[0])).ids))


def with_renamed(node: Node | None, key: str, renamed: dict[str, str]) -> Node | None:
    """A filter in which options have their new names."""
    match node:
        case Condition(field, relation, value) if field.key == key and renamed.get(value):
            return Condition(field, relation, renamed[value])
        case And(parts):
            return And(tuple(one for one in (with_renamed(part, key, renamed) for part in parts) if one is not None))
        case Or(parts):
            return Or(tuple(one for one in (with_renamed(part, key, renamed) for part in parts) if one is not None))
        case Not(part):
            inner = with_renamed(part, key, renamed)
            return Not(inner) if inner is not None else None
        case _:
            return node
