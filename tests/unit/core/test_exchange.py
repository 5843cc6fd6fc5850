"""What goes out in every format, and comes in again the same."""

import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.commands.command import UNWATCHED
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.fields import AddField
from wily_magpie.core.commands.places import NewCollection
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import TITLE, Field, FieldPlan
from wily_magpie.core.errors import UserError
from wily_magpie.core.exchange import as_text
from wily_magpie.core.exchange.exporters import EXPORTERS
from wily_magpie.core.exchange.importers import IMPORTERS, preview
from wily_magpie.core.exchange.tables import take_in
from wily_magpie.core.fields import KINDS, Value
from wily_magpie.core.places.starters import STARTERS
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session

PLANS = (
    FieldPlan("made", "Made", "date"), FieldPlan("pages", "Pages", "number"), FieldPlan("price", "Price", "amount"),
    FieldPlan("seen", "Seen", "yes/no"), FieldPlan("kind", "Kind", "choice"), FieldPlan("tags", "Tags", "choices"),
    FieldPlan("authors", "Authors", "people"), FieldPlan("remarks", "Remarks", "long text"),
    FieldPlan("link", "Link", "address"),
)  # fmt: skip
ROWS: list[tuple[str, dict[str, Value]]] = [
    ("Heron Mill", {"made": "1811", "pages": 120.0, "price": "12.5 EUR", "seen": True, "kind": "book", "tags": ("law", "a, b"),
                    "authors": ("Pell, Isaac", "Penhallow, Ada"), "remarks": 'a "quoted"\nline, and ; more',
                    "link": "https://mills.example/1"}),
    ("Wick | Mill", {"made": "1868-05", "pages": -3.5, "seen": False, "kind": "map", "remarks": "| in | bars |"}),
    ("=SUM(A1)", {"made": "1890/1914", "price": "3 km", "authors": ("Saltmarsh Museum",)}),
    ("Blank", {}),
]  # fmt: skip


@pytest.fixture
def shelf(session: Session) -> str:
    """A collection with a field of most kinds and some entries; its key."""
    key = session.do(NewCollection("Shelf", STARTERS[-1])).key
    there = {field.key for field in session.overview.place(key).fields}
    for plan in PLANS:
        if plan.key not in there:
            session.do(AddField(key, plan))
    for title, values in ROWS:
        session.do(AddEntry(key, title, values))
    return key


def written(session: Session, key: str, form: str) -> str:
    place = session.overview.place(key)
    wanted = [TITLE, *(field for field in place.fields if field.key in {plan.key for plan in PLANS})]
    entries = session.reader.entries.rows(key, session.reader.entries.listing(key, Question()).ids)
    return "".join(EXPORTERS[form].write(wanted, entries))


@pytest.mark.parametrize("form", ["json", "csv"])
def test_what_went_out_comes_in_again_the_same(session: Session, shelf: str, tmp_path: Path, form: str) -> None:
    path = tmp_path / f"shelf.{'jsonl' if form == 'json' else form}"
    path.write_text(written(session, shelf, form), "utf-8", newline="")
    seen = preview(path)
    assert seen.losses == ()
    kinds = {"id": "-", "title": "title", **{plan.key: plan.kind for plan in PLANS}}
    chosen = [kinds.get(name, "-") for name in seen.sheet.names]
    place, told = take_in(session, seen.sheet, ["" if kind == "-" else kind for kind in chosen], "Again", UNWATCHED)
    assert told == []
    again = session.reader.entries.rows(place.key, session.reader.entries.listing(place.key, Question()).ids)
    assert [entry.title for entry in again] == [title for title, _ in ROWS]
    for entry, (_, values) in zip(again, ROWS, strict=True):
        assert {plan.key: entry.value(plan.key) for plan in PLANS} == {plan.key: values.get(plan.key) for plan in PLANS}


def test_json_has_an_object_a_line_with_values_of_their_own_sort(session: Session, shelf: str) -> None:
    first, *_, last = map(json.loads, written(session, shelf, "json").splitlines())
    assert (first["pages"], first["seen"], first["tags"]) == (120, True, ["law", "a, b"])
    assert (last["title"], last["pages"], last["tags"]) == ("Blank", None, None)


def test_a_markdown_table_has_a_line_an_entry_whatever_stands_in_it(session: Session, shelf: str) -> None:
    lines = written(session, shelf, "markdown").splitlines()
    assert len(lines) == len(ROWS) + 2
    unescaped = [line.replace("\\|", "").count("|") for line in lines]
    assert set(unescaped) == {unescaped[0]}


