"""Questions asked of real tables: the same answers from a collection and from a notes folder, as their plain meaning."""

import random
from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st

from wily_magpie.core.entries.entry import Draft, Entry
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.entries.layout import Sum
from wily_magpie.core.fields import KINDS, Relation, Value
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places import to_sql
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.starters import STATUSES
from wily_magpie.core.places.table import Table
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Condition, Question
from wily_magpie.core.session.session import Session

PLANS = (
    FieldPlan("status", "Status", "choice", STATUSES),
    FieldPlan("tags", "Tags", "choices"),
    FieldPlan("published", "Published", "date"),
    FieldPlan("price", "Price", "number"),
    FieldPlan("seen", "Seen", "yes/no"),
    FieldPlan("authors", "Authors", "people"),
    FieldPlan("summary", "Summary", "long text"),
    FieldPlan("address", "Address", "address"),
)
YESTERDAY = (datetime.now(UTC).date() - timedelta(days=1)).isoformat()
ROWS: list[tuple[str, dict[str, Value], str]] = [
    ("Mill 10", {"status": "to read", "tags": ("law", "tides"), "published": "1926-03-12", "price": 9.5}, "oak wheel"),
    ("mill 9", {"status": "read", "tags": ("law",), "published": "1926", "seen": True}, "the ebb"),
    (
        "The Ébb",
        {"status": "to read", "published": "1990-05", "authors": ("Pell, Isaac",), "seen": False},
        "100% _oak_",
    ),
    ("Barrage", {"published": YESTERDAY, "price": 100.0, "summary": "A vote, by one", "tags": ("vote",)}, ""),
    ("Zwölf", {"status": "quoted", "address": "https://mills.example/a", "summary": "Über das Gezeitenrad"}, "Öl"),
]
ANSWERS = yaml.safe_load((Path(__file__).parents[2] / "cases" / "answers.yaml").read_text("utf-8"))


@pytest.fixture(scope="module")
def places(tmp_path_factory: pytest.TempPathFactory) -> Iterator[dict[str, Place]]:
    """The same entries as a collection and as a notes folder."""
    folder = tmp_path_factory.mktemp("places")
    session = Session(folder / "library", Fetcher())
    session._library.add_collection("Rows", PLANS)
    (folder / "Notes").mkdir()
    session._library.add_notes_folder("Notes", folder / "Notes", PLANS)
    for place in (session._library.place("Rows"), session._library.place("Notes")):
        with session._library.step("fill"):
            for title, values, body in ROWS:
                place.add(Draft(title, values, body))
    yield {"collection": session._library.place("Rows"), "notes": session._library.place("Notes")}
    session.close()


def titles(place: Place, text: str) -> list[str]:
    """The titles that answer a written question."""
    return [entry.title for entry in place.rows(place.listing(cql.parse(text, place.askable)).ids)]


@pytest.mark.parametrize("kind", ["collection", "notes"])
@pytest.mark.parametrize("case", ANSWERS, ids=lambda case: case["ask"][:60])
def test_answers(places: dict[str, Place], kind: str, case: dict[str, Any]) -> None:
    assert titles(places[kind], case["ask"]) == case["finds"]


@pytest.mark.parametrize("kind", ["collection", "notes"])
def test_groups_follow_one_another(places: dict[str, Place], kind: str) -> None:
    place = places[kind]
    listing = place.listing(cql.parse("sortBy status/group title", place.fields))
    assert [(group.name, group.size) for group in listing.groups] == [
        ("to read", 2),
        ("read", 1),
        ("quoted", 1),
        ("", 1),
    ]
    assert [entry.title for entry in place.rows(listing.ids)] == ["The Ébb", "Mill 10", "mill 9", "Zwölf", "Barrage"]
    assert listing.total == 5


def in_span(value: str, condition: Condition, today: date) -> bool:
    """Whether a date lies so long ago, or ahead; spans of a few days and of thousands are asked for alone."""
    if condition.relation is Relation.THIS:
        return value.startswith(f"{today}"[: {"today": 10, "this-month": 7, "this-year": 4}[condition.value]])
    days = timedelta(int(condition.value[1:-1]) * {"D": 1, "W": 7}[condition.value[-1]])
    if condition.relation is Relation.OLDER:
        return value < f"{today - days}"
    if condition.relation is Relation.NEXT:
        return f"{today}" <= value <= f"{today + days}~"
    return f"{today - days}" <= value <= f"{today}~"


