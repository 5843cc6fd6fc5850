"""Marks that stand as quotations in a note, read back: what somebody changed among them goes to the entry, as its text does."""

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import TypeVar

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.mark import Mark, as_markdown, in_page_order, with_mark

Key = tuple[str, int]
"""A quotation, and how many like it stand before."""
PICTURE = re.compile(r"!\[(?P<said>(?:[^\[\]\\]|\\.)*)\]\((?:<(?P<apart>[^<>]+)>|(?P<address>[^()\s]+))\)")
Said = TypeVar("Said")


@dataclass(frozen=True)
class MarkChange:
    """What an entry gets: a mark in the place of another; None on either side for none."""

    old: Mark | None
    fresh: Mark | None


@dataclass(frozen=True)
class MarksTogether:
    """The marks of an entry and of its note, put together.

    Attributes:
        changes: of the entry; marks: that it has then.
        told: what both changed, in words; then nothing is changed.
    """

    changes: Sequence[MarkChange]
    marks: Sequence[Mark]
    told: Sequence[str] = ()


def read_quotations(text: str) -> list[tuple[str, str]]:
    """(quotation, comment below it) of marks as `as_markdown` writes them; what stands before the first belongs to none."""
    found: list[tuple[list[str], list[str]]] = []
    for line in text.replace("\r\n", "\n").split("\n"):
        if line.startswith(">"):
            if not found or found[-1][1]:
                found.append(([], []))
            found[-1][0].append(line.rstrip())
        elif found:
            found[-1][1].append(line)
    return [("\n".join(quoted), "\n".join(below).strip()) for quoted, below in found]


def by_key(said: Iterable[tuple[str, Said]]) -> dict[Key, Said]:
    """What belongs to quotations, by them."""
    out: dict[Key, Said] = {}
    before: Counter[str] = Counter()
    for quoted, one in said:
        out[quoted, before[quoted]] = one
        before[quoted] += 1
    return out


def quotation_of(mark: Mark) -> str:
    """A mark as it stands in a note, without its comment."""
    return as_markdown((replace(mark, comment=""),))


def put_together(base: str, ours: Sequence[Mark], theirs: str, text: str) -> MarksTogether:
    """What an entry gets of what was changed among the quotations of its note.

    Args:
        base: the quotations when both were the same; theirs: as they stand now.
        text: of the entry, in whose order its marks stand.
    """
    own = by_key((quotation_of(mark), mark) for mark in ours)
    said = {key: mark.comment.strip() for key, mark in own.items()}
    before, now = by_key(read_quotations(base)), by_key(read_quotations(theirs))
    if by_key(read_quotations(as_markdown(tuple(ours)))) != said:  # such as a comment that quotes
        changed = (
            ["The marks of the note cannot be told apart any more; they stay as they are there."]
            if now != before
            else []
        )
        return MarksTogether((), ours, changed)
    changes, told = [], []
    for key in dict.fromkeys([*now, *before]):
        was, there, here = before.get(key), now.get(key), said.get(key)
        if there in (here, was):
            continue
        if here != was:
            told.append(f"The mark {shown(key[0])} was changed on both sides; it stays as it is on either.")
        else:
            old = own.get(key)
            changes.append(MarkChange(old, None if there is None else fresh(old, key[0], there)))
    return MarksTogether((), ours, told) if told else MarksTogether(changes, after(ours, changes, text))


def fresh(old: Mark | None, quoted: str, comment: str) -> Mark:
    """A mark with another comment, or one that stands in the note alone so far."""
    if old is not None:
        return replace(old, comment=comment)
    words = "\n".join(line.removeprefix(">").removeprefix(" ") for line in quoted.split("\n")).strip()
    picture = PICTURE.fullmatch(words)
    if picture is None:
        return Mark(words, comment=comment)
    return Mark(
        re.sub(r"\\(.)", r"\1", picture["said"]), comment=comment, picture=picture["apart"] or picture["address"]
    )


def after(marks: Sequence[Mark], changes: Sequence[MarkChange], text: str) -> tuple[Mark, ...]:
    """The marks that an entry has with changes."""
    gone = {change.old.place for change in changes if change.old is not None and change.fresh is None}
    left = tuple(mark for mark in marks if mark.place not in gone)
    put = [change.fresh for change in changes if change.fresh is not None]
    for mark in put:
        left = with_mark(left, mark)
    return in_page_order(left, text) if put else left


def shown(quoted: str) -> str:
    """A quotation in a few words."""
    return f"“{short(' '.join(quoted.replace('>', ' ').split()))}”"