FIELDS = {
    field.key: field
    for field in (
        Field("authors", "Authors", KINDS["people"], "f1"), Field("published", "Published", KINDS["date"], "f2"),
        Field("journal", "Journal", KINDS["text"], "f3"), Field("volume", "Volume", KINDS["text"], "f4"),
        Field("issue", "Issue", KINDS["text"], "f5"), Field("pages", "Pages", KINDS["text"], "f6"),
        Field("address", "Address", KINDS["address"], "f7"),
    )
}  # fmt: skip
CITED: list[tuple[dict[str, Value], str]] = [
    ({}, "The ebb."),
    ({"authors": ("Pell, Isaac",)}, "Pell, Isaac. The ebb."),
    ({"published": "1926-03-12"}, "(1926-03-12). The ebb."),
    ({"authors": ("Pell, Isaac", "Penhallow, Ada"), "published": "1926"}, "Pell, Isaac and Ada Penhallow (1926). The ebb."),
    ({"authors": ("A, B", "C, D", "E, F")}, "A, B, D C and F E. The ebb."),
    ({"authors": ("A, B", "C, D", "E, F", "G, H")}, "A, B and others. The ebb."),
    ({"journal": "Tidal Studies", "volume": "3", "issue": "2", "pages": "14–20"}, "The ebb. Tidal Studies 3 (2), 14–20."),
    ({"journal": "Tidal Studies", "pages": "7"}, "The ebb. Tidal Studies, 7."),
    ({"address": "https://mills.example/a"}, "The ebb. https://mills.example/a"),
    ({"doi": "10.1/x", "address": "https://mills.example/a"}, "The ebb. https://doi.org/10.1/x"),
]  # fmt: skip


@pytest.mark.parametrize(("values", "line"), CITED, ids=[line for _, line in CITED])
def test_a_citation_tells_where_it_is_from(values: dict[str, Value], line: str) -> None:
    assert as_text.citation(list(FIELDS.values()), Entry("collection:1", 1, "The ebb", values)) == line


CELL = st.text(st.characters(blacklist_categories=["Cs"], blacklist_characters="\r\0\x85\u2028\u2029"), max_size=12)


@given(st.lists(st.lists(CELL, min_size=2, max_size=2), min_size=1, max_size=6).filter(lambda rows: any(rows[-1])))
def test_cells_come_back_from_the_clipboard(rows: list[list[str]]) -> None:
    assert as_text.from_cells(as_text.to_cells(rows)) == rows


@pytest.mark.parametrize(
    ("name", "head", "taken"),
    [
        ("a.csv", "a,b", "delimited"),
        ("a.tsv", "a\tb", "delimited"),
        ("A.JSON", "nothing", "json"),
        ("a.jsonl", "{}", "json"),
        ("noname", "[1]", "json"),
        ("noname", "a;b", "delimited"),
    ],
)
def test_a_file_is_known_by_its_name_or_its_first_letters(name: str, head: str, taken: str) -> None:
    assert next(one.name for one in IMPORTERS if one.knows(name, head)) == taken


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"", "holds nothing"),
        (b"[]", "no list of objects"),
        (b"[1, 2]", "no list of objects"),
        (b'{"a": 1', "not JSON"),
        (b"[" * 100_000, "not JSON"),
    ],
)
def test_what_is_no_table_is_said(tmp_path: Path, content: bytes, said: str) -> None:
    path = tmp_path / ("a.json" if content else "a.csv")
    path.write_bytes(content)
    with pytest.raises(UserError, match=said) as told:
        preview(path)
    assert told.value.way_out


def test_a_file_that_is_not_there_is_said(tmp_path: Path) -> None:
    with pytest.raises(UserError, match="no file"):
        preview(tmp_path / "none.csv")


def test_every_format_says_what_it_is() -> None:
    made: list[Any] = [*EXPORTERS.values(), *IMPORTERS]
    assert all(one.name and one.label and all(pattern.startswith("*.") for pattern in one.patterns) for one in made)


def test_no_two_columns_of_a_table_have_one_name() -> None:
    fields = [Field(key, key, KINDS["text"], "") for key in ("title", "id", "ID", "status")]
    (head, *_) = "".join(EXPORTERS["csv"].write(fields, [])).splitlines()
    assert head == "id,title,note.id,note.note.ID,status"
