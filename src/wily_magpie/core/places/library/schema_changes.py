"""Changing the fields of a place: each function is one undoable step.

Columns are never dropped or renamed while history lives (see schema): a deleted field is blanked and buried, a converted
one gets a new column.
"""

import re
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import TITLE, Field, FieldPlan, Settings, find_field
from wily_magpie.core.errors import MagpieError, UnreadableValue, UserError
from wily_magpie.core.fields import KINDS, Option, Value
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.conversion import MADE_KINDS, NOTE_KINDS, Conversion, convert
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.places.table import Table
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import And, Condition, Node, Not, Or, Question

MOST_EXAMPLES = 8


def free_key(library: Library, place: str, label: str) -> str:
    """A key made of a label, which no field of the place has."""
    return key_for(label, {"title", "gaps", *(field.key for field in library.fields.of(place))})


def key_for(label: str, taken: set[str]) -> str:
    """A key made of a label: a plain word that is not taken."""
    word = re.sub(r"[\W_]+", "_", label.casefold()).strip("_") or "field"
    return next(key for key in [word, *(f"{word}_{n}" for n in range(2, 10_000))] if key not in taken)


def add_field(library: Library, place: str, plan: FieldPlan) -> Field:
    """A new field at the end; of a reference, its other end too.

    Raises:
        UserError: the label is blank or taken, or the place cannot have such a field.
    """
    label = check_label(library, place, plan.label)
    if place.startswith("notes:") and plan.kind not in NOTE_KINDS:
        raise UserError("no-note-field", f"A note cannot hold a field of the kind {plan.kind}.", "Choose another kind.")
    plan = replace(plan, label=label, key=plan.key or free_key(library, place, label))
    number = library.next_field_number()
    back_label = ""
    if plan.kind == "reference":
        target = library.place(plan.settings.target)
        if not isinstance(target, Collection):
            raise UserError("no-reference", f"{target.name} is no collection.", "References lead to collections.")
        back_label = plan.back_label or library.place(place).name
        while any(one.label.casefold() == back_label.casefold() for one in target.fields):
            back_label += " (back)"
        plan = replace(plan, settings=replace(plan.settings, link=number))
    make_column(library, place, number, plan.kind)
    with library.step(f"New field {label}"):
        library.fields.add(number, place, plan, library.fields.next_position(place))
        if plan.kind == "reference":
            there = plan.settings.target
            back = FieldPlan(
                free_key(library, there, back_label), back_label, "reference",
                settings=Settings(target=place, link=number, is_back=True),
            )  # fmt: skip
            library.fields.add(number + 1, there, back, library.fields.next_position(there))
        watch(library, place)
        return find_field(library.fields.of(place), plan.key)


def make_column(library: Library, place: str, number: int, kind: str) -> None:
    """Gives a collection's table a column, before the step begins: a step records rows, not tables."""
    if place.startswith("collection:") and KINDS[kind].column_type:
        Table(library.database, f"c{place.partition(':')[2]}", place, ()).add_column(
            Field("", "", KINDS[kind], f"f{number}")
        )


def watch(library: Library, place: str) -> None:
    """Lets full text and `chosen` follow all columns that the place ever had."""
    if place.startswith("collection:"):
        name = f"c{place.partition(':')[2]}"
        Table(library.database, name, place, library.fields.of(place)).make_triggers(library.fields.ever(place))


def check_label(library: Library, place: str, label: str, *, except_for: str = "") -> str:
    """A label in its clean form; UserError where it is blank or taken."""
    label = " ".join(label.split())
    if not label:
        raise UserError("field-nameless", "A field needs a name.", "Write one.")
    taken = [field for field in (TITLE, *library.fields.of(place)) if field.key != except_for]
    if any(label.casefold() in (field.label.casefold(), field.key.casefold()) for field in taken):
        raise UserError("field-known", f"There is a field “{label}” already.", "Choose another name.")
    return label


