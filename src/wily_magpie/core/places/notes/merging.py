"""Two texts made of the same one: put together where they changed different parts."""

from merge3 import Merge3


def merge(base: str, ours: str, theirs: str) -> str | None:
    """Both changes in one text; None where they changed the same lines differently."""
    if theirs in (ours, base):
        return ours
    if ours == base:
        return theirs
    merged = Merge3(base.splitlines(True), ours.splitlines(True), theirs.splitlines(True))
    lines: list[str] = []
    for group in merged.merge_groups():
        if group[0] == "conflict":
            return None
        lines += group[1]
    return "".join(lines)
