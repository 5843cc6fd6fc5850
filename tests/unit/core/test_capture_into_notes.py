"""Captures into notes folders: front matter of a fresh one, pictures beside a note, headings that fit, running notes."""

import re
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import HERON
from helpers import add_notes, undo
from wily_magpie.core.capture.run import CaptureRun, Wanted
from wily_magpie.core.commands.capture import KeepSlip
from wily_magpie.core.commands.entries import ChangeEntry
from wily_magpie.core.commands.notes import MakeHeading
from wily_magpie.core.commands.places import ChangePlace
from wily_magpie.core.commands.templates import SaveTemplate
from wily_magpie.core.entries.insert_position import InsertPosition, NoteTarget
from wily_magpie.core.entries.kept import KeepAs
from wily_magpie.core.entries.note_text import plain_lines
from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.notes.inserting import insert, lowered
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.by_hand import ByHand, Typed
from wily_magpie.core.templates.template import Template

PAGE = Page(
    "https://www.mills.example/ebb?utm_source=x",
    """<html lang="en"><head><title>The ebb</title><meta name="author" content="Ada Penhallow">
    <meta property="article:published_time" content="2024-05-06"><meta name="keywords" content="tides, law"></head><body>
    <article><h1>The ebb</h1><p>The ebb runs for six hours, and the mill stands still for as long as the flood does.</p>
    </article></body></html>""",
    "file",
)
FRESH = re.compile(
    rb"---\n"
    rb"title: The ebb\n"
    rb"address: https://www.mills.example/ebb\?utm_source=x\n"
    rb"authors: \['Penhallow, Ada'\]\n"
    rb"published: 2024-05-06\n"
    rb"captured: \d{4}-\d\d-\d\dT\d\d:\d\dZ\n"
    rb"tags: \[tides, law\]\n"
    rb"---\n\n"
    rb"# The ebb\n\n"
    rb"The ebb runs for six hours, and the mill stands still for as long as the flood does.\n"
)


@pytest.fixture
def fresh(session: Session, tmp_path: Path) -> Path:
    """A notes folder without a field."""
    folder = tmp_path / "Fresh"
    folder.mkdir()
    add_notes(session, "Fresh", folder)
    return folder


def test_a_fresh_folder_gets_what_a_source_needs_byte_by_byte(session: Session, fresh: Path) -> None:
    CaptureRun(session).whole(PAGE, Wanted(place="Fresh"))
    content = (fresh / "The ebb.md").read_bytes()
    assert FRESH.fullmatch(content), content.decode()
    slip = session.reader.slips.slip(read_page(PAGE), place="Fresh")
    assert slip.known is not None, "it is known again by its address"
    undo(session)
    assert not (fresh / "The ebb.md").exists()


def test_new_keys_are_named_by_a_script_and_on_the_slip(session: Session, fresh: Path) -> None:
    CaptureRun(session).whole(PAGE, Wanted(place="Fresh", values=[("shelf", "Row 3"), ("status", "read")]))
    text = (fresh / "The ebb.md").read_text("utf-8")
    assert "shelf: Row 3\n" in text
    assert "status: read\n" in text
    hand = ByHand(place="notes:1", values={"mood": Typed("calm")}, new_keys=("mood",))
    slip = session.reader.slips.slip(read_page(PAGE), hand=hand)
    CaptureRun(session).keep(slip, KeepAs.ADDITION)
    assert "mood: calm\n" in (fresh / "The ebb.md").read_text("utf-8")


def test_a_collection_still_refuses_a_field_that_it_lacks(session: Session) -> None:
    with pytest.raises(UserError, match="There is no field “shelf”"):
        CaptureRun(session).whole(PAGE, Wanted(values=[("shelf", "Row 3")]))


def test_a_folder_with_fields_but_no_address_gets_the_address_alone(session: Session, tmp_path: Path) -> None:
    folder = tmp_path / "Own"
    folder.mkdir()
    (folder / "One.md").write_text("---\nmood: calm\n---\n", "utf-8")
    add_notes(session, "Own", folder)
    CaptureRun(session).whole(PAGE, Wanted(place="Own"))
    head = (folder / "The ebb.md").read_text("utf-8").split("---")[1]
    assert head.strip().splitlines() == ["title: The ebb", "address: https://www.mills.example/ebb?utm_source=x"]


@pytest.mark.parametrize(("pattern", "folder", "link"), [("", "Files", "Files"), ("Pictures/{title}", "Pictures/Heron Mill turns again after ninety years", "Pictures/Heron%20Mill%20turns%20again%20after%20ninety%20years")])  # fmt: skip
def test_pictures_of_a_note_lie_beside_it_and_its_text_leads_there(
    session: Session, fresh: Path, pattern: str, folder: str, link: str
) -> None:
    place = session.place("Fresh")
    session.do(ChangePlace(place.key, replace(place.settings, pictures_folder=pattern)))
    done = CaptureRun(session).whole(session.fetcher.page(HERON), Wanted(place="Fresh"))
    assert done.failures == ()
    note = fresh / "Heron Mill turns again after ninety years.md"
    assert f"]({link}/heron-mill.svg" in note.read_text("utf-8")
    picture = fresh / folder / "heron-mill.svg"
    assert b"<svg" in picture.read_bytes()
    assert "![Heron Mill turns again after ninety years]" in note.read_text("utf-8"), "what is said of it stays"
    undo(session)
    assert not note.exists()
    assert not picture.exists()


