"""Links in double brackets are shown as links, and what is code is left alone."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.entries.note_text import plain_lines, with_plain_links


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("See [[Heron Mill]].", "See [Heron Mill](Heron%20Mill.md)."),
        ("See [[mills/Heron.md#Wheel|the wheel]]!", "See [the wheel](mills/Heron.md#Wheel)!"),
        ("[[a]] and `[[b]]` and [[c]]", "[a](a.md) and `[[b]]` and [c](c.md)"),
        ("```\n[[a]]\n```\n[[b]]\n", "```\n[[a]]\n```\n[b](b.md)\n"),
        ("~~~~\n~~~\n[[a]]\n~~~~\n[[b]]", "~~~~\n~~~\n[[a]]\n~~~~\n[b](b.md)"),
        ("![[a picture.png]] ![[b.png|300]] ![[c]]", "![a picture.png](a%20picture.png) ![](b.png) [c](c.md)"),
        ("| [[a\\|the a]] | [[b]] |", "| [the a](a.md) | [b](b.md) |"),
        ("[[#part]] [[]] [[a\nb]]", "[[#part]] [[]] [[a\nb]]"),
    ],
)
def test_double_brackets_become_links(text: str, shown: str) -> None:
    assert with_plain_links(text) == shown


@given(st.text(st.sampled_from("ab[]|#`~! \n"), max_size=60))
def test_a_text_without_whole_double_brackets_stays_as_it_is(text: str) -> None:
    text = text.replace("]]", "] ]")
    assert with_plain_links(text) == text
    assert all(text.startswith(line, at) for at, line in plain_lines(text))
