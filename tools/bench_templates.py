"""What templates cost: a slip of 20 fields, a row of the bench for 20 samples, against the same expressions in plain Jinja."""

import sys
from collections.abc import Callable
from functools import partial

from jinja2 import Environment
from measure import by_turns, tell, timed

from wily_magpie.core.entries.field import TITLE, Field
from wily_magpie.core.fields import KINDS
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.pages.read import read_page
from wily_magpie.core.templates.bench import Cell, Sample, row
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.slip import fill
from wily_magpie.core.templates.template import Template
from wily_magpie.demo.web import page_for

RUNS, SAMPLES = 25, 20
PAGE = "http://estuary-courier.example/2025/03/14/heron-mill-turns-again"
NOW = "2026-01-01T10:00Z"
EXPRESSIONS = (
    "page.title | upper", "page.authors | first", "page.published | date('%d %B %Y')", "page.site ~ ', ' ~ page.language",
    "page.keywords | join(', ')", "page.description | truncate(80)", "found['og:title']", "data.Article.author.name | first",
    "page.text | sentences(2)", "page.address | host",
)  # fmt: skip
FINDINGS = (
    "authors",
    "published",
    "site",
    "description",
    "language",
    "image",
    "keywords",
    "kind",
    "modified",
    "address",
)


def bench_templates() -> None:
    """Prints the figures."""
    answer = page_for(PAGE)
    if answer is None:
        sys.exit("bench: the stand-in web has no such page")
    reading = read_page(Page(PAGE, answer.content.decode(), "fetched"))
    fields = [TITLE, *(Field(f"f{n}", f"Field {n}", KINDS["long text"], f"f{n}") for n in range(20))]
    rules = [Rule("expression", (text,)) for text in EXPRESSIONS] + [Rule("finding", (name,)) for name in FINDINGS]
    template = Template("Bench", fields={field.key: rule for field, rule in zip(fields[1:], rules, strict=True)})
    plain = Environment()  # noqa: S701 - a floor, which renders nothing
    plain.filters.update(date=lambda v, _f: v, sentences=lambda v, _n: v[:80], host=lambda v: v)
    floor = [plain.compile_expression(text) for text in EXPRESSIONS]
    names = plain_names(reading)
    found = by_turns(
        RUNS,
        slip=timed(lambda: fill(template, "", RuleContext(reading, NOW), "collection:1", fields)),
        floor=timed(lambda: [one(**names) for one in floor]),
    )
    tell(
        "a slip of 20 fields",
        found["slip"],
        found["floor"],
        "its 10 expressions in plain Jinja",
        "under 10 ms",
    )
    for at in (2, 8, 11):
        text = rules[at - 1].text
        one = (
            plain.compile_expression(text)
            if rules[at - 1].source == "expression"
            else plain.compile_expression("page.title")
        )
        many = by_turns(
            RUNS,
            row=timed(partial(fresh_row, template, fields[at], reading)),
            floor=timed(partial(repeated, one, names)),
        )
        tell(
            f"a row of 20 samples: {text}",
            many["row"],
            many["floor"],
            "the same in plain Jinja",
            "under 100 ms",
        )


def fresh_row(template: Template, field: Field, reading: Reading) -> list[Cell]:
    """A row for samples of which nothing was worked out yet."""
    return row(template, field, [Sample(n, f"Page {n}", RuleContext(reading, NOW)) for n in range(SAMPLES)])


def repeated(one: Callable[..., object], names: dict[str, object]) -> None:
    """An expression for as many samples."""
    for _ in range(SAMPLES):
        one(**names)


def plain_names(reading: Reading) -> dict[str, object]:
    """What the expressions ask for, as bare values."""
    best = {name: found[0].value for name, found in reading.by_name.items()}
    page = {
        **best,
        "authors": list(reading.authors),
        "keywords": ["a", "b"],
        "text": reading.content.text,
        "address": PAGE,
    }
    return {
        "page": page,
        "found": {**best, "og:title": "x"},
        "data": {"Article": {"author": {"name": ["a"]}}},
        "now": NOW,
    }