def with_way(session: Session, way: InsertPosition) -> None:
    session.do(SaveTemplate(Template("Log", "Fresh", way=NoteTarget("Log.md", way))))


def test_what_is_not_there_is_said_and_made(session: Session, fresh: Path) -> None:
    (fresh / "Log.md").write_text("# Log\n\nBegun.\n", "utf-8")
    with_way(session, InsertPosition("Kept"))
    slip = session.reader.slips.slip(read_page(PAGE), "Log")
    assert [(one.what, one.text) for one in slip.lacks] == [
        ("heading", "There is no heading “Kept” in this note. Choose another, or let it be made.")
    ]
    assert slip.template.way is not None
    session.do(MakeHeading(slip.place, slip.template.way))
    slip = session.reader.slips.slip(read_page(PAGE), "Log")
    assert slip.lacks == ()
    session.do(KeepSlip(slip))
    assert (fresh / "Log.md").read_text("utf-8") == (
        "# Log\n\nBegun.\n\n## Kept\n\n### The ebb\n\n"
        "The ebb runs for six hours, and the mill stands still for as long as the flood does.\n\n"
        "[The ebb](https://www.mills.example/ebb?utm_source=x)\n"
    )
    again = session.reader.slips.slip(read_page(PAGE), "Log")
    assert "Log.md has this address already." in again.told


def test_a_field_that_the_template_fills_and_the_place_lacks_is_said(session: Session) -> None:
    template = session.reader.templates.template("Article")
    rules = {**template.fields, "doi": template.fields["site"]}
    session.do(SaveTemplate(replace(template, fields=rules), "Article"))
    slip = session.reader.slips.slip(read_page(PAGE), "Article")
    assert [(one.what, one.keys) for one in slip.lacks] == [("field", ("doi",))]


LOWERED = [
    ("# A\n\n## B\n", 2, "### A\n\n#### B\n"),
    ("## A\ntext\n\n# B\n", 1, "### A\ntext\n\n## B\n"),
    ("A\n===\n\nB\n---\n", 3, "#### A\n\n##### B\n"),
    ("#### A\n", 2, "#### A\n"),
    ("##### A\n\n# B\n", 4, "###### A\n\n##### B\n"),
    ("```\n# no heading\n```\n\n# A\n", 1, "```\n# no heading\n```\n\n## A\n"),
    ("no heading\n", 2, "no heading\n"),
    ("- item\n---\n\n# A\n", 1, "- item\n---\n\n## A\n"),
]


@pytest.mark.parametrize(("text", "above", "then"), LOWERED)
def test_headings_are_lowered_below_the_one_above(text: str, above: int, then: str) -> None:
    assert lowered(text, above) == then


@given(
    st.lists(st.sampled_from(["# A", "## B", "### C", "text", "", "```", "    code", "- item"]), max_size=12),
    st.integers(1, 6),
)
def test_lowering_touches_nothing_but_headings(lines: list[str], above: int) -> None:
    text = "\n".join(lines)
    after = lowered(text, above)
    assert [line.lstrip("#") for line in after.split("\n")] == [line.lstrip("#") for line in text.split("\n")]
    marks = [line for _, line in plain_lines(after) if line.startswith("#")]
    assert all(len(line) - len(line.lstrip("#")) > min(above, 5) for line in marks) or not marks or above >= 6


@pytest.mark.parametrize(("at", "order"), [("top", ["Second", "First"]), ("end", ["First", "Second"])])
def test_later_ones_stand_before_or_after_the_earlier(at: str, order: list[str]) -> None:
    body = "## Kept\n"
    for word in ("First", "Second"):
        body = insert(body, word, InsertPosition("Kept", at))  # type: ignore[arg-type]
    assert [line for line in body.split("\n") if line in order] == order


@pytest.mark.parametrize("is_edited_between", [False, True])
def test_pictures_that_come_late_are_taken_back_with_what_they_belong_to(
    session: Session, fresh: Path, *, is_edited_between: bool
) -> None:
    run = CaptureRun(session)
    slip = run.slip(read_page(session.fetcher.page(HERON)), place="notes:1")
    kept = session.do(KeepSlip(slip))
    if is_edited_between:
        session.do(ChangeEntry(kept.place, kept.entry_id, {}, f"{slip.body}\n\nMine.\n"))
    assert run.pictures(slip, kept) == []
    assert list(fresh.rglob("*.svg")) or list(fresh.rglob("*.png"))
    labels = [step.label for step in session.reader.steps() if "New" not in step.label]
    assert len(labels) == (3 if is_edited_between else 1)
    for _ in labels:
        undo(session)
    assert [one for one in fresh.rglob("*") if one.is_file() and ".wily" not in str(one)] == []


def test_pictures_of_what_was_taken_back_meanwhile_are_laid_nowhere(session: Session, fresh: Path) -> None:
    run = CaptureRun(session)
    slip = run.slip(read_page(session.fetcher.page(HERON)), place="notes:1")
    kept = session.do(KeepSlip(slip))
    undo(session)
    run.pictures(slip, kept)
    assert [one for one in fresh.rglob("*") if one.is_file()] == []
    assert not [step for step in session.reader.steps() if "pictures" in step.label]
