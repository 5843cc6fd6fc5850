"""Changing the fields of a place: each function is one undoable step.

Columns are never dropped or renamed while history lives (see schema): a deleted field is blanked and buried, a converted
one gets a new column.
"""

import re
from collections.abc import Sequence
from dataclasses import replace

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import TITLE, Field, FieldPlan, Settings, find_field
from wily_magpie.core.errors import MagpieError, UnreadableValue, UserError
from wily_magpie.core.fields import KINDS, Option
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.conversion import MADE_KINDS, NOTE_KINDS, Conversion, convert
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.library.library import Library
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
        field = find_field(library.fields.of(place), plan.key)
    watch(library, place)
    return field


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
    """Puts the fields into an order."""
    with library.step("Reorder fields"):
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
        library.fields.bury(place, key)
        if field.kind.name == "reference":
            for back in library.fields.of_kind(field.settings.target, "reference"):
                if back.settings.link == field.settings.link:
                    library.fields.bury(field.settings.target, back.key)
    watch(library, place)


def blank_out(library: Library, place: object, field: Field) -> None:
    """Blanks a field in all entries."""
    if not isinstance(place, Collection):
        return
    with library.database.writing() as connection:
        if field.kind.name == "reference":
            connection.execute("DELETE FROM link WHERE number = ?", (field.settings.link,))
        elif field.is_stored:
            column = f'"{field.column}"'
            connection.execute(f"UPDATE {place.table.name} SET {column} = NULL WHERE {column} IS NOT NULL")


def look_at_conversion(library: Library, place: str, key: str, kind: str) -> Conversion:
    """How many values of a field convert to another kind, and which do not; nothing is changed.

    Raises:
        UserError: such a field cannot become one of that kind.
    """
    target = library.place(place)
    field = find_field(target.fields, key)
    check_kinds(place, field, kind)
    good: list[tuple[str, str]] = []
    lost: list[str] = []
    total = converted = 0
    for entry in rows_of(target, library.ids_of(target)):
        value = entry.value(key)
        if value is None:
            continue
        total += 1
        try:
            after = convert(field, kind, value)
            converted += 1
            if len(good) < MOST_EXAMPLES:
                good.append((field.kind.show(value), KINDS[kind].show(after)))
        except UnreadableValue:
            if len(lost) < MOST_EXAMPLES:
                lost.append(field.kind.show(value))
    return Conversion(field, kind, total, converted, total - converted, tuple(good), tuple(lost))


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
    conversion = look_at_conversion(library, place, key, kind)
    field = conversion.field
    target = library.place(place)
    number = library.next_field_number()
    if not isinstance(target, Collection):
        with library.step(f"Make {field.label} a field of the kind {kind}"), library.database.writing() as connection:
            declared(library, place, key)
            sql = "UPDATE field SET kind = ?, options = ? WHERE place = ? AND key = ?"
            connection.execute(sql, (kind, "[]", place, key))
        return conversion  # the text of the files is what is kept; the index reads it anew
    make_column(library, place, number, kind)
    has_rest = conversion.count_lost > 0
    if has_rest:
        make_column(library, place, number + 1, "long text")
    label = f"Make {field.label} a field of the kind {kind}"
    with library.step(label), library.database.writing() as connection:
        position = float(
            str(library.database.one("SELECT position FROM field WHERE place = ? AND key = ?", (place, key)))
        )
        library.fields.bury(place, key)
        plan = FieldPlan(key, field.label, kind, (), replace(field.settings, default=""))
        library.fields.add(number, place, plan, position)
        if has_rest:
            rest_key = free_key(library, place, conversion.rest_label)
            library.fields.add(
                number + 1, place, FieldPlan(rest_key, conversion.rest_label, "long text"), position + 0.5
            )
        names: dict[str, None] = {}
        changes: list[tuple[object, object, int]] = []
        for entry in rows_of(target, library.ids_of(target)):
            value = entry.value(key)
            if value is not None:
                try:
                    new = convert(field, kind, value)
                    names.update(
                        dict.fromkeys([new] if isinstance(new, str) else new if isinstance(new, tuple) else ())
                    )
                    changes.append((KINDS[kind].to_column(new), None, entry.id))
                except UnreadableValue:
                    changes.append((None, field.kind.show(value), entry.id))
        watch(library, place)
        table = target.table.name
        rest = f', "f{number + 1}" = ?2' if has_rest else ""
        connection.executemany(
            f'UPDATE {table} SET "f{number}" = ?1{rest}, "{field.column}" = NULL WHERE id = ?3'
            + ("" if has_rest else " AND ?2 IS NULL"),
            changes,
        )
        if kind in ("choice", "choices"):
            library.add_options(place, key, list(names))
    return conversion


def rows_of(place: Place, ids: Sequence[int]) -> list[Entry]:
    """All entries of those ids, without bodies."""
    return [entry for start in range(0, len(ids), 2_000) for entry in place.rows(ids[start : start + 2_000])]


def set_options(library: Library, place: str, key: str, options: Sequence[tuple[str, Option | None]]) -> None:
    """Renames, merges, colours, orders and deletes options of a choice, everywhere at once.

    Args:
        options: in their new order, each with the name that it had ("" for a new one); None: it is deleted, and blank in
            the entries that had it. Two with the same new name become one.
    """
    field = find_field(library.fields.of(place), key)
    target = library.place(place)
    renamed = {old: (new.name if new else "") for old, new in options if old and (new is None or new.name != old)}
    merged = tuple({new.name: new for _, new in reversed(options) if new is not None}.values())[::-1]
    with library.step(f"Change the options of {field.label}"):
        library.fields.change(place, replace(field, options=merged))
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
