"""Writing Markdown by hand, as data."""

from pathlib import Path

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.entries.markdown_writing import cells_of, going_on, link_begun, tidied

CASES = yaml.safe_load((Path(__file__).parents[2] / "cases" / "writing.yaml").read_text("utf-8"))


@pytest.mark.parametrize("case", CASES["going_on"], ids=lambda case: case["line"])
def test_a_line_goes_on(case: dict[str, str]) -> None:
    found = going_on(case["line"])
    assert (found.prefix if found else None) == case.get("prefix")
    assert found is None or found.is_end == bool(case.get("is_end"))


@pytest.mark.parametrize("case", CASES["tables"], ids=lambda case: case["rows"][0])
def test_a_table_is_put_in_order(case: dict[str, list[str]]) -> None:
    assert tidied(case["rows"]) == case["tidy"]


@pytest.mark.parametrize("case", CASES["links"], ids=lambda case: case["before"])
def test_a_link_that_is_begun_is_seen(case: dict[str, str]) -> None:
    assert link_begun(case["before"]) == ((case["kind"], case["typed"]) if "kind" in case else None)


CELLS = st.text(st.characters(blacklist_characters="|\\\n\r", codec="utf-8"), max_size=8).map(str.strip)


@given(st.lists(st.lists(CELLS, min_size=1, max_size=4), min_size=2, max_size=5))
def test_cells_stay_whatever_they_hold(rows: list[list[str]]) -> None:
    lines = [f"| {' | '.join(row)} |" for row in rows]
    once = tidied(lines)
    assert tidied(once) == once
    width = max(map(len, rows))
    rule = set("-:")
    for row, line in zip(rows, once, strict=True):
        if not all(set(cell) <= rule for cell in row):
            assert cells_of(line) == [" ".join([cell]) for cell in row] + [""] * (width - len(row))
