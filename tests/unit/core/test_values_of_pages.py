"""What a page declares is read by its standard, what it shows by its language; what can be two is said and left."""

import pytest

from wily_magpie.core.entries.field import Field
from wily_magpie.core.fields import KINDS
from wily_magpie.core.pages.page import Page
from wily_magpie.core.pages.read import read_page
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.slip import Slip, fill
from wily_magpie.core.templates.template import Template

FIELDS = [Field(key, key, KINDS[kind], f"f{at}") for at, (key, kind) in enumerate(
    {"title": "text", "number": "number", "amount": "amount", "published": "date"}.items())]  # fmt: skip
PRICE = Rule("finding", ("price",))
TEMPLATE = Template("Shop", fields={"number": PRICE, "amount": PRICE, "published": Rule("finding", ("published",))})
NO_TEMPLATE: dict[str, Rule] = {}


def offer(price: str, more: str = ', "priceCurrency": "EUR"') -> str:
    item = f'{{"@type": "Product", "name": "A mill", "offers": {{"price": {price}{more}}}}}'
    return f'<script type="application/ld+json">{item}</script>'


def slip_of(language: str, html: str, rules: dict[str, Rule] = NO_TEMPLATE) -> Slip:
    page = Page(
        "https://mills.example/shop/a", f'<html lang="{language}"><title>A mill</title><h1>A mill</h1>{html}', "fetched"
    )
    template = Template("Shop", fields={**TEMPLATE.fields, **rules})
    return fill(template, "", RuleContext(read_page(page), "2026-01-02T03:04Z"), "", FIELDS)


def texts_of(slip: Slip) -> dict[str, str]:
    return {line.field.key: line.text for line in slip.lines}


SHOWN = '<div itemscope itemtype="https://schema.org/Product"><div itemprop="offers" itemscope>%s</div></div>'


@pytest.mark.parametrize(
    ("language", "html", "number", "amount"),
    [
        ("de", offer("19.5"), "19.5", "19.5 EUR"), ("de", offer('"19.5"'), "19.5", "19.5 EUR"), ("de", offer('"1.579"'), "1.579", "1.579 EUR"),
        ("fr", offer("1150.25"), "1150.25", "1150.25 EUR"), ("en", offer('"19,50"'), "19.5", "19.5 EUR"),
        ("en", offer('"£24.50"', ""), "24.5", "24.5 GBP"), ("de", offer('"1.150,00"'), "1150", "1150 EUR"),
        ("de", '<meta property="product:price:amount" content="19.5"><meta property="product:price:currency" content="EUR">', "19.5", "19.5 EUR"),
        ("de", SHOWN % '<meta itemprop="price" content="1.579"><b itemprop="priceCurrency" content="EUR"></b>', "1.579", "1.579 EUR"),
        ("de", SHOWN % '<b itemprop="price">1.150 €</b>', "1150", "1150 EUR"), ("de", '<p class="price">1.150 €</p>', "1150", "1150 EUR"),
        ("en", '<p class="price">£24.50</p>', "24.5", "24.5 GBP"), ("de", '<p class="price">12.99 €</p>', "12.99", "12.99 EUR"),
    ],
)  # fmt: skip
def test_a_price_is_what_the_page_says(language: str, html: str, number: str, amount: str) -> None:
    slip = slip_of(language, html)
    assert (texts_of(slip)["number"], texts_of(slip)["amount"]) == (number, amount)
    assert next(line for line in slip.lines if line.field.key == "number").note == f"without its unit, {amount[-3:]}"


@pytest.mark.parametrize(("language", "html"), [("en", offer('"1,150"')), ("", '<p class="price">1.150 €</p>')])
def test_a_price_that_can_be_two_is_said_and_left(language: str, html: str) -> None:
    slip = slip_of(language, html)
    assert texts_of(slip)["number"] == texts_of(slip)["amount"] == ""
    assert all(" can be " in line.problem for line in slip.lines if line.field.key in ("number", "amount"))


@pytest.mark.parametrize(
    ("expression", "value"),
    [
        ("page.price | number", "1.579"), ("(page.price ~ ' ' ~ page.currency) | amount", "1.579 EUR"),
        ("page.price | amount(page.currency)", "1.579 EUR"), ("data.Product.offers.price | number", "1.579"),
        ('"1.579" | number', "1579"), ('"1.5" | number', "1.5"), ('"1.5 km" | amount', "1.5 km"), ('"12.99 €" | amount', "12.99 EUR"),
        ('"12,99" | number', "12.99"),
    ],
)  # fmt: skip
def test_expressions_keep_what_is_declared(expression: str, value: str) -> None:
    key = "amount" if " " in value else "number"
    slip = slip_of("de", offer('"1.579"'), {key: Rule("expression", (expression,))})
    assert texts_of(slip)[key] == value


