"""What a page says today, held against the entry that was kept from it: what would replace what, each to be chosen.

A value or a block that came from the page as it was kept may be replaced; what is not in that page is a person's own, and
is never proposed for loss.
"""

from collections.abc import Collection, Iterator, Sequence
from difflib import SequenceMatcher

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.note_text import plain_lines
from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import FieldKind
from wily_magpie.core.templates.rules import BY_TEMPLATE
from wily_magpie.core.templates.slip import Slip, SlipField

BODY = ""
"""The key of changes of the text."""
NEVER = ("captured",)
"""Fields that tell of the capture rather than of the page."""


@dataclass(frozen=True)
class Change:
    """One thing that could be another.

    Attributes:
        key: of the field; BODY for a part of the text.
        now, then: before and after; "" for nothing.
        is_proposed: whether it is chosen unless the person says otherwise.
        start, end: of the text, the blocks that would be replaced.
    """

    key: str
    label: str
    now: str
    then: str
    is_proposed: bool
    start: int = 0
    end: int = 0


@dataclass(frozen=True)
class PageUpdate:
    """All that could be another, and the entry's text in blocks."""

    changes: tuple[Change, ...]
    blocks: tuple[str, ...]

    @property
    def proposed(self) -> frozenset[int]:
        """The numbers of those that are chosen at first."""
        return frozenset(at for at, one in enumerate(self.changes) if one.is_proposed)

    def texts(self, chosen: Collection[int]) -> dict[str, str]:
        """The chosen values, as they are edited, by key."""
        return {one.key: one.then for at, one in enumerate(self.changes) if at in chosen and one.key != BODY}

    def body(self, chosen: Collection[int]) -> str | None:
        """The text with the chosen changes; None where none of it is chosen."""
        wanted = [one for at, one in enumerate(self.changes) if at in chosen and one.key == BODY]
        blocks = list(self.blocks)
        for one in reversed(wanted):
            blocks[one.start : one.end] = blocks_of(one.then)
        return "\n\n".join(blocks) if wanted else None


@dataclass(frozen=True)
class ChosenUpdate:
    """An update with the numbers of the changes that are to be made."""

    update: PageUpdate
    chosen: Collection[int]

    @property
    def texts(self) -> dict[str, str]:
        """The chosen values, as they are edited, by key."""
        return self.update.texts(self.chosen)

    @property
    def body(self) -> str | None:
        """The text with the chosen changes; None where none of it is chosen."""
        return self.update.body(self.chosen)


def blocks_of(body: str) -> list[str]:
    """A Markdown text parted at its blank lines; a fenced piece of code is one block."""
    out, begin = [], 0
    for start, line in plain_lines(body):
        if not line.strip():
            out.append(body[begin:start])
            begin = start + len(line)
    return [one.strip("\r\n") for one in [*out, body[begin:]] if one.strip()]


def update_of(slip: Slip, page: Slip, before: Slip | None) -> PageUpdate:
    """What of a page would replace what of the entry that is kept from it already.

    Args:
        slip: of the entry as it is, with what the person typed on it.
        page: what the page as it is today gives by itself; before: the same of the page as it was kept, None where no copy of
            it is there.
    """
    old = {line.field.key: line.text for line in before.lines} if before is not None else {}
    today = {line.field.key: line for line in page.lines}
    found = [field_change(line, today[line.field.key], old) for line in slip.lines if line.field.key in today]
    blocks = blocks_of(slip.body)
    from_page = {plain(one) for one in blocks_of(before.body)} if before is not None else set()
    changes = [one for one in found if one is not None]
    return PageUpdate((*changes, *text_changes(blocks, blocks_of(page.body), from_page)), tuple(blocks))


def field_change(line: SlipField, today: SlipField, old: dict[str, str]) -> Change | None:
    """What the page would change of a line; None for nothing."""
    kind, key, now = line.field.kind, line.field.key, line.text
    is_set = bool(now.strip())
    if key in NEVER or kind.holds_files or not today.text.strip() or (today.origin == BY_TEMPLATE and is_set):
        return None
    then, is_replaceable = today.text, not is_set or old.get(key) == now
    if kind.is_many and is_set:
        # what the page says since; else what the person took out of what it said before, which is not proposed
        since = both(kind, now, today.text, without=old.get(key, today.text))
        then, is_replaceable = (since, True) if since != now else (both(kind, now, today.text), False)
    if then == now or is_same(kind, now, then):
        return None
    return Change(key, line.field.label, now, then, is_replaceable and not line.is_typed)


def is_same(kind: FieldKind, now: str, then: str) -> bool:
    """Whether two texts are one value."""
    try:
        return kind.read(now) == kind.read(then)
    except UnreadableValue:
        return False


def both(kind: FieldKind, now: str, then: str, *, without: str = "") -> str:
    """The values of a field of many, with those of the page that are neither among them nor to be left away."""
    try:
        there, fresh, away = (kind.read(text) or () for text in (now, then, without))
    except UnreadableValue:
        return now
    if not isinstance(there, tuple) or not isinstance(fresh, tuple) or not isinstance(away, tuple):
        return now
    more = tuple(one for one in fresh if one not in there and one not in away)
    return kind.show((*there, *more)) if more else now


def text_changes(now: Sequence[str], then: Sequence[str], from_page: Collection[str]) -> Iterator[Change]:
    """The blocks that would be others, from the first to the last; of several in a row each with the one in its place."""
    matcher = SequenceMatcher(None, [plain(one) for one in now], [plain(one) for one in then], autojunk=False)
    for what, start, end, first, last in matcher.get_opcodes():
        if what == "equal":
            continue
        for at in range(max(end - start, last - first)):
            before = now[start + at] if start + at < end else ""
            after = then[first + at] if first + at < last else ""
            is_own = bool(before) and plain(before) not in from_page
            yield Change(BODY, "Text", before, after, not is_own, min(start + at, end), min(start + at + 1, end))


def plain(block: str) -> str:
    """A block as it is compared: white space does not matter."""
    return " ".join(block.split())
