"""What a page only shows: labels with values, prices, lines of letters, dates that are of the matter rather than of the page."""

import pytest

from wily_magpie.core.pages.page import LABELLED, Page, Reading
from wily_magpie.core.pages.read import read_page
from wily_magpie.core.templates.propose import propose_fields
from wily_magpie.core.templates.rule_context import RuleContext

TEXT = "".join(
    f"<p>The mill house has {number} rooms that look over the pond to the sluice and to the sea.</p>"
    for number in range(5)
)


def read(body: str, language: str = "en") -> Reading:
    html = f'<html lang="{language}"><head><title>A mill house to let</title></head><body><main><h1>A mill house to let</h1>{body}</main></body></html>'
    return read_page(Page("https://rooms.example/mill", html, "file"))


def shown(reading: Reading) -> dict[str, str]:
    return {one.name: one.value for one in reading.findings if one.origin == LABELLED}


@pytest.mark.parametrize(
    "body",
    [
        "<dl><dt>Rent:</dt><dd>1,150 €</dd><dt>Rooms</dt><dd>3</dd></dl>",
        "<table><tr><td>Rent</td><td>1,150 €</td></tr><tr><th>Rooms</th><td>3</td></tr></table>",
        "<ul><li>Rent: 1,150 €</li><li>Rooms: 3</li></ul>",
        "<div><p><b>Rent:</b> 1,150 €</p><p><b>Rooms:</b> 3</p></div>",
    ],
)
def test_labels_are_findings(body: str) -> None:
    assert shown(read(body + TEXT)) == {"Rent": "1,150 €", "Rooms": "3"}


@pytest.mark.parametrize(
    "body",
    [
        "<p>Note: the pond is deep.</p>",
        "<table><tr><th>Year</th><th>Tide</th></tr><tr><td>1931</td><td>4.2</td></tr></table>",
        "<table><tr><td>1</td><td>2</td><td>3</td></tr><tr><td>1</td><td>2</td><td>3</td></tr></table>",
        "<aside><dl><dt>Call</dt><dd>us</dd></dl></aside>",
    ],
)
def test_what_is_no_pair_is_none(body: str) -> None:
    assert shown(read(body + TEXT)) == {}


def test_they_are_proposed_as_fields_of_the_right_kinds() -> None:
    pages = [
        read(
            f"<dl><dt>Miete</dt><dd>{rent}</dd><dt>Zimmer</dt><dd>{rooms}</dd><dt>Frei ab</dt><dd>{free}</dd></dl>{TEXT}",
            "de",
        )
        for rent, rooms, free in (("1.150 €", "3", "1. Mai 2025"), ("980 €", "2,5", "12.6.2025"))
    ]
    plans = {
        plan.label: plan.kind for plan, _ in propose_fields([RuleContext(one, "2026-01-02T03:04Z") for one in pages])
    }
    assert (plans["Miete"], plans["Zimmer"], plans["Frei ab"]) == ("amount", "number", "date")


def test_a_shown_price_is_a_candidate_without_markup() -> None:
    reading = read(f'<div class="price">1,150 €</div>{TEXT}')
    assert (reading.best("price"), reading.best("currency")) == ("1150", "EUR")


@pytest.mark.parametrize(
    "line", ["Free from 1 May 2025", "Frei ab 1. Mai 2025", "Valid until 12 March 2024", "Libre à partir du 1 mai 2025"]
)
def test_a_date_of_the_matter_is_no_date_of_publication(line: str) -> None:
    assert read(f'<p class="date">{line}</p>{TEXT}').best("published") == ""


@pytest.mark.parametrize(
    "line", ["View this email in your browser", "Unsubscribe from this list", "Im Browser ansehen", "Se désabonner"]
)
def test_lines_of_sending_are_left_out_with_a_reason(line: str) -> None:
    reading = read(f"<p>{line}</p>{TEXT}<p>{line}</p>")
    assert line not in reading.content.text
    reasons = {block.reason for block in reading.content.blocks if block.text == line}
    assert reasons <= {"e-mail footer"}


def test_links_side_by_side_keep_a_space_between_them() -> None:
    reading = read(f'<nav><a href="/">Home</a><a href="/a">About</a></nav>{TEXT}')
    assert "HomeAbout" not in " ".join(block.text for block in reading.content.blocks)