DATED = {
    "meta": '<meta property="article:published_time" content="3/4/2024">', "time": "<time>3/4/2024</time>",
    "time with a value": '<time datetime="3/4/2024">a day in spring</time>', "by-line": "<p>By Ada Penhallow, 3/4/2024</p>",
    "JSON-LD": '<script type="application/ld+json">{"@type": "Article", "headline": "A mill", "datePublished": "3/4/2024"}</script>',
}  # fmt: skip


@pytest.mark.parametrize("where", DATED)
@pytest.mark.parametrize(
    ("language", "day"), [("en-US", "2024-03-04"), ("en-GB", "2024-04-03"), ("fr", "2024-04-03"), ("en", "")]
)
def test_a_date_in_figures_is_read_by_the_language_of_its_page(where: str, language: str, day: str) -> None:
    slip = slip_of(language, f"{DATED[where]}<p>{'The mill stands at the quay and grinds by the tide. ' * 12}</p>")
    line = next(one for one in slip.lines if one.field.key == "published")
    assert line.text == day
    assert bool(day) or "can be 2024-04-03 or 2024-03-04" in line.problem


def test_a_country_that_is_declared_elsewhere_tells_the_order_of_a_date() -> None:
    slip = slip_of("en", '<meta property="og:locale" content="en_US">' + DATED["meta"])
    assert texts_of(slip)["published"] == "2024-03-04"


@pytest.mark.parametrize(
    ("declared", "heading", "title"),
    [
        ("The mill that turned by the …", "The mill that turned by the tide", "The mill that turned by the tide"),
        ("The mill that turned...", "The mill that turned by the tide", "The mill that turned by the tide"),
        ("&#8216;A mill&#8217; at ebb", "", "‘A mill’ at ebb"),
    ],
)
def test_a_title_is_whole_and_its_letters_are_read(declared: str, heading: str, title: str) -> None:
    item = f'<script type="application/ld+json">{{"@type": "Article", "headline": "{declared}"}}</script>'
    page = Page("https://mills.example/x", f"<title>Mills</title>{item}<h2>{heading}</h2><p>Text.</p>", "fetched")
    assert read_page(page).best("title") == title


def test_a_moment_of_utc_is_of_the_day_that_the_page_shows() -> None:
    moment = '<meta property="article:published_time" content="2024-03-04T23:30:00Z">'
    slip = slip_of("de", f"{moment}<p>5. März 2024</p><p>{'Die Mühle mahlt mit der Flut. ' * 20}</p>")
    assert texts_of(slip)["published"] == "2024-03-05"


MATTER = {
    "a cell": "<table><tr><td>Bezugsfrei ab</td><td>1. Mai 2025</td></tr><tr><td>Miete</td><td>1.150 €</td></tr></table>",
    "a definition": "<dl><dt>Available from</dt><dd>1 May 2025</dd><dt>Rent</dt><dd>£900</dd></dl>",
    "a line": "<p>Free from 1 May 2025</p>", "a class": '<p>Bezug: <span class="date">1. Mai 2025</span></p>',
    "parts of a line": "<p><span>Verfügbar ab</span> <span>1. Mai 2025</span></p>",
}  # fmt: skip


@pytest.mark.parametrize("where", MATTER)
def test_a_day_from_which_something_is_free_is_no_date_of_publication(where: str) -> None:
    slip = slip_of("de", f"{MATTER[where]}<p>{'Die Wohnung liegt am Kai, mit Blick auf die Mühle. ' * 12}</p>")
    assert texts_of(slip)["published"] == ""


@pytest.mark.parametrize("written", ["banana", "3/4/2024"])
def test_the_filter_of_dates_never_cuts_letters(written: str) -> None:
    slip = slip_of("en", "", {"published": Rule("expression", (f'"{written}" | date("year")',))})
    assert written in next(line.problem for line in slip.lines if line.field.key == "published")


def test_a_number_that_is_typed_with_a_unit_says_that_it_is_left_out() -> None:
    value, told = KINDS["number"].take("12,99 €")
    assert (value, "EUR" in told) == (12.99, True)
