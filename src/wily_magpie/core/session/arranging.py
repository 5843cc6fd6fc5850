"""Setting places up: collections, their fields and rules, tables taken in from files. Each command is one undoable step."""

from collections.abc import Sequence
from contextlib import suppress
from functools import partial
from typing import TYPE_CHECKING

from wily_magpie.core.entries.entry import Draft
from wily_magpie.core.entries.field import Field, FieldPlan
from wily_magpie.core.entries.title_pattern import check_pattern
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.fields import KINDS, Option, Value
from wily_magpie.core.places.api import Place, PlaceSettings
from wily_magpie.core.places.conversion import Conversion
from wily_magpie.core.places.library import schema_changes
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.places.rules import read_rule
from wily_magpie.core.places.sheet import Sheet
from wily_magpie.core.places.starters import STARTERS, Starter
from wily_magpie.core.session.events import EntriesChanged, HistoryChanged, PlacesChanged
from wily_magpie.core.templates.propose import FOR_FIELDS, KEYS
from wily_magpie.core.templates.template import Template

if TYPE_CHECKING:
    from wily_magpie.core.session.jobs import Job
    from wily_magpie.core.session.session import Session

SKIPPED = ""
"""The kind of a column that is not taken in."""
ROWS_A_TICK, ROWS_A_BATCH = 500, 2_000


