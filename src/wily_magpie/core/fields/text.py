"""Text of a line, and text of any length."""

from wily_magpie.core.fields.base import BLANKNESS, FieldKind, Relation, Value


class Text(FieldKind):
    """One line; line breaks and runs of white space become single spaces."""

    name = "text"
    relations = (Relation.CONTAINS, Relation.IS, Relation.IS_NOT, *BLANKNESS)

    def read(self, text: str) -> Value:
        return " ".join(text.replace("\0", "").split()) or None


class LongText(FieldKind):
    """Any number of lines, kept as typed but for white space at both ends."""

    name = "long text"
    relations = (Relation.CONTAINS, *BLANKNESS)

    def read(self, text: str) -> Value:
        return text.replace("\0", "").replace("\r\n", "\n").replace("\r", "\n").strip() or None


TEXT = Text()
LONG_TEXT = LongText()
