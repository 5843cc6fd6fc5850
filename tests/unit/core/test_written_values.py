"""Dates, numbers and amounts as people and pages write them; lists in expressions; organisations."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.commands.entries import AddEntry, SetText
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.fields import KINDS
from wily_magpie.core.fields.people import family_first
from wily_magpie.core.fields.written_date import read_date
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.page import Page
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.apart import evaluate
from wily_magpie.core.templates.rule_context import RuleContext

DATES = [
    ("1926", "", "1926"), ("12 March 1926", "", "1926-03-12"), ("March 12, 1926", "en", "1926-03-12"),
    ("1. Mai 2025", "", "2025-05-01"), ("1. Mai 2025", "de", "2025-05-01"), ("Mai 2025", "de", "2025-05"),
    ("12.3.2024", "", "2024-03-12"), ("12. 3. 2024", "en", "2024-03-12"), ("2024/3/4", "", "2024-03-04"),
    ("3/4/2024", "en-US", "2024-03-04"), ("3/4/2024", "en-GB", "2024-04-03"), ("3/4/2024", "fr", "2024-04-03"),
    ("13/4/2024", "", "2024-04-13"), ("4/13/2024", "", "2024-04-13"), ("4/4/2024", "", "2024-04-04"),
    ("le 3 mars 1931", "", "1931-03-03"), ("3 de marzo de 1931", "", "1931-03-03"), ("1er avril 1931", "fr", "1931-04-01"),
    ("2024年3月12日", "", "2024-03-12"), ("2024年3月", "ja", "2024-03"), ("2024년 3월 12일", "", "2024-03-12"),
    ("c. 1790", "", "1790~"), ("ca. 1790", "", "1790~"), ("um 1790", "de", "1790~"), ("1790~", "", "1790~"),
    ("spring 1880", "", "1880-21"), ("Herbst 1880", "de", "1880-23"), ("été 1880", "fr", "1880-22"), ("1880-24", "", "1880-24"),
    ("1890/1914", "", "1890/1914"), ("1890-1914", "", "1890/1914"), ("2024-03-12T10:30Z", "", "2024-03-12T10:30Z"),
    ("Friday, 14 March 2025", "en", "2025-03-14"), ("١٢ مارس ٢٠٢٤", "ar", "2024-03-12"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "language", "value"), DATES)
def test_a_date_is_read_as_it_is_written(text: str, language: str, value: str) -> None:
    assert read_date(text, language).value == value
    kind = KINDS["date"]
    assert kind.read_in(text, language) == value
    assert kind.read(kind.show(value)) == value, "what is shown can be read again"


@pytest.mark.parametrize("text", ["31.2.2024", "32 March 1926", "1. Floreal 1794", "spring", "c.", "99/99/2024", "2024年13月", "before the flood"])  # fmt: skip
def test_what_is_no_date_stays_a_text(text: str) -> None:
    assert read_date(text).value is None
    value, told = KINDS["date"].take(text)
    assert value == text
    assert "kept as text" in told


@pytest.mark.parametrize("language", ["", "en"])
def test_an_ambiguous_date_is_said_and_left_to_the_person(language: str) -> None:
    with pytest.raises(UnreadableValue, match="can be 2024-04-03 or 2024-03-04"):
        KINDS["date"].read_in("3/4/2024", language)
    assert "can be 2024-04-03 or 2024-03-04" in KINDS["date"].take("3/4/2024")[1]


@given(st.text(max_size=40), st.sampled_from(["", "en", "de", "zz", "ar"]))
def test_no_text_breaks_the_reading_of_dates(text: str, language: str) -> None:
    value = read_date(text, language).value
    assert value is None or read_date(value).value == value


def test_dates_in_filters_and_cells_are_read_the_same(session: Session) -> None:
    one = session.do(AddEntry("collection:1", "The mill"))
    session.do(SetText("collection:1", [one], "published", "1. Mai 2025"))
    entries = session.reader.entries
    for written in ("1. Mai 2025", "2025-05-01", "2025年5月1日", "May 2025"):
        question = entries.question("collection:1", f'published = "{written}"')
        assert list(entries.listing("collection:1", question).ids) == [one]


NUMBERS = [
    ("1.150", "de", 1150.0), ("1.150", "en", 1.15), ("1,150", "en", 1150.0), ("1,150", "de", 1.15), ("1.150,50", "", 1150.5),
    ("1,150.50", "de", 1150.5), ("1'150.50", "de-CH", 1150.5), ("12,5", "", 12.5), ("0.125", "", 0.125), ("1 150", "fr", 1150.0),
    ("-3.5", "", -3.5), ("1.234.567", "", 1234567.0),
]  # fmt: skip


@pytest.mark.parametrize(("text", "language", "value"), NUMBERS)
def test_a_number_is_read_by_its_language(text: str, language: str, value: float) -> None:
    assert KINDS["number"].read_in(text, language) == value


@pytest.mark.parametrize("kind", ["number", "amount"])
def test_a_number_that_can_be_two_is_said(kind: str) -> None:
    with pytest.raises(UnreadableValue, match=r"can be 1150 or 1\.150"):
        KINDS[kind].read_in("1.150", "")


def context(language: str, body: str = "") -> RuleContext:
    html = f'<html lang="{language}"><title>Mill</title><meta name="author" content="Ada Penhallow"><p>{body or "The mill."}</p>'
    return RuleContext(read_page(Page("https://mills.example/a", html, "file")), "2026-01-02T03:04Z")


@pytest.mark.parametrize(
    ("expression", "language", "value"),
    [
        ('"1.150 €" | amount', "de", "1150 EUR"), ('"1.150 €" | amount', "en", "1.15 EUR"), ('"ab 1.150 Euro" | number', "de", "1150"),
        ('["Ada", "Tom"] | each("note_link") | join(", ")', "en", "[[Ada]], [[Tom]]"),
        ('["1.5", "x", "2"] | each("number") | join("+")', "en", "1.5+2"), ('"Ada" | each("upper") | join', "en", "ADA"),
        ('page.authors | given_family | each("note_link", make=true) | join(", ")', "en", "[[Ada Penhallow]]"),
    ],
)  # fmt: skip
def test_expressions_know_the_language_and_lists(expression: str, language: str, value: str) -> None:
    assert evaluate(expression, context(language)).value == value


@pytest.mark.parametrize(
    ("expression", "said"),
    [
        ('"1.150 €" | amount', "can be 1150 or 1.150"), ('["a", "b"] | note_link(make=true)', "a list stands where a text should"),
        ('["a"] | each("note_lnk")', "did you mean note_link"), ('["a"] | each("each")', "there is no filter each"),
    ],
)  # fmt: skip
def test_what_cannot_be_known_is_said(expression: str, said: str) -> None:
    with pytest.raises(UserError, match=said):
        evaluate(expression, context(""))


@pytest.mark.parametrize(
    ("name", "shown"),
    [
        ("Tide Letters", "Tide Letters"), ("Ostrel Museum", "Ostrel Museum"), ("The Estuary", "The Estuary"),
        ("Ada Penhallow", "Penhallow, Ada"), ("Ada van der Meer", "van der Meer, Ada"), ("Daily Herald", "Daily Herald"),
        ("Penguin Books", "Penguin Books"), ("Deutsche Welle", "Deutsche Welle"), ("Human Rights Watch", "Human Rights Watch"),
        ("Tate Modern", "Tate Modern"),
    ],
)  # fmt: skip
def test_an_organisation_is_never_turned_round(name: str, shown: str) -> None:
    assert family_first(name) == shown