class Arranging:
    """The part of a session that sets places up."""

    def __init__(self, session: "Session") -> None:
        self.session = session
        self.library = session.library

    def tell(self, *places: str) -> None:
        """Everybody who shows places has to look again."""
        self.session.publish(PlacesChanged(), *(EntriesChanged(place) for place in places), HistoryChanged())
        for key in places:
            if key.startswith("notes:"):  # its index is made anew where fields are others now
                name = self.session.place(key).name
                self.session.jobs.start(f"Reading {name}", partial(self.session.refresh_notes, key))

    # places

    def new_collection(self, name: str, starter: Starter) -> Place:
        """A collection from a starter, with its views."""
        with self.library.step(f"New collection {name}"):
            collection = self.library.add_collection(name, starter.fields, starter.settings)
            for view, question in starter.views:
                self.library.keep_view(collection.key, view, question)
        self.tell()
        return collection

    def collection_for(self, name: str, template: Template) -> Place:
        """A new collection with a field for each that a template fills, of the kinds that such fields have in starters."""
        usual = ("address", "captured")
        plans = [self.plan_for(key) for key in dict.fromkeys([*template.fields, *usual])]
        with self.library.step(f"New collection {name}"):
            collection = self.library.add_collection(name, [plan for plan in plans if plan.key != "title"])
        self.tell()
        return collection

    @staticmethod
    def plan_for(key: str) -> FieldPlan:
        """A field of that key as starters have it, else as pages are read, else a text."""
        known = {plan.key: plan for one in reversed(STARTERS) for plan in one.fields}  # the first starter's word counts
        label = key.replace("_", " ").capitalize()
        read = {KEYS.get(name, name): FieldPlan(KEYS.get(name, name), label, kind) for name, label, kind in FOR_FIELDS}
        return known.get(key) or read.get(key) or FieldPlan(key, label, "text")

    def rename_place(self, key: str, name: str) -> None:
        """Gives a place another name."""
        self.library.rename_place(key, name)
        self.tell(key)

    def delete_place(self, key: str) -> None:
        """Takes a place out of the library; undo brings it back with all that is in it."""
        self.library.delete_place(key)
        self.tell()

    def change_place(self, key: str, settings: PlaceSettings) -> None:
        """Sets description, title pattern and rules.

        Raises:
            UserError: a rule or the pattern cannot be understood; nothing is changed.
        """
        place = self.session.place(key)
        check_pattern(settings.title_pattern, place.fields)
        for rule in settings.rules:
            read_rule(rule, place.fields)
        if settings.title_pattern and not isinstance(place, Collection):
            raise UserError("bad-pattern", "Titles of notes are written.", "Leave the pattern blank.")
        self.library.change_place(key, settings)
        self.tell(key)

    # fields

    def add_field(self, place: str, plan: FieldPlan) -> Field:
        """A new field at the end of a place's."""
        field = schema_changes.add_field(self.library, place, plan)
        self.tell(place)
        return field

    def change_field(self, place: str, key: str, **changes: object) -> None:
        """Sets label, options or settings of a field."""
        schema_changes.change_field(self.library, place, key, **changes)
        self.tell(place)

    def order_fields(self, place: str, keys: Sequence[str]) -> None:
        """Puts fields into an order."""
        schema_changes.order_fields(self.library, place, keys)
        self.tell(place)

    def delete_field(self, place: str, key: str) -> None:
        """Takes a field out."""
        schema_changes.delete_field(self.library, place, key)
        self.tell(place)

    def set_options(self, place: str, key: str, options: Sequence[tuple[str, Option | None]]) -> None:
        """Renames, merges, colours, orders, deletes options everywhere at once."""
        schema_changes.set_options(self.library, place, key, options)
        self.tell(place)

    def look_at_conversion(self, place: str, key: str, kind: str) -> Conversion:
        """What a change of kind would do."""
        return schema_changes.look_at_conversion(self.library, place, key, kind)

    def change_kind(self, place: str, key: str, kind: str) -> Conversion:
        """Converts a field to another kind."""
        conversion = schema_changes.change_kind(self.library, place, key, kind)
        self.tell(place)
        return conversion

    # tables from files

    def take_in(
        self, sheet: Sheet, kinds: Sequence[str], name: str, job: "Job | None" = None
    ) -> tuple[Place, list[str]]:
        """A new collection from a sheet, as one step, and what could not be read of it.

        Args:
            kinds: of each column; "title" for one of them, SKIPPED for those that are left out.

        What does not fit its column's kind is kept in a text field beside it.
        """
        title = next((n for n, kind in enumerate(kinds) if kind == "title"), None)
        used = [n for n, kind in enumerate(kinds) if kind not in (SKIPPED, "title")]
        failed = misfits(sheet, kinds)
        plans, keys, rest_keys = [], {}, {}
        taken: set[str] = {"title", "gaps"}
        for n in used:
            keys[n] = schema_changes.key_for(sheet.names[n], taken)
            taken.add(keys[n])
            plans.append(FieldPlan(keys[n], label_of(sheet.names[n]), kinds[n]))
            if n in failed:
                rest_keys[n] = schema_changes.key_for(f"{sheet.names[n]} as text", taken)
                taken.add(rest_keys[n])
                plans.append(FieldPlan(rest_keys[n], f"{label_of(sheet.names[n])} (as text)", "long text"))
        with self.library.step(f"Take in {name}"):
            place = self.library.add_collection(name, plans)
            names: dict[str, dict[str, None]] = {}
            drafts: list[Draft] = []
            for number, row in enumerate(sheet.rows):
                if job and number % ROWS_A_TICK == 0:
                    job.step(number, len(sheet.rows))
                values: dict[str, Value] = {}
                for n in used:
                    try:
                        value = KINDS[kinds[n]].take(row[n])[0]
                    except UnreadableValue:
                        values[rest_keys[n]] = row[n].strip()
                        continue
                    values[keys[n]] = value
                    if kinds[n] in ("choice", "choices") and value is not None:
                        names.setdefault(keys[n], {}).update(
                            dict.fromkeys(
                                [value] if isinstance(value, str) else value if isinstance(value, tuple) else ()
                            )
                        )
                text = row[title].strip() if title is not None else ""
                drafts.append(Draft(" ".join(text.split()) or f"Row {number + 1}", values))
                if len(drafts) == ROWS_A_BATCH:
                    place.add_all(drafts)
                    drafts = []
            place.add_all(drafts)
            for key, options in names.items():
                self.library.add_options(place.key, key, list(options))
        self.tell(place.key)
        told = [
            f"{len(rows)} of {len(sheet.rows)} in “{sheet.names[n]}” are no {kinds[n]}; they are kept as text."
            for n, rows in failed.items()
        ]
        return self.session.place(place.key), [*sheet.faults, *told]

    # the trash

    def restore(self, trash_ids: Sequence[int]) -> list[str]:
        """Puts things back from the trash; the titles of those that cannot be, since their place is gone."""
        lost = []
        trash = self.library.trash
        there = {one.id: one for one in trash.all()}
        changed: dict[str, None] = {}
        what = f"{len(trash_ids)} entries" if len(trash_ids) != 1 else f"“{there[trash_ids[0]].title}”"
        with self.library.step(f"Restore {what}"):
            for trash_id in trash_ids:
                one = there[trash_id]
                place = None
                with suppress(UserError):
                    place = self.session.place(one.place)
                if isinstance(place, Collection):
                    trash.restore_row(trash_id, place.table.name, place.number)
                elif isinstance(place, NotesFolder):
                    path, content = trash.note(trash_id)
                    place.bring_back(path, content)
                    trash.drop([trash_id])
                else:
                    lost.append(one.title)
                    continue
                changed[one.place] = None
        self.tell(*changed)
        return lost

    def empty_trash(self) -> int:
        """Throws all away that is in the trash; how many they were. Undo still brings it back, for as long as it reaches."""
        count = len(self.library.trash.all())
        if count:
            with self.library.step("Empty the trash"):
                self.library.trash.drop()
            self.session.publish(HistoryChanged())
        return count


def misfits(sheet: Sheet, kinds: Sequence[str]) -> dict[int, set[int]]:
    """The rows, by their columns, whose cells cannot be kept as the kinds chosen; columns without such are left out."""
    out: dict[int, set[int]] = {}
    for column, kind in enumerate(kinds):
        for row, cells in enumerate(sheet.rows) if kind not in (SKIPPED, "title") else ():
            try:
                KINDS[kind].take(cells[column])
            except UnreadableValue:
                out.setdefault(column, set()).add(row)
    return out


def label_of(name: str) -> str:
    """A column's name as a label."""
    return "Title (column)" if name.casefold() == "title" else name
