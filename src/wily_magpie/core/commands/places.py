"""Commands that set places up."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from wily_magpie.core.commands.command import Command, Progress, StepCommand
from wily_magpie.core.commands.living import follow_name
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import FieldPlan, find_field
from wily_magpie.core.entries.roles import NOTHING, ROLES, with_role
from wily_magpie.core.entries.title_pattern import check_pattern
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.api import PlaceInfo, PlaceSettings
from wily_magpie.core.places.atomic import make_folder
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.rules import read_rule
from wily_magpie.core.places.starters import Starter


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
class PlaceFor(StepCommand[PlaceInfo]):
    """A new place for pages like one that was seen, with the fields that were chosen for it.

    Attributes:
        folder: of a notes folder, which is made where it is not there; None: a collection.
    """

    name: str
    plans: Sequence[FieldPlan]
    folder: Path | None = None

    def label(self, _library: Library) -> str:
        return f"New {'collection' if self.folder is None else 'notes folder'} {self.name}"

    def do(self, library: Library, _progress: Progress) -> PlaceInfo:
        if self.folder is None:
            return library.add_collection(self.name, list(self.plans)).info
        path = self.folder.expanduser().absolute()
        need_narrow(path)
        need_free(library, path)
        make_folder(path)
        return library.add_notes_folder(self.name, path, tuple(self.plans)).info


SYSTEM = frozenset(
    map(Path, ("/", "/bin", "/boot", "/dev", "/etc", "/lib", "/proc", "/run", "/sbin", "/sys", "/usr", "/var"))
)
"""Folders of the system, in which nobody's notes lie."""


def need_narrow(path: Path) -> None:
    """Raises UserError where a folder is one of the system, or all of the disk."""
    if path.resolve() in SYSTEM:
        raise UserError(
            "notes-too-wide", f"{path} is a folder of the system.", "Choose the folder in which your notes lie."
        )


def need_free(library: Library, path: Path) -> None:
    """Raises UserError where a folder is a notes folder already."""
    if any(notes.path == path for notes in library.notes_folders()):
        raise UserError(
            "notes-known", f"{path} is a notes folder of this library already.", "It stands among the places."
        )


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
        need_narrow(path)
        need_free(library, path)
        return library.add_notes_folder(path.name or str(path), path, ()).info


@dataclass(frozen=True)
class UseFolder(Command[PlaceInfo]):
    """The person says that a notes folder, which a library of somebody else or of another machine names, is to be used."""

    place: str

    def label(self, library: Library) -> str:
        return f"Use the folder of {library.place(self.place).name}"

    def perform(self, library: Library, _progress: Progress) -> PlaceInfo:
        return library.use_folder(self.place).info


@dataclass(frozen=True)
class RenamePlace(StepCommand[None]):
    """Gives a place another name."""

    place: str
    name: str

    def label(self, library: Library) -> str:
        return f"Rename {library.place(self.place).name} to {' '.join(self.name.split())}"

    def do(self, library: Library, _progress: Progress) -> None:
        before = library.place(self.place).name
        library.rename_place(self.place, self.name)
        follow_name(library, before, library.place(self.place).name)


@dataclass(frozen=True)
class DeletePlace(StepCommand[None]):
    """Takes a place out of the library; undo brings it back with all that is in it."""

    place: str

    def label(self, library: Library) -> str:
        return f"Delete {library.place(self.place).name}"

    def do(self, library: Library, _progress: Progress) -> None:
        library.delete_place(self.place)


@dataclass(frozen=True)
class SetRole(StepCommand[None]):
    """Says what a field of a place is taken for when a page is kept.

    Attributes:
        role: one of `entries.roles.ROLES`; NOTHING: for none of them; "": what its name tells.
    """

    place: str
    key: str
    role: str

    def label(self, library: Library) -> str:
        return f"Say what “{find_field(library.place(self.place).fields, self.key).label}” is for"

    def do(self, library: Library, _progress: Progress) -> None:
        place = library.place(self.place)
        if self.role not in ("", NOTHING, *ROLES):
            raise UserError("bad-role", f"“{self.role}” is nothing that a page has.", f"Say one of {', '.join(ROLES)}.")
        key = find_field(place.fields, self.key).key
        library.change_place(self.place, replace(place.settings, roles=with_role(place.settings.roles, key, self.role)))


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
