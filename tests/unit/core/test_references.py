"""References say which entry is meant, however its title is written and however many have it."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import undo
from wily_magpie.core.commands.entries import AddEntry, BringBackState, EmptyTrash, RemoveEntries, SetText
from wily_magpie.core.commands.fields import AddField, ChangeKind, OrderFields, SetOptions
from wily_magpie.core.commands.places import AddNotesFolder, ChangePlace, NewCollection
from wily_magpie.core.entries.field import FieldPlan, Settings, SummaryPlan
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.events import Changed
from wily_magpie.core.fields import KINDS, Option
from wily_magpie.core.fields.reference import REFERENCE
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.api import Place, PlaceSettings
from wily_magpie.core.places.starters import STARTERS, starter
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session

TITLES = st.lists(st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z")), min_size=1), min_size=1)


@pytest.fixture
def sources(session: Session) -> Place:
    return session._library.place("Sources")


@pytest.fixture
def chapters(session: Session, sources: Place) -> Place:
    """Chapters, with a reference from the sources that is seen from both ends."""
    made = session.do(NewCollection("Chapters", starter("Chapters of a text") or STARTERS[0]))
    plan = FieldPlan("chapters", "Chapters", "reference", settings=Settings(target=made.key))
    session.do(AddField(sources.key, plan))
    return session._library.place("Chapters")


def value(session: Session, place: Place, entry_id: int, key: str) -> object:
    return session._library.place(place.key).rows([entry_id])[0].value(key)


def linked(session: Session, place: Place, entry_id: int, key: str) -> list[int]:
    """The ids of the entries that a reference leads to."""
    names = value(session, place, entry_id, key)
    return [name.id for name in names] if isinstance(names, tuple) else []


def all_ids(session: Session, place: Place) -> list[int]:
    return list(session._library.place(place.key).listing(Question()).ids)


@given(TITLES)
def test_any_titles_are_read_again_as_they_are_shown(titles: list[str]) -> None:
    assert REFERENCE.read(REFERENCE.show(tuple(titles))) == tuple(titles)
    assert REFERENCE.from_plain(titles) == tuple(titles)


@pytest.mark.parametrize(
    ("text", "titles"),
    [
        ("Law; Tides", ("Law", "Tides")),
        ('"Law; and tides"; Mills', ("Law; and tides", "Mills")),
        ('"Law" and tides', ('"Law" and tides',)),
        ('The "law', ('The "law',)),
        ('"Say ""law"""', ('Say "law"',)),
        (" ; ", None),
    ],
)
def test_titles_with_semicolons_stand_in_quotation_marks(text: str, titles: object) -> None:
    assert REFERENCE.read(text) == titles


@pytest.mark.parametrize("kind", ["choices", "people"])
def test_names_that_are_parted_already_keep_their_commas(kind: str) -> None:
    assert KINDS[kind].from_plain(["Wick, the quay"]) == ("Wick, the quay",)


def test_a_title_with_a_semicolon_is_one_entry(session: Session, sources: Place, chapters: Place) -> None:
    chapter = session.do(AddEntry(chapters.key, "Law; and tides"))
    source = session.do(AddEntry(sources.key, "Charter"))
    session.do(SetText(sources.key, [source], "chapters", '"law; and tides"; Mills'))
    assert linked(session, sources, source, "chapters")[0] == chapter
    assert [row.title for row in session._library.place("Chapters").rows(all_ids(session, chapters))].count(
        "Mills"
    ) == 1


def test_of_entries_with_the_same_title_the_one_that_was_meant_stays(
    session: Session, sources: Place, chapters: Place
) -> None:
    first, second = (session.do(AddEntry(chapters.key, "Notes")) for _ in range(2))
    back = next(field.key for field in chapters.fields if field.settings.is_back)
    source = session.do(AddEntry(sources.key, "Charter"))
    session.do(SetText(chapters.key, [second], back, "Charter"))
    assert linked(session, sources, source, "chapters") == [second]
    session.do(SetText(sources.key, [source], "chapters", "Notes; Law"))
    assert linked(session, sources, source, "chapters")[0] == second
    session.do(SetText(chapters.key, [first], back, "Charter"))
    assert value(session, sources, source, "chapters") == ("Notes", "Law", "Notes")
    session.do(SetText(sources.key, [source], "chapters", "Law; Notes; Notes"))
    assert sorted(linked(session, sources, source, "chapters")[1:]) == [first, second]