def declared(library: Library, place: str, key: str) -> Field:
    """A field that has a row of its own; one that was only found in the files of notes gets it as part of the step.

    Raises:
        UserError: there is no such field, or nobody can change it.
    """
    known = {field.key: field for field in library.fields.of(place)}
    if key in known:
        return known[key]
    field = find_field(library.place(place).fields, key)
    if field.settings.is_given or field.key in ("title", "gaps"):
        raise UserError("worked-out", f"{field.label} is worked out from elsewhere.", "It cannot be changed here.")
    plan = FieldPlan(field.key, field.label, field.kind.name)
    library.fields.add(library.next_field_number(), place, plan, library.fields.next_position(place))
    return find_field(library.fields.of(place), key)


def change_field(library: Library, place: str, key: str, **changes: object) -> None:
    """Sets label, options or settings (each by its name in Field) of a field."""
    field = find_field(library.place(place).fields, key)
    if "label" in changes:
        changes["label"] = check_label(library, place, str(changes["label"]), except_for=field.key)
    changed = replace(field, **changes)  # type: ignore[arg-type]
    if changed.settings.default:
        changed.kind.take(changed.settings.default)
    is_renamed = changed.label != field.label
    what = f"Rename field {field.label} to {changed.label}" if is_renamed else f"Change field {field.label}"
    with library.step(what):
        library.fields.change(place, replace(declared(library, place, key), **changes))  # type: ignore[arg-type]


def order_fields(library: Library, place: str, keys: Sequence[str]) -> None:
    """Puts the fields into an order; those that were only found in notes have one from then on."""
    with library.step("Reorder fields"):
        for key in keys:
            declared(library, place, key)
        library.fields.order(place, keys)


def delete_field(library: Library, place: str, key: str) -> None:
    """Takes a field out with its values; undo brings both back. Of notes, the files keep it: there it is hidden."""
    target = library.place(place)
    if not isinstance(target, Collection):
        field = find_field(target.fields, key)
        change_field(library, place, key, settings=replace(field.settings, is_hidden=True))
        return
    field = find_field(library.fields.of(place), key)
    with library.step(f"Delete field {field.label}"):
        blank_out(library, target, field)
        library.fields.soft_delete(place, field)


def blank_out(library: Library, collection: Collection, field: Field) -> None:
    """Blanks a field in all entries."""
    with library.database.writing() as connection:
        if field.kind.name == "reference":
            connection.execute("DELETE FROM link WHERE number = ?", (field.settings.link,))
        elif field.is_stored:
            column = f'"{field.column}"'
            connection.execute(f"UPDATE {collection.table.name} SET {column} = NULL WHERE {column} IS NOT NULL")


Outcome = tuple[int, Value, Value]
"""Of one value in a change of kind: the entry's id, what it is, and what it becomes; None: it does not convert."""


def outcomes(library: Library, target: Place, field: Field, kind: str) -> list[Outcome]:
    """What becomes of each value of a field."""
    out: list[Outcome] = []
    for entry in rows_of(target, library.ids_of(target)):
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
    check_kinds(place, field, kind)
    return told(field, kind, outcomes(library, target, field, kind))


def check_kinds(place: str, field: Field, kind: str) -> None:
    """UserError where no value of a field could convert."""
    fixed = ("files", "reference", "summary", "gaps")
    known = NOTE_KINDS if place.startswith("notes:") else MADE_KINDS
    if kind not in known or kind in fixed or field.kind.name in fixed or field.key == "title":
        raise UserError(
            "no-conversion",
            f"{field.label} ({field.kind.name}) cannot become a field of the kind {kind}.",
            "Add a new field instead.",
        )


