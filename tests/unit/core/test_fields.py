"""Every kind of field reads what people write, and reads again what it shows."""

import math
from pathlib import Path
from typing import Any

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.entries.field import Field, Settings
from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields import KINDS, Relation
from wily_magpie.core.fields.people import family_first, given_first
from wily_magpie.core.query.cql import SAID

CASES: list[dict[str, Any]] = yaml.safe_load((Path(__file__).parents[2] / "cases" / "edits.yaml").read_text("utf-8"))
KEPT = [case for case in CASES if "kept" in case]
REFUSED = [case for case in CASES if "refused" in case]


def named(case: dict[str, Any]) -> str:
    return f"{case['kind']}: {case['typed'][:40]!r}"


@pytest.mark.parametrize("case", KEPT, ids=named)
def test_reads_what_people_write(case: dict[str, Any]) -> None:
    kind, kept = KINDS[case["kind"]], case["kept"]
    value = kind.read(case["typed"])
    assert value == (tuple(kept) if isinstance(kept, list) else kept)
    assert kind.show(value) == case.get("shown", case["typed"])
    assert kind.read(kind.show(value)) == value


@pytest.mark.parametrize("case", REFUSED, ids=named)
def test_says_what_is_no_value(case: dict[str, Any]) -> None:
    with pytest.raises(UnreadableValue) as told:
        KINDS[case["kind"]].read(case["typed"])
    assert told.value.message == case["refused"]
    assert told.value.way_out


def test_every_kind_has_cases() -> None:
    assert {case["kind"] for case in CASES} == KINDS.keys() - {"gaps"}


@pytest.mark.parametrize("name", KINDS)
@given(text=st.text(max_size=60) | st.from_regex(r"[A-Z][a-z]+ [A-Z][a-z]+( and [A-Z]\w+ \w+)?|[\d,. -]{1,12}"))
def test_reads_again_what_it_shows(name: str, text: str) -> None:
    kind = KINDS[name]
    try:
        value = kind.read(text)
    except UnreadableValue:
        return
    assert kind.read(kind.show(value)) == value
    assert kind.from_plain(kind.to_plain(value)) == value


@pytest.mark.parametrize("text", ["before the flood", "third quarter 1700", "12.3.26"])
def test_a_person_may_keep_a_date_as_text_and_is_warned(text: str) -> None:
    kind = KINDS["date"]
    value, warning = kind.take(text)
    assert value == text
    assert text in warning
    assert kind.doubt(value) == warning
    assert not kind.doubt(kind.read("1890/1914"))


def test_numbers_are_shown_with_the_precision_of_their_field() -> None:
    number = Field("n", "N", KINDS["number"], "f1", settings=Settings(precision=2))
    amount = Field("a", "A", KINDS["amount"], "f2", settings=Settings(precision=0))
    assert number.shown(1250.0) == "1,250.00"
    assert amount.shown("1250.6 EUR") == "1,251 EUR"
    assert Field("n", "N", KINDS["number"], "f1").shown(1250.5) == "1250.5"


@pytest.mark.parametrize("name", ["Sluice, Weir, Lock, Son", "Penhallow and Sons", "a b, c d, e f"])
def test_a_name_that_looks_like_several_stays_one_in_a_list(name: str) -> None:
    assert KINDS["people"].from_plain([name]) == KINDS["people"].read(f"{name};")
    assert len(KINDS["people"].from_plain([name]) or ()) == 1  # type: ignore[arg-type]


@given(st.floats(allow_nan=False, allow_infinity=False))
def test_every_number_survives(number: float) -> None:
    kind = KINDS["number"]
    assert kind.read(kind.show(number)) == number


@given(st.dates())
def test_dates_sort_as_their_texts(day: object) -> None:
    assert KINDS["date"].read(str(day)) == str(day)


@pytest.mark.parametrize("name", KINDS)
def test_every_offered_condition_can_be_written(name: str) -> None:
    written = set(KINDS[name].signs.values()) | {Relation.EMPTY, Relation.NOT_EMPTY} | SAID.keys()
    assert set(KINDS[name].relations) <= written


@pytest.mark.parametrize(
    ("given_name", "family"),
    [
        ("Ada van der Meer", "van der Meer, Ada"),
        ("Martin King Jr.", "King, Martin Jr."),
        ("Penhallow", "Penhallow"),
        ("County Record Office", "County Record Office"),
        ("水車 太郎", "水車 太郎"),
    ],
)
def test_families_come_first(given_name: str, family: str) -> None:
    assert family_first(given_name) == family


def test_given_names_come_first_again() -> None:
    assert given_first("van der Meer, Ada") == "Ada van der Meer"


ABSURD = [
    "9" * 400,
    "1e999",
    "nan",
    "inf",
    f"PT{'9' * 400}H",
    f"{'9' * 400} h",
    f"1:{'9' * 400}",
    "9" * 5000,
    "\ud800",
    "\0",
    "²",
    "€" + "9" * 400,
]


@pytest.mark.parametrize("name", list(KINDS))
def test_no_text_is_more_than_a_value_or_a_reason(name: str) -> None:
    kind = KINDS[name]
    for text in ABSURD:
        for read in (kind.read, lambda one: kind.take(one)[0], kind.from_plain):
            try:
                value = read(text)
            except UnreadableValue:
                continue
            assert not isinstance(value, float) or math.isfinite(value), text[:20]
            kind.show(value)
            kind.to_plain(value)
