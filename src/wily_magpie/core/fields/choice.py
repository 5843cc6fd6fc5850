"""One option of a list, and several."""

from wily_magpie.core.fields.base import (
    BLANKNESS,
    CHOICE_SIGNS,
    MANY_RELATIONS,
    MANY_SIGNS,
    FieldKind,
    Relation,
    Value,
    as_line,
)


class Choice(FieldKind):
    """One option. An unknown name is read too: it becomes a new option when it is kept."""

    name = "choice"
    has_options = has_spine = is_told = True
    group_steps = ("",)
    order_words = ("first", "last")
    signs = CHOICE_SIGNS
    relations = (Relation.IS, Relation.IS_NOT, Relation.ONE_OF, Relation.SAME, *BLANKNESS)

    def read(self, text: str) -> Value:
        return as_line(text) or None


class Choices(FieldKind):
    """Several options, in the order given, each once; written with semicolons between them (commas also do)."""

    name = "choices"
    has_options = is_completed = is_told = True
    signs = MANY_SIGNS
    relations = (*MANY_RELATIONS, Relation.SAME, *BLANKNESS)
    group_steps = ("",)
    is_many = True

    def read(self, text: str) -> Value:
        separator = ";" if ";" in text or "\n" in text else ","
        names = (as_line(name) for name in text.replace("\n", ";").split(separator))
        return tuple(dict.fromkeys(name for name in names if name)) or None

    def show(self, value: Value) -> str:
        if not isinstance(value, tuple):
            return ""
        # a lone name with a comma needs the semicolon to be read as one name again
        comma = any("," in name for name in value)
        return "; ".join(value) + (";" if comma and len(value) == 1 else "")


class NestedChoices(Choices):
    """Such as tags, whose names may be parted by slashes: who asks for one finds what stands below it too."""

    is_nested = True


CHOICE = Choice()
CHOICES = Choices()
