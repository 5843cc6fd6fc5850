"""What docs/templates.md says of expressions is so, and complete; docs/template.schema.json describes what is written."""

import json
import re
from pathlib import Path

import jsonschema
import pytest

from wily_magpie.core.entries.insert_position import InsertPosition, NoteTarget
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.page import Page
from wily_magpie.core.templates.apart import check, evaluate
from wily_magpie.core.templates.expressions import NAMES, environment
from wily_magpie.core.templates.match import TESTS, read_rule
from wily_magpie.core.templates.open_form import from_plain, to_plain
from wily_magpie.core.templates.rule_context import KNOWN_NAMES, RuleContext
from wily_magpie.core.templates.rules import PICTURES, SOURCES, Rule
from wily_magpie.core.templates.starters import starters
from wily_magpie.core.templates.template import Body, Template

DOCS = Path(__file__).parents[3] / "docs"
MANUAL = (DOCS / "templates.md").read_text("utf-8")
SCHEMA = json.loads((DOCS / "template.schema.json").read_text("utf-8"))
HTML = """<html><head><title>The mill</title><script type="application/ld+json">{"@type": "Product", "name": "The mill",
"author": ["Ada Penhallow", "Tom Varley"], "offers": {"price": "1,250.50", "priceCurrency": "GBP"},
"datePublished": "2024-05-06T10:00Z"}</script><meta name="keywords" content="law, tides"></head><body><h1>The mill</h1>
<p>Text.</p></body></html>"""


def cells(line: str) -> list[str]:
    """The cells of a row of a table."""
    return [cell.strip().replace("\\|", "|") for cell in re.split(r"(?<!\\)\|", line)[1:-1]]


def table(after: str) -> list[list[str]]:
    """The rows of the first table behind a text."""
    lines = MANUAL[MANUAL.index(after) :].splitlines()
    start = next(at for at, line in enumerate(lines) if line.startswith("|")) + 2
    rows = []
    for line in lines[start:]:
        if not line.startswith("|"):
            break
        rows.append(cells(line))
    return rows


FILTERS = table("### Filters")
EXAMPLES = [(row[1].strip("`"), row[2].strip("`").replace("⏎", "\n")) for row in FILTERS]


@pytest.mark.parametrize(("example", "gives"), EXAMPLES, ids=[example for example, _ in EXAMPLES])
def test_every_example_gives_what_the_manual_says(example: str, gives: str) -> None:
    check(example, "an example")
    reading = read_page(Page("https://mills.example/mill", HTML, "file"))
    assert str(evaluate(example, RuleContext(reading, "2026-01-02T03:04Z")).value) == gives


def test_the_manual_names_every_filter_name_rule_and_match_rule() -> None:
    assert {row[0].strip("`") for row in FILTERS if row[0]} == set(environment().filters)
    assert {row[0].strip("`") for row in table("| name | is |\n|---|---|\n| `page`")} == set(NAMES)
    assert {row[0].strip("`") for row in table("| `page.` | is |")} == set(KNOWN_NAMES)
    forms = [json.loads(row[1].strip("`")) for row in table("| rule | in the open form |") if row[1] != "no rule"]
    assert [next(iter(form)) for form in forms] == list(SOURCES)
    lines = [row[0].strip("`") for row in table("| line | takes |")]
    used = {condition.test for line in lines for condition in read_rule(line).conditions}
    assert used == set(TESTS)


def test_what_is_written_fits_the_schema() -> None:
    full = Template(
        "All of it", "Notebook", (read_rule("host is mills.example and language is en"),), Rule("expression", ("page.title",)),
        {name: Rule(name, {"picture": (PICTURES[0],), "expression": ("now",)}.get(name, ("title",))) for name in SOURCES},
        Body("marks or content", "before", "{{ page.site }}"), {"video": Body("nothing")}, NoteTarget("", InsertPosition("Links", "top", 2)),
        "{{ title }}", ("summary",), ("language",), ("summary", "title"), "to read", ("law",), keeps_pictures=False, opens=True, is_on=False,
    )  # fmt: skip
    for template in (full, *starters()):
        plain = to_plain(template)
        jsonschema.validate(plain, SCHEMA)
        assert from_plain(json.loads(json.dumps(plain))) == template
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({"name": "x", "moon": "full"}, SCHEMA)
