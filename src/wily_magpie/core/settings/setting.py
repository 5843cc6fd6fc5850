"""One setting: its kind is a kind of field, so that it is read, shown and edited like any value."""

from collections.abc import Callable

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.fields import FieldKind, Option, Value


@dataclass(frozen=True)
class Setting:
    """See the module.

    Attributes:
        name: stable, as it stands in the file.
        title: what people see; about: a sentence that says what it does.
        default: what holds where nothing is set.
        choices: of a choice, all that there are.
        least, most: of a number; check: of a text, raises UserError where it may not be so.
    """

    name: str
    title: str
    about: str
    kind: FieldKind
    default: Value
    choices: tuple[str, ...] = ()
    least: float = 0
    most: float = 1_000_000
    check: Callable[[str], object] | None = None

    @property
    def field(self) -> Field:
        """As a field, for its editor."""
        return Field(self.name, self.title, self.kind, "", tuple(Option(name) for name in self.choices))

    def read(self, text: str) -> Value:
        """The value that a text means; the default for a blank one.

        Raises:
            UserError: it means none; the setting and what it may be are told.
        """
        try:
            value = self.kind.read(text)
        except UnreadableValue as error:
            raise UserError("bad-setting", f"{self.title}: {error.message}", error.way_out) from error
        if value is None:
            return self.default
        if self.choices and value not in self.choices:
            raise UserError(
                "bad-setting", f"{self.title} cannot be “{text}”.", f"It can be: {', '.join(self.choices)}."
            )
        if self.check is not None and isinstance(value, str):
            self.check(value)
        if isinstance(value, float) and not self.least <= value <= self.most:
            raise UserError(
                "bad-setting", f"{self.title} cannot be {text}.", f"It can be {self.least:g} to {self.most:g}."
            )
        return value


def find_setting(settings: tuple[Setting, ...], name: str) -> Setting:
    """The setting of that name.

    Raises:
        UserError: there is none.
    """
    found = next((one for one in settings if one.name == name), None)
    if found is None:
        there = ", ".join(one.name for one in settings)
        raise UserError("bad-setting", f"There is no setting “{name}”.", f"There are: {there}.")
    return found