def test_what_was_referred_to_before_is_brought_back(session: Session, sources: Place, chapters: Place) -> None:
    source = session.do(AddEntry(sources.key, "Charter"))
    session.do(SetText(sources.key, [source], "chapters", "Law; Tides"))
    session.do(SetText(sources.key, [source], "chapters", "Mills"))
    events = session.reader.entries.history_of(sources.key, source)
    session.do(BringBackState(sources.key, source, events[0]))
    assert value(session, sources, source, "chapters") == ("Law", "Tides")
    undo(session)
    assert value(session, sources, source, "chapters") == ("Mills",)


def test_a_question_mark_in_a_summarys_question_is_a_question_mark(
    session: Session, sources: Place, chapters: Place
) -> None:
    back = next(field.key for field in chapters.fields if field.settings.is_back)
    plan = SummaryPlan(back, where='status = "really?"')
    session.do(AddField(chapters.key, FieldPlan("doubted", "Doubted", "summary", settings=Settings(summary=plan))))
    for number, status in enumerate(("really?", "read", "really?")):
        source = session.do(AddEntry(sources.key, f"Source {number}", {"status": status}))
        session.do(SetText(sources.key, [source], "chapters", "Law"))
    (law,) = all_ids(session, chapters)
    assert value(session, chapters, law, "doubted") == 2.0
    session.do(ChangePlace(chapters.key, PlaceSettings(rules=("at least 1 doubted",))))
    other = session.do(AddEntry(chapters.key, "Empty"))
    assert not value(session, chapters, law, "gaps")
    assert value(session, chapters, other, "gaps") == "at least 1 doubted"


def test_the_first_new_option_is_told_to_whoever_shows_fields(session: Session, sources: Place) -> None:
    entry_id = session.do(AddEntry(sources.key, "Charter"))
    told: list[bool] = []
    session.subscribe(lambda event: told.append(event.is_of_places) if isinstance(event, Changed) else None)
    session.do(SetText(sources.key, [entry_id], "status", "doubted"))
    assert told == [True]
    told.clear()
    session.do(SetText(sources.key, [entry_id], "status", "read"))
    assert told == [False]


def test_pages_of_entries_that_are_gone_are_gone(session: Session, sources: Place) -> None:
    entry_id = session.do(AddEntry(sources.key, "Charter"))
    stays = session.do(AddEntry(sources.key, "Day book"))
    for one in (entry_id, stays):
        page = Page(f"http://mill.example/{one}", f"<p>{one}</p>", "file")
        session._library.blobs.keep_page(sources, one, page, f"mill.example/{one}")
    session.do(RemoveEntries(sources.key, [entry_id]))
    session.do(EmptyTrash())
    assert session._library.database.rows("SELECT entry_id FROM page") == [(stays,)]
    undo(session)
    assert len(session._library.database.rows("SELECT entry_id FROM page")) == 2


def test_found_fields_of_notes_are_ordered_and_have_options(session: Session, notes_path: Path) -> None:
    (notes_path / "a.md").write_text("---\nmood: calm\ntide: low\n---\n\nText.\n", "utf-8")
    session.refresh_notes()
    place = session._library.place("Notebook")
    order = ["tide", "mood"]
    session.do(OrderFields(place.key, order))
    keys = [field.key for field in session._library.place("Notebook").fields]
    assert keys.index("tide") < keys.index("mood")
    session.do(ChangeKind(place.key, "mood", "choice"))
    session.do(SetOptions(place.key, "mood", [("calm", Option("still", "brass"))]))
    (field,) = [one for one in session._library.place("Notebook").fields if one.key == "mood"]
    assert [(one.name, one.colour) for one in field.options] == [("still", "brass")]
    assert (notes_path / "a.md").read_text("utf-8") == "---\nmood: still\ntide: low\n---\n\nText.\n"
    for _ in range(3):
        undo(session)
    assert (notes_path / "a.md").read_text("utf-8") == "---\nmood: calm\ntide: low\n---\n\nText.\n"


def test_a_folder_that_is_a_notes_folder_already_is_said_with_the_way_out(session: Session, notes_path: Path) -> None:
    with pytest.raises(UserError) as told:
        session.do(AddNotesFolder(notes_path))
    assert told.value.way_out
    with pytest.raises((UserError, EnvironmentFailure)):
        session.do(AddNotesFolder(notes_path / "nowhere"))
