"""A field of a place."""

from collections.abc import Iterable

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import KINDS, FieldKind, Option, Value
from wily_magpie.core.fields.summary import Measure


@dataclass(frozen=True)
class SummaryPlan:
    """What a summary looks at.

    Attributes:
        over: key of a reference of the same collection.
        measure: what it makes of the entries there.
        of: key of the field of those entries that it looks at; "" for count and share.
        where: CQL that those entries must meet; of a share, the condition that counts; "" for all.
    """

    over: str
    measure: Measure = Measure.COUNT
    of: str = ""
    where: str = ""


@dataclass(frozen=True)
class Settings:
    """What a person has said of a field beyond its kind; what does not belong to its kind stays at its default.

    Attributes:
        description: shown where the field is filled in.
        is_given: whether it comes from elsewhere (of a note: its folder, the tags in its text) and nobody writes it here.
        is_hidden: whether tables and panels leave it out until it is asked for.
        default: the text of its value in a new entry, or "".
        precision: decimals that a number or amount is shown with; None: as many as it has.
        target: of a reference, the key of the collection that it leads to.
        link: of a reference, the number that both of its ends share.
        is_back: whether this is the other end, made with the reference.
        summary: of a summary.
    """

    description: str = ""
    is_given: bool = False
    is_hidden: bool = False
    default: str = ""
    precision: int | None = None
    target: str = ""
    link: int = 0
    is_back: bool = False
    summary: SummaryPlan | None = None

    @property
    def ends(self) -> tuple[str, str]:
        """Of a reference: the columns of `link` that hold this end and the other one."""
        return ("target", "source") if self.is_back else ("source", "target")


USUAL = Settings()
IN_FOLDER = "in_folder"
"""The key of the field that says in which folder a note lies; nobody writes it but who makes the note."""


@dataclass(frozen=True)
class Field:
    """A typed column of a collection, or a key of a notes folder's front matter.

    Attributes:
        key: stable name in queries, templates and files; never changes.
        label: what a person sees; may change.
        kind: one of KINDS, or a summary with a result of its own.
        column: its SQL column; never changes.
        options: of a choice, in their order.
        computed_sql: an SQL expression in brackets for what has no column; it names its table.
        order: what such a field is sorted by, where that is not the expression.
    """

    key: str
    label: str
    kind: FieldKind
    column: str
    options: tuple[Option, ...] = ()
    settings: Settings = USUAL
    computed_sql: str = ""
    order: str = ""
    through: "Field | None" = None
    """A reference, where this is a field of the entries that it leads to: it is only asked for."""

    @property
    def sql(self) -> str:
        """Its value in SQL."""
        return self.computed_sql or f'"{self.column}"'

    @property
    def is_stored(self) -> bool:
        """Whether it has a column of its own."""
        return bool(self.kind.column_type)

    @property
    def is_writable(self) -> bool:
        """Whether a person can set it."""
        return (self.is_stored and not self.settings.is_given) or self.kind.is_linked

    @property
    def can_be_lanes(self) -> bool:
        """Whether an entry can be moved among its values: a choice, yes or no, a reference."""
        return self.is_writable and (self.kind.has_spine or bool(self.kind.fixed_texts) or self.kind.is_linked)

    def option(self, name: str) -> Option | None:
        """The option of that name."""
        return next((option for option in self.options if option.name == name), None)

    def shown(self, value: Value) -> str:
        """A value as it is looked at: with the precision of the field and groups of three figures."""
        precision = self.settings.precision
        if precision is None or value is None or not self.kind.has_precision:
            return self.kind.looked_at(value)
        number, _, unit = (str(value) if not isinstance(value, float) else repr(value)).partition(" ")
        try:
            return f"{float(number):,.{precision}f} {unit}".strip()
        except ValueError:
            return self.kind.show(value)


@dataclass(frozen=True)
class FieldPlan:
    """A field that is to be made."""

    key: str
    label: str
    kind: str
    options: tuple[Option, ...] = ()
    settings: Settings = USUAL
    back_label: str = ""
    """Of a reference: what its other end is called; "" for the name of the collection that it stands in."""


TITLE = Field("title", "Title", KINDS["text"], "title")
"""Every place has a title, in a column of its own."""


def find_field(fields: Iterable[Field], name: str) -> Field:
    """The field of that key or label.

    Raises:
        UserError: there is none; the nearest name is told.
    """
    known = list(fields)
    wanted = name.casefold().strip()
    for field in known:
        if wanted in (field.key.casefold(), field.label.casefold()):
            return field
    from difflib import get_close_matches  # here, since it takes long to load

    near = get_close_matches(wanted, [field.key for field in known], n=1, cutoff=0.5)
    hint = f"Did you mean “{near[0]}”?" if near else "There are: " + ", ".join(field.key for field in known) + "."
    raise UserError("unknown-field", f"There is no field “{name}” here.", hint)
