"""Names that are not there yet are told before they are made."""

import pytest

from wily_magpie.core.fields import KINDS
from wily_magpie.core.fields.new_names import new_names


@pytest.mark.parametrize(
    ("kind", "text", "known", "said"),
    [
        ("people", "Wenna Strik", ["Strick, Wenna"], ["new: Strik, Wenna; did you mean Strick, Wenna?"]),
        ("people", "Wenna Strick; Jory Pell", ["Strick, Wenna"], ["new: Pell, Jory"]),
        ("choices", "tides; Law", ["tides", "law"], []),
        ("choice", "to raed", ["to read", "read"], ["new: to raed; did you mean to read?"]),
        ("choices", "tides", [], []),
        ("choices", "tides", [f"name {number}" for number in range(1_900)], []),
    ],
)
def test_new_names_are_told_with_the_nearest(kind: str, text: str, known: list[str], said: list[str]) -> None:
    assert [one.said() for one in new_names(KINDS[kind], text, known)] == said
