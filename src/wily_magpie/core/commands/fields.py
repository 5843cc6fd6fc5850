"""Commands over the fields of a place."""

from collections.abc import Mapping, Sequence

from wily_magpie.core.commands.command import Command, Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field, FieldPlan, find_field
from wily_magpie.core.fields import Option
from wily_magpie.core.places.conversion import Conversion
from wily_magpie.core.places.library import schema_changes
from wily_magpie.core.places.library.library import Library


class FieldCommand(StepCommand[None]):
    """What commands over one field have in common."""

    place: str
    key: str

    def field_label(self, library: Library) -> str:
        """What the field is called now."""
        return find_field(library.place(self.place).fields, self.key).label


@dataclass(frozen=True)
class AddField(Command[Field]):
    """A new field at the end of a place's; of a reference, its other end too."""

    place: str
    plan: FieldPlan

    def label(self, _library: Library) -> str:
        return f"New field {' '.join(self.plan.label.split())}"

    def perform(self, library: Library, progress: Progress) -> Field:
        planned = schema_changes.plan_field(library, self.place, self.plan)
        with library.step(self.label(library), progress.close):
            return schema_changes.add_field(library, planned)


@dataclass(frozen=True)
class ChangeField(FieldCommand):
    """Sets label, options or settings of a field.

    Attributes:
        changes: by their names in Field.
    """

    place: str
    key: str
    changes: Mapping[str, object]

    def label(self, library: Library) -> str:
        before, after = self.field_label(library), " ".join(str(self.changes.get("label", "")).split())
        return f"Rename field {before} to {after}" if after not in ("", before) else f"Change field {before}"

    def do(self, library: Library, _progress: Progress) -> None:
        schema_changes.change_field(library, self.place, self.key, self.changes)


@dataclass(frozen=True)
class OrderFields(StepCommand[None]):
    """Puts fields into an order."""

    place: str
    keys: Sequence[str]

    def label(self, _library: Library) -> str:
        return "Reorder fields"

    def do(self, library: Library, _progress: Progress) -> None:
        schema_changes.order_fields(library, self.place, self.keys)


@dataclass(frozen=True)
class DeleteField(FieldCommand):
    """Takes a field out; of notes, the files keep it."""

    place: str
    key: str

    def label(self, library: Library) -> str:
        return f"Delete field {self.field_label(library)}"

    def do(self, library: Library, _progress: Progress) -> None:
        schema_changes.delete_field(library, self.place, self.key)


@dataclass(frozen=True)
class SetOptions(FieldCommand):
    """Renames, merges, colours, orders, deletes options everywhere at once.

    Attributes:
        options: in their new order, each with the name that it had ("" for a new one); None: it is deleted.
    """

    place: str
    key: str
    options: Sequence[tuple[str, Option | None]]

    def label(self, library: Library) -> str:
        return f"Change the options of {self.field_label(library)}"

    def do(self, library: Library, _progress: Progress) -> None:
        schema_changes.set_options(library, self.place, self.key, self.options)


@dataclass(frozen=True)
class ChangeKind(Command[Conversion]):
    """Converts a field to another kind; what does not convert is kept in a text field beside it."""

    place: str
    key: str
    kind: str

    def label(self, library: Library) -> str:
        field = find_field(library.place(self.place).fields, self.key)
        return f"Make {field.label} a field of the kind {self.kind}"

    def perform(self, library: Library, progress: Progress) -> Conversion:
        told, planned = schema_changes.plan_conversion(library, self.place, self.key, self.kind, progress.tick)
        with library.step(self.label(library), progress.close):
            schema_changes.change_kind(library, self.place, planned)
        return told


@dataclass(frozen=True)
class MakeReference(StepCommand[None]):
    """Makes a field a reference to a collection: each value a link to the entry of that title, made where there is none."""

    place: str
    key: str
    target: str

    def label(self, library: Library) -> str:
        field = find_field(library.place(self.place).fields, self.key)
        return f"Make {field.label} a reference to {library.place(self.target).name}"

    def do(self, library: Library, _progress: Progress) -> None:
        schema_changes.look_at_reference(library, self.place, self.key, self.target)  # says what cannot be
        schema_changes.make_reference(library, self.place, self.key, self.target)