def change_kind(library: Library, place: str, key: str, kind: str) -> Conversion:
    """Converts a field: it gets a new column; what does not convert is kept in a text field beside it."""
    target = up_to_date(library, place)
    field = find_field(target.fields, key)
    check_kinds(place, field, kind)
    found = outcomes(library, target, field, kind)
    conversion = told(field, kind, found)
    label = f"Make {field.label} a field of the kind {kind}"
    if not isinstance(target, Collection):
        with library.step(label), library.database.writing() as connection:
            declared(library, place, key)
            sql = "UPDATE field SET kind = ?, options = ? WHERE place = ? AND key = ?"
            connection.execute(sql, (kind, "[]", place, key))
            learn_options(library, place, key, kind, found)
        return conversion  # the text of the files is what is kept; the index reads it anew
    number, rest = library.next_field_number(), None
    make_column(library, place, number, kind)
    if conversion.count_lost:
        rest = number + 1
        make_column(library, place, rest, "long text")
    with library.step(label):
        position = library.fields.position(place, key)
        library.fields.soft_delete(place, field)
        library.fields.add(
            number, place, FieldPlan(key, field.label, kind, (), replace(field.settings, default="")), position
        )
        if rest is not None:
            rest_key = free_key(library, place, conversion.rest_label)
            library.fields.add(rest, place, FieldPlan(rest_key, conversion.rest_label, "long text"), position + 0.5)
        watch(library, place)
        move_values(library, target, field, kind, number, rest, found)
        learn_options(library, place, key, kind, found)
    return conversion


def learn_options(library: Library, place: str, key: str, kind: str, found: Sequence[Outcome]) -> None:
    """Gives a field that became a choice the options that its values have."""
    if kind in ("choice", "choices"):
        names = [name for _, _, new in found for name in ([new] if isinstance(new, str) else new or ())]  # type: ignore[union-attr]
        library.add_options(place, key, names)


def move_values(
    library: Library,
    target: Collection,
    field: Field,
    kind: str,
    number: int,
    rest: int | None,
    found: Sequence[Outcome],
) -> None:
    """Puts converted values into their new column and the others, as text, into that of the rest."""
    new, old = KINDS[kind], field.kind
    rows = [(new.to_column(after), None if after is not None else old.show(before), i) for i, before, after in found]
    more = f', "f{rest}" = ?2' if rest is not None else ""
    sql = f'UPDATE {target.table.name} SET "f{number}" = ?1{more}, "{field.column}" = NULL WHERE id = ?3'
    with library.database.writing() as connection:
        connection.executemany(sql, rows)


def up_to_date(library: Library, place: str) -> Place:
    """The place; a notes folder once all its files as they are now are in its index, which takes its time."""
    target = library.place(place)
    if isinstance(target, NotesFolder):
        target.refresh()
    return target


def rows_of(place: Place, ids: Sequence[int]) -> list[Entry]:
    """All entries of those ids, without bodies."""
    return [entry for start in range(0, len(ids), 2_000) for entry in place.rows(ids[start : start + 2_000])]


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
    with library.step(f"Change the options of {field.label}"):
        library.fields.change(place, replace(declared(library, place, key), options=merged))
        for entry in changed_entries(library, place, field, renamed):
            value = entry.value(key)
            if isinstance(value, tuple):
                names = tuple(dict.fromkeys(renamed.get(name, name) for name in value))
                target.change(entry.id, {key: tuple(name for name in names if name) or None})
            else:
                target.change(entry.id, {key: renamed[str(value)] or None})
        for view in library.views(place):
            try:
                question = cql.parse(view.question, target.fields)
            except MagpieError:
                continue
            told = Question(with_renamed(question.filter, key, renamed), question.sort, question.group)
            if told != question:
                library.keep_view(place, view.name, cql.write(told), view.id)


def changed_entries(library: Library, place: str, field: Field, renamed: dict[str, str]) -> list[Entry]:
    """The entries that have one of some options."""
    target = library.place(place)
    parts: tuple[Node, ...] = tuple(Condition(field, next(iter(field.kind.relations)), name) for name in renamed)
    if not parts:
        return []
    return rows_of(target, target.listing(Question(Or(parts) if len(parts) > 1 else parts[0])).ids)


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
