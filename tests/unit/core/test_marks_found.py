"""Marks are found again in texts that were edited; the table has the cases."""

from pathlib import Path

import pytest
import yaml

from wily_magpie.core.entries.mark import Mark, place_of

CASES = yaml.safe_load((Path(__file__).parents[2] / "cases" / "marks.yaml").read_text("utf-8"))


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["name"])
def test_marks_against_edited_texts(case: dict[str, str]) -> None:
    before, begun, rest = case["text"].partition("⟦")
    passage, _, behind = rest.partition("⟧")
    found = place_of(Mark(case["exact"], prefix=case["before"], suffix=case["behind"]), before + passage + behind)
    assert found == ((len(before), len(before + passage)) if begun else None)
