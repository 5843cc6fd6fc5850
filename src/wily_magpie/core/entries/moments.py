"""Moments of films and recordings, as texts write them: 12:30 or 1:02:03; and the chapters that a text tells."""

import re

from wily_magpie.core.entries.html_words import with_words

MOMENT = "#t="
"""Begins the address of a moment; seconds follow."""
TIME = re.compile(r"(?<![\d:])(?:(\d{1,2}):)?(\d{1,2}):(\d\d)(?![\d:])")
CHAPTER = re.compile(rf"^[ \t>*+-]*\[?({TIME.pattern})\]?[ \t–—:-]*(\S[^\n]*)$", re.MULTILINE)


def seconds_of(text: str) -> int | None:
    """The moment that a text such as 1:02:03 names; None where it names none."""
    found = TIME.search(text)
    return int(found[1] or 0) * 3600 + int(found[2]) * 60 + int(found[3]) if found is not None else None


def moment(seconds: int) -> str:
    """A moment as people write it."""
    hours, rest = divmod(seconds, 3600)
    return f"{hours}:{rest // 60:02}:{rest % 60:02}" if hours else f"{rest // 60}:{rest % 60:02}"


def chapters_of(text: str) -> list[tuple[int, str]]:
    """The lines of a text that begin with a moment, as (seconds, what begins there)."""
    found = ((seconds_of(one[1]), one[one.re.groups].strip()) for one in CHAPTER.finditer(text))
    return [(seconds, words) for seconds, words in found if seconds is not None]


def with_moments(html: str) -> str:
    """Sanitised HTML whose moments lead there: their addresses are fragments of media, “#t=750” (W3C Media Fragments URI 1.0)."""
    return with_words(html, lambda text: TIME.sub(linked, text), ("a", "pre", "code"))


def linked(found: re.Match[str]) -> str:
    """A moment as a link to it."""
    return f'<a href="{MOMENT}{seconds_of(found[0])}">{found[0]}</a>'