def holds(entry: Entry, condition: Condition, today: date) -> bool:
    """The plain meaning of a condition, written without SQL."""
    value, text = entry.value(condition.field.key), condition.value
    wanted = None if condition.relation in (Relation.EMPTY, Relation.NOT_EMPTY) else text
    match condition.relation:
        case Relation.EMPTY:
            return value is None
        case Relation.NOT_EMPTY:
            return value is not None
        case Relation.HAS | Relation.HAS_NOT:
            return (isinstance(value, tuple) and wanted in value) == (condition.relation is Relation.HAS)
        case Relation.IS_NOT:
            return value != condition.field.kind.read(text)
        case Relation.HAS_ANY | Relation.HAS_NONE:
            found = isinstance(value, tuple) and not set(value).isdisjoint(condition.field.kind.read(text) or ())  # type: ignore[arg-type]
            return found == (condition.relation is Relation.HAS_ANY)
        case Relation.CONTAINS_NOT:
            return value is None or text.casefold() not in condition.field.kind.show(value).casefold()
    if value is None:
        return False
    match condition.relation:
        case Relation.CONTAINS:
            return text.casefold() in condition.field.kind.show(value).casefold()
        case Relation.IS if condition.field.kind.name == "date":
            return str(value).startswith(text)
        case Relation.IS:
            return value == (text if condition.field.kind.name == "address" else condition.field.kind.read(text))
        case Relation.HAS_ALL:
            return isinstance(value, tuple) and set(value) >= set(condition.field.kind.read(text) or ())  # type: ignore[arg-type]
        case Relation.ONE_OF:
            return value in text.split("; ")
        case Relation.BEGINS:
            return str(value).casefold().startswith(text.casefold())
        case Relation.SAME:
            return True
        case Relation.LAST | Relation.NEXT | Relation.OLDER | Relation.THIS:
            return in_span(str(value), condition, today)
        case Relation.BETWEEN if condition.field.kind.is_dated:
            first, last = text.split("/")
            return first <= str(value) <= f"{last}~"
        case Relation.BETWEEN:
            first, last = text.split("/")
            return isinstance(value, float) and float(first) <= value <= float(last)
        case Relation.BEFORE:
            return str(value) < text
        case Relation.AFTER:
            return str(value) > text and not str(value).startswith(text)
        case Relation.FROM:
            return str(value) >= text
        case Relation.UNTIL:
            return str(value) <= text or str(value).startswith(text)
    number = float(text)
    assert isinstance(value, float)
    return {
        Relation.LESS: value < number,
        Relation.MORE: value > number,
        Relation.AT_MOST: value <= number,
        Relation.AT_LEAST: value >= number,
    }[condition.relation]


ASKED = {
    "text": ["Mill", "ébb", "10", "%", "_"], "long text": ["vote", "über", ", by"], "choice": ["read", "to read", "gone"],
    "choices": ["law", "tides", "none"], "date": ["1926", "1926-03", "1990-05", "2000", YESTERDAY],
    "number": ["9.5", "100", "0"], "yes/no": ["yes", "no"], "people": ["Pell, Isaac"], "address": ["mills", "HTTPS"],
}  # fmt: skip


PERIODS = ["P0D", "P3D", "P2W", "P9999D"]
SPECIAL = {
    Relation.LAST: PERIODS, Relation.NEXT: PERIODS, Relation.OLDER: PERIODS,
    Relation.THIS: ["today", "this-month", "this-year"],
}  # fmt: skip


@settings(max_examples=150)
@given(data=st.data())
@pytest.mark.parametrize("kind", ["collection", "notes"])
def test_sql_says_what_is_meant(places: dict[str, Place], kind: str, data: st.DataObject) -> None:
    place = places[kind]
    field = data.draw(st.sampled_from(place.fields))
    relation = data.draw(st.sampled_from(field.kind.relations))
    value = data.draw(st.sampled_from(ASKED[field.kind.name])) if relation.wants_value else ""
    if relation in SPECIAL:
        value = data.draw(st.sampled_from(SPECIAL[relation]))
    elif relation is Relation.SAME:
        value = field.key
    elif relation is Relation.BETWEEN:
        value = f"{value}/{data.draw(st.sampled_from(ASKED[field.kind.name]))}"
    elif relation.wants_many:
        value = "; ".join(data.draw(st.lists(st.sampled_from(ASKED[field.kind.name]), min_size=2, max_size=2)))
    condition = Condition(field, relation, value)
    everything = place.rows(place.listing(Question()).ids)
    today = datetime.now(UTC).date()
    expected = [entry.title for entry in everything if holds(entry, condition, today)]
    assert [entry.title for entry in place.rows(place.listing(Question(condition)).ids)] == expected


def test_tags_and_texts_are_asked_of_their_own_place_only(places: dict[str, Place], tmp_path: Path) -> None:
    assert titles(places["collection"], "tags = vote") == ["Barrage"]
    assert len(places["notes"].listing(Question()).ids) == len(ROWS)


