"""Two texts made of the same one: put together where they changed different parts."""

from collections.abc import Sequence
from difflib import SequenceMatcher

from wily_magpie.core.entries.living_list import outside_of


def merged_texts(opened: str, ours: str, theirs: str) -> tuple[str | None, bool]:
    """Two texts of a note put together, and whether somebody else had a part in it; None where they changed the same lines.

    What the program itself filled into living lists meanwhile is nobody's change: it is filled again behind ours.
    """
    base, other = (text.strip("\r\n").replace("\r\n", "\n") for text in (opened, theirs))
    own = ours.strip("\n")
    if other != base and "<!--" in other and outside_of(other) == outside_of(base):
        return own, False
    merged = merge(opened.replace("\r\n", "\n"), own, other)
    return merged, other not in (opened.replace("\r\n", "\n"), merged)


def merge(base: str, ours: str, theirs: str) -> str | None:
    """Both changes in one text; None where they changed the same lines, or lines side by side, differently."""
    if theirs in (ours, base):
        return ours
    if ours == base:
        return theirs
    before = base.splitlines(keepends=True)
    edits = sorted({*edits_of(before, ours), *edits_of(before, theirs)})
    out: list[str] = []
    at = 0
    for number, (start, end, lines) in enumerate(edits):
        if number and start <= edits[number - 1][1]:
            return None
        out += [*before[at:start], *lines]
        at = end
    return "".join([*out, *before[at:]])


def edits_of(before: Sequence[str], text: str) -> list[tuple[int, int, tuple[str, ...]]]:
    """What was changed, as (start, end, new lines)."""
    after = text.splitlines(keepends=True)
    found = SequenceMatcher(None, before, after, autojunk=False).get_opcodes()
    return [(start, end, tuple(after[low:high])) for tag, start, end, low, high in found if tag != "equal"]
