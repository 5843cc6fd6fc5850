"""Every kind of field reads what people write, and reads again what it shows."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.entries.field import Field, Settings
from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields import KINDS, Relation
from wily_magpie.core.fields.people import family_first, given_first

READ: dict[str, list[tuple[str, object]]] = {
    "text": [("  a \n b ", "a b"), ("", None), ("\0", None)],
    "long text": [("a\r\nb\n", "a\nb"), ("  ", None)],
    "number": [
        ("1,250", 1250.0), ("1 250.5", 1250.5), ("-3", -3.0), ("\u22122", -2.0), ("1e3", 1000.0), (".5", 0.5), ("", None),
    ],
    "date": [
        ("1926", "1926"), ("1926-03", "1926-03"), ("1926-03-12", "1926-03-12"), ("12 March 1926", "1926-03-12"),
        ("March 12, 1926", "1926-03-12"), ("Sept 1926", "1926-09"), ("3rd May 1926", "1926-05-03"),
        ("1890/1914", "1890/1914"), ("1890–1914", "1890/1914"), ("1890-1914", "1890/1914"), ("1926-03-12/1926-04", "1926-03-12/1926-04"),
        ("2025-03-14T08:30:00+01:00", "2025-03-14T08:30+01:00"), ("2025-03-14T08:30:00+0000", "2025-03-14T08:30Z"), ("2025-03-14 08:30", "2025-03-14T08:30"), ("", None),
    ],
    "amount": [
        ("€ 1,250.00", "1250 EUR"), ("1.250,50 €", "1250.5 EUR"), ("3.2 km", "3.2 km"), ("£12", "12 GBP"), ("USD 5", "5 USD"),
        ("40 m²", "40 m²"), ("-3 °C", "-3 °C"), ("17", "17"), ("1 000 000 kg", "1000000 kg"), ("", None),
    ],
    "yes/no": [("Yes", True), ("no", False), ("1", True), ("", None)],
    "choice": [(" to  read ", "to read"), ("", None)],
    "choices": [("law; tides", ("law", "tides")), ("law, tides, law", ("law", "tides")), ("a, b;", ("a, b",)), ("", None)],
    "address": [("https://mills.example/a", "https://mills.example/a"), ("", None)],
    "people": [
        ("Ada Penhallow and Tom Varley", ("Penhallow, Ada", "Varley, Tom")),
        ("Penhallow, Ada; Varley, Tom", ("Penhallow, Ada", "Varley, Tom")),
        ("Ada Penhallow, Tom Varley and Wenna Strick", ("Penhallow, Ada", "Varley, Tom", "Strick, Wenna")),
        ("Saltmarsh Museum", ("Saltmarsh Museum",)),
        ("", None),
    ],
}  # fmt: skip
UNREADABLE = {
    "number": ["twelve", "1.2.3", "1e999", "nan", "0x10", "1,2"],
    "date": [
        "spring 1880",
        "1926-13",
        "1926-02-30",
        "2025-03-14T25:00Z",
        "2025-03-14T08:00+99:00",
        "12.3.26",
        "next week",
        "1914/1890",
    ],
    "amount": ["a few", "EUR", "3 km 4", "1.2.3.4,5,6 kg"],
    "files": ["notes.pdf", "0123/notes.pdf"],
    "summary": ["three"],
    "yes/no": ["perhaps"],
    "address": ["mills.example", "javascript:alert(1)", "file:///etc/passwd", "http://", "http://a b", "http://[::1"],
}
CASES = [(kind, text, value) for kind, pairs in READ.items() for text, value in pairs]
BAD = [(kind, text) for kind, texts in UNREADABLE.items() for text in texts]


@pytest.mark.parametrize(("kind", "text", "value"), CASES)
def test_reads_what_people_write(kind: str, text: str, value: object) -> None:
    assert KINDS[kind].read(text) == value


@pytest.mark.parametrize(("kind", "text"), BAD)
def test_says_what_is_no_value(kind: str, text: str) -> None:
    with pytest.raises(UnreadableValue) as told:
        KINDS[kind].read(text)
    assert text in told.value.message
    assert told.value.way_out


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


@pytest.mark.parametrize("text", ["spring 1880", "about 1700", "12.3.26"])
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
    written = set(KINDS[name].signs.values()) | {Relation.EMPTY, Relation.NOT_EMPTY}
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
