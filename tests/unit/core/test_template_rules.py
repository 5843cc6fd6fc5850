"""Rules of templates: each source, match rules, marks, questions, pictures, texts of one's own, names of notes."""

import time
from dataclasses import replace

import pytest

from wily_magpie.core.entries.field import TITLE, Field
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import KINDS
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.templates.apart import Mistake, check, evaluate
from wily_magpie.core.templates.match import read_rule
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import SCREENSHOT, Rule, give
from wily_magpie.core.templates.slip import fill
from wily_magpie.core.templates.template import Body, Choice, Template, choose

HTML = """<html lang="en-GB"><head><title>A mill</title><meta property="og:site_name" content="Mills of the Shore">
<meta name="citation_doi" content="10.5555/mill.1"><meta name="tide" content="ebb"><link rel="icon" href="/i.png">
<meta property="og:image" content="/lead.jpg"><meta property="article:tag" content="law">
<script type="application/ld+json">{"@type": "NewsArticle", "headline": "A mill", "inLanguage": "en",
"author": [{"@type": "Person", "name": "Ada Penhallow"}, {"@type": "Person", "name": "Tom Varley"}],
"isPartOf": {"volumeNumber": 7}}</script></head><body><h1>A mill</h1><p>The wheel turns with the ebb, twice a day.</p></body></html>"""
NOW = "2026-01-02T03:04Z"
MARKS = (Mark("turns with the ebb", "evidence", "So it does."), Mark("twice a day", "question"))
TEXT = Field("summary", "Summary", KINDS["long text"], "f1")
PEOPLE = Field("authors", "Authors", KINDS["people"], "f2")
FILES = Field("files", "Files", KINDS["files"], "f3")
STATUS = Field("status", "Status", KINDS["choice"], "f4")
TAGS = Field("tags", "Tags", KINDS["choices"], "f5")
FIELDS = (TITLE, TEXT, PEOPLE, FILES, STATUS, TAGS)


@pytest.fixture(scope="module")
def reading() -> Reading:
    return read_page(Page("https://www.mills.example/news/2024/a-mill?utm_source=x", HTML, "file"))


@pytest.fixture
def context(reading: Reading) -> RuleContext:
    return RuleContext(reading, NOW, "Sources", MARKS)


def given(rule: Rule, context: RuleContext, field: Field = TEXT) -> tuple[object, str]:
    found = give(rule, context, field)
    return found.value, found.origin


def test_findings_fall_back_in_order_and_reach_all_that_the_page_declares(context: RuleContext) -> None:
    assert given(Rule("finding", ("subtitle", "site")), context) == ("Mills of the Shore", "meta tag og:site_name")
    assert given(Rule("finding", ("tide",)), context) == ("ebb", "meta tag tide")
    assert given(Rule("finding", ("citation_doi",)), context)[0] == "10.5555/mill.1"
    assert given(Rule("finding", ("Article.isPartOf.volumeNumber",)), context) == (
        "7",
        "structured data Article.isPartOf.volumeNumber",
    )
    assert given(Rule("finding", ("NewsArticle.author.name",)), context, PEOPLE)[0] == ["Ada Penhallow", "Tom Varley"]
    assert given(Rule("finding", ("authors",)), context, PEOPLE)[0] == ["Penhallow, Ada", "Varley, Tom"]
    assert given(Rule("finding", ("authors",)), context)[0] == "Penhallow, Ada; Varley, Tom"
    assert given(Rule("finding", ("moon",)), context) == (None, "")


def test_marks_and_comments_of_some_kinds_are_given(context: RuleContext) -> None:
    assert given(Rule("passages"), context)[0] == "turns with the ebb\n\ntwice a day"
    assert given(Rule("passages", ("question",)), context)[0] == "twice a day"
    assert given(Rule("comments"), context) == ("So it does.", "your comment")
    assert given(Rule("comments", ("idea",)), context) == (None, "")


def test_pictures(context: RuleContext) -> None:
    assert given(Rule("picture", ("lead",)), context)[0] == "https://www.mills.example/lead.jpg"
    assert given(Rule("picture", ("icon",)), context)[0] == "https://www.mills.example/i.png"
    chosen = replace(context, picture="https://www.mills.example/other.jpg")
    assert given(Rule("picture", ("chosen",)), chosen) == ("https://www.mills.example/other.jpg", "chosen by you")
    assert "only where the page is shown" in give(Rule("picture", ("screenshot",)), context, FILES).problem
    assert given(Rule("picture", ("screenshot",)), replace(context, has_screenshot=True))[0] == SCREENSHOT


