"""Commands that set places up."""

from pathlib import Path

from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.entries.title_pattern import check_pattern
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.api import PlaceInfo, PlaceSettings
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.rules import read_rule
from wily_magpie.core.places.starters import STARTERS, Starter
from wily_magpie.core.templates.propose import FOR_FIELDS, KEYS
from wily_magpie.core.templates.template import Template


@dataclass(frozen=True)
class NewCollection(StepCommand[PlaceInfo]):
    """A collection from a starter, with its views."""

    name: str
    starter: Starter

    def label(self, _library: Library) -> str:
        return f"New collection {self.name}"

    def do(self, library: Library, _progress: Progress) -> PlaceInfo:
        collection = library.add_collection(self.name, self.starter.fields, self.starter.settings)
        for view, question in self.starter.views:
            library.views.keep(collection.key, view, question)
        return collection.info


@dataclass(frozen=True)
class CollectionFor(StepCommand[PlaceInfo]):
    """A new collection with a field for each that a template fills, of the kinds that such fields have in starters."""

    name: str
    template: Template

    def label(self, _library: Library) -> str:
        return f"New collection {self.name}"

    def do(self, library: Library, _progress: Progress) -> PlaceInfo:
        return library.add_collection(self.name, plans_for(self.template)).info


def plans_for(template: Template) -> list[FieldPlan]:
    """A field for each that a template fills, besides the usual ones."""
    plans = [plan_for(key) for key in dict.fromkeys([*template.fields, "address", "captured"])]
    return [plan for plan in plans if plan.key != "title"]


def plan_for(key: str) -> FieldPlan:
    """A field of that key as starters have it, else as pages are read, else a text."""
    known = {plan.key: plan for one in reversed(STARTERS) for plan in one.fields}  # the first starter's word counts
    label = key.replace("_", " ").capitalize()
    read = {KEYS.get(name, name): FieldPlan(KEYS.get(name, name), label, kind) for name, label, kind in FOR_FIELDS}
    return known.get(key) or read.get(key) or FieldPlan(key, label, "text")


@dataclass(frozen=True)
class AddNotesFolder(StepCommand[PlaceInfo]):
    """Takes a folder of Markdown files in as it is."""

    path: Path

    def label(self, _library: Library) -> str:
        return f"New notes folder {self.path.name}"

    def do(self, library: Library, _progress: Progress) -> PlaceInfo:
        path = self.path.expanduser().absolute()
        if not path.is_dir():
            raise UserError("notes-gone", f"{path} is not a folder.", "Choose one that is there.")
        if any(notes.path == path for notes in library.notes_folders()):
            raise UserError(
                "notes-known", f"{path} is a notes folder of this library already.", "It stands among the places."
            )
        return library.add_notes_folder(path.name or str(path), path, ()).info


@dataclass(frozen=True)
class RenamePlace(StepCommand[None]):
    """Gives a place another name."""

    place: str
    name: str

    def label(self, library: Library) -> str:
        return f"Rename {library.place(self.place).name} to {' '.join(self.name.split())}"

    def do(self, library: Library, _progress: Progress) -> None:
        library.rename_place(self.place, self.name)


@dataclass(frozen=True)
class DeletePlace(StepCommand[None]):
    """Takes a place out of the library; undo brings it back with all that is in it."""

    place: str

    def label(self, library: Library) -> str:
        return f"Delete {library.place(self.place).name}"

    def do(self, library: Library, _progress: Progress) -> None:
        library.delete_place(self.place)


@dataclass(frozen=True)
class ChangePlace(StepCommand[None]):
    """Sets description, title pattern and rules; nothing is changed where one of them cannot be understood."""

    place: str
    settings: PlaceSettings

    def label(self, library: Library) -> str:
        return f"Change {library.place(self.place).name}"

    def do(self, library: Library, _progress: Progress) -> None:
        place = library.place(self.place)
        check_pattern(self.settings.title_pattern, place.fields)
        for rule in self.settings.rules:
            read_rule(rule, place.fields)
        if self.settings.title_pattern and not place.nature.has_made_titles:
            raise UserError("bad-pattern", "Titles of notes are written.", "Leave the pattern blank.")
        library.change_place(self.place, self.settings)
