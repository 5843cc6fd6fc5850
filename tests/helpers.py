"""What many tests do with a session, in a line each."""

from pathlib import Path

import pytest

from wily_magpie.core.commands.history import Redo, Undo
from wily_magpie.core.commands.places import AddNotesFolder
from wily_magpie.core.commands.templates import Accept, AddSample, MakeWithSample
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.notes import files
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.session import notes_reading
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.template import Template


def undo(session: Session) -> str | None:
    """Takes the last step back; its name."""
    moved = session.do(Undo())
    return moved.step.label if moved is not None else None


def redo(session: Session) -> str | None:
    """Does it again; its name."""
    moved = session.do(Redo())
    return moved.step.label if moved is not None else None


def undo_label(session: Session) -> str | None:
    """What undo would take back."""
    step = session.overview.undo
    return step.label if step is not None else None


def add_notes(session: Session, name: str, folder: Path, fields: tuple[FieldPlan, ...] = ()) -> NotesFolder:
    """Takes a notes folder in under a name, with fields."""
    notes = session._library.add_notes_folder(name, folder, fields)
    session.look_around(is_own=True)
    return notes


def opened(session: Session, folder: Path) -> NotesFolder:
    """Takes a notes folder in as it is."""
    return session._library.notes(session.do(AddNotesFolder(folder)).key)


def add_sample(session: Session, name: str, page: Page) -> int:
    """Keeps a page as a sample of a template; its number."""
    return session.do(AddSample(name, page, read_page(page)))


def accept_all(session: Session, name: str, sample_id: int) -> int:
    """Accepts all that a sample gives now; how many values that is."""
    accepted = session.reader.templates.given_now(name, sample_id)
    session.do(Accept(name, accepted))
    return len(accepted)


def make_with_sample(session: Session, template: Template, page: Page, *, is_new_place: bool) -> str:
    """Makes a template from a page; its name."""
    return session.do(MakeWithSample(template, page, read_page(page), is_new_place))


def count_as_many(monkeypatch: pytest.MonkeyPatch, many: int, batch: int) -> None:
    """Lets so few notes be very many, read by small batches, each of which is told."""
    monkeypatch.setattr(notes_reading, "MANY", many)
    monkeypatch.setattr(notes_reading, "AGAIN_S", 0.0)
    for name in ("FILES_A_BATCH", "LEAST_A_BATCH", "FILES_A_TICK"):
        monkeypatch.setattr(files, name, batch)
