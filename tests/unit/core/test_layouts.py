"""Layouts are data of views and places: recorded, undone, told, kept in the library and brought out."""

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import redo, undo, undo_label
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.fields import DeleteField
from wily_magpie.core.commands.views import KeepView, RenameView, SetLayout
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.layout import Column, Layout, Sum, from_plain, to_plain
from wily_magpie.core.exchange.templates import bringing_in, export, look_at_import
from wily_magpie.core.fields import KINDS
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session

FIELDS = tuple(
    Field(key, key.capitalize(), KINDS[kind], f"f{n}")
    for n, (key, kind) in enumerate(
        {"title": "text", "status": "choice", "price": "number", "summary": "long text", "site": "text"}.items()
    )
)
COLUMNS = st.builds(
    Column,
    st.sampled_from([field.key for field in FIELDS]),
    st.text(max_size=8),
    st.sampled_from([0, 3, 12, 200]),
    st.sampled_from([None, True, False]),
    st.sampled_from([None, *Sum]),
)


def keys(layout: Layout) -> list[str]:
    return [field.key for field in layout.of(FIELDS)]


def test_without_a_word_the_kinds_say_what_is_shown() -> None:
    assert keys(Layout()) == ["title", "status", "price", "site"]


@given(st.lists(COLUMNS, unique_by=lambda one: one.key), st.integers(0, 5))
def test_a_layout_is_read_as_it_was_written(columns: list[Column], pinned: int) -> None:
    layout = Layout(columns=tuple(columns), pinned=pinned)
    assert from_plain(json.loads(json.dumps(to_plain(layout)))) == layout


@given(st.recursive(st.none() | st.booleans() | st.integers() | st.text(), lambda inner: st.lists(inner) | st.dictionaries(st.sampled_from(["columns", "pinned", "kind", "key", "width"]), inner)))  # fmt: skip
def test_whatever_else_stands_there_is_passed_over(raw: object) -> None:
    assert isinstance(from_plain(raw), Layout)


@given(st.permutations(["title", "status", "price", "site"]))
def test_columns_are_put_into_any_order(order: list[str]) -> None:
    assert keys(Layout().with_order(order, FIELDS)) == order


def test_one_column_is_named_sized_hidden_and_shown() -> None:
    layout = Layout().with_column("price", FIELDS, name="What it cost", width=12, sum=Sum.MEAN)
    layout = layout.with_column("site", FIELDS, is_shown=False).with_column("summary", FIELDS, is_shown=True)
    assert keys(layout) == ["title", "status", "price", "summary"]
    assert layout.heading(FIELDS[2]) == "What it cost"
    assert (layout.column("price").width, layout.column("price").sum) == (12, Sum.MEAN)
    assert layout.heading(FIELDS[1]) == "Status"


@pytest.fixture
def view(session: Session) -> int:
    """A view over Sources."""
    question = session.reader.entries.question("collection:1", "status = read")
    return session.do(KeepView("collection:1", "Read", question))


def layout_of(session: Session, view: int | None) -> Layout:
    if view is None:
        return session.place("Sources").layout
    return next(one.layout for one in session.reader.entries.views() if one.id == view)


@pytest.mark.parametrize("of_place", [True, False])
def test_arranging_is_a_step_that_is_told_undone_and_kept(session: Session, view: int, *, of_place: bool) -> None:
    number = None if of_place else view
    wanted = Layout(columns=(Column("site", width=30), Column("title")), pinned=1)
    session.do(SetLayout("collection:1", number, wanted))
    assert undo_label(session) == f"Arrange “{'Sources' if of_place else 'Read'}”"
    assert layout_of(session, number) == wanted
    told = session.overview.views[-1].layout if not of_place else session.overview.places[0].layout
    assert told == wanted
    undo(session)
    assert layout_of(session, number) == Layout()
    redo(session)
    folder = session.folder
    session.close()
    again = Session(folder, Fetcher())
    assert layout_of(again, number) == wanted
    assert layout_of(again, view if of_place else None) == Layout(), "each has its own"
    again.close()


def test_a_view_is_kept_as_it_is_arranged(session: Session) -> None:
    arranged = Layout(columns=(Column("status"),), pinned=1)
    session.do(SetLayout("collection:1", None, arranged))
    number = session.do(KeepView("collection:1", "As it is", Question(), None, arranged))
    session.do(SetLayout("collection:1", None, Layout()))
    assert layout_of(session, number) == arranged


def test_layouts_go_along_with_templates(session: Session, view: int, tmp_path: Path) -> None:
    arranged = Layout(columns=(Column("site", "Where", 30, None, Sum.FILLED),), pinned=2)
    session.do(SetLayout("collection:1", view, arranged))
    text = export(session.reader).replace('"Sources"', '"Elsewhere"')
    other = Session(tmp_path / "other", Fetcher())
    other.do(bringing_in(look_at_import(other.reader, text), text))
    place = other.place("Elsewhere")
    views = {one.name: one for one in other.reader.entries.views(place.key)}
    assert views["Read"].layout == arranged
    assert views["Read"].question == "status = read"
    undo(other)
    assert other.overview.find_place("Elsewhere") is None
    other.close()


def test_columns_of_fields_that_are_gone_are_passed_over(session: Session) -> None:
    session.do(AddEntry("collection:1", "The mill", {"site": "Wick"}))
    session.do(SetLayout("collection:1", None, Layout(columns=(Column("site"), Column("title")), pinned=1)))
    session.do(DeleteField("collection:1", "site"))
    place = session.place("Sources")
    assert place.layout.of(place.fields)[0].key == "title"
    undo(session)
    place = session.place("Sources")
    assert [field.key for field in place.layout.of(place.fields)][:2] == ["site", "title"]


def test_sums_stand_at_the_foot(session: Session) -> None:
    for price in (1.5, 2.5, None):
        session.do(AddEntry("collection:1", "Mill", {"price": price}))
    layout = Layout(columns=(Column("price", sum=Sum.SUM), Column("title", sum=Sum.FILLED)))
    place = session.place("Sources")
    told = session.reader.entries.sums(place.key, Question(), layout)
    assert told == {(): {"price": "sum 4", "title": "filled 3"}}
    only = cql.parse("price > 2", place.fields)
    assert session.reader.entries.sums(place.key, only, layout)[()]["price"] == "sum 2.5"


def test_a_view_changed_from_two_sides_at_once_is_what_both_made_of_it(session: Session) -> None:
    number = session.do(
        KeepView("collection:1", "Dear ones", session.reader.entries.question("collection:1", "price > 1"))
    )
    (seen,) = [view for view in session.reader.entries.views("collection:1") if view.id == number]
    session.do(RenameView(seen, "Dear"))
    session.do(
        KeepView("collection:1", seen.name, session.reader.entries.question("collection:1", "price > 2"), number)
    )
    session.do(RenameView(seen, "Dearest"))
    (now,) = [view for view in session.reader.entries.views("collection:1") if view.id == number]
    assert (now.name, now.question) == ("Dearest", "price > 2")
