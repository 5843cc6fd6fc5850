"""Commands over views and layouts."""

from itertools import count

from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.commands.entries import named, set_values
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import find_field
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.entries.typed import typed
from wily_magpie.core.entries.view import View
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question


@dataclass(frozen=True)
class KeepView(StepCommand[int]):
    """Keeps a question as a view, or changes what the view of that id asks; its id.

    Attributes:
        name: of a new view; one that is there keeps the name that it has by now.
        layout: how its answer is looked at; None: as it was, or as the place is.
    """

    place: str
    name: str
    question: Question
    view_id: int | None = None
    layout: Layout | None = None

    def label(self, _library: Library) -> str:
        return f"Keep view “{self.name}”"

    def do(self, library: Library, _progress: Progress) -> int:
        question = cql.write(library.views.identified(self.question))
        there = view_now(library, self.place, self.view_id)
        name = there.name if there is not None else self.name
        return library.views.keep(self.place, name, question, self.view_id, self.layout)


@dataclass(frozen=True)
class RenameView(StepCommand[None]):
    """Gives a view another name; what it asks by now stays."""

    view: View
    name: str

    def label(self, _library: Library) -> str:
        return f"Rename view “{self.view.name}”"

    def do(self, library: Library, _progress: Progress) -> None:
        there = view_now(library, self.view.place, self.view.id) or self.view
        library.views.keep(self.view.place, self.name, there.question, self.view.id)


def view_now(library: Library, place: str, number: int | None) -> View | None:
    """The view of that number as it is by now, which may be otherwise than the window has seen it."""
    return next((one for one in library.views.all(place) if one.id == number), None)


@dataclass(frozen=True)
class DeleteView(StepCommand[None]):
    """Takes a view out; the entries stay."""

    view: View

    def label(self, _library: Library) -> str:
        return f"Delete view “{self.view.name}”"

    def do(self, library: Library, _progress: Progress) -> None:
        library.views.delete(self.view.id)


@dataclass(frozen=True)
class SetLayout(StepCommand[None]):
    """Sets how a view is looked at; without a view, how its place is."""

    place: str
    view_id: int | None
    layout: Layout

    def label(self, library: Library) -> str:
        names = [view.name for view in library.views.all(self.place) if view.id == self.view_id]
        return f"Arrange “{names[0] if names else library.place(self.place).name}”"

    def do(self, library: Library, _progress: Progress) -> None:
        if self.view_id is None:
            library.set_layout(self.place, self.layout)
        else:
            library.views.set_layout(self.view_id, self.layout)


@dataclass(frozen=True)
class MoveToLane(StepCommand[None]):
    """Gives entries the value of a lane, and puts them into the order of a person's hand where they are put somewhere.

    Attributes:
        key: of the field whose values the lanes are. text: the value, "" for blank.
        view_id, layout: of what the order is kept with; None where no order is.
    """

    place: str
    ids: tuple[int, ...]
    key: str
    text: str
    view_id: int | None = None
    layout: Layout | None = None

    def label(self, library: Library) -> str:
        return f"Move {named(library, self.place, self.ids)} to {self.text or 'blank'}"

    def do(self, library: Library, _progress: Progress) -> None:
        place = library.place(self.place)
        field = find_field(place.fields, self.key)
        there = {entry.id: field.kind.show(entry.value(field.key)) for entry in place.rows(self.ids)}
        value, _ = typed(field, self.text, place.settings.title_pattern)
        changes = {one: {field.key: value} for one in self.ids if there.get(one) != self.text}
        if changes:
            set_values(library, place, changes)
        if self.layout is None:
            return
        if self.view_id is None:
            library.set_layout(self.place, self.layout)
        else:
            library.views.set_layout(self.view_id, self.layout)


@dataclass(frozen=True)
class CopyView(StepCommand[int]):
    """Makes a second view of the same question and layout; its id."""

    view: View

    def label(self, _library: Library) -> str:
        return f"Copy view “{self.view.name}”"

    def do(self, library: Library, _progress: Progress) -> int:
        there = view_now(library, self.view.place, self.view.id) or self.view
        taken = {one.name.casefold() for one in library.views.all(there.place)}
        names = (f"{there.name} {number}" for number in count(2))
        name = next(one for one in names if one.casefold() not in taken)
        made = library.views.keep(there.place, name, there.question, None, there.layout)
        ids = [one.id for one in library.views.all(there.place) if one.id != made]
        at = ids.index(there.id) + 1 if there.id in ids else len(ids)
        library.views.order([*ids[:at], made, *ids[at:]])
        return made


@dataclass(frozen=True)
class OrderViews(StepCommand[None]):
    """Puts the views of a place into an order."""

    place: str
    ids: tuple[int, ...]

    def label(self, library: Library) -> str:
        return f"Order the views of {library.place(self.place).name}"

    def do(self, library: Library, _progress: Progress) -> None:
        library.views.order(self.ids)
