"""Templates: expressions in their sandbox, the open JSON form, match rules, and the slip that they fill."""

import json
import re
import time
from dataclasses import replace
from pathlib import Path

import pytest
import yaml

from wily_magpie.core.entries.field import TITLE, Field
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.fields import KINDS
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.templates.apart import check, evaluate, work_out
from wily_magpie.core.templates.by_hand import ByHand
from wily_magpie.core.templates.filters import BORROWED, FILTERS
from wily_magpie.core.templates.match import read_rule
from wily_magpie.core.templates.open_form import check_expressions, from_json, to_json
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.slip import NOTHING, Slip, fill
from wily_magpie.core.templates.starters import starters
from wily_magpie.core.templates.template import Choice, Template, choose

HTML = """<html lang="en"><head><title>The mill | Mills</title><meta property="og:site_name" content="Mills">
<script type="application/ld+json">{"@type": "Product", "name": "The mill", "author": ["Ada Penhallow", "Tom Varley"],
"offers": {"price": "1,250.50", "priceCurrency": "GBP"}, "sku": {"code": "M-9"}, "datePublished": "2024-05-06T10:00Z"}
</script><meta name="keywords" content="law, tides"></head><body><h1>The mill</h1><p>Text of some length.</p></body></html>"""
NOW = "2026-01-02T03:04Z"
FIELDS = (
    TITLE,
    Field("authors", "Authors", KINDS["people"], "f1"),
    Field("price", "Price", KINDS["number"], "f2"),
    Field("published", "Published", KINDS["date"], "f3"),
    Field("summary", "Summary", KINDS["long text"], "f4"),
)


@pytest.fixture(scope="module")
def reading() -> Reading:
    return read_page(Page("https://www.mills.example/shop/mill?x=1", HTML, "file"))


CASES = yaml.safe_load((Path(__file__).parents[2] / "cases" / "expressions.yaml").read_text("utf-8"))


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["from"][:60])
def test_values(reading: Reading, case: dict[str, object]) -> None:
    expression = str(case["from"])
    check(expression, "title")
    assert evaluate(expression, RuleContext(reading, NOW)).value == case["gives"]


def test_every_filter_has_cases() -> None:
    used = {name for case in CASES for name in re.findall(r"\|\s*(\w+)", case["from"])}
    assert {*FILTERS, *BORROWED} - used == {"note_link"} & FILTERS.keys()


SAID = {
    "'x' | regex('(a{1000}){1000}')": "counts too far",
    "{{ page }}": "a part of the page stands where a text should",
    "{{ found }}": "a part of the page stands where a text should",
    "page ~ 'x'": "a part of the page stands where a text should",
    "{{ page.keywords }}": "a list stands where a text should",
    "page.keywords ~ 'x'": "a list stands where a text should",
    **dict.fromkeys(("page | string", "{{ page | upper }}", "{{ [page] | join }}", "[page] | bullets", "page | quote", "{{ 'x' | words({'x': page}) }}", "page | regex('.*')", "found | string", "found.get | string", "{{ 'x'.split | string }}", "page | default(page)", "[page]", "{% for x in [1] %}{{ loop | string }}{% endfor %}", "page | note_link", "found", "[[found]] | first | last"), "a part of the page stands where a text should"),
    **dict.fromkeys(("page.keywords | string", "{{ found.items() | join }}", "[['a']]", "[['a']] | join", "page.keywords | upper"), "a list stands where a text should"),
    "2.5 | round(99999999)": "round knows up to 20 decimals",
    "{% set a = page.text | default('x') %}" + "{% set a = a ~ a %}" * 60 + "{{ a }}": "it becomes too large",
    "'x'" + " ~ ('y' | replace('y', 'z' ~ 'z'))" * 300 + " | round": "fails",
}  # fmt: skip


@pytest.mark.parametrize("expression", SAID, ids=lambda expression: expression[:40])
def test_what_is_no_value_is_said_with_the_way_out(reading: Reading, expression: str) -> None:
    with pytest.raises(UserError, match=re.escape(SAID[expression])) as told:
        evaluate(expression, RuleContext(reading, NOW))
    assert told.value.way_out


def test_nothing_is_blank_in_a_text(reading: Reading) -> None:
    text = "{{ page.doi }}|{{ data.nothing.at.all }}|{{ none }}|{{ 1 }}|{{ 2.5 }}|{{ page.title ~ page.doi }}"
    assert evaluate(text, RuleContext(reading, NOW)).value == "|||1|2.5|The mill"


