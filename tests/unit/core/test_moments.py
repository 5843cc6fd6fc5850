"""Moments of films and recordings in texts."""

import pytest

from wily_magpie.core.entries.moments import chapters_of, moment, seconds_of, with_moments


@pytest.mark.parametrize(
    ("text", "seconds"),
    [("0:00", 0), ("12:30", 750), ("1:02:03", 3723), ("at 3:05, then", 185), ("2026-01-02", None), ("1:2", None)],
)
def test_a_moment_is_read(text: str, seconds: int | None) -> None:
    assert seconds_of(text) == seconds
    if seconds is not None:
        assert seconds_of(moment(seconds)) == seconds


def test_chapters_are_lines_that_begin_with_a_moment() -> None:
    text = "Of the mill.\n\n- 0:00 Opening\n- [12:30] The gate\n* 1:02:03 — Home\n\nAt 3:05 it rained.\n"
    assert chapters_of(text) == [(0, "Opening"), (750, "The gate"), (3723, "Home")]


def test_moments_lead_there_and_links_and_code_stay() -> None:
    html = '<p>At 12:30, <a href="https://m.example/1:00">1:00</a></p><pre>2:00</pre><img alt="3:00">'
    assert with_moments(html) == html.replace("At 12:30", 'At <a href="#t=750">12:30</a>')