def test_a_question_is_left_to_the_person(context: RuleContext) -> None:
    template = Template("T", "", fields={"summary": Rule("question", ("my own words",))}, asks=("authors",))
    slip = fill(template, "", context, "collection:1", FIELDS)
    lines = {line.field.key: line for line in slip.lines}
    assert (lines["summary"].text, lines["summary"].is_question) == ("my own words", True)
    assert lines["authors"].is_question
    assert [line.field.key for line in slip.unanswered()] == ["authors"]
    assert slip.with_text("authors", "Ada").unanswered() == []


def test_status_tags_hidden_fields_and_files(context: RuleContext) -> None:
    template = Template(
        "T", "", fields={"tags": Rule("finding", ("keywords",)), "files": Rule("picture", ("lead",))}, status="to read",
        tags=("mine",), hides=("status",),
    )  # fmt: skip
    slip = fill(template, "", context, "collection:1", FIELDS)
    lines = {line.field.key: line for line in slip.lines}
    assert lines["tags"].text == "law; mine"
    assert (lines["status"].text, lines["status"].is_hidden) == ("to read", True)
    assert lines["files"].text == "https://www.mills.example/lead.jpg"
    assert slip.draft().values == {"status": "to read", "tags": ("law", "mine")}


@pytest.mark.parametrize(
    ("body", "marks", "text"),
    [
        (Body("content"), MARKS, "# A mill\n\nThe wheel turns with the ebb, twice a day."),
        (Body("marks"), MARKS, "> turns with the ebb\n\nSo it does.\n\n> twice a day"),
        (Body("marks or content"), (), "# A mill\n\nThe wheel turns with the ebb, twice a day."),
        (Body("nothing", "## {{ page.site }}", "End"), (), "## Mills of the Shore\n\nEnd"),
        (Body("nothing", "{% for m in marks %}{{ loop.index }} {{ m.text }} {% endfor %}"), MARKS, "1 turns with the ebb 2 twice a day "),
    ],
)  # fmt: skip
def test_texts(context: RuleContext, body: Body, marks: tuple[Mark, ...], text: str) -> None:
    slip = fill(Template("T", body=body), "", replace(context, marks=marks), "collection:1", FIELDS)
    assert (slip.body, slip.body_problem) == (text, "")


def test_a_kind_of_page_may_have_a_text_of_its_own_and_a_fault_is_said(context: RuleContext) -> None:
    template = Template("T", bodies={"article": Body("nothing", "Only this"), "video": Body("marks")})
    assert fill(template, "", context, "collection:1", FIELDS).body == "Only this"
    faulty = fill(Template("T", body=Body("content", "{{ 1 / 0 }}")), "", context, "collection:1", FIELDS)
    assert "division by zero" in faulty.body_problem
    assert "The wheel turns" in faulty.body


@pytest.mark.parametrize(
    ("line", "takes"),
    [
        ("host is mills.example", True), ("host is ills.example", False), ("HOST IS mills.example", True),
        ("address begins with mills.example/news", True), ("address begins with mills.example/shop", False),
        ("address matches https://*.example/news/:year/*", True), ("address matches /news/*", True),
        ("address matches https://*.example/news/:year(\\d{2})/*", False), ("structured type is newsarticle", True),
        ("structured type is Product", False), ("finding citation_doi exists", True), ("finding price exists", False),
        ("finding site is mills of the shore", True), ("finding site is Mills", False), ("language is en", True),
        ("language is de", False), ("any page", True), ("host is mills.example and language is de", False),
        ("structured type is NewsArticle and finding tide is ebb", True),
    ],
)  # fmt: skip
def test_match_rules(reading: Reading, line: str, takes: bool) -> None:
    rule = read_rule(line)
    assert rule.takes(reading) is takes
    assert read_rule(str(rule)) == rule


@pytest.mark.parametrize(
    "line", ["hots is mills.example", "", "address matches https://[", "finding", "the moon is full"]
)
def test_a_faulty_match_rule_names_the_nearest_form(line: str) -> None:
    with pytest.raises(UserError, match=r"Did you mean|Rules are written|Write it like"):
        read_rule(line)


def test_the_first_template_that_is_on_is_chosen(reading: Reading) -> None:
    off = Template("Off", match=(read_rule("any page"),), is_on=False)
    on = Template("On", match=(read_rule("host is mills.example and language is en"),))
    assert choose([off, on], reading) == Choice(on, "the host is mills.example and the language is en")


