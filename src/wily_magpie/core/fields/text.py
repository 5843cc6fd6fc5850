"""Text of a line, and text of any length."""

from wily_magpie.core.fields.base import (
    BLANKNESS,
    CONTAINED,
    PARTS,
    TEXT_SIGNS,
    FieldKind,
    Relation,
    Value,
    WorkedOut,
    as_line,
)


class Text(FieldKind):
    """One line; line breaks and runs of white space become single spaces."""

    name = "text"
    is_completed = True
    group_steps = ("", "letter")
    signs = TEXT_SIGNS
    relations = (
        *PARTS, Relation.IS, Relation.IS_NOT, Relation.BEGINS, Relation.ONE_OF, Relation.SAME, *BLANKNESS,
    )  # fmt: skip

    def read(self, text: str) -> Value:
        return as_line(text) or None


class LongText(FieldKind):
    """Any number of lines, kept as typed but for white space at both ends."""

    name = "long text"
    is_long = True
    signs = CONTAINED
    relations = (*PARTS, *BLANKNESS)
    is_short = False

    def read(self, text: str) -> Value:
        return text.replace("\0", "").replace("\r\n", "\n").replace("\r", "\n").strip() or None


class Gaps(WorkedOut):
    """The completeness rules that an entry breaks, parted by semicolons."""

    name = "gaps"
    is_of_rules = is_fixed = True
    signs = CONTAINED
    relations = (Relation.NOT_EMPTY, Relation.EMPTY, *PARTS)


TEXT = Text()
LONG_TEXT = LongText()
GAPS = Gaps()
