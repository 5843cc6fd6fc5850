"""The list of steps: undo is never stuck, what lies behind a step that cannot be taken back stays within reach."""

from pathlib import Path

import pytest

from helpers import add_notes, redo, undo, undo_label
from wily_magpie.core.commands.command import Command
from wily_magpie.core.commands.entries import AddEntry, RemoveEntries, SetText
from wily_magpie.core.commands.history import PassOver, Redo, Undo, UndoTo
from wily_magpie.core.commands.notes import WriteNote
from wily_magpie.core.commands.settings import SetSetting
from wily_magpie.core.commands.upkeep import ForgetSteps
from wily_magpie.core.entries.step import Step
from wily_magpie.core.errors import UserError
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session


def titles(session: Session) -> list[str]:
    place = session._library.place("Sources")
    return [row.title for row in place.rows(list(place.listing(Question()).ids))]


def step_called(session: Session, label: str) -> Step:
    return next(step for step in session.reader.steps() if step.label == label)


@pytest.fixture
def stuck(session: Session, tmp_path: Path) -> Path:
    """An entry, then a note that somebody else has changed since; the note."""
    folder = tmp_path / "Notes"
    folder.mkdir()
    (folder / "mill.md").write_text("The mill.\n")
    notes = add_notes(session, "Notes", folder)
    session.refresh_notes()
    session.do(AddEntry("collection:1", "Behind it"))
    session.do(WriteNote(notes.key, "mill.md", "By us."))
    path = folder / "mill.md"
    path.write_text(path.read_text() + "By somebody else.\n")
    return path


def test_a_step_that_cannot_be_taken_back_says_why_and_changes_nothing(session: Session, stuck: Path) -> None:
    before = stuck.read_text()
    with pytest.raises(UserError, match=r"mill\.md was changed by another program since “Write into mill”") as told:
        session.do(Undo())
    assert told.value.slug == "undo-file-changed"
    assert "pass it over" in told.value.way_out
    assert stuck.read_text() == before
    assert undo_label(session) == "Write into mill"


def test_it_can_be_passed_over_and_what_lies_behind_it_is_within_reach(session: Session, stuck: Path) -> None:
    before = stuck.read_text()
    step = session.overview.undo
    assert step is not None
    session.do(PassOver(step.id))
    assert undo(session) == "New entry “Behind it”"
    assert titles(session) == []
    assert stuck.read_text() == before
    assert redo(session) == "New entry “Behind it”"
    assert next(one for one in session.reader.steps() if one.id == step.id).state == 2


def test_what_lies_behind_it_can_be_taken_back_by_its_number(session: Session, stuck: Path) -> None:
    session.do(Undo(step_called(session, "New entry “Behind it”").id))
    assert titles(session) == []
    assert undo_label(session) == "Write into mill"


def test_it_can_be_taken_back_in_part(session: Session, tmp_path: Path) -> None:
    folder = tmp_path / "Notes"
    folder.mkdir()
    for name in ("one", "two"):
        (folder / f"{name}.md").write_text("---\nstatus: open\n---\n\ntext\n")
    notes = add_notes(session, "Notes", folder)
    session.refresh_notes()
    ids = list(notes.listing(Question()).ids)
    session.do(SetText(notes.key, ids, "status", "done"))
    (folder / "one.md").write_text("Another text.\n")
    moved = session.do(Undo(in_part=True))
    assert moved is not None
    assert moved.left == ("one.md",)
    assert (folder / "one.md").read_text() == "Another text.\n"
    assert "status: open" in (folder / "two.md").read_text()
    assert session.overview.undo is None or session.overview.undo.id != moved.step.id


def test_one_goes_back_to_a_point_and_stops_where_something_is_in_the_way(session: Session, stuck: Path) -> None:
    first = session.do(AddEntry("collection:1", "First of three"))
    for number in range(2):
        session.do(SetText("collection:1", [first], "site", f"Wick {number}"))
    assert session.do(UndoTo(step_called(session, "New entry “First of three”").id)) == (3, None)
    assert titles(session) == ["Behind it"]
    count, why = session.do(UndoTo(step_called(session, "New entry “Behind it”").id))
    assert count == 0
    assert why is not None
    assert "another program" in str(why)
    assert titles(session) == ["Behind it"]


def test_steps_are_listed_with_what_when_and_who(session: Session) -> None:
    session.do(AddEntry("collection:1", "The mill"))
    session.do(RemoveEntries("collection:1", [1]))
    undo(session)
    latest, before = session.reader.steps()[:2]
    assert (latest.label, latest.state) == ("Delete “The mill”", 1)
    assert (before.label, before.state, before.origin) == ("New entry “The mill”", 0, "window")
    assert before.at[:4].isdigit()
    assert before.at <= latest.at


@pytest.mark.parametrize("command", [Undo(99), Redo(99), PassOver(99)])
def test_a_step_that_is_not_there_is_said(session: Session, command: Command[object]) -> None:
    with pytest.raises(UserError, match="no longer known"):
        session.do(command)


def test_a_step_is_not_undone_twice_nor_done_again_while_it_stands(session: Session) -> None:
    session.do(AddEntry("collection:1", "The mill"))
    number = session.reader.steps()[0].id
    with pytest.raises(UserError, match="is not undone"):
        session.do(Redo(number))
    session.do(Undo(number))
    with pytest.raises(UserError, match="is undone already"):
        session.do(Undo(number))
    session.do(Redo(number))
    assert titles(session) == ["The mill"]


def test_a_conflict_is_found_row_by_row(session: Session) -> None:
    first, second = (session.do(AddEntry("collection:1", name)) for name in ("One", "Two"))
    session.do(SetText("collection:1", [first, second], "site", "Wick"))
    both = session.reader.steps()[0].id
    session.do(SetText("collection:1", [first], "site", "Heron"))
    with pytest.raises(UserError, match="no longer as it left it"):
        session.do(Undo(both))
    moved = session.do(Undo(both, in_part=True))
    assert moved is not None
    assert moved.left
    rows = session.reader.entries.rows("collection:1", [first, second])
    assert [row.value("site") for row in rows] == ["Heron", None]


def test_history_is_as_long_as_it_is_set_to_be(session: Session) -> None:
    session.do(SetSetting("steps", "12"))
    for number in range(20):
        session.do(AddEntry("collection:1", f"Mill {number}"))
    assert len(session.reader.steps()) == 12
    session.do(ForgetSteps())
    assert session.reader.steps() == []
    assert session.overview.undo is None