def test_an_expression_that_goes_on_is_stopped_and_others_go_on(reading: Reading) -> None:
    endless = (
        "{% for a in page.text %}{% for b in page.text %}{% for c in page.text %}x{% endfor %}{% endfor %}{% endfor %}"
    )
    context = RuleContext(reading, NOW)
    with pytest.raises(UserError, match=r"takes too long|too large"):
        evaluate(endless, context)
    assert evaluate("page.title | upper", context).value == "THE MILL"


ATTACKS = [
    "page.__class__", "page._reading.page", "''.__class__.__mro__[1].__subclasses__()", "page.title.format(page)", "'{:>99999999999}'.format(1)", "page",
    "'a' * 10000000000", "10 ** 10 ** 10", "(9 ** 60) * (9 ** 60) * (9 ** 60) * (9 ** 60) ** 60", "'%099999999d' % 1",
    "[1] * 1000000000", "namespace()", "cycler(1)", "lipsum()", "range(10000000)", "now.encode()", "page.title.join(found)",
    "data.jsonld.append(1)", "data.jsonld[0].update({'a': 1})", "data.jsonld[0].clear()", "self", "found.items.__globals__",
    "page.title | attr('__class__')", "page.title | map('upper')", "page.title | format", "page | pprint",
    "page.title | replace('', 'x' * 3)", "(now | string) | center(100000000)",
]  # fmt: skip


@pytest.mark.parametrize("expression", ATTACKS)
def test_the_sandbox_gives_nothing_away_and_ends_soon(reading: Reading, expression: str) -> None:
    start = time.monotonic()
    try:
        check(expression, "title")
        value = evaluate(expression, RuleContext(reading, NOW)).value
    except UserError as error:
        assert error.message
        value = ""
    assert time.monotonic() - start < 5
    assert value in ("", None, []) or expression.startswith("page.title | map")
    assert reading.data["jsonld"][0]["sku"] == {"code": "M-9"}


def test_a_long_reckoning_is_stopped(reading: Reading) -> None:
    slow = "found" + "".join(f" | items | join('{n}') | items" for n in range(400))
    with pytest.raises(UserError, match="fails"):
        evaluate(slow, RuleContext(reading, NOW))


def test_pages_are_worked_out_together_each_with_its_own_values_and_faults(reading: Reading) -> None:
    others = [RuleContext(reading, NOW, f"Place {n}") for n in range(40)]
    others += [RuleContext(replace(reading, notice=str(n)), NOW) for n in range(40)]
    texts = ["place ~ page.title", "page | upper", "1 / 0"]
    work_out(texts, others)
    for context in others:
        assert set(context.worked) == set(texts)
        assert evaluate(texts[0], context).value == f"{context.place}The mill"
        with pytest.raises(UserError, match="division by zero"):
            evaluate(texts[2], context)


@pytest.mark.parametrize("number", ["9" * 3000, "9" * 19_000, "1e400"])
def test_a_number_that_is_too_large_is_said(number: str) -> None:
    with pytest.raises(UserError, match="of Price"):
        check(number, "Price")


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ('{"name": "A", "name": "B"}', "stands there twice"),
        ('{"name": "\\ud83d"}', "half a letter"),
        ('{"name": "A\\u0000"}', "NUL"),
        ('{"name": ' + "[" * 100_000, "is not JSON"),
        ('{"name": 1' + "0" * 5000 + "}", "JSON"),
    ],
)
def test_a_file_that_cannot_be_kept_is_refused(text: str, said: str) -> None:
    with pytest.raises(UserError, match=said):
        from_json(text)


@pytest.mark.parametrize(
    "expression", ["page.", "{{ page.title }", "'open", "{% if page.title %}x", "x" * 30_000, "(" * 3000]
)
def test_what_cannot_be_read_is_said(expression: str) -> None:
    with pytest.raises(UserError, match="of Published"):
        check(expression, "Published")


def test_the_open_form_comes_back_the_same() -> None:
    for template in starters():
        assert from_json(to_json(template)) == template


