"""Patterns that are compiled when they are first used do all that those of `re` do."""

import re
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core import patterns
from wily_magpie.core.fields.reference import PIECE, QUOTED
from wily_magpie.core.patterns import pattern
from wily_magpie.core.query.lexer import TOKEN, tokens

TEXTS = {"words": r"\w+", "a group": r"(?P<year>\d{4})(-\d\d)?", "choices": "mill|tide|pond", "an edge": r"\bmill\b"}
SAMPLES = ("", "the tide mill, 1871", "1890-03 and 1914", "MILL", "pond\nmill")


def told(found: Any) -> object:
    """A match by what it says; anything else as it is."""
    return (found.group(), found.span(), found.groupdict()) if isinstance(found, re.Match) else found


ASKED: dict[str, Callable[[Any, str], object]] = {
    "match": lambda one, text: told(one.match(text)),
    "fullmatch": lambda one, text: told(one.fullmatch(text)),
    "search": lambda one, text: told(one.search(text)),
    "sub": lambda one, text: one.sub("·", text),
    "subn": lambda one, text: one.subn("·", text),
    "split": lambda one, text: one.split(text),
    "findall": lambda one, text: one.findall(text),
    "finditer": lambda one, text: [told(found) for found in one.finditer(text)],
}


@pytest.mark.parametrize("name", TEXTS)
@pytest.mark.parametrize("flags", [0, re.IGNORECASE])
def test_each_method_answers_as_that_of_re(name: str, flags: int) -> None:
    assert set(ASKED) == set(patterns.METHODS)
    for method, ask in ASKED.items():
        late, plain = pattern(TEXTS[name], flags), re.compile(TEXTS[name], flags)
        for text in SAMPLES:
            assert ask(late, text) == ask(plain, text), (method, text)


def test_what_it_is_can_be_asked_and_what_it_lacks_is_said() -> None:
    late = pattern(r"(?P<year>\d{4})")
    assert (late.pattern, dict(late.groupindex)) == (r"(?P<year>\d{4})", {"year": 1})
    with pytest.raises(AttributeError):
        _ = pattern("a").no_such_thing  # type: ignore[attr-defined]


@given(st.text(alphabet='a";, \n', max_size=20))
def test_a_list_of_titles_is_cut_into_pieces_that_lack_nothing_but_their_signs(text: str) -> None:
    pieces = [found[0] for found in PIECE.finditer(text)]
    assert "".join(pieces).replace(";", "") == text.replace(";", "")
    assert all(QUOTED.fullmatch(one.strip()) or ";" not in one for one in pieces)


@given(st.text(alphabet="ab =<>/()", max_size=20))
def test_a_question_is_cut_into_tokens_in_their_order(text: str) -> None:
    found = tokens(text)
    assert found[-1].kind == "end"
    places = [one.position for one in found]
    assert places == sorted(places)
    assert all(TOKEN.match(text, one.position) for one in found[:-1])
    assert "".join(one.text for one in found) == "".join(text.split())