GROUPED: dict[str, list[tuple[str, int, int]]] = {
    "sortBy tags/group": [("law", 2, 0), ("tides", 1, 0), ("vote", 1, 0), ("", 2, 0)],
    "sortBy published/group=year": [("1926", 2, 0), ("1990", 1, 0), (YESTERDAY[:4], 1, 0), ("", 1, 0)],
    "sortBy published/group=month": [
        ("1926", 1, 0),
        ("1926-03", 1, 0),
        ("1990-05", 1, 0),
        (KINDS["date"].show(YESTERDAY[:7]), 1, 0),
        ("", 1, 0),
    ],
    "sortBy published/group=decade": [("1920s", 2, 0), ("1990s", 1, 0), (f"{YESTERDAY[:3]}0s", 1, 0), ("", 1, 0)],
    "sortBy published/group=century": [("1900s", 3, 0), (f"{YESTERDAY[:2]}00s", 1, 0), ("", 1, 0)],
    "sortBy price/group=50": [("0 to under 50", 1, 0), ("100 to under 150", 1, 0), ("", 3, 0)],
    "sortBy title/group=letter": [("B", 1, 0), ("E", 1, 0), ("M", 2, 0), ("Z", 1, 0)],
    "sortBy authors/group": [("Pell, Isaac", 1, 0), ("", 4, 0)],
    "sortBy status/group tags/group": [
        ("to read", 3, 0), ("law", 1, 1), ("tides", 1, 1), ("", 1, 1),
        ("read", 1, 0), ("law", 1, 1),
        ("quoted", 1, 0), ("", 1, 1),
        ("", 1, 0), ("vote", 1, 1),
    ],
}  # fmt: skip


@pytest.mark.parametrize("kind", ["collection", "notes"])
@pytest.mark.parametrize("asked", GROUPED)
def test_groups(places: dict[str, Place], kind: str, asked: str) -> None:
    place = places[kind]
    listing = place.listing(cql.parse(asked, place.askable))
    assert [(group.name, group.size, group.level) for group in listing.groups] == GROUPED[asked]
    assert sum(group.rows for group in listing.groups) == len(listing.ids)
    assert listing.size == 5, "an entry that stands in several groups counts once"
    assert set(listing.ids) == set(place.listing(Question()).ids)


@pytest.fixture(scope="module")
def many(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Place]:
    """Entries of all statuses, of one that is no option, and of none, captured in no order."""
    session, chance = Session(tmp_path_factory.mktemp("many"), Fetcher()), random.Random(5)
    plans = (*PLANS, FieldPlan("captured", "Captured", "date"))
    session._library.add_collection("Many", plans)
    place = session._library.place("Many")
    statuses: list[Value] = [option.name for option in STATUSES[:4]]
    with session._library.step("fill"):
        for number in range(120):
            status = chance.choice([*statuses, "zu lesen", "Älter", None])
            values = {
                "status": status,
                "captured": f"20{chance.randrange(10, 30)}",
                "price": chance.choice([1.0, 2.0, None]),
            }
            place.add(Draft(f"Mill {number}", values, ""))
    yield session._library.place("Many")
    session.close()


@pytest.mark.parametrize(
    "asked",
    ["sortBy status/group", "sortBy status/group captured/descending", "sortBy status/group price title/descending",
     "price = 1 sortBy status/group captured", "status = read sortBy status/group title", "price = 7 sortBy status/group title"],
)  # fmt: skip
def test_entries_dealt_out_to_options_lie_as_when_they_are_sorted(
    many: Place, asked: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    question = cql.parse(asked, many.askable)
    found = []
    for least in (0, 1_000_000):
        monkeypatch.setattr("wily_magpie.core.places.table.LEAST_DEALT", least)
        listing = many.listing(question)
        found.append((list(listing.ids), listing.groups, listing.size, listing.total))
    assert found[0] == found[1]
    assert sum(group.rows for group in found[0][1]) == len(found[0][0])


def test_the_usual_order_is_not_sorted_anew(many: Place) -> None:
    table = many.rows_table
    assert isinstance(table, Table)
    question = cql.parse("sortBy captured/descending", many.askable)
    sql, values = to_sql.ids(question, table.schema, to_sql.today())
    plan = " ".join(str(row[-1]) for row in table.database.rows(f"EXPLAIN QUERY PLAN {sql}", values))
    assert "_by_" in plan
    assert "TEMP B-TREE" not in plan


def test_sums_stand_at_the_foot_and_in_each_group(places: dict[str, Place]) -> None:
    wanted = {"price": Sum.MEAN, "published": Sum.EARLIEST, "tags": Sum.DISTINCT, "title": Sum.COUNT}
    for place in places.values():
        told = place.rows_table.sums(cql.parse("sortBy status/group", place.askable), wanted)
        assert told[()] == {
            "price": "mean 54.75",
            "published": "earliest 1926",
            "tags": "different 3",
            "title": "count 5",
        }
        assert told["to read",] == {
            "price": "mean 9.5",
            "published": f"earliest {KINDS['date'].show('1926-03-12')}",
            "tags": "different 2",
            "title": "count 2",
        }
        assert told["",]["price"] == "mean 100"
