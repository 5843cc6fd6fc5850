"""The fields over all templates: which is filled by which, and what leads nowhere; a part of the session."""

from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from wily_magpie.core.entries.field import find_field
from wily_magpie.core.errors import UserError
from wily_magpie.core.templates.open_form import to_json
from wily_magpie.core.templates.rules import Rule

if TYPE_CHECKING:
    from wily_magpie.core.places.api import Place
    from wily_magpie.core.session.session import Session

Rules = Mapping[str, Rule]


@dataclass(frozen=True)
class FieldUse:
    """A field of a place that templates write to, or one that they name and no place has.

    Attributes:
        templates: names of those that have a rule for it.
    """

    place: str
    place_name: str
    key: str
    label: str
    templates: tuple[str, ...]
    is_there: bool


class FieldUses:
    """See the module; each command is one undoable step."""

    def __init__(self, session: "Session") -> None:
        self.session = session
        self.library = session.library

    def all(self) -> list[FieldUse]:
        """All fields of the places that templates write to, and those that rules name and no place has."""
        templates = self.session.templates()
        users: dict[tuple[str, str], list[str]] = {}
        places: dict[str, Place | None] = {}
        for template in templates:
            try:
                place: Place | None = self.session.templating.place_of(template)
            except UserError:
                place = None
            where = place.key if place is not None else template.writes
            places[where] = place
            set_too = [key for key, given in (("status", template.status), ("tags", template.tags)) if given]
            for key in dict.fromkeys((*template.fields, *set_too)):
                users.setdefault((where, key), []).append(template.name)
        out = []
        for where, place in places.items():
            fields = [one for one in place.fields[1:] if one.is_writable] if place is not None else []
            name = place.name if place is not None else where
            out += [FieldUse(where, name, f.key, f.label, tuple(users.pop((where, f.key), ())), True) for f in fields]
            lost = [key for there, key in list(users) if there == where]
            out += [FieldUse(where, name, key, key, tuple(users.pop((where, key))), False) for key in lost]
        return out

    def drop(self, place: str, key: str) -> None:
        """Takes the rules for a field out of all templates that write to a place."""
        self.change(place, f"Remove the rules for {key}", lambda fields: {k: r for k, r in fields.items() if k != key})

    def rename(self, place: str, key: str, new: str) -> None:
        """Lets the rules for a field fill another one, in all templates that write to a place.

        Raises:
            UserError: the place has no such field.
        """
        wanted = find_field(self.session.place(place).fields, new).key
        self.change(place, f"Rename {key} to {wanted}", lambda fields: renamed(fields, key, wanted))

    def change(self, place: str, label: str, change: Callable[[Rules], Rules]) -> None:
        with self.library.step(label):
            for template in self.session.templates():
                where = template.writes
                with suppress(UserError):
                    where = self.session.templating.place_of(template).key
                if where == place and (fields := change(template.fields)) != template.fields:
                    self.library.templates.put(template.name, to_json(replace(template, fields=fields)))
        self.session.templating.tell()


def renamed(fields: Rules, key: str, new: str) -> Rules:
    """Rules by their keys, one of which is another now; a rule that the new field has already stays."""
    if key not in fields:
        return dict(fields)
    return {(new if k == key else k): rule for k, rule in fields.items() if k != key or new not in fields}