@pytest.mark.parametrize(
    ("expression", "said", "marked"),
    [
        ("page.tilte", "Did you mean title?", "tilte"), ("page.title | uper", "Did you mean upper?", "uper"),
        ("pgae.title", "Did you mean page?", "pgae"), ("page.title |", "cannot be read", ""),
        ("{{ page.title }} {{ found.x | slgu }}", "Did you mean slug?", "slgu"),
        ("{% for one in marks %}{{ one.text }}{% endfor %}{{ two }}", "asks for the name “two”", "two"),
    ],
)  # fmt: skip
def test_a_mistake_is_shown_at_its_place_with_the_nearest_name(expression: str, said: str, marked: str) -> None:
    with pytest.raises(Mistake) as told:
        check(expression, "Published")
    assert said in str(told.value)
    assert not marked or expression[told.value.start : told.value.stop] == marked


BLOW_UPS = [
    "('a' * 30) | regex('(a+)+$')", "page.text | regex_replace('(x+x+)+y', '')", "('x' | replace('x', 'y')) | regex('[')",
    "{% for a in page.text %}{% for b in page.text %}{% for c in page.text %}{% for d in page.text %}{{ a }}{{ b }}{% endfor %}"
    "{% endfor %}{% endfor %}{% endfor %}", "{% set x = page.text %}{% for a in x %}{% for b in x %}{{ x }}{{ x }}{% endfor %}{% endfor %}",
    "(" * 100 + "1" + ")" * 100, "[" * 5000 + "]" * 5000, "{{ '" + "x" * 25_000 + "' }}", "page.text | items(1, 2, 3)",
    "every | join | replace('', every | join)", "now | date('%Z')", "{% include 'x' %}", "{% import 'os' as os %}{{ os }}",
    "{% macro f(x) %}{{ f(x) }}{% endmacro %}{{ f(1) }}", "{% extends 'x' %}", "page.text | regex('a' ~ ('(a*)*' ~ '(a*)*') ~ 'b')",
]  # fmt: skip


@pytest.mark.parametrize("expression", BLOW_UPS, ids=range(len(BLOW_UPS)))
def test_what_would_never_end_ends_in_time_with_a_sentence(reading: Reading, expression: str) -> None:
    text = "a" * 28 + "!" + "x" * 40 + "word " * 400
    long = replace(reading, content=replace(reading.content, text=text))
    start = time.monotonic()
    try:
        check(expression, "Summary")
        value = str(evaluate(expression, RuleContext(long, NOW)).value)
        assert len(value) <= 1_000_000
    except UserError as error:
        assert error.message
    assert time.monotonic() - start < 5


@pytest.mark.parametrize(
    ("pattern", "path"),
    [
        ("{{ page.site }}/{{ title }}", "Mills of the Shore/A mill what why"), ("{{ '../../etc' }}/x", "Untitled/Untitled/etc/x"),
        ("", ""), ("Letters/{{ now | date('year') }}", "Letters/2026"), ("/abs/{{ title }}", "abs/A mill what why"),
    ],
)  # fmt: skip
def test_names_of_notes_stay_inside_their_folder(context: RuleContext, pattern: str, path: str) -> None:
    slip = fill(Template("T", note_name=pattern), "", context, "notes:1", FIELDS)
    assert slip.note_path("A mill: what / why?") == path


def test_a_correction_becomes_a_rule(context: RuleContext) -> None:
    template = Template(
        "T", fields={"summary": Rule("finding", ("subtitle",)), "authors": Rule("finding", ("authors",))}
    )
    slip = fill(template, "", context, "collection:1", FIELDS)
    assert slip.with_text("summary", "Mills of the Shore").rule_now("summary") == Rule("finding", ("site", "subtitle"))
    assert slip.with_text("summary", "My own").rule_now("summary") == Rule("fixed", ("My own",))
    assert slip.with_text("summary", "ebb").rule_now("summary") == Rule("finding", ("tide", "subtitle"))
    other = slip.lines[0].others[0] if slip.lines[0].others else None
    if other is not None:
        assert slip.with_text("title", other.value, other.origin).rule_now("title").source == "finding"


def test_a_value_is_named_so_that_a_rule_finds_it_again(context: RuleContext) -> None:
    for finding in context.offers:
        found = context.look_up(context.name_for(finding))
        assert finding.value in [one.value for one in found], finding