FAULTY = {
    "no json": ("{", "not JSON"),
    "no name": ("{}", "name is missing"),
    "newer": ('{"name": "x", "format": 99}', "format is 99"),
    "unknown rule": ('{"name": "x", "match": [{"moon is": "full"}]}', "match[0] is no match rule"),
    "no fields": ('{"name": "x", "fields": []}', "fields must be"),
    "no expression": ('{"name": "x", "fields": {"a": "page.title"}}', 'fields.a must be {"expression"'),
    "faulty expression": (
        json.dumps({"name": "x", "fields": {"a": {"expression": "page."}}, "title": {"expression": "1"},
                    "body": {"expression": "1"}}),
        "expression of a cannot be read",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", FAULTY)
def test_a_faulty_template_says_where(name: str) -> None:
    text, said = FAULTY[name]
    with pytest.raises(UserError) as told:
        check_expressions(from_json(text))
    assert said in told.value.message


def template(*rules: str, **fields: str) -> Template:
    mapped = {key: Rule("expression", (text,)) for key, text in fields.items()}
    return Template("Ours", "Sources", tuple(map(read_rule, rules)), fields=mapped)


def slip_of(ours: Template, reading: Reading, hand: ByHand = NOTHING) -> Slip:
    return fill(ours, "chosen by you", RuleContext(reading, NOW), "collection:1", FIELDS, hand)


def test_rules_choose(reading: Reading) -> None:
    by_address = template("address begins with http://mills.example/shop")
    by_type = template("structured type is product")
    other = template("address begins with mills.example/blog")
    assert choose([other, by_address, by_type], reading) == Choice(
        by_address,
        "the address begins with http://mills.example/shop",
        (by_type.name,),
    )
    assert choose([other, by_type], reading).reason == "the structured type is product"
    assert choose(starters(), reading).template.name == "Book or product with a price"
    with pytest.raises(UserError, match="No template takes this page"):
        choose([other], reading)


def test_a_slip_is_filled_with_origins(reading: Reading) -> None:
    ours = template(authors="page.authors", price="page.price | number", published="page.published")
    slip = slip_of(ours, reading)
    lines = {line.field.key: line for line in slip.lines}
    assert lines["title"].text == "The mill"
    assert lines["authors"].text == "Penhallow, Ada; Varley, Tom"
    assert lines["price"].origin == "structured data Product.offers.price"
    assert (lines["summary"].text, lines["summary"].origin) == ("", "")
    draft = slip.draft()
    assert draft.values == {
        "authors": ("Penhallow, Ada", "Varley, Tom"),
        "price": 1250.5,
        "published": "2024-05-06T10:00Z",
    }
    assert draft.canonical == "mills.example/shop/mill?x=1"
    assert "Text of some length" in draft.body


def test_other_values_are_offered(reading: Reading) -> None:
    slip = slip_of(template(), reading)
    assert all(other.value != "The mill" for other in slip.lines[0].others)
    assert all(other.origin for other in slip.lines[0].others)


def test_what_was_typed_stays_when_the_template_changes(reading: Reading) -> None:
    slip = slip_of(template(), reading).with_text("summary", "My own words")
    again = slip_of(template(price="page.price | number", summary="page.title"), reading, slip.by_hand)
    assert again.lines[-1].text == "My own words"
    assert again.lines[-1].origin == "typed"
    assert again.lines[2].text == "1250.5"


def test_a_typed_text_stays_and_ticks_the_blocks_that_stand_in_it(reading: Reading) -> None:
    fresh = slip_of(template(), reading)
    kept = next(block.markdown for block in reading.content.blocks if block.is_kept)
    slip = fresh.with_typed(ByHand(body=f"Mine\n\n{kept}"))
    assert slip.body == f"Mine\n\n{kept}"
    assert slip.is_body_typed
    assert [block.markdown for block in slip.reading.content.blocks if block.is_kept] == [kept]
    assert fresh.with_typed(fresh.by_hand) == fresh


def test_what_cannot_be_read_is_left_for_the_person(reading: Reading) -> None:
    slip = slip_of(template(price="page.title", published="page.title | nothing"), reading)
    lines = {line.field.key: line for line in slip.lines}
    assert "not a number" in lines["price"].problem
    assert "page.title | nothing" in lines["published"].problem
    assert lines["price"].text == ""


def test_a_slip_says_what_keeps_it_from_being_kept(reading: Reading) -> None:
    slip = slip_of(template(), reading)
    with pytest.raises(UnreadableValue, match="Price: “soon” is not a number"):
        slip.with_text("price", "soon").draft()
    with pytest.raises(UserError, match="no title"):
        slip.with_text("title", " ").draft()
