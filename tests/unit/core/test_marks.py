"""Marks are found again in a text by their words and what stands around them."""

from pathlib import Path

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.entries.mark import Mark, place_of, proposal

WORDS = st.lists(st.sampled_from(["ebb", "mill", "the", "tide", "é", "🌊", "(a)", "*b*"]), min_size=1, max_size=6)
CASES = yaml.safe_load((Path(__file__).parents[2] / "cases" / "marks.yaml").read_text("utf-8"))
SPACES = st.sampled_from([" ", "\n", "\u00a0", "  \n"])


@given(st.lists(WORDS, min_size=1, max_size=12), st.data())
def test_a_passage_is_found_again_whatever_its_white_space(parts: list[list[str]], data: st.DataObject) -> None:
    text = data.draw(SPACES).join(data.draw(SPACES).join(words) for words in parts)
    words = data.draw(st.sampled_from(parts))
    found = place_of(Mark(data.draw(SPACES).join(words)), text)
    assert found is not None
    assert text[found[0] : found[1]].split() == words


def test_of_several_places_the_letters_around_decide() -> None:
    text = "At Wick the mill turns. At Heron the mill turns. At Pell the mill stands."
    places = [place_of(Mark("the mill", prefix=before, suffix=behind), text) for before, behind in (
        ("At Wick ", " turns"), ("Heron\n", " tur"), ("", " stands."), ("", ""))]  # fmt: skip
    assert [place and text[: place[0]].rsplit(maxsplit=1)[-1] for place in places] == ["Wick", "Heron", "Pell", "Wick"]


def test_what_does_not_stand_there_is_not_found() -> None:
    assert place_of(Mark("the flood"), "The ebb.") is None
    assert place_of(Mark(" \n"), "The ebb.") is None


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["name"])
def test_marks_against_edited_texts(case: dict[str, str]) -> None:
    before, begun, rest = case["text"].partition("⟦")
    passage, _, behind = rest.partition("⟧")
    found = place_of(Mark(case["exact"], prefix=case["before"], suffix=case["behind"]), before + passage + behind)
    assert found == ((len(before), len(before + passage)) if begun else None)


PROPOSALS = [
    ("The mill was raised in 1299 by the monks.", "The weir was raised in 1298 by the monks", "", "", "The mill was raised in 1299 by the monks"),
    ("Before it all came a line of words. Now it says: quite else. And then the story goes on and on.", "it said another thing",
     "Before it all came a line of words. Now ", ". And then the story goes on and on.", "it says: quite else"),
    ("Nothing of the kind is told here at all.", "The weir was raised in 1298", "", "", None),
    ("", "The weir", "", "", None),
]  # fmt: skip


@pytest.mark.parametrize(("text", "exact", "before", "behind", "now"), PROPOSALS)
def test_where_a_lost_mark_may_stand_now(text: str, exact: str, before: str, behind: str, now: str | None) -> None:
    found = proposal(Mark(exact, "idea", "mine", before, behind), text)
    assert (found.exact if found is not None else None) == now
    if found is not None:
        assert (found.kind, found.comment) == ("idea", "mine")
        assert place_of(found, text) is not None
